#include "core/image/filter.h"

#include <array>
#include <cmath>

#include "core/image/parallel.h"

namespace hscaffold {
namespace {

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

Image<float> boxMean(View<float> picture, int radius) {
  const int width = picture.width(), height = picture.height();
  Image<float> across(picture.size()), out(picture.size());
  parallelRows(height, [&](int first, int end) {
    std::vector<double> sums(static_cast<std::size_t>(width) + 1);
    for (int y = first; y < end; ++y) {
      const float* from = picture.row(y);
      for (int x = 0; x < width; ++x)
        sums[static_cast<std::size_t>(x) + 1] = sums[static_cast<std::size_t>(x)] + static_cast<double>(from[x]);
      for (int x = 0; x < width; ++x) {
        const int left = std::max(0, x - radius), right = std::min(width, x + radius + 1);
        across(x, y) = static_cast<float>(
            (sums[static_cast<std::size_t>(right)] - sums[static_cast<std::size_t>(left)]) / (right - left));
      }
    }
  });
  // Columns in blocks, so that the running sums of neighbouring columns share cache lines.
  constexpr int block = 64;
  parallelRows((width + block - 1) / block,
               [&](int firstBlock, int endBlock) {
                 for (int b = firstBlock; b < endBlock; ++b) {
                   const int x0 = b * block, x1 = std::min(width, x0 + block);
                   std::vector<double> sum(static_cast<std::size_t>(x1 - x0), 0.0);
                   int top = 0, bottom = 0;
                   for (int y = 0; y < height; ++y) {
                     const int wantTop = std::max(0, y - radius), wantBottom = std::min(height, y + radius + 1);
                     for (; bottom < wantBottom; ++bottom)
                       for (int x = x0; x < x1; ++x)
                         sum[static_cast<std::size_t>(x - x0)] += static_cast<double>(across(x, bottom));
                     for (; top < wantTop; ++top)
                       for (int x = x0; x < x1; ++x)
                         sum[static_cast<std::size_t>(x - x0)] -= static_cast<double>(across(x, top));
                     for (int x = x0; x < x1; ++x)
                       out(x, y) = static_cast<float>(sum[static_cast<std::size_t>(x - x0)] / (bottom - top));
                   }
                 }
               },
               1);
  return out;
}

Image<float> guidedSmooth(View<float> picture, int radius, float softness) {
  Image<float> squares(picture.size());
  for (int y = 0; y < picture.height(); ++y)
    std::transform(picture.row(y), picture.row(y) + picture.width(), squares.row(y), [](float v) { return v * v; });
  const auto mean = boxMean(picture, radius);
  const auto meanOfSquares = boxMean(squares, radius);
  Image<float> slope(picture.size()), offset(picture.size());
  for (int y = 0; y < picture.height(); ++y) {
    for (int x = 0; x < picture.width(); ++x) {
      const float variance = std::max(0.0f, meanOfSquares(x, y) - mean(x, y) * mean(x, y));
      slope(x, y) = variance / (variance + softness);
      offset(x, y) = mean(x, y) * (1 - slope(x, y));
    }
  }
  const auto meanSlope = boxMean(slope, radius);
  auto out = boxMean(offset, radius);
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) out(x, y) += meanSlope(x, y) * picture(x, y);
  return out;
}

Image<float> guidedFilter(View<float> guide, View<float> picture, int radius, float softness) {
  assert(guide.size() == picture.size());
  const int width = picture.width(), height = picture.height();
  Image<float> squares(picture.size()), products(picture.size());
  parallelRows(height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < width; ++x) {
        squares(x, y) = guide(x, y) * guide(x, y);
        products(x, y) = guide(x, y) * picture(x, y);
      }
  });
  const auto meanGuide = boxMean(guide, radius), mean = boxMean(picture, radius);
  auto slope = boxMean(products, radius);
  auto offset = boxMean(squares, radius);
  parallelRows(height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < width; ++x) {
        const float variance = std::max(0.0f, offset(x, y) - meanGuide(x, y) * meanGuide(x, y));
        slope(x, y) = (slope(x, y) - meanGuide(x, y) * mean(x, y)) / (variance + softness);
        offset(x, y) = mean(x, y) - slope(x, y) * meanGuide(x, y);
      }
  });
  const auto meanSlope = boxMean(slope, radius);
  auto out = boxMean(offset, radius);
  parallelRows(height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < width; ++x) out(x, y) += meanSlope(x, y) * guide(x, y);
  });
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
