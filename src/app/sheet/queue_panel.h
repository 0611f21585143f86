/// What is being pulled and what waits, sheet by sheet; and what was left unfinished when the study was last closed.
#pragma once

#include <QFrame>
#include <QTimer>

#include "app/desk.h"

class QVBoxLayout;

namespace hscaffold::app {

class QueuePanel : public QFrame {
  Q_OBJECT
 public:
  explicit QueuePanel(Desk& desk, QWidget* parent = nullptr);

 private:
  /// What is shown of a sheet, or of the proof that is pulled alone (sheet 0).
  struct Line {
    std::int64_t sheet = 0;
    int left = 0, all = 0;
    bool here = true;  ///< in the queue; otherwise left from last time
    friend bool operator==(const Line&, const Line&) = default;
  };
  [[nodiscard]] std::vector<Line> linesNow() const;
  void refresh();
  void build();
  void tell();

  Desk& desk_;
  QVBoxLayout* column_;
  std::vector<Line> lines_;
  bool paused_ = false;
  QTimer soon_;
};

}  // namespace hscaffold::app
