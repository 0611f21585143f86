/// Mood: colours and distribution of light of a picture, without its layout.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/image/colour.h"
#include "core/image/image.h"
#include "core/limits.h"
#include "core/problem.h"

namespace hscaffold::mood {

/// Where the colours of a mood go.
enum class Sorting {
  asItLies,  ///< where they are in their own picture, blurred
  byLight,   ///< into the layout of another picture, in its order of lightness (monotone)
  byColour,  ///< the same, hues matched in their distribution (sliced Wasserstein)
  byDepth    ///< from the upper part of the mood to what is far, from its lower part to what is near
};
/// In files and on the command line: "as-it-lies", "by-light", "by-colour", "by-depth".
const char* idOf(Sorting sorting);
std::optional<Sorting> sortingNamed(const std::string& id);

struct MoodTuning {
  double blur = 8;  ///< sigma in percent of the longer side, `limits::blur`
  Sorting sorting = Sorting::asItLies;
  friend bool operator==(const MoodTuning&, const MoodTuning&) = default;
};
namespace limits {
inline constexpr Limits blur{0, 40, 8, 0.5, 1, "%"};
}

/// What a mood is sorted into.
struct Layout {
  View<Rgb> picture = {};         ///< linear, of any size; for `byLight` and `byColour`
  View<std::uint16_t> near = {};  ///< 65535 nearest; for `byDepth`
};
/// Whether there is what the sorting needs.
bool canSort(Sorting sorting, const Layout& layout);

/// @param picture  linear, as it lies in the frame.
/// @return of the same size, linear, [0, 1]. Where the layout lacks what the sorting needs it is as it lies.
/// @throws Cancelled
Image<Rgb> moodOf(View<Rgb> picture, const MoodTuning& tuning, const Layout& layout = {}, StopToken stop = {});

/// A colour that is wanted in a picture.
struct WantedColour {
  Rgb colour{0.5f, 0.5f, 0.5f};  ///< linear, [0, 1]
  bool locked = false;           ///< stays when a palette is taken from another picture
  friend bool operator==(const WantedColour&, const WantedColour&) = default;
};
inline constexpr std::size_t leastColours = 1, mostColours = 7, usualColours = 6;

/// The colours that stand for a picture's (k-means in OKLab, Lloyd 1982, begun with colours far from each other, so it
/// is the same every time), the most common first; locked ones of `before` stay in their places. @param count  up to
/// `mostColours`.
std::vector<WantedColour> paletteOf(View<Rgb> picture, std::size_t count, const std::vector<WantedColour>& before = {});

}  // namespace hscaffold::mood
