#include "app/images.h"

#include "core/image/colour.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace hscaffold::app {

QImage toQImage(View<Rgb8> picture) {
  QImage out(picture.width(), picture.height(), QImage::Format_RGB32);
  paintInto(out, {}, picture);
  return out;
}

void paintInto(QImage& picture, QPoint at, View<Rgb8> part) {
  for (int y = 0; y < part.height(); ++y)
    std::transform(part.row(y), part.row(y) + part.width(),
                   reinterpret_cast<QRgb*>(picture.scanLine(at.y() + y)) + at.x(),
                   [](const Rgb8& c) { return qRgb(c.r, c.g, c.b); });
}

Image<Rgb8> fromQImage(const QImage& image) {
  const QImage rgb = image.convertToFormat(QImage::Format_RGB32);
  Image<Rgb8> out(rgb.width(), rgb.height());
  for (int y = 0; y < rgb.height(); ++y) {
    const auto* line = reinterpret_cast<const QRgb*>(rgb.constScanLine(y));
    std::transform(line, line + rgb.width(), out.row(y), [](QRgb c) {
      return Rgb8{static_cast<std::uint8_t>(qRed(c)), static_cast<std::uint8_t>(qGreen(c)),
                  static_cast<std::uint8_t>(qBlue(c))};
    });
  }
  return out;
}

QColor toQColor(const Rgb& linear) {
  return {linearToSrgb8(linear.r), linearToSrgb8(linear.g), linearToSrgb8(linear.b)};
}

Rgb fromQColor(const QColor& colour) {
  return {srgbToLinear(colour.redF()), srgbToLinear(colour.greenF()), srgbToLinear(colour.blueF())};
}

QImage imageFromPng(const Bytes& png) {
  QImage image;
  image.loadFromData(reinterpret_cast<const uchar*>(png.data()), static_cast<int>(png.size()));
  return image;
}

QImage greyImage(View<std::uint16_t> map) {
  QImage out(map.width(), map.height(), QImage::Format_Grayscale8);
  for (int y = 0; y < map.height(); ++y) {
    uchar* line = out.scanLine(y);
    for (int x = 0; x < map.width(); ++x) line[x] = static_cast<uchar>(map(x, y) >> 8);
  }
  return out;
}

QImage inkedImage(View<Rgb8> map, Rgb8 background) {
  QImage out(map.width(), map.height(), QImage::Format_ARGB32_Premultiplied);
  const bool dark = background == Rgb8{0, 0, 0};
  for (int y = 0; y < map.height(); ++y) {
    auto* line = reinterpret_cast<QRgb*>(out.scanLine(y));
    for (int x = 0; x < map.width(); ++x) {
      const Rgb8 c = map(x, y);
      // On black, a colour is what it covers times how far it covers.
      int alpha = std::max({c.r, c.g, c.b});
      if (dark) {
        line[x] = qRgba(c.r, c.g, c.b, alpha);
        continue;
      }
      alpha = std::min(255, 3 * std::max({std::abs(c.r - background.r), std::abs(c.g - background.g),
                                          std::abs(c.b - background.b)}));
      line[x] = qPremultiply(qRgba(c.r, c.g, c.b, alpha));
    }
  }
  return out;
}

QImage tintedImage(View<std::uint16_t> map, const QColor& colour) {
  QImage out(map.width(), map.height(), QImage::Format_ARGB32_Premultiplied);
  for (int y = 0; y < map.height(); ++y) {
    auto* line = reinterpret_cast<QRgb*>(out.scanLine(y));
    for (int x = 0; x < map.width(); ++x) {
      // A thin line gets a soft border, so that it is still seen when the picture is shown small.
      int alpha = map(x, y) >> 8;
      for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}})
        alpha = std::max(alpha, (map.clamped(x + dx, y + dy) >> 8) * 5 / 8);
      line[x] = alpha == 0 ? 0
                           : qRgba(colour.red() * alpha / 255, colour.green() * alpha / 255,
                                   colour.blue() * alpha / 255, alpha);
    }
  }
  return out;
}

QImage displayImage(View<Rgba16> picture, int longest) {
  QImage view(reinterpret_cast<const uchar*>(picture.row(0)), picture.width(), picture.height(),
              static_cast<qsizetype>(picture.stride()) * static_cast<qsizetype>(sizeof(Rgba16)), QImage::Format_RGBA64);
  if (std::max(picture.width(), picture.height()) > longest)
    return view.scaled(longest, longest, Qt::KeepAspectRatio, Qt::SmoothTransformation)
        .convertToFormat(QImage::Format_ARGB32_Premultiplied);
  return view.convertToFormat(QImage::Format_ARGB32_Premultiplied);
}

}  // namespace hscaffold::app
