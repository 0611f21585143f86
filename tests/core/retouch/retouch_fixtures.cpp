#include "core/retouch/retouch_fixtures.h"

#include <random>

using namespace hscaffold;

namespace fixtures {

Map busyMap(int width, int height, unsigned seed) {
  std::mt19937 random(seed);
  Map map(width, height);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) map(x, y) = static_cast<std::uint16_t>(random());
  return map;
}

Layer emptyLayer(Size size) {
  Layer layer;
  layer.frame = size;
  return layer;
}

Layer scribbled(Size size, unsigned seed, int strokes, const Map& below) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> unit(0, 1);
  Layer layer = emptyLayer(size);
  for (int i = 0; i < strokes; ++i) {
    BrushStroke stroke(layer, {static_cast<PaintMode>(random() % 3), 2 + 30 * unit(random), unit(random), 1}, below);
    Point at{size.width * unit(random), size.height * unit(random)};
    for (int k = 0; k < 12; ++k) {
      stroke.to(at, 0.3 + 0.7 * unit(random));
      at = at + Point{30 * unit(random) - 15, 30 * unit(random) - 15};
    }
    layer = stroke.layer();
  }
  return layer;
}

bool sameTouches(const Layer& a, const Layer& b) {
  if (a.frame != b.frame) return false;
  for (int y = 0; y < a.frame.height; ++y)
    for (int x = 0; x < a.frame.width; ++x)
      if (a.at(x, y) != b.at(x, y)) return false;
  return true;
}

}  // namespace fixtures
