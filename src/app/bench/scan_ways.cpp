#include "app/bench/scan_ways.h"

#include <QHelpEvent>
#include <QLabel>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

/// Below that a code that reads here may not read there.
constexpr double safeMargin = 30;

QImage smallGrey(const Image<std::uint8_t>& picture, Size size) {
  const QImage whole(picture.row(0), picture.width(), picture.height(), static_cast<qsizetype>(picture.stride()),
                     QImage::Format_Grayscale8);
  return whole.scaled(size.width, size.height, Qt::KeepAspectRatio, Qt::SmoothTransformation);
}

}  // namespace

ScanWays::ScanWays(QWidget* parent) : QWidget(parent) {
  setFixedHeight(56);
  setObjectName("ways of looking");
  setAccessibleName("Ways of looking");
  connect(&themeSignals(), &ThemeSignals::changed, this, qOverload<>(&QWidget::update));
}

std::vector<QImage> ScanWays::looksOf(View<Rgb8> picture, const StopToken& stop) {
  constexpr Size small{96, 64};
  std::vector<QImage> out;
  for (const auto& look : scanLooks(picture, stop)) out.push_back(smallGrey(look, small));
  return out;
}

void ScanWays::set(std::shared_ptr<const Scan> scan, std::vector<QImage> looks) {
  scan_ = std::move(scan);
  looks_ = std::move(looks);
  QStringList all;
  if (scan_)
    for (const ScanWay& way : scan_->ways) all << QString("%1 %2").arg(way.name, way.reads() ? "reads" : "does not");
  setAccessibleDescription(all.join(", "));
  update();
}

void ScanWays::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setFont(textFont(7.5));
  for (std::size_t i = 0; scan_ && i < scan_->ways.size(); ++i) {
    const ScanWay& way = scan_->ways[i];
    const QRectF cell = cellOf(i);
    painter.setBrush(theme().raised);
    painter.setPen(QPen(way.reads() ? theme().good : theme().bad, 1.2));
    painter.drawRoundedRect(cell, 3, 3);
    QRectF picture = cell.adjusted(3, 3, -3, -17);
    if (i < looks_.size() && !looks_[i].isNull()) {
      QSizeF size = looks_[i].size();
      size.scale(picture.size(), Qt::KeepAspectRatio);
      const QPointF middle = picture.center();
      picture = QRectF(middle - QPointF(size.width() / 2, size.height() / 2), size);
      painter.setRenderHint(QPainter::SmoothPixmapTransform);
      painter.drawImage(picture, looks_[i]);
    }
    painter.setPen(way.reads() ? theme().text : theme().softText);
    const QRectF name(cell.left(), cell.bottom() - 16, cell.width(), 15);
    painter.drawText(name, Qt::AlignCenter,
                     painter.fontMetrics().elidedText(way.name, Qt::ElideRight, static_cast<int>(name.width()) - 2));
  }
}

bool ScanWays::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip && scan_) {
    const auto* help = static_cast<QHelpEvent*>(event);
    for (std::size_t i = 0; i < scan_->ways.size(); ++i)
      if (cellOf(i).contains(help->pos())) {
        const ScanWay& way = scan_->ways[i];
        QToolTip::showText(
            help->globalPos(),
            QString("%1: read by %2 % of the decoder's set-ups").arg(way.name).arg(std::lround(100 * way.share)), this);
        return true;
      }
  }
  return QWidget::event(event);
}

QRectF ScanWays::cellOf(std::size_t i) const {
  const double gap = 4, step = (width() - 1 + gap) / static_cast<double>(std::max<std::size_t>(1, scan_->ways.size()));
  return {static_cast<double>(i) * step + 0.5, 0.5, step - gap, height() - 2.0};
}

void tellMargin(const Scan& scan, QLabel& label) {
  const bool reads = !scan.text.empty();
  const QColor colour = !reads ? theme().bad : scan.margin < safeMargin ? theme().doubt : theme().good;
  setOwnSheet(label, QString("color: %1").arg(colour.name()));
  label.setText(reads ? QString("Scans with margin %1").arg(std::lround(scan.margin)) : QString("Does not scan"));
}

}  // namespace hscaffold::app
