// StudySession: proofs pulled and looked at.
#include <random>

#include "app/images.h"
#include "app/session.h"
#include "app/theme/theme.h"
#include "core/image/colour.h"
#include "files/study_pictures.h"

namespace hscaffold::app {

QImage StudySession::missesOf(std::int64_t proofNumber, const std::string& guide) const {
  const auto found = misses_.find(std::to_string(proofNumber) + guide);
  return found != misses_.end() ? found->second : QImage();
}

void StudySession::wantMisses(std::int64_t proofNumber) {
  const ProofInfo* info = proof(proofNumber);
  if (info == nullptr) return;
  for (const RecipeGuide& entry : info->recipe.guides) {
    const auto map = maps_.find(entry.guide.id);
    const std::string key = std::to_string(proofNumber) + entry.guide.id;
    if (map == maps_.end() || !kindOf(entry.guide.kind).lines || misses_.contains(key)) continue;
    if (map->second.map->size() != info->recipe.frame) continue;
    misses_[key] = {};
    worker_->submit("misses " + key, [this, key, picture = proofImage(proofNumber), lines = map->second.map,
                                      generation = generation_](const StopToken&) {
      Image<Rgb8> proofPicture(picture.width(), picture.height());
      for (int y = 0; y < picture.height(); ++y) {
        const auto* line = reinterpret_cast<const QRgb*>(picture.constScanLine(y));
        std::transform(line, line + picture.width(), proofPicture.row(y), [](QRgb c) {
          return Rgb8{static_cast<std::uint8_t>(qRed(c)), static_cast<std::uint8_t>(qGreen(c)),
                      static_cast<std::uint8_t>(qBlue(c))};
        });
      }
      QImage image = missesImage(*lines, proofPicture, theme().bad);
      QMetaObject::invokeMethod(this, [this, key, image, generation] {
        if (generation != generation_) return;
        misses_[key] = image;
        emit missesChanged();
      });
    });
  }
}

void StudySession::pull() {
  if (pulling_ || !file_) return;
  if (!state().brief.seedLocked) choose([](StudyState& s) { s.brief.seed = std::random_device{}(); });
  seal();
  Recipe recipe = recipeOf(state());
  guarded([&] {
    for (const RecipeGuide& entry : recipe.guides) static_cast<void>(editsOf(entry.guide, edits_));
  });
  std::map<std::string, std::shared_ptr<const Image<Rgba16>>> pictures;
  for (const auto& [id, entry] : pictures_) pictures[id] = entry.picture;
  // The store belongs to this thread: what the pull needs goes with it.
  auto edits = std::make_shared<EditStore>(edits_);
  edits->detach();
  pulling_ = true;
  emit pullStarted();
  puller_ = std::jthread([this, recipe = std::move(recipe), pictures = std::move(pictures), edits,
                          generation = generation_](const StopToken& stop) {
    const auto back = [this](auto&& call) { QMetaObject::invokeMethod(this, std::forward<decltype(call)>(call)); };
    try {
      auto job = jobFrom(
          recipe,
          [&](const RecipeReference& reference) {
            const auto found = pictures.find(reference.id);
            if (found == pictures.end() || !found->second)
              throw badInput(reference.name + " is still being read. Pull again in a moment.");
            return found->second;
          },
          *edits, stop);
      const auto sink = [&](EngineProgress progress) {
        QImage preview = progress.preview ? toQImage(*progress.preview) : QImage();
        back([this, step = progress.step, steps = progress.steps, preview, generation] {
          if (generation == generation_ && pulling_) emit pullStepped(step, steps, preview);
        });
      };
      auto proof = std::make_shared<FinishedProof>(pullProof(engine_, std::move(job), sink, stop));
      QImage picture = toQImage(proof->picture);
      back([this, proof, picture, generation] {
        if (generation == generation_) finishPull(proof->info, picture, proof->png, proof->thumbnail);
      });
    } catch (const Cancelled&) {
      back([this] {
        pulling_ = false;
        emit pullEnded();
      });
    } catch (const std::exception& error) {
      back([this, sentence = QString::fromStdString(error.what())] {
        pulling_ = false;
        emit pullEnded();
        emit problem(sentence);
      });
    }
  });
}

void StudySession::finishPull(ProofInfo info, QImage picture, const Bytes& png, const Bytes& thumbnail) {
  pulling_ = false;
  guarded([&] {
    info.number = file_->addProof(info, png, thumbnail);
    proofImages_[info.number] = picture;
    thumbnails_[info.number] = imageFromPng(thumbnail);
    proofs_.push_back(info);
    choose([&](StudyState& s) { s.shownProof = info.number; });
  });
  emit proofsChanged();
  emit pullEnded();
}

void StudySession::stopPull() {
  if (!pulling_) return;
  puller_.request_stop();
}

}  // namespace hscaffold::app
