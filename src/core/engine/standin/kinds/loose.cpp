// Loose lines bound the same masses as edges, softly and about where they are: each seed takes them a little aside,
// outlines are hints, and borders stay open.
#include "core/engine/standin/line_fields.h"

namespace hscaffold::standin {

Wanted looseWanted(const Asked& asked);

Wanted looseWanted(const Asked& asked) {
  return wantedByLines(asked, {.stray = 0.010f, .outline = 0.6f, .open = 0.0045f});
}

}  // namespace hscaffold::standin
