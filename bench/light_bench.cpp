// The light table, moods and detail at the size that an artist paints at, against plain ways to come to the same.
#include <benchmark/benchmark.h>

#include <opencv2/imgproc.hpp>

#include "core/detail/detail.h"
#include "core/image/resample.h"
#include "core/mood/mood.h"
#include "core/mood/transport.h"
#include "core/tone/light_table.h"

namespace {

using namespace hscaffold;

constexpr Size canvas{2048, 2048};

light::Lit evenLight() { return {Image<float>(canvas.width, canvas.height, 0.5f), {}, {}}; }

light::Stroke strokeOf(double softness) {
  light::Stroke out;
  for (int i = 0; i < 60; ++i) out.spots.push_back({300.0 + 24 * i, 900 + 200 * std::sin(0.2 * i)});
  out.width = 160;
  out.softness = softness;
  return out;
}

Image<Rgb> stripes(Size size) {
  Image<Rgb> out(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      out(x, y) = {0.2f + 0.3f * static_cast<float>((x / 9) % 3), 0.3f, 0.1f + 0.2f * static_cast<float>((y / 13) % 4)};
  return out;
}

/// A stroke as long as the picture is wide, over a whole layer.
void lightStroke(benchmark::State& state) {
  Image<float> cover(canvas);
  const auto stroke = strokeOf(0.7);
  for (auto _ : state) light::paintStroke(cover.view(), stroke);
}
BENCHMARK(lightStroke)->Name("light stroke 2048/ours")->Unit(benchmark::kMillisecond);

/// The same drawn as a thick line and blurred, as one would with a general library.
void lightStrokePlain(benchmark::State& state) {
  cv::Mat cover(canvas.height, canvas.width, CV_32F, cv::Scalar(0));
  const auto stroke = strokeOf(0.7);
  for (auto _ : state) {
    cv::Mat drawn(canvas.height, canvas.width, CV_32F, cv::Scalar(0));
    for (std::size_t i = 1; i < stroke.spots.size(); ++i)
      cv::line(drawn, {static_cast<int>(stroke.spots[i - 1].x), static_cast<int>(stroke.spots[i - 1].y)},
               {static_cast<int>(stroke.spots[i].x), static_cast<int>(stroke.spots[i].y)}, cv::Scalar(0.5), 120,
               cv::LINE_8);
    cv::GaussianBlur(drawn, drawn, {}, 20);
    cover = cover + (1 - cover).mul(drawn);
    benchmark::DoNotOptimize(cover.data);
  }
}
BENCHMARK(lightStrokePlain)->Name("light stroke 2048/theirs")->Unit(benchmark::kMillisecond);

light::LightTable sixThings() {
  light::LightTable table;
  table.frame = canvas;
  for (const auto form : {light::Light::Form::straight, light::Light::Form::round, light::Light::Form::rays}) {
    light::Light each;
    each.form = form;
    each.spots = {{1500, 200}, {700, 1400}};
    table.lights.push_back(each);
  }
  for (int i = 0; i < 3; ++i) {
    light::Light each;
    for (int k = 0; k < 5; ++k) each.strokes.push_back(strokeOf(0.3 * i));
    table.lights.push_back(each);
  }
  return table;
}

/// A table of six things over a map, as it is first seen.
void lightTable(benchmark::State& state) {
  const auto table = sixThings();
  for (auto _ : state) {
    auto lit = evenLight();
    light::layLights(lit, table, nullptr);
    benchmark::DoNotOptimize(lit.light.row(0));
  }
}
BENCHMARK(lightTable)->Name("light table 2048, 6 things")->Unit(benchmark::kMillisecond)->UseRealTime();

/// What is done anew for each move of the brush.
void lightTablePainted(benchmark::State& state) {
  auto table = sixThings();
  light::KeptCovers kept;
  auto first = evenLight();
  light::layLights(first, table, nullptr, {}, &kept, {});
  table.lights.back().strokes.push_back(strokeOf(0.5));
  double x = 0;
  for (auto _ : state) {
    table.lights.back().strokes.back().spots.back().x = 1700 + (x += 1);
    auto lit = evenLight();
    light::layLights(lit, table, nullptr, {}, &kept, {});
    benchmark::DoNotOptimize(lit.light.row(0));
  }
}
BENCHMARK(lightTablePainted)->Name("light table 2048, a stroke goes on")->Unit(benchmark::kMillisecond)->UseRealTime();

void moodByLight(benchmark::State& state) {
  const auto picture = stripes({768, 512});
  for (auto _ : state)
    benchmark::DoNotOptimize(mood::moodOf(picture, {8, mood::Sorting::byLight}, {picture.view(), {}}).row(0));
}
BENCHMARK(moodByLight)->Name("mood by light")->Unit(benchmark::kMillisecond);

void moodByColour(benchmark::State& state) {
  const auto picture = stripes({768, 512});
  for (auto _ : state)
    benchmark::DoNotOptimize(mood::moodOf(picture, {8, mood::Sorting::byColour}, {picture.view(), {}}).row(0));
}
BENCHMARK(moodByColour)->Name("mood by colour")->Unit(benchmark::kMillisecond);

void detailOfPicture(benchmark::State& state) {
  const auto picture = stripes(canvas);
  detail::DetailTuning tuning;
  tuning.finest = 2;
  for (auto _ : state) benchmark::DoNotOptimize(detail::extractDetail(picture, tuning).light.row(0));
}
BENCHMARK(detailOfPicture)->Name("detail 2048, 3 channels/ours")->Unit(benchmark::kMillisecond)->UseRealTime();

/// Three channels of it by the pyramids of a general library.
void detailPlain(benchmark::State& state) {
  const cv::Mat picture(canvas.height, canvas.width, CV_32FC3, cv::Scalar(0.4, 0.3, 0.2));
  for (auto _ : state) {
    std::vector<cv::Mat> bands;
    cv::Mat now = picture.clone();
    while (std::min(now.rows, now.cols) >= 8) {
      cv::Mat low, back;
      cv::pyrDown(now, low);
      cv::pyrUp(low, back, now.size());
      bands.push_back(now - back);
      now = low;
    }
    for (std::size_t b = bands.size(); b-- > 0;) {
      cv::Mat back;
      cv::pyrUp(now, back, bands[b].size());
      now = back + bands[b];
    }
    benchmark::DoNotOptimize(now.data);
  }
}
BENCHMARK(detailPlain)->Name("detail 2048, 3 channels/theirs")->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
