#include "app/maps/map_room.h"

#include "files/map_files.h"

#include "app/digest.h"
#include "app/document/study_document.h"
#include "app/images.h"
#include "app/tasks/task_runner.h"
#include "core/image/colour.h"
#include "core/kinds.h"
#include "core/study/study_file.h"
#include "files/picture_reader.h"

namespace hscaffold::app {
namespace {

constexpr int displaySide = 2048;  ///< longest side of a reference as it is shown

std::string mapKey(const std::string& guide) { return "map " + guide; }

std::uint64_t placingKey(const Reference& reference, Size frame) {
  return Digest().add(reference.source()).add(reference.placement).add(frame).value();
}

/// What a guide's map without retouch and region is made from.
std::uint64_t belowKey(const Guide& guide, std::uint64_t placing) {
  Digest digest;
  digest.add(guide.kind).add(guide.reference).add(placing);
  for (const auto& [field, value] : guide.tuning) digest.add(field).add(value.number()).add(value.text());
  for (const auto& [slot, name] : guide.work.all())
    if (slot != retouchSlot && slot != regionSlot) digest.add(slot).add(name);
  return digest.value();
}

std::uint64_t wholeKey(const Guide& guide, std::uint64_t below) {
  return Digest()
      .add(below)
      .add(guide.work.in(retouchSlot))
      .add(guide.work.in(regionSlot))
      .add(guide.retouchHidden)
      .add(guide.region.inverted)
      .add(guide.region.feather)
      .value();
}

}  // namespace

struct MapRoom::ReferencePicture {
  std::string source;
  std::shared_ptr<const Image<Rgba16>> picture;
  QImage display, placed;
  std::shared_ptr<const Image<Rgb>> placedPicture;
  std::uint64_t asked = 0, made = 0;  ///< placings
};

struct MapRoom::GuideMaps {
  /// What one job leaves for the next of the same guide; they never run at the same time.
  struct Kept {
    std::uint64_t extractedFrom = 0;  ///< the placed picture that `extraction` is of
    ExtractionCache extraction;
    std::uint64_t belowKey = 0;
    std::shared_ptr<const Extraction> below;
  };
  std::optional<MapPicture> shown;
  std::uint64_t asked = 0;
  std::shared_ptr<Kept> kept = std::make_shared<Kept>();
  std::shared_ptr<ExtractionCache> told = std::make_shared<ExtractionCache>();
  std::uint64_t figuresKey = 0;
  std::shared_ptr<const pose::Figures> figures;
};

MapRoom::MapRoom(StudyDocument& document, TaskRunner& tasks, QObject* parent)
    : QObject(parent), document_(document), tasks_(tasks) {
  connect(&document_, &StudyDocument::replaced, this, &MapRoom::forgetAll);
  connect(&document_, &StudyDocument::changed, this, &MapRoom::follow);
}

MapRoom::~MapRoom() = default;

void MapRoom::forgetAll() {
  pictures_.clear();
  maps_.clear();
  live_.clear();
  emit picturesChanged();
}

void MapRoom::follow(const Changes& changes) {
  const auto& state = document_.state();
  const bool placings = changes.frame || changes.references;
  if (placings)
    for (const Reference& reference : state.references) {
      const auto known = pictures_.find(reference.id);
      if (known == pictures_.end() || known->second.source != reference.source())
        requestReference(reference);
      else if (known->second.picture)
        requestPlacing(reference);
    }
  for (const Guide& guide : state.guides)
    if (placings || changes.guide(guide.id)) requestMap(guide);
  // What is looked at goes before the others, also where it was asked for with them.
  if (changes.looking) tasks_.hurry(mapKey(state.looking.guide), Priority::shown);
}

MapRoom::Decoded MapRoom::decoded(Image<Rgba16> picture) {
  Decoded out;
  out.picture = std::make_shared<const Image<Rgba16>>(std::move(picture));
  out.display = displayImage(*out.picture, displaySide);
  return out;
}

void MapRoom::give(const std::string& id, const std::string& source, Decoded picture) {
  ReferencePicture& entry = pictures_[id];
  entry.source = source;
  entry.picture = std::move(picture.picture);
  entry.display = std::move(picture.display);
}

std::map<std::string, std::shared_ptr<const Image<Rgba16>>> MapRoom::pictures() const {
  std::map<std::string, std::shared_ptr<const Image<Rgba16>>> all;
  for (const auto& [id, entry] : pictures_)
    if (entry.picture) all[entry.source] = entry.picture;
  return all;
}

void MapRoom::requestReference(const Reference& reference) {
  pictures_[reference.id] = {};
  pictures_[reference.id].source = reference.source();
  std::shared_ptr<const Bytes> bytes;
  try {
    bytes = document_.picture(reference.source());
  } catch (const Problem& error) {
    emit problem(error.what());
    return;
  }
  tasks_.run(
      this, "read " + reference.id, Priority::shown,
      [bytes, name = reference.name](const StopToken&) { return decoded(decodePicture(*bytes, name).picture); },
      [this, id = reference.id](const Decoded& decoded) {
        pictures_[id].picture = decoded.picture;
        pictures_[id].display = decoded.display;
        if (const Reference* now = document_.state().reference(id)) requestPlacing(*now);
        emit picturesChanged();
      });
}

void MapRoom::requestPlacing(const Reference& reference) {
  ReferencePicture& entry = pictures_[reference.id];
  const Size frame = document_.state().frame;
  const std::uint64_t key = placingKey(reference, frame);
  if (entry.asked == key) return;
  entry.asked = key;
  struct Placed {
    std::shared_ptr<const Image<Rgb>> picture;
    QImage image;
  };
  tasks_.run(
      this, "place " + reference.id, Priority::shown,
      [picture = entry.picture, placement = reference.placement, frame](const StopToken& stop) {
        Placed out;
        out.picture = std::make_shared<const Image<Rgb>>(place(*picture, placement, frame, stop));
        out.image = toQImage(toSrgb8(*out.picture));
        return out;
      },
      [this, id = reference.id, key](const Placed& placed) {
        ReferencePicture& now = pictures_[id];
        now.placed = placed.image;
        now.placedPicture = placed.picture;
        now.made = key;
        for (const Guide& guide : document_.state().guides)
          if (guide.reference == id) requestMap(guide);
        emit picturesChanged();
      });
}

void MapRoom::requestMap(const Guide& guide) {
  const Reference* reference = document_.state().reference(guide.reference);
  const bool alone = standsAlone(guide);
  if (reference == nullptr && !alone) return;
  const Size frame = document_.state().frame;
  std::shared_ptr<const Image<Rgb>> picture;
  std::uint64_t placing = Digest().add(frame).value();
  if (!alone) {
    // The reference comes first; once it lies in its place this is asked again.
    const ReferencePicture& entry = pictures_[reference->id];
    placing = placingKey(*reference, frame);
    if (!entry.placedPicture || entry.made != placing) return;
    picture = entry.placedPicture;
  }
  GuideMaps& maps = maps_[guide.id];
  const std::uint64_t below = belowKey(guide, placing), key = wholeKey(guide, below);
  if (maps.asked == key || live_ == guide.id) return;
  maps.asked = key;
  const TakenWork taken = takenWork(guide, document_.work());
  for (const std::string& sentence : taken.missing) emit problem(QString::fromStdString(sentence));
  makeMap(guide, below, placing, picture, taken);
}

void MapRoom::showTrial(const std::string& id, const std::string& slot, std::any piece) {
  const Guide* guide = document_.state().guide(id);
  const auto found = maps_.find(id);
  if (guide == nullptr || found == maps_.end() || !found->second.shown) return;
  const Reference* reference = document_.state().reference(guide->reference);
  const auto picture = reference != nullptr ? placedPicture(reference->id) : nullptr;
  if (reference != nullptr && !picture) return;
  TakenWork taken = takenWork(*guide, document_.work());
  taken.own.put(slot, std::move(piece));
  // No map of the study has this key: the one that comes next is made anew.
  found->second.asked = 0;
  const std::uint64_t placing = reference != nullptr ? placingKey(*reference, document_.state().frame)
                                                     : Digest().add(document_.state().frame).value();
  makeMap(*guide, 0, placing, picture, taken);
}

void MapRoom::endTrial(const std::string& id) {
  if (const Guide* guide = document_.state().guide(id)) requestMap(*guide);
}

void MapRoom::makeMap(const Guide& guide, std::uint64_t below, std::uint64_t placing,
                      std::shared_ptr<const Image<Rgb>> picture, const TakenWork& taken) {
  GuideMaps& maps = maps_[guide.id];
  struct Made {
    MapPicture picture;
    std::shared_ptr<const GuideInput> input;
    std::shared_ptr<const Extraction> details;
  };
  tasks_.run(
      this, mapKey(guide.id), guide.id == document_.state().looking.guide ? Priority::shown : Priority::maps,
      [guide, place = document_.placeOf(guide), picture, placing, below, taken,
       kept = maps.kept](const StopToken& stop) {
        if (kept->extractedFrom != placing) {
          kept->extraction = {};
          kept->extractedFrom = placing;
        }
        if (kept->belowKey != below || below == 0 || !kept->below) {
          kept->below.reset();
          kept->below = std::make_shared<const Extraction>(
              mapBelow(guide, picture ? picture->view() : View<Rgb>(), place, taken, kept->extraction, stop));
          kept->belowKey = below;
        }
        auto made = finishedMap(guide, kept->below->clone(), place, taken, stop);
        Made out;
        out.input = std::make_shared<const GuideInput>(std::move(made.input));
        out.picture = mapPictureOf(out.input, std::move(made.below), made.details, guide, place, taken);
        out.details = std::make_shared<const Extraction>(std::move(made.details));
        return out;
      },
      [this, id = guide.id](Made made) {
        // Not over a stroke that is being drawn. What was overtaken meanwhile is still newer than what is shown.
        const auto found = maps_.find(id);
        if (found == maps_.end() || live_ == id) return;
        // What is known of the map holds until it has been looked at anew.
        if (found->second.shown) made.picture.facts = std::move(found->second.shown->facts);
        found->second.shown = std::move(made.picture);
        emit mapChanged(QString::fromStdString(id));
        requestFacts(id, made.input, made.details);
      });
}

void MapRoom::requestFacts(const std::string& id, std::shared_ptr<const GuideInput> input,
                           std::shared_ptr<const Extraction> details) {
  const Guide* guide = document_.state().guide(id);
  if (guide == nullptr) return;
  tasks_.run(
      this, "facts " + id, Priority::facts,
      [kind = &kindOf(guide->kind), input = std::move(input), details = std::move(details),
       told = maps_[id].told](const StopToken& stop) { return factsOf(*kind, *input, *details, *told, stop); },
      [this, id](MapFacts facts) {
        const auto found = maps_.find(id);
        if (found == maps_.end() || !found->second.shown) return;
        found->second.shown->facts = std::move(facts);
        emit factsChanged(QString::fromStdString(id));
      });
}

QImage MapRoom::referenceImage(const std::string& id) const {
  const auto found = pictures_.find(id);
  return found != pictures_.end() ? found->second.display : QImage();
}

QImage MapRoom::placedImage(const std::string& id) const {
  const auto found = pictures_.find(id);
  return found != pictures_.end() ? found->second.placed : QImage();
}

std::shared_ptr<const Image<Rgb>> MapRoom::placedPicture(const std::string& id) const {
  const auto found = pictures_.find(id);
  return found != pictures_.end() ? found->second.placedPicture : nullptr;
}

const MapPicture* MapRoom::mapOf(const std::string& guide) const {
  const auto found = maps_.find(guide);
  return found != maps_.end() && found->second.shown ? &*found->second.shown : nullptr;
}

std::shared_ptr<const Map> MapRoom::belowOf(const std::string& guide) const {
  const MapPicture* map = mapOf(guide);
  return map != nullptr && map->below && map->below->size() == document_.state().frame ? map->below : nullptr;
}

std::map<std::string, MapFacts> MapRoom::facts() const {
  std::map<std::string, MapFacts> all;
  for (const auto& [id, maps] : maps_)
    if (maps.shown) all[id] = maps.shown->facts;
  return all;
}

std::function<void()> MapRoom::writer(const std::string& id, const std::filesystem::path& file,
                                      const MapFileForm& form) {
  const Guide* guide = document_.state().guide(id);
  const MapPicture* map = mapOf(id);
  if (guide == nullptr || map == nullptr || !map->map) throw badInput("There is no map to export yet.");
  const Kind& kind = kindOf(guide->kind);
  const std::string name = file.filename().string();
  const MapExport* format = exportFor(kind, name);
  if (format == nullptr)
    return [&kind, file, name, form, map = map->map, colour = map->colour] {
      writeFileAtomically(file, encodedMap(kind, *map, colour ? colour->view() : View<Rgb8>(), name, form));
    };
  const GuidePlace place = document_.placeOf(*guide);
  auto input = std::make_shared<GuideInput>();
  input->map = map->map->clone();
  input->work = takenWork(*guide, document_.work()).own.following(kind.workSlots, place.frame, place.placing);
  return [format, file, guide = *guide, input, frame = place.frame] {
    writeFileAtomically(file, bytesOf(format->write({guide, *input, frame, guide.name})));
  };
}

void MapRoom::showLive(const std::string& guide, const Layer* retouch, const Layer* region, const Box& part) {
  const Guide* of = document_.state().guide(guide);
  const auto found = maps_.find(guide);
  if (of == nullptr || found == maps_.end() || !found->second.shown) return;
  live_ = guide;
  const Box shown = repaintPart(*found->second.shown, *of, retouch, region, part);
  emit mapPartChanged(QString::fromStdString(guide),
                      QRect(shown.left, shown.top, shown.right - shown.left, shown.bottom - shown.top));
}

void MapRoom::showLiveFigures(const std::string& guide, View<Rgb8> behind, std::span<const pose::FigureMarks> figures,
                              const Box& part) {
  const Guide* of = document_.state().guide(guide);
  const auto found = maps_.find(guide);
  if (of == nullptr || found == maps_.end() || !found->second.shown) return;
  live_ = guide;
  repaintFigures(*found->second.shown, behind, figures, inksOf(*of).background, part);
  emit mapPartChanged(QString::fromStdString(guide),
                      QRect(part.left, part.top, part.right - part.left, part.bottom - part.top));
}

void MapRoom::endLive(const std::string& guide) {
  if (live_ != guide) return;
  live_.clear();
  if (const auto found = maps_.find(guide); found != maps_.end()) found->second.asked = 0;
  if (const Guide* of = document_.state().guide(guide)) requestMap(*of);
}

std::shared_ptr<const pose::Figures> MapRoom::figuresOf(const Guide& guide) {
  if (!guide.work.has(pose::figuresSlot)) return nullptr;
  const GuidePlace place = document_.placeOf(guide);
  const std::uint64_t key = Digest().add(guide.work.in(pose::figuresSlot)).add(place.placing).add(place.frame).value();
  GuideMaps& maps = maps_[guide.id];
  if (maps.figuresKey == key) return maps.figures;
  maps.figuresKey = key;
  maps.figures.reset();
  try {
    maps.figures = std::make_shared<const pose::Figures>(
        pose::following(*document_.work().get<pose::Figures>(pose::figuresForm(), guide.work.in(pose::figuresSlot)),
                        place.frame, place.placing));
  } catch (const Problem&) {
    // Said when the map was asked for; without figures there is nothing to take hold of.
  }
  return maps.figures;
}

const pose::Inks& MapRoom::inksOf(const Guide& guide) {
  try {
    if (const auto inks = document_.work().get<pose::Inks>(pose::inksForm(), guide.work.in(pose::inksSlot)))
      return *inks;  // the store keeps it
  } catch (const Problem&) {
    // Said when the map was asked for.
  }
  return pose::houseInks();
}

}  // namespace hscaffold::app
