/// What the artist does on the stage: its scene is part of the study, and what is chosen on it is not.
#pragma once

#include <QObject>
#include <functional>
#include <optional>
#include <string>

#include "app/desk.h"
#include "core/pose/library.h"
#include "core/stage/scene.h"

namespace hscaffold::app {

class StageWork : public QObject {
  Q_OBJECT
 public:
  explicit StageWork(Desk& desk, QObject* parent = nullptr);

  /// As the study has it; an empty one if nobody was on the stage.
  [[nodiscard]] const stage::Scene& scene() const;
  /// Any change of it, as one step. With `merge`, changes of the same key join until `seal`.
  void edit(const QString& name, const std::function<void(stage::Scene&)>& edit, const std::string& merge = {});
  void seal();

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
  /// A set in place of what is there.
  void takeSet(const stage::NamedScene& set);
  /// Has the chosen figure take this pose, facing where it faces. @return whether a figure is chosen
  bool givePose(const pose::NamedPose& pose);
  void removeSelected();
  void duplicateSelected();

  void fitEye();
  void keepShot();
  void takeShot(std::size_t shot);
  void removeShot(std::size_t shot);

  /// Figures of the selected pose guide, put onto the stage with the eye that saw them.
  [[nodiscard]] bool canLift() const;
  void liftFigures();

  /// What the scene shows in words, at the end of the prompt.
  void addWords();
  /// Pose, depth and lines of the scene as guides of the study, in one step. Guides of the same names are brought up to
  /// date; one that was given another name stays as it is.
  void useOnBench();
  /// The shaded scene as a reference, and its light as a tone guide, in the same way.
  void useLight();

 signals:
  void changed();
  void said(const QString& sentence);

 private:
  void put(const QString& name, std::string what, std::variant<stage::Person, stage::Beast, stage::Prop> is);
  Desk& desk_;
  std::string selected_;
  mutable std::string readText_;
  mutable stage::Scene read_;
};

}  // namespace hscaffold::app
