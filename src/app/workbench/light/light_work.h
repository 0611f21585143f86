/// What the artist does on the light table of the selected tone guide.
#pragma once

#include <QObject>
#include <QPointF>
#include <functional>
#include <optional>

#include "app/workbench/followed_piece.h"
#include "core/tone/light_table.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;
class TaskRunner;

class LightWork : public QObject {
  Q_OBJECT
 public:
  LightWork(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent = nullptr);

  /// Whether the selected guide has a light table.
  [[nodiscard]] bool takesLight() const;
  [[nodiscard]] Size frame() const;
  /// The table as it lies in the frame now; an empty one if nothing is on it.
  [[nodiscard]] light::LightTable table() const;
  /// The same; null if nothing is on it.
  [[nodiscard]] std::shared_ptr<const light::LightTable> kept() const;
  /// Any change of it, as one step. With `merge`, changes of the same key join until the study is sealed.
  void edit(const QString& name, const std::function<void(light::LightTable&)>& edit, const std::string& merge = {});
  void seal();

  /// Shows the map as it would be; nothing is kept of it.
  void showWith(const std::function<void(light::LightTable&)>& edit);
  void endShowing();
  /// Between the two.
  [[nodiscard]] bool showing() const { return showing_; }

  /// The light that is taken hold of, by its place in the table.
  [[nodiscard]] std::optional<std::size_t> selected() const;
  void select(std::optional<std::size_t> light);
  void removeSelected();
  /// Puts it over (1) or under (-1) the next one.
  void moveSelected(int by);
  void duplicateSelected();
  /// Puts one on top and takes hold of it.
  void add(const QString& name, light::Light light);
  /// A brush's stroke: into the light that is taken hold of, if that is a brush of this kind, else into a new one.
  /// @return where it goes to in `table`, which gets a new one if it must
  std::size_t brushIn(light::LightTable& table) const;
  void paint(const light::Stroke& stroke);
  void takeAway(const light::Stroke& stroke);

  void setHour(const light::Hour& hour);
  void clear();

  /// How near things are: taken from a depth guide of the study, or guessed from the reference where there is none.
  [[nodiscard]] bool hasRelief() const;
  [[nodiscard]] bool canTakeRelief() const;
  [[nodiscard]] QString reliefName() const;
  void takeRelief();
  void dropRelief();

  /// What the next things are made with.
  struct Next {
    double softness = 0.7, strength = 0.45, light = 0.6, spread = 30, nearest = 1;
    int count = 7;
    bool shadow = false;  ///< the brush in hand darkens
    bool aside = false;
    std::optional<light::Hue> hue, endHue;
  };
  Next next;
  /// Of what is taken hold of, if it has such a thing; or of what comes next.
  [[nodiscard]] const light::Light* selectedLight() const;
  void changeSelected(const QString& name, const std::function<void(light::Light&)>& change, const std::string& merge);

 signals:
  void changed();
  void said(const QString& sentence);

 private:
  [[nodiscard]] const Guide* guide() const;
  [[nodiscard]] light::LightTable edited(const std::function<void(light::LightTable&)>& edit) const;
  void keepRelief(const std::string& of, light::Relief relief);

  StudyDocument& document_;
  MapRoom& maps_;
  TaskRunner& tasks_;
  mutable FollowedPiece<light::LightTable> kept_;
  std::optional<std::size_t> selected_;
  bool showing_ = false;
  std::string guide_;  ///< that `selected_` belongs to
};

/// What a light is called where it has no name of its own.
QString nameOf(const light::Light& light);
/// In a few words: "7 rays, light 0.6".
QString sayingOf(const light::Light& light);
/// A hue as it is seen: at a middling lightness.
QColor colourOf(const light::Hue& hue);

}  // namespace hscaffold::app
