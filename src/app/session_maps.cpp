// StudySession: references read and placed, maps made, hand work shown while it is done.
#include "app/images.h"
#include "app/session.h"
#include "app/session_caches.h"
#include "core/guides/affine_json.h"
#include "core/image/colour.h"
#include "files/picture_reader.h"

namespace hscaffold::app {
namespace {

std::string placingKey(const Reference& reference, Size frame) {
  return placementToJson(reference.placement).dump() + std::to_string(frame.width) + "x" + std::to_string(frame.height);
}

}  // namespace

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
                            guide.reference + placing + guide.drawing + guide.figures + guide.inks;
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
                 Extraction copy = {kept.extraction.map.clone(), kept.extraction.colour.clone(),
                                    kept.extraction.thresholds,  kept.extraction.resolved,
                                    kept.extraction.found,       kept.extraction.note};
                 const auto result = std::make_shared<MapPicture>(
                     mapPictureOf(finishedMap(guide, std::move(copy), place, edits, stop), guide, edits.retouch.get(),
                                  edits.inks ? edits.inks->background : pose::houseInks().background));
                 return [this, id = guide.id, result, figures = edits.figures, place] {
                   // A result that was overtaken while it was made is still newer than what is shown, so it is shown;
                   // but not over a stroke that is being drawn.
                   if (!mapKeys_.contains(id) || live_ == id) return;
                   // What is known of figures holds until they have been looked at anew.
                   MapPicture& shown = maps_[id];
                   result->figures = shown.figures;
                   result->words = shown.words;
                   shown = std::move(*result);
                   emit mapChanged(QString::fromStdString(id));
                   if (figures) requestWords(id, figures, place);
                 };
               });
}

/// What figures do, in words: found after their map is shown, as it takes a while for hundreds of them.
void StudySession::requestWords(const std::string& id, const std::shared_ptr<const pose::Figures>& figures,
                                const GuidePlace& place) {
  inBackground("words " + id,
               [this, id, figures, place, caches = caches_](const StopToken& stop) -> std::function<void()> {
                 // What was told before of the same figures is not found anew.
                 auto& known = caches->words[id];
                 std::map<std::shared_ptr<const pose::Figure>, pose::PoseWords> now;
                 std::vector<pose::PoseWords> all;
                 QStringList words;
                 for (const auto& figure : figures->figures) {
                   throwIfStopped(stop);
                   const auto found = known.find(figure);
                   all.push_back(now[figure] = found != known.end() ? found->second : pose::wordsFor(*figure));
                   if (figure->on) words.prepend(QString::fromStdString(all.back().text()));  // near ones first
                 }
                 known = std::move(now);
                 MapFacts facts;
                 facts.tell(pose::following(*figures, place.frame, place.placing), all);
                 return [this, id, facts, text = words.join("; ")] {
                   const auto map = maps_.find(id);
                   if (map == maps_.end()) return;
                   map->second.figures = facts;
                   map->second.words = text;
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

void StudySession::showLiveFigures(const std::string& guide, View<Rgb8> behind,
                                   std::span<const pose::FigureMarks> figures, const Box& part) {
  const Guide* of = state().guide(guide);
  const auto found = maps_.find(guide);
  if (of == nullptr || found == maps_.end() || !found->second.below) return;
  live_ = guide;
  repaintFigures(found->second, behind, figures, inksOf(*of).background, part);
  emit mapPartChanged(QString::fromStdString(guide),
                      QRect(part.left, part.top, part.right - part.left, part.bottom - part.top));
}

std::shared_ptr<const pose::Figures> StudySession::figuresOf(const Guide& guide) {
  if (guide.figures.empty()) return nullptr;
  const GuidePlace place = placeOf(guide);
  const std::string key = guide.figures + affineToJson(place.placing).dump() + std::to_string(place.frame.width) + "x" +
                          std::to_string(place.frame.height);
  PlacedFigures& kept = figures_[guide.id];
  if (kept.key == key) return kept.figures;
  guarded([&] {
    kept.figures = std::make_shared<const pose::Figures>(
        pose::following(*edits_.figures(guide.figures), place.frame, place.placing));
    kept.key = key;
  });
  return kept.figures;
}

const pose::Inks& StudySession::inksOf(const Guide& guide) {
  const pose::Inks* inks = nullptr;
  guarded([&] { inks = edits_.inks(guide.inks).get(); });
  return inks != nullptr ? *inks : pose::houseInks();
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

}  // namespace hscaffold::app
