#include "core/finish/pull_final.h"

#include <fmt/format.h>

#include <chrono>
#include <cmath>

#include "core/finish/enlarge.h"
#include "core/frame/frame.h"
#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/kinds.h"

namespace hscaffold {
namespace {

double since(std::chrono::steady_clock::time_point start) {
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

/// Of the proof's own size, begun with the proof: what a whole is composed from.
Recipe begunWithProof(const FinalPlan& plan) {
  Recipe recipe = plan.proof;
  recipe.engine.clear();
  Brief& brief = recipe.brief;
  if (brief.start.wordsToWords() && !brief.start.wanted.empty()) brief.prompt += ", " + brief.start.wanted;
  brief.prompt = fittedText(brief.prompt, longestPrompt);
  brief.start = {};
  brief.start.from = StartPicture::From::proof;
  brief.start.proof = plan.number;
  brief.start.placement.fit = Fit::stretch;
  brief.start.change = plan.change;
  return recipe;
}

void check(const FinalPlan& plan) {
  const Size from = plan.proof.frame;
  if (plan.size.width < from.width || plan.size.height < from.height)
    throw badInput(fmt::format("A final is no smaller than its proof, which is {} x {}.", from.width, from.height));
  const double ratio = static_cast<double>(plan.size.width) / plan.size.height * from.height / from.width;
  if (std::abs(ratio - 1) > 0.01)
    throw badInput(fmt::format("{} x {} is not of the proof's ratio ({} x {}).", plan.size.width, plan.size.height,
                               from.width, from.height));
}

JobSources withProof(const JobSources& sources, View<Rgb8> proof) {
  JobSources with = sources;
  with.proofs = [proof](std::int64_t) { return encodePng(proof); };
  return with;
}

Image<std::uint16_t> cutMap(View<std::uint16_t> map, Size whole, const Box& box, Size size) {
  Image<std::uint16_t> out(size);
  const double across = static_cast<double>(map.width()) / whole.width,
               down = static_cast<double>(map.height()) / whole.height;
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        const double px = (box.left + (x + 0.5) * box.width() / size.width) * across - 0.5,
                     py = (box.top + (y + 0.5) * box.height() / size.height) * down - 0.5;
        const int ix = static_cast<int>(std::floor(px)), iy = static_cast<int>(std::floor(py));
        const double u = px - ix, v = py - iy;
        const auto at = [&](int dx, int dy) { return static_cast<double>(map.clamped(ix + dx, iy + dy)); };
        out(x, y) = static_cast<std::uint16_t>(
            std::lround((at(0, 0) * (1 - u) + at(1, 0) * u) * (1 - v) + (at(0, 1) * (1 - u) + at(1, 1) * u) * v));
      }
  });
  return out;
}

/// Colours of inks say what they are: none is mixed of two.
Image<Rgb8> cutColours(View<Rgb8> map, Size whole, const Box& box, Size size) {
  Image<Rgb8> out(size);
  const double across = static_cast<double>(map.width()) / whole.width,
               down = static_cast<double>(map.height()) / whole.height;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      out(x, y) = map.clamped(static_cast<int>((box.left + (x + 0.5) * box.width() / size.width) * across),
                              static_cast<int>((box.top + (y + 0.5) * box.height() / size.height) * down));
  return out;
}

void finish(FinishedFinal& out, const EngineJob* job, const ShiftGround* reference, StopToken stop) {
  parallelItems(2, [&](std::size_t which) {
    if (which == 0)
      out.png = encodePng(out.picture.view(), textsFor(out.recipe));
    else if (job != nullptr)
      out.measures = measuresOf(*job, reference, out.picture, stop);
  });
  throwIfStopped(stop);
}

}  // namespace

Recipe finalRecipe(const FinalPlan& plan) { return atSize(begunWithProof(plan), plan.size); }

TilePlan tilesOf(const FinalPlan& plan, const EngineInfo& engine) {
  const std::int64_t most = engine.partPixels > 0 ? engine.partPixels : engine.mostPixels;
  return tilesFor(plan.size, most, engine.sizeStep);
}

FinalNeeds needsOf(const FinalPlan& plan, const Engine& engine) {
  Recipe recipe = begunWithProof(plan);
  recipe.frame = plan.size;
  const TilePlan tiles = tilesOf(plan, engine.info());
  double pixels = 0;
  for (const Box& tile : tiles.tiles) pixels += static_cast<double>(tile.size().area());
  const double again = pixels / static_cast<double>(plan.size.area());
  // What a part is painted from takes about as much for each of its pixels; of the whole there are its own pixels.
  constexpr std::int64_t ofPart = 150, ofWhole = 10;
  return {engine.estimate(recipe) * again,
          ofPart * tiles.tiles.front().size().area() + ofWhole * plan.size.area() + (std::int64_t{64} << 20)};
}

GuideInput cutInput(const GuideInput& input, Size whole, const Box& box, Size size) {
  GuideInput out;
  out.tuning = input.tuning;
  out.map = cutMap(input.map.view(), whole, box, size);
  if (!input.region.empty()) out.region = cutMap(input.region.view(), whole, box, size);
  if (!input.colour.empty()) out.colour = cutColours(input.colour.view(), whole, box, size);
  return out;
}

FinishedFinal pullFinal(Engine& engine, const FinalPlan& plan, View<Rgb8> proof, const JobSources& sources,
                        MadeMaps* made, const FinalSink& sink, StopToken stop) {
  check(plan);
  const EngineInfo info = engine.info();
  const auto begun = std::chrono::steady_clock::now();
  FinishedFinal out;
  out.recipe = finalRecipe(plan);
  out.plan = tilesOf(plan, info);
  const JobSources with = withProof(sources, proof);
  const Image<Rgb> linear = toLinear(proof);
  const auto step = [&](EngineProgress progress) {
    if (sink.step) sink.step(progress);
  };
  const auto keptTile = [&](int number) { return sink.kept ? sink.kept(number) : Image<Rgb8>(); };
  // What an engine draws anew is the finest there is: then a start picture needs no more care.
  constexpr double drawnAnew = 0.15;
  const int turns = plan.change >= drawnAnew ? 1 : usualTurns;
  TileJoiner joiner(out.plan);
  // An engine that takes a part for a picture of its own gets maps made for the whole at its size.
  Recipe asked = out.recipe;
  asked.brief.start = {};
  const PreparedJob prepared =
      info.composes ? jobFrom(begunWithProof(plan), with, stop, made) : jobFrom(std::move(asked), sources, stop, made);
  out.notes = prepared.notes;
  const auto composed = info.composes ? engine.compose(prepared.job, plan.size, step, stop) : nullptr;
  for (int number = 0; number < out.plan.count(); ++number) {
    throwIfStopped(stop);
    const Box& box = out.plan.tiles[static_cast<std::size_t>(number)];
    Image<Rgb8> tile = keptTile(number);
    const bool isNew = tile.size() != box.size();
    if (isNew && composed) {
      const auto start = enlargedPart(linear.view(), plan.size, composed->seenFor(box), stop, turns);
      tile = composed->paint(box, start.view(), stop);
    } else if (isNew) {
      EngineJob job;
      job.recipe = out.recipe;
      job.recipe.frame = box.size();
      job.recipe.mapsFrame = {};
      if (out.plan.count() > 1) job.recipe.part = RecipePart{plan.size, box};
      if (out.plan.count() > 1) {
        job.recipe.brief.start.from = StartPicture::From::below;
        job.recipe.brief.start.proof = 0;
      }
      for (const GuideInput& input : prepared.job.inputs)
        job.inputs.push_back(out.plan.count() > 1 ? cutInput(input, plan.size, box, box.size()) : input.clone());
      job.start = asHandedOver(toSrgb16(enlargedPart(linear.view(), plan.size, box, stop, turns)).view());
      tile = engine.generate(job, step, stop);
    }
    if (isNew && sink.tile) sink.tile(number, tile.view());
    joiner.lay(tile.view());
  }
  out.joins = joiner.joins();
  out.picture = joiner.taken();
  out.milliseconds = since(begun);
  out.recipe.engine = info.id;
  finish(out, &prepared.job, prepared.reference.get(), stop);
  return out;
}

FinishedFinal enlargeToFinal(const FinalPlan& plan, View<Rgb8> proof, const JobSources& sources, MadeMaps* made,
                             StopToken stop) {
  check(plan);
  const auto begun = std::chrono::steady_clock::now();
  FinishedFinal out;
  out.recipe = finalRecipe(plan);
  out.recipe.brief.start.change = 0;
  constexpr std::int64_t atOnce = 4'000'000;
  const Image<Rgb> linear = toLinear(proof);
  out.picture = Image<Rgb8>(plan.size);
  const int strip = static_cast<int>(std::max<std::int64_t>(64, atOnce / plan.size.width));
  for (int top = 0; top < plan.size.height; top += strip) {
    const Box box{0, top, plan.size.width, std::min(plan.size.height, top + strip)};
    const auto part = toSrgb8(enlargedPart(linear.view(), plan.size, box, stop).view());
    for (int y = 0; y < part.height(); ++y) std::copy_n(part.row(y), part.width(), out.picture.row(top + y));
  }
  out.plan = {plan.size, 1, 1, {boxOf(plan.size)}};
  out.milliseconds = since(begun);
  const PreparedJob prepared = jobFrom(begunWithProof(plan), withProof(sources, proof), stop, made);
  out.notes = prepared.notes;
  finish(out, &prepared.job, prepared.reference.get(), stop);
  return out;
}

}  // namespace hscaffold
