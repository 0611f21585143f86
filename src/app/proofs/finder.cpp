#include "app/proofs/finder.h"

#include "app/document/study_document.h"
#include "app/proofs/proof_shelf.h"
#include "app/proofs/pull_queue.h"
#include "app/tasks/task_runner.h"
#include "core/image/png.h"

namespace hscaffold::app {

Finder::Finder(StudyDocument& document, ProofShelf& shelf, PullQueue& queue, TaskRunner& tasks, QObject* parent)
    : QObject(parent), shelf_(shelf), queue_(queue), tasks_(tasks) {
  connect(&document, &StudyDocument::closing, this, [this] {
    going_.clear();
    choosing_.clear();
    likeness_.clear();
    unlike_.clear();
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

std::vector<Tried> Finder::tried(const SheetInfo& info) {
  const FindPlan plan = findPlanOf(info.plan);
  const bool like = plan.look.wish == LookGoal::Wish::like;
  if (like) measureLikeness(info);
  std::map<int, hscaffold::Outcome> cells;
  // Those that were put away were measured as well.
  for (const ProofInfo& proof : shelf_.all()) {
    if (proof.sheet != info.number) continue;
    std::optional<double> look = proof.shift;
    if (like) {
      const auto found = likeness_.find({plan.look.proof, proof.number});
      if (found == likeness_.end()) continue;
      look = found->second;
    }
    cells[proof.cell] = outcomeOf(plan, proof.holds, look);
  }
  return triedIn(plan, cells);
}

bool Finder::hasTime(const SheetInfo& info) const {
  const double most = info.plan.search->minutes;
  double spent = 0;
  for (const ProofInfo& proof : shelf_.all())
    if (proof.sheet == info.number) spent += proof.milliseconds / 60'000;
  // So many ran side by side.
  return most <= 0 || spent / std::max(1, queue_.engineInfo()->lanes) < most;
}

bool Finder::measureLikeness(const SheetInfo& info) {
  if (info.plan.search->look.wish != LookGoal::Wish::like) return true;
  const std::int64_t wanted = info.plan.search->look.proof;
  std::vector<std::int64_t> missing;
  for (const ProofInfo& proof : shelf_.all())
    if (proof.sheet == info.number && !likeness_.contains({wanted, proof.number}) && !unlike_.contains(proof.number))
      missing.push_back(proof.number);
  if (missing.empty()) return true;
  struct Measured {
    std::map<std::int64_t, double> likeness;
    std::string trouble;
  };
  tasks_.run(
      this, "likeness " + std::to_string(info.number), Priority::facts,
      [missing, wanted, read = shelf_.reader()](const StopToken& stop) {
        Measured out;
        try {
          const ShiftGround ground(decodePngRgb8(read(wanted)), stop);
          for (const std::int64_t number : missing)
            out.likeness[number] = likenessOf(ground, decodePngRgb8(read(number)), stop);
        } catch (const Cancelled&) {
          throw;
        } catch (const std::exception& error) {
          out.trouble = error.what();
        }
        return out;
      },
      [this, missing, wanted, sheet = info.number](const Measured& measured) {
        for (const auto& [number, likeness] : measured.likeness) likeness_[{wanted, number}] = likeness;
        for (const std::int64_t number : missing)
          if (!measured.likeness.contains(number)) unlike_.insert(number);
        if (!measured.trouble.empty())
          emit problem(QString("How like proof %1 they are could not be told: %2")
                           .arg(wanted)
                           .arg(QString::fromStdString(measured.trouble)));
        emit changed(sheet);
        look();
      });
  return false;
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
  return hasTime(*info) && (!missingOf(*info).empty() || info->plan.cells() + seeds <= info->plan.search->budget);
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
  if (!measureLikeness(*info)) return;
  auto tried = this->tried(*info);
  // Nothing of the last round came, or somebody did not want it: going on is theirs to ask for.
  const auto& choices = info->plan.search->choices;
  if (tried.empty() || !(tried.back().choice == choices.back()) || !hasTime(*info)) return end(sheet);
  choosing_.insert(sheet);
  const int lanes = queue_.engineInfo()->lanes;
  tasks_.run(
      this, "find " + std::to_string(sheet), Priority::facts,
      [plan = findPlanOf(info->plan), tried = std::move(tried), lanes](const StopToken& stop) {
        return nextChoices(plan, tried, std::max(1, lanes / static_cast<int>(plan.seeds.size())), {}, stop);
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
