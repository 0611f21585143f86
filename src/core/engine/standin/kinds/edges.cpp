// Edges set outlines and regions.
#include "core/engine/standin/line_fields.h"

namespace hscaffold::standin {

Wanted edgesWanted(const Asked& asked);

Wanted edgesWanted(const Asked& asked) { return wantedByLines(asked); }

}  // namespace hscaffold::standin
