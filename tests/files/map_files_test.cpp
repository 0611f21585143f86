// Maps of half tones as files, and finished depth maps as they come in.
#include "files/map_files.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfOutputFile.h>

#include <QTest>
#include <cmath>
#include <limits>

#include "core/image/png.h"
#include "files/picture_reader.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

const Kind& depthKind() { return kindOf("depth"); }

Map slope(int width, int height) {
  Map out(width, height);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) out(x, y) = static_cast<std::uint16_t>(65535 * x / (width - 1));
  return out;
}

/// A file with nothing but a channel Z, all of it `rest` but for the first values.
Bytes exrWith(const QTemporaryDir& folder, const std::vector<float>& first, float rest) {
  constexpr int width = 8, height = 4;
  std::vector<float> values(width * height, rest);
  std::copy(first.begin(), first.end(), values.begin());
  const auto path = fixtures::in(folder, "z.exr");
  {
    Imf::Header header(width, height);
    header.channels().insert("Z", Imf::Channel(Imf::FLOAT));
    Imf::FrameBuffer buffer;
    buffer.insert("Z",
                  Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(values.data()), sizeof(float), sizeof(float) * width));
    Imf::OutputFile file(path.string().c_str(), header);
    file.setFrameBuffer(buffer);
    file.writePixels(height);
  }
  return readWholeFile(path);
}

int levelAt(const LoadedPicture& loaded, int x) { return loaded.picture(x, 0).r; }

}  // namespace

class MapFilesTest : public QObject {
  Q_OBJECT
 private slots:
  void sixteenBitsAreKept();
  void eightBitsAreRounded();
  void floatsComeBackAsTheyWere();
  void theShortSideKeepsTheRatio();
  void otherKindsKnowOneWayOnly();
  void distancesBecomeNearness();
  void whatIsNoNumberIsFar();
};

void MapFilesTest::sixteenBitsAreKept() {
  const auto map = slope(300, 40);
  const auto read = decodePicture(encodedMap(depthKind(), map, {}, "x.png"), "x.png");
  for (int x = 0; x < 300; ++x) QCOMPARE(levelAt(read, x), static_cast<int>(map(x, 0)));
}

void MapFilesTest::eightBitsAreRounded() {
  const auto map = slope(300, 40);
  const auto narrow = encodedMap(depthKind(), map, {}, "x.png", {.narrow = true});
  const auto read = decodePicture(narrow, "x.png");
  std::set<int> levels;
  for (int x = 0; x < 300; ++x) {
    QVERIFY(std::abs(levelAt(read, x) - map(x, 0)) <= 129);
    levels.insert(levelAt(read, x));
  }
  QVERIFY(levels.size() > 250 && levels.size() <= 256);
}

void MapFilesTest::floatsComeBackAsTheyWere() {
  const auto map = slope(301, 20);
  const auto read = decodePicture(encodedMap(depthKind(), map, {}, "x.exr"), "x.exr");
  for (int x = 0; x < 301; ++x) QVERIFY(std::abs(levelAt(read, x) - map(x, 0)) <= 1);
  QVERIFY(read.note.empty());
}

void MapFilesTest::theShortSideKeepsTheRatio() {
  QCOMPARE(withShortSide({768, 512}, 256), (Size{384, 256}));
  QCOMPARE(withShortSide({512, 768}, 1024), (Size{1024, 1536}));
  QCOMPARE(withShortSide({1000, 3}, 1), (Size{333, 1}));
  const auto map = slope(300, 200);
  for (const char* name : {"x.png", "x.exr"}) {
    const auto read = decodePicture(encodedMap(depthKind(), map, {}, name, {.shortSide = 100}), name);
    QCOMPARE(read.picture.size(), (Size{150, 100}));
    QVERIFY(std::abs(levelAt(read, 75) - 65535 / 2) < 400);
    QVERIFY(levelAt(read, 2) < levelAt(read, 3));
  }
}

void MapFilesTest::otherKindsKnowOneWayOnly() {
  Map lines(64, 32);
  for (int x = 0; x < 64; ++x) lines(x, 9) = 65535;
  const auto plain = encodedMap(kindOf("edges"), lines, {}, "x.png");
  QCOMPARE(encodedMap(kindOf("edges"), lines, {}, "x.exr", {.narrow = true, .shortSide = 16}), plain);
}

void MapFilesTest::distancesBecomeNearness() {
  const QTemporaryDir folder;
  const auto read = decodePicture(exrWith(folder, {2, 4, 8}, 16), "z.exr");
  QVERIFY(read.note.find("distances") != std::string::npos);
  QCOMPARE(levelAt(read, 0), 65535);
  QVERIFY(levelAt(read, 1) > levelAt(read, 2) && levelAt(read, 2) > levelAt(read, 3));
  QCOMPARE(levelAt(read, 3), 0);
}

void MapFilesTest::whatIsNoNumberIsFar() {
  const QTemporaryDir folder;
  constexpr float none = std::numeric_limits<float>::quiet_NaN(), endless = std::numeric_limits<float>::infinity();
  // Of nearness.
  auto read = decodePicture(exrWith(folder, {none, endless, -endless, 1}, 0.5f), "z.exr");
  QCOMPARE(levelAt(read, 0), 0);
  QCOMPARE(levelAt(read, 1), 0);
  QCOMPARE(levelAt(read, 3), 65535);
  QVERIFY(std::abs(levelAt(read, 4) - 32768) <= 1);
  // Of distances: what is endlessly far, behind the eye or not known lies behind all that is known.
  read = decodePicture(exrWith(folder, {none, endless, -3, 0, 2}, 8), "z.exr");
  for (int x = 0; x < 4; ++x) QCOMPARE(levelAt(read, x), 0);
  QCOMPARE(levelAt(read, 4), 65535);
  // Of nothing else.
  read = decodePicture(exrWith(folder, {}, none), "z.exr");
  QCOMPARE(levelAt(read, 5), 0);
}

HSCAFFOLD_TEST(MapFilesTest)
#include "map_files_test.moc"
