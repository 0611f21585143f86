/// A guide's map as the window shows it.
#pragma once

#include <QImage>
#include <memory>
#include <span>

#include "core/guide_map.h"
#include "core/pose/pose_map.h"

namespace hscaffold::app {

struct MapPicture {
  std::shared_ptr<const Map> map;           ///< as the engine gets it
  std::shared_ptr<const Map> below;         ///< without retouch and region
  std::shared_ptr<const ColourMap> colour;  ///< of kinds that have colours; else null
  std::shared_ptr<const Map> region;        ///< null: acts everywhere
  QImage grey;                              ///< as the engine gets it: lines white on black, figures in their inks
  QImage tinted;   ///< the same on nothing, lines in the kind's colour; null for kinds without lines
  QImage outside;  ///< shades where the guide does not act; null if it acts everywhere
  std::shared_ptr<const Map> sureness;  ///< null where the kind does not say
  std::vector<DoubtfulPlace> doubtful;  ///< where it would like to be told better, the worst first
  ThresholdView thresholds;
  int movedUnder = 0;  ///< pixels whose ground moved since they were retouched
  QString found, note;
  Tuning resolved;  ///< what automatic choices came to
  MapFacts facts;   ///< what is known of it
};

/// @param input    what the engine gets; shared, not copied.
/// @param below    without retouch and region.
MapPicture mapPictureOf(const std::shared_ptr<const GuideInput>& input, Map below, const Extraction& details,
                        const Guide& guide, const GuidePlace& place, const TakenWork& taken);

/// Paints one part anew, while a figure is dragged: figures over a picture of those behind them.
void repaintFigures(MapPicture& picture, View<Rgb8> behind, std::span<const pose::FigureMarks> figures, Rgb8 background,
                    const Box& part);

/// Paints one part anew, while a stroke is being drawn. @return what has to be shown again.
Box repaintPart(MapPicture& picture, const Guide& guide, const Layer* retouch, const Layer* region, const Box& part);

}  // namespace hscaffold::app
