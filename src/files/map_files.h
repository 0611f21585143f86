/// Maps as files: PNG, and OpenEXR for maps in which every value says something.
#pragma once

#include <string>

#include "core/image/atomic_file.h"
#include "core/kinds.h"

namespace hscaffold {

/// Whether a map of that kind goes out in OpenEXR under such a name.
bool isExrOf(const Kind& kind, const std::string& fileName);

/// How a map of half tones is written. Other kinds know one way only.
struct MapFileForm {
  bool narrow = false;  ///< 8 bits a value in PNG instead of 16
  int shortSide = 0;    ///< pixels, the ratio kept; 0: as it is
};

/// The size that has this short side and the ratio of `size`.
Size withShortSide(Size size, int shortSide);

/// By the ending of `fileName`. OpenEXR has one channel of 32-bit floats, Z: the map's own values, 0 to 1.
/// @throws Problem
Bytes encodedMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour, const std::string& fileName,
                 const MapFileForm& form = {});

}  // namespace hscaffold
