#include "core/kinds.h"
#include "core/image/narrow.h"

#include <algorithm>

#include "core/image/png.h"
#include "core/kind_list.h"
#include "core/measure/proof_seen.h"

namespace hscaffold {

#define DECLARE_KIND(name) Kind name##Kind();
HSCAFFOLD_KINDS(DECLARE_KIND)
#undef DECLARE_KIND

namespace {

const std::vector<Kind>& registry() {
#define MAKE_KIND(name) name##Kind(),
  static const std::vector<Kind> all = {HSCAFFOLD_KINDS(MAKE_KIND)};
#undef MAKE_KIND
  return all;
}

}  // namespace

std::span<const Kind> kinds() { return registry(); }

const Kind& kindOf(const std::string& id) {
  for (const Kind& kind : registry())
    if (kind.id == id) return kind;
  std::string known;
  for (const Kind& kind : registry()) known += (known.empty() ? "" : ", ") + kind.id;
  throw badInput("There is no guide kind \"" + id + "\" in this version; there are " + known + ".");
}

bool standsAlone(const Kind& kind, const Guide& guide) {
  if (!guide.reference.empty()) return false;
  return kind.onSettings || std::any_of(kind.workSlots.begin(), kind.workSlots.end(),
                                        [&](const WorkSlot& slot) { return slot.alone && guide.work.has(slot.name); });
}
bool standsAlone(const Guide& guide) { return standsAlone(kindOf(guide.kind), guide); }

std::vector<std::byte> encodeMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour, bool narrow) {
  if (!colour.empty()) return encodePng(colour);
  if (isOfValues(kind.nature) && !narrow) return encodePng(map);
  Image<std::uint8_t> bytes(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), bytes.row(y), [](std::uint16_t v) { return inEightBits(v); });
  return encodePng(bytes.view());
}

const MapExport* exportFor(const Kind& kind, const std::string& fileName) {
  std::string lower = fileName;
  std::transform(lower.begin(), lower.end(), lower.begin(), [](unsigned char c) {
    return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : static_cast<char>(c);
  });
  for (const MapExport& format : kind.exports)
    if (lower.ends_with(format.ending)) return &format;
  return nullptr;
}

std::optional<Holding> holdingOf(const Kind& kind, const GuideInput& input, const ProofSeen& proof, StopToken stop) {
  if (!kind.measure) return {};
  Holding holding = kind.measure(input, proof, stop);
  const Size size = proof.pixels().size(), seen = holding.misses.size();
  if (holding.misses.empty() || seen == size) return holding;
  Map misses(size);
  const auto at = [](int pixel, int of, int inAll) {
    return (std::int64_t{2} * pixel + 1) * inAll / (std::int64_t{2} * of);
  };
  for (int y = 0; y < size.height; ++y) {
    const auto* from = holding.misses.row(static_cast<int>(at(y, size.height, seen.height)));
    for (int x = 0; x < size.width; ++x) misses(x, y) = from[at(x, size.width, seen.width)];
  }
  const double scale = static_cast<double>(size.width) / seen.width;
  for (MissedPlace& place : holding.lost) {
    place.x *= scale;
    place.y *= scale;
    place.extent *= scale;
  }
  holding.misses = std::move(misses);
  return holding;
}

}  // namespace hscaffold
