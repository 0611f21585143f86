/// The right side of the Sheet: the chart, the chosen proofs small, what differs between them, where most was lost, and
/// what can be done with them.
#pragma once

#include <QFrame>
#include <QTimer>
#include <vector>

#include "app/desk.h"
#include "core/measure/missed_places.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace hscaffold::app {

class CompareTable;
class SheetModel;
class TradeChart;

class DetailsPanel : public QFrame {
  Q_OBJECT
 public:
  DetailsPanel(Desk& desk, SheetModel& model, QWidget* parent = nullptr);
  void setProofs(const std::vector<std::int64_t>& numbers);
  [[nodiscard]] const std::vector<std::int64_t>& proofs() const { return numbers_; }
  /// With all that came in so far.
  [[nodiscard]] TradeChart& chart();

  void adopt();
  void startFrom();
  void useAsReference();
  /// The same recipe at the frame's size.
  void pullLarge();
  void turnStar();
  void putAway();
  /// The next of the places where most of the layout was lost; none: nothing is known of any yet.
  [[nodiscard]] std::optional<MissedPlace> nextMiss();

 signals:
  void picked(const std::vector<std::int64_t>& numbers);
  void openAsked();

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void refresh();
  void fillChart();
  void tellDifferences();
  void tellMisses();

  Desk& desk_;
  SheetModel& model_;
  std::vector<std::int64_t> numbers_;
  TradeChart* chart_;
  CompareTable* small_;
  QLabel *which_, *of_, *differs_, *lost_;
  QTableWidget* list_;
  QPushButton *adopt_, *start_, *reference_, *large_;
  std::vector<MissedPlace> lostPlaces_;
  std::size_t nextLost_ = 0;
  QTimer fillLater_;
};

}  // namespace hscaffold::app
