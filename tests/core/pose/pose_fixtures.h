/// What tests of poses share: the skeleton of a human, and figures of the library.
#pragma once

#include "core/pose/library.h"
#include "fixtures.h"

namespace fixtures {

inline const hscaffold::pose::Skeleton& human() { return hscaffold::pose::skeletonOf("human"); }

/// The number of a key point.
std::size_t at(const std::string& point, const std::string& skeleton = "human");

/// A figure in a pose of the library, by its name.
hscaffold::pose::Figure posedAs(const std::string& name, double size = 300, hscaffold::Point place = {400, 300});

/// Figures of all kinds, every so many: the library's own, and some whose natural lengths had to be guessed.
std::vector<hscaffold::pose::Figure> someFigures(std::size_t every);

double largestMove(const hscaffold::pose::Figure& a, const hscaffold::pose::Figure& b);

}  // namespace fixtures
