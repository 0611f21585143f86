/// Whether the code in the shown proof scans: its margin in words, and a small picture for each way of looking. Hidden
/// where the proof's recipe has no code.
#pragma once

#include <QWidget>

#include "app/desk.h"
#include "core/measure/scan.h"

class QLabel;
class QToolButton;

namespace hscaffold::app {

class ScanWays;

class ScanStrip : public QWidget {
  Q_OBJECT
 public:
  explicit ScanStrip(Desk& desk, QWidget* parent = nullptr);
  /// What was found out; null while it is being looked for, or where there is no code.
  [[nodiscard]] const Scan* scan() const { return known_.get(); }

 private:
  struct Found;
  void refresh();
  void show(std::int64_t proof, const Found& found);
  /// Another guide of the same code, stronger, where modules read wrongly and nowhere else.
  void giveMore();

  Desk& desk_;
  QLabel *margin_, *about_;
  ScanWays* ways_;
  std::int64_t of_ = 0;  ///< proof that is shown or being looked at; 0: none
  std::shared_ptr<const Scan> known_;
  std::string code_;                  ///< id of the guide whose code it is, in the proof's recipe
  std::shared_ptr<const Map> wrong_;  ///< where modules read wrongly, with what is round them; frame size; may be null
  QToolButton* more_;
};

}  // namespace hscaffold::app
