#include "app/sheet/reading_panel.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/document/study_edits.h"
#include "app/sheet/effect_curves.h"
#include "app/theme/theme.h"
#include "app/widgets/note_label.h"
#include "core/find/search.h"

namespace hscaffold::app {

ReadingPanel::ReadingPanel(Desk& desk, SheetModel& model, QWidget* parent)
    : QFrame(parent), desk_(desk), model_(model) {
  setObjectName("reading");
  setProperty("role", "reading");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(14, 8, 12, 10);
  auto* words = new QVBoxLayout;
  words->setSpacing(2);
  auto* title = new QLabel("What this sheet says");
  title->setFont(textFont(9.5, QFont::DemiBold));
  sentence_ = new QLabel;
  sentence_->setObjectName("sentence");
  sentence_->setWordWrap(true);
  doubt_ = noteLabel();
  doubt_->setObjectName("reading doubt");
  doubt_->setWordWrap(true);
  sizes_ = noteLabel();
  sizes_->setObjectName("what small proofs are worth");
  sizes_->setWordWrap(true);
  curves_ = new EffectCurves;
  words->addWidget(title);
  words->addWidget(sentence_);
  words->addWidget(doubt_);
  words->addWidget(curves_);
  words->addWidget(sizes_);
  row->addLayout(words, 1);
  auto* buttons = new QVBoxLayout;
  const auto button = [&](const QString& text, const char* name, const QString& tip, auto&& run) {
    auto* made = new QPushButton(text);
    made->setObjectName(name);
    made->setToolTip(tip);
    connect(made, &QPushButton::clicked, this, run);
    buttons->addWidget(made);
    return made;
  };
  set_ = button({}, "set advised", "Bring these settings into the study; the rest stays as it is",
                &ReadingPanel::setAdvised);
  next_ = button("Next proposal", "next proposal", "Show the proposals one after the other, beside the reference (P)",
                 &ReadingPanel::nextProposalAsked);
  stop_ = button({}, "stop search", {}, [this] {
    const std::int64_t sheet = desk_.document.state().looking.sheet;
    if (desk_.finder.searching(sheet))
      desk_.finder.stop(sheet);
    else
      desk_.finder.goOn(sheet);
  });
  again_ = button("Over 3 seeds", "over seeds",
                  "Pull the same strip with two more seeds: how far seeds differ says what a difference is worth",
                  &ReadingPanel::pullOverSeeds);
  trial_ = button("One at full size", "try full size",
                  "Pull one of them at full size, too: it says what small proofs of this engine are worth",
                  [this] { desk_.sizeTrials.begin(desk_.document.state().looking.sheet); });
  row->addLayout(buttons);
  connect(&desk_.finder, &Finder::changed, this, [this](qint64 number) {
    if (number == desk_.document.state().looking.sheet) read();
  });
  // Proofs of another study may have the same numbers.
  connect(&desk_.document, &StudyDocument::replaced, this, [this] {
    searchRead_ = 0;
    read();
  });
  connect(&desk_.sizeTrials, &SizeTrials::changed, this, [this] { readSizes(model_.sheet()); });
}

void ReadingPanel::read() {
  const SheetInfo* sheet = model_.sheet();
  setVisible(sheet != nullptr);
  const bool search = sheet != nullptr && sheet->plan.search.has_value();
  for (QPushButton* button : {next_, stop_}) button->setVisible(search);
  readSizes(sheet);
  if (search) return readSearch(*sheet);
  searchRead_ = 0;
  proposed_.clear();
  curves_->show({}, {});
  reading_ = sheet != nullptr ? readingOf(sheet->plan, model_.measured(), chanceKnownFor(*sheet)) : SheetReading{};
  // While cells are still coming, what they say is not to be acted on.
  const bool coming = sheet != nullptr && desk_.queue.waiting(sheet->number) > 0;
  sentence_->setText((coming ? "So far. " : "") + QString::fromStdString(reading_.sentence));
  doubt_->setText(QString::fromStdString(reading_.doubt));
  doubt_->setVisible(!reading_.doubt.empty());
  set_->setVisible(!coming && !reading_.button.empty());
  set_->setText(QString::fromStdString(reading_.button));
  again_->setVisible(sheet != nullptr && !sheet->plan.axes.empty() && sheet->plan.seeds.size() < 3 && !coming);
  std::set<std::int64_t> outlined;
  for (const ProofInfo* proof : model_.proofs())
    if (std::find(reading_.evidence.begin(), reading_.evidence.end(), proof->cell) != reading_.evidence.end())
      outlined.insert(proof->number);
  emit restsOn(sheet != nullptr ? outlined : std::set<std::int64_t>());
}

void ReadingPanel::readSizes(const SheetInfo* sheet) {
  const QString words = sheet != nullptr ? desk_.sizeTrials.about(sheet->number) : QString();
  sizes_->setText(words);
  sizes_->setVisible(!words.isEmpty());
  trial_->setVisible(sheet != nullptr && desk_.sizeTrials.wantedFor(sheet->number));
}

/// A sheet of seeds with the same settings knows how far they differ.
std::optional<KnownChance> ReadingPanel::chanceKnownFor(const SheetInfo& sheet) const {
  if (sheet.plan.seeds.size() > 1) return {};
  const std::string& guide = model_.guideLookedAt();
  for (const SheetInfo& other : desk_.proofs.sheets()) {
    if (other.plan.search || !other.plan.axes.empty() || other.plan.seeds.size() < 3) continue;
    Recipe base = other.plan.base;
    base.brief.seed = sheet.plan.base.brief.seed;
    if (!(base == sheet.plan.base)) continue;
    std::vector<MeasuredCell> cells;
    for (const ProofInfo& proof : desk_.proofs.all())
      if (proof.sheet == other.number)
        if (const auto hold = hscaffold::holdOf(proof, guide))
          cells.push_back({proof.cell, *hold, proof.shift.value_or(0)});
    if (const auto spread = spreadOf(cells)) return KnownChance{*spread, nameOf(other)};
  }
  return {};
}

void ReadingPanel::pullOverSeeds() {
  const SheetInfo* sheet = model_.sheet();
  if (sheet == nullptr) return;
  SheetPlan plan = sheet->plan;
  while (plan.seeds.size() < 3) plan.seeds.push_back(plan.seeds.back() + 1);
  if (const std::int64_t made = desk_.queue.pullSheet(plan); made > 0)
    desk_.document.look([&](Looking& looking) { looking.sheet = made; });
}

void ReadingPanel::setAdvised() {
  const SheetInfo* sheet = model_.sheet();
  if (sheet != nullptr && sheet->plan.search) {
    if (!proposed_.empty()) adoptProofOf(desk_, proposed_.front());
    return;
  }
  if (sheet == nullptr || !reading_.advised) return;
  const CellPlace place = placeOf(sheet->plan, *reading_.advised);
  std::vector<std::string> missing;
  desk_.document.change(QString::fromStdString(reading_.button), [&](StudyState& s) {
    for (std::size_t i = 0; i < sheet->plan.axes.size(); ++i)
      if (!setValue(s, sheet->plan.axes[i], static_cast<std::size_t>(i == 0 ? place.across : place.down)))
        missing.push_back(nameOf(sheet->plan.axes[i], sheet->plan.base));
  });
  for (const std::string& name : missing)
    emit desk_.notice(
        QString("%1 could not be set: it is not in the study any more.").arg(QString::fromStdString(name)));
  if (missing.empty()) emit desk_.notice(QString::fromStdString(reading_.button) + ": done. The Bench has it now.");
}

/// What a search found so far; reckoned elsewhere, for it takes its time.
void ReadingPanel::readSearch(const SheetInfo& sheet) {
  const bool going = desk_.finder.searching(sheet.number);
  again_->hide();
  reading_ = {};
  if (std::exchange(searchRead_, sheet.number) != sheet.number) {
    proposed_.clear();
    emit restsOn({});
    sentence_->setText("Nothing was tried yet.");
    curves_->show({}, {});
    for (QWidget* of : std::initializer_list<QWidget*>{set_, doubt_}) of->hide();
  }
  next_->setVisible(!proposed_.empty());
  stop_->setText(going ? "Stop" : "Go on");
  stop_->setToolTip(going ? "Stop looking; what is there stays" : "Look on, as far as the budget goes");
  stop_->setVisible(going || desk_.finder.hasRoom(sheet.number));
  struct Found {
    Findings findings;
    std::vector<Tried> tried;
  };
  desk_.tasks.run(
      this, "findings", Priority::facts,
      [plan = findPlanOf(sheet.plan), tried = desk_.finder.tried(sheet)](const StopToken&) {
        return Found{findingsOf(plan, tried), tried};
      },
      [this, number = sheet.number](const Found& found) {
        const SheetInfo* of = model_.sheet();
        if (of != nullptr && of->number == number && of->plan.search) showFindings(*of, found.findings, found.tried);
      });
}

void ReadingPanel::showFindings(const SheetInfo& sheet, const Findings& findings, const std::vector<Tried>& tried) {
  const bool going = desk_.finder.searching(sheet.number);
  sentence_->setText((going ? "So far. " : "") + QString::fromStdString(findings.verdict));
  QStringList more;
  for (std::size_t i = 1; i < findings.proposals.size(); ++i)
    more << "Or " + QString::fromStdString(findings.proposals[i].sentence);
  doubt_->setText(more.join('\n'));
  doubt_->setVisible(!more.isEmpty());
  curves_->show(findPlanOf(sheet.plan), findings.effects);
  // The proofs of what is proposed: every seed has one, the first is shown.
  proposed_.clear();
  std::set<std::int64_t> outlined;
  const auto& choices = sheet.plan.search->choices;
  for (const Proposal& proposal : findings.proposals) {
    const auto at = std::find(choices.begin(), choices.end(), tried[proposal.tried].choice) - choices.begin();
    const int cell = cellAt(sheet.plan, {static_cast<int>(at), 0, 0});
    for (const ProofInfo* proof : model_.proofs())
      if (proof->cell == cell) {
        proposed_.push_back(proof->number);
        outlined.insert(proof->number);
      }
  }
  emit restsOn(outlined);
  set_->setVisible(!going && !proposed_.empty());
  set_->setText("Adopt the best");
  next_->setVisible(!proposed_.empty());
}

}  // namespace hscaffold::app
