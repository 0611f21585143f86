// A tone map sets light and shade, and colours where it has some.
#include "core/engine/standin/guidance_fields.h"
#include "core/image/colour.h"
#include "core/image/resample.h"

namespace hscaffold::standin {

Wanted toneWanted(const Asked& asked);

Wanted toneWanted(const Asked& asked) {
  const Size size = asked.place.fields.size();
  Wanted out = wantedNothing(asked.place);
  out.lightness = lightnessShown(asked.input.map, size);
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
