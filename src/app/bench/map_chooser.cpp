#include "app/bench/map_chooser.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSlider>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <cmath>

#include "app/document/study_edits.h"
#include "app/images.h"
#include "app/theme/theme.h"
#include "core/edge_finding/edges.h"
#include "core/image/narrow.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr std::size_t mostSliders = 4;  ///< the first fields say most; the rest is on the plank

}  // namespace

/// The map on paper; all panes show the same place.
class ChooserPane::Picture : public QWidget {
 public:
  Picture(LinkedView& view, const QImage& picture) : view_(view), picture_(picture) {
    setMinimumSize(220, 160);
    connect(&view_, &LinkedView::moved, this, qOverload<>(&QWidget::update));
    setToolTip("Wheel: zoom. Drag: move. Double click: fit");
  }
  QString waiting;

 protected:
  void resizeEvent(QResizeEvent*) override { view_.setTable(this, size()); }
  void wheelEvent(QWheelEvent* event) override {
    view_.zoom(std::pow(1.2, event->angleDelta().y() / 120.0), event->position(), size());
  }
  void mousePressEvent(QMouseEvent* event) override { last_ = event->position(); }
  void mouseMoveEvent(QMouseEvent* event) override {
    view_.pan(event->position() - last_, size());
    last_ = event->position();
  }
  void mouseDoubleClickEvent(QMouseEvent*) override { view_.fit(); }
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.fillRect(rect(), theme().table);
    const QRectF frame(view_.toTable({0, 0}, size()), QSizeF(view_.frame()) * view_.scale(size()));
    painter.fillRect(frame, QColor("#fbfaf7"));
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    if (!picture_.isNull()) painter.drawImage(frame, picture_);
    if (waiting.isEmpty()) return;
    painter.setPen(QColor("#26241f"));
    painter.drawText(frame, Qt::AlignCenter, waiting);
  }

 private:
  LinkedView& view_;
  const QImage& picture_;
  QPointF last_;
};

ChooserPane::ChooserPane(Desk& desk, LinkedView& view, int number, std::string reference, const std::string& kind)
    : desk_(desk), number_(number), reference_(std::move(reference)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  choice_ = new QComboBox;
  choice_->setAccessibleName("Kind");
  for (const Kind& each : kinds())
    if (each.extract) choice_->addItem(QString::fromStdString(each.name), QString::fromStdString(each.id));
  choice_->setCurrentIndex(choice_->findData(QString::fromStdString(kind)));
  connect(choice_, &QComboBox::activated, this, [this] { setKind(choice_->currentData().toString().toStdString()); });
  shown_ = new Picture(view, picture_);
  found_ = new QLabel;
  found_->setProperty("role", "note");
  found_->setFont(textFont(9));
  found_->setWordWrap(true);
  found_->setFixedHeight(32);
  found_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  take_ = new QPushButton("Make this guide");
  connect(take_, &QPushButton::clicked, this, [this] {
    addGuide(desk_.document, kind_, tuning_, reference_);
    emit taken();
  });
  column->addWidget(choice_);
  column->addWidget(shown_, 1);
  column->addWidget(found_);
  column->addWidget(take_);
  setKind(kind);
}

void ChooserPane::setKind(const std::string& kind) {
  kind_ = kind;
  tuning_.clear();
  cache_ = std::make_shared<ExtractionCache>();
  delete fields_;
  fields_ = new QWidget;
  auto* grid = new QGridLayout(fields_);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setColumnStretch(1, 1);
  std::size_t rows = 0;
  const TuningFields& all = *kindOf(kind).fields;
  for (const TuningField& field : all) {
    // Thresholds by number mean nothing without their histogram.
    const bool threshold = field.id == "low" || field.id == "high";
    if (!field.isNumber() || threshold || !isShown(all, field, {}) || rows >= mostSliders) continue;
    auto* name = new QLabel(QString::fromStdString(field.label));
    name->setFont(textFont(9));
    name->setToolTip(QString::fromStdString(field.help));
    auto* slider = new QSlider(Qt::Horizontal);
    slider->setRange(0, static_cast<int>(std::lround((field.maximum - field.minimum) / field.step)));
    slider->setValue(static_cast<int>(std::lround((field.defaultValue - field.minimum) / field.step)));
    slider->setObjectName(QString::fromStdString(field.id));
    slider->setAccessibleName(QString::fromStdString(field.label));
    slider->setToolTip(QString::fromStdString(field.help));
    auto* value = new QLabel;
    value->setFont(textFont(9));
    value->setFixedWidth(48);
    value->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    const auto write = [value, &field](int tick) {
      value->setText(QString("%1 %2")
                         .arg(field.minimum + tick * field.step, 0, 'f', field.decimals)
                         .arg(QString::fromStdString(field.unit)));
    };
    write(slider->value());
    connect(slider, &QSlider::valueChanged, this, [this, write, &field](int tick) {
      write(tick);
      tuning_[field.id] = field.minimum + tick * field.step;
      make();
    });
    grid->addWidget(name, static_cast<int>(rows), 0);
    grid->addWidget(slider, static_cast<int>(rows), 1);
    grid->addWidget(value, static_cast<int>(rows++), 2);
  }
  // As high as with all of them, so that the panes align.
  grid->setRowStretch(static_cast<int>(mostSliders), 1);
  fields_->setFixedHeight(static_cast<int>(mostSliders) * 22);
  static_cast<QVBoxLayout*>(layout())->insertWidget(3, fields_);
  make();
}

void ChooserPane::make() {
  const auto picture = desk_.maps.placedPicture(reference_);
  if (!picture) return;
  if (picture_.isNull()) shown_->waiting = "Extracting";
  struct Made {
    QImage inked;
    double share = 0;
    QString found, note;
  };
  desk_.tasks.run(
      this, "compare " + std::to_string(number_), Priority::maps,
      [picture, cache = cache_, kind = kind_, tuning = tuning_](const StopToken& stop) {
        const auto made = kindOf(kind).extract(*picture, tuning, *cache, stop);
        const bool lines = kindOf(kind).nature == MapNature::lines;
        Made out{greyImage(made.map), lines ? edgeShare(narrowed(made.map)) : 0, QString::fromStdString(made.found),
                 QString::fromStdString(made.note)};
        // Lines lie on paper; half tones are seen as they are.
        if (lines) out.inked.invertPixels();
        return out;
      },
      [this, kind = kind_](const Made& made) {
        if (kind_ != kind) return;
        picture_ = made.inked;
        shown_->waiting.clear();
        shown_->update();
        QStringList said;
        if (kindOf(kind).nature == MapNature::lines)
          said << QString("%1 % of the frame is line").arg(made.share * 100, 0, 'f', 1);
        if (!made.found.isEmpty()) said << made.found;
        found_->setText(made.note.isEmpty() ? said.join("; ") : made.note);
      });
}

MapChooser::MapChooser(Desk& desk, std::string reference, QWidget* parent) : QDialog(parent) {
  setWindowTitle("Compare maps");
  resize(1180, 560);
  view_.setFrame({desk.document.state().frame.width, desk.document.state().frame.height});
  auto* column = new QVBoxLayout(this);
  const Reference* of = desk.document.state().reference(reference);
  auto* head = new QLabel(QString("Four ways to hold the layout of %1")
                              .arg(of != nullptr ? QString::fromStdString(of->name) : QString("the reference")));
  head->setProperty("role", "title");
  column->addWidget(head);
  auto* row = new QHBoxLayout;
  row->setSpacing(12);
  int number = 0;
  for (const char* kind : {"edges", "lines", "loose", "depth"}) {
    auto* pane = new ChooserPane(desk, view_, number++, reference, kind);
    connect(pane, &ChooserPane::taken, this, &QDialog::accept);
    row->addWidget(pane, 1);
  }
  column->addLayout(row, 1);
  auto* close = new QPushButton("Close");
  close->setToolTip("Back without a new guide (Esc)");
  close->setAutoDefault(false);
  connect(close, &QPushButton::clicked, this, &QDialog::reject);
  auto* foot = new QHBoxLayout;
  foot->addStretch(1);
  foot->addWidget(close);
  column->addLayout(foot);
}

}  // namespace hscaffold::app
