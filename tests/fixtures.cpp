#include "fixtures.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <optional>

#include "core/image/atomic_file.h"
#include "core/image/colour.h"

namespace fixtures {

Image<Rgb> overlappingShapes(int width, int height) {
  Image<Rgb> out(width, height, Rgb{0.05f, 0.06f, 0.09f});
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const double u = (x + 0.5) / width, v = (y + 0.5) / height;
      if (u > 0.13 && u < 0.58 && v > 0.21 && v < 0.83) out(x, y) = {0.35f, 0.30f, 0.12f};
      if (std::hypot((u - 0.61) * width, (v - 0.47) * height) < 0.27 * height) out(x, y) = {0.75f, 0.72f, 0.80f};
      if (u + v * 0.7 > 1.31) out(x, y) = {0.20f, 0.55f, 0.25f};
    }
  }
  return out;
}

Image<Rgb> noise(int width, int height, unsigned seed, float strength) {
  std::mt19937 engine(seed);
  std::uniform_real_distribution<float> value(0.5f - strength / 2, 0.5f + strength / 2);
  Image<Rgb> out(width, height);
  for (int y = 0; y < height; ++y)
    for (Rgb& c : out.line(y)) c = {value(engine), value(engine), value(engine)};
  return out;
}

Rgba16 grey16(std::uint16_t value) { return {value, value, value, 0xffff}; }

Image<Rgba16> encoded(View<Rgb> linear) {
  Image<Rgba16> out(linear.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x)
      out(x, y) = {linearToSrgb16(linear(x, y).r), linearToSrgb16(linear(x, y).g), linearToSrgb16(linear(x, y).b),
                   0xffff};
  return out;
}

const Image<Rgb>& scene(int number) {
  static std::array<std::optional<Image<Rgb>>, 5> drawn;
  auto& entry = drawn.at(static_cast<std::size_t>(number));
  if (!entry) {
    // Drawn when the tests were built: see draw_scenes.cpp.
    const auto bytes =
        readWholeFile(std::filesystem::path(HSCAFFOLD_SCENES) / ("scene-" + std::to_string(number) + ".rgb"));
    entry = Image<Rgb>(480, 320);
    for (int y = 0; y < entry->height(); ++y) {
      const auto row = std::as_writable_bytes(entry->line(y));
      std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(row.size()) * y, row.size(), row.begin());
    }
  }
  return *entry;
}

std::filesystem::path in(const QTemporaryDir& folder, const char* name) { return folder.filePath(name).toStdString(); }

std::filesystem::path kept(const std::string& name) {
  return std::filesystem::path(HSCAFFOLD_SOURCE) / "tests" / "fixtures" / name;
}

void writeFile(const std::filesystem::path& path, const std::string& content) {
  std::ofstream(path, std::ios::binary).write(content.data(), static_cast<std::streamsize>(content.size()));
}

std::string readFile(const std::filesystem::path& path) {
  const auto bytes = hscaffold::readWholeFile(path);
  return hscaffold::textOf(bytes);
}

std::stop_token stopped() {
  std::stop_source source;
  source.request_stop();
  return source.get_token();
}

}  // namespace fixtures
