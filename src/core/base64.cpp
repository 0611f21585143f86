#include "core/base64.h"

#include <array>
#include <cstdint>

namespace hscaffold {

namespace {
constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
}

std::string base64(std::span<const std::byte> bytes) {
  std::string out;
  out.reserve((bytes.size() + 2) / 3 * 4);
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    std::uint32_t bits = 0;
    for (std::size_t k = 0; k < 3; ++k)
      bits = bits << 8 | (i + k < bytes.size() ? std::to_integer<std::uint32_t>(bytes[i + k]) : 0);
    for (std::size_t k = 0; k < 4; ++k) out += i + k <= bytes.size() ? letters[bits >> (18 - 6 * k) & 63] : '=';
  }
  return out;
}

std::optional<std::vector<std::byte>> fromBase64(std::string_view text) {
  static const auto values = [] {
    std::array<int, 256> made;
    made.fill(-1);
    for (std::size_t i = 0; i < letters.size(); ++i) made[static_cast<unsigned char>(letters[i])] = static_cast<int>(i);
    return made;
  }();
  while (!text.empty() && text.back() == '=') text.remove_suffix(1);
  if (text.size() % 4 == 1) return {};
  std::vector<std::byte> out;
  out.reserve(text.size() * 3 / 4);
  std::uint32_t bits = 0;
  int held = 0;
  for (const char letter : text) {
    const int value = values[static_cast<unsigned char>(letter)];
    if (value < 0) return {};
    bits = bits << 6 | static_cast<std::uint32_t>(value);
    held += 6;
    if (held < 8) continue;
    held -= 8;
    out.push_back(static_cast<std::byte>(bits >> held & 255));
  }
  return out;
}

}  // namespace hscaffold
