#include "app/proofs/proof_shelf.h"

#include "app/document/study_document.h"
#include "app/images.h"
#include "app/maps/map_room.h"
#include "app/tasks/task_runner.h"
#include "app/theme/theme.h"
#include "core/job/prepare.h"
#include "core/kinds.h"
#include "core/measure/proof_seen.h"
#include "core/study/study_file.h"

namespace hscaffold::app {
namespace {

// Kilobytes.
constexpr qsizetype mostImages = 192 << 10, mostThumbnails = 64 << 10;

qsizetype costOf(const QImage& image) { return std::max<qsizetype>(1, image.sizeInBytes() >> 10); }

}  // namespace

ProofShelf::ProofShelf(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent)
    : QObject(parent),
      document_(document),
      maps_(maps),
      tasks_(tasks),
      images_(mostImages),
      thumbnails_(mostThumbnails) {
  connect(&document_, &StudyDocument::replaced, this, &ProofShelf::readAll);
  connect(&document_, &StudyDocument::closing, this, &ProofShelf::keepAll);
  connect(&document_, &StudyDocument::written, this, &ProofShelf::keepAll);
  tryAgain_.setInterval(5000);
  connect(&tryAgain_, &QTimer::timeout, this, &ProofShelf::keepAll);
  connect(&themeSignals(), &ThemeSignals::changed, this, &ProofShelf::forgetLooks);
  connect(&maps_, &MapRoom::picturesChanged, this, [this] {
    if (missesOf_ == 0) emit missesChanged();
  });
}

void ProofShelf::readAll() {
  images_.clear();
  thumbnails_.clear();
  misses_.clear();
  missesOf_ = 0;
  asked_.clear();
  waiting_.clear();
  tryAgain_.stop();
  proofs_.clear();
  sheets_.clear();
  try {
    proofs_ = document_.file()->proofs();
    sheets_ = document_.file()->sheets();
    // What was finished before a crash is not waited for.
    std::set<std::pair<std::int64_t, int>> there;
    for (const ProofInfo& proof : proofs_) there.emplace(proof.sheet, proof.cell);
    for (SheetInfo& info : sheets_)
      std::erase_if(info.waiting, [&](int cell) { return there.contains({info.number, cell}); });
  } catch (const std::exception& error) {
    emit problem(error.what());
  }
  emit sheetsChanged();
  emit changed();
}

/// Misses are in a colour of the theme.
void ProofShelf::forgetLooks() {
  misses_.clear();
  missesOf_ = 0;
  emit missesChanged();
}

const ProofInfo* ProofShelf::proof(std::int64_t number) const {
  const auto found = std::lower_bound(proofs_.begin(), proofs_.end(), number,
                                      [](const ProofInfo& info, std::int64_t n) { return info.number < n; });
  return found != proofs_.end() && found->number == number ? &*found : nullptr;
}

const ProofInfo* ProofShelf::current() const { return proof(document_.state().looking.proof); }

bool ProofShelf::isKept(std::int64_t number) const {
  const auto& kept = document_.state().kept;
  return std::find(kept.begin(), kept.end(), number) != kept.end();
}

const SheetInfo* ProofShelf::sheet(std::int64_t number) const {
  const auto found =
      std::find_if(sheets_.begin(), sheets_.end(), [number](const SheetInfo& info) { return info.number == number; });
  return found != sheets_.end() ? &*found : nullptr;
}

std::int64_t ProofShelf::addSheet(SheetInfo info) {
  info.made = timeNow();
  info.number = document_.file()->addSheet(info);
  sheets_.push_back(std::move(info));
  emit sheetsChanged();
  return sheets_.back().number;
}

void ProofShelf::endSheet(std::int64_t number, const std::vector<int>& again) {
  for (SheetInfo& info : sheets_) {
    if (info.number != number) continue;
    info.waiting = again;
    try {
      document_.file()->setWaiting(number, again);
    } catch (const std::exception&) {
      // At worst cells are offered again that are there or were not wanted.
    }
    emit sheetsChanged();
  }
}

void ProofShelf::cellDone(std::int64_t number, int cell) {
  for (SheetInfo& info : sheets_)
    if (info.number == number) std::erase(info.waiting, cell);
}

std::vector<const ProofInfo*> ProofShelf::shown() const {
  const auto& away = document_.state().discarded;
  std::vector<const ProofInfo*> shown;
  for (auto info = proofs_.rbegin(); info != proofs_.rend(); ++info)
    if (std::find(away.begin(), away.end(), info->number) == away.end()) shown.push_back(&*info);
  return shown;
}

QImage ProofShelf::image(std::int64_t number) {
  if (const QImage* kept = images_.object(number)) return *kept;
  if (proof(number) == nullptr) return {};
  QImage image;
  try {
    image = imageFromPng(png(number)).convertToFormat(QImage::Format_RGB32);
  } catch (const std::exception& error) {
    emit problem(error.what());
  }
  images_.insert(number, new QImage(image), costOf(image));
  return image;
}

QImage ProofShelf::thumbnail(std::int64_t number) {
  if (const QImage* kept = thumbnails_.object(number)) return *kept;
  bring(number, "thumbnail", thumbnails_);
  return {};
}

QImage ProofShelf::large(std::int64_t number) {
  if (const QImage* kept = images_.object(number)) return *kept;
  bring(number, "picture", images_);
  return {};
}

void ProofShelf::bring(std::int64_t number, const char* what, QCache<qint64, QImage>& into) {
  const QString key = QString("%1 %2").arg(what).arg(number);
  if (asked_.contains(key) || proof(number) == nullptr) return;
  asked_ << key;
  const bool small = &into == &thumbnails_;
  Bytes bytes;
  try {
    const FinishedProof* unwritten = waiting(number);
    bytes = unwritten != nullptr ? (small ? unwritten->thumbnail : unwritten->png)
            : small              ? document_.file()->proofThumbnail(number)
                                 : document_.file()->proofPng(number);
  } catch (const std::exception& error) {
    return static_cast<void>(emit problem(error.what()));
  }
  tasks_.run(
      this, key.toStdString(), Priority::thumbnails,
      [bytes = std::move(bytes)](const StopToken&) {
        return imageFromPng(bytes).convertToFormat(QImage::Format_RGB32);
      },
      [this, number, key, &into](const QImage& image) {
        asked_.remove(key);
        into.insert(number, new QImage(image), costOf(image));
        emit thumbnailChanged(number);
      });
}

QImage ProofShelf::misses(std::int64_t number, const std::string& guide) {
  if (missesOf_ == number) {
    const auto found = misses_.find(guide);
    return found != misses_.end() ? found->second.image : QImage();
  }
  const ProofInfo* info = proof(number);
  if (info == nullptr) return {};
  // While references are still being read there is nothing to tell.
  const auto pictures = maps_.pictures();
  for (const RecipeReference& reference : info->recipe.references)
    if (document_.state().reference(reference.id) != nullptr && !pictures.contains(reference.source())) return {};
  missesOf_ = number;
  misses_.clear();
  // The proof's own maps are made again from its recipe: what the guides are now says nothing about it.
  JobSources sources;
  sources.pictures = [pictures](const RecipeReference& reference) {
    const auto found = pictures.find(reference.source());
    if (found == pictures.end())
      throw badInput("Where the layout was lost cannot be told: " + reference.name + " is not in this study any more.");
    return found->second;
  };
  sources.work = workTakenOut(info->recipe, document_.edits());
  Recipe recipe = info->recipe;
  recipe.brief.start = {};  // maps do not depend on it
  tasks_.run(
      this, "misses", Priority::maps,
      [recipe, sources, picture = image(number), colour = theme().bad](const StopToken& stop) {
        const auto pixels = fromQImage(picture);
        const ProofSeen proof(pixels);
        std::map<std::string, Missed> missed;
        const auto made = jobFrom(recipe, sources, stop);
        for (std::size_t i = 0; i < made.job.inputs.size(); ++i) {
          const Guide& of = recipe.guides[i].guide;
          const auto holding = holdingOf(kindOf(of.kind), made.job.inputs[i], proof, stop);
          if (holding && !holding->misses.empty())
            missed[of.id] = {
                tintedImage(holding->misses, colour),
                holding->lost.empty() ? hscaffold::missedPlaces(holding->misses, 3, Named::byShape) : holding->lost,
                QString::fromStdString(holding->means)};
          else
            missed[of.id] = {};
        }
        return missed;
      },
      [this, number](std::map<std::string, Missed> missed) {
        if (missesOf_ != number) return;
        misses_ = std::move(missed);
        emit missesChanged();
      });
  return {};
}

std::optional<std::vector<MissedPlace>> ProofShelf::missedPlaces(std::int64_t number, const std::string& guide) {
  static_cast<void>(misses(number, guide));  // has them looked for
  const auto found = misses_.find(guide);
  if (missesOf_ != number || found == misses_.end()) return {};
  return found->second.places;
}

QString ProofShelf::holdMeans(std::int64_t number, const std::string& guide) const {
  const auto found = misses_.find(guide);
  return missesOf_ == number && found != misses_.end() ? found->second.means : QString();
}

const FinishedProof* ProofShelf::waiting(std::int64_t number) const {
  const auto found = std::find_if(waiting_.begin(), waiting_.end(),
                                  [number](const FinishedProof& proof) { return proof.info.number == number; });
  return found != waiting_.end() ? &*found : nullptr;
}

void ProofShelf::keep(FinishedProof proof) {
  const std::int64_t number = proofs_.empty() ? 1 : proofs_.back().number + 1;
  proof.info.number = number;
  const QImage picture = toQImage(proof.picture), small = imageFromPng(proof.thumbnail);
  images_.insert(number, new QImage(picture), costOf(picture));
  thumbnails_.insert(number, new QImage(small), costOf(small));
  proofs_.push_back(proof.info);
  waiting_.push_back(std::move(proof));
  keepAll();
  const bool cell = proofs_.back().sheet > 0;
  document_.look([number, cell](Looking& looking) {
    if (!cell || looking.proof == 0) looking.proof = number;
  });
  emit changed();
}

bool ProofShelf::keepAll() {
  try {
    for (; !waiting_.empty(); waiting_.pop_front())
      document_.file()->addProof(waiting_.front().info, waiting_.front().png, waiting_.front().thumbnail);
    tryAgain_.stop();
  } catch (const std::exception& error) {
    // Said once, however often it is tried.
    if (!tryAgain_.isActive())
      emit problem(QString("A finished proof could not be kept: %1 It is in this window only, and is tried again.")
                       .arg(error.what()));
    tryAgain_.start();
  }
  return waiting_.empty();
}

Bytes ProofShelf::png(std::int64_t number) const {
  const FinishedProof* unwritten = waiting(number);
  return unwritten != nullptr ? unwritten->png : document_.file()->proofPng(number);
}

void ProofShelf::write(std::int64_t number, const std::filesystem::path& file) {
  writeFileAtomically(file, png(number));
}

}  // namespace hscaffold::app
