#include "app/hand_work.h"

#include <cmath>

#include "app/points.h"
#include "core/lines/curve_fit.h"
#include "core/lines/trace.h"

namespace hscaffold::app {
namespace {

QString nameOf(PaintMode mode, Surface surface) {
  if (surface == Surface::region) return mode == PaintMode::draw ? "Paint region" : "Take from region";
  return mode == PaintMode::draw ? "Draw" : mode == PaintMode::rubOut ? "Rub out" : "Restore";
}

}  // namespace

HandWork::HandWork(StudySession& session, QObject* parent) : QObject(parent), session_(session) {}

const Guide* HandWork::guide() const { return session_.state().guide(session_.state().selectedGuide); }

Layer HandWork::layerOf(const Guide& guide, Surface surface) const {
  const GuidePlace place = session_.placeOf(guide);
  const auto kept = session_.edits().layer(surface == Surface::retouch ? guide.retouch : guide.region.mask);
  if (kept) return following(*kept, place.frame, place.placing);
  Layer fresh;
  fresh.frame = place.frame;
  fresh.placing = place.placing;
  return fresh;
}

void HandWork::put(const QString& name, const std::string& guide, Surface surface, Layer layer) {
  const std::string id = session_.edits().keep(std::move(layer));
  session_.change(name, [&](StudyState& s) {
    Guide* g = s.guide(guide);
    if (g == nullptr) return;
    if (surface == Surface::retouch) {
      g->retouch = id;
      g->retouchHidden = false;
    } else {
      g->region.mask = id;
    }
  });
}

bool HandWork::begin(Surface surface, const Brush& brush, QPointF at, double pressure) {
  const Guide* g = guide();
  if (g == nullptr || active()) return false;
  const MapPicture* map = session_.mapOf(g->id);
  if (map == nullptr || !map->below || map->below->size() != session_.state().frame) return false;
  guide_ = g->id;
  surface_ = surface;
  mode_ = brush.mode;
  below_ = surface == Surface::retouch ? map->below : nullptr;
  stroke_.emplace(layerOf(*g, surface), brush, below_ ? below_->view() : View<std::uint16_t>());
  strokeTo(at, pressure);
  return true;
}

void HandWork::strokeTo(QPointF at, double pressure) {
  const Guide* g = session_.state().guide(guide_);
  if (!active() || g == nullptr) return;
  const Box changed = stroke_->to(toPoint(at), pressure);
  if (changed.empty()) return;
  if (surface_ == Surface::retouch) {
    session_.showLive(guide_, &stroke_->layer(), nullptr, changed);
  } else {
    const auto retouch = g->retouchHidden ? nullptr : session_.edits().layer(g->retouch);
    session_.showLive(guide_, retouch.get(), &stroke_->layer(), changed);
  }
}

void HandWork::end() {
  if (!active()) return;
  Layer layer = stroke_->layer();
  stroke_.reset();
  put(nameOf(mode_, surface_), guide_, surface_, std::move(layer));
  session_.endLive(guide_);
}

void HandWork::cancel() {
  if (!active()) return;
  stroke_.reset();
  session_.endLive(guide_);
}

void HandWork::make(const QString& name, Surface surface, LayerJob job) {
  if (const Guide* g = guide()) makeFor(g->id, name, surface, job);
}

void HandWork::makeFor(const std::string& id, const QString& name, Surface surface, const LayerJob& job) {
  const Guide* g = session_.state().guide(id);
  const MapPicture* map = g != nullptr ? session_.mapOf(id) : nullptr;
  if (map == nullptr || !map->below || map->below->size() != session_.state().frame) return;
  session_.inBackground(nextKey(),
                        [this, name, surface, job, before = *g, below = map->below,
                         layer = layerOf(*g, surface)](const StopToken&) -> std::function<void()> {
                          auto result = std::make_shared<std::optional<Layer>>(job(layer, *below));
                          return [this, name, surface, job, before, result] {
                            const Guide* now = session_.state().guide(before.id);
                            if (!*result || now == nullptr) return;
                            // What was done by hand meanwhile must not be lost: then the same is done to that.
                            if (now->retouch != before.retouch || now->region.mask != before.region.mask)
                              return makeFor(before.id, name, surface, job);
                            put(name, before.id, surface, std::move(**result));
                          };
                        });
}

/// One for each piece of work, so that none takes the place of another; they are done in this order.
std::string HandWork::nextKey() { return QString("hand work %1").arg(++works_, 9, 10, QChar('0')).toStdString(); }

void HandWork::fillLoop(Surface surface, PaintMode mode, const QPolygonF& loop, bool outside) {
  if (loop.size() < 3) return;
  std::vector<Point> polygon;
  for (const QPointF p : loop) polygon.push_back(toPoint(p));
  make(outside ? "Keep only this" : nameOf(mode, surface), surface,
       [mode, outside, surface, polygon](const Layer& layer, const Map& below) {
         auto mask = polygonMask(polygon, layer.frame);
         if (outside) turnOver(mask.view());
         return std::optional(
             painted(layer, mask, mode, surface == Surface::retouch ? below.view() : View<std::uint16_t>()));
       });
}

void HandWork::dropSpecks(double area) {
  make("Drop specks", Surface::retouch, [this, area](const Layer& layer, const Map& below) {
    int count = 0;
    const auto mask = specksOf(composed(below, layer), area, &count);
    QMetaObject::invokeMethod(this, [this, count] {
      emit worked(count == 0   ? QString("No specks of this size are left.")
                  : count == 1 ? QString("One speck is gone.")
                               : QString("%1 specks are gone.").arg(count));
    });
    return count > 0 ? std::optional(painted(layer, mask, PaintMode::rubOut, below)) : std::nullopt;
  });
}

void HandWork::setRetouchHidden(bool hidden) {
  const Guide* g = guide();
  if (g == nullptr || g->retouch.empty()) return;
  session_.change(hidden ? "Hide retouch" : "Show retouch",
                  [id = g->id, hidden](StudyState& s) { s.guide(id)->retouchHidden = hidden; });
}

void HandWork::clearRetouch() {
  const Guide* g = guide();
  if (g == nullptr || g->retouch.empty()) return;
  session_.change("Clear retouch", [id = g->id](StudyState& s) {
    s.guide(id)->retouch.clear();
    s.guide(id)->retouchHidden = false;
  });
}

void HandWork::mergeRetouch() {
  const Guide* g = guide();
  const MapPicture* map = g != nullptr ? session_.mapOf(g->id) : nullptr;
  if (map == nullptr || !map->map) return;
  session_.inBackground(
      nextKey(),
      [this, source = *g, picture = map->map, place = session_.placeOf(*g)](const StopToken&) -> std::function<void()> {
        auto layer = std::make_shared<Layer>(layerFrom(*picture, place.placing));
        return [this, source, layer] {
          const std::string id = session_.edits().keep(std::move(*layer));
          session_.change("Merge into a new map", [&](StudyState& s) {
            Guide* old = s.guide(source.id);
            if (old == nullptr) return;
            old->on = false;
            Guide merged = source;
            merged.id = newId(s, "g");
            merged.name = source.name + " merged";
            merged.retouch = id;
            merged.retouchHidden = false;
            // The region is in the map of line kinds; others keep it.
            if (kindOf(source.kind).lines) merged.region = {};
            s.selectedGuide = merged.id;
            s.guides.push_back(std::move(merged));
          });
        };
      });
}

void HandWork::releaseMoved() {
  make("Release moved retouch", Surface::retouch,
       [](const Layer& layer, const Map& below) { return std::optional(released(layer, movedUnder(layer, below))); });
}

void HandWork::growRegion(PaintMode mode, QPointF at, double tolerance, bool joined) {
  const Guide* g = guide();
  const auto picture = g != nullptr ? session_.placedPicture(g->reference) : nullptr;
  if (!picture) return;
  make("Region from colour", Surface::region, [mode, at, tolerance, joined, picture](const Layer& layer, const Map&) {
    return std::optional(painted(layer, similarTo(*picture, toPoint(at), tolerance, joined), mode, {}));
  });
}

void HandWork::setFeather(double pixels, bool live) {
  const Guide* g = guide();
  if (g == nullptr) return;
  session_.change(
      "Feather region",
      [id = g->id, pixels](StudyState& s) { s.guide(id)->region.feather = std::clamp(pixels, 0.0, largestFeather); },
      live ? "feather " + g->id : std::string());
}

void HandWork::invertRegion() {
  const Guide* g = guide();
  if (g == nullptr || !g->region.limits()) return;
  session_.change("Invert region", [id = g->id](StudyState& s) {
    Region& region = s.guide(id)->region;
    region.inverted = !region.inverted;
  });
}

void HandWork::clearRegion() {
  const Guide* g = guide();
  if (g == nullptr || g->region == Region{}) return;
  session_.change("Clear region", [id = g->id](StudyState& s) { s.guide(id)->region = {}; });
}

std::shared_ptr<const Drawing> HandWork::drawing() const {
  const Guide* g = guide();
  if (g == nullptr || g->drawing.empty()) return nullptr;
  const GuidePlace place = session_.placeOf(*g);
  std::string key = g->drawing + std::to_string(place.frame.width) + "x" + std::to_string(place.frame.height);
  if (place.placing)
    for (const double v :
         {place.placing->a, place.placing->b, place.placing->c, place.placing->d, place.placing->e, place.placing->f})
      key += " " + std::to_string(v);
  if (key != drawingKey_ || !drawing_) {
    drawing_ =
        std::make_shared<const Drawing>(following(*session_.edits().drawing(g->drawing), place.frame, place.placing));
    drawingKey_ = key;
  }
  return drawing_;
}

void HandWork::editStrokes(const QString& name, const std::function<void(Strokes&)>& edit, const std::string& merge) {
  const Guide* g = guide();
  if (g == nullptr || !kindOf(g->kind).draw) return;
  const auto before = drawing();
  Drawing next;
  if (before) next = *before;
  const GuidePlace place = session_.placeOf(*g);
  next.frame = place.frame;
  next.placing = place.placing;
  edit(next.strokes);
  const std::string id = session_.edits().keep(std::move(next));
  session_.change(
      name, [&](StudyState& s) { s.guide(g->id)->drawing = id; }, merge.empty() ? merge : merge + g->id);
}

void HandWork::addStroke(const std::vector<StrokePlace>& path, double tolerance) {
  // What lies wholly beside the frame would be a change that nobody can see.
  const Size frame = session_.state().frame;
  const auto seen = [&](const StrokePlace& place) {
    return place.at.x > -place.width && place.at.y > -place.width && place.at.x < frame.width + place.width &&
           place.at.y < frame.height + place.width;
  };
  if (std::none_of(path.begin(), path.end(), seen)) return;
  Stroke stroke = fittedStroke(smoothed(path, 2), tolerance);
  editStrokes("Draw stroke", [&](Strokes& all) { all.push_back(std::make_shared<const Stroke>(std::move(stroke))); });
}

void HandWork::inStrokes(std::function<void(const Guide& source, const std::string& drawing, const Tracing&)> done) {
  const Guide* g = guide();
  const MapPicture* map = g != nullptr ? session_.mapOf(g->id) : nullptr;
  if (map == nullptr || !map->below) return;
  session_.inBackground(
      nextKey(),
      [this, done = std::move(done), source = *g, below = map->below, layer = layerOf(*g, Surface::retouch),
       place = session_.placeOf(*g)](const StopToken& stop) -> std::function<void()> {
        // The region stays a region.
        const Map picture = source.retouchHidden ? below->clone() : composed(*below, layer);
        auto tracing = std::make_shared<Tracing>(traced(picture, {}, stop));
        return [this, done, source, place, tracing] {
          const std::string id = session_.edits().keep(Drawing{true, place.frame, place.placing, tracing->strokes});
          done(source, id, *tracing);
        };
      });
}

void HandWork::trace() {
  const Guide* g = guide();
  if (g == nullptr || !kindOf(g->kind).draw) return;
  inStrokes([this](const Guide& source, const std::string& drawing, const Tracing& tracing) {
    session_.change("Trace to strokes", [&](StudyState& s) {
      Guide* now = s.guide(source.id);
      if (now == nullptr) return;
      now->drawing = drawing;
      now->retouch.clear();
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
  if (g == nullptr || !kindOf(g->kind).lines) return;
  inStrokes([this](const Guide& source, const std::string& drawing, const Tracing&) {
    session_.change("Loose lines from " + QString::fromStdString(source.name), [&](StudyState& s) {
      Guide loose;
      loose.id = newId(s, "g");
      loose.kind = "loose";
      loose.name = source.name + " loose";
      loose.reference = source.reference;
      loose.weight = 0.7;
      loose.drawing = drawing;
      s.selectedGuide = loose.id;
      s.guides.push_back(std::move(loose));
    });
  });
}

void HandWork::dropDrawing() {
  const Guide* g = guide();
  if (g == nullptr || g->drawing.empty() || g->reference.empty()) return;
  session_.change("Back to the extraction", [id = g->id](StudyState& s) { s.guide(id)->drawing.clear(); });
}

void HandWork::removeStrokes(const std::set<std::size_t>& which) {
  if (which.empty()) return;
  editStrokes(which.size() == 1 ? "Delete stroke" : "Delete strokes", [&](Strokes& all) {
    for (auto i = which.rbegin(); i != which.rend(); ++i)
      if (*i < all.size()) all.erase(all.begin() + static_cast<std::ptrdiff_t>(*i));
  });
}

void HandWork::moveStrokes(const std::set<std::size_t>& which, QPointF by) {
  if (which.empty() || by.isNull()) return;
  editStrokes("Move strokes", [&](Strokes& all) {
    for (const std::size_t i : which) {
      Stroke moved = *all.at(i);
      for (Point& p : moved.points) p = p + toPoint(by);
      all[i] = std::make_shared<const Stroke>(std::move(moved));
    }
  });
}

void HandWork::smoothStrokes(const std::set<std::size_t>& which) {
  if (which.empty()) return;
  editStrokes("Smooth strokes", [&](Strokes& all) {
    for (const std::size_t i : which) {
      const bool closed = all.at(i)->closed;
      auto places = flattened(*all[i], 0.1);
      if (closed) places.pop_back();
      Stroke smooth = fittedStroke(smoothed(places, 6, closed), 1.2, closed);
      all[i] = std::make_shared<const Stroke>(std::move(smooth));
    }
  });
}

void HandWork::scaleWidths(const std::set<std::size_t>& which, double factor) {
  if (which.empty()) return;
  editStrokes("Line weight", [&](Strokes& all) {
    for (const std::size_t i : which) {
      Stroke scaled = *all.at(i);
      for (double& width : scaled.widths) width = std::clamp(width * factor, 0.3, 200.0);
      all[i] = std::make_shared<const Stroke>(std::move(scaled));
    }
  });
}

void HandWork::joinStrokes(const std::set<std::size_t>& which) {
  if (which.size() != 2) return;
  editStrokes("Join strokes", [&](Strokes& all) {
    const std::size_t i = *which.begin(), j = *which.rbegin();
    auto a = flattened(*all.at(i), 0.1), b = flattened(*all.at(j), 0.1);
    const double frontFront = distanceBetween(a.front().at, b.front().at),
                 frontBack = distanceBetween(a.front().at, b.back().at),
                 backFront = distanceBetween(a.back().at, b.front().at),
                 backBack = distanceBetween(a.back().at, b.back().at);
    const double least = std::min({frontFront, frontBack, backFront, backBack});
    // The nearest ends come to lie at the end of the one and the beginning of the other.
    if (least == frontFront || least == frontBack) std::reverse(a.begin(), a.end());
    if (least == frontBack || least == backBack) std::reverse(b.begin(), b.end());
    a.insert(a.end(), b.begin(), b.end());
    all[i] = std::make_shared<const Stroke>(fittedStroke(a, 0.5));
    all.erase(all.begin() + static_cast<std::ptrdiff_t>(j));
  });
}

}  // namespace hscaffold::app
