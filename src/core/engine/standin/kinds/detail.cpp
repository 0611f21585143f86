// Detail says what surfaces are like: its bands are put in where the picture is painted (see DetailBands). Where it
// keeps light and masses, the layout follows those.
#include "core/detail/detail.h"
#include "core/engine/standin/guidance_fields.h"

namespace hscaffold::standin {

Wanted detailWanted(const Asked& asked);

Wanted detailWanted(const Asked& asked) {
  Wanted out = wantedNothing(asked.place);
  const auto kept = detail::keptBands(asked.input.map.size(),
                                      detail::detailTuningFrom(asked.tuning != nullptr ? *asked.tuning : Tuning()));
  if (kept.front() < 0.5f) return out;
  out.lightness = lightnessShown(asked.input.map, asked.place.fields.size());
  return out;
}

}  // namespace hscaffold::standin
