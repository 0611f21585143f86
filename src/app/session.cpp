#include "app/session.h"

#include <QBuffer>
#include <QDir>
#include <QStandardPaths>
#include <nlohmann/json.hpp>
#include <random>

#include "app/images.h"
#include "app/session_caches.h"
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

constexpr std::size_t mostProofImages = 24;

std::filesystem::path toPath(const QString& text) { return text.toStdString(); }

}  // namespace

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

void StudySession::guarded(const std::function<void()>& job) {
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
  figures_.clear();
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
  for (const auto& [id, map] : maps_) {
    MapFacts& of = facts[id] = map.figures;
    of.edgeShare = map.edgeShare;
    of.acts = map.acts;
    of.nowHigh = map.thresholds.high;
    of.nowLow = map.thresholds.low;
  }
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

void StudySession::writeMap(const std::string& id, const std::filesystem::path& file) {
  const Guide* guide = state().guide(id);
  const MapPicture* map = mapOf(id);
  if (guide == nullptr || map == nullptr || !map->map) throw badInput("There is no map to export yet.");
  if (kindOf(guide->kind).figures && (file.extension() == ".json" || file.extension() == ".svg")) {
    const auto figures = figuresOf(*guide);
    const double thickness = valueOf(*kindOf(guide->kind).fields, guide->tuning, "thickness") / 100;
    const std::string text = file.extension() == ".json" ? pose::cocoFrom(*figures).dump(1) + "\n"
                                                         : svgFrom(*figures, inksOf(*guide), thickness, guide->name);
    return writeFileAtomically(file, bytesOf(text));
  }
  if (file.extension() != ".svg")
    return writeFileAtomically(
        file, encodeMap(kindOf(guide->kind), *map->map, map->colour ? map->colour->view() : View<Rgb8>()));
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

void StudySession::addPoseGuide(const QString& name, pose::Figures figures) {
  const Reference* reference = state().reference(state().selectedReference);
  if (reference == nullptr && !state().references.empty()) reference = &state().references.back();
  figures.frame = state().frame;
  figures.placing.reset();
  if (reference != nullptr) figures.placing = frameFromReference(reference->placement, reference->size, state().frame);
  const std::string kept = edits_.keep(std::move(figures));
  change("Add guide: " + name, [&](StudyState& s) {
    Guide guide;
    guide.id = newId(s, "g");
    guide.kind = "pose";
    guide.name = name.left(24).toStdString();
    guide.reference = reference != nullptr ? reference->id : std::string();
    guide.weight = 0.9;
    guide.figures = kept;
    s.guides.push_back(guide);
    s.selectedGuide = guide.id;
  });
}

pose::CocoFigures StudySession::readFigures(const std::filesystem::path& file) const {
  const auto bytes = readWholeFile(file);
  const std::string name = file.filename().string();
  const Guide* guide = state().guide(state().selectedGuide);
  const Reference* reference =
      state().reference(guide != nullptr && kindOf(guide->kind).figures ? guide->reference : state().selectedReference);
  auto read = figuresFromFile(bytes, name, reference != nullptr ? reference->size : state().frame);
  if (reference != nullptr) {
    read.figures.placing = Affine{};
    read.figures = pose::following(read.figures, state().frame,
                                   frameFromReference(reference->placement, reference->size, state().frame));
  }
  return read;
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

}  // namespace hscaffold::app
