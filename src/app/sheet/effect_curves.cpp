#include "app/sheet/effect_curves.h"

#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <algorithm>

#include "app/theme/theme.h"
#include "app/widgets/note_label.h"

namespace hscaffold::app {
namespace {

constexpr QSize curveSize{104, 44};
constexpr int curvesAcross = 2;

/// The colour of a goal's curve: that of its guide's kind; of the look's, the accent.
QColor colourOf(const FindPlan& plan, std::size_t goal) {
  if (goal >= plan.holds.size()) return theme().accent;
  const Guide* guide = guideIn(plan.base, plan.holds[goal].guide);
  return guide != nullptr ? kindColour(guide->kind) : theme().good;
}

double valueOf(const Outcome& outcome, std::size_t goal) {
  return goal < outcome.holds.size() ? outcome.holds[goal] : outcome.shift;
}

}  // namespace

EffectCurve::EffectCurve(QWidget* parent) : QWidget(parent) { setFixedSize(curveSize); }

void EffectCurve::show(std::vector<double> at, std::vector<Line> lines) {
  at_ = std::move(at);
  lines_ = std::move(lines);
  update();
}

void EffectCurve::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF room = QRectF(rect()).adjusted(1, 2, -1, -2);
  painter.fillRect(rect(), theme().ground);
  painter.setPen(QPen(theme().line, 1));
  for (const double share : {0.0, 0.5, 1.0}) {
    const double y = room.top() + share * room.height();
    painter.drawLine(QPointF(room.left(), y), QPointF(room.right(), y));
  }
  const auto place = [&](std::size_t k, double value) {
    return QPointF(room.left() + at_[k] * room.width(),
                   room.bottom() - std::clamp(value, 0.0, 100.0) / 100 * room.height());
  };
  for (const Line& line : lines_) {
    QPolygonF band, way;
    for (std::size_t k = 0; k < at_.size(); ++k) {
      way << place(k, line.means[k]);
      band << place(k, line.means[k] + line.spreads[k]);
    }
    for (std::size_t k = at_.size(); k-- > 0;) band << place(k, line.means[k] - line.spreads[k]);
    QColor pale = line.colour;
    pale.setAlphaF(0.22f);
    painter.setPen(Qt::NoPen);
    painter.setBrush(pale);
    painter.drawPolygon(band);
    painter.setPen(QPen(line.colour, 1.6, line.dashed ? Qt::DashLine : Qt::SolidLine));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(way);
  }
}

EffectCurves::EffectCurves(QWidget* parent) : QWidget(parent) {
  setObjectName("effect curves");
  grid_ = new QGridLayout(this);
  grid_->setContentsMargins(0, 2, 0, 0);
  grid_->setHorizontalSpacing(8);
  grid_->setVerticalSpacing(4);
  for (int c = 0; c < curvesAcross; ++c) grid_->setColumnStretch(2 * c + 1, 1);
  connect(&themeSignals(), &ThemeSignals::changed, this, &EffectCurves::refill);
  hide();
}

EffectCurves::Row EffectCurves::addRow() {
  const Row row{new EffectCurve, noteLabel()};
  row.sentence->setWordWrap(true);
  row.sentence->setAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  const int at = static_cast<int>(rows_.size());
  grid_->addWidget(row.curve, at / curvesAcross, 2 * (at % curvesAcross));
  grid_->addWidget(row.sentence, at / curvesAcross, 2 * (at % curvesAcross) + 1);
  return row;
}

void EffectCurves::show(const FindPlan& plan, const std::vector<Effect>& effects) {
  plan_ = plan;
  effects_ = effects;
  shown_ = static_cast<int>(effects.size());
  while (rows_.size() < effects.size()) rows_.push_back(addRow());
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    const bool used = i < effects.size();
    rows_[i].curve->setVisible(used);
    rows_[i].sentence->setVisible(used);
  }
  refill();
  setVisible(shown_ > 0);
}

void EffectCurves::refill() {
  for (std::size_t i = 0; i < effects_.size(); ++i) fill(rows_[i], effects_[i]);
}

void EffectCurves::fill(const Row& row, const Effect& effect) {
  row.sentence->setText(QString::fromStdString(effect.sentence));
  row.curve->setAccessibleName(row.sentence->text());
  const Axis& setting = plan_.settings[effect.setting];
  const auto value = [&](int index) { return setting.values[static_cast<std::size_t>(index)]; };
  const double from = value(effect.values.front()), to = value(effect.values.back());
  std::vector<double> at;
  for (const int index : effect.values) at.push_back(to > from ? (value(index) - from) / (to - from) : 0);
  std::vector<EffectCurve::Line> lines;
  QStringList legend;
  for (std::size_t goal = 0; goal <= plan_.holds.size(); ++goal) {
    EffectCurve::Line line{{}, {}, colourOf(plan_, goal), goal == plan_.holds.size()};
    for (std::size_t k = 0; k < effect.values.size(); ++k) {
      line.means.push_back(valueOf(effect.mean[k], goal));
      line.spreads.push_back(valueOf(effect.spread[k], goal));
    }
    lines.push_back(std::move(line));
    legend << QString::fromStdString(goal < plan_.holds.size() ? "hold of " + guideName(plan_, plan_.holds[goal].guide)
                                                               : lookName(plan_) + " (dashed)");
  }
  row.curve->show(std::move(at), std::move(lines));
  const auto name = [&](int index) {
    return QString::fromStdString(valueName(setting, static_cast<std::size_t>(index)));
  };
  row.curve->setToolTip(QString("%1, 0 to 100, from %2 to %3; the band is one standard deviation")
                            .arg(legend.join(", "), name(effect.values.front()), name(effect.values.back())));
}

}  // namespace hscaffold::app
