/// Lines of a scene: outlines, creases and borders of its things, without those that are hidden. They come from the
/// edges of faces themselves (silhouettes as in Appel 1967, what is hidden by rays), not from a picture.
#pragma once

#include <memory>
#include <vector>

#include "core/stage/raster.h"
#include "core/strokes/stroke.h"

namespace hscaffold::stage {

struct LineAsk {
  double width = 1.6;    ///< pixels, of an outline at the nearest
  bool byDepth = false;  ///< what is far is drawn finer, to a half
  bool creases = true;   ///< also where faces meet at more than `crease` within an outline
  float crease = 45;     ///< degrees, (0, 180)
  bool contacts = true;  ///< also where things run into each other, or through the ground
};

struct SeenLine {
  enum class Of { outline, crease, border, contact } of = Of::outline;
  std::uint16_t object = 0;
  std::vector<Point> points;  ///< in the frame, at least two
  float far = 1;              ///< metres, in the mean
};
/// Chains of what is seen. @param meshes  with their object numbers; the ground has no lines
/// @param fine  `Rendered::fine` of them by that camera, where it is there @throws Cancelled
std::vector<SeenLine> linesOf(std::span<const Mesh> meshes, const Camera& camera, const LineAsk& ask = {},
                              StopToken stop = {}, const Image<float>* fine = nullptr);
/// The same as strokes with widths.
std::vector<std::shared_ptr<const Stroke>> strokesOf(const std::vector<SeenLine>& lines, const LineAsk& ask = {});

}  // namespace hscaffold::stage
