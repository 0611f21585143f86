// A tone map sets light and shade, and colours where it has some.
#include <cmath>

#include "core/engine/standin/guidance_fields.h"
#include "core/image/colour.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"

namespace hscaffold::standin {

Wanted toneWanted(const Asked& asked);

Wanted toneWanted(const Asked& asked) {
  const auto map = asked.input.map.view();
  const Size size = asked.place.fields.size();
  Wanted out = wantedNothing(asked.place);
  auto light = resampled(widened(map).view(), size, Resampling::area);
  for (int y = 0; y < size.height; ++y)
    for (float& value : light.line(y)) value = std::cbrt(srgbToLinear(value));
  out.lightness = std::move(light);
  if (asked.input.colour.empty()) return out;
  const auto colours = resampled(toLinear(asked.input.colour).view(), size, Resampling::area);
  out.a = Image<float>(size);
  out.b = Image<float>(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const OkLab lab = linearToOkLab(colours(x, y));
      out.a(x, y) = lab.a;
      out.b(x, y) = lab.b;
    }
  return out;
}

}  // namespace hscaffold::standin
