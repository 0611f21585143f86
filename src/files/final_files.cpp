#include "files/final_files.h"

#include <fmt/format.h>

#include <zip.h>

#include <QBuffer>
#include <QColorSpace>
#include <QImage>
#include <QImageWriter>
#include <QTemporaryDir>
#include <algorithm>
#include <pugixml.hpp>
#include <set>
#include <sstream>

#include "core/image/colour.h"
#include "core/image/resample.h"
#include "files/map_files.h"

namespace hscaffold {
namespace {

std::string endingOf(const std::string& name) {
  std::string ending = std::filesystem::path(name).extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return std::tolower(c); });
  return ending == ".jpeg" ? ".jpg" : ending == ".tiff" ? ".tif" : ending;
}

QImage imageOf(View<Rgb8> picture) {
  QImage out(picture.width(), picture.height(), QImage::Format_RGB888);
  for (int y = 0; y < picture.height(); ++y)
    std::copy_n(reinterpret_cast<const uchar*>(picture.row(y)), 3 * static_cast<std::size_t>(picture.width()),
                out.scanLine(y));
  out.setColorSpace(QColorSpace::SRgb);
  return out;
}

QImage imageOf(View<Rgba16> picture) {
  QImage out(picture.width(), picture.height(), QImage::Format_RGBX64);
  for (int y = 0; y < picture.height(); ++y)
    std::copy_n(reinterpret_cast<const uchar*>(picture.row(y)), 8 * static_cast<std::size_t>(picture.width()),
                out.scanLine(y));
  out.setColorSpace(QColorSpace::SRgb);
  return out;
}

Bytes written(const QImage& image, const char* format, int quality) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  QImageWriter writer(&buffer, format);
  writer.setQuality(quality);
  if (!writer.write(image))
    throw failed("The final could not be written as " + std::string(format) + ": " +
                 writer.errorString().toStdString() + ".");
  const auto* data = reinterpret_cast<const std::byte*>(bytes.constData());
  return {data, data + bytes.size()};
}

/// A touch-up alone: as opaque as its region.
Image<Rgba16> layerOf(const TouchUp& touchUp, View<Rgb8> shown, const Box& box, Size whole) {
  const auto small = resampled(toLinear(shown).view(), box.size(), Resampling::lanczos3);
  const auto mask = maskOf(touchUp.region, whole, box, touchUp.feather);
  auto layer = toSrgb16(small.view());
  for (int y = 0; y < layer.height(); ++y)
    for (int x = 0; x < layer.width(); ++x)
      layer(x, y).a = static_cast<std::uint16_t>(std::lround(std::clamp(mask(x, y), 0.0f, 1.0f) * 65535));
  return layer;
}

/// A zip file in memory.
class Zip {
 public:
  Zip() {
    zip_error_init(&error_);
    source_ = zip_source_buffer_create(nullptr, 0, 0, &error_);
    if (source_ == nullptr) throw trouble();
    zip_ = zip_open_from_source(source_, ZIP_TRUNCATE, &error_);
    if (zip_ == nullptr) {
      zip_source_free(source_);
      throw trouble();
    }
    zip_source_keep(source_);
  }
  Zip(const Zip&) = delete;
  Zip& operator=(const Zip&) = delete;
  ~Zip() {
    if (zip_ != nullptr) zip_discard(zip_);
    zip_source_free(source_);
    zip_error_fini(&error_);
  }
  void add(const std::string& name, Bytes bytes, bool stored) {
    parts_.push_back(std::move(bytes));
    zip_source_t* part = zip_source_buffer(zip_, parts_.back().data(), parts_.back().size(), 0);
    const auto index = part == nullptr ? -1 : zip_file_add(zip_, name.c_str(), part, ZIP_FL_ENC_UTF_8);
    if (index < 0) {
      zip_source_free(part);
      throw failed("The layered file could not be written: " + std::string(zip_strerror(zip_)) + ".");
    }
    if (stored) zip_set_file_compression(zip_, static_cast<zip_uint64_t>(index), ZIP_CM_STORE, 0);
  }
  Bytes closed() {
    if (zip_close(zip_) != 0)
      throw failed("The layered file could not be written: " + std::string(zip_strerror(zip_)) + ".");
    zip_ = nullptr;
    zip_stat_t about;
    if (zip_source_stat(source_, &about) != 0 || zip_source_open(source_) != 0) throw trouble();
    Bytes bytes(about.size);
    const auto read = zip_source_read(source_, bytes.data(), bytes.size());
    zip_source_close(source_);
    if (read != static_cast<zip_int64_t>(bytes.size())) throw trouble();
    return bytes;
  }

 private:
  Problem trouble() {
    return failed("The layered file could not be written: " + std::string(zip_error_strerror(&error_)) + ".");
  }
  zip_error_t error_{};
  zip_source_t* source_ = nullptr;
  zip_t* zip_ = nullptr;
  std::list<Bytes> parts_;  ///< are read when the file is closed
};

Bytes openRaster(const Final& final, const ShownPictures& shown, const FinalExport& form) {
  const auto whole = composedFinal(final, shown);
  const auto base = shown(final.picture);
  pugi::xml_document document;
  auto image = document.append_child("image");
  image.append_attribute("version") = "0.0.3";
  image.append_attribute("w") = final.size.width;
  image.append_attribute("h") = final.size.height;
  auto stack = image.append_child("stack");
  Zip zip;
  const std::string type = "image/openraster";
  const auto typeBytes = bytesOf(type);
  zip.add("mimetype", Bytes(typeBytes.begin(), typeBytes.end()), true);
  int number = 0;
  // The file lists what lies on top first.
  const auto add = [&](const std::string& name, Bytes png, int x, int y, bool visible) {
    const std::string source = "data/layer" + std::to_string(number++) + ".png";
    zip.add(source, std::move(png), true);
    auto layer = stack.append_child("layer");
    layer.append_attribute("name") = name.c_str();
    layer.append_attribute("src") = source.c_str();
    layer.append_attribute("x") = x;
    layer.append_attribute("y") = y;
    layer.append_attribute("visibility") = visible ? "visible" : "hidden";
    layer.append_attribute("composite-op") = "svg:src-over";
  };
  for (const MapLayer& map : form.maps) {
    auto picture = map.picture.size() == final.size
                       ? map.picture.clone()
                       : toSrgb8(resampled(toLinear(map.picture.view()).view(), final.size).view());
    add(map.name, encodePng(picture.view()), 0, 0, false);
  }
  for (auto touchUp = final.touchUps.rbegin(); touchUp != final.touchUps.rend(); ++touchUp) {
    const TouchTry* used = touchUp->usedTry();
    if (used == nullptr) continue;
    const auto layer = layerOf(*touchUp, shown(used->picture)->view(), used->box, final.size);
    add(touchUp->name, encodePng(layer.view()), used->box.left, used->box.top, touchUp->on);
  }
  add("final", encodePng(base->view()), 0, 0, true);
  std::ostringstream xml;
  document.save(xml, "  ");
  const std::string text = xml.str();
  const auto textBytes = bytesOf(text);
  zip.add("stack.xml", Bytes(textBytes.begin(), textBytes.end()), false);
  constexpr double longestThumbnail = 256;
  zip.add(
      "Thumbnails/thumbnail.png",
      encodePng(
          toSrgb8(
              resampled(toLinear(whole.view()).view(), within(final.size, longestThumbnail), Resampling::area).view())
              .view()),
      true);
  zip.add("mergedimage.png", encodePng(whole.view()), true);
  return zip.closed();
}

}  // namespace

void checkFinalName(const std::string& name) {
  static const std::set<std::string> known{".png", ".tif", ".jpg", ".webp", ".ora"};
  if (!known.contains(endingOf(name)))
    throw badInput(name + ": finals are written as PNG, TIFF, JPEG, WebP or OpenRaster (.ora).");
}

Bytes finalFile(const Final& final, const ShownPictures& shown, const PictureBytes& pictures, const std::string& name,
                const FinalExport& form) {
  const std::string ending = endingOf(name);
  checkFinalName(name);
  if (!final.whole()) throw badInput("The final is not whole yet.");
  if (ending == ".png") {
    const PngTexts texts = textsFor(final, pictures);
    return form.sixteenBits ? encodePng(composedInSixteen(final, shown).view(), texts)
                            : encodePng(composedFinal(final, shown).view(), texts);
  }
  if (ending == ".tif") {
    constexpr int packed = 1;  // LZW
    return form.sixteenBits ? written(imageOf(composedInSixteen(final, shown).view()), "tiff", packed)
                            : written(imageOf(composedFinal(final, shown).view()), "tiff", packed);
  }
  if (ending == ".jpg") return written(imageOf(composedFinal(final, shown).view()), "jpeg", form.quality);
  if (ending == ".webp") return written(imageOf(composedFinal(final, shown).view()), "webp", form.quality);
  return openRaster(final, shown, form);
}

std::vector<MapLayer> layersOf(const FinalMaps& maps) {
  std::vector<MapLayer> layers;
  for (const FinalMap& each : maps.maps) {
    Image<Rgb8> picture = each.input.colour.clone();
    if (picture.empty()) {
      picture = Image<Rgb8>(each.input.map.size());
      for (int y = 0; y < picture.height(); ++y)
        std::transform(each.input.map.row(y), each.input.map.row(y) + picture.width(), picture.row(y),
                       [](std::uint16_t v) {
                         const auto grey = static_cast<std::uint8_t>((v + 128) / 257);
                         return Rgb8{grey, grey, grey};
                       });
    }
    layers.push_back({"map: " + each.name, std::move(picture)});
  }
  return layers;
}

void writeMapFolder(const std::filesystem::path& folder, const FinalMaps& maps) {
  namespace fs = std::filesystem;
  std::error_code error;
  if (fs::symlink_status(folder, error).type() != fs::file_type::not_found)
    throw badInput(folder.string() + ": there is something of that name already; nothing was written.");
  // In a folder beside it, that goes away by itself; from there it is put in place in one step.
  const QTemporaryDir making(QString::fromStdString(folder.string()) + ".XXXXXX");
  if (!making.isValid()) throw failed(folder.string() + ": " + making.errorString().toStdString() + ".");
  const fs::path made = fs::path(making.path().toStdString()) / "maps";
  if (!fs::create_directory(made, error)) throw failed(folder.string() + ": " + error.message() + ".");
  int number = 0;
  for (const FinalMap& each : maps.maps) {
    constexpr std::size_t longestPart = 60;
    const std::string file = fmt::format("{:02}-{}.png", ++number, fileNamePart(each.name, longestPart));
    writeFileAtomically(made / file,
                        encodedMap(kindOf(each.kind), each.input.map.view(), each.input.colour.view(), file));
  }
  fs::rename(made, folder, error);
  if (error) throw failed(folder.string() + ": " + error.message() + ".");
}

}  // namespace hscaffold
