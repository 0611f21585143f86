#include <ImfArray.h>
#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfOutputFile.h>
#include <ImfRgbaFile.h>
#include <unistd.h>

#include <QBuffer>
#include <QColorSpace>
#include <QIODevice>
#include <QImage>
#include <QImageWriter>
#include <QRgba64>
#include <QTest>
#include <QtEndian>
#include <array>
#include <cmath>
#include <map>

#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "files/picture_reader.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

std::string saved(const QImage& image, const char* format) {
  QByteArray data;
  QBuffer buffer(&data);
  buffer.open(QIODevice::WriteOnly);
  QImageWriter writer(&buffer, format);
  writer.setQuality(100);
  if (!writer.write(image)) qFatal("cannot write %s", format);
  return data.toStdString();
}

QImage examplePicture() {
  QImage image(40, 24, QImage::Format_RGB32);
  for (int y = 0; y < 24; ++y)
    for (int x = 0; x < 40; ++x) image.setPixel(x, y, x < 20 ? qRgb(200, 60, 30) : qRgb(20, 90, 180));
  return image;
}

LoadedPicture decoded(const std::string& content, const std::string& name = "x.png") {
  return decodePicture(bytesOf(content), name);
}

bool near(Rgba16 c, int r, int g, int b, int tolerance) {
  return std::abs(c.r / 257 - r) <= tolerance && std::abs(c.g / 257 - g) <= tolerance &&
         std::abs(c.b / 257 - b) <= tolerance;
}

/// A JPEG of four inks: an Adobe marker says inverted CMYK. Built from a grey JPEG's parts would be long; Qt writes it.
std::string cmykTiff() {
  // Little-endian TIFF, 4 x 4, 8 bits, CMYK (photometric 5), uncompressed: full cyan.
  std::string out("II*\0\x08\0\0\0", 8);
  const auto put16 = [&](std::uint16_t v) { out.append({static_cast<char>(v & 255), static_cast<char>(v >> 8)}); };
  const auto put32 = [&](std::uint32_t v) {
    put16(static_cast<std::uint16_t>(v & 0xffff));
    put16(static_cast<std::uint16_t>(v >> 16));
  };
  constexpr std::uint16_t entries = 10;
  constexpr std::uint32_t bitsAt = 8 + 2 + entries * 12 + 4, pixelsAt = bitsAt + 8;
  put16(entries);
  const auto entry = [&](std::uint16_t tag, std::uint16_t type, std::uint32_t count, std::uint32_t value) {
    put16(tag);
    put16(type);
    put32(count);
    put32(value);
  };
  entry(256, 3, 1, 4);
  entry(257, 3, 1, 4);
  entry(258, 3, 4, bitsAt);
  entry(259, 3, 1, 1);
  entry(262, 3, 1, 5);
  entry(273, 4, 1, pixelsAt);
  entry(277, 3, 1, 4);
  entry(278, 3, 1, 4);
  entry(279, 4, 1, 64);
  entry(284, 3, 1, 1);
  put32(0);
  for (int i = 0; i < 4; ++i) put16(8);
  for (int i = 0; i < 16; ++i) out.append({'\xff', '\0', '\0', '\0'});
  return out;
}

}  // namespace

class PictureReaderTest : public QObject {
  Q_OBJECT
 private slots:
  void cutOffFilesAreSaid_data();
  void cutOffFilesAreSaid();
  void hugePicturesAreMadeSmallerWhileTheyAreRead();
  void headsThatPromiseTooMuchAreRefused();
  void readsFormats_data();
  void readsFormats();
  void readsDepthsAndKinds();
  void readsFourInks();
  void turnsUprightByExif();
  void convertsProfiles();
  void readsExr();
  void layersOfExrAreFound();
  void nearnessThatIsALittleBeyondOneStaysNearness();
  void whatIsAppendedToAJpegDoesNotMatter();
  void refusesBadFiles_data();
  void refusesBadFiles();
  void refusesHugeClaimsBeforeDecoding();
  void readsOnePixelAndLongPictures();
  void writesByEnding();
};

void PictureReaderTest::readsFormats_data() {
  QTest::addColumn<QByteArray>("format");
  for (const char* format : {"png", "jpeg", "webp", "tiff", "bmp"}) QTest::addRow("%s", format) << QByteArray(format);
}

void PictureReaderTest::readsFormats() {
  QFETCH(QByteArray, format);
  const auto loaded = decoded(saved(examplePicture(), format));
  QCOMPARE(loaded.picture.size(), (Size{40, 24}));
  QVERIFY(near(loaded.picture(5, 12), 200, 60, 30, 6));
  QVERIFY(near(loaded.picture(35, 12), 20, 90, 180, 6));
}

void PictureReaderTest::readsDepthsAndKinds() {
  QImage deep(8, 8, QImage::Format_RGBA64);
  deep.fill(QColor::fromRgba64(QRgba64::fromRgba64(12345, 23456, 34567, 65535)));
  const auto wide = decoded(saved(deep, "png")).picture(3, 3);
  QVERIFY(std::abs(wide.r - 12345) <= 1 && std::abs(wide.g - 23456) <= 1 && std::abs(wide.b - 34567) <= 1);
  QImage grey(8, 8, QImage::Format_Grayscale16);
  for (int y = 0; y < 8; ++y) std::fill_n(reinterpret_cast<quint16*>(grey.scanLine(y)), 8, quint16{30000});
  QVERIFY(std::abs(decoded(saved(grey, "png")).picture(1, 1).g - 30000) <= 40);
  QImage palette = examplePicture().convertToFormat(QImage::Format_Indexed8);
  QVERIFY(near(decoded(saved(palette, "png")).picture(5, 12), 200, 60, 30, 2));
  QImage clear(8, 8, QImage::Format_ARGB32);
  clear.fill(QColor(255, 0, 0, 128));
  const auto clearHalf = decoded(saved(clear, "png")).picture(2, 2);
  QVERIFY(clearHalf.r == 65535 && std::abs(clearHalf.a / 257 - 128) <= 1);
}

void PictureReaderTest::readsFourInks() {
  const auto c = decoded(cmykTiff(), "x.tif").picture(1, 1);
  QVERIFY2(c.r < 12000 && c.b > 40000, qPrintable(QString("%1 %2 %3").arg(c.r).arg(c.g).arg(c.b)));
}

void PictureReaderTest::turnsUprightByExif() {
  // An EXIF segment with orientation 6 (turn a quarter clockwise) put behind the JPEG's start marker.
  std::string jpeg = saved(examplePicture(), "jpeg");
  std::string exif("Exif\0\0II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0\x06\0\0\0\0\0\0\0", 32);
  const auto length = static_cast<std::uint16_t>(exif.size() + 2);
  const std::string segment =
      std::string("\xff\xe1", 2) + static_cast<char>(length >> 8) + static_cast<char>(length & 255) + exif;
  jpeg.insert(2, segment);
  const auto loaded = decoded(jpeg, "x.jpg");
  QCOMPARE(loaded.picture.size(), (Size{24, 40}));
  QVERIFY(near(loaded.picture(12, 5), 200, 60, 30, 6));
}

void PictureReaderTest::convertsProfiles() {
  QImage image(8, 8, QImage::Format_RGB32);
  image.fill(qRgb(128, 128, 128));
  image.setColorSpace(QColorSpace(QColorSpace::SRgbLinear));
  // 128 in linear light is 188 encoded.
  QVERIFY(near(decoded(saved(image, "png")).picture(4, 4), 188, 188, 188, 1));
  image.fill(qRgb(0, 255, 0));
  image.setColorSpace(QColorSpace(QColorSpace::AdobeRgb));
  QVERIFY(near(decoded(saved(image, "png")).picture(4, 4), 0, 255, 0, 3));
}

void PictureReaderTest::readsExr() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "light.exr");
  {
    Imf::Array2D<Imf::Rgba> pixels(6, 10);
    for (int y = 0; y < 6; ++y)
      for (int x = 0; x < 10; ++x) pixels[y][x] = Imf::Rgba(0.5f, 0.18f, x == 9 ? 4.0f : 0.0f, 1.0f);
    Imf::RgbaOutputFile file(path.string().c_str(), 10, 6);
    file.setFrameBuffer(&pixels[0][0], 1, 10);
    file.writePixels(6);
  }
  Bytes bytes;
  const auto loaded = readPicture(path, &bytes);
  QCOMPARE(loaded.picture.size(), (Size{10, 6}));
  QVERIFY(near(loaded.picture(2, 2), 188, 118, 0, 1));
  QVERIFY(QString::fromStdString(loaded.note).contains("clipped"));
  const std::span<const std::byte> part(bytes.data(), bytes.size() / 2);
  QVERIFY(fixtures::problemOf([&] { decodePicture(part, "light.exr"); }).contains("light.exr"));
}

namespace {

/// Channels by name, each of one value everywhere but for the last pixel.
Bytes exrOf(const QTemporaryDir& folder, const std::map<std::string, std::pair<float, float>>& channels) {
  const auto path = fixtures::in(folder, "made.exr");
  {
    Imf::Header header(4, 3);
    Imf::FrameBuffer buffer;
    std::map<std::string, std::array<float, 12>> values;
    for (const auto& [name, value] : channels) {
      header.channels().insert(name, Imf::Channel(Imf::FLOAT));
      auto& all = values[name];
      all.fill(value.first);
      all.back() = value.second;
      buffer.insert(name,
                    Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(all.data()), sizeof(float), 4 * sizeof(float)));
    }
    Imf::OutputFile file(path.string().c_str(), header);
    file.setFrameBuffer(buffer);
    file.writePixels(3);
  }
  return readWholeFile(path);
}

}  // namespace

void PictureReaderTest::layersOfExrAreFound() {
  QTemporaryDir folder;
  const auto layered = exrOf(
      folder, {{"Combined.R", {0.5f, 0.5f}}, {"Combined.G", {0.18f, 0}}, {"Combined.B", {0, 1}}, {"Mist.X", {1, 1}}});
  QVERIFY(near(decodePicture(layered, "layers.exr").picture(1, 1), 188, 118, 0, 1));
  const auto depth = exrOf(folder, {{"Depth.Z", {0.25f, 0.75f}}});
  QCOMPARE(decodePicture(depth, "depth.exr").picture(3, 2).r, std::uint16_t{49151});
  const auto strange = exrOf(folder, {{"Mist.X", {1, 1}}});
  const auto problem = fixtures::problemOf([&] { decodePicture(strange, "strange.exr"); });
  QVERIFY2(problem.contains("strange.exr") && problem.contains("Mist.X"), qPrintable(problem));
}

void PictureReaderTest::nearnessThatIsALittleBeyondOneStaysNearness() {
  QTemporaryDir folder;
  const auto nearness = decodePicture(exrOf(folder, {{"Z", {0.25f, 1.0000001f}}}), "near.exr");
  QVERIFY(nearness.note.empty());
  QCOMPARE(nearness.picture(0, 0).r, std::uint16_t{16384});
  QCOMPARE(nearness.picture(3, 2).r, std::uint16_t{65535});
  const auto distances = decodePicture(exrOf(folder, {{"Z", {2, 8}}}), "far.exr");
  QVERIFY(!distances.note.empty());
  QVERIFY(distances.picture(0, 0).r > distances.picture(3, 2).r);
}

void PictureReaderTest::whatIsAppendedToAJpegDoesNotMatter() {
  const std::string jpeg = saved(examplePicture(), "jpeg");
  const auto whole = decoded(jpeg, "x.jpg").picture.clone();
  // More than a megabyte behind its end, as some cameras do.
  QVERIFY(decoded(jpeg + std::string(1'300'000, 'a'), "x.jpg").picture == whole);
  // A small picture with an end of its own inside of a segment is not the end of this one.
  std::string segment("\xff\xe1", 2);
  const std::string small = saved(examplePicture().scaled(8, 8), "jpeg");
  segment += static_cast<char>((small.size() + 2) >> 8);
  segment += static_cast<char>((small.size() + 2) & 0xff);
  std::string with = jpeg;
  with.insert(2, segment + small);
  QVERIFY(decoded(with, "x.jpg").picture == whole);
  QVERIFY(fixtures::problemOf([&] { decoded(with.substr(0, with.size() * 2 / 3), "x.jpg"); }).contains("too early"));
}

void PictureReaderTest::refusesBadFiles_data() {
  QTest::addColumn<QByteArray>("content");
  QTest::addColumn<QString>("says");
  const auto png = QByteArray::fromStdString(saved(examplePicture(), "png")),
             jpeg = QByteArray::fromStdString(saved(examplePicture(), "jpeg"));
  QTest::addRow("text") << QByteArray("This is a shopping list.\nKites, string.\n") << "not a picture";
  QTest::addRow("drawing") << QByteArray(
                                  "<svg xmlns='http://www.w3.org/2000/svg' width='90' height='90'>"
                                  "<text x='9' y='40'>tide</text></svg>")
                           << "is a drawing";
  QTest::addRow("empty") << QByteArray() << "is empty";
  QTest::addRow("cut png") << png.left(png.size() / 2) << "ends too early";
  QTest::addRow("cut jpeg") << jpeg.left(jpeg.size() * 2 / 3) << "ends too early";
  QTest::addRow("header only") << png.left(33) << "ends too early";
}

void PictureReaderTest::refusesBadFiles() {
  QFETCH(QByteArray, content);
  QFETCH(QString, says);
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "bad.png");
  fixtures::writeFile(path, content.toStdString());
  const auto problem = fixtures::problemOf([&] { readPicture(path); });
  QVERIFY2(problem.contains(says) && problem.contains("bad.png") && problem.endsWith('.'), qPrintable(problem));
}

void PictureReaderTest::refusesHugeClaimsBeforeDecoding() {
  std::string png = saved(examplePicture(), "png");
  // Width and height of the IHDR chunk, with its checksum left wrong on purpose: claims are looked at first.
  qToBigEndian<quint32>(60000, png.data() + 16);
  qToBigEndian<quint32>(60000, png.data() + 20);
  const auto problem = fixtures::problemOf([&] { decoded(png, "huge.png"); });
  QVERIFY2(problem.contains("huge.png"), qPrintable(problem));
  QTemporaryDir folder;
  QVERIFY(fixtures::problemOf([&] { readPicture(folder.path().toStdString()); }).contains("folder"));
  QVERIFY(fixtures::problemOf([&] { readPicture(fixtures::in(folder, "none.png")); }).contains("no such file"));
  const auto path = fixtures::in(folder, "closed.png");
  fixtures::writeFile(path, png);
  std::filesystem::permissions(path, std::filesystem::perms::none);
  // Who may do anything reads as somebody else, for whom the folder is open.
  const bool almighty = ::geteuid() == 0;
  std::filesystem::permissions(folder.path().toStdString(), std::filesystem::perms(0755));
  if (almighty) QCOMPARE(::seteuid(65534), 0);
  const auto closed = fixtures::problemOf([&] { readPicture(path); });
  if (almighty) QCOMPARE(::seteuid(0), 0);
  QVERIFY2(closed.contains("closed.png") && closed.contains("ermission"), qPrintable(closed));
}

void PictureReaderTest::readsOnePixelAndLongPictures() {
  QImage dot(1, 1, QImage::Format_RGB32);
  dot.fill(qRgb(1, 2, 3));
  QVERIFY(near(decoded(saved(dot, "png")).picture(0, 0), 1, 2, 3, 0));
  QImage thread(20000, 10, QImage::Format_RGB32);
  thread.fill(Qt::red);
  QCOMPARE(decoded(saved(thread, "png")).picture.size(), (Size{20000, 10}));
}

void PictureReaderTest::writesByEnding() {
  QTemporaryDir folder;
  Image<Rgb8> picture(12, 9, Rgb8{10, 200, 90});
  for (const char* name : {"a.png", "a.jpg", "a.webp", "a.tif"}) {
    writePicture(fixtures::in(folder, name), picture.view());
    QVERIFY(near(readPicture(fixtures::in(folder, name)).picture(6, 4), 10, 200, 90, 5));
  }
  QVERIFY(fixtures::problemOf([&] {
            writePicture(fixtures::in(folder, "a.sketch"), picture.view());
          }).contains("a.sketch"));
  QVERIFY(fixtures::problemOf([&] { writePicture("/nowhere/a.png", picture.view()); }).contains("/nowhere/a.png"));
}

void PictureReaderTest::cutOffFilesAreSaid_data() {
  QTest::addColumn<QByteArray>("format");
  for (const char* format : {"png", "jpg", "webp", "tiff", "bmp", "gif", "ppm"}) QTest::addRow("%s", format) << QByteArray(format);
}

void PictureReaderTest::cutOffFilesAreSaid() {
  QFETCH(QByteArray, format);
  // Noise, so that what is cut off is of the picture.
  const auto noise = toSrgb8(fixtures::noise(120, 90, 7).view());
  QImage image(120, 90, QImage::Format_RGB888);
  for (int y = 0; y < 90; ++y) std::memcpy(image.scanLine(y), noise.row(y), 120 * 3);
  std::string whole;
  if (format == "gif") {
    // Qt writes none: one of 8 x 8 pixels in two colours, uncompressed codes of 3 bits with a clear before each.
    whole = std::string(
        "GIF89a\x08\0\x08\0\x80\0\0\0\0\0\xff\xff\xff,\0\0\0\0\x08\0\x08\0\0\x02\x07"
        "\x84\x8f\xa9\xcb\xed\x0f\x63\0;",
        13 + 6 + 10 + 1 + 1 + 7 + 2);
  } else {
    whole = saved(image, format.constData());
    QVERIFY(!decoded(whole).picture.empty());
  }
  for (const double part : {0.3, 0.6, 0.9}) {
    const auto said = fixtures::problemOf(
        [&] { decoded(whole.substr(0, static_cast<std::size_t>(part * static_cast<double>(whole.size())))); });
    QVERIFY2(said.contains("ends too early") || said.contains("not a picture"), qPrintable(said));
  }
  if (format != "jpg") return;
  // With its end, but without what comes before it: libjpeg fills it with grey.
  const auto said = fixtures::problemOf([&] { decoded(whole.substr(0, whole.size() / 2) + "\xff\xd9"); });
  QVERIFY2(said.contains("ends too early"), qPrintable(said));
}

void PictureReaderTest::hugePicturesAreMadeSmallerWhileTheyAreRead() {
  QImage image(12'000, 10'000, QImage::Format_Mono);
  image.fill(1);
  const auto loaded = decoded(saved(image, "png"));
  QVERIFY(loaded.picture.size().area() <= workedPicturePixels);
  QVERIFY(loaded.picture.size().area() > workedPicturePixels / 100 * 99);
  QVERIFY(std::abs(loaded.picture.width() * 10.0 / loaded.picture.height() - 12) < 0.01);
  QVERIFY(loaded.note.find("12000 x 10000") != std::string::npos);
}

void PictureReaderTest::headsThatPromiseTooMuchAreRefused() {
  std::string jpeg = saved(examplePicture(), "jpg");
  const auto frame = jpeg.find("\xff\xc0");
  QVERIFY(frame != std::string::npos);
  const auto promise = [&](unsigned side) {
    for (const std::size_t at : {frame + 5, frame + 7}) {
      jpeg[at] = static_cast<char>(side >> 8);
      jpeg[at + 1] = static_cast<char>(side & 255);
    }
    return fixtures::problemOf([&] { decoded(jpeg); });
  };
  QVERIFY(promise(65'500).contains("megapixels"));
  QVERIFY(promise(2'000).contains("ends too early"));
}

HSCAFFOLD_TEST(PictureReaderTest)
#include "picture_reader_test.moc"
