#include "app/document/study_document.h"

#include <unistd.h>

#include <QDir>
#include <QGuiApplication>
#include <QStandardPaths>
#include <algorithm>
#include <atomic>
#include <mutex>
#include <random>

#include "core/study/study_file.h"
#include "files/study_lock.h"

namespace hscaffold::app {
namespace {

constexpr int pause = 1000;    ///< milliseconds without a change: what is merged is one step, and is written
constexpr int soon = 30;       ///< milliseconds until a file that is being written is looked at again
constexpr int nextTry = 5000;  ///< milliseconds until what could not be written is tried again

/// Where studies without a name lie: among the user's own data or, where that takes nothing more (a full home, one that
/// may not be written), among what the system sweeps away.
std::vector<std::filesystem::path> ownFolders() {
  return {QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString(),
          QString("%1/humble-scaffold-%2").arg(QDir::tempPath()).arg(getuid()).toStdString()};
}

std::set<std::string> workNamedIn(const StudyState& state) {
  std::set<std::string> names;
  for (const Guide& guide : state.guides) names.merge(hscaffold::workNamedIn(guide));
  return names;
}

}  // namespace

/// Where an open study takes pictures from other threads.
struct StudyDocument::Place {
  std::mutex mutex;             ///< held while one is written
  std::filesystem::path path;   ///< empty: nowhere, any more
  bool copied = false;          ///< just now: what is written may not be in the copy
  std::atomic<int> writers{0};  ///< and copiers
};

StudyDocument::StudyDocument(QObject* parent) : QObject(parent), place_(std::make_shared<Place>()) {
  writeLater_.setSingleShot(true);
  writeLater_.setInterval(pause);
  connect(&writeLater_, &QTimer::timeout, this, [this] {
    // Whoever holds still in the middle of a drag has not ended it.
    if (QGuiApplication::mouseButtons() != Qt::NoButton) return writeLater_.start();
    seal();
  });
  tryAgain_.setInterval(nextTry);
  connect(&tryAgain_, &QTimer::timeout, this, &StudyDocument::keep);
}

StudyDocument::~StudyDocument() {
  writeNow();
  tidyFile();
  if (lost_) writer_.forgetAll();
}

void StudyDocument::createUntitled(Unwritten unwritten) {
  const auto folders = ownFolders();
  try {
    return createUntitledIn(folders.front(), unwritten);
  } catch (const Problem& problem) {
    if (problem.kind() != Problem::Kind::failed) throw;
    try {
      createUntitledIn(folders.back(), unwritten);
    } catch (const Problem&) {
      throw problem;
    }
    emit notice(QString("%1 This study lies in %2 for now, where the system may sweep it away: save it elsewhere.")
                    .arg(problem.what(), QString::fromStdString(folders.back().string())));
  }
}

void StudyDocument::createUntitledIn(const std::filesystem::path& folder, Unwritten unwritten) {
  const QString name = QString::fromStdString(folder.string());
  if (!QDir().mkpath(name)) throw failed("Could not make the folder " + folder.string() + " for new studies.");
  StudyState state;
  state.brief.seed = std::random_device{}();
  for (int number = 1;; ++number) {
    // Another window may be looking for a name at the same time: the lock comes first, and nothing is replaced.
    const auto path = folder / ("untitled-" + std::to_string(number) + ".scaffold");
    if (std::filesystem::exists(path)) continue;
    auto lock = StudyLock::take(path);
    if (!lock.lock && !lock.folderClosed) continue;
    std::unique_ptr<StudyFile> file;
    try {
      file = std::make_unique<StudyFile>(StudyFile::create(path, state, {}, {}, StudyFile::Existing::keep));
    } catch (const Problem&) {
      if (std::filesystem::exists(path)) continue;
      throw;
    }
    return adopt(std::move(file), std::move(lock.lock), false, unwritten);
  }
}

bool StudyDocument::busy() const { return place_->writers > 0; }

StudyDocument::Store::Store(const StudyDocument& document) : place_(document.place_) {}

bool StudyDocument::Store::put(const PictureFile& picture) const {
  const std::lock_guard writing(place_->mutex);
  if (place_->path.empty() || place_->copied) return false;
  ++place_->writers;
  bool done = false;
  try {
    StudyFile::addPicture(place_->path, picture);
    done = true;
  } catch (const std::exception&) {
    // It comes with the settings then, and what is wrong is said there.
  }
  --place_->writers;
  return done;
}

void StudyDocument::keepPicture(const PictureFile& picture) { pictures_.push_back(picture); }

std::shared_ptr<const Bytes> StudyDocument::picture(const std::string& source) const {
  for (const PictureFile& waiting : pictures_)
    if (waiting.content == source) return waiting.bytes;
  return std::make_shared<const Bytes>(file_->picture(source));
}

std::function<std::shared_ptr<const Bytes>(const std::string&)> StudyDocument::pictureReader() const {
  return [waiting = pictures_, path = path()](const std::string& source) {
    for (const PictureFile& one : waiting)
      if (one.content == source) return one.bytes;
    return std::make_shared<const Bytes>(StudyFile::picture(path, source));
  };
}

bool StudyDocument::isOpen(const std::filesystem::path& path) const {
  std::error_code error;
  return file_ && std::filesystem::equivalent(path, file_->path(), error);
}

void StudyDocument::open(const std::filesystem::path& path, Unwritten unwritten) {
  // Opened again, the study is read anew: what was not written yet comes first, and its lock is ours already.
  if (isOpen(path) && !forLooking_) {
    if (!writeNow()) throw failed(unwritten_.toStdString());
    auto file = std::make_unique<StudyFile>(StudyFile::open(path));
    adopt(std::move(file), std::move(lock_), false, unwritten);
    return;
  }
  take(prepare(path), unwritten);
}

StudyDocument::Opened StudyDocument::prepare(const std::filesystem::path& path) {
  std::error_code error;
  Opened opened;
  bool mayWrite = false;
  // What is no file has no lock beside it; opening it says what is wrong with it.
  if (std::filesystem::is_regular_file(path, error)) {
    auto taken = StudyLock::take(path);
    opened.lock = std::move(taken.lock);
    opened.holder = taken.folderClosed ? std::string() : taken.holder;
    mayWrite = opened.lock != nullptr;
  }
  // An older one is brought forward once it is the study that is open.
  opened.file = std::make_unique<StudyFile>(
      StudyFile::open(path, mayWrite ? StudyFile::Access::writeLater : StudyFile::Access::read));
  opened.file->readAhead();
  opened.forLooking = !mayWrite || !opened.file->writable();
  return opened;
}

void StudyDocument::take(Opened opened, Unwritten unwritten) {
  const QString name = QString::fromStdString(opened.file->path().filename().string());
  const bool forLooking = opened.forLooking;
  adopt(std::move(opened.file), std::move(opened.lock), forLooking, unwritten);
  if (!forLooking) return;
  emit notice(
      opened.holder.empty()
          ? QString("%1 may not be written: it is open for looking. Save it under another name to work on it.")
                .arg(name)
          : QString("%1 is open in %2: here it is open for looking. Save it under another name to work on a copy.")
                .arg(name, QString::fromStdString(opened.holder)));
}

void StudyDocument::saveAs(const std::filesystem::path& path) {
  const auto saving = beginSaving(path);
  if (!saving) return;
  makeCopy(*saving);
  endSaving(*saving);
}

std::shared_ptr<StudyDocument::Saving> StudyDocument::beginSaving(const std::filesystem::path& path) {
  history_.seal();
  writeNow();
  if (std::filesystem::weakly_canonical(path) == std::filesystem::weakly_canonical(file_->path())) return nullptr;
  auto [lock, folderClosed, holder] = StudyLock::take(path);
  if (!lock && !folderClosed) throw failed(path.string() + " is open in " + holder + ". Choose another name.");
  return std::make_shared<Saving>(file_->path(), path, std::move(lock), place_);
}

StudyDocument::Saving::Saving(std::filesystem::path copied, std::filesystem::path path, std::unique_ptr<StudyLock> held,
                              std::shared_ptr<Place> taking)
    : from(std::move(copied)), to(std::move(path)), lock(std::move(held)), place(std::move(taking)) {
  ++place->writers;
  const std::lock_guard writing(place->mutex);
  place->copied = true;
}

StudyDocument::Saving::~Saving() {
  if (!place) return;
  const std::lock_guard writing(place->mutex);
  place->copied = false;
  --place->writers;
}

void StudyDocument::makeCopy(Saving& saving) {
  StudyFile::copy(saving.from, saving.to);
  saving.copy = std::make_unique<StudyFile>(StudyFile::open(saving.to));
}

void StudyDocument::endSaving(Saving& saving) {
  // Another study may have been opened meanwhile: the copy is there, and that is all.
  const bool goesOn = saving.copy && file_->path() == saving.from;
  if (const auto place = std::exchange(saving.place, nullptr)) {
    const std::lock_guard writing(place->mutex);
    place->copied = false;
    // One that was looked at may be written from now on.
    if (goesOn) place->path = saving.to;
    --place->writers;
  }
  if (!goesOn) return;
  const bool wasUntitled = isUntitled();
  // Work that the first one could not take lies in the copy from now on.
  *file_ = std::move(*saving.copy);
  writer_.follow(file_.get());
  step_ = std::max(step_, writer_.written());
  dirty_ = dirty_ || noted_;
  lock_ = std::move(saving.lock);
  if (lock_) lock_->follow(saving.to);
  const bool wasForLooking = std::exchange(forLooking_, false);
  if (wasUntitled) {
    if (state().title == StudyState{}.title)
      emit changed(history_.change("Title", [&](StudyState& s) { s.title = saving.to.stem().string(); }));
    dirty_ = true;
  }
  const bool all = writeNow();
  // The copy is on the disk for good; the first one goes only once nothing waits to be written into the new one.
  if (std::error_code ignored; wasUntitled && all) std::filesystem::remove(saving.from, ignored);
  emit written();
  emit pathChanged();
  if (wasForLooking) emit changed(Changes::all());
}

std::filesystem::path StudyDocument::path() const { return file_ ? file_->path() : std::filesystem::path(); }

bool StudyDocument::isUntitled() const {
  const auto folders = ownFolders();
  return std::find(folders.begin(), folders.end(), path().parent_path()) != folders.end() &&
         path().filename().string().starts_with("untitled-");
}

void StudyDocument::adopt(std::unique_ptr<StudyFile> file, std::unique_ptr<StudyLock> lock, bool forLooking,
                          Unwritten unwritten) {
  // Everything that can fail comes first.
  StudyHistory history(file->readState());
  history_.seal();
  if (!writeNow() && unwritten == Unwritten::refuse) throw failed(unwritten_.toStdString());
  if (!forLooking) file->bringForward();
  dirty_ = lost_ = false;
  noted_.reset();
  tryAgain_.stop();
  unwritten_.clear();
  emit closing();
  tidyFile();
  file_ = std::move(file);
  lock_ = std::move(lock);
  if (lock_) lock_->follow(file_->path());
  forLooking_ = forLooking;
  {
    const std::lock_guard writing(place_->mutex);
    place_->path.clear();
  }
  place_ = std::make_shared<Place>();
  if (!forLooking) place_->path = file_->path();
  writer_.follow(forLooking ? nullptr : file_.get());
  step_ = writer_.written();
  work_ = WorkStore([this](const std::string& id) { return file_->work(id); });
  pictures_.clear();
  history_ = std::move(history);
  emit replaced();
  emit pathChanged();
  emit changed(Changes::all());
  // Proofs and sheets were read by who shows them.
  if (const auto& mended = file_->mended(); !mended.empty()) {
    QString sentence = QString::fromStdString(mended.front());
    if (mended.size() > 1) sentence += QString(" So it was in %1 more places.").arg(mended.size() - 1);
    emit notice(sentence);
  }
}

void StudyDocument::note() {
  writeLater_.stop();
  auto entry = std::make_shared<StudyEntry>();
  entry->settings = settingsText(state());
  if (step_ == 0) step_ = firstStep();
  entry->step = ++step_;
  entry->parts = work_.unsaved(workNamedIn(state()));
  entry->pictures = pictures_;
  writer_.note(StudyNotes::Name::step, *entry);
  noted_ = std::move(entry);
  dirty_ = false;
}

void StudyDocument::keep() {
  if (!file_ || forLooking_) return;
  if (dirty_) note();
  write();
}

void StudyDocument::write() {
  if (!noted_ || writing_) return;  // what is noted while another step is being written follows it
  if (!busy()) return giveToWriter();
  // A picture is on its way into the file, or the file is being copied.
  QTimer::singleShot(soon, this, &StudyDocument::write);
}

bool StudyDocument::writeNow() {
  if (!file_ || forLooking_) return true;
  if (dirty_) note();
  const auto tried = writing_;
  writer_.finish();
  if (!noted_ || noted_ == tried) return !noted_;
  giveToWriter();
  writer_.finish();
  return !noted_;
}

void StudyDocument::giveToWriter() {
  writing_ = noted_;
  writer_.write(noted_, [this, entry = noted_](const QString& wrong) { ended(entry, wrong); });
}

void StudyDocument::ended(const std::shared_ptr<const StudyEntry>& entry, const QString& wrong) {
  writing_.reset();
  if (!wrong.isEmpty()) {
    const bool isNew = unwritten_.isEmpty();
    unwritten_ = wrong;
    tryAgain_.start();
    if (isNew) emit problem(unwritten_ + " It is tried again; nothing is forgotten while this window is open.");
    return;
  }
  work_.saved(entry->parts);
  std::erase_if(pictures_, [&](const PictureFile& waiting) {
    return std::any_of(entry->pictures.begin(), entry->pictures.end(),
                       [&](const PictureFile& one) { return one.content == waiting.content; });
  });
  if (noted_ == entry) {
    noted_.reset();
    writer_.forget(StudyNotes::Name::step);
  }
  if (work_.bytes() > WorkStore::mostBytes) work_.forget(workNamedIn(state()));
  tryAgain_.stop();
  if (!unwritten_.isEmpty()) {
    unwritten_.clear();
    emit written();
  }
  write();
}

bool StudyDocument::flush() {
  history_.seal();
  return writeNow();
}

/// Hand work and pictures that neither the study nor any of its proofs needs go when the study is closed: until then
/// undo may bring them back.
void StudyDocument::tidyFile() {
  if (!file_ || forLooking_ || dirty_ || noted_ || busy()) return;
  try {
    const StudyState now = file_->readState();
    auto names = workNamedIn(now);
    std::set<std::string> pictures;
    for (const Reference& reference : now.references) pictures.insert(reference.source());
    for (const Final& final : now.finals) pictures.merge(final.pictures());
    const auto needs = [&](const Recipe& recipe) {
      for (const RecipeGuide& entry : recipe.guides) names.merge(hscaffold::workNamedIn(entry.guide));
      for (const RecipeReference& reference : recipe.references) pictures.insert(reference.source());
    };
    for (const ProofInfo& info : file_->proofs()) needs(info.recipe);
    for (const SheetInfo& info : file_->sheets()) needs(info.plan.base);
    // What could not be read may need anything.
    if (!file_->mended().empty()) return;
    file_->keepOnly(work_.withTiles(names), pictures);
  } catch (const Problem&) {
    // A file that may not be written, or hand work that is missing: it stays as it is.
  }
}

bool StudyDocument::change(const QString& name, const std::function<void(StudyState&)>& edit,
                           const std::string& merge) {
  if (forLooking_) {
    emit notice("This study is open for looking. Save it under another name to work on a copy.");
    emit changed(Changes::all());  // fields show again what is
    return false;
  }
  const Changes changes = history_.change(name.toStdString(), edit, merge);
  if (!changes.any()) return true;
  dirty_ = true;
  if (merge.empty())
    keep();
  else
    writeLater_.start();
  emit changed(changes);
  return true;
}

void StudyDocument::changeQuietly(const std::function<void(StudyState&)>& edit) {
  tellQuietly(history_.changeQuietly(edit));
}

void StudyDocument::changeAlways(const std::function<void(StudyState&)>& edit) {
  tellQuietly(history_.changeAlways(edit));
}

void StudyDocument::tellQuietly(const Changes& changes) {
  if (!changes.any() || forLooking_) return;
  dirty_ = true;
  writeLater_.start();
  emit changed(changes);
}

void StudyDocument::look(const std::function<void(Looking&)>& edit) {
  if (!history_.look(edit)) return;
  Changes changes;
  changes.looking = true;
  if (!forLooking_) {
    dirty_ = true;
    writeLater_.start();
  }
  emit changed(changes);
}

void StudyDocument::seal() {
  history_.seal();
  if (dirty_) keep();
}

void StudyDocument::undo() {
  const Changes changes = history_.undo();
  if (!changes.any()) return;
  dirty_ = true;
  keep();
  emit changed(changes);
}

void StudyDocument::redo() {
  const Changes changes = history_.redo();
  if (!changes.any()) return;
  dirty_ = true;
  keep();
  emit changed(changes);
}

GuidePlace StudyDocument::placeOf(const Guide& guide) const { return hscaffold::placeOf(state(), guide); }

}  // namespace hscaffold::app
