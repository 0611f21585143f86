// Detail says what surfaces are like: its bands are put in where the picture is painted (see DetailBands). Where it
// keeps light and masses, the layout follows those.
#include <cmath>

#include "core/detail/detail.h"
#include "core/engine/standin/guidance_fields.h"
#include "core/image/colour.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"

namespace hscaffold::standin {

Wanted detailWanted(const Asked& asked);

Wanted detailWanted(const Asked& asked) {
  Wanted out = wantedNothing(asked.place);
  const auto kept = detail::keptBands(asked.input.map.size(),
                                      detail::detailTuningFrom(asked.tuning != nullptr ? *asked.tuning : Tuning()));
  if (kept.front() < 0.5f) return out;
  const Size size = asked.place.fields.size();
  out.lightness = resampled(widened(asked.input.map.view()).view(), size, Resampling::area);
  for (int y = 0; y < size.height; ++y)
    for (float& value : out.lightness.line(y)) value = std::cbrt(srgbToLinear(value));
  return out;
}

}  // namespace hscaffold::standin
