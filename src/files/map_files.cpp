#include "files/map_files.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfIO.h>
#include <ImfOutputFile.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/image/widen.h"

namespace hscaffold {
namespace {

/// OpenEXR's writing into memory.
class MemoryWriter final : public Imf::OStream {
 public:
  MemoryWriter() : OStream("map") {}
  void write(const char c[], int n) override {
    const auto count = static_cast<std::size_t>(n);
    if (position_ + count > bytes.size()) bytes.resize(position_ + count);
    std::memcpy(bytes.data() + position_, c, count);
    position_ += count;
  }
  std::uint64_t tellp() override { return position_; }
  void seekp(std::uint64_t position) override { position_ = position; }

  Bytes bytes;

 private:
  std::size_t position_ = 0;
};

Bytes exrOf(View<std::uint16_t> map) {
  Image<float> values(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), values.row(y),
                   [](std::uint16_t v) { return static_cast<float>(v) / 65535.0f; });
  MemoryWriter out;
  try {
    Imf::Header header(map.width(), map.height());
    header.channels().insert("Z", Imf::Channel(Imf::FLOAT));
    Imf::FrameBuffer buffer;
    buffer.insert("Z", Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(values.row(0)), sizeof(float),
                                  static_cast<std::size_t>(values.stride()) * sizeof(float)));
    Imf::OutputFile file(out, header);
    file.setFrameBuffer(buffer);
    file.writePixels(map.height());
  } catch (const std::exception& error) {
    throw failed(std::string("The map could not be written as OpenEXR: ") + error.what() + ".");
  }
  return std::move(out.bytes);
}

}  // namespace

bool isExrOf(const Kind& kind, const std::string& fileName) {
  return isOfValues(kind.nature) && (fileName.ends_with(".exr") || fileName.ends_with(".EXR"));
}

Size withShortSide(Size size, int shortSide) {
  const double scale = static_cast<double>(shortSide) / std::max(1, std::min(size.width, size.height));
  const auto side = [&](int from) { return std::max(1, static_cast<int>(std::lround(from * scale))); };
  return {side(size.width), side(size.height)};
}

Bytes encodedMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour, const std::string& fileName,
                 const MapFileForm& form) {
  if (!isOfValues(kind.nature) || map.empty()) return encodeMap(kind, map, colour);
  Map sized;
  ColourMap sizedColour;
  if (form.shortSide > 0 && form.shortSide != std::min(map.width(), map.height())) {
    Image<float> values(map.size());
    for (int y = 0; y < map.height(); ++y) std::copy_n(map.row(y), map.width(), values.row(y));
    values = resampled(values, withShortSide(map.size(), form.shortSide), Resampling::area);
    sized =
        widened(values, [](float v) { return static_cast<std::uint16_t>(std::lround(std::clamp(v, 0.0f, 65535.0f))); });
    map = sized;
    if (!colour.empty()) {
      sizedColour = toSrgb8(resampled(toLinear(colour), map.size(), Resampling::area));
      colour = sizedColour;
    }
  }
  if (isExrOf(kind, fileName)) return exrOf(map);
  return encodeMap(kind, map, colour, form.narrow);
}

}  // namespace hscaffold
