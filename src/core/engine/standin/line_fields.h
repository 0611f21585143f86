/// What line maps have in common for the stand-in: strokes are obeyed or not, and what they bound is taken or not.
#pragma once

#include "core/engine/standin/guidance_fields.h"

namespace hscaffold::standin {

/// The map at the layout's size; a thin line stays a full line.
Image<float> shrunkLines(View<std::uint16_t> map, Size size);

/// In which way a kind of lines is meant.
struct LineNature {
  float stray = 0;    ///< how far lines drift at any weight, in shares of the longer side
  float outline = 1;  ///< how plainly they are drawn
  float open = 0;     ///< how soft what they bound is, in shares of the longer side
};

/// Strokes by salience up to a share that follows from the load; masses where their borders are obeyed.
Wanted wantedByLines(const Asked& asked, const LineNature& nature = {});

}  // namespace hscaffold::standin
