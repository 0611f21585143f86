/// Line art from pictures: from photographs by extended difference of Gaussians along the edge tangent flow
/// (Winnemoeller, Kyprianidis and Olsen 2012; Kang, Lee and Chui 2007), from drawings on paper by taking illumination,
/// paper and ruled lines away and keeping what is drawn.
///
/// Both work on sRGB-encoded lightness or on ratios of linear light; each header says which.
#pragma once

#include <string>

#include "core/guides/tuning.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

enum class LineSource { automatic, photograph, paper };
enum class InkOnPaper { automatic, darkOnLight, lightOnDark };
enum class LineWeight { kept, evened };

struct LineTuning {
  LineSource source = LineSource::automatic;
  double ink = 50;  ///< how much becomes line, percent; 50 is what was found to fit the picture
  double flow = 4;  ///< how far lines are smoothed along their course, in pixels, [0, 16]
  // photographs
  double fineness = 1.2;  ///< sigma of the inner Gaussian, in pixels, [0.5, 5]: small finds fine lines
  double contrast = 60;   ///< how hard lines end, percent
  double darks = 0;       ///< how much of the dark areas is filled, percent
  // drawings on paper
  InkOnPaper polarity = InkOnPaper::automatic;
  double widest = 14;  ///< broader dark places are stains or shadows, in pixels, [3, 80]
  bool removeColour = true;
  bool removeRuled = true;  ///< and folds
  // both
  LineWeight weight = LineWeight::kept;
  double width = 2;    ///< of evened lines, in pixels, [0.5, 12]
  double specks = 24;  ///< separate pieces of fewer pixels go
};
const TuningFields& lineTuningFields();
LineTuning lineTuningFrom(const Tuning& tuning);

/// What an extraction found out about the picture.
struct LineFindings {
  LineSource source = LineSource::photograph;  ///< never automatic
  bool lightOnDark = false;                    ///< paper only
  int ruledLines = 0;                          ///< paper only: taken away
  std::string note;                            ///< one sentence where something is doubtful; else empty
};

struct LineArt {
  Image<std::uint16_t> map;  ///< lines 65535 on 0
  LineFindings findings;
};

/// @param picture  linear light, [0, 1].
/// @throws Cancelled
LineArt extractLines(View<Rgb> picture, const LineTuning& tuning, StopToken stop = {});

/// Whether the picture looks like a drawing on a sheet: one ground in one hue, evenly or smoothly lit, little ink.
bool looksLikePaper(View<Rgb> picture);

}  // namespace hscaffold
