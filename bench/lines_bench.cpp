// Line art at 2048x2048: extraction from photographs and paper, thinning against the textbook, tracing.
#include <benchmark/benchmark.h>

#include "core/image/resample.h"
#include "core/lines/lines.h"
#include "core/strokes/thinning.h"
#include "core/strokes/trace.h"
#include "scenes.h"

namespace {

using namespace hscaffold;

constexpr Size size{2048, 2048};

const Image<Rgb>& photograph() {
  static const auto picture =
      resampled(almanac::photograph(almanac::kiteFlyer(), {1024, 1024}, 11).view(), size, Resampling::lanczos3);
  return picture;
}
const Image<Rgb>& sketch() {
  static const auto picture = almanac::sailCartSketch(size, 14);
  return picture;
}
const Image<std::uint16_t>& sketchMap() {
  static const auto map = extractLines(sketch(), {}).map;
  return map;
}

void fromPhotograph(benchmark::State& state) {
  LineTuning tuning;
  tuning.source = LineSource::photograph;
  photograph();
  for (auto _ : state) benchmark::DoNotOptimize(extractLines(photograph(), tuning).map.row(0));
}
void fromPaper(benchmark::State& state) {
  LineTuning tuning;
  tuning.source = LineSource::paper;
  sketch();
  for (auto _ : state) benchmark::DoNotOptimize(extractLines(sketch(), tuning).map.row(0));
}
void tracing(benchmark::State& state) {
  sketchMap();
  for (auto _ : state) benchmark::DoNotOptimize(traced(sketchMap()).strokes.data());
}

/// Zhang and Suen (1984) as it is written in textbooks: the whole picture, again and again, until nothing changes.
Image<std::uint8_t> textbookThinned(View<std::uint8_t> mask) {
  Image<std::uint8_t> map(mask.size());
  for (int y = 0; y < map.height(); ++y) std::copy_n(mask.row(y), map.width(), map.row(y));
  std::vector<std::pair<int, int>> gone;
  for (bool changed = true; changed;) {
    changed = false;
    for (int pass = 0; pass < 2; ++pass) {
      gone.clear();
      for (int y = 1; y + 1 < map.height(); ++y)
        for (int x = 1; x + 1 < map.width(); ++x) {
          if (map(x, y) == 0) continue;
          const int p[8] = {map(x, y - 1), map(x + 1, y - 1), map(x + 1, y), map(x + 1, y + 1),
                            map(x, y + 1), map(x - 1, y + 1), map(x - 1, y), map(x - 1, y - 1)};
          int count = 0, rises = 0;
          for (int i = 0; i < 8; ++i) {
            count += p[i];
            rises += p[i] == 0 && p[(i + 1) % 8] == 1 ? 1 : 0;
          }
          if (count < 2 || count > 6 || rises != 1) continue;
          const bool open = pass == 0 ? p[0] * p[2] * p[4] == 0 && p[2] * p[4] * p[6] == 0
                                      : p[0] * p[2] * p[6] == 0 && p[0] * p[4] * p[6] == 0;
          if (open) gone.emplace_back(x, y);
        }
      for (const auto& [x, y] : gone) map(x, y) = 0;
      changed |= !gone.empty();
    }
  }
  return map;
}

void thinningOurs(benchmark::State& state) {
  const auto mask = lineMask(sketchMap());
  for (auto _ : state) benchmark::DoNotOptimize(thinned(mask).row(0));
}
void thinningTextbook(benchmark::State& state) {
  const auto mask = lineMask(sketchMap());
  for (auto _ : state) benchmark::DoNotOptimize(textbookThinned(mask).row(0));
}

BENCHMARK(fromPhotograph)->Name("line art from a photograph, 4 MP")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(fromPaper)->Name("line art from paper, 4 MP")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(tracing)->Name("tracing, 4 MP")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(thinningOurs)->Name("thinning, 4 MP/ours")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(thinningTextbook)->Name("thinning, 4 MP/theirs: textbook")->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
