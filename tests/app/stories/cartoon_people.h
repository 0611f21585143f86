/// Drawn people of known joints, as an artist's reference may have them: flat shapes with faces and clothes.
#pragma once

#include <QImage>
#include <filesystem>
#include <vector>

#include "core/pose/figure.h"

namespace fixtures {

struct CartoonPerson {
  const char* pose;  ///< of the library
  double size;       ///< standing height, pixels
  hscaffold::Point at;
};

/// Their skeletons, from far to near as in `people`.
std::vector<hscaffold::pose::Figure> skeletonsOf(const std::vector<CartoonPerson>& people);
/// On planks by the sea.
QImage cartoonOf(const std::vector<hscaffold::pose::Figure>& figures, QSize size);

/// Share of the body's points of `truth` that `found` has within a tenth of the longer side of truth's box.
double shareRight(const hscaffold::pose::Figure& truth, const hscaffold::pose::Figure& found);
/// For each of `truth` which of `found` has most of its points right, or -1 where none has a third of them.
std::vector<int> matched(const std::vector<hscaffold::pose::Figure>& truth,
                         const std::vector<hscaffold::pose::Figure>& found);

}  // namespace fixtures
