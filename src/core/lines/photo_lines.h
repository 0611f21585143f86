/// Line art from photographs.
#pragma once

#include "core/lines/lines.h"

namespace hscaffold {

/// Ink, [0, 1], by flow-guided extended difference of Gaussians: the difference is taken across the edge tangent flow,
/// smoothed along it, and ended softly (Winnemoeller et al. 2012, section 2.6). The threshold follows the picture's own
/// distribution of responses.
/// @param light  sRGB-encoded lightness, [0, 1].
Image<float> photoInk(View<float> light, const LineTuning& tuning, StopToken stop = {});

}  // namespace hscaffold
