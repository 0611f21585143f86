#include "app/bench/span_board.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme/theme.h"

namespace hscaffold::app {

SpanBoard::SpanBoard(Desk& desk, QWidget* parent) : QWidget(parent), chart_(new SpanChart(desk)) {
  auto* head = new QHBoxLayout;
  head->setContentsMargins(12, 8, 12, 4);
  head->setSpacing(6);
  auto* title = new QLabel("Span board");
  title->setProperty("role", "title");
  auto* steps = new QLabel;
  steps->setProperty("role", "note");
  head->addWidget(title);
  head->addWidget(steps);
  head->addStretch(1);
  for (const RangeShape& shape : rangeShapes()) {
    auto* button = new QPushButton(shape.name);
    button->setObjectName(QString(shape.name).toLower());
    button->setToolTip(QString("Range of the selected guide: %1 to %2 %").arg(shape.range.from).arg(shape.range.to));
    QObject::connect(button, &QPushButton::clicked, this, [&desk, shape] {
      const std::string id = desk.document.state().looking.guide;
      if (desk.document.state().guide(id) == nullptr) return;
      desk.document.change(
          QString("%1: %2").arg(shape.name, QString::fromStdString(desk.document.state().guide(id)->name)),
          [&](StudyState& s) { s.guide(id)->range = shape.range; });
    });
    QObject::connect(&desk.document, &StudyDocument::changed, button, [&desk, button, shape] {
      const Guide* guide = desk.document.state().selectedGuide();
      button->setEnabled(guide != nullptr);
    });
    button->setEnabled(false);
    head->addWidget(button);
  }
  head->addSpacing(10);
  auto* solo = new QPushButton("Solo");
  solo->setObjectName("solo");
  solo->setCheckable(true);
  solo->setToolTip("See the load of the selected guide alone");
  QObject::connect(solo, &QPushButton::toggled, chart_, &SpanChart::setSolo);
  head->addWidget(solo);
  auto* keep = new QPushButton("Keep total");
  keep->setObjectName("keep total");
  keep->setCheckable(true);
  keep->setToolTip("Changing one weight rebalances the others, so that the load stays what it is");
  QObject::connect(keep, &QPushButton::clicked, this, [&desk](bool on) {
    desk.document.change(on ? "Keep total" : "Do not keep total", [&](StudyState& s) { s.keepTotal = on; });
  });
  head->addWidget(keep);
  head->addSpacing(10);
  auto* estimate = new QLabel;
  estimate->setProperty("role", "note");
  estimate->setMinimumWidth(84);
  estimate->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  head->addWidget(estimate);
  const auto refresh = [&desk, steps, keep, estimate] {
    steps->setText(QString("%1 steps").arg(desk.document.state().brief.steps));
    keep->setChecked(desk.document.state().keepTotal);
    estimate->setText(QString("%1 s a proof").arg(desk.queue.estimate() / 1000, 0, 'f', 1));
  };
  QObject::connect(&desk.document, &StudyDocument::changed, this, [refresh](const Changes& changes) {
    if (changes.brief || changes.frame || changes.guideList || changes.others || !changes.guides.empty()) refresh();
  });
  QObject::connect(&desk.queue, &PullQueue::ended, this, refresh);

  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addLayout(head);
  column->addWidget(chart_, 1);
  // Smaller, so that all fit beside the brief in a small window.
  for (auto* button : findChildren<QPushButton*>()) {
    button->setFont(textFont(9));
    button->setStyleSheet("padding: 3px 7px;");
  }
}

}  // namespace hscaffold::app
