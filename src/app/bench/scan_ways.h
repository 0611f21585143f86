/// In which ways of looking a code reads: a small picture for each, in the colour of how it reads.
#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <vector>

#include "core/measure/scan.h"

class QLabel;

namespace hscaffold::app {

class ScanWays : public QWidget {
  Q_OBJECT
 public:
  explicit ScanWays(QWidget* parent = nullptr);
  /// @param looks  see `looksOf`; both empty: nothing is known
  void set(std::shared_ptr<const Scan> scan, std::vector<QImage> looks);
  /// The picture in each of the ways, small. For a thread of its own.
  static std::vector<QImage> looksOf(View<Rgb8> picture, const StopToken& stop);

 protected:
  void paintEvent(QPaintEvent* event) override;
  bool event(QEvent* event) override;

 private:
  [[nodiscard]] QRectF cellOf(std::size_t i) const;
  std::shared_ptr<const Scan> scan_;
  std::vector<QImage> looks_;
};

/// "Scans with margin 62", in the colour of what that is worth.
void tellMargin(const Scan& scan, QLabel& label);

}  // namespace hscaffold::app
