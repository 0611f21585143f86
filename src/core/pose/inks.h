/// Inks: how skeletons are drawn into a map, as data. JSON after docs/inks.schema.json; all measures are shares of the
/// figure's size, so that lines get thinner with distance.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/image/image.h"
#include "core/pose/figure.h"

namespace hscaffold::pose {

struct InkStroke {
  std::vector<std::size_t> from, to;  ///< it runs between the means of these points
  double widthFrom = 0, widthTo = 0;
  Rgb8 colourFrom, colourTo;
};
/// An open ring round a point that is seen.
struct InkRing {
  std::size_t point = 0;
  double radius = 0, width = 0;
  Rgb8 colour;
};
/// An outlined egg about the mean of some points, its long axis away from `above`, with a wedge to where it faces.
struct InkHead {
  std::vector<std::size_t> about;
  std::size_t above = 0, towards = 0;
  double across = 0, along = 0;  ///< half axes
  double width = 0;
  Rgb8 colour;
};
struct SkeletonInks {
  std::vector<InkStroke> strokes;
  std::vector<InkRing> rings;
  std::vector<InkHead> heads;
};

struct Inks {
  std::string text;  ///< the JSON that they were read from
  std::string name;
  Rgb8 background{0, 0, 0};
  double dash = 0.02, gap = 0.015;                ///< of limbs that are hidden
  std::map<std::string, SkeletonInks> skeletons;  ///< by skeleton; one that is missing is not drawn
};

/// @throws Problem (badInput) naming the stroke, ring or head that is wrong, for instance an unknown point.
Inks inksFromJson(const std::string& text, const std::string& where);
/// As JSON after docs/inks.schema.json, as it was loaded.
const WorkForm& inksForm();
/// Those that come with the program.
const Inks& houseInks();

}  // namespace hscaffold::pose
