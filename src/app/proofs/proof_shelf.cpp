#include "app/proofs/proof_shelf.h"

#include <limits>

#include "app/document/study_document.h"
#include "app/images.h"
#include "app/maps/map_room.h"
#include "app/tasks/task_runner.h"
#include "app/theme/theme.h"
#include "core/image/png.h"
#include "core/job/prepare.h"
#include "core/kinds.h"
#include "core/measure/proof_seen.h"
#include "core/study/study_file.h"

namespace hscaffold::app {
namespace {

// Bytes.
constexpr std::size_t mostImages = std::size_t{192} << 20, mostThumbnails = std::size_t{64} << 20;

void putInto(RecentlyUsed<std::int64_t, QImage>& pictures, std::int64_t number, const QImage& image) {
  pictures.put(number, std::make_shared<const QImage>(image), static_cast<std::size_t>(image.sizeInBytes()));
}

QImage decodedProof(const Bytes& png) { return imageFromPng(png).convertToFormat(QImage::Format_RGB32); }

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
  connect(&document_, &StudyDocument::written, this, &ProofShelf::write);
  tryAgain_.setInterval(5000);
  connect(&tryAgain_, &QTimer::timeout, this, &ProofShelf::write);
  connect(&themeSignals(), &ThemeSignals::changed, this, &ProofShelf::forgetLooks);
  connect(&maps_, &MapRoom::picturesChanged, this, [this] {
    if (missesOf_ == 0) emit missesChanged();
  });
}

ProofShelf::~ProofShelf() { document_.writer().finish(); }

void ProofShelf::readAll() {
  images_.clear();
  thumbnails_.clear();
  misses_.clear();
  missesOf_ = 0;
  asked_.clear();
  waiting_.clear();
  toWrite_.clear();
  beingWritten_.clear();
  last_ = lastSheet_ = 0;
  tryAgain_.stop();
  proofs_.clear();
  sheets_.clear();
  try {
    // Whatever cannot be read has a number that nothing else may get.
    last_ = document_.file()->lastProof();
    lastSheet_ = document_.file()->lastSheet();
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
  if (tryAgain_.isActive())
    throw failed("What was finished last could not be written yet: no sheet is begun until it is.");
  if (lastSheet_ == std::numeric_limits<std::int64_t>::max())
    throw badInput("This study has no numbers left for sheets.");
  info.made = timeNow();
  info.number = ++lastSheet_;
  toWrite_.insert(info.number);
  sheets_.push_back(std::move(info));
  keepSoon();
  emit sheetsChanged();
  return sheets_.back().number;
}

void ProofShelf::growSheet(std::int64_t number, const std::vector<Choice>& choices) {
  for (SheetInfo& info : sheets_) {
    if (info.number != number || !info.plan.search) continue;
    const int from = info.plan.cells();
    info.plan.search->choices.insert(info.plan.search->choices.end(), choices.begin(), choices.end());
    for (int cell = from; cell < info.plan.cells(); ++cell) info.waiting.push_back(cell);
    toWrite_.insert(number);
    keepSoon();
    emit sheetsChanged();
  }
}

void ProofShelf::endSheet(std::int64_t number, const std::vector<int>& again) {
  for (SheetInfo& info : sheets_) {
    if (info.number != number) continue;
    info.waiting = again;
    toWrite_.insert(number);
    keepSoon();
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
  if (const auto kept = images_.find(number)) return *kept;
  if (proof(number) == nullptr) return {};
  QImage image;
  try {
    image = decodedProof(png(number));
  } catch (const std::exception& error) {
    emit problem(error.what());
  }
  putInto(images_, number, image);
  return image;
}

QImage ProofShelf::thumbnail(std::int64_t number) {
  if (const auto kept = thumbnails_.find(number)) return *kept;
  bring(number, "thumbnail", thumbnails_);
  return {};
}

QImage ProofShelf::large(std::int64_t number) {
  if (const auto kept = images_.find(number)) return *kept;
  bring(number, "picture", images_);
  return {};
}

void ProofShelf::bring(std::int64_t number, const char* what, Pictures& into) {
  const QString key = QString("%1 %2").arg(what).arg(number);
  if (asked_.contains(key) || proof(number) == nullptr) return;
  asked_ << key;
  const bool small = &into == &thumbnails_;
  tasks_.run(
      this, key.toStdString(), Priority::thumbnails,
      [read = reader(small ? &FinishedProof::thumbnail : &FinishedProof::png), number](const StopToken&) {
        return decodedProof(read(number));
      },
      [this, number, key, &into](const QImage& image) {
        asked_.remove(key);
        putInto(into, number, image);
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
  sources.work = workTakenOut(info->recipe, document_.work());
  Recipe recipe = info->recipe;
  recipe.brief.start = {};  // maps do not depend on it
  tasks_.run(
      this, "misses", Priority::maps,
      [recipe, sources, read = reader(), number, colour = theme().bad](const StopToken& stop) {
        const auto pixels = decodePngRgb8(read(number));
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
                                  [number](const auto& proof) { return proof->info.number == number; });
  return found != waiting_.end() ? found->get() : nullptr;
}

void ProofShelf::keep(FinishedProof proof) {
  const std::int64_t number = ++last_;
  proof.info.number = number;
  const QImage picture = toQImage(proof.picture), small = imageFromPng(proof.thumbnail);
  putInto(images_, number, picture);
  putInto(thumbnails_, number, small);
  proofs_.push_back(proof.info);
  waiting_.push_back(std::make_shared<const FinishedProof>(std::move(proof)));
  keepSoon();
  const bool cell = proofs_.back().sheet > 0;
  document_.look([number, cell](Looking& looking) {
    if (!cell || looking.proof == 0) looking.proof = number;
  });
  emit changed();
}

std::shared_ptr<const StudyEntry> ProofShelf::noted() const {
  auto entry = std::make_shared<StudyEntry>();
  std::set<std::int64_t> sheets = toWrite_;
  sheets.insert(beingWritten_.begin(), beingWritten_.end());
  for (const std::int64_t number : sheets)
    if (const SheetInfo* info = sheet(number)) entry->sheets.push_back(rowOf(*info));
  for (const auto& proof : waiting_) entry->proofs.push_back(rowOf(proof->info, proof->png, proof->thumbnail));
  document_.writer().note(StudyNotes::Name::shelf, *entry);
  return entry;
}

void ProofShelf::keepSoon() {
  if (document_.forLooking()) return;
  if (writing_ || document_.busy()) static_cast<void>(noted());
  write();
}

void ProofShelf::write() {
  if (allKept() || writing_) return;  // what is noted while others are being written follows them
  if (!document_.busy()) return giveToWriter();
  // Another thread writes into the file, or copies it.
  constexpr int soon = 30;  // milliseconds
  QTimer::singleShot(soon, this, &ProofShelf::write);
}

void ProofShelf::giveToWriter() {
  writing_ = true;
  beingWritten_ = std::exchange(toWrite_, {});
  document_.writer().write(noted(), [this, proofs = waiting_.size()](const QString& wrong) { ended(proofs, wrong); });
}

void ProofShelf::ended(std::size_t proofs, const QString& wrong) {
  writing_ = false;
  const auto sheets = std::exchange(beingWritten_, {});
  if (!wrong.isEmpty()) {
    toWrite_.insert(sheets.begin(), sheets.end());
    if (!tryAgain_.isActive())
      emit problem(QString("%1 could not be kept: %2 It is in this window only, and is tried again.")
                       .arg(waiting_.empty() ? "A sheet" : "A finished proof", wrong));
    return tryAgain_.start();
  }
  tryAgain_.stop();
  waiting_.erase(waiting_.begin(), waiting_.begin() + static_cast<std::ptrdiff_t>(proofs));
  if (allKept())
    document_.writer().forget(StudyNotes::Name::shelf);
  else
    write();
}

bool ProofShelf::keepAll() {
  if (document_.forLooking()) return true;
  document_.writer().finish();
  if (!allKept()) {
    giveToWriter();
    document_.writer().finish();
  }
  return allKept();
}

Bytes ProofShelf::png(std::int64_t number) const {
  const FinishedProof* unwritten = waiting(number);
  if (unwritten != nullptr) return unwritten->png;
  return document_.file()->proofPng(number);
}

std::function<Bytes(std::int64_t)> ProofShelf::reader(Bytes FinishedProof::*part) const {
  std::map<std::int64_t, std::shared_ptr<const FinishedProof>> unwritten;
  for (const auto& proof : waiting_) unwritten[proof->info.number] = proof;
  const bool whole = part == &FinishedProof::png;
  return [unwritten = std::move(unwritten), path = document_.path(), part, whole](std::int64_t number) {
    const auto found = unwritten.find(number);
    if (found != unwritten.end()) return (*found->second).*part;
    return whole ? StudyFile::proofPng(path, number) : StudyFile::proofThumbnail(path, number);
  };
}

}  // namespace hscaffold::app
