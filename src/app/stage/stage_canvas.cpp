#include "app/stage/stage_canvas.h"

#include <algorithm>

#include "app/images.h"
#include "core/image/colour.h"

namespace hscaffold::app {

StageCanvas::Shown StageCanvas::paint(const stage::Scene& scene, const stage::Camera& camera, bool coarse,
                                      const StopToken& stop) {
  const std::lock_guard alone(one_);
  throwIfStopped(stop);
  stand_ = stage::standOf(scene, stand_, coarse);
  Shown out;
  const Box part = kept_.paint(stand_, camera, stop);
  const QSize size(camera.size.width, camera.size.height);
  out.resized = picture_.size() != size;
  if (part == boxOf(camera.size)) picture_ = QImage(size, QImage::Format_RGB32);
  if (!part.empty()) paintInto(picture_, {part.left, part.top}, toSrgb8(partOf(kept_.seen().colour.view(), part)));
  out.stand = stand_;
  out.picture = picture_;
  out.object = kept_.seen().object.clone();
  return out;
}

void DragPace::keepUp(double took) {
  // A sixtieth of a second for each picture, and the window's own work beside it.
  constexpr double most = 14, least = 8, step = 1.25, coarsest = 3;
  if (took > most) coarseness_ = std::min(coarsest, coarseness_ * step);
  if (took < least) coarseness_ = std::max(1.0, coarseness_ / step);
}

}  // namespace hscaffold::app
