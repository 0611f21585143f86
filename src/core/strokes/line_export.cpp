#include "core/strokes/line_export.h"

#include <fmt/format.h>

#include <algorithm>
#include <pugixml.hpp>

#include "core/image/xml_text.h"
#include "core/strokes/drawing.h"
#include "core/strokes/trace.h"

namespace hscaffold {
namespace {

/// Two decimals, without idle zeros.
std::string brief(double value) {
  std::string text = fmt::format("{:.2f}", value);
  while (text.back() == '0') text.pop_back();
  if (text.back() == '.') text.pop_back();
  return text == "-0" ? "0" : text;
}

}  // namespace

std::string svgFrom(const std::vector<std::shared_ptr<const Stroke>>& strokes, Size size, const std::string& title) {
  pugi::xml_document document;
  auto root = document.append_child("svg");
  root.append_attribute("xmlns") = "http://www.w3.org/2000/svg";
  root.append_attribute("width") = size.width;
  root.append_attribute("height") = size.height;
  root.append_attribute("viewBox") = fmt::format("0 0 {} {}", size.width, size.height).c_str();
  root.append_child("title").text() = title.c_str();
  auto group = root.append_child("g");
  group.append_attribute("fill") = "none";
  group.append_attribute("stroke") = "#000";
  group.append_attribute("stroke-linecap") = "round";
  group.append_attribute("stroke-linejoin") = "round";
  for (const auto& stroke : strokes) {
    const auto place = [](Point p) { return brief(p.x) + " " + brief(p.y); };
    std::string d = "M" + place(stroke->points.front());
    for (std::size_t i = 1; i + 2 < stroke->points.size(); i += 3)
      d += "C" + place(stroke->points[i]) + " " + place(stroke->points[i + 1]) + " " + place(stroke->points[i + 2]);
    if (stroke->points.size() == 1) d += "l0 0";
    if (stroke->closed) d += "Z";
    auto path = group.append_child("path");
    path.append_attribute("d") = d.c_str();
    path.append_attribute("stroke-width") = brief(meanWidth(*stroke)).c_str();
    const auto [narrow, wide] = std::minmax_element(stroke->widths.begin(), stroke->widths.end());
    if (*wide - *narrow < 0.05) continue;
    std::string widths;
    for (const double width : stroke->widths) widths += (widths.empty() ? "" : " ") + brief(width);
    path.append_attribute("data-widths") = widths.c_str();
  }
  return textOf(document);
}

MapExport strokesAsSvg(KeepStrokes keep) {
  return {".svg", "SVG strokes", [keep](const ExportAsk& ask) {
            const auto drawing = ask.input.work.get<Drawing>(drawingSlot);
            const bool asTheyAre = keep == KeepStrokes::asTheyAre && drawing && drawing->alone &&
                                   !ask.guide.work.has(retouchSlot) && !ask.guide.limited();
            if (asTheyAre) return svgFrom(drawing->strokes, ask.frame, ask.title);
            TraceTuning tuning;
            tuning.tolerance = ask.tolerance;
            return svgFrom(traced(ask.input.map, tuning).strokes, ask.frame, ask.title);
          }};
}

}  // namespace hscaffold
