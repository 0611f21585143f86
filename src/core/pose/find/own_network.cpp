#include "core/pose/find/own_network.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/guides/json_fields.h"
#include "core/image/atomic_file.h"
#include "core/pose/find/cut_out.h"
#include "core/pose/find/decode.h"
#include "core/pose/find/network_finder.h"

namespace hscaffold::pose {
namespace {

/// Room about a box, so that nothing of the figure is cut.
constexpr double room = 1.25;

KeyPoint pointAt(double u, double v, double sure, const Bounds& part) {
  KeyPoint out;
  out.at = {part.left + u * part.width(), part.top + v * part.height()};
  out.presence = Presence::seen;
  out.confidence = std::clamp(sure, 0.0, 1.0);
  return out;
}

/// The highest place of each map.
std::vector<std::optional<KeyPoint>> pointsOfMaps(const networks::Tensor& answer, const Bounds& part) {
  const int height = answer.shape[2], width = answer.shape[3];
  std::vector<std::optional<KeyPoint>> out;
  for (int p = 0; p < answer.shape[1]; ++p) {
    Image<float> map(width, height);
    const auto begin = answer.values.begin() + std::ptrdiff_t{p} * width * height;
    for (int y = 0; y < height; ++y) std::copy_n(begin + std::ptrdiff_t{y} * width, width, map.row(y));
    const auto peaks = peaksOf(map, 1e-6f, 1);
    out.push_back(peaks.empty() ? std::nullopt
                                : std::optional(pointAt(static_cast<double>(peaks[0].x) / width,
                                                        static_cast<double>(peaks[0].y) / height,
                                                        static_cast<double>(peaks[0].strength), part)));
  }
  return out;
}

std::vector<std::optional<KeyPoint>> pointsOfRows(const networks::Tensor& answer, const PointAnswer& how,
                                                  const Bounds& part) {
  const auto columns = static_cast<std::size_t>(answer.shape.back());
  const double across = how.inPixels ? how.input.size.width : 1, down = how.inPixels ? how.input.size.height : 1;
  std::vector<std::optional<KeyPoint>> out;
  for (std::size_t p = 0; p < how.points.size(); ++p) {
    const float* row = answer.values.data() + p * columns;
    if (std::isfinite(row[0]) && std::isfinite(row[1]))
      out.emplace_back(pointAt(static_cast<double>(row[0]) / across, static_cast<double>(row[1]) / down,
                               columns > 2 ? static_cast<double>(row[2]) : 1.0, part));
    else
      out.emplace_back();
  }
  return out;
}

/// Whether the answer has the shape that its description says.
bool fits(const networks::Tensor& answer, const PointAnswer& how) {
  const auto& shape = answer.shape;
  const auto count = static_cast<int>(how.points.size());
  if (how.form == PointAnswer::Form::maps)
    return shape.size() == 4 && shape[0] == 1 && shape[1] == count && shape[2] > 1 && shape[3] > 1;
  if (shape.size() < 2 || (shape.back() != 2 && shape.back() != 3)) return false;
  int rows = 1;
  for (std::size_t d = 0; d + 1 < shape.size(); ++d) rows *= shape[d];
  return rows == count;
}

}  // namespace

PointAnswer pointAnswerFrom(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  PointAnswer out;
  out.input = networks::inputFormFrom(fields, where);
  out.skeleton = fields.text("skeleton", "human");
  const auto& skeleton = skeletonOf(out.skeleton, where);
  const auto& names = fields.child("points");
  if (!names.is_array() || names.empty()) throw badInput(where + ": \"points\" is no list of names.");
  for (const auto& name : names) {
    if (!name.is_string()) throw badInput(where + ": \"points\" is no list of names.");
    const auto id = name.get<std::string>();
    const auto point = id.empty() ? std::nullopt : skeleton.find(id);
    if (!id.empty() && !point)
      throw badInput(fmt::format("{}: the skeleton {} has no point \"{}\".", where, out.skeleton, id));
    out.points.push_back(point);
  }
  const std::string means = fields.text("means", "maps"), unit = fields.text("unit", "share");
  if (means != "maps" && means != "points") throw badInput(where + ": \"means\" is neither maps nor points.");
  if (unit != "share" && unit != "pixels") throw badInput(where + ": \"unit\" is neither share nor pixels.");
  out.form = means == "maps" ? PointAnswer::Form::maps : PointAnswer::Form::points;
  out.inPixels = unit == "pixels";
  fields.refuseOthers();
  return out;
}

std::optional<Figure> figureFrom(const networks::Tensor& answer, const PointAnswer& how, const Bounds& part,
                                 const std::string& where, double faintest) {
  if (!fits(answer, how))
    throw badInput(fmt::format("{} answers with {}, which is not {} {}.", where, fmt::join(answer.shape, " x "),
                               how.points.size(), how.form == PointAnswer::Form::maps ? "maps" : "points"));
  const auto found = how.form == PointAnswer::Form::maps ? pointsOfMaps(answer, part) : pointsOfRows(answer, how, part);
  Figure out;
  out.skeleton = how.skeleton;
  out.points.resize(skeletonOf(how.skeleton).points.size());
  bool any = false;
  for (std::size_t p = 0; p < found.size(); ++p) {
    if (!how.points[p] || !found[p] || found[p]->confidence < faintest) continue;
    out.points[*how.points[p]] = *found[p];
    any = true;
  }
  return any ? std::optional(std::move(out)) : std::nullopt;
}

std::vector<Figure> OwnNetworkFinder::find(View<Rgb> picture, StopToken stop) {
  const std::string file = onnx_.filename().string();
  const auto how = pointAnswerFrom(networks::descriptionBeside(onnx_), file + "'s description");
  networks::Network network(readWholeFile(onnx_), file);
  std::vector<Figure> out;
  const Bounds whole{0, 0, static_cast<double>(picture.width()), static_cast<double>(picture.height())};
  const auto look = [&](const Bounds& part) {
    throwIfStopped(stop);
    const Image<Rgb> seen = cutOut(picture, part);
    const Bounds cut{std::floor(part.left), std::floor(part.top), std::floor(part.left) + seen.width(),
                     std::floor(part.top) + seen.height()};
    if (auto figure = figureFrom(network.run(networks::inputFrom(seen, how.input), stop).front(), how, cut, file))
      out.push_back(std::move(*figure));
  };
  std::vector<Bounds> boxes = boxes_;
  // Where people are, the network that comes with the program knows.
  if (boxes.empty() && soughtAs(how.skeleton) && canFind(*soughtAs(how.skeleton)))
    for (const Figure& figure : NetworkFinder({.sought = *soughtAs(how.skeleton)}).find(picture, stop))
      if (const auto box = boundsOf(figure)) boxes.push_back(*box);
  if (boxes.empty()) look(whole);
  for (const Bounds& box : boxes) {
    // As broad and high as what the network takes in.
    const double ratio = static_cast<double>(how.input.size.width) / how.input.size.height;
    const double height = room * std::max(box.height(), box.width() / ratio), width = height * ratio;
    const Point middle = box.middle();
    look({middle.x - width / 2, middle.y - height / 2, middle.x + width / 2, middle.y + height / 2});
  }
  return out;
}

}  // namespace hscaffold::pose
