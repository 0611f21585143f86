#include "app/engines/engines_panel.h"

#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QRadioButton>
#include <QScrollArea>
#include <QToolButton>
#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include "app/desk.h"
#include "app/engines/panel_parts.h"
#include "app/proofs/own_programs.h"
#include "app/proofs/own_services.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/kinds.h"
#include "core/study/pull_sets.h"

namespace hscaffold::app {
namespace {

constexpr int panelWidth = 540;

/// Up to its first full stop.
QString firstSentence(const std::string& note) {
  const QString all = QString::fromStdString(note);
  const auto end = all.indexOf(". ");
  return end < 0 ? all : all.left(end + 1);
}

QString text(const std::string& plain) { return QString::fromStdString(plain); }

/// What a recipe takes with an engine, in seconds; none where nothing was timed yet.
std::optional<double> secondsWith(const Desk& desk, const EngineInfo& info, const Recipe& recipe) {
  if (info.missing || (info.elsewhere && !desk.queue.isMeasured(info.name))) return {};
  return desk.queue.estimate(info.name, recipe) / 1000;
}

/// Its widgets are made anew: those that are there are hidden at once and go when nobody is in them any more.
void empty(QLayout& layout) {
  while (QLayoutItem* item = layout.takeAt(0)) {
    if (QWidget* widget = item->widget()) {
      widget->hide();
      widget->deleteLater();
    }
    delete item;
  }
}

}  // namespace

QString takesText(const EngineInfo& info) {
  if (info.missing) return {};
  QStringList kinds;
  for (const std::string& kind : info.kinds) kinds << text(kindOf(kind).name).toLower();
  QString takes = info.kinds.size() == hscaffold::kinds().size() ? QString("all kinds of guides") : kinds.join(", ");
  if (kinds.isEmpty()) takes = "no guides";
  takes += QString("; sides in steps of %1").arg(info.sizeStep);
  if (info.mostPixels > 0) takes += QString(", up to %1 MP").arg(static_cast<double>(info.mostPixels) / 1e6, 0, 'f', 1);
  if (info.lanes > 1) takes += QString(", %1 at a time").arg(info.lanes);
  return takes;
}

EnginesPanel::EnginesPanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  auto* column = panelColumn(*this, "engines panel", "What makes the pictures", {});
  list_ = new QWidget;
  rows_ = new QVBoxLayout(list_);
  rows_->setContentsMargins(0, 0, 0, 0);
  rows_->setSpacing(6);
  scroll_ = new QScrollArea;
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setWidget(list_);
  column->addWidget(scroll_);
  sets_ = new QVBoxLayout;
  column->addLayout(sets_);
  auto* foot = new QHBoxLayout;
  auto* far = new QPushButton("An engine at an address...");
  far->setObjectName("add service at address");
  far->setToolTip("hscaffold-engine on this machine or another");
  connect(far, &QPushButton::clicked, this, &EnginesPanel::addressAsked);
  auto* own = new QPushButton("A program of your own...");
  own->setObjectName("add own program");
  own->setToolTip("Anything that takes a folder with maps and leaves a picture");
  connect(own, &QPushButton::clicked, this, &EnginesPanel::programAsked);
  foot->addWidget(far);
  foot->addWidget(own);
  foot->addStretch(1);
  column->addLayout(foot);
  setFixedWidth(panelWidth);
  connect(&desk_, &Desk::enginesChanged, this, &EnginesPanel::fill);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.engine || changes.brief || changes.frame) fill();
  });
  fill();
}

void EnginesPanel::use(const std::string& engine) {
  desk_.document.change("Engine", [&](StudyState& s) {
    s.engine = engine;
    if (!serves(*desk_.engines.info(engine), s.family)) s.family.clear();
  });
}

QWidget* EnginesPanel::row(const EngineInfo& info, Own of) {
  const auto& state = desk_.document.state();
  const bool isUsed = info.name == state.engine;
  auto* card = new QFrame;
  card->setProperty("role", "card");
  card->setObjectName("engine " + text(info.name));
  auto* grid = new QGridLayout(card);
  grid->setContentsMargins(10, 7, 8, 7);
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(2);
  const bool isAway = info.missing || !info.trouble.empty();
  auto* name = new QLabel(QString::fromUtf8(isAway ? "\xE2\x9C\x95 " : "\xE2\x97\x8F ") + text(info.title));
  name->setProperty("role", "title");
  grid->addWidget(name, 0, 0);
  auto* pace = noteLabel();
  pace->setObjectName("pace of " + text(info.name));
  if (!info.missing) {
    const auto seconds = secondsWith(desk_, info, pullRecipeOf(state));
    pace->setText(seconds ? QString("%1 s a proof").arg(*seconds, 0, 'f', 1) : QString("not timed yet"));
    pace->setToolTip(seconds ? "As measured here, at the size that is pulled now"
                             : "After the first proof it is known");
  }
  grid->addWidget(pace, 0, 1, Qt::AlignRight);
  if (isUsed) {
    grid->addWidget(noteLabel("in use"), 0, 2, Qt::AlignRight);
  } else if (!info.missing) {
    auto* button = new QPushButton("Use");
    button->setProperty("role", "tight");
    button->setObjectName("use engine " + text(info.name));
    button->setToolTip("For the study's " + QString(state.rough ? "rough" : "final") + " proofs");
    connect(button, &QPushButton::clicked, this, [this, engine = info.name] {
      use(engine);
      close();
    });
    grid->addWidget(button, 0, 2, Qt::AlignRight);
  }
  if (of != Own::neither) {
    auto* more = new QToolButton;
    more->setText(QString::fromUtf8("\xE2\x80\xA6"));
    more->setObjectName("more of " + text(info.name));
    more->setAccessibleName("More of " + text(info.name));
    more->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(more);
    if (!info.missing)
      menu->addAction("Maps as it wants them...", this, [this, engine = info.name] { emit mapsAsked(text(engine)); });
    if (of == Own::service)
      menu->addAction("Ask again", this, [this, engine = info.name] { askService(desk_, engine); });
    menu->addAction("Take it away", this, [this, engine = info.name, of] {
      desk_.queue.forgetPace(engine);
      of == Own::service ? forgetService(desk_, engine) : forgetProgram(desk_, engine);
    });
    more->setMenu(menu);
    grid->addWidget(more, 0, 3);
  }
  const auto line = [&](int at, const QString& said) {
    auto* label = noteLabel(said);
    label->setWordWrap(true);
    grid->addWidget(label, at, 0, 1, 4);
    return label;
  };
  line(1, firstSentence(info.note))->setToolTip(text(info.note));
  if (const QString takes = takesText(info); !takes.isEmpty()) line(2, "Takes " + takes + ".");
  const std::string trouble = info.missing ? silenceOf(desk_, info.name) : info.trouble;
  if (!trouble.empty()) {
    auto* label = line(3, text(trouble));
    label->setObjectName("trouble of " + text(info.name));
    setOwnSheet(*label, QString("QLabel { color: %1; }").arg(theme().bad.name()));
  }
  if (isUsed && !info.families.empty()) {
    auto* families = new QComboBox;
    families->setObjectName("family");
    families->setAccessibleName("Family of models");
    for (const EngineFamily& each : info.families) families->addItem(text(each.name));
    families->setCurrentIndex(std::max(0, families->findText(text(state.family))));
    connect(families, &QComboBox::activated, this, [this, families] {
      desk_.document.change("Family of models",
                            [&](StudyState& s) { s.family = families->currentText().toStdString(); });
    });
    auto* choice = new QHBoxLayout;
    choice->addWidget(noteLabel("Family of models"));
    choice->addWidget(families);
    choice->addStretch(1);
    grid->addLayout(choice, 4, 0, 1, 4);
  }
  grid->setColumnStretch(0, 1);
  return card;
}

QWidget* EnginesPanel::sets() {
  auto* box = new QWidget;
  auto* grid = new QGridLayout(box);
  grid->setContentsMargins(0, 4, 0, 2);
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(4);
  const QStringList heads{"Two sets", "Engine", "Longer side", "Steps", ""};
  for (int i = 0; i < heads.size(); ++i) grid->addWidget(noteLabel(heads[i]), 0, i);
  const auto& state = desk_.document.state();
  for (const bool rough : {true, false}) {
    const int at = rough ? 1 : 2;
    const QString which = rough ? "rough" : "final";
    const PullSet set = pullSet(state, rough);
    auto* choose = new QRadioButton(rough ? "Rough" : "Final");
    choose->setObjectName("set " + which);
    choose->setToolTip(rough ? "Cheap, for looking (Ctrl+J changes over)" : "Dear, for keeping (Ctrl+J changes over)");
    choose->setChecked(rough == state.rough);
    connect(choose, &QRadioButton::clicked, this, [this, rough] {
      if (rough != desk_.document.state().rough) desk_.document.change(rough ? "Rough" : "Final", changeOver);
    });
    grid->addWidget(choose, at, 0);
    const auto change = [this, rough](const char* name, const std::function<void(PullSet&)>& to) {
      desk_.document.change(name, [&](StudyState& s) {
        PullSet now = pullSet(s, rough);
        to(now);
        setPullSet(s, rough, now);
      });
    };
    auto* engines = new QComboBox;
    engines->setObjectName("engine of " + which);
    engines->setAccessibleName("Engine of the set " + which);
    std::vector<std::string> names;
    for (const auto& info : desk_.engines.all()) names.push_back(info->name);
    if (std::find(names.begin(), names.end(), set.engine) == names.end()) names.push_back(set.engine);
    for (const std::string& name : names) engines->addItem(text(desk_.engines.info(name)->title), text(name));
    engines->setCurrentIndex(engines->findData(text(set.engine)));
    connect(engines, &QComboBox::activated, this, [this, engines, change] {
      const std::string name = engines->currentData().toString().toStdString();
      change("Engine", [&](PullSet& s) {
        s.engine = name;
        if (!serves(*desk_.engines.info(name), s.family)) s.family.clear();
      });
    });
    grid->addWidget(engines, at, 1);
    auto* longest = new ScrubField;
    longest->setUp(0, limits::side.most, 64, 0, rough ? usualRough : 0, "px");
    longest->setSpecialValueText("as the frame");
    longest->setObjectName("longer side of " + which);
    longest->setAccessibleName("Longer side of proofs of the set " + which);
    longest->setToolTip("Smaller proofs are the large one seen small; maps stay the frame's");
    longest->showValue(set.longest);
    connect(longest, &ScrubField::finished, this, [longest, change, was = set.longest] {
      const int side = longest->value() < limits::side.least ? 0 : static_cast<int>(longest->value());
      if (side != was) change("Size of proofs", [side](PullSet& s) { s.longest = side; });
    });
    grid->addWidget(longest, at, 2);
    auto* steps = new ScrubField;
    steps->setUp(limits::steps);
    steps->setObjectName("steps of " + which);
    steps->setAccessibleName("Steps of the set " + which);
    steps->showValue(set.steps);
    connect(steps, &ScrubField::finished, this, [steps, change, was = set.steps] {
      const int now = static_cast<int>(steps->value());
      if (now != was) change("Steps", [now](PullSet& s) { s.steps = now; });
    });
    grid->addWidget(steps, at, 3);
    StudyState with = state;
    setPullSet(with, state.rough, set);
    const auto takes = secondsWith(desk_, *desk_.engines.info(set.engine), pullRecipeOf(with));
    auto* seconds = noteLabel(takes ? QString("%1 s").arg(*takes, 0, 'f', 1) : QString::fromUtf8("\xE2\x80\x93"));
    seconds->setObjectName("seconds of " + which);
    grid->addWidget(seconds, at, 4, Qt::AlignRight);
  }
  grid->setColumnStretch(1, 1);
  return box;
}

void EnginesPanel::fill() {
  // Whoever works by keys goes on where they were.
  const QWidget* focused = focusWidget();
  const QString had = focused != nullptr ? focused->objectName() : QString();
  empty(*rows_);
  empty(*sets_);
  std::map<std::string, Own> own;
  for (const ProgramSetup& setup : ownPrograms()) own[setup.name] = Own::program;
  for (const RemoteSetup& setup : ownServices()) own[setup.name] = Own::service;
  std::set<std::string> shown;
  const auto add = [&](const EngineInfo& info) {
    if (!shown.insert(info.name).second) return;
    const auto of = own.find(info.name);
    rows_->addWidget(row(info, of != own.end() ? of->second : Own::neither));
  };
  for (const auto& info : desk_.engines.all()) add(*info);
  // What the study asks for and nobody knows, and what is remembered and does not answer.
  add(*desk_.engines.info(desk_.document.state().engine));
  for (const auto& [name, of] : own) add(*desk_.engines.info(name));
  sets_->addWidget(sets());
  // Many engines are scrolled through; few take no more room than they need.
  constexpr int mostHeight = 400, sides = 30;
  const int height =
      rows_->hasHeightForWidth() ? rows_->heightForWidth(panelWidth - sides) : rows_->sizeHint().height();
  scroll_->setFixedHeight(std::min(mostHeight, height + 2));
  if (!had.isEmpty())
    for (QWidget* widget : findChildren<QWidget*>(had))
      if (!widget->isHidden()) widget->setFocus();
  adjustSize();
}

}  // namespace hscaffold::app
