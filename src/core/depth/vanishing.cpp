// Straight lines by votes (Hough transform after Duda and Hart 1972), then the place where most of the slanting ones
// meet.
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/depth/seen.h"
#include "core/image/filter.h"

namespace hscaffold::depth {
namespace {

constexpr int angles = 180;
constexpr std::size_t mostLines = 40;

/// x cos + y sin = rho, pixels.
struct Line {
  float cosine = 0, sine = 0, rho = 0;
  float votes = 0;
};

/// A place on the ridge of the gradient: a soft step counts no more than a hard one.
struct Ridge {
  float x = 0, y = 0, angle = 0;  ///< of the gradient, [0, pi)
};

std::vector<Ridge> ridgesIn(View<float> light) {
  const auto smooth = gaussianBlur(light, 1.0f);
  const auto gradient = [&](int x, int y) {
    return std::pair{smooth(x + 1, y) - smooth(x - 1, y), smooth(x, y + 1) - smooth(x, y - 1)};
  };
  Image<float> strength(light.size());
  for (int y = 1; y + 1 < light.height(); ++y)
    for (int x = 1; x + 1 < light.width(); ++x) {
      const auto [gx, gy] = gradient(x, y);
      strength(x, y) = std::hypot(gx, gy);
    }
  std::vector<Ridge> out;
  for (int y = 1; y + 1 < light.height(); ++y) {
    for (int x = 1; x + 1 < light.width(); ++x) {
      const float here = strength(x, y);
      if (here < 0.03f) continue;
      const auto [gx, gy] = gradient(x, y);
      const int sx = static_cast<int>(std::lround(gx / here)), sy = static_cast<int>(std::lround(gy / here));
      if (strength(x + sx, y + sy) > here || strength(x - sx, y - sy) > here) continue;
      const float angle = std::atan2(gy, gx);
      out.push_back(
          {static_cast<float>(x), static_cast<float>(y), angle < 0 ? angle + std::numbers::pi_v<float> : angle});
    }
  }
  return out;
}

/// What has fewer is no line.
float leastVotes(Size size) { return 0.055f * static_cast<float>(std::max(size.width, size.height)); }

std::vector<Line> linesThrough(const std::vector<Ridge>& ridges, Size size) {
  const int reach = static_cast<int>(std::hypot(size.width, size.height)) + 1;
  Image<float> votes(2 * reach + 1, angles);
  std::array<float, angles> cosine{}, sine{};
  for (int a = 0; a < angles; ++a) {
    const float angle = static_cast<float>(a) * std::numbers::pi_v<float> / angles;
    cosine[static_cast<std::size_t>(a)] = std::cos(angle);
    sine[static_cast<std::size_t>(a)] = std::sin(angle);
  }
  for (const Ridge& ridge : ridges) {
    const int middle = static_cast<int>(std::lround(ridge.angle * angles / std::numbers::pi_v<float>));
    for (int d = -2; d <= 2; ++d) {
      const int a = (middle + d + angles) % angles;
      const float rho = ridge.x * cosine[static_cast<std::size_t>(a)] + ridge.y * sine[static_cast<std::size_t>(a)];
      votes(static_cast<int>(std::lround(rho)) + reach, a) += d == 0 ? 1.0f : 0.6f;
    }
  }
  std::vector<Line> out;
  const float least = leastVotes(size);
  for (int a = 0; a < angles; ++a) {
    for (int r = 2; r < 2 * reach - 1; ++r) {
      const float v = votes(r, a);
      if (v < least) continue;
      bool top = true;
      for (int da = -3; da <= 3 && top; ++da)
        for (int dr = -2; dr <= 2 && top; ++dr) {
          const int other = (a + da + angles) % angles;
          const int at = other == a + da ? r + dr : 2 * reach - (r + dr);
          const float w = votes(std::clamp(at, 0, 2 * reach), other);
          top = w < v || (w == v && (da > 0 || (da == 0 && dr >= 0)));
        }
      if (top)
        out.push_back(
            {cosine[static_cast<std::size_t>(a)], sine[static_cast<std::size_t>(a)], static_cast<float>(r - reach), v});
    }
  }
  std::stable_sort(out.begin(), out.end(), [](const Line& p, const Line& q) { return p.votes > q.votes; });
  if (out.size() > mostLines) out.resize(mostLines);
  return out;
}

/// Whether lines run there from three corners or all, from far out: floor, walls and ceiling. A road has them below, a
/// house near by.
float closedAt(const Vanishing& meet, const std::vector<Ridge>& ridges, float width, float height) {
  const float x = meet.x * width, y = meet.y * height, near = 0.02f * std::max(width, height);
  constexpr float chanceFrom = 0.1f, chanceTo = 0.3f;
  std::array<float, 4> corners{};
  for (const Ridge& ridge : ridges) {
    const float dx = ridge.x - x, dy = ridge.y - y, away = std::hypot(dx, dy);
    if (away < 4 * near || std::fabs(dy) < near || std::fabs(dx) < near) continue;
    const float off = std::fabs(dx * std::cos(ridge.angle) + dy * std::sin(ridge.angle)) / away;
    if (off > chanceTo) continue;
    const float toRimX = dx < 0 ? x : width - x, toRimY = dy < 0 ? y : height - y;
    const float out = std::max(std::fabs(dx) / std::max(1.0f, toRimX), std::fabs(dy) / std::max(1.0f, toRimY));
    if (out < 0.4f) continue;
    // Of grain some runs there by chance: as much as runs a little past it.
    const float runs = 1 - rising(off, 0.03f, 0.07f),
                chance = off > chanceFrom ? 0.05f / (chanceTo - chanceFrom) : 0.0f;
    // A whole line from there to the rim comes to one.
    const float wholeLine = 0.45f * std::max(away / out, 0.15f * std::max(width, height));
    corners[(dy < 0 ? 0U : 2U) + (dx < 0 ? 0U : 1U)] += rising(out, 0.45f, 0.65f) * (runs - chance) / wholeLine;
  }
  std::sort(corners.begin(), corners.end());
  return std::clamp(corners[1] / 0.5f, 0.0f, 1.0f);
}

/// Eyes look about level: lines meet seldom near the upper or the lower edge.
float usualAt(float y) {
  const float away = (y - 0.43f) / 0.22f;
  return std::exp(-0.5f * away * away);
}

/// A few places apart from one another, each with how likely it is against the others and against none.
std::vector<Vanishing> likeliest(std::vector<Vanishing> found, const std::vector<Ridge>& ridges, float width,
                                 float height) {
  constexpr std::size_t most = 6;
  constexpr float apart = 0.06f, steep = 15;
  std::stable_sort(found.begin(), found.end(),
                   [](const Vanishing& p, const Vanishing& q) { return p.support > q.support; });
  std::vector<Vanishing> out;
  float sum = 0, sure = 0;
  for (const Vanishing& one : found) {
    if (out.size() == most) break;
    if (std::any_of(out.begin(), out.end(),
                    [&](const Vanishing& other) { return std::hypot(one.x - other.x, one.y - other.y) < apart; }))
      continue;
    out.push_back(one);
    out.back().closed = closedAt(one, ridges, width, height);
    sure = std::max(sure, one.chance * rising(one.support, 0.2f, 0.45f));
    out.back().chance *= std::exp(steep * one.support);
    sum += out.back().chance;
  }
  for (Vanishing& one : out) one.chance *= sure / sum;
  return out;
}

}  // namespace

std::vector<Vanishing> vanishingIn(View<float> light) {
  if (light.width() < 16 || light.height() < 16) return {};
  const auto width = static_cast<float>(light.width()), height = static_cast<float>(light.height());
  const auto ridges = ridgesIn(light);
  auto lines = linesThrough(ridges, light.size());
  // Level and upright lines meet nothing inside the picture; a line that is hardly one counts little.
  for (Line& line : lines)
    line.votes = (line.votes - 0.8f * leastVotes(light.size())) * rising(std::fabs(line.cosine), 0.08f, 0.16f) *
                 rising(std::fabs(line.sine), 0.08f, 0.16f);
  std::erase_if(lines, [](const Line& line) { return line.votes <= 0; });
  float all = 0;
  for (const Line& line : lines) all += line.votes;
  const float near = 0.02f * std::max(width, height);
  std::vector<Vanishing> found;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    for (std::size_t j = i + 1; j < lines.size(); ++j) {
      const float across = lines[i].cosine * lines[j].sine - lines[j].cosine * lines[i].sine;
      if (std::fabs(across) < 0.15f) continue;
      const float x = (lines[i].rho * lines[j].sine - lines[j].rho * lines[i].sine) / across,
                  y = (lines[j].rho * lines[i].cosine - lines[i].rho * lines[j].cosine) / across;
      if (x < -0.4f * width || x > 1.4f * width || y < 0.05f * height || y > 0.85f * height) continue;
      float support = 0, count = 0;
      for (const Line& line : lines) {
        const float miss = std::fabs(x * line.cosine + y * line.sine - line.rho);
        if (miss > 2 * near) continue;
        const float there = 1 - rising(miss, 0.5f * near, 1.5f * near);
        support += there * line.votes;
        count += there * std::min(1.0f, 8 * line.votes / all);
      }
      support *= rising(count, 2, 3);
      // Of nearly nothing, three chance lines are a large share.
      const float plain = rising(support / std::max(width, height), 0.03f, 0.3f) * usualAt(y / height);
      if (support > 0.1f * all && plain > 0) found.push_back({x / width, y / height, support / all, 0, plain});
    }
  }
  return likeliest(std::move(found), ridges, width, height);
}

}  // namespace hscaffold::depth
