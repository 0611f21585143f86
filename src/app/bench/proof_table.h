/// The right table: the chosen proof, with marks (guide lines over it), misses (where the layout was lost) and wipe
/// (against the reference). While a proof is pulled, its preview.
#pragma once

#include "app/bench/table.h"

namespace hscaffold::app {

class ProofTable : public Table {
  Q_OBJECT
 public:
  explicit ProofTable(Desk& desk, QWidget* parent = nullptr);
  void setMarks(bool on);
  void setMisses(bool on);
  void setWipe(bool on);
  void setSquint(bool on);  ///< small and blurred, as from afar
  /// Share of the frame's width, from the left, that shows the reference.
  [[nodiscard]] double wipeAt() const { return wipeAt_; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;

 private:
  void paintProof(QPainter& painter, const ProofInfo& proof);
  void paintProgress(QPainter& painter) const;
  [[nodiscard]] double wipeX() const;

  bool marks_ = false, misses_ = false, wipe_ = false, squint_ = false, wiping_ = false;
  double wipeAt_ = 0.5;
  QImage preview_;
  int step_ = 0, steps_ = 0;
};

}  // namespace hscaffold::app
