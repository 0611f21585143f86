#include "files/picture_reader.h"

#include <ImfArray.h>
#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfIO.h>
#include <ImfInputFile.h>
#include <ImfRgbaFile.h>
#include <fmt/format.h>

#include <QBuffer>
#include <QColorSpace>
#include <QImageReader>
#include <QImageWriter>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/problem.h"

namespace hscaffold {
namespace {

void refuseTooLarge(std::int64_t width, std::int64_t height, const std::string& name) {
  if (width * height > mostPicturePixels)
    throw badInput(fmt::format("{} is {} x {}: pictures may have at most {} megapixels. Make it smaller first.", name,
                               width, height, mostPicturePixels / 1'000'000));
}

/// OpenEXR's reading from memory.
class MemoryStream final : public Imf::IStream {
 public:
  MemoryStream(std::span<const std::byte> bytes, const std::string& name) : IStream(name.c_str()), bytes_(bytes) {}
  bool read(char c[], int n) override {
    if (n < 0 || static_cast<std::size_t>(n) > bytes_.size() - position_) throw Iex::InputExc("it ends too early");
    std::memcpy(c, bytes_.data() + position_, static_cast<std::size_t>(n));
    position_ += static_cast<std::size_t>(n);
    return position_ < bytes_.size();
  }
  std::uint64_t tellg() override { return position_; }
  void seekg(std::uint64_t position) override { position_ = std::min<std::size_t>(position, bytes_.size()); }

 private:
  std::span<const std::byte> bytes_;
  std::size_t position_ = 0;
};

/// A depth channel alone. Values from 0 to 1 are taken as they are; others are distances, and their inverses go from
/// the farthest to the nearest. What is no number is farthest.
LoadedPicture decodeDepthExr(Imf::InputFile& file, const std::string& name) {
  const auto window = file.header().dataWindow();
  const std::int64_t width = std::int64_t{window.max.x} - window.min.x + 1,
                     height = std::int64_t{window.max.y} - window.min.y + 1;
  if (width < 1 || height < 1) throw badInput(name + " has no pixels.");
  refuseTooLarge(width, height, name);
  Image<float> values(static_cast<int>(width), static_cast<int>(height));
  Imf::FrameBuffer buffer;
  const auto across = sizeof(float), down = static_cast<std::size_t>(values.stride()) * sizeof(float);
  char* origin = reinterpret_cast<char*>(values.row(0)) - window.min.x * static_cast<std::ptrdiff_t>(across) -
                 window.min.y * static_cast<std::ptrdiff_t>(down);
  buffer.insert("Z", Imf::Slice(Imf::FLOAT, origin, across, down));
  file.setFrameBuffer(buffer);
  file.readPixels(window.min.y, window.max.y);
  const auto each = [&](auto&& change) {
    for (int y = 0; y < values.height(); ++y)
      for (float& v : values.line(y)) change(v);
  };
  float low = std::numeric_limits<float>::max(), high = std::numeric_limits<float>::lowest();
  const auto measure = [&] {
    low = std::numeric_limits<float>::max(), high = std::numeric_limits<float>::lowest();
    each([&](float& v) {
      if (std::isfinite(v)) low = std::min(low, v), high = std::max(high, v);
    });
  };
  measure();
  LoadedPicture out{Image<Rgba16>(values.width(), values.height()), ""};
  if (low < 0 || high > 1) {
    each([](float& v) { v = std::isfinite(v) && v > 0 ? 1 / v : std::numeric_limits<float>::infinity(); });
    measure();
    const float range = std::max(1e-20f, high - low);
    each([&](float& v) { v = (v - low) / range; });
    out.note = name + " has distances: they were brought to nearness, from the farthest to the nearest.";
  }
  for (int y = 0; y < values.height(); ++y)
    for (int x = 0; x < values.width(); ++x) {
      const float v = values(x, y);
      const auto level = std::isfinite(v)
                             ? static_cast<std::uint16_t>(std::lround(std::clamp(v, 0.0f, 1.0f) * 65535.0f))
                             : std::uint16_t{0};
      out.picture(x, y) = {level, level, level, 0xffff};
    }
  return out;
}

bool isDepthAlone(const Imf::Header& header) {
  const auto& channels = header.channels();
  return channels.findChannel("Z") != nullptr && channels.findChannel("R") == nullptr &&
         channels.findChannel("Y") == nullptr;
}

LoadedPicture decodeExr(std::span<const std::byte> bytes, const std::string& name) {
  try {
    {
      MemoryStream looking(bytes, name);
      Imf::InputFile any(looking);
      if (isDepthAlone(any.header())) return decodeDepthExr(any, name);
    }
    MemoryStream stream(bytes, name);
    Imf::RgbaInputFile file(stream);
    const auto window = file.dataWindow();
    const std::int64_t width = std::int64_t{window.max.x} - window.min.x + 1,
                       height = std::int64_t{window.max.y} - window.min.y + 1;
    if (width < 1 || height < 1) throw badInput(name + " has no pixels.");
    refuseTooLarge(width, height, name);
    Imf::Array2D<Imf::Rgba> pixels(static_cast<long>(height), static_cast<long>(width));
    file.setFrameBuffer(&pixels[0][0] - window.min.x - window.min.y * width, 1, static_cast<std::size_t>(width));
    file.readPixels(window.min.y, window.max.y);
    LoadedPicture out{Image<Rgba16>(static_cast<int>(width), static_cast<int>(height)), ""};
    bool clipped = false;
    const auto channel = [&](half value) {
      const auto v = static_cast<float>(value);
      clipped |= v > 1.0005f;
      return std::isnan(v) ? std::uint16_t{0} : linearToSrgb16(v);
    };
    for (int y = 0; y < out.picture.height(); ++y)
      for (int x = 0; x < out.picture.width(); ++x) {
        const Imf::Rgba& p = pixels[y][x];
        const float alpha = std::clamp(static_cast<float>(p.a), 0.0f, 1.0f);
        out.picture(x, y) = {channel(p.r), channel(p.g), channel(p.b),
                             static_cast<std::uint16_t>(std::lround(alpha * 65535.0f))};
      }
    if (clipped) out.note = name + " has values brighter than white; they were clipped.";
    return out;
  } catch (const Iex::BaseExc& error) {
    throw badInput(name + " is damaged: " + error.what() + ".");
  }
}

/// libjpeg fills what is missing with grey and says nothing that Qt passes on.
bool jpegEndsEarly(std::span<const std::byte> bytes) {
  const std::size_t tail = std::min<std::size_t>(bytes.size(), 65536);
  const auto end = bytes.subspan(bytes.size() - tail);
  for (std::size_t i = 0; i + 1 < end.size(); ++i)
    if (end[i] == std::byte{0xff} && end[i + 1] == std::byte{0xd9}) return false;
  return true;
}

}  // namespace

LoadedPicture decodePicture(std::span<const std::byte> bytes, const std::string& name) {
  if (bytes.empty()) throw badInput(name + " is empty: it has no picture in it.");
  static constexpr std::array<unsigned char, 4> exrMark = {0x76, 0x2f, 0x31, 0x01};
  if (bytes.size() > 4 && std::memcmp(bytes.data(), exrMark.data(), 4) == 0) return decodeExr(bytes, name);

  QByteArray data =
      QByteArray::fromRawData(reinterpret_cast<const char*>(bytes.data()), static_cast<qsizetype>(bytes.size()));
  QBuffer buffer(&data);
  buffer.open(QIODevice::ReadOnly);
  QImageReader::setAllocationLimit(pictureMemoryMiB);
  QImageReader reader(&buffer);
  reader.setDecideFormatFromContent(true);
  reader.setAutoTransform(true);
  if (!reader.canRead())
    throw badInput(name + " is not a picture that can be read; PNG, JPEG, WebP, TIFF and EXR can.");
  const QByteArray format = reader.format();
  const QSize size = reader.size();
  if (size.isValid()) refuseTooLarge(size.width(), size.height(), name);
  QImage image = reader.read();
  if (image.isNull() || (format == "jpeg" && jpegEndsEarly(bytes)))
    throw badInput(name + " is damaged or ends too early. Fetch it again, or save it anew from where it was made.");
  if (image.colorSpace().isValid() && image.colorSpace() != QColorSpace(QColorSpace::SRgb)) {
    // Half floats and 16 bits keep what a wide profile can say until it is in sRGB.
    image.convertTo(QImage::Format_RGBA64);
    image.convertToColorSpace(QColorSpace(QColorSpace::SRgb));
  }
  LoadedPicture out{Image<Rgba16>(image.width(), image.height()), ""};
  // What most pictures are is widened at once, on all cores.
  const bool usual = image.format() == QImage::Format_RGB32 || image.format() == QImage::Format_ARGB32;
  const bool opaque = image.format() == QImage::Format_RGB32;
  if (!usual) image.convertTo(QImage::Format_RGBA64);
  parallelRows(out.picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      if (!usual) {
        std::memcpy(out.picture.row(y), image.constScanLine(y),
                    static_cast<std::size_t>(image.width()) * sizeof(Rgba16));
        continue;
      }
      const auto* line = reinterpret_cast<const QRgb*>(image.constScanLine(y));
      const auto wide = [](int v) { return static_cast<std::uint16_t>(v * 257); };
      std::transform(line, line + image.width(), out.picture.row(y), [&](QRgb c) {
        return Rgba16{wide(qRed(c)), wide(qGreen(c)), wide(qBlue(c)), opaque ? std::uint16_t{65535} : wide(qAlpha(c))};
      });
    }
  });
  return out;
}

LoadedPicture readPicture(const std::filesystem::path& path, Bytes* bytes) {
  auto content = readWholeFile(path);
  auto loaded = decodePicture(content, path.filename().string());
  if (bytes != nullptr) *bytes = std::move(content);
  return loaded;
}

void writePicture(const std::filesystem::path& path, View<Rgb8> picture) {
  const std::string ending = path.extension().string();
  QImage image(picture.width(), picture.height(), QImage::Format_RGB888);
  for (int y = 0; y < picture.height(); ++y)
    std::memcpy(image.scanLine(y), picture.row(y), static_cast<std::size_t>(picture.width()) * sizeof(Rgb8));
  image.setColorSpace(QColorSpace(QColorSpace::SRgb));
  QByteArray data;
  QBuffer buffer(&data);
  buffer.open(QIODevice::WriteOnly);
  QImageWriter writer(&buffer, QByteArray::fromStdString(ending.empty() ? "png" : ending.substr(1)));
  writer.setQuality(92);
  if (!writer.write(image))
    throw badInput("Could not write " + path.string() +
                   ": pictures of that ending cannot be written; .png, .jpg, .webp and .tif can.");
  writeFileAtomically(path, std::as_bytes(std::span(data.constData(), static_cast<std::size_t>(data.size()))));
}

}  // namespace hscaffold
