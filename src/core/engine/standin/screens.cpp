// Flat colour, as printed through screens: a handful of opaque inks, the lightest first, each a little out of register.
#include <algorithm>
#include <cmath>
#include <vector>

#include "core/engine/standin/noise.h"
#include "core/engine/standin/painting.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

constexpr std::size_t inkCount = 8;

float distance(OkLab a, OkLab b) {
  const float l = 1.2f * (a.l - b.l), x = a.a - b.a, y = a.b - b.b;
  return l * l + 4 * (x * x + y * y);
}

std::size_t nearest(const std::vector<OkLab>& inks, OkLab c) {
  std::size_t best = 0;
  for (std::size_t i = 1; i < inks.size(); ++i)
    if (distance(inks[i], c) < distance(inks[best], c)) best = i;
  return best;
}

/// Inks that stand for the plan's colours (Lloyd's algorithm), begun at its palette; the lightest first.
std::vector<OkLab> inksFor(const Plan& plan) {
  std::vector<OkLab> inks;
  for (const OkLch& part : plan.palette.parts) inks.push_back(okLchToOkLab(part));
  inks.push_back(okLchToOkLab(plan.palette.skyLow));
  inks.push_back(okLchToOkLab(plan.palette.accent));
  inks.push_back({0.24f, 0, -0.01f});
  inks.resize(inkCount);
  const Size size = plan.colour.size();
  const int step = std::max(1, std::max(size.width, size.height) / 96);
  for (int round = 0; round < 8; ++round) {
    std::vector<OkLab> sums(inks.size());
    std::vector<float> counts(inks.size());
    for (int y = step / 2; y < size.height; y += step)
      for (int x = step / 2; x < size.width; x += step) {
        const OkLab c = plan.colour(x, y);
        const std::size_t i = nearest(inks, c);
        sums[i] = {sums[i].l + c.l, sums[i].a + c.a, sums[i].b + c.b};
        ++counts[i];
      }
    for (std::size_t i = 0; i < inks.size(); ++i)
      if (counts[i] > 0) inks[i] = {sums[i].l / counts[i], sums[i].a / counts[i], sums[i].b / counts[i]};
  }
  std::sort(inks.begin(), inks.end(), [](const OkLab& a, const OkLab& b) { return a.l > b.l; });
  // Inks are purer than what they stand for, and further apart in value.
  for (OkLab& ink : inks) ink = {std::clamp(0.5f + 1.12f * (ink.l - 0.5f), 0.14f, 0.95f), 1.18f * ink.a, 1.18f * ink.b};
  return inks;
}

/// The ink that most of the surroundings have: specks and the thin seams between two inks go.
Image<std::uint8_t> cleaned(const Image<std::uint8_t>& inks, int radius) {
  Image<std::uint8_t> out(inks.size());
  parallelRows(inks.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < inks.width(); ++x) {
        std::array<int, inkCount> votes{};
        for (int dy = -radius; dy <= radius; ++dy)
          for (int dx = -radius; dx <= radius; ++dx) ++votes[inks.view().clamped(x + dx, y + dy)];
        out(x, y) = static_cast<std::uint8_t>(std::max_element(votes.begin(), votes.end()) - votes.begin());
      }
  });
  return out;
}

}  // namespace

Image<Rgb> printedInScreens(const Plan& plan, std::uint64_t seed, StopToken stop) {
  const Size size = plan.colour.size();
  const float unitSize = plan.place.unit();
  const auto inks = inksFor(plan.ofAll());
  Image<std::uint8_t> which(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) which(x, y) = static_cast<std::uint8_t>(nearest(inks, plan.colour(x, y)));
  });
  throwIfStopped(stop);
  const int radius = std::max(1, static_cast<int>(std::lround(2 * unitSize)));
  which = cleaned(cleaned(which, radius), radius);
  throwIfStopped(stop);
  Image<OkLab> sheet(size);
  for (int y = 0; y < size.height; ++y) std::fill_n(sheet.row(y), size.width, OkLab{0.955f, 0.0f, 0.015f});
  const auto print = [&](OkLab ink, std::uint64_t screen, auto&& coverAt) {
    Image<float> cover(size);
    const int dx = static_cast<int>(std::lround(1.1f * unitSize * signedUnit(mixed(seed, screen, 1)))),
              dy = static_cast<int>(std::lround(1.1f * unitSize * signedUnit(mixed(seed, screen, 2))));
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x)
        cover(x, y) = coverAt(std::clamp(x + dx, 0, size.width - 1), std::clamp(y + dy, 0, size.height - 1));
    const auto soft = broadBlur(cover.view(), 0.6f * unitSize);
    parallelRows(size.height, [&](int first, int end) {
      PaperGrain paperGrain(seed + screen);
      for (int y = first; y < end; ++y)
        for (int x = 0; x < size.width; ++x) {
          const float body = 0.985f - 0.10f * std::max(0.0f, paperGrain.at(plan.place.x(x), plan.place.y(y)) - 0.72f);
          const float t = body * smoothStep(0.2f, 0.8f, soft(x, y));
          OkLab& at = sheet(x, y);
          at = {blend(at.l, ink.l, t), blend(at.a, ink.a, t), blend(at.b, ink.b, t)};
        }
    });
    throwIfStopped(stop);
  };
  // Each ink also lies under all darker ones, so that no paper shows between them.
  for (std::size_t i = 0; i < inks.size(); ++i)
    print(inks[i], i, [&](int x, int y) { return which(x, y) >= i ? 1.0f : 0.0f; });
  // Lines: dark on what is light, and a light ink on what is dark.
  constexpr float dark = 0.36f;
  const auto lineOn = [&](bool onDark) {
    return [&, onDark](int x, int y) {
      return (inks[which(x, y)].l < dark) == onDark ? smoothStep(0.3f, 0.5f, plan.line(x, y)) : 0.0f;
    };
  };
  OkLab key = inks.back();
  key.l = std::min(key.l, 0.22f);
  print(key, inks.size(), lineOn(false));
  OkLab chalk = *std::min_element(inks.begin(), inks.end(), [](const OkLab& a, const OkLab& b) {
    return std::abs(a.l - 0.62f) < std::abs(b.l - 0.62f);
  });
  chalk.l = std::max(chalk.l, 0.55f);
  print(chalk, inks.size(), lineOn(true));
  Image<Rgb> out(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) out(x, y) = okLabToLinearInGamut(sheet(x, y));
  });
  return out;
}

}  // namespace hscaffold::standin
