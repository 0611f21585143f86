#include "app/proofs/pull_queue.h"

#include <QElapsedTimer>
#include <numeric>
#include <random>
#include <set>

#include "app/document/study_document.h"
#include "app/images.h"
#include "app/maps/map_room.h"
#include "app/proofs/proof_shelf.h"
#include "app/tasks/task_runner.h"
#include "core/guide_map.h"

namespace hscaffold::app {
namespace {

/// Proofs of a sheet that are made at the same time: small ones do not fill two cores each.
constexpr int lanes = 2;
constexpr qint64 previewEvery = 150;  ///< milliseconds

std::string keyOf(std::int64_t id) { return "pull " + std::to_string(id); }

}  // namespace

PullQueue::PullQueue(StudyDocument& document, MapRoom& maps, ProofShelf& shelf, TaskRunner& tasks, QObject* parent)
    : QObject(parent),
      document_(document),
      maps_(maps),
      shelf_(shelf),
      tasks_(tasks),
      engine_(std::make_shared<StandinEngine>()),
      made_(std::make_shared<MadeMaps>()) {
  connect(&document_, &StudyDocument::replaced, this, &PullQueue::forget);
  // A job that was stopped delivers nothing.
  connect(&tasks_, &TaskRunner::ended, this, [this](const QString& key) {
    for (const Pull& pull : pulls_)
      if (pull.running && key.toStdString() == keyOf(pull.id)) return remove(pull.id);
  });
}

double PullQueue::estimate() const { return engine_->estimate(recipeOf(document_.state())); }

double PullQueue::estimate(const SheetPlan& plan) const {
  // Every value once; seeds cost the same.
  double sum = 0;
  const int settings = plan.across() * plan.down();
  for (int cell = 0; cell < settings; ++cell) sum += engine_->estimate(hscaffold::recipeOf(plan, cell));
  return sum * static_cast<double>(plan.seeds.size()) / std::min(lanes, plan.cells());
}

bool PullQueue::pulling() const {
  return std::any_of(pulls_.begin(), pulls_.end(), [](const Pull& pull) { return pull.sheet == 0; });
}

int PullQueue::waiting(std::int64_t sheet) const {
  return static_cast<int>(
      std::count_if(pulls_.begin(), pulls_.end(), [sheet](const Pull& pull) { return pull.sheet == sheet; }));
}

double PullQueue::remaining() const {
  double sum = 0;
  for (const Pull& pull : pulls_) {
    const double done = pull.steps > 0 ? static_cast<double>(pull.step) / pull.steps : 0;
    sum += engine_->estimate(pull.recipe) * (1 - done);
  }
  return sum / std::min<double>(lanes, std::max<double>(1, static_cast<double>(pulls_.size())));
}

const Pull* PullQueue::find(std::int64_t id) const {
  const auto found = std::find_if(pulls_.begin(), pulls_.end(), [id](const Pull& pull) { return pull.id == id; });
  return found != pulls_.end() ? &*found : nullptr;
}

Pull* PullQueue::held(std::int64_t id) { return const_cast<Pull*>(std::as_const(*this).find(id)); }

bool PullQueue::mayPull() {
  if (document_.file() == nullptr) return false;
  if (!document_.forLooking()) return true;
  emit notice("This study is open for looking. Save it under another name to pull proofs into it.");
  return false;
}

/// The store belongs to this thread: what pulls need of it is read now, and goes with them.
void PullQueue::keepEditsOf(const Recipe& recipe) {
  for (const RecipeGuide& entry : recipe.guides) static_cast<void>(editsOf(entry.guide, document_.edits()));
}

void PullQueue::pull() {
  if (pulling() || !mayPull()) return;
  // A new seed for every pull is not a step that anyone would want to take back.
  Recipe recipe = recipeOf(document_.state());
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
  for (const int cell : info->waiting) {
    Pull pull;
    pull.id = ++lastId_;
    pull.sheet = sheet;
    pull.cell = cell;
    pull.recipe = hscaffold::recipeOf(info->plan, cell);
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
  paused_ = false;
  made_ = std::make_shared<MadeMaps>();
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
  if (gone.sheet == 0) {
    emit ended();
  } else {
    // A cell that was dropped is not offered again.
    shelf_.cellDone(gone.sheet, gone.cell);
    if (waiting(gone.sheet) == 0) {
      shelf_.endSheet(gone.sheet);
      if (const auto lost = failed_.find(gone.sheet); lost != failed_.end() && lost->second > 1)
        emit problem(QString("%1 proofs of sheet %2 could not be pulled.").arg(lost->second).arg(gone.sheet));
      failed_.erase(gone.sheet);
    }
  }
  emit changed();
  begin();
}

void PullQueue::begin() {
  for (;;) {
    const auto running = std::count_if(pulls_.begin(), pulls_.end(), [](const Pull& pull) { return pull.running; });
    const auto next = std::find_if(pulls_.begin(), pulls_.end(), [](const Pull& pull) { return !pull.running; });
    if (running >= lanes || next == pulls_.end() || (paused_ && next->sheet > 0)) return;
    start(*next);
  }
}

void PullQueue::start(Pull& pull) {
  pull.running = true;
  keepEditsOf(pull.recipe);
  auto edits = std::make_shared<EditStore>(document_.edits());
  edits->detach();
  Bytes startProof;
  std::string trouble;
  try {
    if (pull.recipe.brief.start.from == StartPicture::From::proof)
      startProof = shelf_.png(pull.recipe.brief.start.proof);
  } catch (const std::exception& error) {
    trouble = std::string("The start picture could not be read: ") + error.what();
  }
  tasks_.run(
      this, keyOf(pull.id), Priority::thumbnails,
      [recipe = pull.recipe, id = pull.id, pictures = maps_.pictures(), startProof = std::move(startProof), trouble,
       edits, engine = engine_, made = made_, tasks = &tasks_, self = this](const StopToken& stop) {
        Outcome outcome;
        outcome.trouble = trouble;
        if (!trouble.empty()) return outcome;
        const auto picture = [&](const RecipeReference& reference) {
          const auto found = pictures.find(reference.id);
          if (found == pictures.end()) throw badInput(reference.name + " is still being read. Pull again in a moment.");
          return found->second;
        };
        try {
          auto start = startOf(
              recipe, picture, [&](std::int64_t) { return startProof; }, stop);
          auto job = jobFrom(recipe, picture, *edits, stop, made.get());
          job.job.start = std::move(start);
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
        } catch (const std::exception& error) {
          outcome.trouble = error.what();
        }
        return outcome;
      },
      [this, id = pull.id](Outcome outcome) { finish(id, std::move(outcome)); });
  emit changed();
}

void PullQueue::finish(std::int64_t id, Outcome outcome) {
  Pull* pull = held(id);
  if (pull == nullptr) return;
  if (!outcome.trouble.empty()) {
    // Said at the first cell; the rest is counted.
    if (pull->sheet == 0 || failed_[pull->sheet]++ == 0) emit problem(QString::fromStdString(outcome.trouble));
  } else if (!pull->stopped) {
    outcome.proof.info.sheet = pull->sheet;
    outcome.proof.info.cell = pull->cell;
    shelf_.keep(std::move(outcome.proof));
  }
  remove(id);
}

}  // namespace hscaffold::app
