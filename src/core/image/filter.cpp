#include "core/image/filter.h"

#include <array>
#include <cmath>

#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr float narrowBlur = 10;

template <typename T>
Image<T> blurred(View<T> picture, float sigma) {
  const auto kernel = gaussianKernel(sigma);
  const int radius = static_cast<int>(kernel.size() / 2);
  Image<T> across(picture.size()), out(picture.size());
  const int width = picture.width(), height = picture.height();
  parallelRows(height, [&](int first, int end) {
    std::vector<T> padded(static_cast<std::size_t>(width + 2 * radius));
    for (int y = first; y < end; ++y) {
      for (int x = -radius; x < width + radius; ++x)
        padded[static_cast<std::size_t>(x + radius)] = picture.row(y)[std::clamp(x, 0, width - 1)];
      T* to = across.row(y);
      for (int x = 0; x < width; ++x) {
        T sum{};
        const T* from = padded.data() + x;
        for (std::size_t k = 0; k < kernel.size(); ++k) sum = sum + from[k] * kernel[k];
        to[x] = sum;
      }
    }
  });
  parallelRows(height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      T* to = out.row(y);
      std::fill_n(to, width, T{});
      for (int k = -radius; k <= radius; ++k) {
        const T* from = across.row(std::clamp(y + k, 0, height - 1));
        const float weight = kernel[static_cast<std::size_t>(k + radius)];
        for (int x = 0; x < width; ++x) to[x] = to[x] + from[x] * weight;
      }
    }
  });
  return out;
}

template <typename T>
T bilinear(View<T> picture, float x, float y) {
  const float fx = std::clamp(x - 0.5f, 0.0f, static_cast<float>(picture.width() - 1));
  const float fy = std::clamp(y - 0.5f, 0.0f, static_cast<float>(picture.height() - 1));
  const int x0 = static_cast<int>(fx), y0 = static_cast<int>(fy);
  const int x1 = std::min(x0 + 1, picture.width() - 1), y1 = std::min(y0 + 1, picture.height() - 1);
  const float u = fx - static_cast<float>(x0), v = fy - static_cast<float>(y0);
  const T* top = picture.row(y0);
  const T* bottom = picture.row(y1);
  return (top[x0] * (1 - u) + top[x1] * u) * (1 - v) + (bottom[x0] * (1 - u) + bottom[x1] * u) * v;
}

}  // namespace

std::vector<float> gaussianKernel(float sigma) {
  if (!(sigma > 0)) return {1.0f};
  const int radius = static_cast<int>(std::ceil(3 * sigma));
  std::vector<float> kernel;
  float sum = 0;
  for (int i = -radius; i <= radius; ++i) {
    kernel.push_back(std::exp(-0.5f * static_cast<float>(i * i) / (sigma * sigma)));
    sum += kernel.back();
  }
  for (float& value : kernel) value /= sum;
  return kernel;
}

Image<float> gaussianBlur(View<float> picture, float sigma) { return blurred<float>(picture, sigma); }
Image<Rgb> gaussianBlur(View<Rgb> picture, float sigma) { return blurred<Rgb>(picture, sigma); }

Image<float> broadBlur(View<float> picture, float sigma) {
  if (sigma <= narrowBlur) return gaussianBlur(picture, sigma);
  // The variance that making small and large again adds is taken off.
  constexpr float added = 1 + 2.0f / 3;
  const Size half{(picture.width() + 1) / 2, (picture.height() + 1) / 2};
  if (std::min(half.width, half.height) < 4) return gaussianBlur(picture, sigma);
  const auto small = broadBlur(halved(picture).view(), 0.5f * std::sqrt(sigma * sigma - added));
  return enlarged(small.view(), picture.size());
}

Image<Rgb> broadBlur(View<Rgb> picture, float sigma) {
  if (sigma <= narrowBlur) return gaussianBlur(picture, sigma);
  Image<Rgb> out(picture.size());
  for (float Rgb::*channel : {&Rgb::r, &Rgb::g, &Rgb::b}) {
    Image<float> one(picture.size());
    parallelRows(picture.height(), [&](int first, int end) {
      for (int y = first; y < end; ++y)
        for (int x = 0; x < picture.width(); ++x) one(x, y) = picture(x, y).*channel;
    });
    one = broadBlur(one.view(), sigma);
    parallelRows(picture.height(), [&](int first, int end) {
      for (int y = first; y < end; ++y)
        for (int x = 0; x < picture.width(); ++x) out(x, y).*channel = one(x, y);
    });
  }
  return out;
}

Image<float> halved(View<float> picture) {
  const int width = (picture.width() + 1) / 2, height = (picture.height() + 1) / 2;
  static constexpr float kernel[5] = {1 / 16.0f, 4 / 16.0f, 6 / 16.0f, 4 / 16.0f, 1 / 16.0f};
  Image<float> across(width, picture.height()), out(width, height);
  parallelRows(picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const float* from = picture.row(y);
      float* to = across.row(y);
      const auto atBorder = [&](int x) {
        float sum = 0;
        for (int k = -2; k <= 2; ++k) sum += kernel[k + 2] * from[std::clamp(2 * x + k, 0, picture.width() - 1)];
        return sum;
      };
      const int inner = std::max(1, (picture.width() - 1) / 2);
      to[0] = atBorder(0);
      for (int x = 1; x < inner; ++x) {
        const float* f = from + 2 * x;
        to[x] = kernel[0] * f[-2] + kernel[1] * f[-1] + kernel[2] * f[0] + kernel[3] * f[1] + kernel[4] * f[2];
      }
      for (int x = inner; x < width; ++x) to[x] = atBorder(x);
    }
  });
  parallelRows(height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      std::array<const float*, 5> rows{};
      for (int k = -2; k <= 2; ++k)
        rows[static_cast<std::size_t>(k + 2)] = across.row(std::clamp(2 * y + k, 0, picture.height() - 1));
      float* to = out.row(y);
      for (int x = 0; x < width; ++x)
        to[x] = kernel[0] * rows[0][x] + kernel[1] * rows[1][x] + kernel[2] * rows[2][x] + kernel[3] * rows[3][x] +
                kernel[4] * rows[4][x];
    }
  });
  return out;
}

Image<float> enlarged(View<float> picture, Size size) {
  Image<float> out(size);
  // Low pixels sit at even high ones (see `halved`): the others are the mean of their neighbours.
  const int last = picture.width() - 1, whole = std::min(size.width / 2, last);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const float* top = picture.row(std::min(y / 2, picture.height() - 1));
      const float* bottom = picture.row(std::min((y + 1) / 2, picture.height() - 1));
      float* to = out.row(y);
      for (int x = 0; x < whole; ++x) {
        to[2 * x] = 0.5f * top[x] + 0.5f * bottom[x];
        to[2 * x + 1] = 0.5f * (0.5f * top[x] + 0.5f * top[x + 1]) + 0.5f * (0.5f * bottom[x] + 0.5f * bottom[x + 1]);
      }
      for (int x = 2 * whole; x < size.width; ++x) {
        const int left = std::min(x / 2, last), right = std::min((x + 1) / 2, last);
        to[x] = 0.5f * (0.5f * top[left] + 0.5f * top[right]) + 0.5f * (0.5f * bottom[left] + 0.5f * bottom[right]);
      }
    }
  });
  return out;
}

Pyramid laplacianPyramid(View<float> picture, int smallest) {
  std::vector<Image<float>> levels;
  levels.push_back(Image<float>(picture.size()));
  for (int y = 0; y < picture.height(); ++y) std::copy_n(picture.row(y), picture.width(), levels[0].row(y));
  while (std::min(levels.back().width(), levels.back().height()) >= 2 * smallest)
    levels.push_back(halved(levels.back()));
  for (std::size_t i = 0; i + 1 < levels.size(); ++i) {
    const auto up = enlarged(levels[i + 1], levels[i].size());
    for (int y = 0; y < up.height(); ++y)
      for (int x = 0; x < up.width(); ++x) levels[i](x, y) -= up(x, y);
  }
  std::reverse(levels.begin(), levels.end());
  return {std::move(levels)};
}

Image<float> collapsed(const Pyramid& pyramid) {
  auto sum = pyramid.bands.front().clone();
  for (std::size_t i = 1; i < pyramid.bands.size(); ++i) {
    const auto& band = pyramid.bands[i];
    sum = enlarged(sum, band.size());
    for (int y = 0; y < band.height(); ++y)
      for (int x = 0; x < band.width(); ++x) sum(x, y) += band(x, y);
  }
  return sum;
}

float sampleLinear(View<float> picture, float x, float y) { return bilinear(picture, x, y); }
Rgb sampleLinear(View<Rgb> picture, float x, float y) { return bilinear(picture, x, y); }

}  // namespace hscaffold
