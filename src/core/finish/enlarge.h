/// Pictures made larger without an engine.
#pragma once

#include "core/image/part.h"
#include "core/problem.h"

namespace hscaffold {

inline constexpr int usualTurns = 4;

/// Linear light, of `size`, both sides at least the picture's. Begun with Lanczos; then, by turns, smoothed along its
/// edges (directions of the structure tensor, as in coherence-enhancing diffusion, Weickert 1999) and brought back to
/// what averages to the picture (iterated back-projection, Irani and Peleg 1991): edges lose their steps, and nothing
/// is told that the small picture does not say. Values may leave [0, 1] slightly.
/// @param turns  how often; one is a third as dear and has most of the gain. @throws Cancelled
Image<Rgb> enlargedAlongEdges(View<Rgb> picture, Size size, StopToken stop = {}, int turns = usualTurns);

/// The same for a part of a picture that becomes `whole`, without making all of it. Parts that overlap agree but for
/// rounding.
/// @param part  within `whole`
Image<Rgb> enlargedPart(View<Rgb> picture, Size whole, const Box& part, StopToken stop = {}, int turns = usualTurns);

}  // namespace hscaffold
