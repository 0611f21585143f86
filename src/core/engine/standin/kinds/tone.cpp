// A tone map sets light and shade.
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
  return out;
}

}  // namespace hscaffold::standin
