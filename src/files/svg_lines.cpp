#include "files/svg_lines.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <pugixml.hpp>

#include "core/frame/placement.h"
#include "core/problem.h"
#include "files/svg_path.h"

namespace hscaffold {
namespace {

constexpr std::size_t largestDrawing = 64u << 20;
constexpr std::size_t mostShapes = 100'000, mostPoints = 2'000'000;
constexpr int deepest = 100;
constexpr double widest = 400;

/// A `transform` attribute: the listed ones in order.
Affine transformFrom(std::string_view text) {
  Affine all;
  while (true) {
    const auto open = text.find('('), close = text.find(')', open == std::string_view::npos ? 0 : open);
    if (open == std::string_view::npos || close == std::string_view::npos) return all;
    std::string_view name = text.substr(0, open);
    while (!name.empty() && !std::isalpha(static_cast<unsigned char>(name.front()))) name.remove_prefix(1);
    while (!name.empty() && !std::isalpha(static_cast<unsigned char>(name.back()))) name.remove_suffix(1);
    auto v = svgNumbers(text.substr(open + 1, close - open - 1));
    const std::size_t given = v.size();
    v.resize(6, 0.0);
    const double degree = 3.14159265358979323846 / 180;
    if (name == "matrix" && given == 6)
      all = all.after({v[0], v[2], v[4], v[1], v[3], v[5]});
    else if (name == "translate")
      all = all.after({1, 0, v[0], 0, 1, v[1]});
    else if (name == "scale")
      all = all.after({v[0], 0, 0, 0, given > 1 ? v[1] : v[0], 0});
    else if (name == "rotate") {
      const double c = std::cos(v[0] * degree), s = std::sin(v[0] * degree);
      all = all.after({1, 0, v[1], 0, 1, v[2]}).after({c, -s, 0, s, c, 0}).after({1, 0, -v[1], 0, 1, -v[2]});
    } else if (name == "skewX")
      all = all.after({1, std::tan(v[0] * degree), 0, 0, 1, 0});
    else if (name == "skewY")
      all = all.after({1, 0, 0, std::tan(v[0] * degree), 1, 0});
    text.remove_prefix(close + 1);
  }
}

/// What shapes take over from the groups they are in.
struct Pen {
  Affine transform;
  double width = 1;
  bool stroked = false, filled = true;
};

/// A property, from `style` or as an attribute; empty if it is in neither.
std::string_view property(const pugi::xml_node& node, std::string_view name) {
  const std::string_view style = node.attribute("style").value();
  for (std::size_t at = 0; at < style.size();) {
    const std::size_t end = std::min(style.find(';', at), style.size());
    std::string_view entry = style.substr(at, end - at);
    while (!entry.empty() && entry.front() == ' ') entry.remove_prefix(1);
    if (entry.starts_with(name)) {
      entry.remove_prefix(name.size());
      while (!entry.empty() && (entry.front() == ' ' || entry.front() == ':')) {
        const bool colon = entry.front() == ':';
        entry.remove_prefix(1);
        if (colon) {
          while (!entry.empty() && entry.front() == ' ') entry.remove_prefix(1);
          return entry;
        }
      }
    }
    at = end + 1;
  }
  return node.attribute(std::string(name).c_str()).value();
}

class Reader {
 public:
  SvgLines out;
  std::size_t left = 0;  ///< elements that are not lines

  explicit Reader(std::string name) : name_(std::move(name)) {}

  void walk(const pugi::xml_node& node, Pen pen, int depth) {
    if (depth > deepest)
      throw badInput(
          fmt::format("{} has groups in groups, {} deep and more. Nothing of it was taken.", name_, deepest));
    pen.transform = pen.transform.after(transformFrom(node.attribute("transform").value()));
    if (const auto width = svgNumbers(property(node, "stroke-width")); !width.empty())
      pen.width = std::abs(width.front());
    if (const auto stroke = property(node, "stroke"); !stroke.empty()) pen.stroked = stroke != "none";
    if (const auto fill = property(node, "fill"); !fill.empty()) pen.filled = fill != "none";
    if (property(node, "display") == "none" || property(node, "visibility") == "hidden") return;
    const std::string_view name = localName(node.name());
    if (name == "g" || name == "svg" || name == "a") {
      for (const auto& child : node.children()) walk(child, pen, depth + 1);
    } else if (name == "path" || name == "line" || name == "polyline" || name == "polygon" || name == "rect" ||
               name == "circle" || name == "ellipse") {
      add(shape(node, name), pen, node.attribute("data-widths").value());
    } else if (node.type() == pugi::node_element && name != "title" && name != "desc" && name != "metadata" &&
               name != "defs" && name != "style") {
      ++left;
    }
  }

 private:
  static std::string_view localName(std::string_view name) {
    const auto colon = name.rfind(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
  }

  void tooLarge(bool is) const {
    if (is)
      throw badInput(
          fmt::format("{} is too large: drawings of up to {} lines and {} points are read. Nothing of it was taken.",
                      name_, mostShapes, mostPoints));
  }

  std::vector<SvgRun> shape(const pugi::xml_node& node, std::string_view name) {
    const auto value = [&](const char* key) {
      const auto numbers = svgNumbers(node.attribute(key).value());
      return numbers.empty() ? 0.0 : numbers.front();
    };
    if (name == "path") return runsOfPath(node.attribute("d").value(), mostPoints + 1 - std::min(mostPoints, points_));
    if (name == "line") {
      SvgRun run{{{value("x1"), value("y1")}}, false};
      addLine(run, {value("x2"), value("y2")});
      return {run};
    }
    if (name == "circle" || name == "ellipse") {
      const double rx = name == "circle" ? value("r") : value("rx"), ry = name == "circle" ? value("r") : value("ry");
      if (rx <= 0 || ry <= 0) return {};
      return {ellipseRun({value("cx"), value("cy")}, rx, ry)};
    }
    std::vector<double> corners;
    if (name == "rect") {
      const double x = value("x"), y = value("y"), w = value("width"), h = value("height");
      if (w <= 0 || h <= 0) return {};
      corners = {x, y, x + w, y, x + w, y + h, x, y + h};
    } else {
      corners = svgNumbers(node.attribute("points").value());
    }
    if (corners.size() < 4) return {};
    SvgRun run{{{corners[0], corners[1]}}, name != "polyline"};
    for (std::size_t i = 2; i + 1 < corners.size() && points_ + i < mostPoints; i += 2)
      addLine(run, {corners[i], corners[i + 1]});
    if (run.closed) addLine(run, run.points.front());
    return {run};
  }

  void add(const std::vector<SvgRun>& runs, const Pen& pen, std::string_view widthsText) {
    if (!pen.stroked && !pen.filled) return;
    const Affine& m = pen.transform;
    const double scale = std::sqrt(std::abs(m.a * m.e - m.b * m.d));
    const double width = std::clamp((pen.stroked ? pen.width : 1.0) * scale, 0.3, widest);
    for (const SvgRun& run : runs) {
      tooLarge(out.strokes.size() >= mostShapes);
      Stroke stroke;
      stroke.closed = run.closed;
      for (const Point p : run.points) stroke.points.push_back({m.mapX(p.x, p.y), m.mapY(p.x, p.y)});
      const auto sane = [](Point p) { return std::abs(p.x) < 1e6 && std::abs(p.y) < 1e6; };
      if (!std::all_of(stroke.points.begin(), stroke.points.end(), sane)) {
        ++left;
        continue;
      }
      // A line of no length is a dot.
      const auto same = [&](Point p) { return distanceBetween(p, stroke.points.front()) < 1e-9; };
      if (std::all_of(stroke.points.begin(), stroke.points.end(), same)) stroke.points.resize(1);
      stroke.widths.assign(stroke.curves() + 1, width);
      if (const auto given = svgNumbers(widthsText); given.size() == stroke.widths.size())
        std::transform(given.begin(), given.end(), stroke.widths.begin(),
                       [scale](double w) { return std::clamp(std::abs(w) * scale, 0.3, widest); });
      points_ += stroke.points.size();
      tooLarge(points_ > mostPoints);
      out.strokes.push_back(std::make_shared<const Stroke>(std::move(stroke)));
    }
  }

  std::string name_;
  std::size_t points_ = 0;
};

double lengthFrom(const pugi::xml_attribute& attribute) {
  const auto numbers = svgNumbers(attribute.value());
  return numbers.empty() || std::string_view(attribute.value()).ends_with('%') ? 0 : std::abs(numbers.front());
}

}  // namespace

SvgLines readSvgLines(std::span<const std::byte> bytes, const std::string& name, Size frame) {
  if (bytes.size() > largestDrawing)
    throw badInput(
        fmt::format("{} has {} MB; drawings of up to {} MB are read.", name, bytes.size() >> 20, largestDrawing >> 20));
  pugi::xml_document document;
  const auto result = document.load_buffer(bytes.data(), bytes.size(), pugi::parse_minimal | pugi::parse_escapes);
  auto root = document.document_element();
  if (!result || !std::string_view(root.name()).ends_with("svg")) throw badInput(name + " is not an SVG drawing.");
  auto box = svgNumbers(root.attribute("viewBox").value());
  const double width = lengthFrom(root.attribute("width")), height = lengthFrom(root.attribute("height"));
  if (box.size() != 4 || !(box[2] > 0) || !(box[3] > 0))
    box = {0, 0, width > 0 ? width : 768, height > 0 ? height : 512};
  Reader reader(name);
  SvgLines& out = reader.out;
  const auto side = [](double v) { return static_cast<int>(std::lround(std::clamp(v, 16.0, 16384.0))); };
  out.size = frame.area() > 0 ? frame : Size{side(width > 0 ? width : box[2]), side(height > 0 ? height : box[3])};
  const double scale = std::min(out.size.width / box[2], out.size.height / box[3]);
  Pen pen;
  pen.transform = {scale, 0,     (out.size.width - scale * box[2]) / 2 - scale * box[0],
                   0,     scale, (out.size.height - scale * box[3]) / 2 - scale * box[1]};
  reader.walk(root, pen, 0);
  if (out.strokes.empty()) throw badInput(name + " has no lines: its shapes are text, pictures or hidden.");
  if (reader.left > 0)
    out.note = fmt::format("{} thing{} in {} {} not lines and {} left out.", reader.left, reader.left == 1 ? "" : "s",
                           name, reader.left == 1 ? "is" : "are", reader.left == 1 ? "was" : "were");
  return out;
}

}  // namespace hscaffold
