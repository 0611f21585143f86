/// What numbers may be. Fields, clamping, readers, writers, axes of test strips and the command line all go by this one
/// table, so that what one of them lets through the others take.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace hscaffold {

struct Limits {
  double least = -1e15, most = 1e15;  ///< both belong to it
  double usual = 0;                   ///< where nothing else is said
  double step = 1;                    ///< of fields: arrow keys, wheel
  int decimals = 0;                   ///< as it is shown
  const char* unit = "";
};

/// Of settings. What is counted in pixels is counted in pixels of the frame.
namespace limits {

inline constexpr Limits weight{0, 2, 1, 0.01, 2};
inline constexpr Limits percent{0, 100, 0, 1, 0, "%"};  ///< of the way: ranges and ramps
inline constexpr Limits rangeEnd{0, 100, 100, 1, 0, "%"};
inline constexpr Limits share{0, 1, 1, 0.01, 2};
inline constexpr Limits feather{0, 256, 0, 1, 0, "px"};  ///< sigma
/// Up to this sum of loads guides usually leave the prompt room; a study may have a line of its own.
inline constexpr Limits comfort{0.1, 4, 1.5, 0.05, 2};
inline constexpr Limits strength{0, 1.5, 1, 0.05, 2};  ///< of style cards
inline constexpr Limits emphasis{-1, 2, 1, 0.05, 2};
inline constexpr Limits guidance{0, 20, 6.5, 0.5, 1};
inline constexpr Limits steps{4, 100, 20, 1, 0};
inline constexpr Limits seed{0, 4294967295.0, 1, 1, 0};
inline constexpr Limits change{0, 1, 0.6, 0.01, 2};
inline constexpr Limits vary{0, 1, 0, 0.05, 2};
inline constexpr Limits side{64, 8192, 512, 8, 0, "px"};  ///< of a frame
inline constexpr Limits sizeStep{1, 256, 8, 1, 0, "px"};
inline constexpr Limits picture{1, 1'000'000, 1, 1, 0, "px"};  ///< a side of a reference
inline constexpr Limits centre{-100, 100, 0.5, 0.01, 2};       ///< of a placement, in shares of the frame
inline constexpr Limits scale{1e-4, 1e4, 1, 0.01, 4};          ///< of a placement
inline constexpr Limits turn{-3600, 3600, 0, 1, 0, "°"};       ///< of a placement
inline constexpr Limits channel{0, 1, 0.5, 0.01, 2};           ///< of a colour, linear
inline constexpr Limits hold{0, 100, 0, 1, 0};                 ///< and shift
/// An entry of the six numbers by which hand work remembers where its reference lay.
/// What `scale` and `centre` can come to for the largest pictures fits in.
inline constexpr Limits placing{-1e12, 1e12, 0, 1, 4};

/// Where a spot of hand work may lie: outside of any frame is allowed, and says nothing.
inline constexpr Limits spot{-1e6, 1e6, 0, 1, 1, "px"};

}  // namespace limits

/// Infinities and what is no number become `otherwise`.
inline void keepWithin(double& value, double least, double most, double otherwise) {
  value = std::isfinite(value) ? std::clamp(value, least, most) : otherwise;
}
inline void keepWithin(double& value, const Limits& limits) {
  keepWithin(value, limits.least, limits.most, limits.usual);
}
inline void keepWithin(int& value, const Limits& limits) {
  value = std::clamp(value, static_cast<int>(limits.least), static_cast<int>(limits.most));
}
inline void keepWithin(float& value, const Limits& limits) {
  value = std::isfinite(value) ? std::clamp(value, static_cast<float>(limits.least), static_cast<float>(limits.most))
                               : static_cast<float>(limits.usual);
}
/// As far as it goes, in eight decimals: rounding may not lead out of the limits again.
inline double roundedWithin(double value, const Limits& limits) {
  keepWithin(value, limits);
  return std::clamp(std::round(value * 1e7) / 1e7, limits.least, limits.most);
}

}  // namespace hscaffold
