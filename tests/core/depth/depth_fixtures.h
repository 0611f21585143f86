/// Pictures of known depth for the tests of depth.
#pragma once

#include <vector>

#include "core/depth/depth.h"
#include "core/image/colour.h"
#include "depth_trial.h"
#include "fixtures.h"

namespace depth_fixtures {

using namespace hscaffold;

inline constexpr Size size{240, 160};

/// Any colour at a place, in shares of the picture.
template <typename Colour>
Image<Rgb> drawn(Colour&& colour, Size of = size) {
  Image<Rgb> out(of);
  for (int y = 0; y < of.height; ++y)
    for (int x = 0; x < of.width; ++x)
      out(x, y) = colour((static_cast<float>(x) + 0.5f) / static_cast<float>(of.width),
                         (static_cast<float>(y) + 0.5f) / static_cast<float>(of.height));
  return out;
}

/// The cell at a place, in shares of the picture.
int cellAt(const depth::Seen& seen, float x, float y);
/// Mean of a cue where it is sure, over a part of the picture.
float meanIn(const depth::Seen& seen, const std::vector<float>& values, float left, float top, float right,
             float bottom);

}  // namespace depth_fixtures
