// Line art is edges that also say which way hatches run, near and between them.
#include <algorithm>
#include <cmath>

#include "core/engine/standin/line_fields.h"
#include "core/image/filter.h"
#include "core/image/tensor.h"

namespace hscaffold::standin {

Wanted linesWanted(const Asked& asked);

Wanted linesWanted(const Asked& asked) {
  const Composition& place = asked.place;
  auto out = wantedByLines(asked);
  out.fields = Fields::ofSize(place.fields.size());
  const auto lines = shrunkLines(asked.input.map, place.fields.size());
  const auto tensor = structureTensor(lines, 0.03f * static_cast<float>(std::max(lines.width(), lines.height())));
  Image<float> x(tensor.size()), y(tensor.size());
  for (int row = 0; row < tensor.height(); ++row)
    for (int column = 0; column < tensor.width(); ++column) {
      const Rgb t = tensor(column, row);
      const float along = t.b - t.r, skew = -2 * t.g, length = std::hypot(along, skew);
      // Strong where lines agree; where there are none, or they cross, the painting's own flow goes on.
      const float strength = length / (length + 4e-4f + 0.5f * (t.r + t.b - length));
      x(column, row) = length > 0 ? strength * along / length : 0;
      y(column, row) = length > 0 ? strength * skew / length : 0;
    }
  out.fields.all[Fields::courseX] = enlarged(x.view(), place.fields.size());
  out.fields.all[Fields::courseY] = enlarged(y.view(), place.fields.size());
  out.acts[Fields::courseX] = out.acts[Fields::courseY] = true;
  return out;
}

}  // namespace hscaffold::standin
