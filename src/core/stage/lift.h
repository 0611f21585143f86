/// Figures of a picture put onto a stage: bodies in three dimensions on the ground, and the eye that saw them.
#pragma once

#include "core/pose/figure.h"
#include "core/stage/scene.h"

namespace hscaffold::stage {

struct LiftAsk {
  double height = 1.7;      ///< of people, metres; (0.2, 4)
  double animal = 0.9;      ///< of animals, nose to tail root
  double millimetres = 38;  ///< of the eye, [14, 200]
};

/// The bodies that fit the figures best (`pose::lifted`), as large as asked, and an eye of that lens so high and so
/// tilted that all stand on the ground as well as can be: from one figure its height alone, looking level; from more
/// the plane through their feet (least squares). Each then stands where its feet are seen, and is as large as it looks
/// there. Who is seen above the horizon hangs at its own distance.
/// @param figures  in the pixels of `figures.frame`; those that are off are left out
/// @throws Problem (badInput) if there is none; Cancelled
Scene stagedFrom(const pose::Figures& figures, const LiftAsk& ask = {}, StopToken stop = {});

}  // namespace hscaffold::stage
