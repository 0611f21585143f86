#include "core/image/colour.h"

#include <algorithm>

#include <array>
#include <bit>
#include <cmath>
#include <vector>

#include "core/image/parallel.h"

namespace hscaffold {

float srgbToLinear(float encoded) {
  return encoded <= 0.04045f ? encoded / 12.92f : std::pow((encoded + 0.055f) / 1.055f, 2.4f);
}

float linearToSrgb(float linear) {
  if (linear <= 0) return 0;
  if (linear >= 1) return 1;
  return linear <= 0.0031308f ? linear * 12.92f : 1.055f * std::pow(linear, 1 / 2.4f) - 0.055f;
}

std::span<const float, 65536> srgb16Table() {
  static const std::vector<float> table = [] {
    std::vector<float> values(65536);
    for (std::size_t i = 0; i < values.size(); ++i) values[i] = srgbToLinear(static_cast<float>(i) / 65535.0f);
    return values;
  }();
  return std::span<const float, 65536>(table);
}

float srgb16ToLinear(std::uint16_t encoded) { return srgb16Table()[encoded]; }

std::uint16_t linearToSrgb16(float linear) {
  return static_cast<std::uint16_t>(std::lround(linearToSrgb(linear) * 65535.0f));
}

namespace {
/// The curve over the square root of the value: fine enough near black, where it is steep.
class RootTable {
 public:
  RootTable(float scale, float offset) : values_(size + 1) {
    for (std::size_t i = 0; i <= size; ++i) {
      const float root = static_cast<float>(i) / size;
      values_[i] = linearToSrgb(root * root) * scale + offset;
    }
  }
  /// @param linear  (0, 1)
  [[nodiscard]] float operator()(float linear) const {
    const float position = std::sqrt(linear) * size;
    const auto index = static_cast<std::size_t>(position);
    const float part = position - static_cast<float>(index);
    return values_[index] * (1 - part) + values_[index + 1] * part;
  }

 private:
  static constexpr std::size_t size = 8192;
  std::vector<float> values_;
};

/// The same in 8 bits. Floats above zero are in the order of their bits; by the first of these they fall into cells in
/// each of which at most one step of the curve lies.
class StepTable {
 public:
  StepTable() : cells_((one - first) >> shift) {
    const RootTable curve(255, 0.5f);
    const auto at = [&](std::uint32_t bits) { return static_cast<std::uint8_t>(curve(std::bit_cast<float>(bits))); };
    for (std::uint32_t i = 0; i < cells_.size(); ++i) {
      std::uint32_t low = first + (i << shift), high = low + (1U << shift) - 1;
      Cell& cell = cells_[i] = {one, at(low)};
      if (at(high) == cell.below) continue;
      while (high - low > 1) {
        const std::uint32_t middle = low + (high - low) / 2;
        (at(middle) == cell.below ? low : high) = middle;
      }
      cell.step = high;
    }
  }
  [[nodiscard]] std::uint8_t operator()(float linear) const {
    if (!(linear >= std::bit_cast<float>(first))) return 0;
    if (linear >= 1) return 255;
    const auto bits = std::bit_cast<std::uint32_t>(linear);
    const Cell& cell = cells_[(bits - first) >> shift];
    return static_cast<std::uint8_t>(cell.below + (bits >= cell.step ? 1 : 0));
  }
  static const StepTable& only() {
    static const StepTable table;
    return table;
  }

 private:
  /// Of 2^-13, below which all is 0, and of 1.
  static constexpr std::uint32_t first = 0x39000000, one = 0x3f800000, shift = 16;
  struct Cell {
    std::uint32_t step = one;  ///< bits of the first value that has one more
    std::uint8_t below = 0;
  };
  std::vector<Cell> cells_;
};
}  // namespace

float tabledSrgb(float linear) {
  static const RootTable table(1, 0);
  if (!(linear > 0)) return 0;
  return linear >= 1 ? 1 : table(linear);
}

std::uint8_t linearToSrgb8(float linear) { return StepTable::only()(linear); }

OkLab linearToOkLab(Rgb c) {
  const float l = std::cbrt(0.4122214708f * c.r + 0.5363325363f * c.g + 0.0514459929f * c.b);
  const float m = std::cbrt(0.2119034982f * c.r + 0.6806995451f * c.g + 0.1073969566f * c.b);
  const float s = std::cbrt(0.0883024619f * c.r + 0.2817188376f * c.g + 0.6299787005f * c.b);
  return {0.2104542553f * l + 0.7936177850f * m - 0.0040720468f * s,
          1.9779984951f * l - 2.4285922050f * m + 0.4505937099f * s,
          0.0259040371f * l + 0.7827717662f * m - 0.8086757660f * s};
}

Rgb okLabToLinear(OkLab c) {
  const float l = c.l + 0.3963377774f * c.a + 0.2158037573f * c.b;
  const float m = c.l - 0.1055613458f * c.a - 0.0638541728f * c.b;
  const float s = c.l - 0.0894841775f * c.a - 1.2914855480f * c.b;
  const float l3 = l * l * l, m3 = m * m * m, s3 = s * s * s;
  return {4.0767416621f * l3 - 3.3077115913f * m3 + 0.2309699292f * s3,
          -1.2684380046f * l3 + 2.6097574011f * m3 - 0.3413193965f * s3,
          -0.0041960863f * l3 - 0.7034186147f * m3 + 1.7076147010f * s3};
}

OkLab okLchToOkLab(OkLch c) { return {c.l, c.c * std::cos(c.h), c.c * std::sin(c.h)}; }

OkLch okLabToOkLch(OkLab c) { return {c.l, std::hypot(c.a, c.b), std::atan2(c.b, c.a)}; }

Rgb okLabToLinearInGamut(OkLab lab) {
  const auto fits = [](Rgb c) {
    constexpr float slack = 1e-3f;
    return c.r >= -slack && c.g >= -slack && c.b >= -slack && c.r <= 1 + slack && c.g <= 1 + slack && c.b <= 1 + slack;
  };
  lab.l = std::clamp(lab.l, 0.0f, 1.0f);
  Rgb colour = okLabToLinear(lab);
  if (!fits(colour)) {
    float low = 0, high = 1;
    for (int i = 0; i < 8; ++i) {
      const float middle = (low + high) / 2;
      (fits(okLabToLinear({lab.l, lab.a * middle, lab.b * middle})) ? low : high) = middle;
    }
    colour = okLabToLinear({lab.l, lab.a * low, lab.b * low});
  }
  return {std::clamp(colour.r, 0.0f, 1.0f), std::clamp(colour.g, 0.0f, 1.0f), std::clamp(colour.b, 0.0f, 1.0f)};
}

CieLab linearToCieLab(Rgb c) {
  const auto f = [](float t) { return t > 0.008856452f ? std::cbrt(t) : 7.787037f * t + 16.0f / 116.0f; };
  const float x = f((0.4124564f * c.r + 0.3575761f * c.g + 0.1804375f * c.b) / 0.95047f);
  const float y = f(0.2126729f * c.r + 0.7151522f * c.g + 0.0721750f * c.b);
  const float z = f((0.0193339f * c.r + 0.1191920f * c.g + 0.9503041f * c.b) / 1.08883f);
  return {116 * y - 16, 500 * (x - y), 200 * (y - z)};
}

Image<Rgb8> toSrgb8(View<Rgb> linear) {
  Image<Rgb8> out(linear.size());
  const StepTable& bytes = StepTable::only();
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      std::transform(linear.row(y), linear.row(y) + linear.width(), out.row(y), [&](Rgb c) {
        return Rgb8{bytes(c.r), bytes(c.g), bytes(c.b)};
      });
    }
  });
  return out;
}

Image<Rgba16> toSrgb16(View<Rgb> linear) {
  Image<Rgba16> out(linear.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(linear.row(y), linear.row(y) + linear.width(), out.row(y), [](const Rgb& c) {
        return Rgba16{linearToSrgb16(c.r), linearToSrgb16(c.g), linearToSrgb16(c.b), 65535};
      });
  });
  return out;
}

Image<Rgb> toLinear(View<Rgb8> encoded) {
  Image<Rgb> out(encoded.size());
  const auto wide = [](std::uint8_t v) { return srgb16ToLinear(static_cast<std::uint16_t>(v * 257)); };
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      std::transform(encoded.row(y), encoded.row(y) + encoded.width(), out.row(y), [&](Rgb8 c) {
        return Rgb{wide(c.r), wide(c.g), wide(c.b)};
      });
    }
  });
  return out;
}

Image<float> luminanceOf(View<Rgb> linear) {
  Image<float> out(linear.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(linear.row(y), linear.row(y) + linear.width(), out.row(y), luminance);
  });
  return out;
}

Image<std::uint16_t> brightnessOf(View<Rgb8> picture) {
  Image<std::uint16_t> out(picture.size());
  for (int y = 0; y < out.height(); ++y)
    std::transform(picture.row(y), picture.row(y) + picture.width(), out.row(y), [](Rgb8 c) {
      return static_cast<std::uint16_t>(257 * std::max({c.r, c.g, c.b}));
    });
  return out;
}

Image<std::uint16_t> greyOf(View<Rgba16> picture) {
  Image<std::uint16_t> map(picture.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(picture.row(y), picture.row(y) + map.width(), map.row(y), [](const Rgba16& c) {
      if (c.r == c.g && c.g == c.b) return c.r;
      return static_cast<std::uint16_t>(std::lround(0.2126 * c.r + 0.7152 * c.g + 0.0722 * c.b));
    });
  return map;
}

}  // namespace hscaffold
