/// What the artist says of the depth of the selected guide: hints, and the doubtful places that ask for one.
#pragma once

#include <QObject>
#include <QPointF>
#include <functional>
#include <optional>

#include "app/workbench/followed_piece.h"
#include "core/depth/hints.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;

class DepthWork : public QObject {
  Q_OBJECT
 public:
  DepthWork(StudyDocument& document, MapRoom& maps, QObject* parent = nullptr);

  /// Whether the selected guide takes hints.
  [[nodiscard]] bool takesHints() const;
  /// Its hints as they lie in the frame now; null if there are none.
  [[nodiscard]] std::shared_ptr<const depth::Hints> hints() const;
  using List = std::vector<depth::Hint>;
  /// Any change of the hints, as one step. With `merge`, changes of the same key join until the study is sealed.
  void edit(const QString& name, const std::function<void(List&)>& edit, const std::string& merge = {});

  /// Shows the map as it would be with one more hint, or with one that is another; nothing is kept of it.
  void showWith(const std::function<void(List&)>& edit);
  void endShowing();

  [[nodiscard]] std::optional<std::size_t> selected() const;
  void select(std::optional<std::size_t> hint);
  void removeSelected();
  void removeAll();
  /// Whether the study has figures that hints could be made from.
  [[nodiscard]] bool hasFigures() const;
  /// Hints from the figures of all pose guides, as one step. @return how many
  std::size_t hintFromFigures();

  /// What the next hint will say, [0, 1].
  [[nodiscard]] double near() const { return near_; }
  void setNear(double near);
  /// Of the selected hint, if it has one; or of the next.
  void changeNear(double near);
  /// What the map shows there, and how sure it is, [0, 1].
  [[nodiscard]] std::optional<double> nearAt(QPointF place) const;
  [[nodiscard]] std::optional<double> sureAt(QPointF place) const;

  /// The doubtful place that is pointed out, and which of how many it is; none if none is.
  struct Doubt {
    QPointF at;
    int number = 1, of = 1;
  };
  [[nodiscard]] std::optional<Doubt> doubt() const;
  /// Points out the next one. @return whether there is any
  bool nextDoubt();
  void endDoubt();

 signals:
  void changed();

 private:
  [[nodiscard]] const Guide* guide() const;
  [[nodiscard]] std::vector<const Guide*> guidesWithFigures() const;
  [[nodiscard]] depth::Hints edited(const std::function<void(List&)>& edit) const;
  [[nodiscard]] std::optional<double> read(const std::shared_ptr<const Map>& map, QPointF place) const;

  StudyDocument& document_;
  MapRoom& maps_;
  mutable FollowedPiece<depth::Hints> kept_;
  std::optional<std::size_t> selected_;
  std::string guide_;  ///< that `selected_` belongs to
  double near_ = 0.8;
  int doubt_ = -1;
};

}  // namespace hscaffold::app
