/// Ruled lines and folds of a sheet.
#pragma once

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

/// Straight lines are looked for as peaks in the sums of sheared rows (a discrete Radon transform over few angles), and
/// each must have some density nearly everywhere along it.
///
/// Takes straight lines that run through the whole sheet out of the density, only as much as they are dark, so that
/// drawn lines go on where they cross: ruled ones, across or down and up to about three degrees askew, and single folds
/// at any angle.
/// @return how many there were.
int removeStraightLines(Image<float>& density, float grain, StopToken stop = {});

}  // namespace hscaffold
