/// Pictures in graded light with colour beside it: what tones, lights and details are reckoned in.
#pragma once

#include "core/image/colour.h"
#include "core/image/image.h"

namespace hscaffold::light {

/// `light` sRGB-encoded luminance, [0, 1]; `a` and `b` of OKLab, both empty where nothing has a colour.
struct Lit {
  Image<float> light, a, b;
  [[nodiscard]] Lit clone() const { return {light.clone(), a.clone(), b.clone()}; }
};
/// Of a picture in linear light, with its colours.
Lit litOf(View<Rgb> picture);

/// In colour, 8 bits sRGB-encoded: lightness as it is, chroma as far as it fits.
Image<Rgb8> coloured(View<float> light, View<float> a, View<float> b);
/// Colours over a map of light that was retouched since. Both of one size.
Image<Rgb8> relit(View<std::uint16_t> map, View<Rgb8> colour);

}  // namespace hscaffold::light
