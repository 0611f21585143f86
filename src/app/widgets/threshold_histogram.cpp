#include "app/widgets/threshold_histogram.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

/// Most of a gradient histogram lies near nothing: the scale shows the lower half, widened towards zero.
constexpr double shownUpTo = 0.6;
constexpr int inset = 6, knob = 5;

}  // namespace

ThresholdHistogram::ThresholdHistogram(const QColor& colour, Scale scale, QWidget* parent)
    : QWidget(parent), colour_(colour), scale_(scale) {
  setFixedHeight(sizeHint().height());
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  const QString of = scale == Scale::even ? "cut" : "threshold";
  setAccessibleName(scale == Scale::even ? "Cuts" : "Thresholds");
  setToolTip("Drag a " + of + "; arrow keys move it by one part in a hundred, Tab or Space chooses the other");
}

void ThresholdHistogram::show(const ThresholdView& view) {
  const int held = held_;
  const double low = view_.low, high = view_.high;
  view_ = view;
  if (held != 0) {  // while dragging, the pointer leads and maps follow
    view_.low = low;
    view_.high = high;
  }
  update();
}

double ThresholdHistogram::toX(double value) const {
  const double share =
      scale_ == Scale::even ? std::clamp(value, 0.0, 1.0) : std::sqrt(std::clamp(value / shownUpTo, 0.0, 1.0));
  return inset + share * (width() - 2 * inset);
}

double ThresholdHistogram::toValue(double x) const {
  const double t = std::clamp((x - inset) / (width() - 2 * inset), 0.0, 1.0);
  return scale_ == Scale::even ? t : t * t * shownUpTo;
}

QPoint ThresholdHistogram::handleAt(bool high) const {
  return {static_cast<int>(std::lround(toX(high ? view_.high : view_.low))), height() - knob - 2};
}

void ThresholdHistogram::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const int base = height() - 2 * knob;
  if (!view_.histogram.empty()) {
    // Logarithmic heights: edges are rare against flat places.
    std::vector<double> columns(static_cast<std::size_t>(width() - 2 * inset), 0.0);
    const auto bins = static_cast<double>(view_.histogram.size());
    for (std::size_t i = 0; i < columns.size(); ++i) {
      const double from = toValue(inset + static_cast<double>(i)) * bins,
                   to = toValue(inset + static_cast<double>(i) + 1) * bins;
      double sum = 0;
      for (auto b = static_cast<std::size_t>(from); b <= static_cast<std::size_t>(to) && b < view_.histogram.size();
           ++b)
        sum += view_.histogram[b];
      columns[i] = std::log1p(sum / std::max(1.0, to - from));
    }
    const double most = std::max(1e-9, *std::max_element(columns.begin(), columns.end()));
    QPainterPath path(QPointF(inset, base));
    for (std::size_t i = 0; i < columns.size(); ++i)
      path.lineTo(inset + static_cast<double>(i), base - columns[i] / most * (base - 4));
    path.lineTo(width() - inset, base);
    path.closeSubpath();
    QColor fill = theme().softText;
    fill.setAlpha(90);
    painter.fillPath(path, fill);
    painter.setClipRect(QRectF(toX(view_.high), 0, width(), base));
    QColor strong = colour_;
    strong.setAlpha(140);
    painter.fillPath(path, strong);
    painter.setClipping(false);
  }
  painter.setPen(QPen(theme().line, 1));
  painter.drawLine(inset, base, width() - inset, base);
  for (const bool high : {false, true}) {
    const double x = toX(high ? view_.high : view_.low);
    const bool lit = held_ == (high ? 2 : 1) || (hasFocus() && chosen_ == (high ? 2 : 1));
    painter.setPen(QPen(colour_, lit ? 2.2 : 1.4, high ? Qt::SolidLine : Qt::DashLine));
    painter.drawLine(QPointF(x, 4), QPointF(x, base));
    painter.setPen(QPen(lit ? theme().text : theme().panel, 1.2));
    painter.setBrush(colour_);
    painter.drawEllipse(QPointF(x, base + knob - 1), knob - 0.5, knob - 0.5);
  }
}

void ThresholdHistogram::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || view_.histogram.empty()) return;
  const double x = event->position().x(), toLow = std::abs(x - toX(view_.low)), toHigh = std::abs(x - toX(view_.high));
  held_ = toHigh < toLow || (toHigh == toLow && x > toX(view_.high)) ? 2 : 1;
  chosen_ = held_;
  moveTo(toValue(x));
}

void ThresholdHistogram::mouseMoveEvent(QMouseEvent* event) {
  if (held_ != 0)
    moveTo(toValue(event->position().x()));
  else
    setCursor(Qt::SizeHorCursor);
}

void ThresholdHistogram::mouseReleaseEvent(QMouseEvent*) {
  if (held_ == 0) return;
  held_ = 0;
  update();
  emit released();
}

void ThresholdHistogram::moveTo(double value) {
  if ((held_ != 0 ? held_ : chosen_) == 2) {
    view_.high = value;
    view_.low = std::min(view_.low, value);
  } else {
    view_.low = value;
    view_.high = std::max(view_.high, value);
  }
  update();
  emit dragged(view_.low, view_.high);
}

void ThresholdHistogram::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Space) {
    chosen_ = 3 - chosen_;
    update();
    return;
  }
  const int way = event->key() == Qt::Key_Right || event->key() == Qt::Key_Up    ? 1
                  : event->key() == Qt::Key_Left || event->key() == Qt::Key_Down ? -1
                                                                                 : 0;
  if (way == 0 || view_.histogram.empty()) {
    QWidget::keyPressEvent(event);
    return;
  }
  const double x = toX(chosen_ == 2 ? view_.high : view_.low);
  moveTo(toValue(x + way * (width() - 2 * inset) / 100.0));
  emit released();
}

}  // namespace hscaffold::app
