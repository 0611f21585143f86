/// Chance that is the same on every machine: the standard's engine, our own ranges.
#pragma once

#include <cmath>
#include <cstdint>
#include <initializer_list>
#include <numbers>
#include <random>
#include <span>

#include "core/image/image.h"

namespace hscaffold::training {

class Dice {
 public:
  explicit Dice(std::uint64_t seed) : engine_(seed * 0x9e3779b97f4a7c15ull + 1) {}
  float even() { return static_cast<float>(engine_() >> 40) / 16777216.0f; }  ///< [0, 1)
  float between(float low, float high) { return low + (high - low) * even(); }
  /// Evenly in the logarithm.
  float ratio(float low, float high) { return low * std::pow(high / low, even()); }
  bool chance(float share) { return even() < share; }
  int whole(int low, int high) { return low + static_cast<int>(even() * static_cast<float>(high - low + 1)); }
  float normal() {
    const float r = std::sqrt(-2 * std::log(1 - even()));
    return r * std::cos(2 * std::numbers::pi_v<float> * even());
  }
  template <typename T>
  T of(std::initializer_list<T> list) {
    return list.begin()[whole(0, static_cast<int>(list.size()) - 1)];
  }
  template <typename T>
  const T& of(std::span<const T> list) {
    return list[static_cast<std::size_t>(whole(0, static_cast<int>(list.size()) - 1))];
  }
  std::uint32_t seed() { return static_cast<std::uint32_t>(engine_() >> 32); }
  /// Linear, of any hue: much of life is pale or dark, little of it pure.
  Rgb colour(float darkest = 0.01f, float lightest = 0.8f);

 private:
  std::mt19937_64 engine_;
};

}  // namespace hscaffold::training
