/// Pictures and places that several tests use.
#pragma once

#include <QString>
#include <QTemporaryDir>
#include <filesystem>
#include <random>
#include <stop_token>
#include <string>

#include "core/image/image.h"
#include "core/kinds.h"

namespace fixtures {

using namespace hscaffold;

/// Dark ground with lighter, overlapping shapes; no two borders fall together.
Image<Rgb> overlappingShapes(int width, int height);
/// A quarter turn clockwise.
template <typename T>
Image<T> turned90(const Image<T>& from) {
  Image<T> out(from.height(), from.width());
  for (int y = 0; y < from.height(); ++y)
    for (int x = 0; x < from.width(); ++x) out(from.height() - 1 - y, x) = from(x, y);
  return out;
}
Image<Rgb> noise(int width, int height, unsigned seed, float strength = 1);
Rgba16 grey16(std::uint16_t value);
Image<Rgba16> encoded(View<Rgb> linear);

/// The almanac's scenes, drawn small, once a process: 0 kite flyer, 1 tea house, 2 lighthouse stair; and two that hide
/// their depth.
const Image<Rgb>& scene(int number);
inline constexpr int scenes = 3, sailcloth = 3, stairInFog = 4;

std::filesystem::path in(const QTemporaryDir& folder, const char* name);
/// A file of tests/fixtures.
std::filesystem::path kept(const std::string& name);
void writeFile(const std::filesystem::path& path, const std::string& content);
std::string readFile(const std::filesystem::path& path);

/// For what is told to stop before it begins.
std::stop_token stopped();

/// The message of the Problem that `call` throws; empty if it throws none.
template <typename Call>
QString problemOf(Call&& call) {
  try {
    call();
  } catch (const Problem& problem) {
    return QString::fromStdString(problem.what());
  }
  return {};
}

/// A motion clip of our own, BVH: arms go up and down twice in 61 frames, legs stand.
std::string wavingClip();

}  // namespace fixtures
