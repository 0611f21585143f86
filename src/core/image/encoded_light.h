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

}  // namespace hscaffold
