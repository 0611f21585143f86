/// From the plan to a picture, by medium.
#pragma once

#include "core/engine/standin/noise.h"
#include "core/engine/standin/plan.h"
#include "core/problem.h"

namespace hscaffold::standin {

/// Linear light, [0, 1]. The same plan and seed give the same picture, however many threads work on it.
/// @throws Cancelled
Image<Rgb> painted(const Plan& plan, const Wishes& wishes, std::uint64_t seed, StopToken stop);

/// How far round a place its paint is made from, where a picture of 768 has a pixel: blurs and smears end there, long
/// strokes for the most part.
float reachOfMedium(Medium medium);

/// The plan itself as a picture, with no handwork: what previews show.
Image<Rgb> planPicture(const Plan& plan);

// The media, each in a file of its own.
Image<Rgb> paintedInStrokes(const Plan& plan, bool oil, float roughness, std::uint64_t seed, StopToken stop);
Image<Rgb> paintedInWashes(const Plan& plan, std::uint64_t seed, StopToken stop);
Image<Rgb> drawnInInk(const Plan& plan, std::uint64_t seed, StopToken stop);
Image<Rgb> cutInWood(const Plan& plan, std::uint64_t seed, StopToken stop);
Image<Rgb> drawnInPencil(const Plan& plan, std::uint64_t seed, StopToken stop);
Image<Rgb> printedInScreens(const Plan& plan, std::uint64_t seed, StopToken stop);
Image<Rgb> photographed(const Plan& plan, std::uint64_t seed, StopToken stop);

/// Lightness of the plan, [0, 1].
Image<float> lightnessOf(const Plan& plan);
/// The same, exposed for drawing on paper: few places stay as dark as ink, and there is some bare paper.
Image<float> drawnLightnessOf(const Plan& plan);
/// Paper: a fine uneven surface about 0.5, the same for a frame size and seed. Quickest along rows.
class PaperGrain {
 public:
  explicit PaperGrain(std::uint64_t seed) : middle_(seed), fine_(seed + 1), broad_(seed + 2) {}
  /// @param x, y  pixels of the whole picture
  float at(float x, float y);

 private:
  NoiseWalk middle_, fine_, broad_;
};

}  // namespace hscaffold::standin
