/// A guide: a control map with its weight and its range. Load: what all guides together ask of one step.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <set>
#include <span>
#include <string>
#include <vector>

#include "core/guides/tuning.h"
#include "core/guides/work.h"

namespace hscaffold {

/// From where to where in the steps a guide acts, in percent of the way. It rises over `rampIn` percent from `from` on
/// and falls over `rampOut` percent before `to`; 0 is a hard end. If the ramps overlap, they share the range.
struct Range {
  double from = 0, to = 100, rampIn = 0, rampOut = 0;
  friend bool operator==(const Range&, const Range&) = default;
};

inline constexpr double largestWeight = 2;

/// How the mask painted in a guide's region slot limits it.
struct Region {
  bool inverted = false;  ///< acts where the mask is not
  double feather = 0;     ///< softening of its border: sigma in pixels, [0, 256]
  friend bool operator==(const Region&, const Region&) = default;
};
inline constexpr double largestFeather = 256;

struct Guide {
  std::string id;    ///< unique in the study
  std::string kind;  ///< id in the kinds registry: "edges", "tone"
  std::string name;
  std::string reference;  ///< id of the reference it is extracted from; empty for a guide that is only drawn
  bool on = true;
  double weight = 1;  ///< [0, 2], 1 is plain
  Range range;
  Tuning tuning;
  WorkNames work;  ///< its hand work, by slot
  bool retouchHidden = false;
  Region region;
  std::string words;  ///< what was put into the prompt for it and is kept up to date; empty: nothing
  std::string extra;  ///< fields of newer versions, carried along as JSON; empty: none
  friend bool operator==(const Guide&, const Guide&) = default;

  /// Without a mask a guide acts everywhere.
  [[nodiscard]] bool limited() const { return work.has(regionSlot); }
  void clearRegion() {
    work.clear(regionSlot);
    region = {};
  }
};

/// How much of its weight a guide has at `percent` of the way, [0, 1].
double rampAt(const Range& range, double percent);
/// Where step `step` of `steps` stands (its middle), in percent.
inline double stepPercent(int step, int steps) { return 100.0 * (step + 0.5) / steps; }
/// Weight x ramp at a step; 0 if the guide is off.
double loadAt(const Guide& guide, int step, int steps);
/// Sum over the guides, at every step.
std::vector<double> totalLoad(std::span<const Guide> guides, int steps);
/// Number of steps at which the guide's range has any effect, whatever its weight.
int stepsCovered(const Range& range, int steps);

/// Up to this sum of loads guides usually leave the prompt room; a study may have a line of its own.
inline constexpr double comfortableLoad = 1.5;
inline constexpr double largestComfort = 4;
/// Whether a guide is drowned at all its steps: the others reach `comfort` without it, and its share of the whole is
/// less than a quarter.
bool isDrowned(std::span<const Guide> guides, std::size_t which, int steps, double comfort);

/// Sets the weight of guide `changed` and, as far as they can, the others' so that the sum of weight x covered share of
/// the way stays what it was ("keep total"). Guides that are off, and those named in `held`, are left alone.
void setWeightKeepingTotal(std::vector<Guide>& guides, std::size_t changed, double weight,
                           const std::set<std::string>& held = {});

/// Starting shapes for ranges.
struct RangeShape {
  const char* name;
  Range range;
};
std::span<const RangeShape> rangeShapes();

nlohmann::json rangeToJson(const Range& range);
/// @throws Problem (badInput)
Range rangeFromJson(const nlohmann::json& json, const std::string& where);

}  // namespace hscaffold
