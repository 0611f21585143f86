/// What is seen in a picture before depth is guessed: superpixels, how they group into pieces, where the horizon is and
/// where lines run together. Every cue reads this and nothing else.
#pragma once

#include <optional>

#include "core/depth/superpixels.h"

namespace hscaffold::depth {

/// Cells that belong together (graph-based grouping, Felzenszwalb and Huttenlocher 2004); shares of the picture.
struct Piece {
  std::vector<int> cells;
  float area = 0;
  float left = 1, top = 1, right = 0, bottom = 0;  ///< box, [0, 1]
  float onTop = 0, onSides = 0, onBottom = 0;      ///< share of these sides of the frame that it takes up, [0, 1]
  float grain = 0;                                 ///< mean over its cells
  bool sky = false;
};

/// Where straight lines that are neither level nor upright run together, if they do.
struct Vanishing {
  float x = 0.5f, y = 0.5f;  ///< shares of the picture; may lie somewhat outside
  float support = 0;         ///< share of such lines that meet there, [0, 1]
  float closed = 0;          ///< how surely lines come from three corners at least, as in a room, [0, 1]
};

/// Each list of numbers has one a cell.
struct Seen {
  Size size;
  Image<Rgb> picture;  ///< linear
  Image<CieLab> colour;
  Image<float> light;  ///< sRGB-encoded lightness, [0, 1]
  Superpixels patches;
  std::vector<float> x, y;   ///< places of cells, shares of the picture
  std::vector<float> grain;  ///< mean gradient of light a pixel
  std::vector<int> piece;    ///< which piece a cell is in
  std::vector<Piece> pieces;
  float horizon = 0.4f;   ///< share of the height
  float horizonSure = 0;  ///< [0, 1]
  std::optional<Vanishing> vanishing;
};

/// How surely the picture shows a room, [0, 1]: cues of open air do not hold there.
inline float roominess(const Seen& seen) {
  if (!seen.vanishing) return 0;
  const auto within = [](float v) { return v < 0 ? 0.0f : v > 1 ? 1.0f : v; };
  return within(1.6f * seen.vanishing->closed - 0.6f) * within(2 * seen.vanishing->support - 0.5f);
}

/// How near the ground is at a row, [0, 1]: evenly nearer from the horizon down.
inline float groundNear(const Seen& seen, float row) {
  const float below = 1 - seen.horizon > 0.15f ? 1 - seen.horizon : 0.15f,
              near = 0.08f + 0.92f * (row - seen.horizon) / below;
  return near < 0 ? 0.0f : near > 1 ? 1.0f : near;
}

/// The longer side of what is looked at, in pixels: larger pictures are reduced to it.
inline constexpr int seenSide = 384;
inline constexpr int seenCells = 1600;

/// @param picture  linear RGB. @throws Cancelled
Seen seenIn(View<Rgb> picture, StopToken stop = {});

/// From parts of the above, for tests.
std::vector<int> piecesOf(const Superpixels& patches, float scale, int smallest);
std::optional<Vanishing> vanishingOf(View<float> light);

}  // namespace hscaffold::depth
