/// Pattern maps: light and dark that a picture should take on where the pattern lies; middle grey asks for nothing.
#pragma once

#include <optional>
#include <string>

#include "core/frame/homography.h"
#include "core/guides/tuning.h"
#include "core/image/image.h"
#include "core/pattern/code.h"
#include "core/problem.h"

namespace hscaffold::pattern {

enum class What { code, spiral, rings, checks, waves, rays, rose, letters, picture };
/// How the modules of a code are drawn.
enum class ModuleForm { squares, rounded, dots };

struct PatternTuning {
  What what = What::code;
  std::string says;
  Correction correction = Correction::highest;
  int quiet = 4;   ///< modules left light round the code, [0, 8]
  int module = 0;  ///< pixels, [0, 128]; 0: the most whole size steps that fit
  ModuleForm form = ModuleForm::squares;
  int centreFree = 0;     ///< modules a side of the code's middle that are left to the picture, [0, 15]
  int count = 8;          ///< turns and rings across it, checks a side, waves, rays, points, [2, 60]
  double softness = 20;   ///< percent of a light and a dark together over which they go over, [0, 100]
  double level = 0;       ///< of a picture: where light begins, percent from where it parts best, [-50, 50]
  double blur = 1;        ///< of a picture: percent of the longer side, [0, 10]
  bool swapped = false;   ///< light for dark; codes are never swapped, since many readers do not take that
  double x = 50, y = 50;  ///< its middle, percent of the frame
  double size = 84;       ///< of shapes: percent of the frame's shorter side, [10, 250]
  double turn = 0;        ///< degrees, clockwise
  double lean = 0;        ///< degrees that its upper edge leans away, as on the ground, [-80, 80]
  double slant = 0;       ///< the same to the side
  /// Where it is laid onto four corners in place of the five above and of its size: see `cornersFrom`.
  std::optional<std::string> corners = {};
};
const TuningFields& patternTuningFields();
PatternTuning patternTuningFrom(const Tuning& tuning);
/// Straight, in the middle of the frame.
void layInMiddle(Tuning& tuning);
/// Onto these corners, in pixels.
void layOnCorners(Tuning& tuning, const Quad& corners, Size frame);

/// Four corners in a text like "20,60 80,60 95,90 5,90", in percent of the frame's sides, as pixels.
/// @throws Problem (badInput) for what is no such text, and for corners that do not lie round an area one after the
/// other
Quad cornersFrom(const std::string& text, Size frame);
std::string textOf(const Quad& corners, Size frame);

/// How broad a light and a dark of a shape are together, where it does not lean: pixels. Nothing for what is not even.
std::optional<double> periodOf(const PatternTuning& tuning, Size frame);

/// A code's modules in the frame.
struct CodePlace {
  Code code;
  int module = 0;       ///< pixels a side, where it does not lean
  Homography fromCode;  ///< frame from modules: (0, 0) is the code's upper left corner, (side, side) its lower right
  double outside = 0;   ///< share of its modules that lie outside of the frame
};
/// @throws Problem (badInput), see `codeOf`
CodePlace codePlaced(const PatternTuning& tuning, Size frame);

/// The corners of what can be placed by hand: of the code without its quiet zone, of the rectangle round a shape or
/// letters. Nothing where a picture is shown, or what cannot be made.
std::optional<Quad> outlineOf(const PatternTuning& tuning, Size frame);

/// @param picture  what `What::picture` is made from: linear light, of the frame's size; empty: grey
/// @return [0, 1] of the frame's size: 0 dark, 1 light, 0.5 asks for nothing. @throws Cancelled, Problem (badInput)
Image<float> patternMap(const PatternTuning& tuning, Size frame, View<Rgb> picture, StopToken stop = {});

/// The level at which a picture's light and dark part best (Otsu 1979), [0, 1].
float partingLevel(View<float> light);

}  // namespace hscaffold::pattern
