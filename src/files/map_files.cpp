#include "files/map_files.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfIO.h>
#include <ImfOutputFile.h>

#include <algorithm>
#include <cstring>

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
  return kind.nature == MapNature::halfTones && (fileName.ends_with(".exr") || fileName.ends_with(".EXR"));
}

Bytes encodedMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour, const std::string& fileName) {
  return isExrOf(kind, fileName) && !map.empty() ? exrOf(map) : encodeMap(kind, map, colour);
}

}  // namespace hscaffold
