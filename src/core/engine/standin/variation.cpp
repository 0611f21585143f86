#include "core/engine/standin/variation.h"

#include <numbers>

#include "core/engine/standin/noise.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {

void vary(Composition& place, std::uint64_t variation, double amount) {
  if (amount <= 0) return;
  const auto a = static_cast<float>(amount);
  const Size size = place.fields.size();
  const auto longer = static_cast<float>(std::max(size.width, size.height));
  const float reach = 0.16f * a * longer, wave = 0.35f * longer;
  NoiseWalk across(mixed(variation, 1)), down(mixed(variation, 2));
  const auto asideAt = [&](float x, float y, NoiseWalk& axis) { return reach * axis.at(x / wave, y / wave); };
  Fields pushed = Fields::ofSize(size);
  parallelRows(size.height, [&](int first, int end) {
    NoiseWalk ownAcross = across, ownDown = down;
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        const float px = static_cast<float>(x) + 0.5f, py = static_cast<float>(y) + 0.5f;
        const float fx = px + asideAt(px, py, ownAcross), fy = py + asideAt(px, py, ownDown);
        for (std::size_t i = 0; i < Fields::count; ++i)
          pushed.all[i](x, y) = sampleLinear(place.fields.all[i].view(), fx, fy);
      }
  });
  place.fields = std::move(pushed);
  const auto height = static_cast<float>(size.height);
  const auto carry = [&](float& x, float& footY, float& tall, std::uint64_t who) {
    const float dx = asideAt(x * height, footY * height, across) / height,
                dy = asideAt(x * height, footY * height, down) / height;
    x -= dx;
    footY = std::min(0.97f, footY - dy);
    tall *= 1 + 0.25f * a * signedUnit(mixed(variation, who, 3));
  };
  carry(place.subject.x, place.subject.footY, place.subject.height, 0);
  for (std::size_t i = 0; i < place.subject.others.size(); ++i) {
    Standing& c = place.subject.others[i];
    carry(c.x, c.footY, c.height, i + 1);
  }
}

void vary(Palette& palette, std::uint64_t variation, double amount) {
  if (amount <= 0) return;
  const float most = static_cast<float>(amount) * 25 * std::numbers::pi_v<float> / 180;
  for (std::size_t p = 0; p < partCount; ++p) palette.parts[p].h += most * signedUnit(mixed(variation, p, 4));
  palette.accent.h += most * signedUnit(mixed(variation, partCount, 4));
}

}  // namespace hscaffold::standin
