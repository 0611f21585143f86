#include "core/engine/standin/guidance_fields.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/engine/standin/noise.h"
#include "core/image/colour.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/kind_list.h"

namespace hscaffold::standin {

#define DECLARE_KIND(name) Wanted name##Wanted(const Asked& asked);
HSCAFFOLD_KINDS(DECLARE_KIND)
#undef DECLARE_KIND

Image<float> lightnessShown(const Map& map, Size size) {
  auto light = resampled(widened(map.view()).view(), size, Resampling::area);
  for (int y = 0; y < size.height; ++y)
    for (float& value : light.line(y)) value = std::cbrt(srgbToLinear(value));
  return light;
}

Wanted wantedNothing(const Composition& place) {
  Wanted out;
  out.fields = Fields::ofSize(place.fields.size());
  return out;
}

namespace {

const std::map<std::string, Wanted (*)(const Asked&)>& allKinds() {
#define LIST_KIND(name) {#name, name##Wanted},
  static const std::map<std::string, Wanted (*)(const Asked&)> all = {HSCAFFOLD_KINDS(LIST_KIND)};
#undef LIST_KIND
  return all;
}

}  // namespace

std::vector<std::string> knownKinds() {
  std::vector<std::string> out;
  for (const auto& [kind, _] : allKinds()) out.push_back(kind);
  return out;
}

Wanted wantedBy(const std::string& kind, const Asked& asked) {
  const auto& all = allKinds();
  const auto found = all.find(kind);
  Wanted out = found != all.end() ? found->second(asked) : wantedNothing(asked.place);
  const Map& region = asked.input.region;
  if (region.empty()) return out;
  auto limited = resampled(widened(region).view(), asked.place.fields.size(), Resampling::area);
  const auto limit = [&](Image<float>& field) {
    for (int y = 0; y < field.height(); ++y)
      for (int x = 0; x < field.width(); ++x) field(x, y) *= limited(x, y);
  };
  if (out.decided) {
    limit(out.decided->where);
    limit(out.decided->lines);
    limit(out.decided->undrawn);
    limit(out.decided->shade);
  }
  limit(out.where);
  if (out.where.empty()) out.where = std::move(limited);
  return out;
}

std::shared_ptr<const Tints> tintsOf(const std::vector<Wanted>& wanted, const std::vector<LoadCurve>& loads) {
  // Colour goes with masses: what is loaded when they settle is taken.
  constexpr double settles = 0.25;
  std::shared_ptr<Tints> out;
  for (std::size_t g = 0; g < wanted.size(); ++g) {
    const Wanted& each = wanted[g];
    if (each.a.empty()) continue;
    const float share = smoothStep(0.03f, 0.95f, static_cast<float>(loads[g].at(settles)));
    if (!out)
      out = std::make_shared<Tints>(
          Tints{Image<float>(each.a.size()), Image<float>(each.a.size()), Image<float>(each.a.size())});
    for (int y = 0; y < each.a.height(); ++y)
      for (int x = 0; x < each.a.width(); ++x) {
        const float here = share * (each.where.empty() ? 1.0f : each.where(x, y));
        out->a(x, y) = blend(out->a(x, y), each.a(x, y), here);
        out->b(x, y) = blend(out->b(x, y), each.b(x, y), here);
        out->share(x, y) = blend(out->share(x, y), 1.0f, here);
      }
  }
  return out;
}

void lightUp(Wanted& wanted, const Composition& picture, const Palette& palette, bool drawn) {
  if (wanted.lightness.empty()) return;
  if (drawn && !wanted.filled.empty()) {
    constexpr float deeper = 0.15f, stroke = 1.3f;
    const Image<float>& lines = picture.fields.line();
    for (int y = 0; y < lines.height(); ++y)
      for (int x = 0; x < lines.width(); ++x) {
        wanted.lightness(x, y) -= deeper * wanted.filled(x, y);
        wanted.fields.line()(x, y) = std::max(lines(x, y), stroke * wanted.filled(x, y));
      }
    wanted.acts[3] = true;
  }
  wanted.fields.tone() = toneFor(wanted.lightness.view(), picture, palette);
  wanted.acts[0] = true;
}

}  // namespace hscaffold::standin
