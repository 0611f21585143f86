/// Names by content: XXH3, 128 bits, hexadecimal.
#pragma once

#include <cstddef>
#include <span>
#include <string>

#include "core/image/image.h"

namespace hscaffold {

std::string digestOf(std::span<const std::byte> bytes);
/// Of a map, by which a recipe names it: size, values, and colours where it has them.
std::string digestOf(View<std::uint16_t> map, View<Rgb8> colour = {});

}  // namespace hscaffold
