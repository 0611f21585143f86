#include "app/workbench/hand_work.h"

#include <algorithm>

#include "app/digest.h"
#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/points.h"
#include "app/tasks/task_runner.h"
#include "app/workbench/near_guide.h"
#include "core/kinds.h"
#include "core/strokes/drawing.h"
#include "core/strokes/trace.h"

namespace hscaffold::app {
namespace {

const char* slotOf(Surface surface) { return surface == Surface::retouch ? retouchSlot : regionSlot; }

QString strokeName(PaintMode mode, Surface surface) {
  if (surface == Surface::region) return mode == PaintMode::draw ? "Paint region" : "Take from region";
  switch (mode) {
    case PaintMode::draw:
      return "Draw";
    case PaintMode::rubOut:
      return "Rub out";
    case PaintMode::lighten:
      return "Lighten";
    case PaintMode::darken:
      return "Darken";
    case PaintMode::smudge:
      return "Smudge";
    default:
      return "Restore";
  }
}

}  // namespace

HandWork::HandWork(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent)
    : QObject(parent), document_(document), maps_(maps), tasks_(tasks) {
  // A stroke belongs to the study that it was begun in.
  connect(&document_, &StudyDocument::closing, this, [this] {
    cancel();
    afterStroke_.clear();
    drawing_ = {};
  });
}

Size HandWork::frame() const { return document_.state().frame; }

void HandWork::tune(const QString& name, const Tuning& values, const std::string& merge) {
  retune(
      name,
      [&](Tuning& tuning) {
        for (const auto& [field, value] : values) tuning[field] = value;
      },
      merge);
}

void HandWork::retune(const QString& name, const std::function<void(Tuning&)>& edit, const std::string& merge) {
  const Guide* now = guide();
  if (now == nullptr) return;
  document_.change(
      name, [&, id = now->id](StudyState& s) { edit(s.guide(id)->tuning); }, merge);
}

void HandWork::endTuning() { document_.seal(); }

std::shared_ptr<const Map> HandWork::nearMap() const {
  const Guide* now = guide();
  const Guide* from = now != nullptr ? nearGuideFor(*now, document_, maps_) : nullptr;
  return from != nullptr ? maps_.mapOf(from->id)->map : nullptr;
}

bool HandWork::hasReference() const { return !document_.state().references.empty(); }

void HandWork::takeReference(const QString& name, const Tuning& values) {
  const Guide* now = guide();
  if (now == nullptr || !hasReference()) return;
  document_.change(name, [&, id = now->id](StudyState& s) {
    const Reference* reference = s.selectedReference();
    Guide& made = *s.guide(id);
    made.reference = reference != nullptr ? reference->id : s.references.back().id;
    for (const auto& [field, value] : values) made.tuning[field] = value;
  });
}

const Guide* HandWork::guide() const { return document_.state().selectedGuide(); }

Layer HandWork::layerOf(const Guide& guide, Surface surface) const {
  const GuidePlace place = document_.placeOf(guide);
  const auto kept = document_.work().layer(guide.work.in(slotOf(surface)));
  if (kept) return following(*kept, place.frame, place.placing);
  Layer fresh;
  fresh.frame = place.frame;
  fresh.placing = place.placing;
  return fresh;
}

void HandWork::put(const QString& name, const std::string& guide, Surface surface, Layer layer) {
  const std::string id = document_.work().keep(std::move(layer));
  document_.change(name, [&](StudyState& s) {
    Guide* g = s.guide(guide);
    if (g == nullptr) return;
    g->work.put(slotOf(surface), id);
    if (surface == Surface::retouch) g->retouchHidden = false;
  });
}

bool HandWork::begin(Surface surface, const Brush& brush, QPointF at, double pressure) {
  const Guide* g = guide();
  if (g == nullptr || active() || document_.forLooking()) return false;
  const auto below = maps_.belowOf(g->id);
  if (!below) return false;
  guide_ = g->id;
  surface_ = surface;
  mode_ = brush.mode;
  below_ = surface == Surface::retouch ? below : nullptr;
  // Retouch that is missing hides nothing of the region that is painted over it.
  otherLayer_ = surface == Surface::region && !g->retouchHidden ? takenWork(*g, document_.work()).retouch : nullptr;
  try {
    stroke_.emplace(layerOf(*g, surface), brush, below_ ? below_->view() : View<std::uint16_t>());
  } catch (const Problem& problem) {
    emit worked(problem.what());
    return false;
  }
  strokeTo(at, pressure);
  return true;
}

void HandWork::strokeTo(QPointF at, double pressure) {
  if (!active() || document_.state().guide(guide_) == nullptr) return;
  const Box changed = stroke_->to(toPoint(at), pressure);
  if (changed.empty()) return;
  if (surface_ == Surface::retouch)
    maps_.showLive(guide_, &stroke_->layer(), nullptr, changed);
  else
    maps_.showLive(guide_, otherLayer_.get(), &stroke_->layer(), changed);
}

void HandWork::end() {
  if (!active()) return;
  Layer layer = stroke_->layer();
  stroke_.reset();
  put(strokeName(mode_, surface_), guide_, surface_, std::move(layer));
  maps_.endLive(guide_);
  for (const auto& call : std::exchange(afterStroke_, {})) call();
}

void HandWork::cancel() {
  if (!active()) return;
  stroke_.reset();
  maps_.endLive(guide_);
  for (const auto& call : std::exchange(afterStroke_, {})) call();
}

void HandWork::whenFree(const std::function<void()>& call) {
  if (active())
    afterStroke_.push_back(call);
  else
    call();
}

void HandWork::make(const QString& name, Surface surface, LayerJob job) {
  if (const Guide* g = guide()) makeFor(g->id, name, surface, job);
}

void HandWork::makeFor(const std::string& id, const QString& name, Surface surface, const LayerJob& job) {
  const Guide* g = document_.state().guide(id);
  const auto below = maps_.belowOf(id);
  if (g == nullptr || !below || document_.forLooking()) return;
  Layer layer;
  try {
    layer = layerOf(*g, surface);
  } catch (const Problem& problem) {
    emit worked(problem.what());
    return;
  }
  tasks_.run(
      this, nextKey(), Priority::hand, [job, below, layer](const StopToken&) { return job(layer, *below); },
      [this, name, surface, job, before = *g](LayerResult result) {
        const auto arrive = [this, name, surface, job, before,
                             result = std::make_shared<LayerResult>(std::move(result))] {
          const Guide* now = document_.state().guide(before.id);
          if (now == nullptr) return;
          // What was done by hand meanwhile must not be lost: then the same is done to that.
          if (now->work != before.work) return makeFor(before.id, name, surface, job);
          if (!result->said.isEmpty()) emit worked(result->said);
          if (result->layer) put(name, before.id, surface, std::move(*result->layer));
        };
        whenFree(arrive);
      });
}

/// One for each piece of work, so that none takes the place of another; they are done in this order.
std::string HandWork::nextKey() { return QString("hand work %1").arg(++works_, 9, 10, QChar('0')).toStdString(); }

void HandWork::fillLoop(Surface surface, PaintMode mode, const QPolygonF& loop, bool outside) {
  if (loop.size() < 3) return;
  std::vector<Point> polygon;
  for (const QPointF p : loop) polygon.push_back(toPoint(p));
  make(outside ? "Keep only this" : strokeName(mode, surface), surface,
       [mode, outside, surface, polygon](const Layer& layer, const Map& below) {
         auto mask = polygonMask(polygon, layer.frame);
         if (outside) turnOver(mask.view());
         return LayerResult{
             painted(layer, mask, mode, surface == Surface::retouch ? below.view() : View<std::uint16_t>()), {}};
       });
}

void HandWork::dropSpecks(double area) {
  make("Drop specks", Surface::retouch, [area](const Layer& layer, const Map& below) {
    int count = 0;
    const auto mask = specksOf(composed(below, layer), area, &count);
    LayerResult result;
    if (count > 0) result.layer = painted(layer, mask, PaintMode::rubOut, below);
    result.said = count == 0   ? QString("No specks of this size are left.")
                  : count == 1 ? QString("One speck is gone.")
                               : QString("%1 specks are gone.").arg(count);
    return result;
  });
}

void HandWork::setRetouchHidden(bool hidden) {
  const Guide* g = guide();
  if (g == nullptr || !g->work.has(retouchSlot)) return;
  document_.change(hidden ? "Hide retouch" : "Show retouch",
                   [id = g->id, hidden](StudyState& s) { s.guide(id)->retouchHidden = hidden; });
}

void HandWork::clearRetouch() {
  const Guide* g = guide();
  if (g == nullptr || !g->work.has(retouchSlot)) return;
  document_.change("Clear retouch", [id = g->id](StudyState& s) {
    s.guide(id)->work.clear(retouchSlot);
    s.guide(id)->retouchHidden = false;
  });
}

void HandWork::mergeRetouch() {
  const Guide* g = guide();
  const MapPicture* map = g != nullptr ? maps_.mapOf(g->id) : nullptr;
  if (map == nullptr || !map->map) return;
  tasks_.run(
      this, nextKey(), Priority::hand,
      [picture = map->map, place = document_.placeOf(*g)](const StopToken&) {
        return layerFrom(*picture, place.placing);
      },
      [this, source = *g](Layer layer) {
        whenFree([this, source, layer = std::move(layer)] {
          const std::string id = document_.work().keep(layer);
          document_.change("Merge into a new map", [&](StudyState& s) {
            Guide* old = s.guide(source.id);
            if (old == nullptr) return;
            old->on = false;
            Guide merged = source;
            merged.id = newId(s, "g");
            merged.name = source.name + " merged";
            merged.work.put(retouchSlot, id);
            merged.retouchHidden = false;
            // The region is in the map of kinds on nothing; others keep it.
            if (isOnNothing(kindOf(source.kind).nature)) merged.clearRegion();
            s.looking.guide = merged.id;
            s.guides.push_back(std::move(merged));
          });
        });
      });
}

void HandWork::releaseMoved() {
  make("Release moved retouch", Surface::retouch, [](const Layer& layer, const Map& below) {
    return LayerResult{released(layer, movedUnder(layer, below)), {}};
  });
}

void HandWork::growRegion(PaintMode mode, QPointF at, double tolerance, bool joined) {
  const Guide* g = guide();
  const auto picture = g != nullptr ? maps_.placedPicture(g->reference) : nullptr;
  if (!picture) return;
  make("Region from colour", Surface::region, [mode, at, tolerance, joined, picture](const Layer& layer, const Map&) {
    return LayerResult{painted(layer, similarTo(*picture, toPoint(at), tolerance, joined), mode, {}), {}};
  });
}

void HandWork::setFeather(double pixels, bool live) {
  const Guide* g = guide();
  if (g == nullptr) return;
  document_.change(
      "Feather region",
      [id = g->id, pixels](StudyState& s) {
        s.guide(id)->region.feather = std::clamp(pixels, 0.0, limits::feather.most);
      },
      live ? "feather " + g->id : std::string());
}

void HandWork::invertRegion() {
  const Guide* g = guide();
  if (g == nullptr || !g->limited()) return;
  document_.change("Invert region", [id = g->id](StudyState& s) {
    Region& region = s.guide(id)->region;
    region.inverted = !region.inverted;
  });
}

void HandWork::clearRegion() {
  const Guide* g = guide();
  if (g == nullptr || (!g->limited() && g->region == Region{})) return;
  document_.change("Clear region", [id = g->id](StudyState& s) { s.guide(id)->clearRegion(); });
}

std::shared_ptr<const Drawing> HandWork::drawing() const {
  return drawing_.of(document_, guide(), drawingSlot, drawingForm());
}

void HandWork::editStrokes(const QString& name, const std::function<void(Strokes&)>& edit, const std::string& merge) {
  const Guide* g = guide();
  if (g == nullptr || !kindOf(g->kind).hasSlot(drawingSlot)) return;
  const auto before = drawing();
  Drawing next;
  if (before) next = *before;
  const GuidePlace place = document_.placeOf(*g);
  next.frame = place.frame;
  next.placing = place.placing;
  edit(next.strokes);
  const std::string id = document_.work().keep(drawingForm(), std::move(next));
  document_.change(
      name, [&](StudyState& s) { s.guide(g->id)->work.put(drawingSlot, id); }, merge.empty() ? merge : merge + g->id);
}

void HandWork::inStrokes(const std::string& id, const Traced& done) {
  const Guide* g = document_.state().guide(id);
  const auto below = maps_.belowOf(id);
  if (g == nullptr || !below || document_.forLooking()) return;
  Layer layer;
  try {
    layer = layerOf(*g, Surface::retouch);
  } catch (const Problem& problem) {
    emit worked(problem.what());
    return;
  }
  tasks_.run(
      this, nextKey(), Priority::hand,
      [below, layer, hidden = g->retouchHidden](const StopToken& stop) {
        return hidden ? traced(*below, {}, stop) : traced(composed(*below, layer), {}, stop);
      },
      [this, id, done, source = *g](Tracing tracing) {
        whenFree([this, id, done, source, tracing = std::move(tracing)] {
          const Guide* now = document_.state().guide(id);
          if (now == nullptr) return;
          // Retouch that was painted meanwhile belongs to what is traced.
          if (now->work != source.work) return inStrokes(id, done);
          const GuidePlace place = document_.placeOf(*now);
          done(source, document_.work().keep(drawingForm(), Drawing{true, place.frame, place.placing, tracing.strokes}),
               tracing);
        });
      });
}

void HandWork::trace() {
  const Guide* g = guide();
  if (g == nullptr || !kindOf(g->kind).hasSlot(drawingSlot)) return;
  inStrokes(g->id, [this](const Guide& source, const std::string& drawing, const Tracing& tracing) {
    document_.change("Trace to strokes", [&](StudyState& s) {
      Guide* now = s.guide(source.id);
      if (now == nullptr) return;
      now->work.put(drawingSlot, drawing);
      now->work.clear(retouchSlot);
      now->retouchHidden = false;
    });
    const std::size_t count = tracing.strokes.size();
    emit worked(tracing.dropped > 0
                    ? QString("The %1 longest of %2 strokes were kept.").arg(count).arg(count + tracing.dropped)
                    : QString("%1 strokes: click one to take hold of it.").arg(count));
  });
}

void HandWork::traceLoosely() {
  const Guide* g = guide();
  if (g == nullptr || kindOf(g->kind).nature != MapNature::lines) return;
  inStrokes(g->id, [this](const Guide& source, const std::string& drawing, const Tracing&) {
    document_.change("Loose lines from " + QString::fromStdString(source.name), [&](StudyState& s) {
      Guide loose;
      loose.id = newId(s, "g");
      loose.kind = "loose";
      loose.name = source.name + " loose";
      loose.reference = source.reference;
      loose.weight = 0.7;
      loose.work.put(drawingSlot, drawing);
      s.looking.guide = loose.id;
      s.guides.push_back(std::move(loose));
    });
  });
}

void HandWork::dropDrawing() {
  const Guide* g = guide();
  if (g == nullptr || !g->work.has(drawingSlot) || g->reference.empty()) return;
  document_.change("Back to the extraction", [id = g->id](StudyState& s) { s.guide(id)->work.clear(drawingSlot); });
}

}  // namespace hscaffold::app
