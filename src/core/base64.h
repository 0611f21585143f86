/// Bytes as text: base64 (RFC 4648).
#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace hscaffold {

std::string base64(std::span<const std::byte> bytes);
/// Nothing if the text is none. What stands for no bits (white space) is refused, too.
std::optional<std::vector<std::byte>> fromBase64(std::string_view text);

}  // namespace hscaffold
