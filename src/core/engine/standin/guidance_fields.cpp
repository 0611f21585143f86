#include "core/engine/standin/guidance_fields.h"

#include <algorithm>
#include <map>

#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/kind_list.h"

namespace hscaffold::standin {

#define DECLARE_KIND(name) Wanted name##Wanted(const Asked& asked);
HSCAFFOLD_KINDS(DECLARE_KIND)
#undef DECLARE_KIND

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
