/// What a single hint of nature says of depth, cell by cell, and how surely. Each cue stands in a file of its own.
#pragma once

#include <span>

#include "core/depth/seen.h"

namespace hscaffold::depth {

struct Cue {
  std::vector<float> near;  ///< one a cell: 1 nearest, 0 farthest
  std::vector<float> sure;  ///< one a cell: 0 says nothing, 1 as sure as this cue ever is
};

/// Lower in the picture is nearer, and the middle nearer than the rim.
Cue placeCue(const Seen& seen);
/// Below the horizon lies ground that runs away from the eye; the sky above is farthest.
Cue groundCue(const Seen& seen);
/// What stands on the ground is as far as its foot.
Cue footCue(const Seen& seen);
/// In a room floor, walls and ceiling come nearer away from where their lines meet.
Cue roomCue(const Seen& seen);
/// Haze veils what is far: the darkest of the channels grows light there (dark channel, He et al. 2009).
Cue hazeCue(const Seen& seen);
/// How much speaks for haze over all of the picture, [0, 1]: nothing in it is dark, and nothing stands out.
double veilOver(const Seen& seen);
/// What is out of focus lies behind what is sharp; blur at edges from a second blurring (Zhuo and Sim 2011).
Cue focusCue(const Seen& seen);
/// What differs from all that reaches the sides of the frame stands in front of it (geodesic saliency, Wei et al.
/// 2012).
Cue frontCue(const Seen& seen);

/// What a network of our own guesses, which was taught on drawn scenes (models/README.md). Says nothing where it is not
/// installed.
Cue networkCue(const Seen& seen);

struct NamedCue {
  const char* id;  ///< in tables and the fitting program
  Cue (*make)(const Seen&);
  float weight;  ///< against the others; from training/fit_depth
};
std::span<const NamedCue> cues();
inline constexpr const char* networkCueId = "network";

/// What they come to together.
struct Guess {
  std::vector<float> near;    ///< weighted mean, [0, 1]
  std::vector<float> weight;  ///< how hard the cues hold a cell where it is
  std::vector<float> spread;  ///< how far they contradict one another: standard deviation
};
Guess joined(std::span<const Cue> cues, std::span<const float> weights);

}  // namespace hscaffold::depth
