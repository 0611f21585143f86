// scenes: draws scenes for learning, onto a sheet to be looked at or as a stream to learn from (training/README.md).
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <thread>

#include "core/image/atomic_file.h"
#include "core/image/png.h"
#include "core/pose/figure.h"
#include "scene.h"

namespace {

using namespace hscaffold;
using namespace hscaffold::training;

void dot(Image<Rgb8>& picture, float x, float y, Rgb8 colour) {
  for (int dy = -1; dy <= 1; ++dy)
    for (int dx = -1; dx <= 1; ++dx) {
      const int px = static_cast<int>(x) + dx, py = static_cast<int>(y) + dy;
      if (px >= 0 && py >= 0 && px < picture.width() && py < picture.height()) picture(px, py) = colour;
    }
}

void mark(Image<Rgb8>& picture, const TrueFigure& figure) {
  for (const TruePoint& p : figure.points) {
    if (p.visibility == Visibility::outside) continue;
    dot(picture, p.x, p.y,
        p.visibility == Visibility::seen             ? Rgb8{255, 255, 0}
        : p.visibility == Visibility::hiddenByItself ? Rgb8{255, 120, 0}
                                                     : Rgb8{255, 0, 160});
  }
}

void writeSheet(const std::string& file, std::uint64_t first, int columns, int rows, Size size, Use use, bool marks,
                bool depth) {
  Image<Rgb8> sheet(columns * size.width, rows * size.height);
  for (int i = 0; i < columns * rows; ++i) {
    auto scene = sceneOf(first + static_cast<std::uint64_t>(i), size, use);
    if (marks)
      for (const auto* list : {&scene.people, &scene.animals})
        for (const auto& figure : *list) mark(scene.picture, figure);
    float nearest = 1e-6f;
    for (int y = 0; y < size.height; ++y)
      for (const float v : scene.near.line(y)) nearest = std::max(nearest, v);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) {
        const auto grey = static_cast<std::uint8_t>(255 * std::sqrt(scene.near(x, y) / nearest));
        sheet(i % columns * size.width + x, i / columns * size.height + y) =
            depth ? Rgb8{grey, grey, grey} : scene.picture(x, y);
      }
  }
  writeFileAtomically(file, encodePng(sheet.view()));
}

void put(std::vector<char>& into, const void* data, std::size_t length) {
  const auto* bytes = static_cast<const char*>(data);
  into.insert(into.end(), bytes, bytes + length);
}

void putFigures(std::vector<char>& into, const std::vector<TrueFigure>& figures, std::size_t points, std::size_t most) {
  const auto count = static_cast<std::int32_t>(std::min(figures.size(), most));
  put(into, &count, sizeof count);
  for (std::size_t f = 0; f < most; ++f) {
    std::vector<float> row(5 + 3 * points, 0.0f);
    if (f < static_cast<std::size_t>(count)) {
      const TrueFigure& figure = figures[f];
      row[0] = figure.left, row[1] = figure.top, row[2] = figure.right, row[3] = figure.bottom, row[4] = figure.size;
      for (std::size_t p = 0; p < points; ++p) {
        row[5 + 3 * p] = figure.points[p].x;
        row[6 + 3 * p] = figure.points[p].y;
        row[7 + 3 * p] = static_cast<float>(figure.points[p].visibility);
      }
    }
    put(into, row.data(), row.size() * sizeof(float));
  }
}

/// One record: picture (H x W x 3 bytes), nearness (H x W floats), figures (H x W bytes), people, animals.
std::vector<char> recordOf(const Scene& scene) {
  std::vector<char> out;
  for (int y = 0; y < scene.picture.height(); ++y)
    put(out, scene.picture.row(y), static_cast<std::size_t>(scene.picture.width()) * 3);
  for (int y = 0; y < scene.near.height(); ++y)
    put(out, scene.near.row(y), static_cast<std::size_t>(scene.near.width()) * sizeof(float));
  for (int y = 0; y < scene.figure.height(); ++y)
    put(out, scene.figure.row(y), static_cast<std::size_t>(scene.figure.width()));
  constexpr std::size_t mostPeople = 10, mostAnimals = 3, human = 18, animal = 28;
  putFigures(out, scene.people, human, mostPeople);
  putFigures(out, scene.animals, animal, mostAnimals);
  return out;
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app("Draws scenes for learning.");
  std::string sheet, use = "figures";
  std::uint64_t first = 0, count = 0;
  int width = 192, height = 192, columns = 6, rows = 4;
  bool marks = false, depth = false, stream = false;
  app.add_option("--sheet", sheet, "Write a sheet of scenes to this PNG");
  app.add_flag("--marks", marks, "Mark the key points on it");
  app.add_flag("--depth", depth, "Show nearness instead of pictures");
  app.add_option("--columns", columns)->check(CLI::Range(1, 40));
  app.add_option("--rows", rows)->check(CLI::Range(1, 40));
  app.add_flag("--stream", stream, "Write records to standard output");
  app.add_option("--count", count, "How many; 0: without end");
  app.add_option("--first", first, "Seed of the first one");
  app.add_option("--use", use, "What for")->check(CLI::IsMember({"figures", "animals", "depth", "both"}));
  app.add_option("--width", width)->check(CLI::Range(32, 2048));
  app.add_option("--height", height)->check(CLI::Range(32, 2048));
  CLI11_PARSE(app, argc, argv);
  const Use what = use == "figures"   ? Use::figures
                   : use == "animals" ? Use::animals
                   : use == "depth"   ? Use::depth
                                      : Use::both;
  const Size size{width, height};
  try {
    if (!sheet.empty()) writeSheet(sheet, first, columns, rows, size, what, marks, depth);
    if (!stream) return 0;
    const auto begin = std::chrono::steady_clock::now();
    for (std::uint64_t i = 0; count == 0 || i < count; ++i) {
      const auto record = recordOf(sceneOf(first + i, size, what));
      if (std::fwrite(record.data(), 1, record.size(), stdout) != record.size()) return 0;
      if (count > 0 && i + 1 == count)
        fmt::print(stderr, "{:.1f} pictures a second\n",
                   static_cast<double>(count) /
                       std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count());
    }
  } catch (const std::exception& error) {
    fmt::print(stderr, "scenes: {}\n", error.what());
    return 1;
  }
  return 0;
}
