// A pattern settles light and dark, piece by piece, without drawing its outlines: whatever the picture has there,
// stones, leaves or roofs, takes the light or the dark that the pattern asks for.
#include <algorithm>
#include <cmath>

#include "core/engine/standin/guidance_fields.h"
#include "core/engine/standin/noise.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/measure/scan.h"

namespace hscaffold::standin {

Wanted patternWanted(const Asked& asked);

namespace {

/// When pieces of the size of a module settle, as a share of the way.
constexpr double settles = 0.42;

/// Share of the pieces that obey at a load: few below 0.4, hardly one does not from 0.9 on.
float obeying(double load) { return smoothStep(0.3f, 0.95f, static_cast<float>(load)); }

/// About how long light and dark run along rows and columns, in pixels: a module, a stripe.
float usualRun(View<float> wanted) {
  std::vector<int> runs;
  const auto along = [&](int length, const auto& at) {
    int begun = 0;
    for (int i = 1; i <= length; ++i) {
      const auto side = [&](int k) { return at(k) > 0.6f ? 1 : at(k) < 0.4f ? -1 : 0; };
      if (i < length && side(i) == side(i - 1)) continue;
      if (side(i - 1) != 0) runs.push_back(i - begun);
      begun = i;
    }
  };
  for (int y = 0; y < wanted.height(); y += 2) along(wanted.width(), [&](int x) { return wanted(x, y); });
  for (int x = 0; x < wanted.width(); x += 2) along(wanted.height(), [&](int y) { return wanted(x, y); });
  constexpr float leastRun = 3, mostRun = 40;
  if (runs.empty()) return mostRun;
  // The shorter ones: several modules side by side run longer.
  const auto third = runs.begin() + static_cast<std::ptrdiff_t>(runs.size() / 3);
  std::nth_element(runs.begin(), third, runs.end());
  return std::clamp(static_cast<float>(*third), leastRun, mostRun);
}

/// Which piece a place belongs to, and how far from its middle it lies: pieces of about `size`, none like another
/// (Worley 1996).
struct Splinter {
  std::uint64_t id = 0;
  float x = 0, y = 0;             ///< its middle
  float nearest = 0, second = 0;  ///< distances to its middle and to the next one's, in sizes
};
Splinter pieceAt(std::uint64_t seed, float x, float y, float size) {
  const float u = x / size, v = y / size;
  const int column = static_cast<int>(std::floor(u)), row = static_cast<int>(std::floor(v));
  Splinter out{0, x, y, 9, 9};
  for (int j = row - 1; j <= row + 1; ++j)
    for (int i = column - 1; i <= column + 1; ++i) {
      const auto id = mixed(seed, static_cast<std::uint64_t>(static_cast<std::int64_t>(i)),
                            static_cast<std::uint64_t>(static_cast<std::int64_t>(j)));
      const float px = static_cast<float>(i) + 0.5f + 0.5f * (unit(id) - 0.5f),
                  py = static_cast<float>(j) + 0.5f + 0.5f * (unit(mixed(id, 1)) - 0.5f);
      const float d = std::hypot(u - px, v - py);
      if (d < out.nearest) {
        out = {id, px * size, py * size, d, out.nearest};
      } else if (d < out.second) {
        out.second = d;
      }
    }
  return out;
}

}  // namespace

Wanted patternWanted(const Asked& asked) {
  const Size size = asked.place.fields.size();
  Wanted out = wantedNothing(asked.place);
  const auto wanted = resampled(widened(asked.input.map.view()).view(), size, Resampling::area);
  // Who avoids contrast avoids what the pattern is made of.
  const double load = asked.loads.atOrAfter(settles) * (1 - 0.5 * asked.flatness);
  const float share = obeying(load), run = usualRun(wanted.view());
  // Pieces of the picture take light or dark as a whole, so that from near by only pieces are seen; a code's modules
  // are pieces of their own, whose borders waver by less than what readers take for another.
  const bool inPieces = knownCodeIn(asked.input.map.view()) == nullptr;
  const float extent = inPieces ? std::clamp(0.45f * run, 7.0f, 13.0f) : run;
  const float waver = 0.05f * std::min(run, 12.0f), wave = 1.3f * extent;
  const auto wantedAt = [&](float x, float y) {
    return wanted(std::clamp(static_cast<int>(std::lround(x)), 0, size.width - 1),
                  std::clamp(static_cast<int>(std::lround(y)), 0, size.height - 1));
  };
  out.where = Image<float>(size);
  out.lightness = Image<float>(size);
  out.filled = Image<float>(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const float fx = static_cast<float>(x) + waver * valueNoise(mixed(asked.seed, 71), static_cast<float>(x) / wave,
                                                                  static_cast<float>(y) / wave),
                  fy = static_cast<float>(y) + waver * valueNoise(mixed(asked.seed, 72), static_cast<float>(x) / wave,
                                                                  static_cast<float>(y) / wave);
      const Splinter piece = pieceAt(mixed(asked.seed, 73), fx, fy, extent);
      const float s = inPieces ? wantedAt(piece.x, piece.y) : wantedAt(fx, fy);
      const float asks = std::min(1.0f, 1.25f * std::abs(2 * s - 1));
      out.where(x, y) = unit(mixed(piece.id, 5)) < share ? asks : 0;
      // Each piece in a light or a dark of its own, with a joint between it and the next.
      const float own = (inPieces ? 0.26f : 0.05f) * (unit(mixed(piece.id, 6)) - 0.5f);
      const float joint = inPieces ? 0.22f * smoothStep(0.16f, 0.02f, piece.second - piece.nearest) : 0;
      constexpr float dark = 0.22f, light = 0.92f, darkPiece = 0.36f, lightPiece = 0.82f;
      const float from = inPieces ? darkPiece : dark, to = inPieces ? lightPiece : light;
      out.filled(x, y) = inPieces ? 0 : smoothStep(0.14f, 0.0f, s);
      out.lightness(x, y) = from + (to - from) * s + own - joint * (s > 0.5f ? 1.0f : -0.6f);
    }
  return out;
}

}  // namespace hscaffold::standin
