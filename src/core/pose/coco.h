/// COCO key points (the "annotations" and the "results" form), in and out: several figures with visibility flags.
///
/// People have COCO's 17 points in its order; the neck, hands and face, and what COCO has no field for (names, pins,
/// natural lengths) go along in the field "scaffold" of each annotation, which other programs pass over. Four-legged
/// animals are a category of their own with its points named. Out and in again gives the same figures.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>

#include "core/pose/figure.h"

namespace hscaffold::pose {

nlohmann::json cocoFrom(const Figures& figures);

struct CocoFigures {
  Figures figures;   ///< in the pixels of their picture
  Size size;         ///< of that picture; empty if the file does not say
  std::string note;  ///< what was left out, one sentence; empty if nothing
};
/// Points may be off the picture. Key points with v = 0 are absent, 1 hidden, 2 seen; a third number between 0 and 1 in
/// results is a confidence, and so is an annotation's "score".
/// @throws Problem (badInput) naming the annotation and what is wrong: missing or senseless numbers, wrong counts,
/// unknown categories, more than `mostFigures`.
CocoFigures figuresFromCoco(const std::string& text, const std::string& where);

/// The figures brought into a frame: scaled to fit where they come from a picture of another size.
Figures fittedInto(Figures figures, Size from, Size frame);

}  // namespace hscaffold::pose
