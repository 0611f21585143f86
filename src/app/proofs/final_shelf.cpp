#include "app/proofs/final_shelf.h"

#include <QElapsedTimer>

#include "app/document/study_document.h"
#include "app/images.h"
#include "app/maps/map_room.h"
#include "app/proofs/job_sources.h"
#include "app/proofs/proof_shelf.h"
#include "app/tasks/task_runner.h"
#include "app/tasks/trouble.h"
#include "core/frame/frame.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/study/study_file.h"

namespace hscaffold::app {
namespace {

// Bytes.
constexpr std::size_t mostDecoded = std::size_t{256} << 20, mostSmallPictures = std::size_t{48} << 20;
constexpr int finalPreviewEvery = 400, longestPartial = 1024, longestStage = 240;
const std::string workKey = "final work", composeKey = "compose final";

QImage shrunk(View<Rgb8> picture, int longest) {
  const QImage image = toQImage(picture);
  return std::max(image.width(), image.height()) > longest
             ? image.scaled(longest, longest, Qt::KeepAspectRatio, Qt::SmoothTransformation)
             : image;
}

}  // namespace

struct FinalShelf::FinalOutcome {
  FinishedFinal made;
  PictureFile file;
  bool stored = false;
  std::string trouble;
};

struct FinalShelf::TryOutcome {
  TouchTry info;
  PictureFile file;
  bool stored = false;
  std::string trouble;
};

FinalShelf::FinalShelf(StudyDocument& document, MapRoom& maps, ProofShelf& proofs, TaskRunner& tasks,
                       const EngineRegistry& engines, QObject* parent)
    : QObject(parent),
      document_(document),
      maps_(maps),
      proofs_(proofs),
      tasks_(tasks),
      engines_(engines),
      made_(std::make_shared<MadeMaps>(mostMadeBytes)),
      decoded_(std::make_shared<Decoded>(mostDecoded)),
      small_(mostSmallPictures) {
  connect(&document_, &StudyDocument::changed, this, &FinalShelf::follow);
  prepareLater_.setSingleShot(true);
  prepareLater_.setInterval(400);
  connect(&prepareLater_, &QTimer::timeout, this, &FinalShelf::prepareMaps);
  connect(&document_, &StudyDocument::replaced, this, [this] {
    works_.clear();
    small_.clear();
    asked_.clear();
    decoded_->clear();
    made_->clear();
    shown_ = {};
    prepared_.clear();
    emit this->changed();
  });
}

const FinalWork* FinalShelf::workFor(const std::string& final, const std::string& touchUp) const {
  for (const FinalWork& work : works_)
    if (work.final == final && work.touchUp == touchUp) return &work;
  return nullptr;
}

FinalWork* FinalShelf::held(std::int64_t id) {
  for (FinalWork& work : works_)
    if (work.id == id) return &work;
  return nullptr;
}

std::shared_ptr<Engine> FinalShelf::engine() const {
  const std::string& name = document_.state().engine;
  auto found = engines_.find(name);
  if (!found) throw badInput(engineMissing(name));
  return found;
}

FinalPlan FinalShelf::planOf(const FinalWish& wish) const {
  const ProofInfo* proof = proofs_.proof(wish.proof);
  if (proof == nullptr) throw badInput("The proof that the final is made from is not there.");
  return {proof->recipe, wish.proof, wish.size, wish.change};
}

FinalNeeds FinalShelf::needs(const FinalWish& wish) const {
  const FinalPlan plan = planOf(wish);
  if (!wish.enlarged) return needsOf(plan, *engine());
  constexpr double perPixel = 0.0012;  // milliseconds
  return {perPixel * static_cast<double>(wish.size.area()), 10 * wish.size.area() + (std::int64_t{256} << 20)};
}

Recipe FinalShelf::recipeOf(const Final& final) const {
  if (proofs_.proof(final.proof) == nullptr && final.whole()) return toldBy(final, *document_.picture(final.picture));
  return finalRecipe(planOf({final.proof, final.size, final.change, final.enlarged}));
}

std::function<FinalMaps(const StopToken&)> FinalShelf::mapMaker(const Final& final) const {
  Recipe recipe = recipeOf(final);
  recipe.brief.start = {};
  JobSources sources = jobSources(recipe, document_, maps_, proofs_);
  return [recipe = std::move(recipe), size = final.size, sources = std::move(sources)](const StopToken& stop) {
    return mapsOf(recipe, size, sources, stop);
  };
}

std::string FinalShelf::begin(const FinalWish& wish) {
  std::string id;
  try {
    const FinalPlan plan = planOf(wish);
    if (!wish.enlarged) static_cast<void>(tilesOf(plan, engine()->info()));
    const bool changed = document_.change("Pull a final", [&](StudyState& s) {
      Final final;
      final.id = newId(s, "f");
      final.proof = wish.proof;
      final.size = wish.size;
      final.change = wish.change;
      final.enlarged = wish.enlarged;
      final.name =
          QString("Proof %1, %2 x %3").arg(wish.proof).arg(wish.size.width).arg(wish.size.height).toStdString();
      if (const Final* from = s.final(wish.from))
        for (const TouchUp& touchUp : from->touchUps) {
          final.touchUps.push_back(atSize(touchUp, from->size, wish.size));
          final.touchUps.back().id = newId(s, "t");
        }
      id = final.id;
      s.finals.push_back(std::move(final));
    });
    if (!changed) return {};
  } catch (const std::exception& error) {
    emit problem(QString::fromStdString(error.what()));
    return {};
  }
  document_.look([&](Looking& looking) {
    looking.final = id;
    looking.touchUp.clear();
  });
  goOn(id);
  return id;
}

void FinalShelf::goOn(const std::string& final) {
  if (document_.forLooking() || workFor(final) != nullptr) return;
  FinalWork work;
  work.id = ++lastId_;
  work.final = final;
  works_.push_back(std::move(work));
  emit changed();
  next();
}

void FinalShelf::pullTries(const std::string& final, const std::string& touchUp, int count) {
  const Final* of = document_.state().final(final);
  const TouchUp* wanted = of != nullptr ? of->touchUp(touchUp) : nullptr;
  if (wanted == nullptr || document_.forLooking()) return;
  try {
    if (!of->whole()) throw badInput("The final is not whole yet: touch-ups lie over it.");
    static_cast<void>(viewOf(*wanted, of->size, engine()->info()));
    // Seeds go on from the final's own.
    std::uint32_t seed = recipeOf(*of).brief.seed;
    for (const TouchTry& one : wanted->tries) seed = std::max(seed, one.seed + 1);
    for (const FinalWork& waiting : works_)
      if (waiting.touchUp == touchUp) seed = std::max(seed, waiting.seed + 1);
    const std::int64_t batch = lastId_ + 1;
    for (int i = 0; i < count; ++i) {
      FinalWork work;
      work.id = ++lastId_;
      work.batch = batch;
      work.final = final;
      work.touchUp = touchUp;
      work.seed = seed++;
      works_.push_back(std::move(work));
    }
  } catch (const std::exception& error) {
    emit problem(QString::fromStdString(error.what()));
    return;
  }
  emit changed();
  next();
}

void FinalShelf::stop() {
  works_.clear();
  tasks_.stop(workKey);
  emit changed();
}

void FinalShelf::remove(std::int64_t id) {
  std::erase_if(works_, [&](const FinalWork& work) { return work.id == id; });
  emit changed();
  next();
}

void FinalShelf::fail(std::int64_t id, const QString& sentence) {
  emit problem(sentence);
  remove(id);
}

void FinalShelf::next() {
  if (works_.empty() || works_.front().running) return;
  FinalWork& work = works_.front();
  const std::int64_t id = work.id;
  try {
    const Final* final = document_.state().final(work.final);
    if (final == nullptr || (!work.touchUp.empty() && final->touchUp(work.touchUp) == nullptr))
      return remove(id);  // it was taken away meanwhile
    work.running = true;
    if (work.touchUp.empty())
      startFinal(work);
    else
      startTry(work);
  } catch (const std::exception& error) {
    return fail(id, QString::fromStdString(error.what()));
  }
  emit changed();
}

/// For the thread that works; hands on what is heard to this one, and no more previews than can be followed.
EngineSink FinalShelf::sinkFor(std::int64_t id, const StopToken& stop) {
  return [this, id, stop, sincePreview = std::make_shared<QElapsedTimer>()](const EngineProgress& progress) {
    QImage preview;
    if (progress.preview && (!sincePreview->isValid() || sincePreview->elapsed() >= finalPreviewEvery)) {
      preview = toQImage(progress.preview());
      sincePreview->start();
    }
    tasks_.tell(stop, [this, id, step = progress.step, steps = progress.steps, preview] {
      FinalWork* of = held(id);
      if (of == nullptr) return;
      of->step = step;
      of->steps = steps;
      if (!preview.isNull()) of->preview = preview;
      emit progressed();
    });
  };
}

void FinalShelf::startFinal(FinalWork& work) {
  const Final final = *document_.state().final(work.final);
  const FinalPlan plan = planOf({final.proof, final.size, final.change, final.enlarged});
  std::shared_ptr<Engine> engine = final.enlarged ? nullptr : this->engine();
  const EngineInfo info = engine ? engine->info() : EngineInfo{};
  Recipe needed = plan.proof;
  needed.brief.start = {};
  const JobSources sources = jobSources(needed, document_, maps_, proofs_);
  if (engine) work.plan = tilesOf(plan, info);
  work.tiles = std::max(1, work.plan.count());
  // Tiles of another engine do not belong to this one.
  const auto kept = final.engine == info.id ? final.tiles : std::vector<std::string>();
  work.tile = static_cast<int>(kept.size());
  document_.changeAlways([&](StudyState& s) {
    if (Final* of = s.final(final.id)) {
      of->engine = info.id;
      of->tiles = kept;
      of->columns = std::max(1, work.plan.columns);
      of->rows = std::max(1, work.plan.rows);
    }
  });
  const Priority where = info.elsewhere ? Priority::elsewhere : Priority::thumbnails;
  tasks_.run(
      this, workKey, where,
      [self = this, id = work.id, final, plan, engine, sources, kept, tiles = work.plan, made = made_,
       png = proofs_.reader(), shown = shownPictures(), store = StudyDocument::Store(document_),
       tasks = &tasks_](const StopToken& stop) {
        FinalOutcome out;
        out.trouble = troubleIn([&] {
          const Image<Rgb8> proof = decodePngRgb8(png(final.proof));
          if (!engine) {
            out.made = enlargeToFinal(plan, proof.view(), sources, made.get(), stop);
          } else {
            FinalSink sink;
            sink.step = self->sinkFor(id, stop);
            const auto told = [&](int number, View<Rgb8> tile, const std::string& content) {
              const double scale =
                  std::min(1.0, static_cast<double>(longestPartial) / std::max(tiles.whole.width, tiles.whole.height));
              const Box& box = tiles.tiles[static_cast<std::size_t>(number)];
              const QImage small = toQImage(tile).scaled(std::max(1, static_cast<int>(box.width() * scale)),
                                                         std::max(1, static_cast<int>(box.height() * scale)),
                                                         Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
              tasks->tell(stop, [self, id, number, small, scale, content, final = final.id] {
                FinalWork* of = self->held(id);
                if (of == nullptr) return;
                const TilePlan& all = of->plan;
                if (of->partial.isNull()) {
                  of->partial = QImage(static_cast<int>(all.whole.width * scale),
                                       static_cast<int>(all.whole.height * scale), QImage::Format_ARGB32_Premultiplied);
                  of->partial.fill(Qt::transparent);
                }
                const Box& at = all.tiles[static_cast<std::size_t>(number)];
                for (int y = 0; y < small.height(); ++y) {
                  const int to = static_cast<int>(at.top * scale) + y;
                  if (to >= of->partial.height()) break;
                  const int left = static_cast<int>(at.left * scale);
                  const int count = std::min(small.width(), of->partial.width() - left);
                  std::copy_n(reinterpret_cast<const QRgb*>(small.constScanLine(y)), count,
                              reinterpret_cast<QRgb*>(of->partial.scanLine(to)) + left);
                }
                of->tile = number + 1;
                if (!content.empty())
                  self->document_.changeAlways([&](StudyState& s) {
                    if (Final* study = s.final(final); study != nullptr && std::ssize(study->tiles) == number)
                      study->tiles.push_back(content);
                  });
                emit self->progressed();
              });
            };
            sink.tile = [&](int number, View<Rgb8> tile) {
              std::string content;
              // What took long is not made twice.
              if (tiles.count() > 1) {
                const PictureFile file = pictureFile(encodePng(tile));
                if (store.put(file)) content = file.content;
              }
              told(number, tile, content);
            };
            sink.kept = [&](int number) {
              if (number >= std::ssize(kept)) return Image<Rgb8>();
              try {
                auto tile = shown(kept[static_cast<std::size_t>(number)])->clone();
                told(number, tile.view(), {});
                return tile;
              } catch (const Problem&) {
                return Image<Rgb8>();  // it is made again
              }
            };
            out.made = pullFinal(*engine, plan, proof.view(), sources, made.get(), sink, stop);
          }
          out.file = pictureFile(std::move(out.made.png));
          out.stored = store.put(out.file);
        });
        return out;
      },
      [this, id = work.id](FinalOutcome outcome) { take(id, std::move(outcome)); });
}

void FinalShelf::take(std::int64_t id, FinalOutcome outcome) {
  const FinalWork* work = held(id);
  if (work == nullptr) return;
  if (!outcome.trouble.empty())
    return fail(id,
                QString::fromStdString(outcome.trouble) +
                    (work->tile > 0 && work->tiles > 1 ? " What is there of it stays: it can be gone on with." : ""));
  const std::string final = work->final;
  if (!outcome.stored) document_.keepPicture(outcome.file);
  const auto cost = static_cast<std::size_t>(outcome.made.picture.size().area()) * sizeof(Rgb8);
  decoded_->put(outcome.file.content, std::make_shared<const Image<Rgb8>>(std::move(outcome.made.picture)), cost);
  const ProofInfo* proof = nullptr;
  if (const Final* of = document_.state().final(final)) proof = proofs_.proof(of->proof);
  document_.changeAlways([&](StudyState& s) {
    Final* of = s.final(final);
    if (of == nullptr) return;
    of->picture = outcome.file.content;
    of->tiles.clear();
    of->milliseconds = outcome.made.milliseconds;
    of->joins = outcome.made.joins.energy;
    of->worstJoin = outcome.made.joins.worst;
    of->holds = outcome.made.measures.holds;
    if (proof != nullptr) of->held = proof->holds;
  });
  for (const std::string& note : outcome.made.notes) emit notice(QString::fromStdString(note));
  remove(id);
}

void FinalShelf::startTry(FinalWork& work) {
  const Final final = *document_.state().final(work.final);
  const TouchUp touchUp = *final.touchUp(work.touchUp);
  const std::shared_ptr<Engine> engine = this->engine();
  Recipe recipe = recipeOf(final);
  recipe.brief.start = {};
  const JobSources sources = jobSources(recipe, document_, maps_, proofs_);
  const auto number = static_cast<std::size_t>(
      std::find_if(final.touchUps.begin(), final.touchUps.end(), [&](const TouchUp& t) { return t.id == touchUp.id; }) -
      final.touchUps.begin());
  const Priority where = engine->info().elsewhere ? Priority::elsewhere : Priority::thumbnails;
  tasks_.run(
      this, workKey, where,
      [self = this, id = work.id, seed = work.seed, final, touchUp, number, engine, recipe, sources, made = made_,
       shown = shownPictures(), store = StudyDocument::Store(document_), tasks = &tasks_](const StopToken& stop) {
        TryOutcome out;
        out.trouble = troubleIn([&] {
          const auto below = composedFinal(final, shown, number);
          auto tried =
              pullTry(*engine, recipe, touchUp, below.view(), seed, sources, made.get(), self->sinkFor(id, stop), stop);
          out.file = pictureFile(std::move(tried.png));
          out.info = std::move(tried.info);
          out.info.picture = out.file.content;
          out.stored = store.put(out.file);
        });
        return out;
      },
      [this, id = work.id](TryOutcome outcome) { take(id, std::move(outcome)); });
}

void FinalShelf::take(std::int64_t id, TryOutcome outcome) {
  const FinalWork* held = this->held(id);
  if (held == nullptr) return;
  if (!outcome.trouble.empty()) return fail(id, QString::fromStdString(outcome.trouble));
  const FinalWork work = *held;
  if (!outcome.stored) document_.keepPicture(outcome.file);
  const auto touchUpIn = [&work](StudyState& s) {
    Final* final = s.final(work.final);
    return final != nullptr ? final->touchUp(work.touchUp) : nullptr;
  };
  const auto has = [](const TouchUp& touchUp, const std::string& picture) {
    return std::any_of(touchUp.tries.begin(), touchUp.tries.end(),
                       [&](const TouchTry& one) { return one.picture == picture; });
  };
  const Final* final = document_.state().final(work.final);
  const TouchUp* touchUp = final != nullptr ? final->touchUp(work.touchUp) : nullptr;
  if (touchUp != nullptr && touchUp->tries.size() >= mostTries) {
    emit notice("There are as many tries as a touch-up can have: take some away first.");
  } else if (touchUp != nullptr && !work.after.empty() && has(*touchUp, work.after)) {
    // Those that were asked for together are one step, however long they take.
    document_.changeAlways([&](StudyState& s) {
      TouchUp* of = touchUpIn(s);
      if (of != nullptr && has(*of, work.after) && !has(*of, outcome.info.picture)) of->tries.push_back(outcome.info);
    });
  } else if (touchUp != nullptr) {
    document_.change(QString("Pull tries of %1").arg(QString::fromStdString(touchUp->name)), [&](StudyState& s) {
      TouchUp& of = *touchUpIn(s);
      of.tries.push_back(outcome.info);
      of.used = static_cast<int>(of.tries.size()) - 1;
      of.on = true;
    });
    for (FinalWork& other : works_)
      if (other.batch == work.batch) other.after = outcome.info.picture;
  }
  remove(id);
}

ShownPictures FinalShelf::shownPictures() const {
  return [decoded = decoded_, read = document_.pictureReader()](const std::string& content) {
    if (auto kept = decoded->find(content)) return kept;
    auto picture = std::make_shared<const Image<Rgb8>>(decodePngRgb8(*read(content)));
    decoded->put(content, picture, static_cast<std::size_t>(picture->size().area()) * sizeof(Rgb8));
    return picture;
  };
}

void FinalShelf::follow(const Changes& changes) {
  if (!changes.finals && !changes.looking) return;
  // What was taken away is not made any more.
  if (!works_.empty() && works_.front().running) {
    const FinalWork& work = works_.front();
    const Final* final = document_.state().final(work.final);
    if (final == nullptr || (!work.touchUp.empty() && final->touchUp(work.touchUp) == nullptr)) {
      tasks_.stop(workKey);
      remove(work.id);
    }
  }
  compose();
  prepareLater_.start();
}

void FinalShelf::prepareMaps() {
  const Final* final = document_.state().shownFinal();
  const TouchUp* touchUp = final != nullptr ? final->touchUp(document_.state().looking.touchUp) : nullptr;
  if (touchUp == nullptr || !final->whole() || !works_.empty() || document_.forLooking()) return;
  try {
    const TouchView view = viewOf(*touchUp, final->size, engine()->info());
    Recipe recipe = mapsRecipe(recipeOf(*final), final->size, view.detail());
    std::erase_if(recipe.guides, [&](const RecipeGuide& entry) {
      const auto own = touchUp->guides.find(entry.guide.id);
      return own != touchUp->guides.end() && !own->second.on;
    });
    // Once for a size; what is made stays at hand as long as there is room.
    const std::string what =
        final->id + std::to_string(recipe.frame.width) + "/" + std::to_string(recipe.guides.size());
    if (what == prepared_ || recipe.guides.empty()) return;
    prepared_ = what;
    tasks_.run(
        this, "maps of touch-ups", Priority::facts,
        [recipe, sources = jobSources(recipe, document_, maps_, proofs_), made = made_](const StopToken& stop) {
          try {
            static_cast<void>(jobFrom(recipe, sources, stop, made.get()));
          } catch (const Problem&) {
            // The pull will say what is wrong.
          }
        },
        [] {});
  } catch (const Problem&) {
    // Nothing to be pulled yet.
  }
}

void FinalShelf::compose() {
  const Final* final = document_.state().shownFinal();
  if (final == nullptr || !final->whole()) {
    tasks_.stop(composeKey);
    if (shown_.picture.isNull() && shown_.of.id.empty()) return;
    shown_ = {};
    emit pictureChanged();
    return;
  }
  // Names and what the next try will be asked for do not show.
  const auto seen = [](Final f) {
    for (TouchUp& touchUp : f.touchUps) {
      const TouchTry* used = touchUp.on ? touchUp.usedTry() : nullptr;
      TouchUp only;
      only.id = touchUp.id;
      if (used != nullptr) {
        only.region = touchUp.region;
        only.feather = touchUp.feather;
        only.tries = {*used};
        only.used = 0;
      }
      touchUp = std::move(only);
    }
    f.name.clear();
    f.tiles.clear();
    return f;
  };
  if (!shown_.picture.isNull() && seen(shown_.of) == seen(*final)) {
    shown_.of = *final;
    return;
  }
  // Another final: what is seen of the one before would be taken for it.
  if (shown_.of.id != final->id && !shown_.picture.isNull()) {
    shown_ = {};
    emit pictureChanged();
  }
  tasks_.run(
      this, composeKey, Priority::maps,
      [final = *final, pictures = shownPictures()](const StopToken& stop) {
        Shown out;
        out.of = final;
        const auto picture = composedFinal(final, pictures, mostTouchUps, [&](std::size_t number, View<Rgb8> after) {
          throwIfStopped(stop);
          if (number == 0) out.base = toQImage(after);
          out.stages.push_back(shrunk(after, longestStage));
        });
        out.picture = toQImage(picture.view());
        return out;
      },
      [this](Shown out) {
        const Final* now = document_.state().shownFinal();
        if (now == nullptr || now->id != out.of.id) return;
        shown_ = std::move(out);
        emit pictureChanged();
      });
}

QImage FinalShelf::small(const std::string& content) {
  if (const auto kept = small_.find(content)) return *kept;
  if (!asked_.insert(content).second) return {};
  tasks_.run(
      this, "picture of a try " + content, Priority::thumbnails,
      [content, read = document_.pictureReader()](const StopToken&) {
        return shrunk(decodePngRgb8(*read(content)).view(), longestSmall);
      },
      [this, content](const QImage& image) {
        asked_.erase(content);
        small_.put(content, std::make_shared<const QImage>(image), static_cast<std::size_t>(image.sizeInBytes()));
        emit smallChanged();
      });
  return {};
}

}  // namespace hscaffold::app
