#include "app/proofs/finder.h"

#include "app/document/study_document.h"
#include "app/proofs/proof_shelf.h"
#include "app/proofs/pull_queue.h"
#include "app/tasks/task_runner.h"

namespace hscaffold::app {

std::vector<Tried> triedIn(const ProofShelf& shelf, const SheetInfo& info) {
  const FindPlan plan = findPlanOf(info.plan);
  std::map<int, hscaffold::Outcome> cells;
  // Those that were put away were measured as well.
  for (const ProofInfo& proof : shelf.all())
    if (proof.sheet == info.number) cells[proof.cell] = outcomeOf(plan, proof.holds, proof.shift);
  return triedIn(plan, cells);
}

Finder::Finder(StudyDocument& document, ProofShelf& shelf, PullQueue& queue, TaskRunner& tasks, QObject* parent)
    : QObject(parent), shelf_(shelf), queue_(queue), tasks_(tasks) {
  connect(&document, &StudyDocument::replaced, this, [this] {
    going_.clear();
    choosing_.clear();
  });
  connect(&queue_, &PullQueue::changed, this, &Finder::look);
}

std::int64_t Finder::begin(const FindPlan& plan) {
  SheetPlan sheet{plan.base, {}, plan.seeds, static_cast<const Search&>(plan)};
  // The first choices follow from the plan alone.
  sheet.search->choices = nextChoices(plan, {}, firstChoices(plan));
  const std::int64_t number = queue_.pullSheet(sheet);
  if (number == 0) return 0;
  going_.insert(number);
  emit changed(number);
  return number;
}

std::vector<int> Finder::missingOf(const SheetInfo& info) const {
  std::set<int> there;
  for (const ProofInfo& proof : shelf_.all())
    if (proof.sheet == info.number) there.insert(proof.cell);
  std::vector<int> missing;
  for (int cell = 0; cell < info.plan.cells(); ++cell)
    if (!there.contains(cell)) missing.push_back(cell);
  return missing;
}

bool Finder::hasRoom(std::int64_t sheet) const {
  const SheetInfo* info = shelf_.sheet(sheet);
  if (info == nullptr || !info->plan.search) return false;
  const int seeds = static_cast<int>(info->plan.seeds.size());
  return !missingOf(*info).empty() || info->plan.cells() + seeds <= info->plan.search->budget;
}

void Finder::goOn(std::int64_t sheet) {
  if (searching(sheet) || !hasRoom(sheet)) return;
  going_.insert(sheet);
  emit changed(sheet);
  // What was stopped is tried after all.
  const auto missing = missingOf(*shelf_.sheet(sheet));
  if (missing.empty()) return look();
  shelf_.endSheet(sheet, missing);
  queue_.resume(sheet);
}

void Finder::stop(std::int64_t sheet) {
  end(sheet);
  queue_.leave(sheet);
}

void Finder::end(std::int64_t sheet) {
  choosing_.erase(sheet);
  tasks_.stop("find " + std::to_string(sheet));
  if (going_.erase(sheet) > 0) emit changed(sheet);
}

void Finder::look() {
  const auto going = going_;
  for (const std::int64_t sheet : going)
    if (!choosing_.contains(sheet) && queue_.waiting(sheet) == 0) choose(sheet);
}

void Finder::choose(std::int64_t sheet) {
  const SheetInfo* info = shelf_.sheet(sheet);
  if (info == nullptr) return end(sheet);
  auto tried = triedIn(shelf_, *info);
  // Nothing of the last round came, or somebody did not want it: going on is theirs to ask for.
  const auto& choices = info->plan.search->choices;
  if (tried.empty() || !(tried.back().choice == choices.back())) return end(sheet);
  choosing_.insert(sheet);
  const int lanes = queue_.engineInfo()->lanes;
  tasks_.run(
      this, "find " + std::to_string(sheet), Priority::facts,
      [plan = findPlanOf(info->plan), tried = std::move(tried), lanes](const StopToken&) {
        return nextChoices(plan, tried, std::max(1, lanes / static_cast<int>(plan.seeds.size())));
      },
      [this, sheet](const std::vector<Choice>& next) {
        choosing_.erase(sheet);
        if (!searching(sheet)) return;
        if (next.empty()) return end(sheet);
        shelf_.growSheet(sheet, next);
        queue_.resume(sheet);
      });
}

}  // namespace hscaffold::app
