#include "core/guides/nearness.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/guides/affine_json.h"
#include "core/guides/json_fields.h"
#include "core/image/resample.h"

namespace hscaffold {

float nearAt(View<float> near, double x, double y) {
  if (x < 0 || y < 0 || x > near.width() || y > near.height()) return -1;
  const double sx = std::clamp(x - 0.5, 0.0, near.width() - 1.0), sy = std::clamp(y - 0.5, 0.0, near.height() - 1.0);
  const int x0 = static_cast<int>(sx), y0 = static_cast<int>(sy);
  const int x1 = std::min(x0 + 1, near.width() - 1), y1 = std::min(y0 + 1, near.height() - 1);
  const auto fx = static_cast<float>(sx - x0), fy = static_cast<float>(sy - y0);
  const float a = near(x0, y0), b = near(x1, y0), c = near(x0, y1), d = near(x1, y1);
  if (std::min({a, b, c, d}) < 0) return -1;
  return (a * (1 - fx) + b * fx) * (1 - fy) + (c * (1 - fx) + d * fx) * fy;
}

Image<float> nearAtSize(View<float> near, Size size) {
  Image<float> out(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const float v = nearAt(near, (x + 0.5) * near.width() / size.width, (y + 0.5) * near.height() / size.height);
      // As it will be read back from a study.
      out(x, y) = v < 0 ? v : static_cast<float>(std::round(v * Nearness::grades) / Nearness::grades);
    }
  return out;
}

Nearness following(const Nearness& nearness, Size frame, const std::optional<Affine>& placing) {
  Nearness out{frame, placing, nearness.by, {}};
  const Affine back = thenFromNow(nearness.frame, nearness.placing, frame, placing);
  if (frame == nearness.frame && isIdentity(back)) {
    out.near = nearness.near.clone();
    return out;
  }
  out.near = Image<float>(within(frame, Nearness::mostSide));
  const double toFrame = static_cast<double>(frame.width) / out.near.width(),
               across = static_cast<double>(nearness.near.width()) / nearness.frame.width,
               down = static_cast<double>(nearness.near.height()) / nearness.frame.height;
  for (int y = 0; y < out.near.height(); ++y)
    for (int x = 0; x < out.near.width(); ++x) {
      const double fx = (x + 0.5) * toFrame, fy = (y + 0.5) * frame.height / out.near.height();
      out.near(x, y) = nearAt(nearness.near, back.mapX(fx, fy) * across, back.mapY(fx, fy) * down);
    }
  return out;
}

std::string nearnessToText(const Nearness& nearness) {
  nlohmann::json values = nlohmann::json::array();
  for (int y = 0; y < nearness.near.height(); ++y)
    for (const float v : nearness.near.line(y)) values.push_back(v < 0 ? -1 : std::lround(v * Nearness::grades));
  return nlohmann::json{{"width", nearness.frame.width},
                        {"height", nearness.frame.height},
                        {"placing", affineToJson(nearness.placing)},
                        {"by", nearness.by},
                        {"across", nearness.near.width()},
                        {"down", nearness.near.height()},
                        {"near", std::move(values)}}
      .dump();
}

Nearness nearnessFromText(const std::string& text, const std::string& where) {
  constexpr int mostSideInFiles = 1024;
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  Nearness out;
  out.frame = workFrameFrom(fields);
  if (fields.has("placing")) out.placing = affineFromJson(fields.child("placing"), where);
  out.by = fields.text("by", "");
  const auto across = static_cast<int>(fields.integer("across", 1, mostSideInFiles));
  const auto down = static_cast<int>(fields.integer("down", 1, mostSideInFiles));
  out.near = Image<float>(across, down);
  const auto values =
      numbersFromJson(fields.child("near"), where, static_cast<std::size_t>(across) * static_cast<std::size_t>(down));
  std::size_t at = 0;
  for (int y = 0; y < down; ++y)
    for (float& v : out.near.line(y)) {
      const double value = values[at++];
      v = value < 0 ? -1.0f : static_cast<float>(std::min(value / Nearness::grades, 1.0));
    }
  return out;
}

}  // namespace hscaffold
