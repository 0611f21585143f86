/// How near things are over the frame, coarsely, as somebody said it once: a network, or a depth map whose light is
/// taken further. Kept with a guide, so that a study shows the same where that is not at hand.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>

#include "core/frame/placement.h"
#include "core/image/image.h"

namespace hscaffold {

/// Immutable once shared.
struct Nearness {
  Size frame;                     ///< that it belongs to
  std::optional<Affine> placing;  ///< frame from reference when it was made
  std::string by;                 ///< who said it, for reading
  Image<float> near;              ///< over the whole frame, at a size of its own; [0, 1], 1 nearest; below 0: not known

  static constexpr int mostSide = 256;    ///< what is kept: edges come back from the picture
  static constexpr double grades = 4094;  ///< in files; even, so that the middle comes back as it was
};

/// As it lies when the frame or the placing of the reference is another.
Nearness following(const Nearness& nearness, Size frame, const std::optional<Affine>& placing);
/// What it says at a place of `near`, in its pixels, centres at +0.5; what is not known anywhere near is below 0.
float nearAt(View<float> near, double x, double y);
/// All of it at another size, in the grades of files; what is not known is below 0.
Image<float> nearAtSize(View<float> near, Size size);

/// As JSON: see docs/study-file.md.
std::string nearnessToText(const Nearness& nearness);
/// @throws Problem (badInput)
Nearness nearnessFromText(const std::string& text, const std::string& where);

}  // namespace hscaffold
