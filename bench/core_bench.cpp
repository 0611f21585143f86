#include <benchmark/benchmark.h>

#include <cmath>
#include <map>
#include <opencv2/imgproc.hpp>

#include "core/edge_finding/edges.h"
#include "core/engine/standin/layout.h"
#include "core/engine/standin/standin.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "scenes.h"

namespace {

using namespace hscaffold;

constexpr double sigma = 1.4;

/// The kite flyer at about so many megapixels, made from one drawing by enlarging, with grain of each size's own.
const Image<Rgb>& sceneOf(int hundredths) {
  static std::map<int, Image<Rgb>> scenes;
  static const Image<Rgb> drawn = almanac::photograph(almanac::teaHouse(), {768, 512}, 3);
  if (!scenes.contains(hundredths)) {
    const double height = std::sqrt(hundredths * 1e4 / 1.5);
    scenes[hundredths] = resampled(drawn.view(), {static_cast<int>(height * 1.5), static_cast<int>(height)});
    unsigned state = 1;
    for (int y = 0; y < scenes[hundredths].height(); ++y)
      for (Rgb& c : scenes[hundredths].line(y)) {
        state = state * 1664525U + 1013904223U;
        const float grain = 1 + 0.03f * (static_cast<float>(state >> 16) / 32768.0f - 1);
        c = c * grain;
      }
  }
  return scenes[hundredths];
}

cv::Mat greyOf(int hundredths) {
  const auto& scene = sceneOf(hundredths);
  cv::Mat grey(scene.height(), scene.width(), CV_8UC1);
  for (int y = 0; y < scene.height(); ++y)
    for (int x = 0; x < scene.width(); ++x) grey.at<std::uint8_t>(y, x) = linearToSrgb8(luminance(scene(x, y)));
  return grey;
}

EdgeTuning tuning() {
  EdgeTuning t;
  t.sigma = sigma;
  t.thresholds = EdgeThresholds::magnitude;
  t.low = 0.04;
  t.high = 0.10;
  t.shortest = 1;  // OpenCV keeps every length
  return t;
}

/// From an encoded plane to the map, as OpenCV goes from a grey picture to the map.
void edgesOurs(benchmark::State& state) {
  const auto plane = encodedLuminance(sceneOf(static_cast<int>(state.range(0))));
  for (auto _ : state) benchmark::DoNotOptimize(extractEdges(plane.view(), tuning()));
}
void edgesTheirs(benchmark::State& state) {
  const cv::Mat grey = greyOf(static_cast<int>(state.range(0)));
  cv::setNumThreads(2);
  cv::Mat soft, map;
  for (auto _ : state) {
    cv::GaussianBlur(grey, soft, {}, sigma);
    cv::Canny(soft, map, 40, 100, 3, true);
    benchmark::DoNotOptimize(map.data);
  }
}
/// From linear colour.
void edgesColourInput(benchmark::State& state) {
  const auto& scene = sceneOf(static_cast<int>(state.range(0)));
  EdgeTuning t = tuning();
  t.gradient = state.range(1) != 0 ? EdgeGradient::colour : EdgeGradient::luminance;
  for (auto _ : state) benchmark::DoNotOptimize(extractEdges(scene, t));
}
/// What moving a threshold costs, at the default shortest length.
void thresholdMove(benchmark::State& state) {
  const auto& scene = sceneOf(static_cast<int>(state.range(0)));
  const auto field = edgeField(scene, EdgeGradient::luminance, sigma);
  EdgeTuning t = tuning();
  t.shortest = 12;
  for (auto _ : state) {
    t.high = t.high > 0.3 ? 0.05 : t.high + 0.01;
    benchmark::DoNotOptimize(drawEdges(field, t));
  }
}
BENCHMARK(edgesOurs)
    ->Name("edges/ours")
    ->Arg(25)
    ->Arg(100)
    ->Arg(400)
    ->Arg(1600)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(edgesTheirs)
    ->Name("edges/theirs")
    ->Arg(25)
    ->Arg(100)
    ->Arg(400)
    ->Arg(1600)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(edgesColourInput)
    ->Name("edges from linear colour")
    ->Args({400, 0})
    ->Args({400, 1})
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(thresholdMove)->Name("threshold moved")->Arg(105)->Arg(400)->Unit(benchmark::kMillisecond)->UseRealTime();

void resampleOurs(benchmark::State& state) {
  const auto& scene = sceneOf(400);
  const auto method = state.range(0) != 0 ? Resampling::lanczos3 : Resampling::area;
  for (auto _ : state) benchmark::DoNotOptimize(resampled(scene.view(), {1200, 800}, method));
}
void resampleTheirs(benchmark::State& state) {
  const auto& scene = sceneOf(400);
  cv::Mat picture(scene.height(), scene.width(), CV_32FC3), small;
  for (int y = 0; y < scene.height(); ++y)
    std::memcpy(picture.ptr(y), scene.row(y), static_cast<std::size_t>(scene.width()) * sizeof(Rgb));
  for (auto _ : state) {
    // OpenCV's Lanczos does not widen when shrinking, so it does less than is asked of ours.
    cv::resize(picture, small, {1200, 800}, 0, 0, state.range(0) != 0 ? cv::INTER_LANCZOS4 : cv::INTER_AREA);
    benchmark::DoNotOptimize(small.data);
  }
}
BENCHMARK(resampleOurs)
    ->Name("resampling 4 MP to 1 MP/ours")
    ->Arg(0)
    ->Arg(1)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(resampleTheirs)
    ->Name("resampling 4 MP to 1 MP/theirs")
    ->Arg(0)
    ->Arg(1)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

EngineJob standinJob(const char* prompt) {
  EngineJob job;
  job.recipe.frame = {768, 512};
  job.recipe.brief.prompt = prompt;
  RecipeGuide guide;
  guide.guide.kind = "edges";
  guide.guide.weight = 0.8;
  job.recipe.guides.push_back(guide);
  ExtractionCache cache;
  const auto scene = resampled(sceneOf(100).view(), {768, 512});
  job.inputs.emplace_back();
  job.inputs.back().map = kindOf("edges").extract(scene, {}, cache, {}).map;
  return job;
}
void standinWhole(benchmark::State& state) {
  constexpr const char* prompts[] = {"a dune, gouache", "a dune, oil",    "a dune, watercolour", "a dune, ink",
                                     "a dune, woodcut", "a dune, pencil", "a dune, photograph"};
  const auto job = standinJob(prompts[state.range(0)]);
  StandinEngine engine;
  const EngineSink sink = [](const EngineProgress& progress) { benchmark::DoNotOptimize(progress.step); };
  for (auto _ : state) benchmark::DoNotOptimize(engine.generate(job, sink, {}));
  state.SetLabel(prompts[state.range(0)]);
}
/// One step with its preview, by the difference between few and many steps.
void standinSteps(benchmark::State& state) {
  auto job = standinJob("a dune, photograph");
  job.recipe.brief.steps = static_cast<int>(state.range(0));
  StandinEngine engine;
  const EngineSink sink = [](const EngineProgress& progress) { benchmark::DoNotOptimize(progress.step); };
  for (auto _ : state) benchmark::DoNotOptimize(engine.generate(job, sink, {}));
}
BENCHMARK(standinWhole)
    ->Name("stand-in 768x512, 20 steps, 1 guide")
    ->DenseRange(0, 6)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(standinSteps)->Name("stand-in by steps")->Arg(10)->Arg(30)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
