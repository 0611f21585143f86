/// Pictures parted into the bands of Laplacian pyramids, some of which are another picture's: of a start picture, of
/// what guides say of detail.
#pragma once

#include <array>
#include <span>
#include <vector>

#include "core/brief/recipe.h"
#include "core/engine/standin/plan.h"
#include "core/guides/kind.h"

namespace hscaffold::standin {

/// L, a and b of OKLab.
using Channels = std::array<Image<float>, 3>;
Channels channelsOf(View<Rgb> linear);
/// How much of each band is made anew, [0, 1], the coarsest first; by channel.
using Fresh = std::array<std::vector<float>, 3>;

/// The plan that is painted shows what the other picture shows, but for what is made anew.
void putBands(Plan& plan, const Channels& other, const Fresh& fresh);
/// The same in a picture, linear. Everything of one size.
Image<Rgb> withBands(View<Rgb> made, const Channels& other, const Fresh& fresh);

/// What guides say of detail, for a picture or a part of one: bands that a load is enough for come from their maps,
/// coarse ones first.
class DetailBands {
 public:
  /// @param whole  size of the picture; @param part  what of it is painted
  DetailBands(std::span<const RecipeGuide> guides, std::span<const GuideInput> inputs, double guidance, int steps,
              Size whole, const Box& part);
  void putInto(Plan& plan) const;
  [[nodiscard]] Image<Rgb> putInto(Image<Rgb> made) const;

 private:
  struct Shown {
    Channels picture;
    Fresh fresh;
    Image<float> where;  ///< how far it acts, [0, 1]; empty: everywhere
  };
  std::vector<Shown> shown_;
};

}  // namespace hscaffold::standin
