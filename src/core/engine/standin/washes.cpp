// Watercolour: transparent washes with darkened edges, blooms, pigment that settles in the paper (after Bousseau et al.
// 2006: one pigment density per pixel, changed by turbulence, edges and paper), and whites left bare.
#include <cmath>

#include "core/engine/standin/noise.h"
#include "core/engine/standin/painting.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {

Image<Rgb> paintedInWashes(const Plan& plan, std::uint64_t seed, StopToken stop) {
  const Size size = plan.colour.size();
  const float unitSize = plan.place.unit();
  // Wet paint wanders: the plan is read a little beside its place.
  Image<Rgb> wash(size);
  parallelRows(size.height, [&](int first, int end) {
    FractalWalk aside(seed, 3), down(seed + 2, 3);
    NoiseWalk fineAside(seed + 1), fineDown(seed + 3);
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        const float u = plan.place.x(x) / unitSize, v = plan.place.y(y) / unitSize;
        const float dx = (2.2f * aside.at(u / 18, v / 18) + 0.8f * fineAside.at(u / 4, v / 4)) * unitSize;
        const float dy = (2.2f * down.at(u / 18, v / 18) + 0.8f * fineDown.at(u / 4, v / 4)) * unitSize;
        const OkLab c = plan.colour.view().clamped(static_cast<int>(std::lround(static_cast<float>(x) + dx)),
                                                   static_cast<int>(std::lround(static_cast<float>(y) + dy)));
        wash(x, y) = {c.l, c.a, c.b};
      }
  });
  throwIfStopped(stop);
  const auto wet = broadBlur(wash.view(), 1.1f * unitSize);
  const auto pool = broadBlur(wash.view(), 5.5f * unitSize);
  throwIfStopped(stop);
  Image<Rgb> out(size);
  parallelRows(size.height, [&](int first, int end) {
    FractalWalk clouds(seed + 4, 4);
    PaperGrain paperGrain(seed + 5);
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const float u = plan.place.x(x) / unitSize, v = plan.place.y(y) / unitSize;
        const Rgb c = wet(x, y), around = pool(x, y);
        // Pigment gathers on the darker side of a border.
        const float border = std::clamp((around.r - c.r) * 5.0f, 0.0f, 0.6f);
        const float cloudy = clouds.at(u / 60, v / 60);
        const float grain = paperGrain.at(plan.place.x(x), plan.place.y(y)) - 0.5f;
        float density = 0.86f + 0.34f * cloudy + 0.30f * grain + 0.9f * border;
        // Blooms where the light is: paper left bare.
        const float bare = smoothStep(0.86f, 0.97f, c.r + 0.12f * cloudy);
        density *= 1 - 0.85f * bare;
        const OkLab paper{0.965f, 0.001f, 0.012f};
        const float lightness = std::pow(std::clamp(0.14f + 0.86f * c.r, 0.02f, 1.0f), std::max(0.15f, density));
        const float chroma = std::clamp(0.80f + 0.45f * density * 0.6f, 0.0f, 1.5f) * (1 - 0.8f * bare);
        OkLab colour{std::min(paper.l, lightness), paper.a + c.g * chroma, paper.b * 0.5f + c.b * chroma};
        colour.l -= 0.012f * grain;
        // A pencil line under the paint.
        const float line = std::min(1.0f, plan.line(x, y)) * (0.72f + 0.5f * grain);
        colour.l = blend(colour.l, colour.l * blend(0.45f, 0.12f, burntIn(plan.line(x, y))),
                         0.85f * std::clamp(line, 0.0f, 1.0f));
        out(x, y) = okLabToLinearInGamut(colour);
      }
    }
  });
  return out;
}

}  // namespace hscaffold::standin
