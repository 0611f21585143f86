/// What a network says of a picture: how likely each key point is where, and which way limbs run (part affinity fields,
/// Cao et al. 2017).
#pragma once

#include <vector>

#include "core/image/image.h"
#include "core/networks/network.h"
#include "core/pose/skeleton.h"

namespace hscaffold::pose {

/// Pairs of key points, by number, in the skeleton's order of bones: what fields there are.
std::vector<std::pair<std::size_t, std::size_t>> limbsOf(const Skeleton& skeleton);
/// How many key points the body itself has; they come first.
std::size_t bodyPointsOf(const Skeleton& skeleton);

/// All images have one size, a `stride`th of the picture's.
struct PointMaps {
  int stride = 4;
  std::vector<Image<float>> heat;         ///< one a key point of the body, about [0, 1]
  std::vector<Image<float>> along, down;  ///< one a limb: its direction to the right and downwards, [-1, 1]
  Image<float> figure;                    ///< where figures are, about [0, 1]
};
/// @param answer  1 x (points + 2 limbs + 1) x H x W. @throws Problem (badInput) for any other shape
PointMaps pointMapsFrom(const networks::Tensor& answer, const Skeleton& skeleton, const std::string& where);
/// The mean of an answer and of the answer to the mirrored picture.
PointMaps withMirrored(PointMaps straight, const PointMaps& mirrored, const Skeleton& skeleton);
/// The mean of what was seen of one part of a picture at several sizes, in the cells of the first.
PointMaps meanOf(const std::vector<PointMaps>& looks);

}  // namespace hscaffold::pose
