/// Whether two maps can be obeyed at once: where both ask for something, and not for the same.
#pragma once

#include <map>
#include <memory>
#include <optional>

#include "core/guides/kind.h"
#include "core/measure/missed_places.h"

namespace hscaffold {

/// A map as it is compared with others: small.
struct MapSketch {
  Image<std::uint8_t> borders;  ///< 255 where a line or a leap is; at most 192 pixels long; empty: says nothing of them
  double stray = 0;             ///< how far off the true ones may lie, in pixels of `borders`
  Image<float> values;          ///< low band, [0, 1], at most 48 pixels long; only for half tones
  Image<float> acts;            ///< how far it acts there, [0, 1]; of the size of `values`
  std::string kind;
  Size frame;
};
/// @throws Cancelled
MapSketch sketchOf(const Kind& kind, const GuideInput& input, StopToken stop = {});

struct Contradiction {
  double share = 0;   ///< of what both ask for in one place, [0, 1]
  MissedPlace place;  ///< where most
  bool ofBorders = false;
};

/// Borders: in the blocks in which both have some, those of the one should lie near those of the other, or as near as
/// they may stray, more often than by chance (boundary recall of either in the other, against the same moved aside; the
/// better of the two counts, so that a part of the other's borders is no contradiction). Half tones of one kind should
/// at least not run against one another (linear correlation of low bands). Empty where they agree, or have nothing to
/// do with one another.
std::optional<Contradiction> contradictionBetween(const MapSketch& a, const MapSketch& b);

/// What was found out about pairs of maps, kept as long as the maps are.
class MapPairs {
 public:
  const std::optional<Contradiction>& between(const std::shared_ptr<const MapSketch>& a,
                                              const std::shared_ptr<const MapSketch>& b);

 private:
  struct Known {
    std::weak_ptr<const MapSketch> a, b;
    std::optional<Contradiction> found;
  };
  std::map<std::pair<const MapSketch*, const MapSketch*>, Known> known_;
};

}  // namespace hscaffold
