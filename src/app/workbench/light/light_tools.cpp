#include "app/workbench/light/light_tools.h"

#include <QKeyEvent>
#include <QLineF>
#include <QMenu>
#include <QPainterPath>
#include <cmath>
#include <numbers>

#include "app/points.h"
#include "app/theme/theme.h"
#include "app/workbench/light/light_work.h"
#include "app/workbench/object_tool.h"
#include "app/workbench/pose/tool_marks.h"

namespace hscaffold::app {
namespace {

using light::Light;
using light::LightTable;
using Form = Light::Form;

Limits percent(double usual) { return {0, 100, usual, 1, 0, "%"}; }

/// A number of what is taken hold of, if it has such a thing, and of what comes next.
RowField shared(LightWork& work, const char* name, const char* tip, const Limits& limits, double LightWork::Next::*next,
                double Light::*own, Form only, double unit = 1) {
  const auto fits = [&work, only] {
    const Light* of = work.selectedLight();
    return of != nullptr && of->form == only ? of : nullptr;
  };
  return {name, tip, limits,
          [&work, next, own, fits, unit] {
            const Light* of = fits();
            return unit * (of != nullptr ? of->*own : work.next.*next);
          },
          [&work, next, own, fits, unit, name](double value) {
            work.next.*next = value / unit;
            if (fits() != nullptr)
              work.changeSelected(
                  QString("%1 of light").arg(name), [&](Light& each) { each.*own = value / unit; },
                  std::string("light ") + name);
          }};
}

RowField lightField(LightWork& work, Form only) {
  return shared(work, "Light", "From -1, as dark as can be, to 1, as light as can be", light::limits::light,
                &LightWork::Next::light, &Light::light, only);
}
RowField softField(LightWork& work, Form only) {
  return shared(work, "Soft", "How soft the rim is", percent(50), &LightWork::Next::softness, &Light::softness, only,
                100);
}

/// Light or shadow by brush, and taking it away.
class BrushLight : public TableTool {
 public:
  enum class Does { shadow, light, away };
  BrushLight(const ToolContext& context, Does does) : TableTool(context), does_(does) {
    if (does != Does::away) light_.next.shadow = does == Does::shadow;
    if (settings_.size < leastSize) settings_.size = usualSize;
  }

  void press(const ToolPointer& pointer) override {
    stroke_ = light::Stroke{
        {toPoint(pointer.at)}, settings_.size, light_.next.softness, light_.next.strength, does_ == Does::away};
    from_ = pointer.at;
    show();
  }
  void move(const ToolPointer& pointer) override {
    if (!stroke_) return;
    auto& spots = stroke_->spots;
    if (pointer.modifiers.testFlag(Qt::ShiftModifier))
      spots = {toPoint(from_), toPoint(pointer.at)};
    else if (distanceBetween(spots.back(), toPoint(pointer.at)) * pointer.scale >= 2 && spots.size() < light::mostSpots)
      spots.push_back(toPoint(pointer.at));
    else
      return;
    show();
  }
  void release(const ToolPointer&) override {
    if (!stroke_) return;
    const auto stroke = std::move(*std::exchange(stroke_, {}));
    light_.endShowing();
    if (stroke.away)
      light_.takeAway(stroke);
    else
      light_.paint(stroke);
  }
  bool cancel() override {
    if (!std::exchange(stroke_, {})) return false;
    light_.endShowing();
    return true;
  }
  /// The stroke is seen at once; the map follows as soon as it is made.
  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    if (!stroke_) return;
    QPainterPath path(toTable.map(toQt(stroke_->spots.front())));
    for (std::size_t i = 1; i < stroke_->spots.size(); ++i) path.lineTo(toTable.map(toQt(stroke_->spots[i])));
    if (stroke_->spots.size() == 1) path.lineTo(path.currentPosition() + QPointF(0.01, 0));
    QColor colour = does_ == Does::shadow ? QColor(0, 0, 0) : does_ == Does::light ? QColor(255, 252, 240) : paper;
    if (does_ != Does::away && light_.next.hue) colour = colourOf(*light_.next.hue);
    colour.setAlphaF(does_ == Does::away ? 0.12F : 0.16F);
    painter.setBrush(Qt::NoBrush);
    // From the middle outwards, as soft as the brush.
    constexpr int rings = 3;
    for (int ring = 0; ring < rings; ++ring) {
      const double share = 1 - stroke_->softness * ring / rings;
      painter.setPen(
          QPen(colour, std::max(1.0, stroke_->width * scale * share), Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
      painter.drawPath(path);
    }
  }
  [[nodiscard]] double ring() const override { return settings_.size; }
  [[nodiscard]] std::vector<RowField> fields() override {
    LightWork& work = light_;
    return {sizeField(),
            {"Soft", "How soft the brush is", percent(70), [&work] { return 100 * work.next.softness; },
             [&work](double v) { work.next.softness = v / 100; }},
            {"Strength", "How much one stroke does", percent(45), [&work] { return 100 * work.next.strength; },
             [&work](double v) { work.next.strength = v / 100; }}};
  }

 private:
  static constexpr double leastSize = 20, usualSize = 80;

  void show() {
    light_.showWith([&](LightTable& t) {
      if (does_ != Does::away) {
        t.lights[light_.brushIn(t)].strokes.push_back(*stroke_);
        return;
      }
      if (const auto which = light_.selected(); which && t.lights[*which].form == Form::brush)
        t.lights[*which].strokes.push_back(*stroke_);
    });
  }

  Does does_;
  QPointF from_;
  std::optional<light::Stroke> stroke_;
};

/// Draws a gradient, a lamp, rays or an area by one drag.
class DrawLight : public TableTool {
 public:
  DrawLight(const ToolContext& context, Form form) : TableTool(context), form_(form) {}

  void press(const ToolPointer& pointer) override {
    light_.select({});
    spots_ = {toPoint(pointer.at)};
  }
  void move(const ToolPointer& pointer) override {
    if (spots_.empty()) return;
    if (form_ != Form::flat)
      spots_ = {spots_.front(), held(pointer)};
    else if (distanceBetween(spots_.back(), toPoint(pointer.at)) * pointer.scale >= 3 &&
             spots_.size() < light::mostSpots)
      spots_.push_back(toPoint(pointer.at));
    if (spots_.size() >= light::leastSpots(form_)) light_.showWith([&](LightTable& t) { t.lights.push_back(drawn()); });
  }
  void release(const ToolPointer& pointer) override {
    if (spots_.empty()) return;
    light_.endShowing();
    Light made = drawn();
    const bool click =
        spots_.size() < 2 || (form_ != Form::flat && distanceBetween(spots_[0], spots_[1]) * pointer.scale < 6);
    spots_.clear();
    if (click || made.spots.size() < light::leastSpots(form_)) return;
    const QString name = nameOf(made);
    light_.add(name, std::move(made));
  }
  bool cancel() override {
    if (spots_.empty()) return false;
    spots_.clear();
    light_.endShowing();
    return true;
  }
  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    if (spots_.size() < 2) return;
    QPolygonF line;
    for (const Point& spot : spots_) line << toTable.map(toQt(spot));
    painter.setBrush(Qt::NoBrush);
    rimmed(painter, kindColour("tone"), 1.4, [&] { painter.drawPolyline(line); });
  }
  [[nodiscard]] std::vector<RowField> fields() override;

 private:
  /// Level, upright or across with Shift.
  [[nodiscard]] Point held(const ToolPointer& pointer) const {
    const Point to = toPoint(pointer.at);
    if (!pointer.modifiers.testFlag(Qt::ShiftModifier) || form_ == Form::round) return to;
    const Point by = to - spots_.front();
    constexpr double step = std::numbers::pi / 4;
    const double turn = step * std::round(std::atan2(by.y, by.x) / step);
    return spots_.front() + Point{std::cos(turn), std::sin(turn)} * lengthOf(by);
  }
  [[nodiscard]] Light drawn() const {
    const LightWork::Next& next = light_.next;
    Light out;
    out.form = form_;
    out.light = next.light;
    out.hue = next.hue;
    out.softness = next.softness;
    out.spots = spots_;
    if (form_ == Form::straight) {
      out.endLight = -0.5 * next.light;
      out.endHue = next.endHue;
    }
    if (form_ == Form::rays) {
      out.count = next.count;
      out.spread = next.spread;
      out.aside = next.aside;
      out.nearest = next.nearest;
    }
    return out;
  }

  Form form_;
  std::vector<Point> spots_;
};

std::vector<RowField> fieldsOf(LightWork& work, Form form) {
  std::vector<RowField> out;
  if (form == Form::brush) return out;
  out.push_back(lightField(work, form));
  if (form == Form::straight) {
    out.push_back({"End", "Light at its other end", light::limits::light,
                   [&work] {
                     const Light* of = work.selectedLight();
                     return of != nullptr && of->form == Form::straight ? of->endLight : -0.5 * work.next.light;
                   },
                   [&work](double value) {
                     const Light* of = work.selectedLight();
                     if (of != nullptr && of->form == Form::straight)
                       work.changeSelected(
                           "End of light", [&](Light& each) { each.endLight = value; }, "light end");
                   }});
    return out;
  }
  out.push_back(softField(work, form));
  if (form != Form::rays) return out;
  out.push_back({"Rays", "How many", light::limits::rays,
                 [&work] {
                   const Light* of = work.selectedLight();
                   return of != nullptr && of->form == Form::rays ? of->count : work.next.count;
                 },
                 [&work](double value) {
                   work.next.count = static_cast<int>(value);
                   const Light* of = work.selectedLight();
                   if (of != nullptr && of->form == Form::rays)
                     work.changeSelected(
                         "Number of rays", [&](Light& each) { each.count = work.next.count; }, "light count");
                 }});
  out.push_back(shared(work, "Spread", "From the first ray to the last: degrees, or percent of the frame side by side",
                       light::limits::spread, &LightWork::Next::spread, &Light::spread, form));
  if (work.hasRelief())
    out.push_back(shared(work, "Behind", "They pass behind what is nearer than this; 100: behind nothing", percent(100),
                         &LightWork::Next::nearest, &Light::nearest, form, 100));
  return out;
}

std::vector<RowField> DrawLight::fields() { return fieldsOf(light_, form_); }

/// Places that a light is taken hold of by, and the line that it is drawn with.
QPolygonF outlineOf(const Light& light) {
  QPolygonF out;
  for (const Point& spot : light.spots) out << toQt(spot);
  return out;
}

/// How far a place is from a light, in pixels of the frame; none where it is all over.
double awayFrom(const Light& light, Point at) {
  constexpr double far = 1e9;
  double least = far;
  switch (light.form) {
    case Form::brush:
      for (const auto& stroke : light.strokes)
        for (std::size_t i = 0; i < stroke.spots.size() && !stroke.away; ++i)
          least = std::min(
              least, distanceToSegment(at, stroke.spots[i], stroke.spots[std::min(i + 1, stroke.spots.size() - 1)]) -
                         stroke.width / 2);
      return std::max(0.0, least);
    case Form::round:
      return std::max(0.0, distanceBetween(at, light.spots[0]) - distanceBetween(light.spots[1], light.spots[0]));
    case Form::flat:
      if (outlineOf(light).containsPoint(toQt(at), Qt::OddEvenFill)) return 0;
      for (std::size_t i = 0; i < light.spots.size(); ++i)
        least = std::min(least, distanceToSegment(at, light.spots[i], light.spots[(i + 1) % light.spots.size()]));
      return least;
    default:
      return distanceToSegment(at, light.spots[0], light.spots[1]);
  }
}

/// Takes hold of what lies on the table: chooses, moves it or one of its places, takes it away.
class TakeLights : public ObjectTool<> {
 public:
  using ObjectTool::ObjectTool;

  bool key(QKeyEvent* event) override {
    if (ObjectTool::key(event)) return true;
    switch (event->key()) {
      case Qt::Key_J:
        if (const auto now = light_.kept(); now && !now->lights.empty())
          light_.select(light_.selected() ? (*light_.selected() + 1) % now->lights.size() : 0);
        return true;
      case Qt::Key_PageUp:
        light_.moveSelected(1);
        return true;
      case Qt::Key_PageDown:
        light_.moveSelected(-1);
        return true;
      default:
        return false;
    }
  }
  void addToMenu(QMenu& menu) override {
    const bool any = light_.selected().has_value();
    menu.addAction("Duplicate", &light_, [this] { light_.duplicateSelected(); })->setEnabled(any);
    menu.addAction("Bring up", &light_, [this] { light_.moveSelected(1); })->setEnabled(any);
    menu.addAction("Push down", &light_, [this] { light_.moveSelected(-1); })->setEnabled(any);
    menu.addAction("Take away", &light_, [this] { light_.removeSelected(); })->setEnabled(any);
  }
  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    ObjectTool::paint(painter, toTable, scale);
    const Light* of = light_.selectedLight();
    if (of == nullptr) return;
    painter.setPen(QPen(shade, 1.2));
    const Light now = moved(*of);
    for (std::size_t i = 0; i < now.spots.size() && now.form != Form::flat; ++i) {
      painter.setBrush(i == 0 ? theme().accent : paper);
      painter.drawEllipse(toTable.map(toQt(now.spots[i])), 5, 5);
    }
  }
  [[nodiscard]] Qt::CursorShape cursor() const override { return Qt::ArrowCursor; }
  [[nodiscard]] std::vector<RowField> fields() override {
    const Light* of = light_.selectedLight();
    return of != nullptr ? fieldsOf(light_, of->form) : std::vector<RowField>();
  }

 protected:
  Chosen hitAt(const ToolPointer& pointer) override {
    spot_.reset();
    const auto now = light_.kept();
    if (!now) return {};
    const Point at = toPoint(pointer.at);
    // The places of what is chosen go first.
    if (const Light* of = light_.selectedLight(); of != nullptr && of->form != Form::flat)
      for (std::size_t i = 0; i < of->spots.size(); ++i)
        if (distanceBetween(of->spots[i], at) * pointer.scale <= pointReach) {
          spot_ = i;
          return {*light_.selected()};
        }
    std::optional<std::size_t> found;
    double least = pointReach / pointer.scale;
    for (std::size_t i = now->lights.size(); i-- > 0;) {
      if (now->lights[i].hidden) continue;
      const double away = awayFrom(now->lights[i], at);
      if (away >= least) continue;
      least = away;
      found = i;
    }
    return found ? Chosen{*found} : Chosen();
  }
  [[nodiscard]] Chosen chosen() const override { return light_.selected() ? Chosen{*light_.selected()} : Chosen(); }
  void choose(const Chosen& which) override {
    light_.select(which.empty() ? std::nullopt : std::optional(*which.begin()));
  }
  [[nodiscard]] bool several() const override { return false; }
  void drag(QPointF by, const ToolPointer&) override {
    by_ = by;
    if (const auto which = light_.selected())
      light_.showWith([&](LightTable& t) { t.lights[*which] = moved(t.lights[*which]); });
  }
  void drop() override {
    light_.endShowing();
    place({});
    spot_.reset();
  }
  void letGo() override {
    if (!by_.isNull()) light_.endShowing();
    by_ = {};
    spot_.reset();
  }
  bool nudge(QPointF by) override {
    if (!light_.selected()) return false;
    by_ = by;
    spot_.reset();
    place("nudge light ");
    return true;
  }
  bool removeChosen() override {
    light_.removeSelected();
    return true;
  }

 private:
  void place(const std::string& merge) {
    light_.changeSelected(
        "Move on the light table", [&](Light& each) { each = moved(each); }, merge);
    by_ = {};
  }
  [[nodiscard]] Light moved(Light light) const {
    const Point by = toPoint(by_);
    for (std::size_t i = 0; i < light.spots.size(); ++i) {
      // The middle of a lamp takes its rim along.
      const bool goes = !spot_ || *spot_ == i || (*spot_ == 0 && light.form == Form::round);
      if (goes) light.spots[i] = light.spots[i] + by;
    }
    if (!spot_)
      for (auto& stroke : light.strokes)
        for (Point& spot : stroke.spots) spot = spot + by;
    return light;
  }
  QPointF by_;                       ///< so far, by the drag that goes on
  std::optional<std::size_t> spot_;  ///< the place that is dragged alone
};

template <BrushLight::Does does>
std::unique_ptr<TableTool> brushes(const ToolContext& context) {
  return std::make_unique<BrushLight>(context, does);
}
template <Form form>
std::unique_ptr<TableTool> draws(const ToolContext& context) {
  return std::make_unique<DrawLight>(context, form);
}

}  // namespace

const std::vector<ToolInfo>& lightTools() {
  static const std::vector<ToolInfo> all = {
      {ToolName::lights, "strokes", "Lights: take hold of what lies on the light table (V). J: the next one", Qt::Key_V,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<TakeLights>(context); }},
      {ToolName::shadowBrush, "shadow-brush", "Shadow: paint it (S). Shift: straight. [ and ]: size", Qt::Key_S,
       brushes<BrushLight::Does::shadow>},
      {ToolName::lightBrush, "light-brush", "Light: paint it (H). Shift: straight. [ and ]: size", Qt::Key_H,
       brushes<BrushLight::Does::light>},
      {ToolName::lightAway, "rub-out", "Take away painted light or shadow (E)", Qt::Key_E,
       brushes<BrushLight::Does::away>},
      {ToolName::fallOfLight, "fall-of-light", "Fall of light: drag from where it is light to where it is dark (F)",
       Qt::Key_F, draws<Form::straight>},
      {ToolName::lamp, "lamp", "Lamp: drag from its middle to its rim (O)", Qt::Key_O, draws<Form::round>},
      {ToolName::rays, "rays", "Rays: drag from where they come from to where they go (Y)", Qt::Key_Y,
       draws<Form::rays>},
      {ToolName::lightArea, "light-area", "Area: a loop round what is evenly lit, or has one colour (A)", Qt::Key_A,
       draws<Form::flat>}};
  return all;
}

std::vector<RowButton> lightButtons(LightWork& work) {
  RowButton hours{"hours", nullptr, "Hours", "Light and colours of a time of day; what was painted by hand stays", {}};
  for (const light::Hour& hour : light::hours())
    hours.choices.push_back({QString("%1: %2").arg(hour.name, hour.says), [&work, &hour] { work.setHour(hour); }});
  return {std::move(hours)};
}

void paintLights(QPainter& painter, const LightWork& work, const QTransform& toTable) {
  const auto now = work.kept();
  if (!now) return;
  painter.save();
  painter.setBrush(Qt::NoBrush);
  for (std::size_t i = 0; i < now->lights.size(); ++i) {
    const Light& light = now->lights[i];
    if (light.hidden || light.form == Form::brush) continue;
    const bool chosen = work.selected() == i;
    painter.setOpacity(chosen ? 1 : 0.55);
    const QColor colour = chosen ? theme().accent : light.hue ? colourOf(*light.hue) : paper;
    rimmed(painter, colour, chosen ? 1.6 : 1, [&] {
      const QPolygonF line = toTable.map(outlineOf(light));
      if (light.form == Form::flat) {
        painter.drawPolygon(line);
      } else if (light.form == Form::round) {
        const double reach = QLineF(line[0], line[1]).length();
        painter.drawEllipse(line[0], reach, reach);
      } else {
        painter.drawLine(line[0], line[1]);
        painter.drawEllipse(line[0], 3.5, 3.5);
      }
    });
  }
  painter.restore();
}

}  // namespace hscaffold::app
