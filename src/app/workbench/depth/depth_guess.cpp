#include "app/workbench/depth/depth_guess.h"

#include <utility>

#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/tasks/task_runner.h"
#include "core/depth/estimate.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr const char* guessKey = "guess depth";

const Guide* guideOf(const StudyDocument& document) {
  const Guide* guide = document.state().selectedGuide();
  return guide != nullptr && kindOf(guide->kind).hasSlot(depth::estimateSlot) ? guide : nullptr;
}

}  // namespace

DepthGuess::DepthGuess(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent)
    : QObject(parent), document_(document), maps_(maps), tasks_(tasks) {
  connect(&document_, &StudyDocument::closing, this, [this] { guessing_ = false; });
  connect(&tasks_, &TaskRunner::ended, this, [this](const QString& key) {
    if (key == guessKey) guessing_ = false;
  });
}

void DepthGuess::guess(const std::filesystem::path& onnx) {
  const Guide* of = guideOf(document_);
  if (guessing_ || of == nullptr) return;
  const auto picture = maps_.placedPicture(of->reference);
  if (!picture) {
    emit said("There is no picture to guess the depth of: bring one in first.");
    return;
  }
  guessing_ = true;
  struct Guessed {
    std::shared_ptr<const depth::Estimate> estimate;
    QString trouble;
  };
  tasks_.run(
      this, guessKey, Priority::maps,
      [onnx, picture, placing = document_.placeOf(*of).placing](const StopToken& stop) {
        Guessed out;
        try {
          out.estimate =
              std::make_shared<const depth::Estimate>(depth::Estimator(onnx).estimate(*picture, placing, stop));
        } catch (const Cancelled&) {
          out.trouble = "Guessing was stopped.";
        } catch (const std::exception& error) {
          out.trouble = error.what();
        }
        return out;
      },
      [this, id = of->id](const Guessed& made) {
        guessing_ = false;
        if (!made.estimate) {
          emit said(made.trouble);
          return;
        }
        if (document_.state().guide(id) == nullptr) return;
        const std::string name = document_.work().keep(depth::estimateForm(), std::any(made.estimate));
        document_.change("Guess depth", [&](StudyState& s) { s.guide(id)->work.put(depth::estimateSlot, name); });
        emit said(QString("Depth as %1 guesses it; hints stay on top.").arg(QString::fromStdString(made.estimate->by)));
      });
}

void DepthGuess::stop() { tasks_.stop(guessKey); }

bool DepthGuess::hasEstimate() const {
  const Guide* of = guideOf(document_);
  return of != nullptr && of->work.has(depth::estimateSlot);
}

void DepthGuess::drop() {
  if (!hasEstimate()) return;
  document_.change("Drop the network's guess",
                   [id = guideOf(document_)->id](StudyState& s) { s.guide(id)->work.put(depth::estimateSlot, {}); });
}

}  // namespace hscaffold::app
