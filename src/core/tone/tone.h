/// Tone maps: the large-scale light of a picture, taken from it by edge-preserving smoothing (guided filter,
/// He et al. 2010), then levels; with colours where they are asked for.
#pragma once

#include "core/guides/tuning.h"
#include "core/image/image.h"
#include "core/problem.h"
#include "core/tone/light_table.h"

namespace hscaffold {

struct ToneTuning {
  double scale = 3;               ///< size of what is smoothed away, in percent of the longer side, [0.2, 12]
  double softness = 30;           ///< contrast of what is smoothed away, in percent, [1, 100]
  double black = 0, white = 100;  ///< levels, percent of graded light: what becomes black, what white
  double contrast = 1;            ///< about middle grey, [0.2, 3]
  double brightness = 0;          ///< added, [-0.5, 0.5]
  double blur = 0;                ///< of light and colours as a mood: sigma, percent of the longer side, [0, 40]
  bool colours = false;           ///< the picture's colours go along, smoothed as its light is
};
const TuningFields& toneTuningFields();
ToneTuning toneTuningFrom(const Tuning& tuning);

/// @param picture  linear RGB, [0, 1].
/// @return H x W, sRGB-encoded lightness, [0, 1]. @throws Cancelled
Image<float> extractTone(View<Rgb> picture, const ToneTuning& tuning, StopToken stop = {});
/// The same with its colours, if they are asked for.
light::Lit extractLit(View<Rgb> picture, const ToneTuning& tuning, StopToken stop = {});

}  // namespace hscaffold
