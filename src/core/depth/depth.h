/// Depth of a picture: a first guess from cues, moved by hints, brought to the frame's size, then toned.
#pragma once

#include <memory>

#include "core/depth/estimate.h"
#include "core/depth/hints.h"
#include "core/depth/lift.h"
#include "core/guides/tuning.h"

namespace hscaffold::depth {

/// What the picture is taken for: some cues are believed more, others not at all. Flat: nothing is guessed. Finished:
/// the picture is a depth map, light is near.
enum class Scene { automatic, land, room, closeUp, flat, finished };
/// Spreads values: even, more of them for what is near, more for what is far, or both ends drawn in.
enum class Curve { even, near, far, middle };

struct DepthTuning {
  Scene scene = Scene::automatic;
  double farCut = 0, nearCut = 1;  ///< [0, 1]: what lies beyond them is black, or white
  Curve curve = Curve::even;
  double localContrast = 0;  ///< [0, 1]
  double smooth = 0;         ///< radius in pixels, [0, 40]; edges of the picture are kept
  bool inverted = false;     ///< near is black
};
const TuningFields& depthTuningFields();
DepthTuning depthTuningFrom(const Tuning& tuning);

/// What is seen in a picture and what the cues say of it.
struct Reading {
  Seen seen;
  std::vector<Cue> cues;  ///< in the order of `cues()`
};
/// @param picture   linear RGB.
/// @param networks  whether our own network is asked, too: where many pictures are read, it takes most of the time.
/// @throws Cancelled
Reading readingOf(View<Rgb> picture, StopToken stop = {}, bool networks = true);

/// All that follows from the picture alone; made once and kept while hints and tuning change.
struct Ground : Reading {
  LiftGuide guide;
  double haze = 0;  ///< how much speaks for haze, [0, 1]
};
/// @param picture  linear RGB, frame size. @throws Cancelled
std::shared_ptr<const Ground> groundOf(View<Rgb> picture, StopToken stop = {});

/// The first depth, for what the picture is taken for.
/// @param estimate  of a network, in the picture's frame; null: there is none. Finished maps need none. @throws
/// Cancelled
Solution guessed(const Reading& reading, Scene scene, const Estimate* estimate = nullptr, StopToken stop = {});
/// From cells to the frame's size. A finished map keeps its own values, moved as far as hints moved its cells.
/// @param picture  that `ground` was made from, linear RGB. @throws Cancelled
Image<float> nearnessOf(const Ground& ground, Scene scene, View<Rgb> picture, const Solution& first,
                        const Solution& solution, StopToken stop = {});

/// From the solved depth to what the artist sees; frame size, [0, 1]. @throws Cancelled
Image<float> toned(Image<float> near, const DepthTuning& tuning, const LiftGuide& guide, StopToken stop = {});

}  // namespace hscaffold::depth
