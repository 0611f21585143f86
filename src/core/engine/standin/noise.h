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

/// A place between four of a lattice.
struct LatticePlace {
  std::int64_t column, row;
  float u, v;  ///< [0, 1), from there to the next column and row

  LatticePlace(float x, float y) : column(below(x)), row(below(y)) {
    u = x - static_cast<float>(column), v = y - static_cast<float>(row);
  }
  /// Smooth between the values of the four.
  [[nodiscard]] float between(float here, float right, float under, float underRight) const {
    const float su = u * u * (3 - 2 * u), sv = v * v * (3 - 2 * v);
    const float top = here * (1 - su) + right * su, bottom = under * (1 - su) + underRight * su;
    return top * (1 - sv) + bottom * sv;
  }

 private:
  /// As std::floor, which is a call where the machine's own rounding may not be counted on.
  static std::int64_t below(float at) {
    const auto whole = static_cast<std::int64_t>(at);
    return static_cast<float>(whole) > at ? whole - 1 : whole;
  }
};

/// Gradient-free lattice noise, smooth, [-1, 1].
inline float valueNoise(std::uint64_t seed, float x, float y) {
  const LatticePlace at(x, y);
  return at.between(latticeValue(seed, at.column, at.row), latticeValue(seed, at.column + 1, at.row),
                    latticeValue(seed, at.column, at.row + 1), latticeValue(seed, at.column + 1, at.row + 1));
}

/// `valueNoise` for places that lie beside each other, as along a row: what the last one lay between is remembered.
class NoiseWalk {
 public:
  explicit NoiseWalk(std::uint64_t seed = 0) : seed_(seed) {}
  float at(float x, float y) {
    const LatticePlace at(x, y);
    if (!begun_ || at.row != row_ || at.column != column_) {
      const bool next = begun_ && at.row == row_ && at.column == column_ + 1;
      here_ = next ? right_ : latticeValue(seed_, at.column, at.row);
      under_ = next ? underRight_ : latticeValue(seed_, at.column, at.row + 1);
      right_ = latticeValue(seed_, at.column + 1, at.row);
      underRight_ = latticeValue(seed_, at.column + 1, at.row + 1);
      column_ = at.column, row_ = at.row, begun_ = true;
    }
    return at.between(here_, right_, under_, underRight_);
  }

 private:
  std::uint64_t seed_;
  bool begun_ = false;
  std::int64_t column_ = 0, row_ = 0;
  float here_ = 0, right_ = 0, under_ = 0, underRight_ = 0;
};

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
    const LatticePlace at(x, y);
    const float* here = &values_[static_cast<std::size_t>((at.row - row_) * columns_ + at.column - column_)];
    return at.between(here[0], here[1], here[columns_], here[columns_ + 1]);
  }

 private:
  std::int64_t column_ = 0, row_ = 0, columns_ = 0;
  std::vector<float> values_;
};

/// The sum of octaves, each half as strong and twice as fine; `noise(octave, x, y)`.
template <typename Noise>
float summedOctaves(Noise&& noise, float x, float y, int octaves) {
  float sum = 0, strength = 0.5f;
  for (int i = 0; i < octaves; ++i) {
    sum += strength * noise(i, x, y);
    strength /= 2;
    x = 2 * x + 17.3f;
    y = 2 * y + 5.1f;
  }
  return sum;
}

/// Octaves of value noise; about [-1, 1].
inline float fractalNoise(std::uint64_t seed, float x, float y, int octaves) {
  return summedOctaves(
      [seed](int i, float px, float py) { return valueNoise(mixed(seed, static_cast<std::uint64_t>(i)), px, py); }, x,
      y, octaves);
}

/// `fractalNoise` for places that lie beside each other.
class FractalWalk {
 public:
  FractalWalk(std::uint64_t seed, int octaves) {
    for (int i = 0; i < octaves; ++i) walks_.emplace_back(mixed(seed, static_cast<std::uint64_t>(i)));
  }
  float at(float x, float y) {
    return summedOctaves([this](int i, float px, float py) { return walks_[static_cast<std::size_t>(i)].at(px, py); },
                         x, y, static_cast<int>(walks_.size()));
  }

 private:
  std::vector<NoiseWalk> walks_;
};

inline float smoothStep(float low, float high, float value) {
  const float t = std::fmin(1.0f, std::fmax(0.0f, (value - low) / (high - low)));
  return t * t * (3 - 2 * t);
}
inline float blend(float a, float b, float t) { return a + (b - a) * t; }

}  // namespace hscaffold::standin
