/// A guide's map as the window shows it.
#pragma once

#include <QImage>
#include <memory>

#include "core/guide_map.h"

namespace hscaffold::app {

struct MapPicture {
  std::shared_ptr<const Map> map;     ///< as the engine gets it
  std::shared_ptr<const Map> below;   ///< without retouch and region
  std::shared_ptr<const Map> region;  ///< null: acts everywhere
  QImage grey;                        ///< 8 bits, lines white on black
  QImage tinted;                      ///< lines in the kind's colour; null for kinds without lines
  QImage outside;                     ///< shades where the guide does not act; null if it acts everywhere
  ThresholdView thresholds;
  double edgeShare = -1;
  double acts = 1;     ///< share of the frame in which the guide acts
  int movedUnder = 0;  ///< pixels whose ground moved since they were retouched
  QString found, note;
  Tuning resolved;  ///< what automatic choices came to
};

MapPicture mapPictureOf(GuideMap made, const Guide& guide, const Layer* retouch);

/// Paints one part anew, while a stroke is being drawn. @return what has to be shown again.
Box repaintPart(MapPicture& picture, const Guide& guide, const Layer* retouch, const Layer* region, const Box& part);

}  // namespace hscaffold::app
