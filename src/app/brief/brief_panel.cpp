#include "app/brief/brief_panel.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QRegularExpressionValidator>
#include <QResizeEvent>
#include <QScrollArea>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>
#include <random>

#include "app/brief/colours_leaf.h"
#include "app/brief/start_leaf.h"
#include "app/brief/steps_leaf.h"
#include "app/brief/styles_leaf.h"
#include "app/brief/words_leaf.h"
#include "app/theme/icons.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"

namespace hscaffold::app {

BriefPanel::BriefPanel(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 12, 8);
  column->setSpacing(6);
  title_ = new QLabel("Brief");
  title_->setProperty("role", "title");
  auto* head = new QHBoxLayout;
  head->setSpacing(5);
  head->addWidget(title_);
  head->addSpacing(8);
  words_ = new WordsLeaf(desk_);
  styles_ = new StylesLeaf(desk_);
  colours_ = new ColoursLeaf(desk_);
  start_ = new StartLeaf(desk_);
  steps_ = new StepsLeaf(desk_);
  leaves_ = {words_, styles_, colours_, start_, steps_};
  auto* group = new QButtonGroup(this);
  const std::array<const char*, leafCount> names = {"words", "styles", "colours", "start", "steps"};
  for (std::size_t i = 0; i < leafCount; ++i) {
    auto* tab = tabs_[i] = new QToolButton;
    tab->setObjectName(QString("leaf ") + names[i]);
    tab->setProperty("role", "leaf");
    tab->setCheckable(true);
    tab->setChecked(i == 0);
    group->addButton(tab);
    connect(tab, &QToolButton::clicked, this, [this, i] { showLeaf(static_cast<Leaf>(i)); });
    head->addWidget(tab);
    titles_[i] = noteLabel();
    titles_[i]->setParent(this);  // in no layout before the leaves are pulled up
    titles_[i]->hide();
    titles_[i]->setFont(textFont(9, QFont::DemiBold));
  }
  head->addStretch(1);
  pull_ = new QToolButton;
  pull_->setObjectName("pull up brief");
  pull_->setProperty("role", "link");
  connect(pull_, &QToolButton::clicked, this, &BriefPanel::pullUpAsked);
  head->addWidget(pull_);
  column->addLayout(head);

  stack_ = new QStackedWidget;
  scroll_ = new QScrollArea;
  scroll_->setWidgetResizable(true);
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  all_ = new QVBoxLayout(inside);
  all_->setContentsMargins(0, 0, 6, 0);
  all_->setSpacing(6);
  scroll_->setWidget(inside);
  column->addWidget(stack_, 1);
  column->addWidget(scroll_, 1);
  column->addWidget(alwaysThere());
  connect(words_, &WordsLeaf::poseWordsAsked, this, &BriefPanel::poseWordsAsked);
  connect(styles_, &StylesLeaf::said, this, &BriefPanel::said);
  connect(steps_, &StepsLeaf::said, this, &BriefPanel::said);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.brief) refresh();
  });
  arrange();
  refresh();
}

QWidget* BriefPanel::alwaysThere() {
  auto* always = new QWidget;
  auto* row = new QHBoxLayout(always);
  row->setContentsMargins(0, 2, 0, 0);
  row->setSpacing(5);
  seed_ = new QLineEdit;
  seed_->setObjectName("seed");
  seed_->setAccessibleName("Seed");
  seed_->setMinimumWidth(seed_->fontMetrics().horizontalAdvance("4294967295") + 18);
  seed_->setValidator(new QRegularExpressionValidator(QRegularExpression("\\d{1,10}"), seed_));
  connect(seed_, &QLineEdit::editingFinished, this, [this] {
    if (!seed_->isModified()) return;  // only left: the seed may be another by now
    seed_->setModified(false);
    const qulonglong value = std::min<qulonglong>(seed_->text().toULongLong(), 0xffffffffULL);
    desk_.document.change("Seed", [&](StudyState& s) { s.brief.seed = static_cast<std::uint32_t>(value); });
  });
  lock_ = new QToolButton;
  lock_->setCheckable(true);
  lock_->setAccessibleName("Keep the seed");
  connect(lock_, &QToolButton::clicked, this, [this](bool locked) {
    desk_.document.change(locked ? "Keep the seed" : "New seed at every pull",
                          [&](StudyState& s) { s.brief.seedLocked = locked; });
  });
  dice_ = new QToolButton;
  setIcon(*dice_, "dice");
  dice_->setAccessibleName("Throw a new seed");
  dice_->setToolTip("Throw a new seed (Ctrl+D)");
  dice_->setShortcut(QKeySequence("Ctrl+D"));
  connect(dice_, &QToolButton::clicked, this,
          [this] { desk_.document.change("New seed", [](StudyState& s) { s.brief.seed = std::random_device{}(); }); });
  stepCount_ = new ScrubField;
  stepCount_->setUp(limits::steps);
  stepCount_->setAccessibleName("Steps");
  stepCount_->setToolTip("Steps: more are slower and give ranges finer places to end");
  connect(stepCount_, &ScrubField::edited, this, [this](double value) {
    desk_.document.change(
        "Steps", [&](StudyState& s) { s.brief.steps = static_cast<int>(value); }, "steps");
  });
  guidance_ = new ScrubField;
  guidance_->setUp(limits::guidance);
  guidance_->setAccessibleName("Guidance");
  guidance_->setToolTip("Guidance: how hard the prompt is obeyed");
  connect(guidance_, &ScrubField::edited, this, [this](double value) {
    desk_.document.change(
        "Guidance", [&](StudyState& s) { s.brief.guidance = value; }, "guidance");
  });
  for (const auto& [field, setting] : {std::pair{stepCount_, Setting::steps}, {guidance_, Setting::guidance}}) {
    field->offerStrip();
    connect(field, &ScrubField::stripAsked, this, [this, setting = setting] {
      emit desk_.stripAsked({setting, "", {}, {}});
    });
  }
  for (ScrubField* field : {stepCount_, guidance_}) {
    field->setFixedWidth(58);
    connect(field, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  }
  row->addWidget(noteLabel("Seed"));
  row->addWidget(seed_, 1);
  row->addWidget(lock_);
  row->addWidget(dice_);
  row->addSpacing(6);
  row->addWidget(noteLabel("Steps"));
  row->addWidget(stepCount_);
  row->addSpacing(4);
  row->addWidget(noteLabel("Guidance"));
  row->addWidget(guidance_);
  return always;
}

PromptEdit& BriefPanel::prompt() { return words_->prompt(); }

void BriefPanel::setPoseWordsShown(bool shown) { words_->setPoseWordsShown(shown); }

void BriefPanel::showLeaf(Leaf leaf) {
  QWidget* shown = leaves_[static_cast<std::size_t>(leaf)];
  tabs_[static_cast<std::size_t>(leaf)]->setChecked(true);
  if (pulledUp_)
    scroll_->ensureWidgetVisible(shown, 0, 30);
  else
    stack_->setCurrentWidget(shown);
}

/// Leaves into the stack, or one under the other.
void BriefPanel::arrange() {
  std::size_t current = 0;
  for (std::size_t i = 0; i < leafCount; ++i)
    if (tabs_[i]->isChecked()) current = i;
  const QPointer<QWidget> focused = focusWidget();
  while (QLayoutItem* item = all_->takeAt(0)) delete item;
  for (std::size_t i = 0; i < leafCount; ++i) {
    tabs_[i]->setVisible(!pulledUp_);
    titles_[i]->setVisible(pulledUp_ && i > 0);
    if (pulledUp_) {
      stack_->removeWidget(leaves_[i]);
      if (i > 0) all_->addWidget(titles_[i]);
      all_->addWidget(leaves_[i], i == 0 ? 1 : 0);
      leaves_[i]->show();
    } else {
      stack_->addWidget(leaves_[i]);
    }
  }
  stack_->setVisible(!pulledUp_);
  scroll_->setVisible(pulledUp_);
  if (!pulledUp_) stack_->setCurrentWidget(leaves_[current]);
  pull_->setText(pulledUp_ ? "fold" : "all leaves");
  pull_->setToolTip(pulledUp_ ? "One leaf at a time (F4)" : "All leaves at once (F4)");
  if (focused != nullptr && focused->isVisibleTo(this)) focused->setFocus();
}

void BriefPanel::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  fitHead();
  const bool up = event->size().height() >= roomForAll;
  if (up == pulledUp_) return;
  pulledUp_ = up;
  arrange();
  refresh();
}

/// The leaves name themselves: the heading goes where there is no room for both.
void BriefPanel::fitHead() {
  constexpr int gaps = 5 * (leafCount + 2) + 12;
  int wanted = title_->sizeHint().width() + pull_->sizeHint().width() + gaps;
  for (const QToolButton* tab : tabs_) wanted += tab->minimumWidth();
  title_->setVisible(pulledUp_ || wanted <= width());
}

void BriefPanel::refresh() {
  const Brief& brief = desk_.document.state().brief;
  // A leaf names what acts on it, so that nothing acts unseen.
  const QString heavier = brief.emphasis.empty() ? "Words" : QString("Words %1").arg(brief.emphasis.size());
  const QString styles = brief.styles.empty() ? "Styles" : QString("Styles %1").arg(brief.styles.size());
  const QString start = brief.start.given() ? QString("Start %1").arg(brief.start.change, 0, 'f', 2) : "Start";
  const QString colours = brief.colours.empty() ? "Colours" : QString("Colours %1").arg(brief.colours.size());
  const QString vary = brief.vary > 0 ? QString("Steps %1").arg(brief.vary, 0, 'f', 2) : "Steps";
  const std::array<QString, leafCount> names = {heavier, styles, colours, start, vary};
  for (std::size_t i = 0; i < leafCount; ++i) {
    tabs_[i]->setText(names[i]);
    tabs_[i]->setMinimumWidth(tabs_[i]->fontMetrics().horizontalAdvance(names[i]) + 22);
    titles_[i]->setText(i == 3 && !brief.start.given() ? "Start picture" : names[i]);
  }
  fitHead();
  tabs_[0]->setToolTip(brief.emphasis.empty() ? QString("Prompt and avoid")
                                              : QString("%1 phrases count more or less").arg(brief.emphasis.size()));
  tabs_[1]->setToolTip("Style cards with strengths");
  tabs_[2]->setToolTip("Colours that the picture should have");
  tabs_[3]->setToolTip("A picture to start from, and how far it may be left");
  tabs_[4]->setToolTip("Variations of the seed, and kept briefs");
  if (!seed_->isModified() || seed_->text().isEmpty()) seed_->setText(QString::number(brief.seed));
  lock_->setChecked(brief.seedLocked);
  setIcon(*lock_, brief.seedLocked ? "lock" : "unlock");
  lock_->setToolTip(brief.seedLocked ? "The seed is kept: only what you change differs"
                                     : "Every pull throws a new seed");
  stepCount_->showValue(brief.steps);
  guidance_->showValue(brief.guidance);
}

}  // namespace hscaffold::app
