#include "app/session.h"

#include <QBuffer>
#include <QDir>
#include <QStandardPaths>
#include <random>

#include "app/images.h"
#include "app/theme/theme.h"
#include "core/edges/edges.h"
#include "core/image/colour.h"
#include "core/image/narrow.h"
#include "core/image/png.h"
#include "core/lines/trace.h"
#include "files/picture_reader.h"
#include "files/study_pictures.h"
#include "files/svg_lines.h"

namespace hscaffold::app {
namespace {

constexpr int displaySide = 2048;
constexpr std::size_t mostProofImages = 24;

std::filesystem::path toPath(const QString& text) { return text.toStdString(); }

QImage imageFromPng(const Bytes& png) {
  QImage image;
  image.loadFromData(reinterpret_cast<const uchar*>(png.data()), static_cast<int>(png.size()));
  return image;
}

std::string placingKey(const Reference& reference, Size frame) {
  return placementToJson(reference.placement).dump() + std::to_string(frame.width) + "x" + std::to_string(frame.height);
}

}  // namespace

/// Belongs to the worker thread.
struct StudySession::WorkerCaches {
  struct Placed {
    std::string key;
    std::shared_ptr<const Image<Rgb>> picture;
  };
  std::map<std::string, Placed> placed;
  std::map<std::string, std::pair<std::string, ExtractionCache>>
      extractions;  ///< by guide, with the picture they are of
  /// What lies below retouch, by guide, with what it was made from: strokes of a brush do not make it anew.
  struct Below {
    std::string key;
    Extraction extraction;
  };
  std::map<std::string, Below> below;

  std::shared_ptr<const Image<Rgb>> placedPicture(const std::string& id, const Image<Rgba16>& reference,
                                                  const Placement& placement, Size frame, const std::string& key,
                                                  const StopToken& stop) {
    Placed& entry = placed[id];
    if (entry.key != key || !entry.picture) {
      entry.picture = std::make_shared<const Image<Rgb>>(place(reference, placement, frame, stop));
      entry.key = key;
    }
    return entry.picture;
  }
};

StudySession::StudySession(QObject* parent)
    : QObject(parent), caches_(std::make_shared<WorkerCaches>()), worker_(std::make_unique<LatestWorker>()) {
  writeLater_.setSingleShot(true);
  writeLater_.setInterval(400);
  connect(&writeLater_, &QTimer::timeout, this, [this] { guarded([this] { write(); }); });
}

StudySession::~StudySession() {
  puller_.request_stop();
  if (puller_.joinable()) puller_.join();
  worker_.reset();
  try {
    if (dirty_) write();
    tidyFile();
  } catch (const std::exception&) {
    // The window is gone; what could not be written was said when it was first tried.
  }
}

template <typename Job>
void StudySession::guarded(Job&& job) {
  try {
    job();
  } catch (const Cancelled&) {
  } catch (const std::exception& error) {
    emit problem(QString::fromStdString(error.what()));
  }
}

void StudySession::createUntitled() {
  const QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation));
  if (!folder.mkpath("."))
    throw failed("Could not make the folder " + folder.path().toStdString() + " for new studies.");
  int number = 1;
  QString file;
  do {
    file = folder.filePath(QString("untitled-%1.scaffold").arg(number++));
  } while (QFile::exists(file));
  StudyState state;
  state.brief.seed = std::random_device{}();
  adopt(StudyFile::create(toPath(file), state));
}

void StudySession::open(const std::filesystem::path& path) { adopt(StudyFile::open(path)); }

void StudySession::saveAs(const std::filesystem::path& path) {
  if (dirty_) write();
  if (file_ && std::filesystem::weakly_canonical(path) == std::filesystem::weakly_canonical(file_->path())) return;
  const auto old = file_->path();
  const bool wasUntitled = isUntitled();
  file_->copyTo(path);
  auto fresh = StudyFile::open(path);
  *file_ = std::move(fresh);
  if (wasUntitled) {
    std::error_code ignored;
    std::filesystem::remove(old, ignored);
    if (state().title == StudyState{}.title) choose([&](StudyState& s) { s.title = path.stem().string(); });
  }
  emit pathChanged();
}

std::filesystem::path StudySession::path() const { return file_ ? file_->path() : std::filesystem::path(); }

bool StudySession::isUntitled() const {
  return path().parent_path() == toPath(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation)) &&
         path().filename().string().starts_with("untitled-");
}

void StudySession::adopt(StudyFile file) {
  // Everything that can fail comes first.
  auto fresh = std::make_unique<StudyFile>(std::move(file));
  StudyHistory history(fresh->readState());
  auto proofs = fresh->proofs();
  if (dirty_) write();
  tidyFile();
  puller_ = {};  // stops and waits for the step that is being done
  pulling_ = false;
  emit pullEnded();
  ++generation_;
  file_ = std::move(fresh);
  edits_ = EditStore([this](const std::string& id) { return file_->edit(id); });
  live_.clear();
  history_ = std::move(history);
  proofs_ = std::move(proofs);
  pictures_.clear();
  maps_.clear();
  placedKeys_.clear();
  mapKeys_.clear();
  proofImages_.clear();
  thumbnails_.clear();
  misses_.clear();
  caches_ = std::make_shared<WorkerCaches>();
  refreshPictures();
  emit pathChanged();
  emit changed();
  emit picturesChanged();
  emit proofsChanged();
}

void StudySession::write() {
  writeLater_.stop();
  dirty_ = false;
  if (!file_) return;
  try {
    std::set<std::string> names;
    for (const Guide& guide : state().guides) names.merge(editsNamedIn(guide));
    const auto parts = edits_.unsaved(names);
    file_->writeState(state(), parts);
    edits_.saved(parts);
  } catch (...) {
    dirty_ = true;  // tried again with the next change
    throw;
  }
}

/// Hand work that neither the study nor any of its proofs needs goes when the study is closed: until then undo may.
void StudySession::tidyFile() {
  if (!file_) return;
  std::set<std::string> names;
  for (const Guide& guide : state().guides) names.merge(editsNamedIn(guide));
  for (const ProofInfo& info : proofs_)
    for (const RecipeGuide& entry : info.recipe.guides) names.merge(editsNamedIn(entry.guide));
  try {
    file_->keepEdits(edits_.withTiles(names));
  } catch (const Problem&) {
    // A file that may not be written, or hand work that is missing: it stays as it is.
  }
}

void StudySession::change(const QString& name, const std::function<void(StudyState&)>& edit, const std::string& merge) {
  StudyState next = state();
  edit(next);
  if (!history_.change(name.toStdString(), std::move(next), merge)) return;
  dirty_ = true;
  if (merge.empty())
    guarded([this] { write(); });
  else
    writeLater_.start();
  afterChange();
}

void StudySession::choose(const std::function<void(StudyState&)>& edit) {
  StudyState next = state();
  edit(next);
  if (next == state()) return;
  history_.changeQuietly(std::move(next));
  dirty_ = true;
  writeLater_.start();
  afterChange();
}

void StudySession::seal() {
  history_.seal();
  if (dirty_) guarded([this] { write(); });
}

void StudySession::undo() {
  if (!history_.undo()) return;
  guarded([this] { write(); });
  afterChange();
}

void StudySession::redo() {
  if (!history_.redo()) return;
  guarded([this] { write(); });
  afterChange();
}

void StudySession::afterChange() {
  refreshPictures();
  emit changed();
}

void StudySession::refreshPictures() {
  for (const Reference& reference : state().references) {
    if (!pictures_.contains(reference.id))
      requestReference(reference);
    else if (pictures_[reference.id].picture)
      requestPlacing(reference);
  }
  for (const Guide& guide : state().guides) requestMap(guide);
}

void StudySession::requestReference(const Reference& reference) {
  pictures_[reference.id] = {};
  guarded([&] {
    auto bytes = std::make_shared<const Bytes>(file_->referenceFile(reference.id));
    worker_->submit("read " + reference.id, [this, bytes, id = reference.id, name = reference.name,
                                             generation = generation_](const StopToken&) {
      try {
        auto picture = std::make_shared<const Image<Rgba16>>(decodePicture(*bytes, name).picture);
        QImage display = displayImage(*picture, displaySide);
        QMetaObject::invokeMethod(this, [this, id, picture, display, generation] {
          if (generation != generation_) return;
          pictures_[id].picture = picture;
          pictures_[id].display = display;
          refreshPictures();
          emit picturesChanged();
        });
      } catch (const std::exception& error) {
        QMetaObject::invokeMethod(this,
                                  [this, sentence = QString::fromStdString(error.what())] { emit problem(sentence); });
      }
    });
  });
}

void StudySession::requestPlacing(const Reference& reference) {
  const Size frame = state().frame;
  const std::string key = placingKey(reference, frame);
  if (placedKeys_[reference.id] == key) return;
  placedKeys_[reference.id] = key;
  inBackground("place " + reference.id,
               [this, reference, frame, key, picture = pictures_[reference.id].picture,
                caches = caches_](const StopToken& stop) -> std::function<void()> {
                 const auto placed =
                     caches->placedPicture(reference.id, *picture, reference.placement, frame, key, stop);
                 return [this, id = reference.id, placed, image = toQImage(toSrgb8(*placed))] {
                   pictures_[id].placed = image;
                   pictures_[id].placedPicture = placed;
                   emit picturesChanged();
                 };
               });
}

void StudySession::inBackground(const std::string& key, std::function<std::function<void()>(StopToken)> job) {
  worker_->submit(key, [this, job = std::move(job), generation = generation_](const StopToken& stop) {
    std::function<void()> done;
    try {
      done = job(stop);
    } catch (const Cancelled&) {
      throw;
    } catch (const std::exception& error) {
      done = [this, sentence = QString::fromStdString(error.what())] { emit problem(sentence); };
    }
    QMetaObject::invokeMethod(this, [this, done, generation] {
      if (generation == generation_ && done) done();
    });
  });
}

GuidePlace StudySession::placeOf(const Guide& guide) const {
  GuidePlace place{state().frame, {}};
  if (const Reference* reference = state().reference(guide.reference))
    place.placing = frameFromReference(reference->placement, reference->size, state().frame);
  return place;
}

void StudySession::requestMap(const Guide& guide) {
  const Reference* reference = state().reference(guide.reference);
  const bool drawn = isOnlyDrawn(guide);
  if (reference == nullptr && !drawn) return;
  const auto picture = drawn ? nullptr : pictures_[reference->id].picture;
  if (!drawn && !picture) return;
  const Size frame = state().frame;
  const std::string placing =
      drawn ? std::to_string(frame.width) + "x" + std::to_string(frame.height) : placingKey(*reference, frame);
  const std::string below = guide.kind + tuningToJson(*kindOf(guide.kind).fields, guide.tuning).dump() +
                            guide.reference + placing + guide.drawing;
  const Region& r = guide.region;
  const std::string key = below + "|" + guide.retouch + (guide.retouchHidden ? "-" : "+") + r.mask +
                          (r.inverted ? "-" : "+") + std::to_string(r.feather);
  if (mapKeys_[guide.id] == key) return;
  mapKeys_[guide.id] = key;
  GuideEdits edits;
  try {
    edits = editsOf(guide, edits_);
  } catch (const Problem& error) {
    emit problem(QString::fromStdString(error.what()));
    return;
  }
  inBackground("map " + guide.id,
               [this, guide, source = drawn ? Reference{} : *reference, place = placeOf(guide), placing, below, key,
                picture, edits, caches = caches_](const StopToken& stop) -> std::function<void()> {
                 auto& kept = caches->below[guide.id];
                 if (kept.key != below || kept.extraction.map.empty()) {
                   kept = {};
                   std::shared_ptr<const Image<Rgb>> placed;
                   if (picture)
                     placed = caches->placedPicture(source.id, *picture, source.placement, place.frame, placing, stop);
                   auto& [madeOf, cache] = caches->extractions[guide.id];
                   if (madeOf != source.id + placing) {
                     cache = {};
                     madeOf = source.id + placing;
                   }
                   kept.extraction = mapBelow(guide, placed ? placed->view() : View<Rgb>(), place, edits, cache, stop);
                   kept.key = below;
                 }
                 Extraction copy = {kept.extraction.map.clone(), kept.extraction.thresholds, kept.extraction.resolved,
                                    kept.extraction.found, kept.extraction.note};
                 const auto result = std::make_shared<MapPicture>(
                     mapPictureOf(finishedMap(guide, std::move(copy), place, edits, stop), guide, edits.retouch.get()));
                 return [this, id = guide.id, result] {
                   // A result that was overtaken while it was made is still newer than what is shown, so it is shown;
                   // but not over a stroke that is being drawn.
                   if (!mapKeys_.contains(id) || live_ == id) return;
                   maps_[id] = std::move(*result);
                   emit mapChanged(QString::fromStdString(id));
                 };
               });
}

void StudySession::showLive(const std::string& guide, const Layer* retouch, const Layer* region, const Box& part) {
  const Guide* of = state().guide(guide);
  const auto found = maps_.find(guide);
  if (of == nullptr || found == maps_.end() || !found->second.below) return;
  live_ = guide;
  const Box shown = repaintPart(found->second, *of, retouch, region, part);
  emit mapPartChanged(QString::fromStdString(guide),
                      QRect(shown.left, shown.top, shown.right - shown.left, shown.bottom - shown.top));
}

void StudySession::endLive(const std::string& guide) {
  if (live_ != guide) return;
  live_.clear();
  mapKeys_.erase(guide);
  if (const Guide* of = state().guide(guide)) requestMap(*of);
}

std::shared_ptr<const Image<Rgb>> StudySession::placedPicture(const std::string& reference) const {
  const auto found = pictures_.find(reference);
  return found != pictures_.end() ? found->second.placedPicture : nullptr;
}

std::string StudySession::insertReference(StudyState& next, const Bytes& bytes, Image<Rgba16> picture,
                                          const std::string& name) {
  Reference reference;
  reference.id = newId(next, "r");
  reference.name = name;
  reference.size = picture.size();
  file_->addReferenceFile(reference.id, bytes);
  auto shared = std::make_shared<const Image<Rgba16>>(std::move(picture));
  pictures_[reference.id] = {shared, displayImage(*shared, displaySide), {}, {}};
  next.references.push_back(reference);
  next.selectedReference = reference.id;
  Guide guide;
  guide.id = newId(next, "g");
  guide.kind = "edges";
  guide.name = QString::fromStdString(name).section('.', 0, 0).left(24).toStdString();
  guide.reference = reference.id;
  guide.weight = 0.7;
  next.guides.push_back(guide);
  next.selectedGuide = guide.id;
  return reference.id;
}

void StudySession::bringIn(const std::vector<std::filesystem::path>& files) {
  StudyState next = state();
  QStringList names;
  std::vector<std::filesystem::path> drawings;
  for (const auto& path : files)
    guarded([&] {
      if (QString::fromStdString(path.extension().string()).toLower() == ".svg") {
        drawings.push_back(path);
        return;
      }
      Bytes bytes;
      auto loaded = readPicture(path, &bytes);
      insertReference(next, bytes, std::move(loaded.picture), path.filename().string());
      names << QString::fromStdString(path.filename().string());
      if (!loaded.note.empty()) emit notice(QString::fromStdString(loaded.note));
    });
  if (!names.isEmpty()) {
    change("Bring in " + names.join(", "), [&](StudyState& s) { s = next; });
    emit picturesChanged();
  }
  for (const auto& path : drawings) guarded([&] { bringInDrawing(path); });
}

void StudySession::bringIn(const QImage& image, const QString& name) {
  guarded([&] {
    QByteArray data;
    QBuffer buffer(&data);
    buffer.open(QIODevice::WriteOnly);
    image.save(&buffer, "PNG");
    const auto view = std::as_bytes(std::span(data.constData(), static_cast<std::size_t>(data.size())));
    StudyState next = state();
    insertReference(next, Bytes(view.begin(), view.end()), decodePicture(view, name.toStdString()).picture,
                    name.toStdString());
    change("Bring in " + name, [&](StudyState& s) { s = next; });
    emit picturesChanged();
  });
}

void StudySession::addGuide(const std::string& kind, const Tuning& tuning, const std::string& of) {
  const std::string name = kindOf(kind).name;
  change(QString("Add guide: %1").arg(QString::fromStdString(name)), [&](StudyState& s) {
    const Reference* reference = s.reference(of.empty() ? s.selectedReference : of);
    if (reference == nullptr && !s.references.empty()) reference = &s.references.back();
    if (reference == nullptr) return;
    Guide guide;
    guide.id = newId(s, "g");
    guide.kind = kind;
    guide.name = name;
    guide.reference = reference->id;
    guide.weight = 0.7;
    guide.tuning = tuning;
    s.guides.push_back(guide);
    s.selectedGuide = guide.id;
  });
}

void StudySession::addDrawnGuide(const std::string& kind, const QString& name, Drawing drawing) {
  drawing.alone = true;
  drawing.frame = state().frame;
  const std::string id = edits_.keep(std::move(drawing));
  change("Add guide: " + name, [&](StudyState& s) {
    Guide guide;
    guide.id = newId(s, "g");
    guide.kind = kind;
    guide.name = name.left(24).toStdString();
    guide.weight = 0.7;
    guide.drawing = id;
    s.guides.push_back(guide);
    s.selectedGuide = guide.id;
  });
}

void StudySession::removeGuide(const std::string& id) {
  const Guide* guide = state().guide(id);
  if (guide == nullptr) return;
  change("Remove guide " + QString::fromStdString(guide->name), [&](StudyState& s) {
    std::erase_if(s.guides, [&](const Guide& g) { return g.id == id; });
    if (s.selectedGuide == id) s.selectedGuide = s.guides.empty() ? "" : s.guides.front().id;
  });
}

void StudySession::removeReference(const std::string& id) {
  const Reference* reference = state().reference(id);
  if (reference == nullptr) return;
  change("Take out " + QString::fromStdString(reference->name), [&](StudyState& s) {
    std::erase_if(s.references, [&](const Reference& r) { return r.id == id; });
    std::erase_if(s.guides, [&](const Guide& g) { return g.reference == id; });
    if (s.selectedReference == id) s.selectedReference = s.references.empty() ? "" : s.references.front().id;
    if (s.guide(s.selectedGuide) == nullptr) s.selectedGuide = s.guides.empty() ? "" : s.guides.front().id;
  });
}

QImage StudySession::referenceImage(const std::string& id) const {
  const auto found = pictures_.find(id);
  return found != pictures_.end() ? found->second.display : QImage();
}

QImage StudySession::placedImage(const std::string& id) const {
  const auto found = pictures_.find(id);
  return found != pictures_.end() ? found->second.placed : QImage();
}

const MapPicture* StudySession::mapOf(const std::string& guide) const {
  const auto found = maps_.find(guide);
  return found != maps_.end() ? &found->second : nullptr;
}

std::vector<Check> StudySession::checks() const {
  std::map<std::string, MapFacts> facts;
  for (const auto& [id, map] : maps_) facts[id] = {map.edgeShare, map.acts, map.thresholds.high, map.thresholds.low};
  return checksOf(state(), facts);
}

const ProofInfo* StudySession::proof(std::int64_t number) const {
  for (const ProofInfo& info : proofs_)
    if (info.number == number) return &info;
  return nullptr;
}

std::vector<const ProofInfo*> StudySession::shownProofs() const {
  std::vector<const ProofInfo*> shown;
  for (auto info = proofs_.rbegin(); info != proofs_.rend(); ++info)
    if (std::find(state().discarded.begin(), state().discarded.end(), info->number) == state().discarded.end())
      shown.push_back(&*info);
  return shown;
}

const QImage& StudySession::proofImage(std::int64_t number) {
  auto found = proofImages_.find(number);
  if (found == proofImages_.end()) {
    if (proofImages_.size() >= mostProofImages) proofImages_.erase(proofImages_.begin());
    QImage image;
    if (proof(number) != nullptr)
      guarded([&] { image = imageFromPng(file_->proofPng(number)).convertToFormat(QImage::Format_RGB32); });
    found = proofImages_.emplace(number, image).first;
  }
  return found->second;
}

QImage StudySession::proofThumbnail(std::int64_t number) {
  if (!thumbnails_.contains(number))
    guarded([&] { thumbnails_[number] = imageFromPng(file_->proofThumbnail(number)); });
  return thumbnails_[number];
}

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
    if (map == maps_.end() || kindOf(entry.guide.kind).wide || misses_.contains(key)) continue;
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

void StudySession::writeMap(const std::string& id, const std::filesystem::path& file) {
  const Guide* guide = state().guide(id);
  const MapPicture* map = mapOf(id);
  if (guide == nullptr || map == nullptr || !map->map) throw badInput("There is no map to export yet.");
  if (file.extension() != ".svg") return writeFileAtomically(file, encodeMap(kindOf(guide->kind), *map->map));
  // Strokes that are all there is go out as they are; anything else is traced.
  const auto drawing = edits_.drawing(guide->drawing);
  const bool asTheyAre =
      drawing && drawing->alone && guide->kind == "lines" && guide->retouch.empty() && !guide->region.limits();
  const auto place = placeOf(*guide);
  const std::string text =
      svgFrom(asTheyAre ? following(*drawing, place.frame, place.placing).strokes : traced(*map->map).strokes,
              map->map->size(), guide->name);
  writeFileAtomically(file, bytesOf(text));
}

void StudySession::bringInDrawing(const std::filesystem::path& file) {
  const auto lines = readSvgLines(readWholeFile(file), file.filename().string(), state().frame);
  Drawing drawing;
  drawing.strokes = lines.strokes;
  addDrawnGuide("lines", QString::fromStdString(file.stem().string()), std::move(drawing));
  if (!lines.note.empty()) emit notice(QString::fromStdString(lines.note));
}

void StudySession::writeProof(std::int64_t number, const std::filesystem::path& file) {
  writeFileAtomically(file, file_->proofPng(number));
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
