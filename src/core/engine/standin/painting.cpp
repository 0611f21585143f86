#include "core/engine/standin/painting.h"

#include <cmath>

#include "core/engine/standin/noise.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {

Image<Rgb> planPicture(const Plan& plan) {
  Image<Rgb> out(plan.colour.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) {
        OkLab c = plan.colour(x, y);
        c.l *= 1 - blend(0.45f, 0.8f, burntIn(plan.line(x, y))) * std::min(1.0f, plan.line(x, y));
        out(x, y) = okLabToLinearInGamut(c);
      }
  });
  return out;
}

Image<float> lightnessOf(const Plan& plan) {
  Image<float> out(plan.colour.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out(x, y) = plan.colour(x, y).l;
  return out;
}

Image<float> drawnLightnessOf(const Plan& plan) {
  auto out = lightnessOf(plan);
  std::array<int, 256> histogram{};
  const Image<OkLab>& all = plan.ofAll().colour;
  for (int y = 0; y < all.height(); ++y)
    for (const auto& [v, a, b] : all.line(y)) ++histogram[static_cast<std::size_t>(std::clamp(v, 0.0f, 0.999f) * 256)];
  const auto at = [&](double share) {
    double below = 0;
    for (std::size_t b = 0; b < histogram.size(); ++b) {
      below += histogram[b];
      if (below >= share * static_cast<double>(all.size().area())) return static_cast<float>(b) / 255;
    }
    return 1.0f;
  };
  const float low = at(0.03), high = std::max(at(0.93), low + 0.15f),
              middle = std::clamp((at(0.5) - low) / (high - low), 0.1f, 0.9f);
  // The middle of the picture comes to lie a little above middle grey.
  const float bend = std::clamp(std::log(0.66f) / std::log(middle), 0.45f, 1.6f);
  for (int y = 0; y < out.height(); ++y)
    for (float& v : out.line(y)) v = 0.17f + 0.80f * std::pow(std::clamp((v - low) / (high - low), 0.0f, 1.15f), bend);
  return out;
}

float PaperGrain::at(float x, float y) {
  return 0.5f + 0.28f * middle_.at(x / 2.3f, y / 2.3f) + 0.16f * fine_.at(x / 1.1f, y / 1.1f) +
         0.10f * broad_.at(x / 9.0f, y / 9.0f);
}

float reachOfMedium(Medium medium) {
  switch (medium) {
    case Medium::gouache:
    case Medium::oil:
    case Medium::woodcut:
      return 48;
    case Medium::pencil:
    case Medium::photograph:
      return 40;
    case Medium::ink:
      return 32;
    case Medium::watercolour:
      return 24;
    case Medium::flat:
      return 16;
  }
  return 48;
}

Image<Rgb> painted(const Plan& plan, const Wishes& wishes, std::uint64_t seed, StopToken stop) {
  switch (wishes.medium()) {
    case Medium::gouache:
      return paintedInStrokes(plan, false, wishes[Trait::wild] - wishes[Trait::calm], seed, stop);
    case Medium::oil:
      return paintedInStrokes(plan, true, wishes[Trait::wild] - wishes[Trait::calm], seed, stop);
    case Medium::watercolour:
      return paintedInWashes(plan, seed, stop);
    case Medium::ink:
      return drawnInInk(plan, seed, stop);
    case Medium::woodcut:
      return cutInWood(plan, seed, stop);
    case Medium::pencil:
      return drawnInPencil(plan, seed, stop);
    case Medium::flat:
      return printedInScreens(plan, seed, stop);
    case Medium::photograph:
      return photographed(plan, seed, stop);
  }
  return planPicture(plan);
}

}  // namespace hscaffold::standin
