// A tone map sets light and shade.
#include <cmath>

#include "core/engine/standin/guidance_fields.h"
#include "core/image/colour.h"
#include "core/image/resample.h"

namespace hscaffold::standin {

Wanted toneWanted(const Asked& asked);

Wanted toneWanted(const Asked& asked) {
  const auto map = asked.input.map.view();
  const Size size = asked.place.fields.size();
  Wanted out = wantedNothing(asked.place);
  Image<float> full(map.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) full(x, y) = static_cast<float>(map(x, y)) / 65535.0f;
  auto light = resampled(full.view(), size, Resampling::area);
  for (int y = 0; y < size.height; ++y)
    for (float& value : light.line(y)) value = std::cbrt(srgbToLinear(value));
  out.lightness = std::move(light);
  return out;
}

}  // namespace hscaffold::standin
