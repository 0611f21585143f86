#include "core/pose/pose_svg.h"

#include <fmt/format.h>

#include <cmath>
#include <pugixml.hpp>

#include "core/image/xml_text.h"
#include "core/pose/pose_map.h"

namespace hscaffold::pose {
namespace {

std::string hex(Rgb8 c) { return fmt::format("#{:02x}{:02x}{:02x}", c.r, c.g, c.b); }
std::string place(Point p) { return fmt::format("{:.2f} {:.2f}", p.x, p.y); }

/// The outline of a round, tapered stroke: two arcs and their common tangents.
std::string outlineOf(const Mark& m) {
  const Point way = m.b - m.a;
  const double length = lengthOf(way);
  const double tilt = length > 0 ? (m.radius - m.radiusTo) / length : 1;
  if (std::abs(tilt) >= 1) {
    const bool first = m.radius >= m.radiusTo;
    const Point c = first ? m.a : m.b;
    const double r = std::max(m.radius, m.radiusTo);
    return fmt::format("M{} a{:.2f} {:.2f} 0 1 0 {:.2f} 0 a{:.2f} {:.2f} 0 1 0 {:.2f} 0Z", place(c - Point{r, 0}), r, r,
                       2 * r, r, r, -2 * r);
  }
  const Point along = way * (1 / length), across{-along.y, along.x};
  const double side = std::sqrt(1 - tilt * tilt);
  const auto at = [&](Point c, double r, double sign) { return c + along * (r * tilt) + across * (sign * r * side); };
  return fmt::format("M{} L{} A{:.2f} {:.2f} 0 {} 0 {} L{} A{:.2f} {:.2f} 0 {} 0 {}Z", place(at(m.a, m.radius, 1)),
                     place(at(m.b, m.radiusTo, 1)), m.radiusTo, m.radiusTo, tilt < 0 ? 1 : 0,
                     place(at(m.b, m.radiusTo, -1)), place(at(m.a, m.radius, -1)), m.radius, m.radius, tilt > 0 ? 1 : 0,
                     place(at(m.a, m.radius, 1)));
}

/// The egg as a closed path of straight pieces, as the map draws it.
std::string eggPath(const Mark& m) {
  constexpr int pieces = 48;
  const Point across{m.direction.y, -m.direction.x};
  std::string d;
  for (int i = 0; i < pieces; ++i) {
    const double angle = 2 * 3.14159265358979323846 * i / pieces;
    const double v = std::sin(angle), u = std::cos(angle) * (1 + 0.16 * v);
    d += (i == 0 ? "M" : " L") + place(m.a + across * (u * m.radius) + m.direction * (v * m.radiusTo));
  }
  return d + "Z";
}

void addMark(pugi::xml_node group, pugi::xml_node defs, const Mark& m, int& gradients) {
  if (m.shape == Mark::Shape::ring) {
    auto circle = group.append_child("circle");
    circle.append_attribute("cx") = fmt::format("{:.2f}", m.a.x).c_str();
    circle.append_attribute("cy") = fmt::format("{:.2f}", m.a.y).c_str();
    circle.append_attribute("r") = fmt::format("{:.2f}", m.radius).c_str();
    circle.append_attribute("fill") = "#000000";
    circle.append_attribute("stroke") = hex(m.colour).c_str();
    circle.append_attribute("stroke-width") = fmt::format("{:.2f}", m.width).c_str();
    return;
  }
  auto path = group.append_child("path");
  if (m.shape == Mark::Shape::egg) {
    path.append_attribute("d") = eggPath(m).c_str();
    path.append_attribute("fill") = "none";
    path.append_attribute("stroke") = hex(m.colour).c_str();
    path.append_attribute("stroke-width") = fmt::format("{:.2f}", m.width).c_str();
    return;
  }
  if (m.shape == Mark::Shape::wedge) {
    const Point along = normalised(m.b - m.a), across{-along.y, along.x};
    path.append_attribute("d") =
        fmt::format("M{} L{} L{}Z", place(m.a + across * m.radius), place(m.b), place(m.a - across * m.radius)).c_str();
    path.append_attribute("fill") = hex(m.colour).c_str();
    return;
  }
  std::string ink = hex(m.colour);
  if (m.colour != m.colourTo && lengthOf(m.b - m.a) > 0.01) {
    const std::string id = fmt::format("limb{}", ++gradients);
    auto gradient = defs.append_child("linearGradient");
    gradient.append_attribute("id") = id.c_str();
    gradient.append_attribute("gradientUnits") = "userSpaceOnUse";
    for (const auto& [key, value] : {std::pair{"x1", m.a.x}, {"y1", m.a.y}, {"x2", m.b.x}, {"y2", m.b.y}})
      gradient.append_attribute(key) = fmt::format("{:.2f}", value).c_str();
    for (const auto& [at, colour] : {std::pair{"0", m.colour}, {"1", m.colourTo}}) {
      auto stop = gradient.append_child("stop");
      stop.append_attribute("offset") = at;
      stop.append_attribute("stop-color") = hex(colour).c_str();
    }
    ink = "url(#" + id + ")";
  }
  if (m.dash > 0) {
    path.append_attribute("d") = fmt::format("M{} L{}", place(m.a), place(m.b)).c_str();
    path.append_attribute("fill") = "none";
    path.append_attribute("stroke") = ink.c_str();
    path.append_attribute("stroke-width") = fmt::format("{:.2f}", m.radius + m.radiusTo).c_str();
    path.append_attribute("stroke-dasharray") = fmt::format("{:.2f} {:.2f}", m.dash, m.gap).c_str();
    return;
  }
  path.append_attribute("d") = outlineOf(m).c_str();
  path.append_attribute("fill") = ink.c_str();
}

}  // namespace

std::string svgFrom(const Figures& figures, const Inks& inks, double thickness, const std::string& title) {
  pugi::xml_document document;
  auto root = document.append_child("svg");
  root.append_attribute("xmlns") = "http://www.w3.org/2000/svg";
  root.append_attribute("width") = figures.frame.width;
  root.append_attribute("height") = figures.frame.height;
  root.append_attribute("viewBox") = fmt::format("0 0 {} {}", figures.frame.width, figures.frame.height).c_str();
  root.append_child("title").text() = title.c_str();
  auto defs = root.append_child("defs");
  auto ground = root.append_child("rect");
  ground.append_attribute("width") = "100%";
  ground.append_attribute("height") = "100%";
  ground.append_attribute("fill") = hex(inks.background).c_str();
  int gradients = 0;
  for (const auto& figure : figures.figures) {
    auto group = root.append_child("g");
    if (!figure->name.empty()) group.append_child("title").text() = figure->name.c_str();
    for (const Mark& mark : marksOf(*figure, inks, thickness).marks) addMark(group, defs, mark, gradients);
  }
  return textOf(document);
}

}  // namespace hscaffold::pose
