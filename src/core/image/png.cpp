#include "core/image/png.h"

#include <png.h>

#include <bit>
#include <cstring>
#include <vector>

#include "core/problem.h"

namespace hscaffold {
namespace {

static_assert(std::endian::native == std::endian::little, "16-bit samples are swapped on writing");

constexpr std::int64_t mostPixels = 400'000'000;

[[noreturn]] void onError(png_structp, png_const_charp message) { throw badInput(message); }
void onWarning(png_structp, png_const_charp) {}

struct Writer {
  png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, onError, onWarning);
  png_infop info = png_create_info_struct(png);
  Writer() = default;
  Writer(const Writer&) = delete;
  Writer& operator=(const Writer&) = delete;
  ~Writer() { png_destroy_write_struct(&png, &info); }
};

struct Reader {
  png_structp png = png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, onError, onWarning);
  png_infop info = png_create_info_struct(png);
  std::span<const std::byte> rest;
  explicit Reader(std::span<const std::byte> bytes) : rest(bytes) {
    if (bytes.size() < 8 || png_sig_cmp(reinterpret_cast<png_const_bytep>(bytes.data()), 0, 8) != 0) {
      png_destroy_read_struct(&png, &info, nullptr);
      throw badInput("it is not a PNG picture");
    }
    png_set_user_limits(png, 1'000'000, 1'000'000);
    png_set_read_fn(png, this, [](png_structp p, png_bytep to, std::size_t count) {
      auto& self = *static_cast<Reader*>(png_get_io_ptr(p));
      if (count > self.rest.size()) png_error(p, "the PNG picture ends too early");
      std::memcpy(to, self.rest.data(), count);
      self.rest = self.rest.subspan(count);
    });
  }
  Reader(const Reader&) = delete;
  Reader& operator=(const Reader&) = delete;
  ~Reader() { png_destroy_read_struct(&png, &info, nullptr); }
  [[nodiscard]] PngTexts texts() const {
    png_textp found = nullptr;
    int count = 0;
    png_get_text(png, info, &found, &count);
    PngTexts out;
    for (int i = 0; i < count; ++i) out[found[i].key] = found[i].text != nullptr ? found[i].text : "";
    return out;
  }
};

template <typename T>
Bytes encode(View<T> picture, int colourType, int depth, const PngTexts& texts, bool quick = false) {
  if (picture.empty()) throw badInput("an empty picture cannot be written as PNG");
  Writer writer;
  Bytes out;
  png_set_write_fn(
      writer.png, &out,
      [](png_structp p, png_bytep from, std::size_t count) {
        auto& to = *static_cast<Bytes*>(png_get_io_ptr(p));
        const auto* first = reinterpret_cast<const std::byte*>(from);
        to.insert(to.end(), first, first + count);
      },
      nullptr);
  png_set_IHDR(writer.png, writer.info, static_cast<png_uint_32>(picture.width()),
               static_cast<png_uint_32>(picture.height()), depth, colourType, PNG_INTERLACE_NONE,
               PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
  png_set_sRGB(writer.png, writer.info, PNG_sRGB_INTENT_PERCEPTUAL);
  png_set_compression_level(writer.png, quick ? 1 : 4);
  if (quick) png_set_filter(writer.png, 0, PNG_FILTER_UP);
  // Lines on nothing are smallest as they are, and need no trying out of filters.
  if (colourType == PNG_COLOR_TYPE_GRAY && depth == 8) png_set_filter(writer.png, 0, PNG_FILTER_NONE);
  std::vector<png_text> chunks;
  for (const auto& [key, text] : texts) {
    png_text chunk{};
    chunk.compression = PNG_ITXT_COMPRESSION_NONE;
    chunk.key = const_cast<char*>(key.c_str());
    chunk.text = const_cast<char*>(text.c_str());
    chunk.itxt_length = text.size();
    chunks.push_back(chunk);
  }
  if (!chunks.empty()) png_set_text(writer.png, writer.info, chunks.data(), static_cast<int>(chunks.size()));
  png_write_info(writer.png, writer.info);
  if (depth == 16) png_set_swap(writer.png);
  for (int y = 0; y < picture.height(); ++y)
    png_write_row(writer.png, reinterpret_cast<png_const_bytep>(picture.row(y)));
  png_write_end(writer.png, writer.info);
  return out;
}

template <typename T>
PngContent decode(std::span<const std::byte> bytes, Image<T>& picture) {
  constexpr bool wide = sizeof(T) == sizeof(Rgba16);
  Reader reader(bytes);
  png_read_info(reader.png, reader.info);
  const auto width = png_get_image_width(reader.png, reader.info);
  const auto height = png_get_image_height(reader.png, reader.info);
  if (std::int64_t{width} * height > mostPixels) throw badInput("the picture has more than 400 megapixels");
  const bool coloured = (png_get_color_type(reader.png, reader.info) & PNG_COLOR_MASK_COLOR) != 0;
  png_set_expand(reader.png);
  png_set_gray_to_rgb(reader.png);
  if constexpr (wide) {
    png_set_expand_16(reader.png);
    png_set_add_alpha(reader.png, 0xffff, PNG_FILLER_AFTER);
    png_set_swap(reader.png);
  } else {
    png_set_scale_16(reader.png);
    png_set_strip_alpha(reader.png);
  }
  const int passes = png_set_interlace_handling(reader.png);
  png_read_update_info(reader.png, reader.info);
  picture = Image<T>(static_cast<int>(width), static_cast<int>(height));
  for (int pass = 0; pass < passes; ++pass)
    for (int y = 0; y < picture.height(); ++y)
      png_read_row(reader.png, reinterpret_cast<png_bytep>(picture.row(y)), nullptr);
  png_read_end(reader.png, reader.info);
  PngContent content;
  content.coloured = coloured;
  content.texts = reader.texts();
  return content;
}

}  // namespace

Bytes encodePng(View<Rgb8> picture, const PngTexts& texts) { return encode(picture, PNG_COLOR_TYPE_RGB, 8, texts); }
Bytes encodePng(View<std::uint8_t> grey, const PngTexts& texts) { return encode(grey, PNG_COLOR_TYPE_GRAY, 8, texts); }
Bytes encodePng(View<std::uint16_t> grey, const PngTexts& texts) {
  return encode(grey, PNG_COLOR_TYPE_GRAY, 16, texts);
}
Bytes encodePng(View<Rgba16> picture, const PngTexts& texts) {
  return encode(picture, PNG_COLOR_TYPE_RGB_ALPHA, 16, texts);
}

Bytes encodePngQuickly(View<Rgba16> picture) { return encode(picture, PNG_COLOR_TYPE_RGB_ALPHA, 16, {}, true); }

PngContent decodePng(std::span<const std::byte> bytes) {
  Image<Rgba16> picture;
  auto content = decode(bytes, picture);
  content.picture = std::move(picture);
  return content;
}

Image<Rgb8> decodePngRgb8(std::span<const std::byte> bytes) {
  Image<Rgb8> picture;
  decode(bytes, picture);
  return picture;
}

Size sizeOfPng(std::span<const std::byte> bytes) {
  Reader reader(bytes);
  png_read_info(reader.png, reader.info);
  return {static_cast<int>(png_get_image_width(reader.png, reader.info)),
          static_cast<int>(png_get_image_height(reader.png, reader.info))};
}

PngTexts readPngTexts(std::span<const std::byte> bytes) {
  Reader reader(bytes);
  png_read_info(reader.png, reader.info);
  auto texts = reader.texts();
  if (!texts.empty()) return texts;
  Image<Rgb8> unused;
  return decode(bytes, unused).texts;
}

}  // namespace hscaffold
