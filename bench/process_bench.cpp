// From a picture file to a map file, as whole processes: the command line against ten lines on a general library.
#include <benchmark/benchmark.h>

#include <QImage>
#include <QProcess>
#include <QTemporaryDir>

#include "core/image/colour.h"
#include "scenes.h"

namespace {

using namespace hscaffold;

/// A photograph of four megapixels, drawn small and enlarged with grain, so that there is something in every pixel.
QString photograph(const QTemporaryDir& folder, const char* ending) {
  constexpr int width = 2448, height = 1632;
  const auto small = almanac::photograph(almanac::teaHouse(), {612, 408}, 3);
  QImage image(width, height, QImage::Format_RGB32);
  std::uint32_t grain = 1;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const Rgb c = small(x / 4, y / 4);
      grain = grain * 1664525 + 1013904223;
      const int g = static_cast<int>(grain >> 28) - 8;
      const auto level = [g](float v) { return std::clamp(static_cast<int>(linearToSrgb(v) * 255) + g, 0, 255); };
      image.setPixel(x, y, qRgb(level(c.r), level(c.g), level(c.b)));
    }
  const QString path = folder.filePath(QString("photo.") + ending);
  image.save(path, nullptr, 92);
  return path;
}

void fileToMap(benchmark::State& state, const char* program, bool ours, const char* ending) {
  const QTemporaryDir folder;
  const QString in = photograph(folder, ending), out = folder.filePath("map.png");
  const QStringList arguments = ours ? QStringList{"map", "edges", in, "-o", out} : QStringList{in, out};
  for (auto _ : state)
    if (QProcess::execute(program, arguments) != 0) state.SkipWithError("the program failed");
}

const int registered = [] {
  for (const char* ending : {"png", "jpg"})
    for (const bool ours : {true, false})
      benchmark::RegisterBenchmark((std::string("file to map, 4 MP, ") + ending + (ours ? "/ours" : "/theirs")).c_str(),
                                   [ours, ending](benchmark::State& state) {
                                     fileToMap(state, ours ? HSCAFFOLD_PROGRAM : HSCAFFOLD_PLAIN_EDGES, ours, ending);
                                   })
          ->Iterations(7)
          ->Unit(benchmark::kMillisecond)
          ->UseRealTime();
  return 0;
}();

}  // namespace
