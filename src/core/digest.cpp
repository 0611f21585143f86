#include "core/digest.h"

#include <fmt/format.h>
#include <xxhash.h>

#include <array>
#include <memory>

namespace hscaffold {
namespace {

std::string textOf(const XXH128_hash_t& hash) { return fmt::format("{:016x}{:016x}", hash.high64, hash.low64); }

}  // namespace

std::string digestOf(std::span<const std::byte> bytes) { return textOf(XXH3_128bits(bytes.data(), bytes.size())); }

std::string digestOf(View<std::uint16_t> map, View<Rgb8> colour) {
  const std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> state(XXH3_createState(), XXH3_freeState);
  XXH3_128bits_reset(state.get());
  const std::array<std::int32_t, 2> size = {map.width(), map.height()};
  XXH3_128bits_update(state.get(), size.data(), sizeof size);
  for (int y = 0; y < map.height(); ++y)
    XXH3_128bits_update(state.get(), map.row(y), static_cast<std::size_t>(map.width()) * sizeof(std::uint16_t));
  for (int y = 0; y < colour.height(); ++y)
    XXH3_128bits_update(state.get(), colour.row(y), static_cast<std::size_t>(colour.width()) * sizeof(Rgb8));
  return textOf(XXH3_128bits_digest(state.get()));
}

}  // namespace hscaffold
