// Finals: a large picture against as many pixels of its proof, enlarging and joining against plain ways, a touch-up.
#include <opencv2/imgproc.hpp>

#include "core/engine/standin/standin.h"
#include "core/finish/enlarge.h"
#include "core/finish/touch_up.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "report.h"
#include "scenes.h"

namespace {

using namespace hscaffold;

constexpr Size frame{768, 512};

const Image<Rgb>& teaHouseDrawn() {
  static const Image<Rgb> drawn = almanac::photograph(almanac::teaHouse(), {1536, 1024}, 3);
  return drawn;
}

Recipe recipeFor(const char* medium) {
  Recipe recipe;
  recipe.frame = frame;
  recipe.brief.prompt = std::string("a tea house by the sea, ") + medium;
  recipe.brief.seed = 3;
  return recipe;
}

/// A final four times as wide and high, parts and joins and measures.
void finalOfSixteen(benchmark::State& state, const char* medium) {
  StandinEngine engine;
  const Recipe recipe = recipeFor(medium);
  const auto proof = engine.generate({recipe, {}, {}}, {}, {});
  for (auto _ : state) {
    const auto made =
        pullFinal(engine, {recipe, 1, {4 * frame.width, 4 * frame.height}, 0.3}, proof.view(), {}, nullptr, {}, {});
    state.counters["joins"] = made.joins.energy;
    state.counters["parts"] = made.plan.count();
  }
}

/// Its pixels' share: so many proofs.
void sixteenProofs(benchmark::State& state, const char* medium) {
  StandinEngine engine;
  const Recipe recipe = recipeFor(medium);
  for (auto _ : state)
    for (int i = 0; i < 16; ++i) benchmark::DoNotOptimize(engine.generate({recipe, {}, {}}, {}, {}));
}

void enlargingAlongEdges(benchmark::State& state) {
  const auto picture = resampled(teaHouseDrawn().view(), frame, Resampling::area);
  for (auto _ : state) benchmark::DoNotOptimize(enlargedAlongEdges(picture.view(), {1536, 1024}));
}

void enlargingByLanczos(benchmark::State& state) {
  auto picture = resampled(teaHouseDrawn().view(), frame, Resampling::area);
  const cv::Mat from(frame.height, frame.width, CV_32FC3, picture.row(0),
                     static_cast<std::size_t>(picture.stride()) * sizeof(Rgb));
  for (auto _ : state) {
    cv::Mat to;
    cv::resize(from, to, {1536, 1024}, 0, 0, cv::INTER_LANCZOS4);
    benchmark::DoNotOptimize(to.data);
  }
}

void joiningTiles(benchmark::State& state, bool plainly) {
  const auto picture = toSrgb8(resampled(teaHouseDrawn().view(), {3072, 2048}).view());
  const TilePlan plan = tilesFor(picture.size(), 1'000'000, 8);
  for (auto _ : state) {
    if (plainly) {
      Image<Rgb8> out(picture.size());
      for (const Box& tile : plan.tiles)
        for (int y = tile.top; y < tile.bottom; ++y)
          std::copy_n(picture.row(y) + tile.left, tile.width(), out.row(y) + tile.left);
      benchmark::DoNotOptimize(out.row(0));
    } else {
      TileJoiner joiner(plan);
      for (const Box& tile : plan.tiles) joiner.lay(partOf(picture.view(), tile));
      benchmark::DoNotOptimize(joiner.picture().row(0));
    }
  }
}

/// One try at four times the detail, from the words to the PNG.
void touchUpAtFour(benchmark::State& state) {
  StandinEngine engine;
  const Recipe recipe = recipeFor("gouache");
  const auto below = toSrgb8(resampled(teaHouseDrawn().view(), {1536, 1024}).view());
  TouchUp touchUp;
  TouchShape shape;
  shape.lines = {{{0.4, 0.4}, {0.47, 0.4}, {0.47, 0.5}, {0.4, 0.5}}};
  touchUp.region = {shape};
  touchUp.detail = 4;
  for (auto _ : state)
    benchmark::DoNotOptimize(pullTry(engine, recipe, touchUp, below.view(), 3, {}, nullptr, {}, {}).picture.row(0));
}

BENCHMARK_CAPTURE(finalOfSixteen, watercolour, "watercolour")
    ->Name("finish/final 16 times, watercolour/ours")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(1);
BENCHMARK_CAPTURE(sixteenProofs, watercolour, "watercolour")
    ->Name("finish/final 16 times, watercolour/theirs: 16 proofs")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(1);
BENCHMARK_CAPTURE(finalOfSixteen, gouache, "gouache")
    ->Name("finish/final 16 times, gouache/ours")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(1);
BENCHMARK_CAPTURE(sixteenProofs, gouache, "gouache")
    ->Name("finish/final 16 times, gouache/theirs: 16 proofs")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(1);
BENCHMARK(enlargingAlongEdges)->Name("finish/enlarge twice/ours")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(enlargingByLanczos)
    ->Name("finish/enlarge twice/theirs: Lanczos")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(joiningTiles, seams, false)->Name("finish/join/ours")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(joiningTiles, plain, true)
    ->Name("finish/join/theirs: pasted")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(touchUpAtFour)->Name("finish/touch-up at 4 times/ours")->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
