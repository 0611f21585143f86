#include "app/bench/brief_panel.h"

#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QRegularExpressionValidator>
#include <QSignalBlocker>
#include <QSyntaxHighlighter>
#include <QToolButton>
#include <QVBoxLayout>
#include <random>

#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "core/engine/standin/words.h"

namespace hscaffold::app {
namespace {

/// Words that the stand-in knows are underlined, so that it is seen what it will act on.
class KnownWords : public QSyntaxHighlighter {
 public:
  explicit KnownWords(QTextDocument* document) : QSyntaxHighlighter(document) {
    for (const auto& word : standin::lexiconWords())
      known_.insert(QString::fromUtf8(word.word.data(), static_cast<qsizetype>(word.word.size())));
  }

 protected:
  void highlightBlock(const QString& text) override {
    static const QRegularExpression word("[\\w]+");
    QTextCharFormat format;
    format.setUnderlineStyle(QTextCharFormat::DotLine);
    format.setUnderlineColor(theme().accent);
    for (auto found = word.globalMatch(text); found.hasNext();) {
      const auto match = found.next();
      const QString lower = match.captured().toLower();
      if (known_.contains(lower) || (lower.size() > 3 && lower.endsWith('s') && known_.contains(lower.chopped(1))))
        setFormat(static_cast<int>(match.capturedStart()), static_cast<int>(match.capturedLength()), format);
    }
  }

 private:
  QSet<QString> known_;
};

QLabel* noteLabel(const QString& text) {
  auto* label = new QLabel(text);
  label->setProperty("role", "note");
  label->setFont(textFont(9));
  return label;
}

}  // namespace

BriefPanel::BriefPanel(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 10, 12, 10);
  column->setSpacing(7);
  auto* title = new QLabel("Brief");
  title->setProperty("role", "title");
  auto* head = new QHBoxLayout;
  head->addWidget(title);
  head->addStretch(1);
  poseWords_ = new QToolButton;
  poseWords_->setObjectName("pose words");
  poseWords_->setText("Add pose words");
  poseWords_->setProperty("role", "link");
  poseWords_->setToolTip("Puts what the figures do into the prompt, and keeps it up to date until you edit it there");
  poseWords_->hide();
  connect(poseWords_, &QToolButton::clicked, this, &BriefPanel::poseWordsAsked);
  head->addWidget(noteLabel("dotted: words the stand-in knows"));
  head->addWidget(poseWords_);
  column->addLayout(head);

  prompt_ = new QPlainTextEdit;
  prompt_->setPlaceholderText("What to make: subject, place, weather, time of day, medium");
  prompt_->setAccessibleName("Prompt");
  prompt_->setTabChangesFocus(true);
  prompt_->setMinimumHeight(46);
  prompt_->installEventFilter(this);
  auto* known = new KnownWords(prompt_->document());
  connect(prompt_, &QPlainTextEdit::textChanged, this, [this] {
    const std::string text = fittedText(prompt_->toPlainText().toStdString(), longestPrompt);
    desk_.document.change(
        "Prompt", [&](StudyState& s) { s.brief.prompt = text; }, "prompt");
  });
  column->addWidget(prompt_, 1);

  avoid_ = new QLineEdit;
  avoid_->setPlaceholderText("Avoid");
  avoid_->setAccessibleName("Avoid");
  connect(avoid_, &QLineEdit::textEdited, this, [this](const QString& text) {
    desk_.document.change(
        "Avoid", [&](StudyState& s) { s.brief.avoid = fittedText(text.toStdString(), longestPrompt); }, "avoid");
  });
  connect(avoid_, &QLineEdit::editingFinished, this, [this] { desk_.document.seal(); });
  column->addWidget(avoid_);

  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(2);
  grid->addWidget(noteLabel("Seed"), 0, 0);
  grid->addWidget(noteLabel("Steps"), 0, 1);
  grid->addWidget(noteLabel("Guidance"), 0, 2);
  seed_ = new QLineEdit;
  seed_->setAccessibleName("Seed");
  seed_->setValidator(new QRegularExpressionValidator(QRegularExpression("\\d{1,10}"), seed_));
  connect(seed_, &QLineEdit::editingFinished, this, [this] {
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
  auto* seedRow = new QHBoxLayout;
  seedRow->setSpacing(3);
  seedRow->addWidget(seed_, 1);
  seedRow->addWidget(lock_);
  seedRow->addWidget(dice_);
  grid->addLayout(seedRow, 1, 0);
  steps_ = new ScrubField;
  steps_->setUp(fewestSteps, mostSteps, 1, 0, 20);
  steps_->setAccessibleName("Steps");
  steps_->setToolTip("Steps: more are slower and give ranges finer places to end");
  connect(steps_, &ScrubField::edited, this, [this](double value) {
    desk_.document.change(
        "Steps", [&](StudyState& s) { s.brief.steps = static_cast<int>(value); }, "steps");
  });
  guidance_ = new ScrubField;
  guidance_->setUp(0, largestGuidance, 0.5, 1, 6.5);
  guidance_->setAccessibleName("Guidance");
  guidance_->setToolTip("Guidance: how hard the prompt is obeyed");
  connect(guidance_, &ScrubField::edited, this, [this](double value) {
    desk_.document.change(
        "Guidance", [&](StudyState& s) { s.brief.guidance = value; }, "guidance");
  });
  for (ScrubField* field : {steps_, guidance_})
    connect(field, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  grid->addWidget(steps_, 1, 1);
  grid->addWidget(guidance_, 1, 2);
  grid->setColumnStretch(0, 3);
  grid->setColumnStretch(1, 1);
  grid->setColumnStretch(2, 1);
  column->addLayout(grid);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.brief) refresh();
  });
  connect(&themeSignals(), &ThemeSignals::changed, this, [known] { known->rehighlight(); });
  refresh();
}

void BriefPanel::setPoseWordsShown(bool shown) { poseWords_->setVisible(shown); }

bool BriefPanel::eventFilter(QObject* watched, QEvent* event) {
  if (watched == prompt_ && event->type() == QEvent::FocusOut) desk_.document.seal();
  return QWidget::eventFilter(watched, event);
}

void BriefPanel::refresh() {
  const Brief& brief = desk_.document.state().brief;
  const QString prompt = QString::fromStdString(brief.prompt);
  if (prompt_->toPlainText() != prompt) {
    const QSignalBlocker quiet(prompt_);
    prompt_->setPlainText(prompt);
  }
  if (avoid_->text().toStdString() != brief.avoid) avoid_->setText(QString::fromStdString(brief.avoid));
  if (!seed_->hasFocus() || seed_->text().isEmpty()) seed_->setText(QString::number(brief.seed));
  lock_->setChecked(brief.seedLocked);
  setIcon(*lock_, brief.seedLocked ? "lock" : "unlock");
  lock_->setToolTip(brief.seedLocked ? "The seed is kept: only what you change differs"
                                     : "Every pull throws a new seed");
  steps_->showValue(brief.steps);
  guidance_->showValue(brief.guidance);
}

}  // namespace hscaffold::app
