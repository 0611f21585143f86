/// Light as eyes and screens grade it.
#pragma once

#include "core/image/colour.h"
#include "core/image/parallel.h"

namespace hscaffold {

/// Luminance (Rec. 709) of a picture in linear light, sRGB-encoded, [0, 1].
inline Image<float> encodedLightOf(View<Rgb> linear) {
  auto light = luminanceOf(linear);
  parallelRows(light.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (float& value : light.line(y)) value = linearToSrgb(value);
  });
  return light;
}

/// What a map of graded light shows: greys in linear light.
inline Image<Rgb> greysOf(View<std::uint16_t> graded) {
  Image<Rgb> out(graded.size());
  const auto linear = srgb16Table();
  parallelRows(graded.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(graded.row(y), graded.row(y) + graded.width(), out.row(y), [&](std::uint16_t v) {
        return Rgb{linear[v], linear[v], linear[v]};
      });
  });
  return out;
}

}  // namespace hscaffold
