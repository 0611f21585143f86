/// How the layout settles over the steps: every field is a pyramid whose bands close one after the other, coarse first.
/// What pulls on a band while it is open ends up in it; what comes later passes it by.
#pragma once

#include <span>
#include <vector>

#include "core/brief/recipe.h"
#include "core/engine/standin/guidance_fields.h"
#include "core/guides/guide.h"
#include "core/image/filter.h"

namespace hscaffold::standin {

/// How open band `band` of `bands` is at `time` (share of the way), [0, 1].
float openness(int band, int bands, float time);
/// Share of a band's target that a guide of this load claims, [0, 1): below 0.3 a hint, at 1 nearly all.
float claim(double load, double guidance);

class Layout {
 public:
  /// @param wanted  what guide i asks for; `guides[i]` has its weight and range.
  Layout(const Composition& prior, std::vector<Wanted> wanted, std::span<const RecipeGuide> guides, double guidance,
         int steps, std::uint64_t seed);

  /// Does one step, 0 to steps - 1 in order.
  void advance(int step);
  /// The fields as they are now. Before the last step, noise is left in the bands that are still open.
  [[nodiscard]] Fields current() const;

 private:
  struct Pull {
    std::array<Pyramid, Fields::count> pyramids;  ///< empty where it does not act
    Guide guide;
    std::vector<Image<float>> where;  ///< how far it acts, for each band; empty: everywhere
  };
  /// What prior and guides make of one row of a band, where all guides act everywhere.
  void blendBand(std::size_t field, std::size_t band, float rate, int step, const std::vector<float>& claims);
  /// The same where guides act in regions.
  void blendBandInRegions(std::size_t field, std::size_t band, float rate, int step, const std::vector<float>& claims);
  [[nodiscard]] float burn(std::size_t guide, std::size_t band, int step) const;
  int steps_;
  double guidance_;
  int bands_ = 0;
  std::array<Pyramid, Fields::count> prior_, state_;
  std::vector<Pull> pulls_;
  std::vector<double> opened_;  ///< per band: sum of openness so far
};

}  // namespace hscaffold::standin
