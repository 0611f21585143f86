/// Painting on a layer: one stroke of a brush, or one area at a time.
#pragma once

#include <span>

#include "core/retouch/layer.h"
#include "core/strokes/stroke.h"

namespace hscaffold {

enum class PaintMode {
  draw,     ///< towards the brush's level, usually full
  rubOut,   ///< towards nothing
  restore,  ///< takes retouch away: what is below comes back
  lighten,  ///< a step up from what is there
  darken,   ///< a step down
  smudge    ///< drags what is there along
};

struct Brush {
  PaintMode mode = PaintMode::draw;
  double diameter = 12;   ///< in pixels, [1, 1024]
  double hardness = 0.8;  ///< share of the radius that is full, [0, 1]
  double strength = 1;    ///< of the whole stroke, [0, 1]
  double level = 1;       ///< what is drawn, [0, 1]
};

/// How far one stroke lightens or darkens, as a share of the whole range.
inline constexpr double lightenStep = 0.12;

/// One stroke while it is drawn. Overlaps within it do not add up.
class BrushStroke {
 public:
  /// @param below  what the layer lies on; may be empty (0). Must stay alive as long as the stroke.
  BrushStroke(Layer layer, const Brush& brush, View<std::uint16_t> below);

  /// Goes on to a place. @param pressure  [0, 1] scales the diameter. @return what changed, cut to the frame.
  Box to(Point at, double pressure = 1);
  [[nodiscard]] const Layer& layer() const { return layer_; }

 private:
  Tile& writable(TilePlace place);
  Box paint(Point a, double radiusA, Point b, double radiusB);
  void smudge(Point a, Point b, double radius, const Box& box);

  Brush brush_;
  View<std::uint16_t> below_;
  Layer before_, layer_;
  std::map<TilePlace, std::shared_ptr<Tile>> open_;         ///< tiles that this stroke has touched
  std::map<TilePlace, std::vector<std::uint16_t>> covers_;  ///< how far, at each of their pixels
  bool begun_ = false;
  Point last_;
  double lastRadius_ = 0;
};

/// Inside of a closed polygon (even-odd), anti-aliased: 0 to 65535.
Image<std::uint16_t> polygonMask(std::span<const Point> polygon, Size frame);

/// The layer with `mode` applied as far as `mask` says (0 to 65535).
Layer painted(const Layer& layer, View<std::uint16_t> mask, PaintMode mode, View<std::uint16_t> below);

/// Mask of the pieces of a line map that have fewer pixels than `area`, with a pixel round them.
Image<std::uint16_t> specksOf(View<std::uint16_t> map, double area, int* count = nullptr);

/// Mask of what is joined to `seed` and within `tolerance` of its colour (distance in OKLab; 0.1 is clearly another
/// colour), or all of that colour wherever it is.
Image<std::uint16_t> similarTo(View<Rgb> picture, Point seed, double tolerance, bool joined);

}  // namespace hscaffold
