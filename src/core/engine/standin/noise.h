/// Repeatable randomness: hashes of integers, and smooth noise made from them. The same everywhere and in any order.
#pragma once

#include <cmath>
#include <cstdint>
#include <string_view>
#include <vector>

namespace hscaffold::standin {

/// Mixes bits well (finaliser of splitmix64, Steele et al. 2014).
inline std::uint64_t mixed(std::uint64_t value) {
  value += 0x9e3779b97f4a7c15ULL;
  value = (value ^ (value >> 30)) * 0xbf58476d1ce4e5b9ULL;
  value = (value ^ (value >> 27)) * 0x94d049bb133111ebULL;
  return value ^ (value >> 31);
}
inline std::uint64_t mixed(std::uint64_t a, std::uint64_t b) { return mixed(mixed(a) ^ (b * 0xd6e8feb86659fd93ULL)); }
inline std::uint64_t mixed(std::uint64_t a, std::uint64_t b, std::uint64_t c) { return mixed(mixed(a, b), c); }

/// [0, 1)
inline float unit(std::uint64_t hash) { return static_cast<float>(hash >> 40) * (1.0f / 16777216.0f); }
/// [-1, 1)
inline float signedUnit(std::uint64_t hash) { return 2 * unit(hash) - 1; }

inline std::uint64_t hashOf(std::string_view text) {
  std::uint64_t hash = 0xcbf29ce484222325ULL;
  for (const char c : text) hash = mixed(hash, static_cast<unsigned char>(c));
  return hash;
}

inline float latticeValue(std::uint64_t seed, std::int64_t x, std::int64_t y) {
  return signedUnit(
      mixed(seed ^ static_cast<std::uint64_t>(x) * 0x8da6b343ULL ^ static_cast<std::uint64_t>(y) * 0xd8163841ULL));
}

/// Smooth between the values that `at(column, row)` gives for whole places.
template <typename Lattice>
float smoothOver(Lattice&& at, float x, float y) {
  const float fx = std::floor(x), fy = std::floor(y);
  const auto ix = static_cast<std::int64_t>(fx), iy = static_cast<std::int64_t>(fy);
  float u = x - fx, v = y - fy;
  u = u * u * (3 - 2 * u);
  v = v * v * (3 - 2 * v);
  const float top = at(ix, iy) * (1 - u) + at(ix + 1, iy) * u;
  const float bottom = at(ix, iy + 1) * (1 - u) + at(ix + 1, iy + 1) * u;
  return top * (1 - v) + bottom * v;
}

/// Gradient-free lattice noise, smooth, [-1, 1].
inline float valueNoise(std::uint64_t seed, float x, float y) {
  return smoothOver([seed](std::int64_t px, std::int64_t py) { return latticeValue(seed, px, py); }, x, y);
}

/// `valueNoise` over a small patch that is asked for many times.
class NoisePatch {
 public:
  NoisePatch() = default;
  /// For x in [left, right] and y in [top, bottom].
  NoisePatch(std::uint64_t seed, float left, float right, float top, float bottom)
      : column_(static_cast<std::int64_t>(std::floor(left))),
        row_(static_cast<std::int64_t>(std::floor(top))),
        columns_(static_cast<std::int64_t>(std::floor(right)) + 2 - column_) {
    const std::int64_t rows = static_cast<std::int64_t>(std::floor(bottom)) + 2 - row_;
    values_.reserve(static_cast<std::size_t>(columns_ * rows));
    for (std::int64_t y = 0; y < rows; ++y)
      for (std::int64_t x = 0; x < columns_; ++x) values_.push_back(latticeValue(seed, column_ + x, row_ + y));
  }
  [[nodiscard]] float at(float x, float y) const {
    return smoothOver(
        [this](std::int64_t px, std::int64_t py) {
          return values_[static_cast<std::size_t>((py - row_) * columns_ + px - column_)];
        },
        x, y);
  }

 private:
  std::int64_t column_ = 0, row_ = 0, columns_ = 0;
  std::vector<float> values_;
};

/// Octaves of value noise, each half as strong and twice as fine; about [-1, 1].
inline float fractalNoise(std::uint64_t seed, float x, float y, int octaves) {
  float sum = 0, strength = 0.5f;
  for (int i = 0; i < octaves; ++i) {
    sum += strength * valueNoise(mixed(seed, static_cast<std::uint64_t>(i)), x, y);
    strength /= 2;
    x = 2 * x + 17.3f;
    y = 2 * y + 5.1f;
  }
  return sum;
}

inline float smoothStep(float low, float high, float value) {
  const float t = std::fmin(1.0f, std::fmax(0.0f, (value - low) / (high - low)));
  return t * t * (3 - 2 * t);
}
inline float blend(float a, float b, float t) { return a + (b - a) * t; }

}  // namespace hscaffold::standin
