#include "app/workbench/light/light_work.h"

#include <QColor>
#include <cmath>

#include "app/maps/map_room.h"
#include "app/tasks/task_runner.h"
#include "app/workbench/near_guide.h"
#include "core/kinds.h"

namespace hscaffold::app {

using light::Light;
using light::LightTable;

LightWork::LightWork(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent)
    : QObject(parent), document_(document), maps_(maps), tasks_(tasks) {
  connect(&document_, &StudyDocument::changed, this, [this](const Changes& changes) {
    const std::string& now = document_.state().looking.guide;
    if (now != guide_) {
      guide_ = now;
      selected_.reset();
    }
    if (changes.looking || changes.guideList || changes.guide(now)) emit changed();
  });
  connect(&document_, &StudyDocument::closing, this, [this] {
    kept_ = {};
    guide_.clear();
    selected_.reset();
  });
}

const Guide* LightWork::guide() const { return document_.state().selectedGuide(); }

bool LightWork::takesLight() const {
  const Guide* g = guide();
  return g != nullptr && kindOf(g->kind).hasSlot(light::lightSlot);
}

Size LightWork::frame() const { return document_.state().frame; }

std::shared_ptr<const LightTable> LightWork::kept() const {
  return takesLight() ? kept_.of(document_, guide(), light::lightSlot, light::lightForm()) : nullptr;
}

LightTable LightWork::table() const {
  LightTable out;
  if (const auto now = kept()) out = *now;
  if (const Guide* g = guide()) {
    const GuidePlace place = document_.placeOf(*g);
    out.frame = place.frame;
    out.placing = place.placing;
  }
  return out;
}

LightTable LightWork::edited(const std::function<void(LightTable&)>& edit) const {
  LightTable made = table();
  edit(made);
  if (made.lights.size() > light::mostLights) made.lights.resize(light::mostLights);
  for (Light& each : made.lights)
    if (each.strokes.size() > light::mostStrokes) each.strokes.resize(light::mostStrokes);
  return made;
}

void LightWork::edit(const QString& name, const std::function<void(LightTable&)>& edit, const std::string& merge) {
  if (!takesLight()) return;
  const std::string of = guide()->id;
  LightTable made = edited(edit);
  if (const auto now = kept(); now ? *now == made : made.empty()) return;
  const std::string id = made.empty() ? std::string() : document_.work().keep(light::lightForm(), std::move(made));
  document_.change(
      name, [&](StudyState& s) { s.guide(of)->work.put(light::lightSlot, id); }, merge.empty() ? merge : merge + of);
}

void LightWork::seal() { document_.seal(); }

void LightWork::showWith(const std::function<void(LightTable&)>& edit) {
  showing_ = takesLight();
  if (showing_) maps_.showTrial(guide()->id, light::lightSlot, std::make_shared<const LightTable>(edited(edit)));
}

void LightWork::endShowing() {
  showing_ = false;
  if (takesLight()) maps_.endTrial(guide()->id);
}

std::optional<std::size_t> LightWork::selected() const {
  const auto now = kept();
  return selected_ && now && *selected_ < now->lights.size() ? selected_ : std::nullopt;
}

void LightWork::select(std::optional<std::size_t> which) {
  if (which == selected_) return;
  selected_ = which;
  emit changed();
}

const Light* LightWork::selectedLight() const {
  const auto which = selected();
  return which ? &kept()->lights[*which] : nullptr;
}

void LightWork::changeSelected(const QString& name, const std::function<void(Light&)>& change,
                               const std::string& merge) {
  const auto which = selected();
  if (!which) return;
  edit(
      name, [&](LightTable& t) { change(t.lights[*which]); }, merge.empty() ? merge : merge + std::to_string(*which));
}

void LightWork::removeSelected() {
  const auto which = selected();
  if (!which) return;
  selected_.reset();
  edit("Remove from the light table",
       [&](LightTable& t) { t.lights.erase(t.lights.begin() + static_cast<std::ptrdiff_t>(*which)); });
}

void LightWork::moveSelected(int by) {
  const auto which = selected();
  if (!which) return;
  const auto to = static_cast<std::ptrdiff_t>(*which) + by;
  if (to < 0 || to >= std::ssize(kept()->lights)) return;
  selected_ = static_cast<std::size_t>(to);
  edit("Reorder the light table",
       [&](LightTable& t) { std::swap(t.lights[*which], t.lights[static_cast<std::size_t>(to)]); });
}

void LightWork::duplicateSelected() {
  const Light* of = selectedLight();
  if (of == nullptr) return;
  Light copy = *of;
  const double aside = 0.03 * frame().width;
  for (Point& spot : copy.spots) spot = spot + Point{aside, aside};
  for (light::Stroke& stroke : copy.strokes)
    for (Point& spot : stroke.spots) spot = spot + Point{aside, aside};
  add("Duplicate on the light table", std::move(copy));
}

void LightWork::add(const QString& name, Light light) {
  if (!takesLight()) return;
  if (const auto now = kept(); now && now->lights.size() >= light::mostLights) {
    emit said(QString("The light table is full: %1 lights.").arg(light::mostLights));
    return;
  }
  edit(name, [&](LightTable& t) { t.lights.push_back(std::move(light)); });
  select(table().lights.size() - 1);
}

std::size_t LightWork::brushIn(LightTable& table) const {
  const auto which = selected();
  const bool fits = which && table.lights[*which].form == Light::Form::brush && !table.lights[*which].hidden &&
                    (table.lights[*which].light < 0) == next.shadow && table.lights[*which].hue == next.hue &&
                    table.lights[*which].strokes.size() < light::mostStrokes;
  if (fits) return *which;
  Light made;
  made.form = Light::Form::brush;
  made.name = next.shadow ? "Shadow by hand" : "Light by hand";
  made.light = next.shadow ? -0.8 : 0.8;
  made.hue = next.hue;
  table.lights.push_back(std::move(made));
  return table.lights.size() - 1;
}

void LightWork::paint(const light::Stroke& stroke) {
  LightTable with = table();
  if (brushIn(with) >= light::mostLights) {
    emit said(QString("The light table is full: %1 lights. Take one away, or paint into one that is there.")
                  .arg(light::mostLights));
    return;
  }
  std::size_t into = 0;
  edit(next.shadow ? "Shadow by hand" : "Light by hand", [&](LightTable& t) {
    into = brushIn(t);
    t.lights[into].strokes.push_back(stroke);
  });
  select(into);
}

void LightWork::takeAway(const light::Stroke& stroke) {
  const Light* of = selectedLight();
  if (of == nullptr || of->form != Light::Form::brush) {
    emit said("Choose a light or shadow by hand in the list first: it is taken away from that.");
    return;
  }
  if (of->strokes.size() >= light::mostStrokes) {
    emit said(
        QString("This light has %1 strokes, which is all it takes: paint into a new one.").arg(light::mostStrokes));
    return;
  }
  changeSelected("Take away light", [&](Light& each) { each.strokes.push_back(stroke); }, {});
}

void LightWork::setHour(const light::Hour& hour) {
  if (!takesLight()) return;
  const GuidePlace place = document_.placeOf(*guide());
  selected_.reset();
  edit(QString("Light of %1").arg(hour.name), [&](LightTable& t) { t = light::atHour(hour, t, place); });
}

void LightWork::clear() {
  selected_.reset();
  edit("Clear the light table", [](LightTable& t) {
    const LightTable before = t;
    t = {};
    t.frame = before.frame;
    t.placing = before.placing;
  });
}

bool LightWork::hasRelief() const { return takesLight() && guide()->work.has(light::reliefSlot); }

bool LightWork::canTakeRelief() const {
  if (!takesLight()) return false;
  const auto& guides = document_.state().guides;
  return !guide()->reference.empty() ||
         std::any_of(guides.begin(), guides.end(), [](const Guide& g) { return kindOf(g.kind).nearIsLight; });
}

QString LightWork::reliefName() const {
  if (!hasRelief()) return {};
  try {
    return QString::fromStdString(
        document_.work().get<light::Relief>(light::reliefForm(), guide()->work.in(light::reliefSlot))->by);
  } catch (const Problem&) {
    return {};
  }
}

void LightWork::keepRelief(const std::string& of, light::Relief relief) {
  if (document_.state().guide(of) == nullptr) return;
  const QString by = QString::fromStdString(relief.by);
  const std::string id = document_.work().keep(light::reliefForm(), std::move(relief));
  document_.change("Relief for the light", [&](StudyState& s) { s.guide(of)->work.put(light::reliefSlot, id); });
  emit said("Light and rays know now what is near, from " + by + ".");
}

void LightWork::takeRelief() {
  if (!takesLight()) return;
  const Guide own = *guide();
  const Guide* from = nearGuideFor(own, document_, maps_);
  const GuidePlace place = document_.placeOf(own);
  if (from != nullptr)
    return keepRelief(own.id, light::reliefFrom(maps_.mapOf(from->id)->map->view(), place, from->name));
  const auto picture = maps_.placedPicture(own.reference);
  if (!picture) return;
  emit said("Guessing what is near...");
  struct Guess {
    std::optional<light::Relief> relief;
    QString problem;
  };
  tasks_.run(
      this, "relief " + own.id, Priority::maps,
      [picture, place](const StopToken& stop) {
        Guess out;
        try {
          ExtractionCache cache;
          out.relief = light::reliefFrom(kindOf("depth").extract(picture->view(), {}, cache, stop).map, place,
                                         "a guess of the reference's depth");
        } catch (const Problem& problem) {
          out.problem = problem.what();
        }
        return out;
      },
      [this, of = own.id](Guess guess) {
        if (guess.relief)
          keepRelief(of, std::move(*guess.relief));
        else
          emit said(guess.problem);
      });
}

void LightWork::dropRelief() {
  if (!hasRelief()) return;
  const std::string of = guide()->id;
  document_.change("Forget the relief", [&](StudyState& s) { s.guide(of)->work.clear(light::reliefSlot); });
}

QString nameOf(const Light& light) {
  if (!light.name.empty()) return QString::fromStdString(light.name);
  switch (light.form) {
    case Light::Form::brush:
      return light.light < 0 ? "Shadow by hand" : "Light by hand";
    case Light::Form::straight:
      return "Fall of light";
    case Light::Form::round:
      return light.light < 0 ? "Dark spot" : "Lamp";
    case Light::Form::rays:
      return "Rays";
    default:
      return "Area";
  }
}

QString sayingOf(const Light& light) {
  const auto counted = [](std::size_t n, const char* one) {
    return QString("%1 %2%3").arg(n).arg(one, n == 1 ? "" : "s");
  };
  QStringList out;
  switch (light.form) {
    case Light::Form::brush:
      out << counted(light.strokes.size(), "stroke");
      break;
    case Light::Form::straight:
      out << QString("%1 to %2").arg(light.light, 0, 'f', 2).arg(light.endLight, 0, 'f', 2);
      break;
    case Light::Form::rays:
      out << counted(static_cast<std::size_t>(light.count), "ray");
      if (light.nearest < 1) out << "behind what is near";
      break;
    default:
      out << QString("light %1").arg(light.light, 0, 'f', 2);
  }
  if (light.opacity < 1) out << QString("%1 %").arg(std::lround(100 * light.opacity));
  return out.join(", ");
}

QColor colourOf(const light::Hue& hue) {
  using light::degree;
  const Rgb c = okLabToLinearInGamut({0.7f, static_cast<float>(hue.chroma * std::cos(hue.angle * degree)),
                                      static_cast<float>(hue.chroma * std::sin(hue.angle * degree))});
  return {linearToSrgb8(c.r), linearToSrgb8(c.g), linearToSrgb8(c.b)};
}

}  // namespace hscaffold::app
