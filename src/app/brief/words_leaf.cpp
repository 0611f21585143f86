#include "app/brief/words_leaf.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "app/widgets/note_label.h"
#include "core/brief/recipe.h"

namespace hscaffold::app {
namespace {

constexpr int mostEarlier = 15;

QString shortened(const std::string& text) {
  const QString line = QString::fromStdString(text).simplified();
  return line.size() > 70 ? line.left(69) + "\u2026" : line;
}

}  // namespace

WordsLeaf::WordsLeaf(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(5);
  prompt_ = new PromptEdit;
  prompt_->setObjectName("prompt");
  prompt_->setPlaceholderText("What to make: subject, place, weather, time of day, medium");
  prompt_->setAccessibleName("Prompt");
  prompt_->setMinimumHeight(66);
  prompt_->setToolTip(
      "Dotted: words the stand-in knows. Select a phrase and drag its number up or down: it counts more or less.");
  const auto followEngine = [this] { prompt_->setWords(desk_.queue.engineInfo()->words); };
  connect(&desk_, &Desk::enginesChanged, prompt_, followEngine);
  connect(&desk_.document, &StudyDocument::changed, prompt_, [followEngine](const Changes& changes) {
    if (changes.engine) followEngine();
  });
  followEngine();
  connect(prompt_, &PromptEdit::promptEdited, this, [this](const std::string& text) {
    desk_.document.change(
        "Prompt", [&](StudyState& s) { s.brief.prompt = fittedText(text, longestPrompt); }, "prompt");
  });
  connect(prompt_, &PromptEdit::emphasisEdited, this, [this](const std::vector<Emphasis>& emphasis) {
    desk_.document.change(
        "Emphasis", [&](StudyState& s) { s.brief.emphasis = emphasis; }, "emphasis");
  });
  connect(prompt_, &PromptEdit::finished, this, [this] { desk_.document.seal(); });
  column->addWidget(prompt_, 1);

  avoid_ = new QLineEdit;
  avoid_->setObjectName("avoid");
  avoid_->setPlaceholderText("Avoid");
  avoid_->setAccessibleName("Avoid");
  connect(avoid_, &QLineEdit::textEdited, this, [this](const QString& text) {
    desk_.document.change(
        "Avoid", [&](StudyState& s) { s.brief.avoid = fittedText(text.toStdString(), longestPrompt); }, "avoid");
  });
  connect(avoid_, &QLineEdit::editingFinished, this, [this] { desk_.document.seal(); });
  earlier_ = new QToolButton;
  earlier_->setObjectName("earlier words");
  earlier_->setText("Earlier");
  earlier_->setProperty("role", "link");
  earlier_->setToolTip("Words of earlier proofs");
  connect(earlier_, &QToolButton::clicked, this, &WordsLeaf::offerEarlier);
  poseWords_ = new QToolButton;
  poseWords_->setObjectName("pose words");
  poseWords_->setText("Add pose words");
  poseWords_->setProperty("role", "link");
  poseWords_->setToolTip("Puts what the figures do into the prompt, and keeps it up to date until you edit it there");
  poseWords_->hide();
  connect(poseWords_, &QToolButton::clicked, this, &WordsLeaf::poseWordsAsked);
  auto* avoidRow = new QHBoxLayout;
  avoidRow->setSpacing(6);
  avoidRow->addWidget(avoid_, 1);
  avoidRow->addWidget(poseWords_);
  avoidRow->addWidget(earlier_);
  column->addLayout(avoidRow);

  shows_ = field("shows", "what the start picture shows", &StartPicture::shows);
  wanted_ = field("wanted", "what is wanted instead", &StartPicture::wanted);
  difference_ = new QWidget;
  auto* row = new QHBoxLayout(difference_);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  row->addWidget(noteLabel("Shows now"));
  row->addWidget(shows_, 1);
  row->addWidget(noteLabel("wanted"));
  row->addWidget(wanted_, 1);
  difference_->setToolTip("From words to words: only the difference between the two acts, the rest stays as it is.");
  column->addWidget(difference_);
  left_ = noteLabel();
  left_->setObjectName("words left");
  left_->setWordWrap(true);
  column->addWidget(left_);
  bounds_ = noteLabel();
  bounds_->setObjectName("bounds of the change");
  column->addWidget(bounds_);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.brief)
      refresh();
    else if (changes.guideList || !changes.guides.empty())
      refreshBounds();
  });
  refresh();
}

QLineEdit* WordsLeaf::field(const QString& name, const QString& placeholder, std::string StartPicture::*words) {
  auto* edit = new QLineEdit;
  edit->setObjectName(name);
  edit->setPlaceholderText(placeholder);
  edit->setAccessibleName(placeholder);
  connect(edit, &QLineEdit::textEdited, this, [this, name, words](const QString& text) {
    desk_.document.change(
        "From words to words",
        [&](StudyState& s) { s.brief.start.*words = fittedText(text.toStdString(), longestPrompt); },
        name.toStdString());
  });
  connect(edit, &QLineEdit::editingFinished, this, [this] { desk_.document.seal(); });
  return edit;
}

void WordsLeaf::setPoseWordsShown(bool shown) { poseWords_->setVisible(shown); }

/// The words of proofs, newest first; choosing one brings prompt, emphasis and avoid back.
void WordsLeaf::offerEarlier() {
  QMenu* menu = newMenu(*this);
  std::vector<Brief> seen;
  const auto& proofs = desk_.proofs.all();
  for (auto proof = proofs.rbegin(); proof != proofs.rend() && seen.size() < mostEarlier; ++proof) {
    const Brief& brief = proof->recipe.brief;
    const bool known = std::any_of(seen.begin(), seen.end(), [&](const Brief& b) {
      return b.prompt == brief.prompt && b.avoid == brief.avoid && b.emphasis == brief.emphasis;
    });
    if (known || brief.prompt.empty()) continue;
    seen.push_back(brief);
    auto* action = menu->addAction(shortened(brief.prompt).replace('&', "&&"), this, [this, brief] {
      desk_.document.change("Earlier words", [&](StudyState& s) {
        s.brief.prompt = brief.prompt;
        s.brief.emphasis = brief.emphasis;
        s.brief.avoid = brief.avoid;
      });
    });
    if (!brief.avoid.empty()) action->setToolTip("Avoid: " + shortened(brief.avoid));
  }
  if (menu->isEmpty()) menu->addAction("No proof has been pulled yet")->setEnabled(false);
  menu->setToolTipsVisible(true);
  menu->popup(earlier_->mapToGlobal(QPoint(0, earlier_->height())));
}

void WordsLeaf::refresh() {
  const Brief& brief = desk_.document.state().brief;
  prompt_->show(brief.prompt, brief.emphasis);
  const auto follow = [](QLineEdit* edit, const std::string& text) {
    if (edit->text().toStdString() != text) edit->setText(QString::fromStdString(text));
  };
  follow(avoid_, brief.avoid);
  follow(shows_, brief.start.shows);
  follow(wanted_, brief.start.wanted);
  difference_->setVisible(brief.start.given() || !brief.start.shows.empty() || !brief.start.wanted.empty());
  const auto engine = desk_.queue.engine();
  QStringList left;
  if (engine)
    for (const std::string& word : engine->wordsLeft(brief)) left << "\u201c" + QString::fromStdString(word) + "\u201d";
  left.removeDuplicates();
  left_->setText(left.size() == 1
                     ? left.front() + " is too small to be placed: its colour is left as it is."
                     : left.join(", ") + " are too small to be placed: their colours are left as they are.");
  left_->setVisible(!left.empty());
  refreshBounds();
}

/// Apart from the rest: guides change with every move of a weight.
void WordsLeaf::refreshBounds() {
  const StudyState& state = desk_.document.state();
  QStringList regions;
  for (const Guide& guide : state.guides)
    if (boundsChange(guide, state.brief.start)) regions << "“" + QString::fromStdString(guide.name) + "”";
  if (!regions.empty())
    bounds_->setText("Acts only in the region of " + regions.join(" and of ") + ", which the words name.");
  bounds_->setVisible(!regions.empty());
}

}  // namespace hscaffold::app
