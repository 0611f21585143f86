#include "app/proofs/pull_queue.h"

#include <random>

#include "app/document/study_document.h"
#include "app/images.h"
#include "app/maps/map_room.h"
#include "app/proofs/proof_shelf.h"
#include "app/tasks/task_runner.h"
#include "core/guide_map.h"
#include "files/study_pictures.h"

namespace hscaffold::app {
namespace {

constexpr const char* taskKey = "pull";

}  // namespace

PullQueue::PullQueue(StudyDocument& document, MapRoom& maps, ProofShelf& shelf, TaskRunner& tasks, QObject* parent)
    : QObject(parent),
      document_(document),
      maps_(maps),
      shelf_(shelf),
      tasks_(tasks),
      engine_(std::make_shared<StandinEngine>()) {
  connect(&document_, &StudyDocument::replaced, this, &PullQueue::end);
  connect(&tasks_, &TaskRunner::ended, this, [this](const QString& key) {
    if (key == taskKey) end();
  });
}

double PullQueue::estimate() const { return engine_->estimate(recipeOf(document_.state())); }

void PullQueue::end() {
  if (!std::exchange(pulling_, false)) return;
  emit ended();
}

void PullQueue::stop() { tasks_.stop(taskKey); }

void PullQueue::pull() {
  if (pulling_ || document_.file() == nullptr) return;
  if (document_.forLooking())
    return static_cast<void>(
        emit notice("This study is open for looking. Save it under another name to pull proofs into it."));
  // A new seed for every pull is not a step that anyone would want to take back.
  Recipe recipe = recipeOf(document_.state());
  if (!document_.state().brief.seedLocked) {
    recipe.brief.seed = std::random_device{}();
    document_.changeQuietly([seed = recipe.brief.seed](StudyState& s) { s.brief.seed = seed; });
  }
  document_.seal();
  // The store belongs to this thread: what the pull needs goes with it.
  for (const RecipeGuide& entry : recipe.guides) static_cast<void>(editsOf(entry.guide, document_.edits()));
  auto edits = std::make_shared<EditStore>(document_.edits());
  edits->detach();
  Bytes startProof;
  try {
    if (recipe.brief.start.from == StartPicture::From::proof) startProof = shelf_.png(recipe.brief.start.proof);
  } catch (const std::exception& error) {
    return static_cast<void>(emit notice(QString("The start picture could not be read: %1").arg(error.what())));
  }
  pulling_ = true;
  emit started();
  tasks_.run(
      this, taskKey, Priority::thumbnails,
      [recipe = std::move(recipe), pictures = maps_.pictures(), startProof = std::move(startProof), edits,
       engine = engine_, tasks = &tasks_, self = this](const StopToken& stop) {
        const auto picture = [&](const RecipeReference& reference) {
          const auto found = pictures.find(reference.id);
          if (found == pictures.end()) throw badInput(reference.name + " is still being read. Pull again in a moment.");
          return found->second;
        };
        auto start = startOf(
            recipe, picture, [&](std::int64_t) { return startProof; }, stop);
        auto made = jobFrom(recipe, picture, *edits, stop);
        made.job.start = std::move(start);
        const auto sink = [&](EngineProgress progress) {
          const QImage preview = progress.preview ? toQImage(*progress.preview) : QImage();
          tasks->tell(self, stop, [self, step = progress.step, steps = progress.steps, preview] {
            emit self->stepped(step, steps, preview);
          });
        };
        return pullProof(*engine, std::move(made.job), sink, stop);
      },
      [this](FinishedProof proof) { shelf_.keep(std::move(proof)); });
}

}  // namespace hscaffold::app
