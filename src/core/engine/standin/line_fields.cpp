#include "core/engine/standin/line_fields.h"

#include <tbb/parallel_for.h>

#include <cmath>
#include <vector>

#include "core/engine/standin/noise.h"
#include "core/engine/standin/partition.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

struct Region {
  double area = 0, x = 0, y = 0;
  float peak = 0;
  bool top = false, bottom = false, side = false;
  std::array<double, Fields::count> sums{};
  std::array<float, Fields::count> wanted{};
  bool enclosed = false;
  float loose = 0;  ///< how far the prompt's own composition goes on inside: large open areas are not one thing
};

/// What a region is, from where it lies, how large it is, and what the prompt would have put there.
void nameRegion(Region& region, double pictureArea, Size size, std::uint64_t seed) {
  const double share = region.area / pictureArea;
  for (std::size_t i = 0; i < Fields::count; ++i) region.wanted[i] = static_cast<float>(region.sums[i] / region.area);
  region.loose = smoothStep(0.10f, 0.42f, static_cast<float>(share));
  const double cx = region.x / region.area / size.width, cy = region.y / region.area / size.height;
  const auto cell = [](double v) { return static_cast<std::uint64_t>(v * 24 + 0.5); };
  const std::uint64_t hash = mixed(seed, cell(cx) * 64 + cell(cy), static_cast<std::uint64_t>(share * 200));
  std::array<float, partCount> score{};
  for (std::size_t p = 0; p < partCount; ++p) score[p] = region.wanted[4 + p];
  const bool enclosed = region.enclosed = !region.top && !region.bottom && !region.side;
  if (region.top && share > 0.04) score[0] += 0.7f;
  if (region.bottom && share > 0.05) score[3] += 0.6f;
  // Small closed pieces are things; larger ones may as well be openings between things.
  if (enclosed) score[4] += 1.2f - 1.0f * smoothStep(0.008f, 0.05f, static_cast<float>(share));
  if (!region.top && !region.bottom && region.side) score[cy < 0.55 ? 1 : 2] += 0.35f;
  if (!enclosed && share < 0.04) score[4] += 0.35f;
  float total = 0;
  for (float& s : score) {
    s = std::pow(std::max(s, 0.0f), 3.0f);
    total += s;
  }
  for (std::size_t p = 0; p < partCount; ++p) region.wanted[4 + p] = score[p] / std::max(total, 1e-6f);
  const float own = signedUnit(hash), colour = signedUnit(mixed(hash, 2));
  const float small = static_cast<float>(std::clamp(1.4 - share * 6, 0.35, 1.0));
  // Enclosed pieces stand off from what is round them, to the light or to the dark.
  const float contrast = enclosed && share < 0.12 ? 0.65f : 0.42f;
  region.wanted[0] = 0.5f * region.wanted[0] + contrast * small * (own + (own > 0 ? 0.25f : -0.25f));
  region.wanted[1] = 0.8f * region.wanted[1] + 0.2f * (enclosed ? 0.85f : static_cast<float>(cy));
  region.wanted[2] = 0.3f * region.wanted[2] + small * colour;
}

}  // namespace

/// The map at the layout's size; a thin line stays a full line.
Image<float> shrunkLines(View<std::uint16_t> map, Size size) {
  Image<float> out(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const int y0 = static_cast<int>(std::int64_t{y} * map.height() / size.height);
      const int y1 = std::max(y0 + 1, static_cast<int>(std::int64_t{y + 1} * map.height() / size.height));
      for (int x = 0; x < size.width; ++x) {
        const int x0 = static_cast<int>(std::int64_t{x} * map.width() / size.width);
        const int x1 = std::max(x0 + 1, static_cast<int>(std::int64_t{x + 1} * map.width() / size.width));
        std::uint16_t most = 0;
        for (int my = y0; my < y1; ++my)
          for (int mx = x0; mx < x1; ++mx) most = std::max(most, map(mx, my));
        out(x, y) = static_cast<float>(most) / 65535.0f;
      }
    }
  });
  return out;
}

Wanted wantedByLines(const Composition& place, View<std::uint16_t> map, std::uint64_t seed) {
  const Size size = place.fields.size();
  Wanted out;
  out.fields = Fields::ofSize(size);
  out.acts.fill(true);
  out.acts[Fields::courseX] = out.acts[Fields::courseY] = false;
  const auto lines = shrunkLines(map, size);
  const auto partition = partitionBy(lines);
  std::vector<Region> regions(static_cast<std::size_t>(partition.count));
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      Region& region = regions[static_cast<std::size_t>(partition.label(x, y))];
      region.area += 1;
      region.x += x;
      region.y += y;
      region.peak = std::max(region.peak, partition.distance(x, y));
      region.top |= y == 0;
      region.bottom |= y == size.height - 1;
      region.side |= x == 0 || x == size.width - 1;
      for (std::size_t i = 0; i < Fields::count; ++i) region.sums[i] += static_cast<double>(place.fields.all[i](x, y));
    }
  }
  for (Region& region : regions) nameRegion(region, static_cast<double>(size.area()), size, seed);

  const auto soft = gaussianBlur(partition.distance.view(), 2.5f);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const Region& region = regions[static_cast<std::size_t>(partition.label(x, y))];
        for (std::size_t i = 0; i < Fields::count; ++i)
          out.fields.all[i](x, y) = blend(region.wanted[i], place.fields.all[i](x, y), region.loose);
        // Rounded like a cushion towards its outline, lit from the picture's light.
        const float gx = soft(std::min(x + 1, size.width - 1), y) - soft(std::max(x - 1, 0), y);
        const float gy = soft(x, std::min(y + 1, size.height - 1)) - soft(x, std::max(y - 1, 0));
        const float rim = std::exp(-partition.distance(x, y) / std::max(3.0f, 0.35f * region.peak));
        const float body = std::min(1.0f, 30.0f / std::max(1.0f, region.peak));
        out.fields.tone()(x, y) -= 0.38f * body * rim * (gx * place.lightX + gy * place.lightY);
        // Texture of the prompt's own goes on inside the region.
        for (const std::size_t i : {std::size_t{0}, std::size_t{2}})
          out.fields.all[i](x, y) += 0.45f * (1 - region.loose) *
                                     (place.fields.all[i](x, y) - static_cast<float>(region.sums[i] / region.area));
      }
    }
  });
  // Where two regions meet without a line between them there is no border to be seen: far from lines fields are soft.
  const float reach = 0.035f * static_cast<float>(std::max(size.width, size.height));
  tbb::parallel_for(std::size_t{0}, Fields::count, [&](std::size_t i) {
    auto& field = out.fields.all[i];
    const auto blurred = gaussianBlur(field.view(), reach);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x)
        if (!regions[static_cast<std::size_t>(partition.label(x, y))].enclosed)
          field(x, y) =
              blend(field(x, y), blurred(x, y), smoothStep(0.25f * reach, 1.4f * reach, partition.distance(x, y)));
  });
  auto drawn = gaussianBlur(lines.view(), 0.55f);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) out.fields.line()(x, y) = std::min(1.0f, 1.25f * drawn(x, y));
  return out;
}

}  // namespace hscaffold::standin
