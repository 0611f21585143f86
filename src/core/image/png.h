/// PNG (ISO 15948) with text, through libpng.
#pragma once

#include <map>
#include <string>

#include "core/image/atomic_file.h"
#include "core/image/image.h"

namespace hscaffold {

/// Keyword (1-79 Latin-1 characters) to UTF-8 text, stored as iTXt.
using PngTexts = std::map<std::string, std::string>;

Bytes encodePng(View<Rgb8> picture, const PngTexts& texts = {});
Bytes encodePng(View<std::uint8_t> grey, const PngTexts& texts = {});
Bytes encodePng(View<std::uint16_t> grey, const PngTexts& texts = {});
Bytes encodePng(View<Rgba16> picture, const PngTexts& texts = {});
/// Larger, but several times as fast: for what is written while the artist works.
Bytes encodePngQuickly(View<Rgba16> picture);

struct PngContent {
  Image<Rgba16> picture;
  PngTexts texts;
  bool coloured = false;  ///< the file has colours; they may all be greys
};
/// Any PNG, widened to 16 bits RGBA. Colour profiles are not applied (`src/files` does that for pictures from outside).
/// @throws Problem (badInput) if it is not a PNG, damaged, or has more than 400 megapixels.
PngContent decodePng(std::span<const std::byte> bytes);
/// As `decodePng`, for pictures of our own making (8 bits, no alpha).
Image<Rgb8> decodePngRgb8(std::span<const std::byte> bytes);
/// From its head alone. @throws Problem (badInput)
Size sizeOfPng(std::span<const std::byte> bytes);
/// The texts alone; stops before the pixels unless text follows them. @throws Problem (badInput)
PngTexts readPngTexts(std::span<const std::byte> bytes);

}  // namespace hscaffold
