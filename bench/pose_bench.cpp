// Posing: what one movement of the pointer costs, for the limb alone and for the whole body, and drawing of figures.
#include <benchmark/benchmark.h>

#include <cmath>
#include <opencv2/core/utility.hpp>

#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/networks/models.h"
#include "core/networks/network.h"
#include "core/pose/find/network_finder.h"
#include "core/pose/fit.h"
#include "core/pose/library.h"
#include "core/pose/pose_map.h"
#include "core/pose/posing.h"
#include "core/pose/solids.h"

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

/// A look of the network that finds people at 256 x 256; skipped where it is not installed.
void oneLook(benchmark::State& state) {
  const auto path = networks::modelNamed("figures.onnx");
  if (path.empty()) return state.SkipWithError("figures.onnx is not installed");
  networks::Network network(readWholeFile(path), "figures.onnx");
  const networks::Tensor input{{1, 3, 256, 256}, std::vector<float>(std::size_t{3} * 256 * 256, 0.5f)};
  cv::setNumThreads(1);
  for (auto _ : state) benchmark::DoNotOptimize(network.run(input));
  cv::setNumThreads(2);
}

/// Two plain bodies on a plain ground.
Image<Rgb> twoPeople(int side) {
  Image<Rgb> out(side, side);
  for (int y = 0; y < side; ++y) std::fill_n(out.row(y), side, Rgb{0.35f, 0.45f, 0.5f});
  for (const double x : {0.3, 0.7}) {
    const auto figure =
        figureFrom(skeletonOf("human"), housePoses()[0].pose, {{x * side, 0.52 * side}, 0.6 * side, {}});
    for (const auto& solid : solidsOf(figure)) {
      const bool bare = solid.solid->of == Solid::Of::head || solid.solid->of == Solid::Of::hand;
      const Rgb colour = bare                                ? Rgb{0.6f, 0.35f, 0.25f}
                         : solid.solid->of == Solid::Of::leg ? Rgb{0.05f, 0.06f, 0.15f}
                                                             : Rgb{0.5f, 0.1f, 0.08f};
      for (int py = 0; py < side; ++py)
        for (int px = 0; px < side; ++px)
          if (distanceTo(solid, {px + 0.5, py + 0.5}) < 0) out(px, py) = colour;
    }
  }
  return out;
}

void findingTwo(benchmark::State& state) {
  if (!canFind(Sought::people)) return state.SkipWithError("figures.onnx is not installed");
  const auto picture = twoPeople(1024);
  NetworkFinder finder;
  std::size_t found = 0;
  cv::setNumThreads(1);
  for (auto _ : state) found = finder.find(picture, {}).size();
  cv::setNumThreads(2);
  state.counters["found"] = static_cast<double>(found);
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
BENCHMARK(oneLook)->Name("find people/one look 256x256, one thread")->Unit(benchmark::kMillisecond);
BENCHMARK(findingTwo)->Name("find people/two at 1024x1024, one thread")->Unit(benchmark::kMillisecond);
BENCHMARK(bodyDrag)->Name("pose body drag (fit)")->Unit(benchmark::kMillisecond);
BENCHMARK(liftToBody)->Name("pose lift from the picture")->Unit(benchmark::kMillisecond);
BENCHMARK(drawTwenty)->Name("pose map, 20 figures, 1024x1024")->Unit(benchmark::kMillisecond);

}  // namespace
