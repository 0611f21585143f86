#include "core/depth/things.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include "core/image/components.h"

namespace hscaffold::depth {
namespace {

constexpr float leastBefore = 0.06f;               ///< before the land
constexpr double steepDrop = 0.045;                ///< across the border
constexpr double aside = 0.012;                    ///< of the longer side: how far from the border both sides are read
constexpr double smallest = 0.002, largest = 0.3;  ///< of the frame
constexpr double cut = 0.25;                       ///< of its border that may lie on the frame

constexpr std::array<std::pair<int, int>, 4> ways = {{{1, 0}, {-1, 0}, {0, -1}, {0, 1}}};

std::vector<float> landRows(const Image<float>& near) {
  std::vector<float> out, row(static_cast<std::size_t>(near.width()));
  for (int y = 0; y < near.height(); ++y) {
    std::copy_n(near.row(y), near.width(), row.begin());
    const auto quarter = row.begin() + near.width() / 4;
    std::nth_element(row.begin(), quarter, row.end());
    out.push_back(out.empty() ? *quarter : std::max(out.back(), *quarter));
  }
  return out;
}

int stepFor(Size size) { return std::max(2, static_cast<int>(std::lround(aside * std::max(size.width, size.height)))); }

/// How far nearness falls across a border that is crossed that way.
double dropAt(const Image<float>& near, int x, int y, int dx, int dy, int step) {
  return static_cast<double>(near.view().clamped(x - step * dx, y - step * dy) -
                             near.view().clamped(x + step * dx, y + step * dy));
}

struct Rim {
  double drop = 0, sides = 0;  ///< where it falls off: all but the lower side, where land comes up to it
  double length = 0, onFrame = 0;
};

}  // namespace

Things thingsIn(const Image<float>& near, const std::function<bool(int x, int y)>& mayBe) {
  const int width = near.width(), height = near.height();
  const auto rows = landRows(near);
  Image<std::uint8_t> standing(near.size());
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      if (near(x, y) - rows[static_cast<std::size_t>(y)] > leastBefore && (!mayBe || mayBe(x, y))) standing(x, y) = 255;
  const auto found = componentsOf(standing, Connected::eight);
  const int step = stepFor(near.size());
  std::vector<Rim> rims(found.all.size());
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      if (found.label(x, y) < 0) continue;
      Rim& rim = rims[static_cast<std::size_t>(found.label(x, y))];
      for (const auto& [dx, dy] : ways) {
        if (x + dx < 0 || y + dy < 0 || x + dx >= width || y + dy >= height) {
          rim.onFrame += 1;
          continue;
        }
        if (standing(x + dx, y + dy) != 0) continue;
        rim.length += 1;
        if (dy == 1) continue;
        rim.sides += 1;
        rim.drop += dropAt(near, x, y, dx, dy, step);
      }
    }
  Things out{Image<std::int32_t>(width, height, -1), {}};
  std::vector<std::int32_t> number(found.all.size(), -1);
  const auto pixels = static_cast<double>(near.size().area());
  for (std::size_t i = 0; i < found.all.size(); ++i) {
    const auto area = static_cast<double>(found.all[i].area);
    const double drop = rims[i].drop / std::max(1.0, rims[i].sides);
    if (area < smallest * pixels || area > largest * pixels || drop < steepDrop ||
        rims[i].onFrame > cut * rims[i].length)
      continue;
    number[i] = static_cast<std::int32_t>(out.all.size());
    out.all.push_back({area, drop});
  }
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      if (const auto piece = found.label(x, y); piece >= 0) out.label(x, y) = number[static_cast<std::size_t>(piece)];
  return out;
}

Image<std::uint8_t> outlinesOf(const Things& things, const Image<float>& near) {
  const auto& label = things.label;
  const int step = stepFor(near.size());
  Image<std::uint8_t> out(label.size());
  for (int y = 0; y < label.height(); ++y)
    for (int x = 0; x < label.width(); ++x)
      if (label(x, y) >= 0 && std::any_of(ways.begin(), ways.end(), [&](const auto& way) {
            const auto [dx, dy] = way;
            const int nx = x + dx, ny = y + dy;
            return nx >= 0 && ny >= 0 && nx < label.width() && ny < label.height() && label(nx, ny) != label(x, y) &&
                   dropAt(near, x, y, dx, dy, step) > steepDrop;
          }))
        out(x, y) = 255;
  return out;
}

}  // namespace hscaffold::depth
