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
#include <QtGlobal>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <limits>
#include <mutex>

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

/// OpenEXR keeps whole rows of all its channels beside the picture.
void refuseTooLargeExr(std::int64_t width, std::int64_t height, const std::string& name) {
  refuseTooLarge(width, height, name);
  if (width * height > workedPicturePixels)
    throw badInput(fmt::format("{} is {} x {}: EXR may have at most {} megapixels. Make it smaller first.", name, width,
                               height, workedPicturePixels / 1'000'000));
}

/// What libraries say about the file that is being read on this thread goes here instead of to standard error.
class Overheard {
 public:
  Overheard() {
    const std::lock_guard lock(mutex());
    if (count()++ == 0) before() = qInstallMessageHandler(&take);
    here() = this;
  }
  Overheard(const Overheard&) = delete;
  Overheard& operator=(const Overheard&) = delete;
  ~Overheard() {
    const std::lock_guard lock(mutex());
    here() = nullptr;
    if (--count() == 0) qInstallMessageHandler(before());
  }
  /// libjpeg fills what is missing with grey, and says so.
  [[nodiscard]] bool endsEarly() const { return text_.contains("premature end", Qt::CaseInsensitive); }

 private:
  static void take(QtMsgType type, const QMessageLogContext& context, const QString& text) {
    if (here() != nullptr)
      here()->text_ += text + "\n";
    else if (const QtMessageHandler next = before(); next != nullptr)
      next(type, context, text);
  }
  static std::mutex& mutex() {
    static std::mutex one;
    return one;
  }
  static int& count() {
    static int number = 0;
    return number;
  }
  static std::atomic<QtMessageHandler>& before() {
    static std::atomic<QtMessageHandler> handler = nullptr;
    return handler;
  }
  static Overheard*& here() {
    thread_local Overheard* one = nullptr;
    return one;
  }
  QString text_;
};

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
LoadedPicture decodeDepthExr(Imf::InputFile& file, const std::string& channel, const std::string& name) {
  const auto window = file.header().dataWindow();
  const std::int64_t width = std::int64_t{window.max.x} - window.min.x + 1,
                     height = std::int64_t{window.max.y} - window.min.y + 1;
  if (width < 1 || height < 1) throw badInput(name + " has no pixels.");
  refuseTooLargeExr(width, height, name);
  Image<float> values(static_cast<int>(width), static_cast<int>(height));
  Imf::FrameBuffer buffer;
  const auto across = sizeof(float), down = static_cast<std::size_t>(values.stride()) * sizeof(float);
  char* origin = reinterpret_cast<char*>(values.row(0)) - window.min.x * static_cast<std::ptrdiff_t>(across) -
                 window.min.y * static_cast<std::ptrdiff_t>(down);
  buffer.insert(channel, Imf::Slice(Imf::FLOAT, origin, across, down));
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
  // A little beyond is how sums of floats end, not a distance.
  constexpr float little = 1e-3f;
  if (low < -little || high > 1 + little) {
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

/// Where in a file of layers the picture is: "Combined" for "Combined.R"; empty for a picture without layers. Then, if
/// there is none, its depth.
struct ExrParts {
  bool picture = false;
  std::string layer, depth;
};

ExrParts partsOf(const Imf::Header& header, const std::string& name) {
  const auto& channels = header.channels();
  ExrParts parts;
  parts.picture = channels.findChannel("R") != nullptr || channels.findChannel("Y") != nullptr;
  if (parts.picture) return parts;
  std::string all;
  for (auto channel = channels.begin(); channel != channels.end(); ++channel) {
    const std::string id = channel.name();
    all += (all.empty() ? "" : ", ") + id;
    if (!parts.picture && (id.ends_with(".R") || id.ends_with(".Y"))) {
      parts.picture = true;
      parts.layer = id.substr(0, id.size() - 2);
    }
    if (id == "Z" || (parts.depth.empty() && id.ends_with(".Z"))) parts.depth = id;
  }
  if (!parts.picture && parts.depth.empty())
    throw badInput(name + " has no channels that make a picture or a depth: there are " + all + ".");
  // Depth without a layer of its own name is what the file is about.
  if (parts.depth == "Z") parts.picture = false;
  return parts;
}

LoadedPicture decodeExr(std::span<const std::byte> bytes, const std::string& name) {
  try {
    ExrParts parts;
    {
      MemoryStream looking(bytes, name);
      Imf::InputFile any(looking);
      parts = partsOf(any.header(), name);
      if (!parts.picture) return decodeDepthExr(any, parts.depth, name);
    }
    MemoryStream stream(bytes, name);
    Imf::RgbaInputFile file(stream, parts.layer);
    const auto window = file.dataWindow();
    const std::int64_t width = std::int64_t{window.max.x} - window.min.x + 1,
                       height = std::int64_t{window.max.y} - window.min.y + 1;
    if (width < 1 || height < 1) throw badInput(name + " has no pixels.");
    refuseTooLargeExr(width, height, name);
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

/// libjpeg fills what is missing with grey and says nothing that Qt passes on. Goes from marker to marker (ISO 10918-1,
/// B.1): pictures inside of segments do not count, nor does what was appended.
bool jpegEndsEarly(std::span<const std::byte> bytes) {
  const auto at = [&](std::size_t i) { return std::to_integer<unsigned>(bytes[i]); };
  std::size_t i = 2;  // behind the start
  while (i + 1 < bytes.size()) {
    if (at(i) != 0xff) {
      ++i;  // coded data, up to the next marker
      continue;
    }
    const unsigned marker = at(i + 1);
    if (marker == 0xd9) return false;
    if (marker == 0xff) {
      ++i;  // filling
    } else if (marker == 0 || marker == 1 || (marker >= 0xd0 && marker <= 0xd7)) {
      i += 2;  // a coded 255, or a restart
    } else {
      if (i + 3 >= bytes.size()) return true;
      i += 2 + std::max(2u, at(i + 2) << 8 | at(i + 3));
    }
  }
  return true;
}

/// Qt shows what there is of a GIF. Goes from block to block up to the end of the first picture (GIF89a, 17 to 22).
bool gifEndsEarly(std::span<const std::byte> bytes) {
  std::size_t i = 6;
  const auto at = [&](std::size_t place) {
    return place < bytes.size() ? std::to_integer<unsigned>(bytes[place]) : 0u;
  };
  const auto skipColours = [&](unsigned flags) {
    i += (flags & 0x80u) != 0 ? std::size_t{3} << ((flags & 7u) + 1) : 0;
  };
  const auto skipBlocks = [&] {
    while (i < bytes.size() && at(i) != 0) i += at(i) + 1;
    ++i;
  };
  const unsigned flags = at(i + 4);
  i += 7;
  skipColours(flags);
  while (i < bytes.size() && at(i) == 0x21) {
    i += 2;
    skipBlocks();
  }
  if (at(i) != 0x2c) return true;
  const unsigned own = at(i + 9);
  i += 10;
  skipColours(own);
  ++i;
  skipBlocks();
  return i > bytes.size();
}

/// The same of plain bitmaps: rows of whole 32 bits from a place that the head names.
bool bmpEndsEarly(std::span<const std::byte> bytes) {
  constexpr std::size_t head = 54;
  if (bytes.size() < head) return true;
  const auto word = [&](std::size_t place) {
    std::uint32_t out = 0;
    for (std::size_t i = 0; i < 4; ++i) out |= std::to_integer<std::uint32_t>(bytes[place + i]) << (8 * i);
    return out;
  };
  const std::uint64_t depth = word(28) & 0xffffu, width = word(18);
  const std::uint32_t high = word(22), compression = word(30);
  const std::uint64_t height = high > INT32_MAX ? ~high + 1 : high;
  const bool plain = word(14) >= 40 && (compression == 0 || compression == 3);
  return plain && bytes.size() < word(10) + (depth * width + 31) / 32 * 4 * height;
}

/// Drawings are no pictures of pixels, and others of Qt's readers are not made for files from anywhere.
bool isTaken(const QByteArray& format) {
  static const QList<QByteArray> taken = {"png", "jpeg", "jpg", "webp", "tiff", "tif",
                                          "bmp", "gif",  "ppm", "pgm",  "pbm"};
  return taken.contains(format);
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
  const Overheard overheard;
  QImageReader::setAllocationLimit(pictureMemoryMiB);
  QImageReader reader(&buffer);
  reader.setDecideFormatFromContent(true);
  reader.setAutoTransform(true);
  if (!reader.canRead())
    throw badInput(name + " is not a picture that can be read; PNG, JPEG, WebP, TIFF and EXR can.");
  const QByteArray format = reader.format();
  if (format == "svg" || format == "svgz")
    throw badInput(name + " is a drawing (SVG), not a picture. Name it .svg and bring it in as line art.");
  if (!isTaken(format)) throw badInput(name + " is not a picture that can be read; PNG, JPEG, WebP, TIFF and EXR can.");
  const QSize size = reader.size();
  if (size.isValid()) refuseTooLarge(size.width(), size.height(), name);
  std::string note;
  // Rows go into what is worked with while they are read, where the format can do that.
  if (const auto pixels = static_cast<std::int64_t>(size.width()) * size.height(); pixels > workedPicturePixels) {
    const double scale = std::sqrt(static_cast<double>(workedPicturePixels) / static_cast<double>(pixels));
    const QSize worked(std::max(1, static_cast<int>(size.width() * scale)),
                       std::max(1, static_cast<int>(size.height() * scale)));
    reader.setScaledSize(worked);
    note = fmt::format("{} is {} x {}: it was made smaller to be worked with, {} x {}.", name, size.width(),
                       size.height(), worked.width(), worked.height());
  }
  QImage image = reader.read();
  if (image.isNull() && reader.error() == QImageReader::InvalidDataError && !note.empty())
    throw badInput(name + " is damaged, or needs more memory than a picture may: make it smaller first.");
  if (image.isNull() || (format == "jpeg" && (overheard.endsEarly() || jpegEndsEarly(bytes))) ||
      (format == "gif" && gifEndsEarly(bytes)) || (format == "bmp" && bmpEndsEarly(bytes)))
    throw badInput(name + " is damaged or ends too early. Fetch it again, or save it anew from where it was made.");
  if (image.colorSpace().isValid() && image.colorSpace() != QColorSpace(QColorSpace::SRgb)) {
    // Half floats and 16 bits keep what a wide profile can say until it is in sRGB.
    image.convertTo(QImage::Format_RGBA64);
    image.convertToColorSpace(QColorSpace(QColorSpace::SRgb));
  }
  LoadedPicture out{Image<Rgba16>(image.width(), image.height()), std::move(note)};
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
