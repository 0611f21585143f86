/// Figures as vector shapes.
#pragma once

#include <string>

#include "core/pose/inks.h"

namespace hscaffold::pose {

/// The figures in inks: SVG 1.1 with gradients along limbs.
/// @param thickness  multiplies all widths.
std::string svgFrom(const Figures& figures, const Inks& inks, double thickness, const std::string& title);

}  // namespace hscaffold::pose
