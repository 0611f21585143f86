/// Maps at 8 bits, for what only asks where lines are, and as numbers, for what is computed from them.
#pragma once

#include <algorithm>

#include "core/image/image.h"

namespace hscaffold {

/// The upper 8 of 16 bits.
inline Image<std::uint8_t> narrowed(View<std::uint16_t> map) {
  Image<std::uint8_t> out(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), out.row(y),
                   [](std::uint16_t v) { return static_cast<std::uint8_t>(v >> 8); });
  return out;
}

/// The nearest of 8 bits, for pictures that are looked at.
constexpr std::uint8_t inEightBits(std::uint16_t v) { return static_cast<std::uint8_t>((v + 128) / 257); }

inline Image<Rgb8> inEightBits(View<Rgba16> picture) {
  Image<Rgb8> out(picture.size());
  for (int y = 0; y < out.height(); ++y)
    std::transform(picture.row(y), picture.row(y) + out.width(), out.row(y), [](const Rgba16& c) {
      return Rgb8{inEightBits(c.r), inEightBits(c.g), inEightBits(c.b)};
    });
  return out;
}

/// As shares of the whole range, [0, 1].
inline Image<float> widened(View<std::uint16_t> map) {
  Image<float> out(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), out.row(y),
                   [](std::uint16_t v) { return static_cast<float>(v) / 65535.0f; });
  return out;
}

}  // namespace hscaffold
