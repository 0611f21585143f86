/// Range: from where to where in the steps a guide acts, and how it rises and falls on the way.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <span>
#include <string>
#include <vector>

namespace hscaffold {

class Mended;

/// A point of a free shape: at this share of the range, so much of the weight. Both [0, 1].
struct ShapePoint {
  double at = 0, share = 1;
  friend bool operator==(const ShapePoint&, const ShapePoint&) = default;
};
inline constexpr std::size_t mostShapePoints = 24;

/// In percent of the way. It rises over `rampIn` percent from `from` on and falls over `rampOut` percent before `to`; 0
/// is a hard end. If the ramps overlap, they share the range. A free shape takes the place of ramps: it goes straight
/// from point to point, and stretches with the range.
struct Range {
  double from = 0, to = 100, rampIn = 0, rampOut = 0;
  std::vector<ShapePoint> shape = {};  ///< at least two, in order, the first at 0 and the last at 1; empty: ramps
  friend bool operator==(const Range&, const Range&) = default;
};

/// How much of its weight a guide has at `percent` of the way, [0, 1].
double rampAt(const Range& range, double percent);
/// The same, mean over the whole way.
double meanRamp(const Range& range);
/// Where step `step` of `steps` stands (its middle), in percent.
inline double stepPercent(int step, int steps) { return 100.0 * (step + 0.5) / steps; }
/// Number of steps at which a range has any effect, whatever the weight.
int stepsCovered(const Range& range, int steps);

/// The points of a range's free shape, or those that its ramps go through.
std::vector<ShapePoint> pointsOf(const Range& range);
/// With one more point on the shape as it is; unchanged where there is one already or there are too many.
Range withPoint(Range range, double percent);
/// Without one of its points; the first and the last stay.
Range withoutPoint(Range range, std::size_t point);
/// One point elsewhere: it stays between its neighbours; the first and the last take the ends of the range along.
Range withPointAt(Range range, std::size_t point, double percent, double share);

/// "0:0.2,40:1,100:0" in percent of the way: the range goes from the first to the last. @throws Problem (badInput)
Range rangeFromText(const std::string& text, const std::string& where);

/// Starting shapes for ranges.
struct RangeShape {
  const char* name;
  Range range;
};
std::span<const RangeShape> rangeShapes();

nlohmann::json rangeToJson(const Range& range);
/// @throws Problem (badInput)
Range rangeFromJson(const nlohmann::json& json, const std::string& where, Mended* mended = nullptr);

}  // namespace hscaffold
