/// Colour spaces: sRGB (IEC 61966-2-1), linear light, OKLab/OKLCH (Ottosson 2020), CIELAB (D65).
#pragma once

#include <span>

#include "core/image/image.h"

namespace hscaffold {

/// One channel, [0, 1] to [0, 1].
float srgbToLinear(float encoded);
float linearToSrgb(float linear);
/// The same by a table, within 2e-7 of it.
float tabledSrgb(float linear);

/// From 16 bits sRGB-encoded to linear light, by table.
float srgb16ToLinear(std::uint16_t encoded);
/// The same for all values there are: for loops over whole pictures.
std::span<const float, 65536> srgb16Table();
/// Linear light to 8 bits sRGB-encoded, rounded to nearest, clipped.
std::uint8_t linearToSrgb8(float linear);
std::uint16_t linearToSrgb16(float linear);

/// Rec. 709 luminance of linear colour.
inline float luminance(Rgb linear) { return 0.2126f * linear.r + 0.7152f * linear.g + 0.0722f * linear.b; }

struct OkLab {
  float l = 0, a = 0, b = 0;
};
/// Lightness [0, 1], chroma (about [0, 0.37] inside sRGB), hue in radians.
struct OkLch {
  float l = 0, c = 0, h = 0;
  friend bool operator==(const OkLch&, const OkLch&) = default;
};
OkLab linearToOkLab(Rgb linear);
Rgb okLabToLinear(OkLab lab);
OkLab okLchToOkLab(OkLch lch);
OkLch okLabToOkLch(OkLab lab);
/// As `okLabToLinear`, with chroma reduced at constant lightness and hue until the colour fits sRGB.
Rgb okLabToLinearInGamut(OkLab lab);

struct CieLab {
  float l = 0, a = 0, b = 0;  ///< L* [0, 100]
};
CieLab linearToCieLab(Rgb linear);

/// Whole pictures.
Image<Rgb8> toSrgb8(View<Rgb> linear);
/// Alpha full.
Image<Rgba16> toSrgb16(View<Rgb> linear);
Image<Rgb> toLinear(View<Rgb8> encoded);
Image<float> luminanceOf(View<Rgb> linear);
/// How bright a map in colour is at each place, 0 to 65535: its brightest channel, as it is encoded.
Image<std::uint16_t> brightnessOf(View<Rgb8> picture);

/// The values of a map that came as a picture: greys as they are, colours by their luma (ITU-R BT.709), encoded.
Image<std::uint16_t> greyOf(View<Rgba16> picture);

}  // namespace hscaffold
