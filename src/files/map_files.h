/// Maps as files: PNG, and OpenEXR for maps in which every value says something.
#pragma once

#include <string>

#include "core/image/atomic_file.h"
#include "core/kinds.h"

namespace hscaffold {

/// Whether a map of that kind goes out in OpenEXR under such a name.
bool isExrOf(const Kind& kind, const std::string& fileName);

/// By the ending of `fileName`. OpenEXR has one channel of 32-bit floats, Z: the map's own values, 0 to 1.
/// @throws Problem
Bytes encodedMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour, const std::string& fileName);

}  // namespace hscaffold
