/// Finals as they go out of the program. What they are in sRGB is said in every file.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/finish/final_maps.h"
#include "core/finish/touch_up.h"

namespace hscaffold {

/// A picture that lies in a layered file beside the final: a guide's map.
struct MapLayer {
  std::string name;
  Image<Rgb8> picture;  ///< of any size of the final's ratio
};

struct FinalExport {
  bool sixteenBits = false;  ///< of PNG and TIFF
  int quality = 92;          ///< of JPEG and WebP, 1 to 100
  std::vector<MapLayer> maps = {};
};

/// By the ending of the name: .png (with all recipes), .tif, .jpg, .webp, .ora (OpenRaster: the final, its touch-ups
/// and maps as layers). @throws Problem
Bytes finalFile(const Final& final, const ShownPictures& shown, const PictureBytes& pictures, const std::string& name,
                const FinalExport& form = {});
/// @throws Problem (badInput) if it ends otherwise than `finalFile` knows
void checkFinalName(const std::string& name);

/// Maps as they lie in a layered file.
std::vector<MapLayer> layersOf(const FinalMaps& maps);
/// A PNG each, numbered and named after its guide, in a folder that is made whole or not at all.
/// @throws Problem where something of that name is there already, or it cannot be written
void writeMapFolder(const std::filesystem::path& folder, const FinalMaps& maps);

}  // namespace hscaffold
