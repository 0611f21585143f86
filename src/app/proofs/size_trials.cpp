#include "app/proofs/size_trials.h"

#include <QSettings>

#include "app/document/study_document.h"
#include "app/proofs/proof_shelf.h"
#include "app/proofs/pull_queue.h"
#include "app/tasks/task_runner.h"
#include "core/image/png.h"

namespace hscaffold::app {
namespace {

QString keyOf(const std::string& engine) { return "small proofs/" + QString::fromStdString(engine); }

}  // namespace

SizeTrials::SizeTrials(StudyDocument& document, ProofShelf& shelf, PullQueue& queue, TaskRunner& tasks,
                       const EngineRegistry& engines, QObject* parent)
    : QObject(parent), document_(document), shelf_(shelf), queue_(queue), tasks_(tasks), engines_(engines) {
  connect(&document_, &StudyDocument::replaced, this, [this] { pending_.reset(); });
  connect(&shelf_, &ProofShelf::changed, this, &SizeTrials::look);
  connect(&queue_, &PullQueue::ended, this, &SizeTrials::look);
  connect(&queue_, &PullQueue::changed, this, &SizeTrials::look);
}

std::optional<SizeTrial> SizeTrials::known(const std::string& engine) {
  const QVariantList kept = QSettings().value(keyOf(engine)).toList();
  if (kept.size() != 5) return {};
  return SizeTrial{kept[0].toDouble(), kept[1].toDouble(), kept[2].toDouble(), kept[3].toDouble(), kept[4].toDouble()};
}

bool SizeTrials::wanted() const {
  const auto info = queue_.engineInfo();
  return !info->missing && !info->oneScale && !known(info->id);
}

std::shared_ptr<const EngineInfo> SizeTrials::engineOf(std::int64_t sheet) const {
  const SheetInfo* info = shelf_.sheet(sheet);
  if (info == nullptr || info->plan.base.frame == document_.state().frame) return {};
  const auto engine = engines_.info(info->plan.base.engine.empty() ? document_.state().engine : info->plan.base.engine);
  return engine->missing || engine->oneScale ? nullptr : engine;
}

bool SizeTrials::wantedFor(std::int64_t sheet) const {
  const auto engine = engineOf(sheet);
  // It is the study's engine that pulls at full size.
  return engine && engine->name == document_.state().engine && !known(engine->id) && !pending_;
}

QString SizeTrials::about(std::int64_t sheet) const {
  const auto engine = engineOf(sheet);
  if (!engine) return {};
  const auto trial = known(engine->id);
  return trial ? QString::fromStdString(sentenceOf(*trial)) : QString();
}

void SizeTrials::begin(std::int64_t sheet) {
  const auto engine = engineOf(sheet);
  if (!engine || engine->name != document_.state().engine || pending_ || queue_.pulling()) return;
  const SheetInfo* info = shelf_.sheet(sheet);
  Pending pending{sheet, info->plan.cells() / 2, engine->id};
  // A cell that is there already need not be waited for.
  for (const ProofInfo& proof : shelf_.all()) {
    pending.after = std::max(pending.after, proof.number);
    if (proof.sheet == sheet) pending.cell = proof.cell;
  }
  Recipe recipe = atSize(recipeOfCell(info->plan, pending.cell), document_.state().frame);
  recipe.engine.clear();
  queue_.pull(std::move(recipe));
  if (queue_.pulling()) pending_ = std::move(pending);
  emit changed();
}

void SizeTrials::look() {
  if (!pending_ || pending_->comparing) return;
  const ProofInfo *small = nullptr, *large = nullptr;
  for (const ProofInfo& proof : shelf_.all()) {
    if (proof.sheet == pending_->sheet && proof.cell == pending_->cell) small = &proof;
    if (proof.sheet == 0 && proof.number > pending_->after && large == nullptr) large = &proof;
  }
  if (small == nullptr || large == nullptr) {
    // Stopped, or it failed: nothing was learned.
    if (large == nullptr ? !queue_.pulling() : queue_.waiting(pending_->sheet) == 0) {
      pending_.reset();
      emit changed();
    }
    return;
  }
  pending_->comparing = true;
  SizeTrial trial;
  trial.holdSmall = meanHold(*small).value_or(-1), trial.holdLarge = meanHold(*large).value_or(-1);
  trial.shiftSmall = small->shift.value_or(-1), trial.shiftLarge = large->shift.value_or(-1);
  tasks_.run(
      this, "size trial", Priority::facts,
      [trial, read = shelf_.reader(), a = small->number, b = large->number](const StopToken& stop) mutable {
        const auto first = decodePngRgb8(read(a)), second = decodePngRgb8(read(b));
        trial.tone = toneAlike(ProofSeen(first), ProofSeen(second), stop);
        return trial;
      },
      [this](const SizeTrial& told) {
        if (!pending_) return;
        QSettings().setValue(keyOf(pending_->engine),
                             QVariantList{told.tone, told.holdSmall, told.holdLarge, told.shiftSmall, told.shiftLarge});
        pending_.reset();
        emit changed();
      });
}

}  // namespace hscaffold::app
