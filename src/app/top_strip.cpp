#include "app/top_strip.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QStyleOptionButton>
#include <QStylePainter>
#include <QToolButton>

#include "app/bench/checks_panel.h"
#include "app/bench/frame_panel.h"
#include "app/desk.h"
#include "app/engines/address_panel.h"
#include "app/engines/engines_panel.h"
#include "app/engines/maps_panel.h"
#include "app/engines/program_panel.h"
#include "app/main_view.h"
#include "app/sheet/find_panel.h"
#include "app/sheet/strip_panel.h"
#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "core/frame/frame.h"
#include "core/study/pull_sets.h"

namespace hscaffold::app {

namespace {

/// A button whose words end in dots where there is no room for them.
class Chip : public QPushButton {
 public:
  using QPushButton::QPushButton;
  [[nodiscard]] QSize minimumSizeHint() const override {
    return {minimumWidth(), QPushButton::minimumSizeHint().height()};
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QStylePainter painter(this);
    QStyleOptionButton option;
    initStyleOption(&option);
    const QRect room = style()->subElementRect(QStyle::SE_PushButtonContents, &option, this);
    option.text = fontMetrics().elidedText(text(), Qt::ElideRight, room.width());
    painter.drawControl(QStyle::CE_PushButton, option);
  }
};

}  // namespace

TopStrip::TopStrip(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  setProperty("role", "panel");
  setFixedHeight(44);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(10, 5, 12, 5);
  row->setSpacing(8);
  auto* menuButton = new QToolButton;
  setIcon(*menuButton, "menu");
  menuButton->setToolTip("Study, edit, view, help (F10)");
  menuButton->setAccessibleName("Menu");
  menuButton->setShortcut(QKeySequence("F10"));
  menuButton->setPopupMode(QToolButton::InstantPopup);
  menu_ = new QMenu(menuButton);
  menu_->setToolTipsVisible(true);
  menuButton->setMenu(menu_);
  row->addWidget(menuButton);
  title_ = new QLineEdit;
  title_->setProperty("role", "bare");
  title_->setFont(textFont(12, QFont::DemiBold));
  title_->setAccessibleName("Title of the study");
  title_->setFixedWidth(206);
  connect(title_, &QLineEdit::editingFinished, this, [this] {
    const std::string text = title_->text().trimmed().toStdString();
    if (!text.empty() && text != desk_.document.state().title)
      desk_.document.change("Title", [&](StudyState& s) { s.title = text; });
    title_->clearFocus();
  });
  row->addWidget(title_);
  undo_ = new QToolButton;
  setIcon(*undo_, "undo");
  undo_->setAccessibleName("Undo");
  redo_ = new QToolButton;
  setIcon(*redo_, "redo");
  redo_->setAccessibleName("Redo");
  connect(undo_, &QToolButton::clicked, &desk_.document, &StudyDocument::undo);
  connect(redo_, &QToolButton::clicked, &desk_.document, &StudyDocument::redo);
  row->addWidget(undo_);
  row->addWidget(redo_);
  row->addSpacing(6);
  const auto chip = [&](int width, const QString& tip) {
    auto* button = new Chip;
    button->setProperty("role", "chip");
    button->setMinimumWidth(width);
    button->setToolTip(tip);
    row->addWidget(button);
    return button;
  };
  frame_ = chip(122, "Frame and ratio (Ctrl+R)");
  engine_ = chip(146, "What makes the pictures");
  engine_->setObjectName("engine chip");
  set_ = chip(58, {});
  set_->setObjectName("pull set");
  connect(set_, &QPushButton::clicked, this, &TopStrip::changeSet);
  checks_ = chip(124, "What is doubtful before a pull (Ctrl+K)");
  connect(frame_, &QPushButton::clicked, this, &TopStrip::openFrame);
  connect(checks_, &QPushButton::clicked, this, &TopStrip::openChecks);
  connect(engine_, &QPushButton::clicked, this, &TopStrip::showEngine);
  row->addStretch(1);
  switch_ = new QWidget;
  auto* views = new QHBoxLayout(switch_);
  views->setContentsMargins(0, 0, 0, 0);
  views->setSpacing(0);
  switch_->hide();
  row->addWidget(switch_);
  pull_ = new QPushButton("Pull one");
  pull_->setObjectName("pull");
  pull_->setProperty("role", "primary");
  pull_->setFixedSize(104, 30);
  connect(pull_, &QPushButton::clicked, this, [this] {
    if (desk_.queue.pulling())
      desk_.queue.stop();
    else
      desk_.queue.pull();
  });
  row->addWidget(pull_);
  sheet_ = new QPushButton("Pull sheet...");
  sheet_->setObjectName("pull sheet");
  sheet_->setToolTip("Several proofs: seeds, or a test strip over one or two settings (Ctrl+Shift+Return)");
  sheet_->setFixedHeight(30);
  connect(sheet_, &QPushButton::clicked, this, [this] { openStrip({}); });
  row->addWidget(sheet_);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.settings()) refresh();
  });
  connect(&desk_.document, &StudyDocument::pathChanged, this, &TopStrip::refresh);
  connect(&desk_.queue, &PullQueue::started, this, &TopStrip::refresh);
  connect(&desk_.queue, &PullQueue::ended, this, &TopStrip::refresh);
  connect(&desk_.checks, &CheckList::changed, this, &TopStrip::refreshChecks);
  connect(&themeSignals(), &ThemeSignals::changed, this, &TopStrip::refreshChecks);
  connect(&desk_, &Desk::enginesChanged, this, &TopStrip::refresh);
  refresh();
  refreshChecks();
}

void TopStrip::setViews(const std::vector<MainView*>& views) {
  qDeleteAll(views_);
  views_.clear();
  for (std::size_t i = 0; i < views.size(); ++i) {
    auto* button = new QPushButton(views[i]->title());
    button->setProperty("role", "view");
    button->setObjectName("view " + views[i]->title().toLower());
    button->setCheckable(true);
    button->setAutoExclusive(true);
    button->setToolTip(QString("%1 (%2)").arg(views[i]->title()).arg(i + 1));
    connect(button, &QPushButton::clicked, this, [this, i] { emit viewAsked(static_cast<int>(i)); });
    switch_->layout()->addWidget(button);
    views_.push_back(button);
  }
  switch_->setVisible(views.size() > 1);
}

void TopStrip::showView(int number) {
  if (number >= 0 && number < std::ssize(views_)) views_[static_cast<std::size_t>(number)]->setChecked(true);
}

void TopStrip::changeSet() {
  const bool rough = !desk_.document.state().rough;
  desk_.document.change(rough ? "Rough" : "Final", changeOver);
}

void TopStrip::openFrame() { popOver(new FramePanel(desk_, this), frame_); }
void TopStrip::openChecks() { popOver(new ChecksPanel(desk_, this), checks_); }

void TopStrip::openStrip(const std::optional<Axis>& over) {
  auto* panel = new StripPanel(desk_, over, this);
  connect(panel, &StripPanel::pulled, this, &TopStrip::sheetPulled);
  popOver(panel, sheet_);
}

void TopStrip::openFind(const FindFrom& from) {
  auto* panel = new FindPanel(desk_, from, this);
  connect(panel, &FindPanel::begun, this, &TopStrip::sheetPulled);
  popOver(panel, sheet_);
}

void TopStrip::showEngine() {
  auto* panel = new EnginesPanel(desk_, this);
  // These stay while one looks for an address, a command or a file elsewhere.
  connect(panel, &EnginesPanel::addressAsked, this, [this] { putOver(new AddressPanel(desk_, this), engine_); });
  connect(panel, &EnginesPanel::programAsked, this, [this] { putOver(new ProgramPanel(desk_, this), engine_); });
  connect(panel, &EnginesPanel::mapsAsked, this,
          [this](const QString& engine) { putOver(new MapsPanel(desk_, engine.toStdString(), this), engine_); });
  popOver(panel, engine_);
}

void TopStrip::popOver(QWidget* panel, QWidget* under) {
  panel->setWindowFlags(Qt::Popup);
  place(panel, under);
}

void TopStrip::putOver(QWidget* panel, QWidget* under) {
  panel->setWindowFlags(Qt::Dialog);
  place(panel, under);
}

void TopStrip::place(QWidget* panel, QWidget* under) {
  if (popover_) popover_->deleteLater();
  panel->setAttribute(Qt::WA_DeleteOnClose);
  panel->adjustSize();
  QPoint at = under->mapToGlobal(QPoint(0, under->height() + 4));
  // Not beyond the window's right edge.
  at.setX(std::max(window()->mapToGlobal(QPoint(0, 0)).x(),
                   std::min(at.x(), window()->mapToGlobal(QPoint(window()->width(), 0)).x() - panel->width() - 8)));
  panel->move(at);
  panel->show();
  popover_ = panel;
}

void TopStrip::refreshChecks() {
  const auto& checks = desk_.checks.all();
  if (checks.empty()) {
    checks_->setText(QString::fromUtf8("\xE2\x9C\x93 No doubts"));
  } else {
    const Check& worst = checks.front();
    checks_->setText(QString("%1%2: %3")
                         .arg(QString::fromUtf8(worst.severity == Severity::bad ? "\xE2\x9C\x95 " : "\xE2\x96\xB2 "),
                              checks.size() == 1 ? QString("1 check") : QString("%1 checks").arg(checks.size()),
                              QString::fromStdString(worst.brief)));
  }
  const QColor colour = checks.empty()                             ? theme().good
                        : checks.front().severity == Severity::bad ? theme().bad
                                                                   : theme().doubt;
  setOwnSheet(*checks_, QString("QPushButton { color: %1; }").arg(colour.name()));
}

void TopStrip::refresh() {
  const auto& document = desk_.document;
  if (document.path().empty()) return;
  const auto& state = document.state();
  if (!title_->hasFocus()) {
    title_->setText(QString::fromStdString(state.title));
    title_->setCursorPosition(0);
  }
  title_->setReadOnly(document.forLooking());
  title_->setToolTip(document.isUntitled()   ? QString("Kept as you work; Save as gives it a place of its own")
                     : document.forLooking() ? QString("Open for looking: save it under another name to work on a copy")
                                             : QString::fromStdString(document.path().string()));
  const auto engine = desk_.queue.engineInfo();
  // A filled ring for one that is here, a cross for one that is not.
  const bool away = engine->missing || !engine->trouble.empty();
  engine_->setText(QString::fromUtf8(away ? "\xE2\x9C\x95 " : "\xE2\x97\x8F ") + QString::fromStdString(engine->title));
  setOwnSheet(*engine_, away ? QString("QPushButton { color: %1; }").arg(theme().bad.name()) : QString());
  engine_->setToolTip(engine->missing ? QString::fromStdString(engine->note)
                      : away          ? QString::fromStdString(engine->trouble)
                                      : QString("What makes the pictures"));
  const PullSet set = pullSet(state, state.rough);
  set_->setText(state.rough ? "Rough" : "Final");
  set_->setToolTip(
      QString("%1 proofs: %2, %3, %4 steps. A press, or Ctrl+J, changes to %5.")
          .arg(state.rough ? "Rough" : "Final", QString::fromStdString(engine->title),
               set.longest > 0 ? QString("%1 px on the longer side").arg(set.longest) : QString("the frame's size"))
          .arg(set.steps)
          .arg(state.rough ? "final" : "rough"));
  set_->setAccessibleName(state.rough ? "Rough proofs" : "Final proofs");
  frame_->setText(QString("%1 x %2   %3")
                      .arg(state.frame.width)
                      .arg(state.frame.height)
                      .arg(QString::fromStdString(ratioName(state.frame))));
  const auto& history = document.history();
  undo_->setEnabled(history.canUndo());
  redo_->setEnabled(history.canRedo());
  undo_->setToolTip(history.canUndo() ? "Undo: " + QString::fromStdString(history.undoName()) + " (Ctrl+Z)"
                                      : QString("Nothing to undo"));
  redo_->setToolTip(history.canRedo() ? "Redo: " + QString::fromStdString(history.redoName()) + " (Ctrl+Shift+Z)"
                                      : QString("Nothing to redo"));
  const bool pulling = desk_.queue.pulling();
  pull_->setText(pulling ? "Stop" : "Pull one");
  pull_->setToolTip(
      pulling ? "Stop this pull (Ctrl+.)"
              : QString("Make a proof, about %1 s (Ctrl+Return)").arg(desk_.queue.estimate() / 1000, 0, 'f', 1));
}

}  // namespace hscaffold::app
