#include "app/proofs/pull_queue.h"

#include <QElapsedTimer>
#include <QSettings>
#include <nlohmann/json.hpp>
#include <numeric>
#include <random>
#include <set>

#include "app/document/study_document.h"
#include "app/images.h"
#include "app/maps/map_room.h"
#include "app/proofs/job_sources.h"
#include "app/proofs/proof_shelf.h"
#include "app/tasks/task_runner.h"
#include "core/guide_map.h"
#include "core/study/pull_sets.h"

namespace hscaffold::app {
namespace {

constexpr qint64 previewEvery = 150;  ///< milliseconds

constexpr auto paceKey = "engines took";

std::string keyOf(std::int64_t id) { return "pull " + std::to_string(id); }

Pace keptPace() {
  const std::string text = QSettings().value(paceKey).toString().toStdString();
  return Pace::fromJson(nlohmann::json::parse(text, nullptr, false));
}

void keepPace(const Pace& pace) { QSettings().setValue(paceKey, QString::fromStdString(pace.toJson().dump())); }

/// Of the engines of a sheet, those that are here, were not left out, and did not try a cell in vain.
std::vector<std::string> stillAble(const std::vector<std::string>& names, const std::set<std::string>& leftOut,
                                   const std::set<std::string>& tried, const EngineRegistry& engines) {
  std::vector<std::string> able;
  for (const std::string& name : names)
    if (!leftOut.contains(name) && !tried.contains(name) && engines.find(name)) able.push_back(name);
  return able;
}

}  // namespace

PullQueue::PullQueue(StudyDocument& document, MapRoom& maps, ProofShelf& shelf, TaskRunner& tasks,
                     const EngineRegistry& engines, QObject* parent)
    : QObject(parent),
      document_(document),
      maps_(maps),
      shelf_(shelf),
      tasks_(tasks),
      engines_(engines),
      made_(std::make_shared<MadeMaps>(mostMadeBytes)),
      pace_(keptPace()) {
  connect(&document_, &StudyDocument::replaced, this, &PullQueue::forget);
  // A job that was stopped delivers nothing.
  connect(&tasks_, &TaskRunner::ended, this, [this](const QString& key) {
    for (const Pull& pull : pulls_)
      if (pull.running && key.toStdString() == keyOf(pull.id)) return remove(pull.id);
  });
}

std::shared_ptr<Engine> PullQueue::engine() const { return engines_.find(document_.state().engine); }

std::shared_ptr<const EngineInfo> PullQueue::engineInfo() const { return engines_.info(document_.state().engine); }

double PullQueue::estimate() const { return estimate(pullRecipeOf(document_.state())); }

double PullQueue::estimate(const Recipe& recipe) const { return estimate(document_.state().engine, recipe); }

double PullQueue::estimate(const std::string& engine, const Recipe& recipe) const {
  const auto made = engines_.find(engine);
  if (!made) return 0;
  const auto measured = engines_.info(engine)->elsewhere ? pace_.estimate(engine, recipe) : std::optional<double>();
  return measured ? *measured : made->estimate(recipe);
}

bool PullQueue::isMeasured(const std::string& engine) const { return pace_.estimate(engine, Recipe()).has_value(); }

void PullQueue::forgetPace(const std::string& engine) {
  pace_.forget(engine);
  keepPace(pace_);
}

std::vector<std::string> PullQueue::sharers() const {
  const auto own = engineInfo();
  std::vector<std::string> names;
  if (own->missing) return names;
  for (const auto& other : engines_.all())
    if (other->name != own->name && other->id == own->id && other->trouble.empty() &&
        serves(*other, document_.state().family))
      names.push_back(other->name);
  return names;
}

double PullQueue::estimate(const SheetPlan& plan) const {
  // Every value once; seeds cost the same.
  const int settings = plan.across() * plan.down();
  std::vector<std::string> names{document_.state().engine};
  names.insert(names.end(), plan.engines.begin(), plan.engines.end());
  double rate = 0;  // of sheets a millisecond
  for (const std::string& name : names) {
    double sum = 0;
    for (int cell = 0; cell < settings; ++cell) sum += estimate(name, recipeOfCell(plan, cell));
    const double whole = sum * static_cast<double>(plan.seeds.size());
    if (whole > 0) rate += std::min(engines_.info(name)->lanes, plan.cells()) / whole;
  }
  return rate > 0 ? 1 / rate : 0;
}

bool PullQueue::pulling() const {
  return std::any_of(pulls_.begin(), pulls_.end(), [](const Pull& pull) { return pull.sheet == 0; });
}

int PullQueue::waiting(std::int64_t sheet) const {
  return static_cast<int>(
      std::count_if(pulls_.begin(), pulls_.end(), [sheet](const Pull& pull) { return pull.sheet == sheet; }));
}

double PullQueue::remaining() const {
  // Engines work side by side: the one that is busy longest.
  struct Load {
    double sum = 0;
    int pulls = 0;
  };
  std::map<std::string, Load> loads;
  for (const Pull& pull : pulls_) {
    const double done = pull.steps > 0 ? static_cast<double>(pull.step) / pull.steps : 0;
    // What nobody has begun yet is shared by speed.
    const auto makers = pull.running ? std::vector{pull.engine} : makersOf(pull);
    double rate = 0;
    for (const std::string& maker : makers)
      if (const double alone = estimate(maker, pull.recipe); alone > 0) rate += engines_.info(maker)->lanes / alone;
    if (rate <= 0) continue;
    for (const std::string& maker : makers) {
      Load& load = loads[maker];
      load.sum += (1 - done) / rate * engines_.info(maker)->lanes;
      ++load.pulls;
    }
  }
  double longest = 0;
  for (const auto& [name, load] : loads)
    longest = std::max(longest, load.sum / std::min(engines_.info(name)->lanes, load.pulls));
  return longest;
}

const Pull* PullQueue::find(std::int64_t id) const {
  const auto found = std::find_if(pulls_.begin(), pulls_.end(), [id](const Pull& pull) { return pull.id == id; });
  return found != pulls_.end() ? &*found : nullptr;
}

Pull* PullQueue::held(std::int64_t id) { return const_cast<Pull*>(std::as_const(*this).find(id)); }

bool PullQueue::mayPull() {
  if (document_.file() == nullptr) return false;
  if (!engine()) {
    // No other one takes its place silently.
    emit problem(QString::fromStdString(engineMissing(document_.state().engine)));
    return false;
  }
  if (!document_.forLooking()) return true;
  emit notice("This study is open for looking. Save it under another name to pull proofs into it.");
  return false;
}

void PullQueue::pull() {
  if (pulling() || !mayPull()) return;
  // A new seed for every pull is not a step that anyone would want to take back.
  Recipe recipe = pullRecipeOf(document_.state());
  if (!document_.state().brief.seedLocked) {
    recipe.brief.seed = std::random_device{}();
    document_.changeQuietly([seed = recipe.brief.seed](StudyState& s) { s.brief.seed = seed; });
  }
  document_.seal();
  pull(std::move(recipe));
}

void PullQueue::pull(Recipe recipe) {
  if (pulling() || !mayPull()) return;
  Pull pull;
  pull.id = ++lastId_;
  pull.engine = document_.state().engine;
  pull.recipe = std::move(recipe);
  pull.steps = pull.recipe.brief.steps;
  // After those that run, before those that wait.
  const auto at = std::find_if(pulls_.begin(), pulls_.end(), [](const Pull& other) { return !other.running; });
  pulls_.insert(at, std::move(pull));
  emit started();
  emit changed();
  begin();
}

std::int64_t PullQueue::pullSheet(const SheetPlan& plan) {
  if (!mayPull()) return 0;
  try {
    checkPlan(plan);
    document_.seal();
    SheetInfo info;
    info.plan = plan;
    // Whoever goes on with it later goes on with the same engine.
    info.plan.base.engine = document_.state().engine;
    info.waiting.resize(static_cast<std::size_t>(plan.cells()));
    std::iota(info.waiting.begin(), info.waiting.end(), 0);
    const std::int64_t number = shelf_.addSheet(std::move(info));
    resume(number);
    return number;
  } catch (const std::exception& error) {
    emit problem(error.what());
    return 0;
  }
}

void PullQueue::resume(std::int64_t sheet) {
  const SheetInfo* info = shelf_.sheet(sheet);
  if (info == nullptr || waiting(sheet) > 0 || !mayPull()) return;
  failed_.erase(sheet);
  later_.erase(sheet);
  const std::string& asked = info->plan.base.engine;
  const std::string engine = asked.empty() ? document_.state().engine : asked;
  if (!engines_.find(engine)) return static_cast<void>(emit problem(QString::fromStdString(engineMissing(engine))));
  shares_.erase(sheet);
  if (!info->plan.engines.empty()) {
    Share& share = shares_[sheet];
    share.engines.push_back(engine);
    share.engines.insert(share.engines.end(), info->plan.engines.begin(), info->plan.engines.end());
  }
  for (const int cell : info->waiting) {
    Pull pull;
    pull.id = ++lastId_;
    pull.sheet = sheet;
    pull.cell = cell;
    pull.engine = engine;
    pull.recipe = recipeOfCell(info->plan, cell);
    pull.steps = pull.recipe.brief.steps;
    pulls_.push_back(std::move(pull));
  }
  emit changed();
  begin();
}

void PullQueue::leave(std::int64_t sheet) {
  std::erase_if(pulls_, [sheet](const Pull& pull) { return pull.sheet == sheet && !pull.running; });
  for (Pull& pull : pulls_)
    if (pull.sheet == sheet) {
      pull.stopped = true;
      tasks_.stop(keyOf(pull.id));
    }
  // Otherwise the last one that runs ends it.
  if (waiting(sheet) == 0) shelf_.endSheet(sheet);
  emit changed();
}

void PullQueue::stop() {
  for (const Pull& pull : pulls_)
    if (pull.sheet == 0) return drop(pull.id);
}

void PullQueue::stopAll() {
  std::set<std::int64_t> sheets;
  for (const Pull& pull : pulls_) sheets.insert(pull.sheet);
  for (const std::int64_t sheet : sheets)
    if (sheet > 0) leave(sheet);
  stop();
}

void PullQueue::drop(std::int64_t id) {
  Pull* pull = held(id);
  if (pull == nullptr) return;
  if (pull->running) {
    pull->stopped = true;
    return tasks_.stop(keyOf(id));
  }
  remove(id);
}

void PullQueue::putFirst(std::int64_t id) {
  const auto found = std::find_if(pulls_.begin(), pulls_.end(), [id](const Pull& pull) { return pull.id == id; });
  if (found == pulls_.end() || found->running) return;
  Pull pull = std::move(*found);
  pulls_.erase(found);
  pulls_.insert(std::find_if(pulls_.begin(), pulls_.end(), [](const Pull& other) { return !other.running; }),
                std::move(pull));
  emit changed();
}

void PullQueue::setPaused(bool paused) {
  paused_ = paused;
  emit changed();
  begin();
}

void PullQueue::forget() {
  const bool was = pulling();
  pulls_.clear();
  failed_.clear();
  later_.clear();
  shares_.clear();
  paused_ = false;
  made_ = std::make_shared<MadeMaps>(mostMadeBytes);
  if (was) emit ended();
  emit changed();
  for (const SheetInfo& info : shelf_.sheets())
    if (!info.waiting.empty())
      emit notice(QString("%1 proof%2 of sheet %3 were not finished. The Sheet view offers to pull them.")
                      .arg(info.waiting.size())
                      .arg(info.waiting.size() == 1 ? "" : "s")
                      .arg(info.number));
}

/// Out of the row, with or without a proof.
void PullQueue::remove(std::int64_t id) {
  const auto found = std::find_if(pulls_.begin(), pulls_.end(), [id](const Pull& pull) { return pull.id == id; });
  if (found == pulls_.end()) return;
  const Pull gone = std::move(*found);
  pulls_.erase(found);
  // A file is written: once a sheet, not once a proof.
  if (pulls_.empty() && std::exchange(isPaceNew_, false)) keepPace(pace_);
  if (gone.sheet == 0) {
    emit ended();
  } else {
    // A cell that was dropped is not offered again; one that an engine could not make just then is.
    shelf_.cellDone(gone.sheet, gone.cell);
    if (waiting(gone.sheet) == 0) {
      std::vector<int> again = std::exchange(later_[gone.sheet], {});
      later_.erase(gone.sheet);
      std::sort(again.begin(), again.end());  // in the sheet's order, not in that of their failing
      shelf_.endSheet(gone.sheet, again);
      if (const auto lost = failed_.find(gone.sheet); lost != failed_.end() && lost->second > 1)
        emit problem(QString("%1 proofs of sheet %2 could not be pulled.").arg(lost->second).arg(gone.sheet));
      failed_.erase(gone.sheet);
      shares_.erase(gone.sheet);
    }
  }
  emit changed();
  begin();
}

std::vector<std::string> PullQueue::makersOf(const Pull& pull) const {
  const auto share = shares_.find(pull.sheet);
  if (share == shares_.end()) return {pull.engine};
  auto makers = stillAble(share->second.engines, share->second.leftOut, pull.tried, engines_);
  // One that is missing has its pulls ended, each with a sentence.
  if (makers.empty()) makers.push_back(share->second.engines.front());
  return makers;
}

bool PullQueue::handOn(Pull& pull, const Outcome& outcome) {
  const auto found = shares_.find(pull.sheet);
  if (found == shares_.end()) return false;
  Share& share = found->second;
  const std::string failed = pull.engine;
  pull.tried.insert(failed);
  const auto others = stillAble(share.engines, share.leftOut, pull.tried, engines_);
  if (others.empty()) return false;
  if (share.leftOut.insert(failed).second) {
    QStringList names;
    for (const std::string& name : others) names << QString::fromStdString(engines_.info(name)->title);
    emit notice(QString("%1 is left out of sheet %2, its cells go to %3: %4")
                    .arg(QString::fromStdString(engines_.info(failed)->title))
                    .arg(pull.sheet)
                    .arg(names.join(", "), QString::fromStdString(outcome.trouble)));
  }
  // As one that was never begun; under another number, since the task of this one has yet to end.
  pull.id = ++lastId_;
  pull.running = false;
  pull.step = 0;
  pull.preview = {};
  return true;
}

void PullQueue::begin() {
  // Every engine has lanes of its own: none waits for another.
  std::map<std::string, int> running;
  std::map<std::int64_t, int> waitingIn;
  for (const Pull& pull : pulls_) {
    running[pull.engine] += pull.running ? 1 : 0;
    waitingIn[pull.sheet] += pull.running ? 0 : 1;
  }
  std::set<std::int64_t> served;  // sheets of which nobody takes more now
  std::vector<std::int64_t> next;
  for (Pull& pull : pulls_) {
    if (pull.running || (paused_ && pull.sheet > 0) || served.contains(pull.sheet)) continue;
    const auto makers = makersOf(pull);
    std::size_t taker = 0;
    if (makers.size() > 1) {
      // No more of a long sheet has to be thought through.
      constexpr int farEnough = 500;
      std::vector<Worker> workers;
      for (const std::string& maker : makers)
        workers.push_back({estimate(maker, pull.recipe), engines_.info(maker)->lanes, running[maker]});
      const auto found = takerOf(workers, std::min(farEnough, waitingIn[pull.sheet]));
      if (!found) {
        served.insert(pull.sheet);
        continue;
      }
      taker = *found;
    } else if (const auto engine = engines_.info(makers[0]); !engine->missing && running[makers[0]] >= engine->lanes) {
      continue;
    }
    pull.engine = makers[taker];
    ++running[pull.engine];
    --waitingIn[pull.sheet];
    next.push_back(pull.id);
  }
  // Who hears of one that begins may drop another.
  for (const std::int64_t id : next)
    if (Pull* pull = held(id); pull != nullptr && !pull->running) start(*pull, engines_.find(pull->engine));
}

void PullQueue::start(Pull& pull, std::shared_ptr<Engine> engine) {
  pull.running = true;
  JobSources sources;
  std::string trouble;
  try {
    sources = jobSources(pull.recipe, document_, maps_, shelf_);
  } catch (const std::exception& error) {
    trouble = error.what();
  }
  if (!engine) trouble = engineMissing(pull.engine);
  // Who waits for another machine holds no thread that could compute.
  const Priority where = engines_.info(pull.engine)->elsewhere ? Priority::elsewhere : Priority::thumbnails;
  tasks_.run(
      this, keyOf(pull.id), where,
      [recipe = pull.recipe, id = pull.id, sources = std::move(sources), trouble, engine, made = made_, tasks = &tasks_,
       self = this](const StopToken& stop) {
        Outcome outcome;
        outcome.trouble = trouble;
        outcome.passes = engine == nullptr;  // it may be connected again
        if (!trouble.empty()) return outcome;
        try {
          auto job = jobFrom(recipe, sources, stop, made.get());
          // A preview costs as much as a step or two: no more of them than can be followed.
          QElapsedTimer sincePreview;
          const auto sink = [&](const EngineProgress& progress) {
            QImage preview;
            if (progress.preview && (!sincePreview.isValid() || sincePreview.elapsed() >= previewEvery)) {
              preview = toQImage(progress.preview());
              sincePreview.start();
            }
            tasks->tell(stop, [self, id, step = progress.step, preview] {
              Pull* of = self->held(id);
              if (of == nullptr) return;
              of->step = step;
              if (!preview.isNull()) of->preview = preview;
              emit self->progressed(id);
              if (of->sheet == 0) emit self->stepped(step, of->steps, preview);
            });
          };
          outcome.proof = pullProof(*engine, std::move(job.job), job.reference.get(), sink, stop);
        } catch (const Cancelled&) {
          throw;
        } catch (const std::bad_alloc&) {
          outcome.trouble = "There is not enough memory for this proof.";
        } catch (const Problem& problem) {
          outcome.trouble = problem.what();
          outcome.passes = problem.passes();
        } catch (const std::exception& error) {
          outcome.trouble = error.what();
        }
        return outcome;
      },
      [this, id = pull.id](Outcome outcome) { finish(id, std::move(outcome)); });
  emit changed();
}

void PullQueue::finish(std::int64_t id, Outcome outcome) {
  if (held(id) == nullptr) return;
  const auto engine = engines_.info(held(id)->engine);
  if (engine->elsewhere)
    emit engineHeard(QString::fromStdString(engine->name), QString::fromStdString(outcome.trouble));
  Pull* pull = held(id);  // who heard of it may have dropped it
  if (pull == nullptr) return;
  if (!outcome.trouble.empty()) {
    if (!pull->stopped && handOn(*pull, outcome)) {
      emit changed();
      return begin();
    }
    // Said at the first cell; the rest is counted.
    QString sentence = QString::fromStdString(outcome.trouble);
    if (outcome.passes && pull->sheet > 0) {
      later_[pull->sheet].push_back(pull->cell);
      sentence += " The Sheet view offers to pull it again.";
    } else if (outcome.passes) {
      sentence += " Pulling again may help.";
    }
    if (pull->sheet == 0 || failed_[pull->sheet]++ == 0) emit problem(sentence);
  } else if (!pull->stopped) {
    if (engine->elsewhere) {
      pace_.took(engine->name, pull->recipe, outcome.proof.info.milliseconds);
      isPaceNew_ = true;
    }
    outcome.proof.info.sheet = pull->sheet;
    outcome.proof.info.cell = pull->cell;
    shelf_.keep(std::move(outcome.proof));
  }
  remove(id);
}

}  // namespace hscaffold::app
