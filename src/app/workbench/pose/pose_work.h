/// What the artist does with the figures of the selected guide: which one is in hand, how it is dragged, and everything
/// that changes figures. What is unfinished is shown at once; what is finished is one undoable change.
#pragma once

#include <QObject>
#include <QPointF>
#include <functional>
#include <optional>
#include <set>

#include "core/guides/kind.h"
#include "core/pose/pose_map.h"
#include "core/pose/posing.h"

namespace hscaffold {
struct Guide;
}

namespace hscaffold::app {

class MapRoom;
class StudyDocument;

class PoseWork : public QObject {
  Q_OBJECT
 public:
  using FigurePtr = std::shared_ptr<const pose::Figure>;
  PoseWork(StudyDocument& document, MapRoom& maps, QObject* parent = nullptr);

  /// The figures as they are now, with what is being dragged; null if the selected guide has none.
  [[nodiscard]] const pose::Figures* figures() const;
  [[nodiscard]] const Guide* guide() const;
  [[nodiscard]] Size frame() const;

  [[nodiscard]] std::optional<std::size_t> selected() const;
  [[nodiscard]] const pose::Figure* selectedFigure() const;
  [[nodiscard]] const std::set<std::size_t>& points() const { return points_; }
  void select(std::optional<std::size_t> figure, std::set<std::size_t> points = {});
  /// Forward or back in the list, round and round. @return whether there is one
  bool selectNext(int step);

  /// Whole poses follow when wrists, ankles, head, neck and hips are dragged.
  void setFitting(bool fitting);
  [[nodiscard]] bool fitting() const { return fitting_; }

  /// Unfinished work on one figure, from how it was at `begin`.
  bool begin(std::size_t figure);
  [[nodiscard]] bool active() const { return start_ != nullptr; }
  [[nodiscard]] const pose::Figure& start() const { return *start_; }
  void update(pose::Figure figure);
  void end(const QString& name);
  void cancel();
  /// One drag of a point, by the way that is set; from `start`.
  [[nodiscard]] pose::Figure draggedFrom(std::size_t point, QPointF to, bool alone) const;
  /// Points that were led stay where they are in later fits of this figure.
  void rememberLed(std::size_t point);
  void forgetLed(std::size_t figure) { led_.erase(figure); }

  /// Whole figures.
  void add(std::vector<pose::Figure> figures, const QString& name);
  /// To a guide that need not be the selected one: figures as they lay in the frame, and with the reference, that
  /// `found` says; they go where they lie now.
  void addTo(const std::string& guide, pose::Figures found, const QString& name);
  void remove(std::size_t figure);
  /// Any change of one figure, as one step.
  void change(std::size_t figure, const QString& name, const std::function<pose::Figure(const pose::Figure&)>& edit,
              const std::string& merge = {});
  /// One place nearer (or farther) in the order of drawing.
  void bringNearer(std::size_t figure, int places);

  /// Inks of the selected guide; an empty path brings the house's back. @throws Problem
  void loadInks(const std::filesystem::path& file);
  /// What the figures do, in words.
  [[nodiscard]] QString words() const;

 signals:
  void changed();  ///< figures, or what is selected of them
  void said(const QString& sentence);
  void findAsked(const QRectF& box);  ///< one figure, in this part of the frame

 private:
  void commit(const QString& name, std::vector<FigurePtr> figures, const std::string& merge = {});
  void commitTo(const Guide& guide, const QString& name, std::vector<FigurePtr> figures, const std::string& merge);
  void refresh();
  void showLive();

  StudyDocument& document_;
  MapRoom& maps_;
  std::string guide_;                             ///< that the selection belongs to
  std::shared_ptr<const pose::Figures> figures_;  ///< of the study
  pose::Figures live_;                            ///< while something is dragged
  FigurePtr start_;
  std::optional<std::size_t> selected_;
  std::set<std::size_t> points_;
  std::map<std::size_t, std::vector<std::size_t>> led_;  ///< by figure
  bool fitting_ = true;
  ColourMap behind_;                      ///< the figures behind the one in hand
  std::vector<pose::FigureMarks> marks_;  ///< of the one in hand, then of those before it
  Box drawn_;                             ///< where the figure in hand was drawn last
};

}  // namespace hscaffold::app
