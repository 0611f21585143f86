/// What the artist does on the stage: its scene is part of the study, and what is chosen on it is not.
#pragma once

#include <QObject>
#include <QTimer>
#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <string>

#include "app/desk.h"
#include "core/pose/bvh.h"
#include "core/pose/library.h"
#include "core/stage/fastening.h"
#include "core/stage/scene.h"
#include "core/stage/study_guides.h"

namespace hscaffold::app {

/// A key point's id, or another such name, for reading.
QString readable(const std::string& id);

class StageWork : public QObject {
  Q_OBJECT
 public:
  explicit StageWork(Desk& desk, QObject* parent = nullptr);

  /// As the study has it; an empty one if nobody was on the stage.
  [[nodiscard]] const stage::Scene& scene() const;
  /// Any change of it, as one step. With `merge`, changes of the same key join until `seal`.
  void edit(const QString& name, const std::function<void(stage::Scene&)>& edit, const std::string& merge = {});
  void seal();
  /// A drag is called off: the stage is as it was when it began, and no step of it is left.
  /// @param text  of the scene, then
  void takeBack(const std::string& text);

  /// What is chosen, by its id; empty: nothing.
  [[nodiscard]] const std::string& selected() const { return selected_; }
  [[nodiscard]] const stage::Thing* selectedThing() const { return scene().thing(selected_); }
  void select(const std::string& id);
  /// The same change of what is chosen.
  void editSelected(const QString& name, const std::function<void(stage::Thing&)>& edit, const std::string& merge = {});

  /// Each puts something on the ground before the eye, and chooses it.
  void addPerson(const pose::NamedPose& pose);
  void addAnimal(stage::Animal kind);
  void addProp(stage::Prop::Form form);
  /// A thing out of a glTF file, read in the background.
  void addModel(const std::filesystem::path& file);
  /// A set in place of what is there.
  void takeSet(const stage::NamedScene& set);
  /// Has the chosen figure take this pose, facing where it faces. @return whether a figure is chosen
  bool givePose(const pose::NamedPose& pose);
  /// A frame of a motion clip for the chosen person, or for a new one. @param turn  degrees that it is seen from
  void takeClip(const pose::BvhClip& clip, std::size_t frame, const pose::BvhMapping& mapping, double turn,
                const std::string& name);
  /// A share of the way into a pose, from how the figure stands in `from`; merged until `seal`.
  void blendPose(const stage::Thing& from, const pose::NamedPose& pose, double share);
  void removeSelected();
  void duplicateSelected();
  /// Moves what is chosen, and all that is grouped with it, from where `begun` has it. What is locked stays.
  void moveSelected(const stage::Scene& begun, const stage::Vec3& by, const std::string& merge);
  void turnSelected(const stage::Scene& begun, float degrees, const std::string& merge);

  /// What the chosen figure does with itself.
  void mirrorSelected();
  void relaxSelected();
  void letDownSelected();
  /// It looks at a thing, at the eye (empty), or where its pose says.
  void lookAtThing(const std::string& thing);
  void lookNowhere();
  /// It is turned so that it faces a thing or the eye (empty).
  void face(const std::string& thing);
  /// A key point of it held where it is, on a thing (empty: on the stage), or let go.
  void pin(std::size_t point, const std::string& on);
  void unpin(std::size_t point);
  [[nodiscard]] const stage::Pin* pinOf(std::size_t point) const;
  /// Moves together with a thing from now on, or with nothing any more.
  void group(const std::string& with);
  void ungroup();
  void setLocked(bool locked);

  void fitEye();
  void keepShot();
  void takeShot(std::size_t shot);
  /// The eye as it is now in place of that shot.
  void renewShot(std::size_t shot);
  void nameShot(std::size_t shot, const QString& name);
  void removeShot(std::size_t shot);

  /// The chosen thing and what is grouped with it, or all there are, as the text of a scene; empty: there are none.
  [[nodiscard]] std::string copied() const;
  /// Takes away what `copied` gave, if something is chosen.
  void cutSelected();
  /// Puts the things of such a text beside what is there. @return whether it is one
  bool paste(const std::string& text);
  /// A scene from a file: as it is on an empty stage, otherwise its things beside what is there.
  void takeScene(const stage::Scene& taken, const QString& from);
  /// What writes the scene as it is now by the ending of a file: .json, .gltf, .png; on any thread.
  [[nodiscard]] std::function<void()> writer(const QString& path) const;
  /// What a panel shows, and what that is called.
  struct PanelShown {
    std::shared_ptr<const stage::PanelPicture> picture;
    std::string name;
  };
  /// A panel, which shows the selected reference.
  void addPanel();
  /// Has the chosen panel show a reference; without one its colour.
  void showOnPanel(const std::string& reference);
  /// A guide acts only where the chosen thing is seen now.
  void limitGuide(const std::string& guide);
  /// The hand work on a guide of the stage goes along with the chosen thing from now on, or with one of its joints
  /// (empty: with all of it).
  void fasten(const std::string& guide, const std::string& joint);
  /// It stays where it is in the frame.
  void unfasten(const std::string& guide);
  [[nodiscard]] const StudyState& study() const { return desk_.document.state(); }

  /// Figures of the selected pose guide, put onto the stage with the eye that saw them.
  [[nodiscard]] bool canLift() const;
  void liftFigures();

  /// What the scene shows in words, at the end of the prompt.
  void addWords();
  /// Pose, depth and lines of the scene as guides of the study, in one step; from then on they follow it.
  void useOnBench();
  /// Its light, as a tone guide of the shaded picture.
  void useLight();
  /// The same of some maps: ids of `stage::stageMaps`.
  void use(const std::vector<std::string>& maps);
  /// What stands on the stage, in the depth of a picture: a depth guide of its own, of the depth of that guide.
  void joinDepth(const std::string& guide);
  /// Depth guides of pictures that it can be joined with, by id.
  [[nodiscard]] std::vector<std::string> joinable() const;
  /// The guide that a map of the stage is in, frozen or not; null if there is none.
  [[nodiscard]] const Guide* guideOf(const std::string& map) const;
  /// A frozen guide stays as it is, whatever happens on the stage.
  void freeze(const std::string& map, bool frozen);
  /// While something is dragged nothing follows.
  void hold(bool held);
  /// Guides brought up to date now, if any are not. Otherwise that happens a moment after each change.
  void follow();

 signals:
  void changed();
  void said(const QString& sentence);

 private:
  struct Brought {
    std::string digest;
    std::map<std::string, stage::MadeMap> maps;
    std::vector<stage::FastenedWork> fastened;
  };
  /// What makes these maps of the stage as it is now, on any thread.
  [[nodiscard]] std::function<Brought(const StopToken&)> bringer(const std::vector<std::string>& maps);
  /// Gives maps to guides of a state, which may be made for that. @return names of guides that are somebody's by now
  QStringList give(StudyState& s, const Brought& brought, bool fresh);
  /// Has guides that are not up to date follow in a moment.
  void followSoon();
  /// Changes the chosen figure.
  void pose(const QString& name, const std::function<void(stage::Thing&)>& edit);
  /// @return whether there was room for all of them
  bool putThings(const QString& name, const stage::Scene& things, const stage::Vec3& by);
  /// A reference as panels show it, made in the background.
  void withPicture(const Reference& reference, const std::string& key,
                   const std::function<void(const PanelShown&)>& done);
  void put(const QString& name, std::string what, std::variant<stage::Person, stage::Beast, stage::Prop> is);
  Desk& desk_;
  std::string selected_;
  QTimer followLater_;
  bool held_ = false;
  int panels_ = 0;       ///< that were asked for
  bool unread_ = false;  ///< `read_` was not read from its text
  std::string merge_;    ///< of the last change that had one
  mutable std::string readText_;
  mutable stage::Scene read_;
};

}  // namespace hscaffold::app
