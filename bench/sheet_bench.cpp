// Sheets: what a proof's measures cost, a strip from the click to its last proof with the window drawn meanwhile, and a
// study with a thousand proofs.
#include <QElapsedTimer>
#include <QScrollBar>

#include "app/sheet/sheet_view.h"
#include "core/job/pull.h"
#include "core/kinds.h"
#include "core/measure/hold.h"
#include "core/measure/shift.h"
#include "core/study/study_file.h"
#include "open_window.h"

namespace {

using namespace hscaffold;
using namespace hscaffold::app;

constexpr Size sheetFrame{768, 512};

/// Edges, tone and depth against a proof, and how far it moved.
void measuresOfOneProof(benchmark::State& state) {
  const auto reference = toSrgb8(almanac::photograph(almanac::kiteFlyer(), sheetFrame, 3).view());
  const auto proof = toSrgb8(almanac::photograph(almanac::teaHouse(), sheetFrame, 5).view());
  const auto picture = toLinear(reference.view());
  EngineJob job;
  for (const char* kind : {"edges", "tone", "depth"}) {
    ExtractionCache cache;
    GuideInput input;
    input.map = kindOf(kind).extract(picture.view(), {}, cache, {}).map;
    job.inputs.push_back(std::move(input));
    RecipeGuide entry;
    entry.guide.id = entry.guide.kind = kind;
    job.recipe.guides.push_back(entry);
  }
  const ShiftGround from(reference);  // once for a whole sheet
  for (auto _ : state) benchmark::DoNotOptimize(measuresOf(job, &from, proof.view()));
}

/// One kind's hold alone.
void holdOfOneProof(benchmark::State& state, const char* kind) {
  const auto picture = almanac::photograph(almanac::kiteFlyer(), sheetFrame, 3);
  const auto proof = toSrgb8(almanac::photograph(almanac::teaHouse(), sheetFrame, 5).view());
  ExtractionCache cache;
  GuideInput input;
  input.map = kindOf(kind).extract(picture.view(), {}, cache, {}).map;
  for (auto _ : state) benchmark::DoNotOptimize(holdingOf(kindOf(kind), input, proof.view()));
}

void shiftOfOneProof(benchmark::State& state) {
  const auto reference = toSrgb8(almanac::photograph(almanac::kiteFlyer(), sheetFrame, 3).view());
  const auto proof = toSrgb8(almanac::photograph(almanac::teaHouse(), sheetFrame, 5).view());
  for (auto _ : state) benchmark::DoNotOptimize(shiftBetween(reference.view(), proof.view()));
}

/// 25 cells at 384 x 256, 20 steps, three guides; how long the window takes to come round meanwhile.
void stripOf25(benchmark::State& state) {
  Open open({384, 256});
  addGuide(open.desk.document, "tone");
  addGuide(open.desk.document, "depth");
  while (!open.desk.idle()) QTest::qWait(5);
  open.desk.document.change("Prompt", [](StudyState& s) { s.brief.prompt = "a tea house at dusk, gouache"; });
  open.window->showView(1);
  const std::string id = open.desk.document.state().guides[0].id;
  std::vector<double> rounds;
  for (auto _ : state) {
    SheetPlan plan;
    plan.base = recipeOf(open.desk.document.state());
    plan.axes = {axisOver(Setting::weight, id, 0.2, 1, 5), axisOver(Setting::end, id, 20, 100, 5)};
    plan.seeds = {static_cast<std::uint32_t>(state.iterations())};
    const std::int64_t sheet = open.desk.queue.pullSheet(plan);
    open.desk.document.look([&](Looking& looking) { looking.sheet = sheet; });
    auto& grid = open.window->findChild<SheetView*>()->grid();
    while (!open.desk.queue.all().empty()) {
      QElapsedTimer timer;
      timer.start();
      QCoreApplication::processEvents(QEventLoop::AllEvents);
      grid.viewport()->repaint();
      rounds.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
      QTest::qWait(10);
    }
  }
  percentiles(state, rounds);
}

/// A study with a thousand proofs: from the click on Sheet to the painted view, then scrolled to the end.
void thousandProofs(benchmark::State& state) {
  Open open(sheetFrame);
  FinishedProof proof;
  proof.picture = Image<Rgb8>(96, 64);
  proof.info.recipe = recipeOf(open.desk.document.state());
  proof.png = encodePng(proof.picture.view(), textsFor(proof.info.recipe));
  const auto small = toSrgb8(almanac::photograph(almanac::teaHouse(), {256, 170}, 3).view());
  proof.thumbnail = encodePng(small.view());
  auto& file = *open.desk.document.file();
  for (int i = 0; i < 1000; ++i) {
    proof.info.holds[open.desk.document.state().guides[0].id] = i % 101;
    proof.info.shift = (i * 37) % 101;
    proof.info.recipe.brief.seed = static_cast<std::uint32_t>(i);
    file.addProof(proof.info, proof.png, proof.thumbnail);
  }
  const auto path = open.desk.document.path();
  std::vector<double> frames;
  double opening = 0;
  for (auto _ : state) {
    open.window->showView(0);
    open.desk.document.open(path);
    QCoreApplication::processEvents();
    QElapsedTimer timer;
    timer.start();
    open.window->showView(1);
    auto& view = *open.window->findChild<SheetView*>();
    view.repaint();
    QCoreApplication::processEvents();
    opening = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    QScrollBar& bar = *view.grid().verticalScrollBar();
    for (int at = 0; at < bar.maximum(); at += 60) {
      timer.restart();
      bar.setValue(at);
      view.grid().viewport()->repaint();
      QCoreApplication::processEvents();
      frames.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    }
  }
  percentiles(state, frames);
  state.counters["open_ms"] = opening;
}

BENCHMARK(measuresOfOneProof)->Name("sheet/measures of a proof 768x512")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(holdOfOneProof, edges, "edges")
    ->Name("sheet/hold of edges 768x512")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(holdOfOneProof, tone, "tone")
    ->Name("sheet/hold of tone 768x512")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(holdOfOneProof, depth, "depth")
    ->Name("sheet/hold of depth 768x512")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(shiftOfOneProof)->Name("sheet/shift 768x512")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(stripOf25)
    ->Name("sheet/strip of 25 cells 384x256")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(2);
BENCHMARK(thousandProofs)->Name("sheet/1000 proofs")->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(2);

}  // namespace
