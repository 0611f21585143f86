/// From maps of key points and limbs to figures: sub-pixel peaks, joined along limb fields, best pairs first (Cao et
/// al. 2017).
#pragma once

#include <vector>

#include "core/pose/figure.h"
#include "core/pose/find/maps.h"

namespace hscaffold::pose {

struct DecodeTuning {
  float faintest = 0.12f;       ///< peaks below are none
  float leastLimb = 0.10f;      ///< mean agreement of a limb with its field
  std::size_t leastPoints = 4;  ///< of a figure
  std::size_t mostPeaks = 300;  ///< of each key point: the strongest
};

struct Peak {
  float x = 0, y = 0;  ///< in cells of the map, centres at +0.5
  float strength = 0;
};
/// Places no lower than their eight neighbours, the strongest first.
std::vector<Peak> peaksOf(View<float> heat, float faintest, std::size_t most);

/// How well a limb between two peaks agrees with its field, -1 to 1; below what `tuning` asks for: none.
float agreement(const PointMaps& maps, std::size_t limb, const Peak& from, const Peak& to);

/// Figures in the picture's pixels, confidence of each point as the network has it, the surest figure first.
/// @param scale  pixels of the picture a pixel of what the network saw.
std::vector<Figure> decoded(const PointMaps& maps, const Skeleton& skeleton, double scale,
                            const DecodeTuning& tuning = {});

}  // namespace hscaffold::pose
