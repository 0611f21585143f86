// The set's rasteriser: ten figures in their surroundings.
#include <benchmark/benchmark.h>

#include "core/image/colour.h"
#include "core/pose/library.h"
#include "core/stage/body.h"
#include "core/stage/props.h"
#include "core/stage/raster.h"
#include "core/stage/scene_maps.h"
#include "core/stage/stand.h"

namespace {

using namespace hscaffold;
using namespace hscaffold::stage;

std::vector<Mesh> tenFigures() {
  std::vector<Mesh> out = {land({}, 60, 4, 3, {0.2f, 0.3f, 0.1f}, {0.5f, 0.5f, 0.5f})};
  for (int i = 0; i < 10; ++i) {
    BodySpec spec;
    spec.angles = pose::housePoses()[static_cast<std::size_t>(5 * i)].pose.angles;
    spec.at = {0.8f * static_cast<float>(i % 5 - 2), 0, -1.2f * static_cast<float>(i / 5)};
    spec.clothes.skirtLength = i % 3 == 0 ? 0.8f : 0;
    auto body = bodyOf(spec);
    body.mesh.object = static_cast<std::uint16_t>(i + 1);
    out.push_back(std::move(body.mesh));
  }
  return out;
}

void render(benchmark::State& state) {
  const auto meshes = tenFigures();
  const auto camera = lookingAt({0, 1.4f, 5}, {0, 0.8f, 0}, 40, {1024, 1024});
  Lighting lighting;
  lighting.lights.push_back({Vec3(0.5f, 0.7f, 0.5f).normalized(), {0.8f, 0.8f, 0.7f}});
  for (auto _ : state) benchmark::DoNotOptimize(rendered(meshes, camera, lighting));
}
BENCHMARK(render)->Name("stage/ten figures 1024x1024")->Unit(benchmark::kMillisecond)->UseRealTime();

void body(benchmark::State& state) {
  BodySpec spec;
  spec.angles = pose::housePoses()[6].pose.angles;
  for (auto _ : state) benchmark::DoNotOptimize(bodyOf(spec));
}
BENCHMARK(body)->Name("stage/one body")->Unit(benchmark::kMillisecond)->UseRealTime();

/// All maps of ten figures and twenty things at 1024 x 1024, from one look.
void stageMaps(benchmark::State& state) {
  stage::Scene scene;
  for (int i = 0; i < 30; ++i) {
    stage::Thing thing{
        stage::newThingId(scene),
        "",
        {{0.9f * static_cast<float>(i % 6 - 3), 0, -1.1f * static_cast<float>(i / 6)}, 20.0f * static_cast<float>(i)},
        false,
        stage::Person{}};
    if (i % 3 != 0) thing.is = stage::usualProp(static_cast<stage::Prop::Form>(i % 13));
    scene.things.push_back(std::move(thing));
  }
  scene.eye = stage::lookingFrom({1.5f, 2.2f, 6}, {0, 0.8f, -2}, 35);
  for (auto _ : state) {
    const auto look = stage::lookAt(scene, {1024, 1024}, {}, {.fine = state.range(0) != 0});
    benchmark::DoNotOptimize(stage::depthMap(look));
    benchmark::DoNotOptimize(stage::toneMap(look));
    benchmark::DoNotOptimize(stage::figuresIn(scene, look));
    if (state.range(0) != 0) benchmark::DoNotOptimize(stage::linesOf(look));
  }
}
BENCHMARK(stageMaps)->Name("stage maps 1024")->ArgName("lines")->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);

/// What a drag in a window of 1280 x 800 asks for: one of ten figures stands elsewhere, or the eye does; seen at that
/// size, at half of it or, where the machine keeps up with no more, at a third. Kept: as the window does it, what has
/// not changed stays; otherwise all of it is painted.
void stageDrag(benchmark::State& state) {
  stage::Scene scene;
  for (int i = 0; i < 10; ++i) {
    stage::Person person;
    person.angles = stage::anglesAhead(pose::housePoses()[static_cast<std::size_t>(5 * i)]);
    scene.things.push_back({stage::newThingId(scene),
                            "",
                            {{0.8f * static_cast<float>(i % 5 - 2), 0, -1.2f * static_cast<float>(i / 5)}, 0},
                            false,
                            std::move(person)});
  }
  scene.eye = stage::lookingFrom({0, 1.6f, 6}, {0, 0.8f, 0}, 38);
  std::shared_ptr<const stage::Stand> kept = stage::standOf(scene);
  stage::KeptPicture picture;
  const int coarse = static_cast<int>(state.range(1));
  const bool keeps = state.range(2) != 0;
  const auto camera = [&] { return stage::cameraOf(scene.eye, {1280 / coarse, 800 / coarse}); };
  picture.paint(kept, camera());
  for (auto _ : state) {
    if (state.range(0) == 0)
      scene.things.front().place.at.x() += 0.001f;
    else
      scene.eye.turn += 0.01f;
    kept = stage::standOf(scene, kept, true);
    if (keeps) {
      const Box part = picture.paint(kept, camera());
      benchmark::DoNotOptimize(toSrgb8(partOf(picture.seen().colour.view(), part)));
    } else {
      const auto seen = stage::rendered(*kept, camera());
      benchmark::DoNotOptimize(toSrgb8(seen.colour.view()));
    }
  }
}
BENCHMARK(stageDrag)
    ->Name("stage drag 1280x800")
    ->ArgNames({"eye", "coarse", "kept"})
    ->ArgsProduct({{0, 1}, {2, 3}, {0}})
    ->Args({0, 1, 0})
    ->Args({0, 1, 1})
    ->Args({0, 2, 1})
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

}  // namespace
