#include <benchmark/benchmark.h>

#include <QCoreApplication>
#include <QProcess>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <opencv2/imgproc.hpp>

#include "core/edge_finding/edges.h"
#include "first_call.h"

namespace bench {
namespace {

using namespace hscaffold;

constexpr int width = 2448, height = 1632;

/// Discs with grain, [0, 1]: something in every pixel, made without either side's own functions.
float levelAt(int x, int y) {
  static std::uint32_t grain = 1;
  grain = grain * 1664525 + 1013904223;
  const int dx = x % 306 - 153, dy = y % 204 - 102;
  const bool inside = dx * dx + dy * dy < 70 * 70;
  return (inside ? 0.7f : 0.25f) + 0.05f * (static_cast<float>(grain >> 16) / 32768.0f - 1);
}

double since(std::chrono::steady_clock::time_point start) {
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

double ours() {
  EncodedPlane plane(width, height);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) plane(x, y) = static_cast<std::int16_t>(std::lround(levelAt(x, y) * 4095));
  EdgeTuning tuning;
  tuning.sigma = 1.4;
  tuning.thresholds = EdgeThresholds::magnitude;
  tuning.low = 0.04;
  tuning.high = 0.10;
  tuning.shortest = 1;
  const auto start = std::chrono::steady_clock::now();
  benchmark::DoNotOptimize(extractEdges(plane.view(), tuning));
  return since(start);
}

double theirs() {
  cv::Mat grey(height, width, CV_8UC1), soft, map;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      grey.at<std::uint8_t>(y, x) = static_cast<std::uint8_t>(std::lround(levelAt(x, y) * 255));
  const auto start = std::chrono::steady_clock::now();
  cv::GaussianBlur(grey, soft, {}, 1.4);
  cv::Canny(soft, map, 40, 100, 3, true);
  benchmark::DoNotOptimize(map.data);
  return since(start);
}

void inFreshProcess(benchmark::State& state, const char* whose) {
  for (auto _ : state) {
    QProcess child;
    child.start(QCoreApplication::applicationFilePath(), {"--first-call", whose});
    if (!child.waitForFinished() || child.exitCode() != 0) return state.SkipWithError("the program failed");
    state.SetIterationTime(child.readAllStandardOutput().toDouble() / 1000);
  }
}

const int registered = [] {
  for (const char* whose : {"ours", "theirs"})
    benchmark::RegisterBenchmark((std::string("first edges of a process, 4 MP/") + whose).c_str(), inFreshProcess,
                                 whose)
        ->Iterations(15)
        ->Unit(benchmark::kMillisecond)
        ->UseManualTime();
  return 0;
}();

}  // namespace

int firstCall(const std::string& whose) {
  std::printf("%.3f\n", whose == "ours" ? ours() : theirs());
  return 0;
}

}  // namespace bench
