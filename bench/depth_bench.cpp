// Depth: the first map of a picture, a hint that changes it, the guided filter against six plain box filters (all it
// is made of), and the relief.
#include <benchmark/benchmark.h>

#include <opencv2/imgproc.hpp>

#include "core/depth/depth.h"
#include "core/depth/reading.h"
#include "core/guide_map.h"
#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "scenes.h"

namespace {

using namespace hscaffold;

constexpr Size frame{1024, 1024};

const Image<Rgb>& picture() {
  static const auto made = resampled(almanac::photograph(almanac::teaHouse(), {512, 512}, 12).view(), frame);
  return made;
}

TakenWork hinted(double near) {
  TakenWork taken;
  depth::Hint hint;
  hint.spots = {{300, 300}, {420, 340}};
  hint.near = near;
  taken.own.put(depth::hintsSlot, std::make_shared<const depth::Hints>(depth::Hints{frame, {}, {hint}}));
  return taken;
}

Guide guide() {
  Guide out;
  out.kind = "depth";
  return out;
}

void firstDepth(benchmark::State& state) {
  picture();  // drawn before the clock runs
  for (auto _ : state) {
    ExtractionCache cache;
    benchmark::DoNotOptimize(mapBelow(guide(), picture(), {frame, {}}, {}, cache));
  }
}

/// From the end of a stroke to the map: the picture is known, its cues are kept.
void depthAfterAHint(benchmark::State& state) {
  ExtractionCache cache;
  benchmark::DoNotOptimize(mapBelow(guide(), picture(), {frame, {}}, {}, cache));
  double near = 0.2;
  for (auto _ : state) {
    near = near > 0.9 ? 0.2 : near + 0.05;
    benchmark::DoNotOptimize(mapBelow(guide(), picture(), {frame, {}}, hinted(near), cache));
  }
}

void guidedFilterOurs(benchmark::State& state) {
  const auto light = luminanceOf(picture());
  for (auto _ : state) benchmark::DoNotOptimize(guidedFilter(light, light, 16, 0.0004f));
}

/// What a guided filter cannot do without: six means over boxes.
void guidedFilterBoxes(benchmark::State& state) {
  const auto light = luminanceOf(picture());
  cv::Mat plain(frame.height, frame.width, CV_32F), out;
  for (int y = 0; y < frame.height; ++y) std::copy_n(light.row(y), frame.width, plain.ptr<float>(y));
  for (auto _ : state)
    for (int i = 0; i < 6; ++i) {
      cv::blur(plain, out, {33, 33});
      benchmark::DoNotOptimize(out.data);
    }
}

void reliefDrawn(benchmark::State& state) {
  ExtractionCache cache;
  const auto map = mapBelow(guide(), picture(), {frame, {}}, {}, cache).map.clone();
  const auto colours = toSrgb8(picture());
  double turn = -40;
  for (auto _ : state) {
    turn = turn > 40 ? -40 : turn + 3;
    benchmark::DoNotOptimize(depth::relief(map, colours, {turn, 20, 0.5, 0.9}, {640, 480}, {}));
  }
}

BENCHMARK(firstDepth)->Name("depth/first 1024x1024")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(depthAfterAHint)->Name("depth/after a hint 1024x1024")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(guidedFilterOurs)->Name("guided filter 1024x1024/ours")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(guidedFilterBoxes)
    ->Name("guided filter 1024x1024/theirs (six box filters)")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(reliefDrawn)->Name("depth/relief 640x480")->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
