/// Loose lines: strokes simplified within a tolerance, gently wandering, drawn broad. They say about where a line is
/// and leave the rest open.
#pragma once

#include <span>

#include "core/guides/tuning.h"
#include "core/lines/lines.h"
#include "core/strokes/curve_fit.h"

namespace hscaffold {

enum class LooseSource { lineArt, edges };

struct LooseTuning {
  LooseSource from = LooseSource::lineArt;
  double ink = 50;       ///< of the line art, percent
  double tolerance = 4;  ///< how far strokes may leave what they were traced from, in pixels, [0.5, 24]
  double wander = 2;     ///< how far they stray beyond that, in pixels, [0, 16]
  double width = 5;      ///< in pixels, [1, 32]
  double softness = 30;  ///< of their borders, percent
  double shortest = 24;  ///< shorter ones go, in pixels, [0, 400]
};
const TuningFields& looseTuningFields();
LooseTuning looseTuningFrom(const Tuning& tuning);

/// @return one stroke for each path that is long enough; no place of it is farther from its path than tolerance +
///         wander (+ half a pixel of fitting).
std::vector<std::shared_ptr<const Stroke>> loosened(std::span<const Path> paths, const LooseTuning& tuning,
                                                    StopToken stop = {});

/// Broad and soft, 0 to 65535.
Image<std::uint16_t> drawnLoosely(const std::vector<std::shared_ptr<const Stroke>>& strokes, const LooseTuning& tuning,
                                  Size size, StopToken stop = {});

}  // namespace hscaffold
