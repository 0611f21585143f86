#include "fixtures.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <numbers>
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

std::string wavingClip() {
  std::string text = R"(HIERARCHY
ROOT Hips
{
  OFFSET 0 0 0
  CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
)";
  const auto joint = [](const std::string& name, const std::string& offset, const std::string& inside) {
    return "JOINT " + name + "\n{\nOFFSET " + offset + "\nCHANNELS 3 Zrotation Xrotation Yrotation\n" + inside + "}\n";
  };
  const auto limb = [&](const std::string& a, const std::string& b, const std::string& c, const std::string& from,
                        double first, double second) {
    return joint(a, from,
                 joint(b, "0 " + std::to_string(-first) + " 0",
                       joint(c, "0 " + std::to_string(-second) + " 0", "End Site\n{\nOFFSET 0 -5 0\n}\n")));
  };
  text += joint("Spine", "0 15 0",
                joint("Neck", "0 37 0", joint("Head", "0 4 0", "End Site\n{\nOFFSET 0 20 0\n}\n")) +
                    limb("LeftArm", "LeftForeArm", "LeftHand", "18 34 0", 31, 25) +
                    limb("RightArm", "RightForeArm", "RightHand", "-18 34 0", 31, 25));
  text += limb("LeftUpLeg", "LeftLeg", "LeftFoot", "9 -2 0", 40, 41);
  text += limb("RightUpLeg", "RightLeg", "RightFoot", "-9 -2 0", 40, 41);
  text += "}\nMOTION\nFrames: 61\nFrame Time: 0.0333333\n";
  for (int frame = 0; frame < 61; ++frame) {
    const double up = 80 * (0.5 - 0.5 * std::cos(4 * std::numbers::pi * frame / 60.0));
    text += "0 90 0 0 0 0";
    // Spine, neck, head, left arm (three joints), right arm, legs.
    for (int j = 0; j < 15; ++j)
      text += j == 3 ? " " + std::to_string(up) + " 0 0" : j == 6 ? " " + std::to_string(-up) + " 0 0" : " 0 0 0";
    text += "\n";
  }
  return text;
}

}  // namespace fixtures
