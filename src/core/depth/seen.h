/// What is seen in a picture before depth is guessed: superpixels, how they belong together, where the horizon may be
/// and where lines may run together. Every cue reads this and nothing else. Nothing here is decided for good: what may
/// be is kept with how likely it is, so that a picture that is hardly changed is hardly seen otherwise.
#pragma once

#include <algorithm>
#include <array>

#include "core/depth/superpixels.h"

namespace hscaffold::depth {

/// From 0 at `from` evenly to 1 at `to`.
inline float rising(float v, float from, float to) { return std::clamp((v - from) / (to - from), 0.0f, 1.0f); }

/// Cells that belong together (graph-based grouping, Felzenszwalb and Huttenlocher 2004): for what an artist points at.
/// Cues of depth do not read these, since a hardly changed picture may be grouped otherwise.
struct Piece {
  std::vector<int> cells;
};

/// Where straight lines that are neither level nor upright may run together.
struct Vanishing {
  float x = 0.5f, y = 0.5f;  ///< shares of the picture; may lie somewhat outside
  float support = 0;         ///< share of such lines that meet there, [0, 1]
  float closed = 0;          ///< how surely lines come from three corners at least, as in a room, [0, 1]
  float chance = 0;          ///< that it is here, [0, 1]; what lacks in all to 1: that lines do not run together
};

/// Where the horizon may be: how likely it is in each of so many rows.
class Horizon {
 public:
  static constexpr int rows = 64;
  Horizon();
  /// @param chances  of each row, to any sum; all 0: nothing is known. @param sure  [0, 1]
  Horizon(std::array<double, rows> chances, double sure);

  [[nodiscard]] float row() const { return row_; }    ///< mean, share of the height
  [[nodiscard]] float sure() const { return sure_; }  ///< how plainly there is one, [0, 1]
  /// How likely it lies above such a row, [0, 1].
  [[nodiscard]] float above(float row) const { return at(above_, row); }
  /// How near the ground is at a row, [0, 1]: evenly nearer from the horizon down.
  [[nodiscard]] float groundNear(float row) const { return at(near_, row); }

 private:
  using Table = std::array<float, rows + 1>;
  static float at(const Table& table, float row);
  Table above_{}, near_{};
  float row_ = 0.4f, sure_ = 0;
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
  std::vector<double> ties;  ///< one a border: `tiesOf`
  std::vector<float> sky;    ///< how surely a cell is sky, [0, 1]
  std::vector<float> borne;  ///< how likely what it belongs to comes from the lower edge or the sides, not from the top
  /// Of what a cell belongs to: its foot and its head, how broad and how tall it is; shares of the picture.
  std::vector<float> foot, head, broad, tall;
  std::vector<int> piece;  ///< which piece a cell is in
  std::vector<Piece> pieces;
  Horizon horizon;
  std::vector<Vanishing> vanishing;  ///< likeliest first
};

/// How surely lines that run to this place bound a room, [0, 1].
inline float roominess(const Vanishing& meet) {
  const auto within = [](float v) { return v < 0 ? 0.0f : v > 1 ? 1.0f : v; };
  return within(1.6f * meet.closed - 0.6f) * within(2 * meet.support - 0.5f);
}
/// How surely the picture shows a room, [0, 1]: cues of open air do not hold there.
inline float roominess(const Seen& seen) {
  float out = 0;
  for (const Vanishing& meet : seen.vanishing) out += meet.chance * roominess(meet);
  return out;
}

/// The longer side of what is looked at, in pixels: larger pictures are reduced to it.
inline constexpr int seenSide = 384;
inline constexpr int seenCells = 1600;

/// @param picture  linear RGB. @throws Cancelled
Seen seenIn(View<Rgb> picture, StopToken stop = {});

/// From parts of the above, for tests.
std::vector<int> piecesOf(const Superpixels& patches, float scale, int smallest);
std::vector<Vanishing> vanishingIn(View<float> light);

}  // namespace hscaffold::depth
