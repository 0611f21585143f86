/// Scenes for learning: a picture, and what is true of it. Deterministic by seed.
#pragma once

#include <string>
#include <vector>

#include "core/image/image.h"

namespace hscaffold::training {

enum class Visibility : std::uint8_t { outside, hiddenByOther, hiddenByItself, seen };

struct TruePoint {
  float x = 0, y = 0;  ///< pixels, centres at +0.5
  Visibility visibility = Visibility::outside;
};
struct TrueFigure {
  std::vector<TruePoint> points;                   ///< the body's points of the skeleton, in its order
  float left = 0, top = 0, right = 0, bottom = 0;  ///< of what is seen of it, pixels
  float size = 0;                                  ///< standing height at its distance, pixels
};

struct Scene {
  Image<Rgb8> picture;
  Image<float> near;           ///< 1 / metres; 0 for what is endlessly far
  Image<std::uint8_t> figure;  ///< 255 where a person is seen, 128 an animal
  std::vector<TrueFigure> people, animals;
};

/// What a scene is about.
enum class Theme { figures, crowd, portrait, indoors, animals, land, room, closeUp, heap };
const char* nameOf(Theme theme);
/// Some themes for people, some for animals, some for depth alone.
enum class Use { figures, animals, depth, both };
Theme themeFor(std::uint64_t seed, Use use);

Scene sceneOf(std::uint64_t seed, Size size, Use use);

/// How a rendered picture is drawn. Exposed for the contact sheet.
enum class Style { shaded, painted, flat, outlined, sketched };

}  // namespace hscaffold::training
