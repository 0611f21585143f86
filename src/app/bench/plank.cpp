#include "app/bench/plank.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QDrag>
#include <QLabel>
#include <QLineEdit>
#include <QMimeData>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/light_panel.h"
#include "app/bench/tuning_panel.h"
#include "app/document/study_edits.h"
#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/switch_button.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr const char* plankMime = "application/x-humble-scaffold-guide";

/// The range as a small bar.
class RangeLine : public QWidget {
 public:
  RangeLine(Desk& desk, std::string guide) : desk_(desk), guide_(std::move(guide)) { setFixedHeight(5); }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Guide* guide = desk_.document.state().guide(guide_);
    if (guide == nullptr) return;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().ground);
    painter.drawRoundedRect(rect(), 2, 2);
    const double w = width();
    painter.setBrush(guide->on ? kindColour(guide->kind) : theme().softText);
    painter.drawRoundedRect(QRectF(w * guide->range.from / 100, 0,
                                   std::max(2.0, w * (guide->range.to - guide->range.from) / 100), height()),
                            2, 2);
  }

 private:
  Desk& desk_;
  std::string guide_;
};

}  // namespace

Plank::Plank(Desk& desk, std::string guide, QWidget* parent) : QFrame(parent), desk_(desk), guide_(std::move(guide)) {
  const Guide* g = desk_.document.state().guide(guide_);
  const Kind& kind = kindOf(g->kind);
  setAcceptDrops(true);
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(QString("Guide %1").arg(QString::fromStdString(g->name)));
  setToolTip("Drag to reorder (Alt+Up, Alt+Down); Del removes; right click for more");
  thumbnail_ = new QLabel;
  thumbnail_->setFixedSize(54, 38);
  thumbnail_->setAlignment(Qt::AlignCenter);
  name_ = new QLineEdit;
  name_->setProperty("role", "bare");
  name_->setFont(textFont(10, QFont::DemiBold));
  name_->setAccessibleName("Name of the guide");
  connect(name_, &QLineEdit::editingFinished, this, [this] {
    const std::string text = name_->text().trimmed().toStdString();
    const Guide* now = desk_.document.state().guide(guide_);
    if (now == nullptr || text.empty() || text == now->name) return;
    desk_.document.change("Rename guide", [&](StudyState& s) { s.guide(guide_)->name = text; });
  });
  on_ = new SwitchButton(kindColour(g->kind));
  on_->setObjectName("on");
  on_->setAccessibleName("On");
  on_->setToolTip("On or off");
  connect(on_, &SwitchButton::clicked, this, [this](bool checked) {
    const Guide* now = desk_.document.state().guide(guide_);
    desk_.document.change(QString(checked ? "Turn on %1" : "Turn off %1").arg(QString::fromStdString(now->name)),
                          [&](StudyState& s) { s.guide(guide_)->on = checked; });
  });
  weight_ = new ScrubField;
  weight_->setProperty("role", "bare");
  weight_->setUp(limits::weight);
  weight_->setFont(textFont(12, QFont::DemiBold));
  weight_->setAlignment(Qt::AlignLeft);
  weight_->setFixedWidth(46);
  weight_->setObjectName("weight");
  weight_->setAccessibleName("Weight");
  weight_->setToolTip("Weight: drag sideways, type, arrow keys; double click sets 1");
  connect(weight_, &ScrubField::edited, this, [this](double value) {
    const auto& state = desk_.document.state();
    const auto found =
        std::find_if(state.guides.begin(), state.guides.end(), [&](const Guide& x) { return x.id == guide_; });
    if (found == state.guides.end()) return;
    const auto index = static_cast<std::size_t>(found - state.guides.begin());
    desk_.document.change(
        "Weight of " + QString::fromStdString(found->name),
        [&](StudyState& s) {
          if (s.keepTotal)
            setWeightKeepingTotal(s.guides, index, value, s.held);
          else
            s.guides[index].weight = value;
        },
        "weight " + guide_);
  });
  connect(weight_, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  hold_ = new QLabel;
  hold_->setProperty("role", "note");
  hold_->setFont(textFont(9));
  hold_->setToolTip("How much of this guide's layout is in the shown proof, 0 to 100");
  stage_ = new QLabel;
  stage_->setProperty("role", "note");
  stage_->setFont(textFont(9));
  stage_->setObjectName("stage mark");
  range_ = new RangeLine(desk_, guide_);
  auto* weightName = new QLabel("weight");
  weightName->setProperty("role", "note");
  weightName->setFont(textFont(9));
  auto* mark = new QLabel(QString(QChar(kind.letter)));
  mark->setFixedSize(16, 16);
  mark->setAlignment(Qt::AlignCenter);
  mark->setToolTip(QString::fromStdString(kind.name));
  mark->setFont(textFont(8, QFont::Bold));
  mark->setStyleSheet(QString("background: %1; color: #1d1c1b; border-radius: 3px;").arg(kindColour(g->kind).name()));

  auto* line1 = new QHBoxLayout;
  line1->setSpacing(4);
  line1->addWidget(mark);
  line1->addWidget(name_, 1);
  line1->addWidget(on_);
  auto* line2 = new QHBoxLayout;
  line2->setSpacing(2);
  line2->addWidget(weight_);
  line2->addWidget(weightName);
  line2->addStretch(1);
  line2->addWidget(stage_);
  line2->addSpacing(4);
  line2->addWidget(hold_);
  auto* right = new QVBoxLayout;
  right->setSpacing(1);
  right->addLayout(line1);
  right->addLayout(line2);
  auto* top = new QHBoxLayout;
  top->setSpacing(8);
  top->addWidget(thumbnail_, 0, Qt::AlignTop);
  top->addLayout(right, 1);

  warning_ = new QLabel;
  warning_->setWordWrap(true);
  warning_->setFont(textFont(9));
  fix_ = new QToolButton;
  fix_->setObjectName("fix");
  fix_->setProperty("role", "link");
  fix_->setFont(textFont(9, QFont::DemiBold));
  warningRow_ = new QWidget;
  auto* warn = new QHBoxLayout(warningRow_);
  warn->setContentsMargins(0, 2, 0, 0);
  warn->addWidget(warning_, 1);
  warn->addWidget(fix_, 0, Qt::AlignTop);
  connect(fix_, &QToolButton::clicked, this, [this] {
    if (const Check* check = desk_.checks.about(guide_); check != nullptr && check->fix) {
      const auto fix = check->fix;  // the list is another once it was done
      desk_.document.change(QString::fromStdString(check->fixName), fix);
    }
  });

  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 8, 8);
  column->setSpacing(5);
  column->addLayout(top);
  column->addWidget(range_);
  column_ = new QVBoxLayout;
  column->addLayout(column_);
  column->addWidget(warningRow_);
  for (QWidget* child : {static_cast<QWidget*>(weight_), static_cast<QWidget*>(name_), static_cast<QWidget*>(on_)})
    child->installEventFilter(this);
  refresh();
  refreshMap();
}

void Plank::unfold(const Guide& guide) {
  if (kindOf(guide.kind).hasSlot(light::lightSlot)) column_->addWidget(light_ = new LightPanel(desk_, guide_));
  column_->addWidget(tuning_ = new TuningPanel(desk_, guide_));
  tuning_->refreshMap();
  // Tab goes on in them, though they came last.
  QWidget* before = fix_;
  for (QWidget* panel : {static_cast<QWidget*>(light_), static_cast<QWidget*>(tuning_)})
    if (panel != nullptr)
      for (QWidget* field : panel->findChildren<QWidget*>())
        if (field->focusPolicy() != Qt::NoFocus && field->focusProxy() == nullptr && field->window() == window()) {
          setTabOrder(before, field);
          before = field;
        }
}

bool Plank::eventFilter(QObject*, QEvent* event) {
  if (event->type() == QEvent::FocusIn) desk_.document.look([&](Looking& looking) { looking.guide = guide_; });
  return false;
}

void Plank::refresh() {
  const Guide* guide = desk_.document.state().guide(guide_);
  if (guide == nullptr) return;
  const bool selected = desk_.document.state().looking.guide == guide_;
  if (!name_->hasFocus()) {
    name_->setText(QString::fromStdString(guide->name));
    name_->setCursorPosition(0);
  }
  on_->setChecked(guide->on);
  weight_->showValue(guide->weight);
  range_->update();
  if (selected && tuning_ == nullptr) unfold(*guide);
  if (tuning_ != nullptr) tuning_->setVisible(selected);
  if (light_ != nullptr) light_->setVisible(selected);
  if (selected) {
    tuning_->refresh();
    if (light_ != nullptr) light_->refresh();
  }
  const StageLink& link = guide->stage;
  stage_->setVisible(!link.map.empty());
  stage_->setText(link.frozen ? "frozen" : "stage");
  QString says = link.frozen ? "From the stage, and stays as it is" : "Follows the stage";
  if (!link.fastened.thing.empty()) says += "; its retouch and region go along with a thing there";
  stage_->setToolTip(says);
  refreshHold();
  refreshCheck();
  update();
}

void Plank::refreshHold() {
  const ProofInfo* proof = desk_.proofs.current();
  const auto hold = proof != nullptr ? proof->holds.find(guide_) : std::map<std::string, double>::const_iterator{};
  hold_->setText(proof != nullptr && hold != proof->holds.end() ? QString("hold %1").arg(std::lround(hold->second))
                                                                : QString());
}

void Plank::refreshCheck() {
  const Check* check = desk_.checks.about(guide_);
  warningRow_->setVisible(check != nullptr);
  if (check == nullptr) return;
  warning_->setText(QString::fromUtf8("\xE2\x96\xB2 ") + QString::fromStdString(check->sentence));
  setOwnSheet(*warning_,
              QString("color: %1").arg((check->severity == Severity::bad ? theme().bad : theme().doubt).name()));
  fix_->setText(QString::fromStdString(check->fixName));
  fix_->setVisible(!check->fixName.empty());
}

void Plank::refreshMap() {
  const MapPicture* map = desk_.maps.mapOf(guide_);
  if (map != nullptr && !map->grey.isNull()) {
    const double ratio = devicePixelRatioF();
    // Thin lines would vanish when shrunk: they are brightened.
    QImage small = map->grey.scaled((QSizeF(54, 38) * ratio).toSize(), Qt::KeepAspectRatio, Qt::SmoothTransformation)
                       .convertToFormat(map->colour ? QImage::Format_RGB32 : QImage::Format_Grayscale8);
    if (!map->tinted.isNull())
      for (int y = 0; y < small.height(); ++y) {
        uchar* line = small.scanLine(y);
        for (int x = 0; x < small.width() * small.depth() / 8; ++x)
          line[x] = static_cast<uchar>(std::min(255, line[x] * (map->colour ? 2 : 3)));
      }
    small.setDevicePixelRatio(ratio);
    thumbnail_->setPixmap(QPixmap::fromImage(small));
  }
  if (tuning_ != nullptr) tuning_->refreshMap();
}

void Plank::paintEvent(QPaintEvent*) {
  const Guide* guide = desk_.document.state().guide(guide_);
  if (guide == nullptr) return;
  ++painted_;
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const bool selected = desk_.document.state().looking.guide == guide_;
  const QColor colour = guide->on ? kindColour(guide->kind) : theme().softText;
  painter.setPen(QPen(selected     ? kindColour(guide->kind)
                      : hasFocus() ? theme().accent
                                   : theme().line,
                      selected ? 1.4 : 1));
  painter.setBrush(theme().panel.lighter(selected ? 108 : 103));
  painter.drawRoundedRect(QRectF(rect()).adjusted(0.7, 0.7, -0.7, -0.7), 3, 3);
  painter.setPen(Qt::NoPen);
  painter.setBrush(colour);
  painter.drawRect(QRectF(1, 1, 4, height() - 2));
}

void Plank::mousePressEvent(QMouseEvent* event) {
  pressed_ = event->pos();
  setFocus();
  desk_.document.look([&](Looking& looking) { looking.guide = guide_; });
}

void Plank::mouseMoveEvent(QMouseEvent* event) {
  if (!event->buttons().testFlag(Qt::LeftButton) ||
      (event->pos() - pressed_).manhattanLength() < QApplication::startDragDistance())
    return;
  auto* parcel = new QMimeData;
  parcel->setData(plankMime, QByteArray::fromStdString(guide_));
  QDrag drag(this);
  drag.setMimeData(parcel);
  drag.setPixmap(grab(QRect(0, 0, width(), 60)));
  drag.setHotSpot(event->pos());
  drag.exec(Qt::MoveAction);
}

void Plank::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasFormat(plankMime)) event->acceptProposedAction();
}

void Plank::dropEvent(QDropEvent* event) {
  const auto moved = QString::fromUtf8(event->mimeData()->data(plankMime));
  if (moved.toStdString() == guide_) return;
  event->acceptProposedAction();
  emit movedBefore(moved, QString::fromStdString(guide_));
}

void Plank::move(int by) {
  const auto& guides = desk_.document.state().guides;
  const auto index =
      std::find_if(guides.begin(), guides.end(), [&](const Guide& g) { return g.id == guide_; }) - guides.begin();
  const auto other = index + by;
  if (other < 0 || other >= std::ssize(guides)) return;
  desk_.document.change("Reorder guides", [&](StudyState& s) {
    std::swap(s.guides[static_cast<std::size_t>(index)], s.guides[static_cast<std::size_t>(other)]);
  });
}

void Plank::keyPressEvent(QKeyEvent* event) {
  // What a slider or a field in it does not use is not for the guide as a whole.
  if (window()->focusWidget() != this) return QFrame::keyPressEvent(event);
  const bool alt = event->modifiers().testFlag(Qt::AltModifier);
  if (alt && event->key() == Qt::Key_Up)
    move(-1);
  else if (alt && event->key() == Qt::Key_Down)
    move(1);
  else if (event->key() == Qt::Key_Delete)
    removeGuide(desk_.document, guide_);
  else if (event->key() == Qt::Key_Space)
    on_->click();
  else
    QFrame::keyPressEvent(event);
}

void Plank::contextMenuEvent(QContextMenuEvent* event) {
  QMenu* menu = newMenu(*this);
  menu->addAction("Move up", this, [this] { move(-1); });
  menu->addAction("Move down", this, [this] { move(1); });
  menu->addAction("Duplicate", this, [this] {
    desk_.document.change("Duplicate guide", [&](StudyState& s) {
      if (s.guide(guide_) == nullptr) return;
      Guide copy = *s.guide(guide_);
      copy.id = newId(s, "g");
      copy.name += " 2";
      s.looking.guide = copy.id;
      s.guides.push_back(std::move(copy));
    });
  });
  const Guide* guide = desk_.document.state().guide(guide_);
  menu->addAction("Test strip over its weight...", this,
                  [this] {
                    emit desk_.stripAsked({Setting::weight, guide_, {}, {}});
                  })
      ->setEnabled(guide != nullptr && guide->on);
  menu->addAction("Find a balance for it...", this, [this] { emit desk_.findAsked({guide_}); })
      ->setEnabled(guide != nullptr && guide->on);
  menu->addAction("Reset tuning", this, [this] {
    desk_.document.change("Reset tuning", [&](StudyState& s) {
      if (Guide* now = s.guide(guide_)) now->tuning.clear();
    });
  });
  menu->addSeparator();
  menu->addAction("Remove guide", this, [this] { removeGuide(desk_.document, guide_); });
  menu->popup(event->globalPos());
}

}  // namespace hscaffold::app
