#include "core/engine/standin/standin.h"

#include <chrono>
#include <cmath>

#include "core/engine/standin/assembly.h"
#include "core/engine/standin/layout.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/painting.h"

namespace hscaffold {
namespace {

using namespace standin;

/// The layout is half as large as the frame, within limits: painting makes the rest. Small frames get a full one.
Size layoutSize(Size frame) {
  const double longer = std::max(frame.width, frame.height);
  const double scale = std::min(1.0, std::clamp(longer / 2, 384.0, 640.0) / longer);
  return {std::max(16, static_cast<int>(std::lround(frame.width * scale))),
          std::max(16, static_cast<int>(std::lround(frame.height * scale)))};
}

struct Work {
  Wishes wishes;
  std::uint64_t seed;
  Composition picture;
  Layout layout;
};

Work begun(const EngineJob& job) {
  const Brief& brief = job.recipe.brief;
  Wishes wishes = wishesFrom(brief.prompt, brief.avoid, brief.guidance);
  const std::uint64_t seed = mixed(0x5ca4f01d, brief.seed);
  const Composition place = compose(wishes, seed, layoutSize(job.recipe.frame));
  std::vector<Wanted> wanted;
  std::vector<LoadCurve> loads;
  for (std::size_t g = 0; g < job.inputs.size(); ++g) {
    const Guide& guide = job.recipe.guides[g].guide;
    loads.emplace_back(guide, brief.guidance, brief.steps);
    wanted.push_back(wantedBy(guide.kind, {job.inputs[g], place, loads.back(), mixed(seed, 500)}));
  }
  Composition picture = assembled(place, wanted, loads);
  Layout layout(picture, std::move(wanted), job.recipe.guides, brief.guidance, brief.steps, mixed(seed, 9));
  return {std::move(wishes), seed, std::move(picture), std::move(layout)};
}

double modelMilliseconds(const Recipe& recipe) {
  const double million = static_cast<double>(recipe.frame.area()) / 1e6;
  const double guides = static_cast<double>(recipe.guides.size());
  return 30 + million * (650 + 60 * guides) + recipe.brief.steps * (2.0 + million * (4 + 2 * guides));
}

}  // namespace

EngineInfo StandinEngine::info() const {
  return {
      "stand-in 2", "Built-in stand-in",
      "A simulation without a learned model. It answers to weights, ranges, seeds and words as a generator would, so "
      "that balance can be found cheaply; its pictures are its own.",
      8, 32'000'000};
}

double StandinEngine::estimate(const Recipe& recipe) const { return modelMilliseconds(recipe) * correction_.load(); }

Image<Rgb8> StandinEngine::generate(const EngineJob& job, const EngineSink& sink, StopToken stop) {
  checkJob(job, info());
  const auto start = std::chrono::steady_clock::now();
  Work work = begun(job);
  const Palette palette = paletteFrom(work.wishes, work.seed);
  const int steps = job.recipe.brief.steps;
  const Size frame = job.recipe.frame;
  const double longer = std::max(frame.width, frame.height);
  const double small = std::min(1.0, 256.0 / longer);
  const Size previewSize{std::max(1, static_cast<int>(std::lround(frame.width * small))),
                         std::max(1, static_cast<int>(std::lround(frame.height * small)))};
  for (int step = 0; step < steps; ++step) {
    throwIfStopped(stop);
    work.layout.advance(step);
    if (!sink) continue;
    EngineProgress progress{step + 1, steps, {}};
    if (step + 1 < steps)
      progress.preview = toSrgb8(planPicture(planFrom(work.layout.current(), work.picture, palette, previewSize)));
    sink(std::move(progress));
  }
  throwIfStopped(stop);
  const Plan plan = planFrom(work.layout.current(), work.picture, palette, frame);
  throwIfStopped(stop);
  auto picture = toSrgb8(painted(plan, work.wishes, mixed(work.seed, 31), stop));
  const double took = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  correction_ = 0.7 * correction_.load() + 0.3 * took / modelMilliseconds(job.recipe);
  return picture;
}

standin::Fields settledLayout(const EngineJob& job) {
  Work work = begun(job);
  for (int step = 0; step < job.recipe.brief.steps; ++step) work.layout.advance(step);
  return work.layout.current();
}

}  // namespace hscaffold
