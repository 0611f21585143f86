// Patterns: a code's map, one plain reading of it, and the whole scan margin of a proof in which it is worked.
#define ZX_USE_UTF8 1
#include <ZXing/ReadBarcode.h>
#include <benchmark/benchmark.h>

#include <cmath>

#include "core/engine/standin/standin.h"
#include "core/image/widen.h"
#include "core/measure/scan.h"
#include "core/pattern/pattern.h"

namespace {

using namespace hscaffold;

pattern::PatternTuning almanacCode() {
  pattern::PatternTuning tuning;
  tuning.says = "pellamere.example/o";
  return tuning;
}

Map codeMap(Size size) {
  return widened(pattern::patternMap(almanacCode(), size, {}),
                 [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535)); });
}

/// A proof of the code in a square, at the usual setting.
const Image<Rgb8>& codeProof() {
  static const Image<Rgb8> proof = [] {
    EngineJob job;
    job.recipe.frame = {768, 512};
    job.recipe.brief.prompt = "a cobbled square, clear morning, gouache";
    Guide guide;
    guide.id = "g1";
    guide.kind = "pattern";
    guide.weight = 1.15;
    guide.range.from = 15;
    job.recipe.guides.push_back({guide, {}, {}, {}, {}, {}});
    GuideInput input;
    input.map = codeMap(job.recipe.frame);
    job.inputs.push_back(std::move(input));
    return StandinEngine().generate(job, {}, {});
  }();
  return proof;
}

void mapOfCode(benchmark::State& state) {
  const auto width = static_cast<int>(state.range(0));
  for (auto _ : state) benchmark::DoNotOptimize(codeMap({width, width * 2 / 3}));
}
BENCHMARK(mapOfCode)->Name("pattern/map of a code")->Arg(768)->Arg(6144)->Unit(benchmark::kMillisecond)->UseRealTime();

/// What a reader does once; the margin looks 24 times.
void readOnce(benchmark::State& state) {
  const auto& proof = codeProof();
  ZXing::DecodeHints hints;
  hints.setFormats(ZXing::BarcodeFormat::QRCode);
  const ZXing::ImageView view(&proof.row(0)->r, proof.width(), proof.height(), ZXing::ImageFormat::RGB,
                              static_cast<int>(proof.stride() * static_cast<std::ptrdiff_t>(sizeof(Rgb8))));
  for (auto _ : state) benchmark::DoNotOptimize(ZXing::ReadBarcode(view, hints));
}
BENCHMARK(readOnce)->Name("pattern/one plain reading")->Unit(benchmark::kMillisecond)->UseRealTime();

void scanMargin(benchmark::State& state) {
  const auto& proof = codeProof();
  const auto asked = codeIn(codeMap(proof.size()).view());
  double margin = 0;
  for (auto _ : state) margin = scanned(proof.view(), asked ? &*asked : nullptr).margin;
  state.counters["margin"] = margin;
}
BENCHMARK(scanMargin)->Name("pattern/scan margin")->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
