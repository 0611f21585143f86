#include "core/strokes/drawing.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/guides/affine_json.h"
#include "core/guides/json_fields.h"

namespace hscaffold {
namespace {

nlohmann::json drawingToJson(const Drawing& drawing) {
  nlohmann::json strokes = nlohmann::json::array();
  for (const auto& stroke : drawing.strokes) {
    nlohmann::json points = nlohmann::json::array();
    for (const Point& p : stroke->points) {
      points.push_back(p.x);
      points.push_back(p.y);
    }
    strokes.push_back({{"points", std::move(points)}, {"widths", stroke->widths}, {"closed", stroke->closed}});
  }
  return {{"width", drawing.frame.width},
          {"height", drawing.frame.height},
          {"alone", drawing.alone},
          {"placing", affineToJson(drawing.placing)},
          {"strokes", std::move(strokes)}};
}

Drawing drawingFromJson(const nlohmann::json& json) {
  const std::string where = "A drawing in the study";
  JsonFields fields(json, where);
  Drawing drawing;
  drawing.frame = workFrameFrom(fields);
  drawing.alone = fields.flag("alone", false);
  drawing.placing = affineFromJson(fields.child("placing"), where);
  const auto& strokes = fields.child("strokes");
  if (!strokes.is_array()) throw badInput(where + ": \"strokes\" is not a list.");
  for (const auto& entry : strokes) {
    JsonFields one(entry, where);
    const auto numbers = numbersFromJson(one.child("points"), where);
    Stroke stroke;
    for (std::size_t i = 0; i + 1 < numbers.size(); i += 2) stroke.points.push_back({numbers[i], numbers[i + 1]});
    stroke.widths = numbersFromJson(one.child("widths"), where);
    stroke.closed = one.flag("closed", false);
    if (stroke.points.empty() || stroke.points.size() % 3 != 1 || stroke.widths.size() != stroke.curves() + 1)
      throw badInput(where + ": a stroke has a wrong number of points or widths.");
    drawing.strokes.push_back(std::make_shared<const Stroke>(std::move(stroke)));
  }
  return drawing;
}

std::string written(const Drawing& drawing) { return drawingToJson(drawing).dump(); }
Drawing read(const std::string& text) { return drawingFromJson(parseJson(text, "A drawing in the study")); }

}  // namespace

const WorkForm& drawingForm() {
  static const WorkForm form = workForm<Drawing>("drawing", "A drawing", written, read, following);
  return form;
}

Drawing following(const Drawing& drawing, Size frame, const std::optional<Affine>& placing) {
  const Affine back = thenFromNow(drawing.frame, drawing.placing, frame, placing);
  Drawing out = drawing;
  out.frame = frame;
  out.placing = placing;
  if (frame == drawing.frame && isIdentity(back)) return out;
  const Affine forth = back.inverted();
  const double scale = std::sqrt(std::abs(forth.a * forth.e - forth.b * forth.d));
  for (auto& stroke : out.strokes) {
    Stroke moved = *stroke;
    for (Point& p : moved.points) p = {forth.mapX(p.x, p.y), forth.mapY(p.x, p.y)};
    for (double& width : moved.widths) width *= scale;
    stroke = std::make_shared<const Stroke>(std::move(moved));
  }
  return out;
}

}  // namespace hscaffold
