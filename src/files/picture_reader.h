/// Pictures from outside: PNG, JPEG, WebP, TIFF and what else Qt Gui reads, and OpenEXR; 8 and 16 bits and float, grey,
/// palette, RGB, RGBA and CMYK. Turned upright by EXIF; embedded RGB and grey profiles converted to sRGB.
#pragma once

#include <filesystem>
#include <string>

#include "core/image/atomic_file.h"
#include "core/image/image.h"

namespace hscaffold {

inline constexpr std::int64_t mostPicturePixels = 400'000'000;  ///< of a file
/// What larger ones are brought to while they are read, the ratio kept, and said; with it a picture, a map of 8
/// megapixels and all that is computed on the way stay below 2 GiB. EXR may not have more.
inline constexpr std::int64_t workedPicturePixels = 100'000'000;
inline constexpr int pictureMemoryMiB = 1200;  ///< of one that has to be read whole before it is made smaller

struct LoadedPicture {
  Image<Rgba16> picture;
  std::string note;  ///< what was lost on the way ("values above white were clipped"); usually empty
};

/// @param name  for messages. @throws Problem (badInput): which file, what is wrong, what to do.
LoadedPicture decodePicture(std::span<const std::byte> bytes, const std::string& name);
/// Also gives the file's bytes, to be kept.
LoadedPicture readPicture(const std::filesystem::path& path, Bytes* bytes = nullptr);

/// Writes maps, proofs and placed pictures by the ending of `path`: .png, .jpg, .webp, .tif.
/// @throws Problem
void writePicture(const std::filesystem::path& path, View<Rgb8> picture);

}  // namespace hscaffold
