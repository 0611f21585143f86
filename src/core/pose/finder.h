/// Finding figures in pictures: what any detector of key points has to offer, and what becomes of what it found.
#pragma once

#include <string>
#include <vector>

#include "core/image/image.h"
#include "core/pose/figure.h"

namespace hscaffold::pose {

class FigureFinder {
 public:
  virtual ~FigureFinder() = default;
  [[nodiscard]] virtual std::string name() const = 0;
  /// Figures with confidences, in the picture's pixels; in no particular order.
  /// @param picture  linear RGB, [0, 1].
  /// @throws Problem, Cancelled
  virtual std::vector<Figure> find(View<Rgb> picture, StopToken stop) = 0;
};

struct FinderTuning {
  double leastPoint = 0.15;   ///< points with less confidence are absent
  double leastFigure = 0.10;  ///< figures with less confidence are dropped
  double same = 0.85;         ///< two figures this alike are one: object key-point similarity (COCO), [0, 1]
};

/// What was found, put in order: doubtful points absent, the same figure kept once (the surer one), natural lengths
/// guessed, necks added, from far to near by size. The faint ones stay, with their confidence.
std::vector<Figure> tidied(std::vector<Figure> found, const FinderTuning& tuning = {});

/// Points of the body that are as likely wrong as right, and should be looked at: the least sure first.
std::vector<std::size_t> doubtfulPoints(const Figure& figure);

/// Object key-point similarity of two figures of the same skeleton (COCO's measure with one spread for all points), [0,
/// 1]; 0 where they have no point in common.
double similarity(const Figure& a, const Figure& b);

}  // namespace hscaffold::pose
