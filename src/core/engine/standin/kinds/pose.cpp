// Poses place and shape bodies.
#include "core/engine/standin/bodies.h"

namespace hscaffold::standin {

Wanted poseWanted(const Asked& asked);

Wanted poseWanted(const Asked& asked) {
  const auto figures = asked.input.work.get<pose::Figures>(pose::figuresSlot);
  return figures ? wantedByPose(asked.place, *figures, asked.loads, asked.seed) : Wanted{};
}

}  // namespace hscaffold::standin
