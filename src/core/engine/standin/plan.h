/// The value and colour plan: a few values first, then a handful of colours, given to the parts of the layout.
#pragma once

#include <algorithm>
#include <memory>

#include "core/engine/standin/composition.h"
#include "core/engine/standin/flow.h"
#include "core/image/part.h"
#include "core/mood/transport.h"

namespace hscaffold::standin {

/// Colours that guides ask for at each place: a and b of OKLab times how much of them is taken, and how much that is,
/// [0, 1]; all of the layout's size.
struct Tints {
  Image<float> a, b, share;
};

/// Colours brought to those of another picture, in the end.
struct Grading {
  mood::MonotoneTransport transport;
  float strength = 1;  ///< [0, 1]
};

/// Colours of one picture, OKLCH.
struct Palette {
  std::array<OkLch, partCount> parts;
  OkLch skyLow;  ///< the sky at the horizon, and what haze is made of
  OkLch accent;  ///< the subject's second colour
  /// Colours of parts of the subject from top to bottom, and how much of each they take, [0, 1].
  std::array<OkLch, static_cast<std::size_t>(Band::count)> bands{};
  std::array<float, static_cast<std::size_t>(Band::count)> bandShares{};
  float warmLight = 0;  ///< light leans warm (1) or cool (-1), shadow the other way
  float haze = 0.3f;    ///< how much the far takes on of the sky
  float contrast = 1;
  float glow = 0;                          ///< strength of sun or moon
  std::shared_ptr<const Tints> tints;      ///< null: none
  std::shared_ptr<const Grading> grading;  ///< null: none
};
Palette paletteFrom(const Wishes& wishes, std::uint64_t seed);

/// What a place's tone of 1 moves its lightness by.
float toneReach(const Palette& palette, float inSky);

/// Tone beyond that moves a place no further from its part's own value.
inline constexpr float mostTone = 3.5f;
/// The tone that would bring each place of a picture to this lightness (OKLab, of the layout's size).
Image<float> toneFor(View<float> lightness, const Composition& picture, const Palette& palette);

/// What painting starts from: of the whole picture, or of a part of it.
struct Plan {
  Image<OkLab> colour;
  Image<float> line;   ///< outline strength, [0, 1]; up to 1.5 where it burns in
  Image<float> depth;  ///< 1 nearest
  Course course;       ///< see Fields
  Image<float> dab;    ///< see Fields
  Palette palette;
  float lightX = 0, lightY = 0;
  PartPlace place;
  std::shared_ptr<const Plan> small;  ///< of a part: the whole picture seen small
  /// From which is told what concerns the picture as a whole.
  [[nodiscard]] const Plan& ofAll() const { return small ? *small : *this; }
};
/// How much deeper than a plain line one of this strength is: 0 for a plain line, 1 for the deepest.
inline float burntIn(float line) { return std::clamp(2 * (line - 1), 0.0f, 1.0f); }
/// @param fields  of any size; they are brought to `size`.
Plan planFrom(const Fields& fields, const Composition& composition, const Palette& palette, Size size);
/// The same for a part of a picture of this size; without `small`.
Plan planFrom(const Fields& fields, const Composition& composition, const Palette& palette, Size whole,
              const Box& part);

}  // namespace hscaffold::standin
