#include "core/image/lit.h"

#include <algorithm>
#include <cmath>

#include "core/image/encoded_light.h"
#include "core/image/parallel.h"

namespace hscaffold::light {
namespace {

Rgb8 seen(OkLab lab) {
  const Rgb c = okLabToLinearInGamut(lab);
  return {linearToSrgb8(c.r), linearToSrgb8(c.g), linearToSrgb8(c.b)};
}

}  // namespace

Lit litOf(View<Rgb> picture) {
  Lit out{encodedLightOf(picture), Image<float>(picture.size()), Image<float>(picture.size())};
  parallelRows(picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < picture.width(); ++x) {
        const OkLab lab = linearToOkLab(picture(x, y));
        out.a(x, y) = lab.a;
        out.b(x, y) = lab.b;
      }
  });
  return out;
}

Image<Rgb8> coloured(View<float> light, View<float> a, View<float> b) {
  Image<Rgb8> out(light.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) out(x, y) = seen({std::cbrt(srgbToLinear(light(x, y))), a(x, y), b(x, y)});
  });
  return out;
}

Image<Rgb8> relit(View<std::uint16_t> map, View<Rgb8> colour) {
  Image<Rgb8> out(map.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) {
        const Rgb8 c = colour(x, y);
        OkLab lab = linearToOkLab({srgbToLinear(c.r / 255.0f), srgbToLinear(c.g / 255.0f), srgbToLinear(c.b / 255.0f)});
        lab.l = std::cbrt(srgb16ToLinear(map(x, y)));
        out(x, y) = seen(lab);
      }
  });
  return out;
}

}  // namespace hscaffold::light
