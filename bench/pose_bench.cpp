// Posing: what one movement of the pointer costs, for the limb alone and for the whole body, and drawing of figures.
#include <benchmark/benchmark.h>

#include <cmath>

#include "core/pose/fit.h"
#include "core/pose/library.h"
#include "core/pose/pose_map.h"
#include "core/pose/posing.h"

namespace {

using namespace hscaffold;
using namespace hscaffold::pose;

Figure standing(double size = 600) {
  return figureFrom(skeletonOf("human"), housePoses()[0].pose, {{512, 500}, size, {}});
}

Point wristAt(int step, const Figure& figure) {
  const double angle = 0.07 * step;
  return figure.points[5].at + Point{std::cos(angle), std::sin(angle)} * (0.28 * sizeOf(figure));
}

void limbDrag(benchmark::State& state) {
  const Figure start = standing();
  int step = 0;
  for (auto _ : state) benchmark::DoNotOptimize(dragged(start, 9, wristAt(++step, start)));
}

/// FABRIK alone on the arm of three points, as the paper has it: the plain comparison for `limbDrag`, which also keeps
/// limits and pins and takes along what hangs on the arm.
void plainChain(benchmark::State& state) {
  const Figure start = standing();
  int step = 0;
  for (auto _ : state) {
    Point chain[3] = {start.points[5].at, start.points[7].at, start.points[9].at};
    const double a = distanceBetween(chain[0], chain[1]), b = distanceBetween(chain[1], chain[2]);
    const Point base = chain[0], to = wristAt(++step, start);
    for (int round = 0; round < 60; ++round) {
      chain[2] = to;
      chain[1] = chain[2] + normalised(chain[1] - chain[2]) * b;
      chain[0] = chain[1] + normalised(chain[0] - chain[1]) * a;
      chain[0] = base;
      chain[1] = chain[0] + normalised(chain[1] - chain[0]) * a;
      chain[2] = chain[1] + normalised(chain[2] - chain[1]) * b;
      if (distanceBetween(chain[2], to) < 0.01) break;
    }
    benchmark::DoNotOptimize(chain);
  }
}

void bodyDrag(benchmark::State& state) {
  const auto starts = startsFor("human");
  const Figure start = standing();
  const std::vector<std::size_t> led = {10, 15, 16};
  int step = 0;
  for (auto _ : state) benchmark::DoNotOptimize(ledBy(start, 9, wristAt(++step, start), led, starts));
}

void liftToBody(benchmark::State& state) {
  const auto starts = startsFor("human");
  Figure flat = standing();
  flat.body.reset();
  for (auto _ : state) benchmark::DoNotOptimize(lifted(flat, starts));
}

void drawTwenty(benchmark::State& state) {
  Figures figures;
  figures.frame = {1024, 1024};
  for (int i = 0; i < 20; ++i)
    figures.figures.push_back(
        std::make_shared<const Figure>(figureFrom(skeletonOf("human"), housePoses()[static_cast<std::size_t>(i)].pose,
                                                  {{60.0 + 45 * i, 300.0 + 20 * i}, 150.0 + 15 * i, {}})));
  for (auto _ : state) benchmark::DoNotOptimize(drawnFigures(figures, figures.frame, houseInks()));
}

BENCHMARK(limbDrag)->Name("pose limb drag/ours")->Unit(benchmark::kMicrosecond);
BENCHMARK(plainChain)->Name("pose limb drag/plain FABRIK")->Unit(benchmark::kMicrosecond);
BENCHMARK(bodyDrag)->Name("pose body drag (fit)")->Unit(benchmark::kMillisecond);
BENCHMARK(liftToBody)->Name("pose lift from the picture")->Unit(benchmark::kMillisecond);
BENCHMARK(drawTwenty)->Name("pose map, 20 figures, 1024x1024")->Unit(benchmark::kMillisecond);

}  // namespace
