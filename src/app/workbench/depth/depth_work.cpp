#include "app/workbench/depth/depth_work.h"

#include <cmath>

#include "app/maps/map_room.h"
#include "core/kinds.h"
#include "core/study/figure_hints.h"

namespace hscaffold::app {

using depth::Hint;

DepthWork::DepthWork(StudyDocument& document, MapRoom& maps, QObject* parent)
    : QObject(parent), document_(document), maps_(maps) {
  connect(&document_, &StudyDocument::changed, this, [this](const Changes& changes) {
    const std::string& now = document_.state().looking.guide;
    if (now != guide_) {
      guide_ = now;
      selected_.reset();
      doubt_ = -1;
    }
    if (changes.looking || changes.guideList || changes.guide(now)) emit changed();
  });
  connect(&document_, &StudyDocument::closing, this, [this] {
    kept_ = {};
    guide_.clear();
    selected_.reset();
    doubt_ = -1;
  });
  connect(&maps_, &MapRoom::mapChanged, this, [this] { emit changed(); });
}

const Guide* DepthWork::guide() const { return document_.state().selectedGuide(); }

bool DepthWork::takesHints() const {
  const Guide* g = guide();
  return g != nullptr && kindOf(g->kind).hasSlot(depth::hintsSlot);
}

std::shared_ptr<const depth::Hints> DepthWork::hints() const {
  return takesHints() ? kept_.of(document_, guide(), depth::hintsSlot, depth::hintsForm()) : nullptr;
}

depth::Hints DepthWork::edited(const std::function<void(List&)>& edit) const {
  const auto before = hints();
  depth::Hints next;
  if (before) next = *before;
  const GuidePlace place = document_.placeOf(*guide());
  next.frame = place.frame;
  next.placing = place.placing;
  edit(next.hints);
  if (next.hints.size() > depth::mostHints) next.hints.resize(depth::mostHints);
  return next;
}

void DepthWork::edit(const QString& name, const std::function<void(List&)>& edit, const std::string& merge) {
  if (!takesHints()) return;
  const std::string of = guide()->id;
  depth::Hints next = edited(edit);
  const std::string id =
      next.hints.empty() ? std::string() : document_.work().keep(depth::hintsForm(), std::move(next));
  document_.change(
      name, [&](StudyState& s) { s.guide(of)->work.put(depth::hintsSlot, id); }, merge.empty() ? merge : merge + of);
}

void DepthWork::showWith(const std::function<void(List&)>& edit) {
  if (takesHints()) maps_.showTrial(guide()->id, depth::hintsSlot, std::make_shared<const depth::Hints>(edited(edit)));
}

void DepthWork::endShowing() {
  if (takesHints()) maps_.endTrial(guide()->id);
}

std::optional<std::size_t> DepthWork::selected() const {
  const auto now = hints();
  return selected_ && now && *selected_ < now->hints.size() ? selected_ : std::nullopt;
}

void DepthWork::select(std::optional<std::size_t> hint) {
  if (hint == selected_) return;
  selected_ = hint;
  if (const auto now = hints(); now && selected()) {
    const Hint& of = now->hints[*selected_];
    if (of.form == Hint::Form::level) near_ = of.near;
    if (of.form == Hint::Form::ramp) near_ = of.nearEnd;
  }
  emit changed();
}

void DepthWork::removeSelected() {
  const auto which = selected();
  if (!which) return;
  selected_.reset();
  edit("Remove a hint", [&](List& list) { list.erase(list.begin() + static_cast<std::ptrdiff_t>(*which)); });
}

void DepthWork::removeAll() {
  selected_.reset();
  edit("Remove all hints", [](List& list) { list.clear(); });
}

std::vector<const Guide*> DepthWork::guidesWithFigures() const {
  std::vector<const Guide*> out;
  for (const Guide& each : document_.state().guides)
    if (each.work.has(pose::figuresSlot)) out.push_back(&each);
  return out;
}

bool DepthWork::hasFigures() const { return !guidesWithFigures().empty(); }

std::size_t DepthWork::hintFromFigures() {
  const MapPicture* map = takesHints() ? maps_.mapOf(guide()->id) : nullptr;
  if (map == nullptr || !map->map) return 0;
  List made;
  for (const Guide* each : guidesWithFigures()) {
    const GuidePlace place = document_.placeOf(*each);
    try {
      const auto kept = document_.work().get<pose::Figures>(pose::figuresForm(), each->work.in(pose::figuresSlot));
      for (Hint& hint : hintsFromFigures(pose::following(*kept, place.frame, place.placing), *map->map))
        made.push_back(std::move(hint));
    } catch (const Problem&) {
      // What is missing of a guide is said when its own map is asked for.
    }
  }
  if (made.empty()) return 0;
  edit("Hints from figures", [&](List& list) { list.insert(list.end(), made.begin(), made.end()); });
  return made.size();
}

void DepthWork::setNear(double near) {
  near_ = std::clamp(near, 0.0, 1.0);
  emit changed();
}

void DepthWork::changeNear(double near) {
  near = std::clamp(near, 0.0, 1.0);
  if (const auto which = selected()) {
    const Hint& hint = hints()->hints[*which];
    if (hint.form == Hint::Form::level || hint.form == Hint::Form::ramp)
      edit(
          "How near a hint is",
          [&](List& list) { (hint.form == Hint::Form::ramp ? list[*which].nearEnd : list[*which].near) = near; },
          "hint near " + std::to_string(*which));
  }
  setNear(near);
}

std::optional<double> DepthWork::read(const std::shared_ptr<const Map>& map, QPointF place) const {
  const int x = static_cast<int>(std::floor(place.x())), y = static_cast<int>(std::floor(place.y()));
  if (!map || x < 0 || y < 0 || x >= map->width() || y >= map->height()) return {};
  return (*map)(x, y) / 65535.0;
}

std::optional<double> DepthWork::nearAt(QPointF place) const {
  const MapPicture* map = takesHints() ? maps_.mapOf(guide()->id) : nullptr;
  return map != nullptr ? read(map->map, place) : std::nullopt;
}

std::optional<double> DepthWork::sureAt(QPointF place) const {
  const MapPicture* map = takesHints() ? maps_.mapOf(guide()->id) : nullptr;
  return map != nullptr ? read(map->sureness, place) : std::nullopt;
}

std::optional<DepthWork::Doubt> DepthWork::doubt() const {
  const MapPicture* map = takesHints() ? maps_.mapOf(guide()->id) : nullptr;
  if (map == nullptr || doubt_ < 0 || doubt_ >= static_cast<int>(map->doubtful.size())) return {};
  const DoubtfulPlace& place = map->doubtful[static_cast<std::size_t>(doubt_)];
  return Doubt{{place.x, place.y}, doubt_ + 1, static_cast<int>(map->doubtful.size())};
}

bool DepthWork::nextDoubt() {
  const MapPicture* map = takesHints() ? maps_.mapOf(guide()->id) : nullptr;
  if (map == nullptr || map->doubtful.empty()) return false;
  doubt_ = (doubt_ + 1) % static_cast<int>(map->doubtful.size());
  emit changed();
  return true;
}

void DepthWork::endDoubt() {
  if (doubt_ < 0) return;
  doubt_ = -1;
  emit changed();
}

}  // namespace hscaffold::app
