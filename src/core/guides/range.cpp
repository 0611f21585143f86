#include "core/guides/range.h"

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

#include "core/guides/json_fields.h"
#include "core/number_text.h"

namespace hscaffold {
namespace {

/// The lengths of the ramps as they fit into the range, in percent.
std::pair<double, double> fittingRamps(const Range& range) {
  const double length = std::max(0.0, range.to - range.from), both = range.rampIn + range.rampOut;
  const double share = both > length && both > 0 ? length / both : 1;
  return {range.rampIn * share, range.rampOut * share};
}

double shareAt(const std::vector<ShapePoint>& shape, double at) {
  for (std::size_t i = 1; i < shape.size(); ++i) {
    const ShapePoint &a = shape[i - 1], &b = shape[i];
    if (at > b.at) continue;
    return b.at > a.at ? a.share + (b.share - a.share) * std::max(0.0, at - a.at) / (b.at - a.at) : b.share;
  }
  return shape.back().share;
}

}  // namespace

double rampAt(const Range& range, double percent) {
  if (percent < range.from || percent > range.to) return 0;
  if (!range.shape.empty()) {
    const double length = range.to - range.from;
    return shareAt(range.shape, length > 0 ? (percent - range.from) / length : 0);
  }
  const auto [in, out] = fittingRamps(range);
  const double rise = in > 0 ? (percent - range.from) / in : 1;
  const double fall = out > 0 ? (range.to - percent) / out : 1;
  return std::clamp(std::min(rise, fall), 0.0, 1.0);
}

double meanRamp(const Range& range) {
  const double length = std::max(0.0, range.to - range.from);
  if (range.shape.empty()) {
    const auto [in, out] = fittingRamps(range);
    return (length - in / 2 - out / 2) / 100;
  }
  double sum = 0;
  for (std::size_t i = 1; i < range.shape.size(); ++i)
    sum += (range.shape[i].at - range.shape[i - 1].at) * (range.shape[i].share + range.shape[i - 1].share) / 2;
  return sum * length / 100;
}

int stepsCovered(const Range& range, int steps) {
  int count = 0;
  for (int step = 0; step < steps; ++step) count += rampAt(range, stepPercent(step, steps)) > 0 ? 1 : 0;
  return count;
}

std::vector<ShapePoint> pointsOf(const Range& range) {
  if (!range.shape.empty()) return range.shape;
  const auto [in, out] = fittingRamps(range);
  const double length = range.to - range.from;
  std::vector<ShapePoint> points;
  if (length > 0 && in > 0) points.push_back({0, 0});
  points.push_back({length > 0 ? in / length : 0, 1});
  if (const double fall = length > 0 ? 1 - out / length : 1; fall > points.back().at) points.push_back({fall, 1});
  if (length > 0 && out > 0) points.push_back({1, 0});
  return points;
}

Range withPoint(Range range, double percent) {
  const double length = range.to - range.from;
  auto points = pointsOf(range);
  const double at = length > 0 ? (percent - range.from) / length : 0;
  constexpr double apart = 0.01;
  const bool taken =
      std::any_of(points.begin(), points.end(), [&](const ShapePoint& p) { return std::abs(p.at - at) < apart; });
  if (taken || at <= 0 || at >= 1 || points.size() >= mostShapePoints) return range;
  const ShapePoint fresh{at, shareAt(points, at)};
  points.insert(std::upper_bound(points.begin(), points.end(), at,
                                 [](double value, const ShapePoint& p) { return value < p.at; }),
                fresh);
  range.shape = std::move(points);
  return range;
}

Range withoutPoint(Range range, std::size_t point) {
  if (point == 0 || point + 1 >= range.shape.size()) return range;
  range.shape.erase(range.shape.begin() + static_cast<std::ptrdiff_t>(point));
  return range;
}

Range withPointAt(Range range, std::size_t point, double percent, double share) {
  if (point >= range.shape.size()) return range;
  const double length = range.to - range.from;
  ShapePoint& moved = range.shape[point];
  moved.share = std::clamp(share, 0.0, 1.0);
  if (point == 0)
    range.from = std::clamp(percent, 0.0, range.to);
  else if (point + 1 == range.shape.size())
    range.to = std::clamp(percent, range.from, 100.0);
  else if (length > 0)
    moved.at = std::clamp((percent - range.from) / length, range.shape[point - 1].at, range.shape[point + 1].at);
  return range;
}

Range rangeFromText(const std::string& text, const std::string& where) {
  struct Given {
    double percent, share;
  };
  std::vector<Given> points;
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t comma = std::min(text.find(',', at), text.size());
    const std::string pair = text.substr(at, comma - at);
    const std::size_t colon = pair.find(':');
    const auto percent = numberFrom(std::string_view(pair).substr(0, colon)),
               share = colon != std::string::npos ? numberFrom(std::string_view(pair).substr(colon + 1)) : std::nullopt;
    if (!percent || !share || *percent < 0 || *percent > 100 || *share < 0 || *share > 1 ||
        (!points.empty() && *percent < points.back().percent))
      throw badInput(where + ": \"" + text +
                     "\" is not like 0:0.2,40:1,100:0 with percent of the way, rising, and shares of the weight from 0 "
                     "to 1.");
    points.push_back({*percent, *share});
    at = comma + 1;
  }
  const double length = points.back().percent - points.front().percent;
  if (points.size() < 2 || points.size() > mostShapePoints || length <= 0)
    throw badInput(where + ": a free shape has from 2 to " + std::to_string(mostShapePoints) +
                   " points, and the last is beyond the first.");
  Range range{points.front().percent, points.back().percent, 0, 0};
  for (const Given& p : points) range.shape.push_back({(p.percent - range.from) / length, p.share});
  return range;
}

std::span<const RangeShape> rangeShapes() {
  static const std::array<RangeShape, 4> shapes = {{{"Whole way", {0, 100, 0, 0}},
                                                    {"Opening only", {0, 25, 0, 10}},
                                                    {"Late entry", {40, 100, 10, 0}},
                                                    {"Fade out", {0, 80, 0, 60}}}};
  return shapes;
}

nlohmann::json rangeToJson(const Range& range) {
  nlohmann::json json{{"from", range.from}, {"to", range.to}, {"ramp-in", range.rampIn}, {"ramp-out", range.rampOut}};
  for (const ShapePoint& point : range.shape) json["shape"].push_back({point.at, point.share});
  return json;
}

namespace {

std::vector<ShapePoint> shapeFromJson(const nlohmann::json& points, const std::string& where) {
  if (!points.is_array() || points.size() < 2 || points.size() > mostShapePoints)
    throw badInput(where + ": \"shape\" is a list of 2 to " + std::to_string(mostShapePoints) + " points.");
  std::vector<ShapePoint> shape;
  for (const auto& point : points) {
    const auto values = numbersFromJson(point, where + ", \"shape\"", 2);
    const double before = shape.empty() ? 0 : shape.back().at;
    shape.push_back({values[0], values[1]});
    if (values[0] < before || values[0] > 1 || values[1] < 0 || values[1] > 1)
      throw badInput(where + ": the points of \"shape\" rise from 0 to 1, with shares from 0 to 1.");
  }
  if (shape.front().at != 0 || shape.back().at != 1) throw badInput(where + ": \"shape\" begins at 0 and ends at 1.");
  return shape;
}

}  // namespace

Range rangeFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  Range range;
  range.from = fields.number("from", limits::percent);
  range.to = fields.number("to", limits::rangeEnd);
  range.rampIn = fields.number("ramp-in", limits::percent, 0.0);
  range.rampOut = fields.number("ramp-out", limits::percent, 0.0);
  if (fields.has("shape")) readOrLeaveOut(mended, [&] { range.shape = shapeFromJson(fields.child("shape"), where); });
  fields.refuseOthers();
  if (range.to < range.from) {
    fields.wrong("to", "comes before \"from\"", "The range ends where it begins.");
    range.to = range.from;
  }
  return range;
}

}  // namespace hscaffold
