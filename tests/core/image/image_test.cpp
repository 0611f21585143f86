#include <QTest>
#include <cmath>

#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/png.h"
#include "core/image/resample.h"
#include "fixtures.h"
#include "full_disk.h"
#include "test_program.h"

using namespace hscaffold;

class ImageTest : public QObject {
  Q_OBJECT
 private slots:
  void rowsStartAligned();
  void cloneIsACopyAndMoveLeavesNothing();
  void srgbTablesAgreeWithTheFormula();
  void colourSpacesComeBack();
  void coloursOutsideTheGamutKeepTheirHue();
  void gaussianKeepsTheMeanAndIsSymmetric();
  void boxMeanIsTheMean();
  void pyramidCollapsesToThePicture();
  void guidedSmoothKeepsEdgesAndDropsTexture();
  void resamplingKeepsFlatPicturesFlat_data();
  void resamplingKeepsFlatPicturesFlat();
  void shrinkingDoesNotAlias();
  void shrinkingMixesInLinearLight();
  void resamplingStops();
  void pngRoundTrip8And16();
  void pngTextsComeBackInUtf8();
  void damagedPngIsRefused();
  void halfWrittenFilesNeverAppear();
};

void ImageTest::rowsStartAligned() {
  const Image<Rgb> picture(13, 5);
  const Image<std::uint8_t> map(130, 3);
  for (int y = 0; y < 5; ++y) QCOMPARE(reinterpret_cast<std::uintptr_t>(picture.row(y)) % 64, std::uintptr_t{0});
  for (int y = 0; y < 3; ++y) QCOMPARE(reinterpret_cast<std::uintptr_t>(map.row(y)) % 64, std::uintptr_t{0});
}

void ImageTest::cloneIsACopyAndMoveLeavesNothing() {
  auto picture = fixtures::noise(17, 9, 1);
  auto copy = picture.clone();
  QVERIFY(copy == picture);
  copy(3, 4).r = -1;
  QVERIFY(!(copy == picture));
  const auto moved = std::move(picture);
  QCOMPARE(moved.width(), 17);
  QVERIFY(picture.empty());  // NOLINT: that is what is tested
}

void ImageTest::srgbTablesAgreeWithTheFormula() {
  for (int i = 0; i <= 2000; ++i) {
    const float v = static_cast<float>(i) / 2000;
    QVERIFY(std::abs(static_cast<int>(linearToSrgb8(v)) - std::lround(linearToSrgb(v) * 255)) <= 1);
    QVERIFY(std::abs(linearToSrgb(srgbToLinear(v)) - v) < 2e-5f);
  }
  // Every value but those that lie within a hundredth of a step's edge, from black to far above white.
  int compared = 0;
  for (float v = 1e-6f; v < 4; v *= 1.000'01f) {
    const float exact = linearToSrgb(v) * 255, edge = std::abs(exact - std::floor(exact) - 0.5f);
    if (edge < 0.01f) continue;
    ++compared;
    QVERIFY2(linearToSrgb8(v) == std::lround(exact), qPrintable(QString::number(v)));
  }
  QVERIFY(compared > 1'000'000);
  for (const float none : {0.0f, -0.0f, -1.0f, std::nanf("")}) QCOMPARE(linearToSrgb8(none), std::uint8_t{0});
  QCOMPARE(linearToSrgb8(std::numeric_limits<float>::infinity()), std::uint8_t{255});
  for (int v = 0; v < 256; ++v)
    QCOMPARE(static_cast<int>(linearToSrgb8(srgb16ToLinear(static_cast<std::uint16_t>(v * 257)))), v);
}

void ImageTest::colourSpacesComeBack() {
  const auto colours = fixtures::noise(8, 8, 3);
  for (int y = 0; y < 8; ++y)
    for (int x = 0; x < 8; ++x) {
      const Rgb back = okLabToLinear(okLchToOkLab(okLabToOkLch(linearToOkLab(colours(x, y)))));
      QVERIFY(std::abs(back.r - colours(x, y).r) < 1e-3f && std::abs(back.g - colours(x, y).g) < 1e-3f);
    }
  const CieLab white = linearToCieLab({1, 1, 1});
  QVERIFY(std::abs(white.l - 100) < 0.01f && std::abs(white.a) < 0.02f && std::abs(white.b) < 0.02f);
}

void ImageTest::coloursOutsideTheGamutKeepTheirHue() {
  const OkLch wish{0.7f, 0.4f, 2.4f};
  const Rgb c = okLabToLinearInGamut(okLchToOkLab(wish));
  QVERIFY(c.r >= 0 && c.g >= 0 && c.b >= 0 && c.r <= 1 && c.g <= 1 && c.b <= 1);
  const OkLch got = okLabToOkLch(linearToOkLab(c));
  QVERIFY(std::abs(got.h - wish.h) < 0.05f);
  QVERIFY(got.c < wish.c);
}

void ImageTest::gaussianKeepsTheMeanAndIsSymmetric() {
  Image<float> dot(31, 31);
  dot(15, 15) = 1;
  const auto blurred = gaussianBlur(dot.view(), 2.0f);
  double sum = 0;
  for (int y = 0; y < 31; ++y)
    for (int x = 0; x < 31; ++x) {
      sum += static_cast<double>(blurred(x, y));
      QVERIFY(std::abs(blurred(x, y) - blurred(30 - x, y)) < 1e-7f);
      QVERIFY(std::abs(blurred(x, y) - blurred(y, x)) < 1e-6f);
    }
  QVERIFY(std::abs(sum - 1) < 1e-4);
}

void ImageTest::boxMeanIsTheMean() {
  // Taller than the bands that are worked on apart, and narrower than the wide box.
  const auto light = luminanceOf(fixtures::noise(40, 533, 5));
  for (const int radius : {1, 4, 45}) {
    const auto fast = boxMean(light, radius);
    for (const auto& [cx, cy] : {std::pair{0, 0}, {20, 16}, {39, 532}, {3, 255}, {38, 256}, {11, 511}, {0, 300}}) {
      double sum = 0;
      int count = 0;
      for (int y = std::max(0, cy - radius); y <= std::min(532, cy + radius); ++y)
        for (int x = std::max(0, cx - radius); x <= std::min(39, cx + radius); ++x, ++count)
          sum += static_cast<double>(light(x, y));
      QVERIFY(std::abs(static_cast<double>(fast(cx, cy)) - sum / count) < 1e-5);
    }
  }
}

void ImageTest::pyramidCollapsesToThePicture() {
  const auto light = luminanceOf(fixtures::noise(97, 61, 6));
  const auto pyramid = laplacianPyramid(light);
  QVERIFY(pyramid.bands.size() >= 4);
  QVERIFY(std::min(pyramid.bands.front().width(), pyramid.bands.front().height()) >= 4);
  const auto back = collapsed(pyramid);
  for (int y = 0; y < 61; ++y)
    for (int x = 0; x < 97; ++x) QVERIFY(std::abs(back(x, y) - light(x, y)) < 1e-5f);
}

void ImageTest::guidedSmoothKeepsEdgesAndDropsTexture() {
  Image<float> step(60, 20);
  for (int y = 0; y < 20; ++y)
    for (int x = 0; x < 60; ++x) step(x, y) = (x < 30 ? 0.2f : 0.8f) + ((x + y) % 2 == 0 ? 0.02f : -0.02f);
  const auto smooth = guidedSmooth(step, 5, 0.01f);
  QVERIFY(smooth(31, 10) - smooth(28, 10) > 0.45f);
  QVERIFY(std::abs(smooth(10, 10) - smooth(11, 10)) < 0.01f);
}

void ImageTest::resamplingKeepsFlatPicturesFlat_data() {
  QTest::addColumn<int>("width");
  QTest::addColumn<int>("height");
  QTest::addColumn<bool>("area");
  for (const bool area : {true, false}) {
    QTest::addRow("shrink %d", area) << 7 << 5 << area;
    QTest::addRow("enlarge %d", area) << 130 << 90 << area;
    QTest::addRow("one pixel %d", area) << 1 << 1 << area;
  }
}

void ImageTest::resamplingKeepsFlatPicturesFlat() {
  QFETCH(int, width);
  QFETCH(int, height);
  QFETCH(bool, area);
  const Image<Rgb> flat(40, 30, Rgb{0.25f, 0.5f, 0.75f});
  const auto out = resampled(flat.view(), {width, height}, area ? Resampling::area : Resampling::lanczos3);
  QCOMPARE(out.size(), (Size{width, height}));
  for (int y = 0; y < height; ++y)
    for (const Rgb& c : out.line(y)) QVERIFY(std::abs(c.r - 0.25f) < 1e-5f && std::abs(c.b - 0.75f) < 1e-5f);
}

void ImageTest::shrinkingDoesNotAlias() {
  // Stripes finer than the target can show must become even grey.
  Image<float> stripes(400, 40);
  for (int y = 0; y < 40; ++y)
    for (int x = 0; x < 400; ++x) stripes(x, y) = x % 3 == 0 ? 1.0f : 0.0f;
  const auto small = resampled(stripes.view(), {50, 5});
  for (int x = 4; x < 46; ++x) QVERIFY(std::abs(small(x, 2) - 1.0f / 3) < 0.03f);
}

void ImageTest::shrinkingMixesInLinearLight() {
  Image<Rgba16> checks(8, 8);
  for (int y = 0; y < 8; ++y)
    for (int x = 0; x < 8; ++x) checks(x, y) = fixtures::grey16((x + y) % 2 == 0 ? 0xffff : 0);
  const auto one = resampled(checks.view(), {1, 1}, Resampling::area);
  QVERIFY(std::abs(one(0, 0).g - 0.5f) < 1e-4f);  // half the light, not half the code value
}

void ImageTest::resamplingStops() {
  const Image<Rgb> picture(64, 64);
  QVERIFY_EXCEPTION_THROWN(resampled(picture.view(), {32, 32}, Resampling::area, fixtures::stopped()), Cancelled);
}

void ImageTest::pngRoundTrip8And16() {
  const auto picture = toSrgb8(fixtures::noise(33, 21, 8));
  QVERIFY(decodePngRgb8(encodePng(picture.view())) == picture);
  const auto wide = fixtures::encoded(fixtures::noise(13, 7, 9));
  QVERIFY(decodePng(encodePng(wide.view())).picture == wide);
  Image<std::uint16_t> map(5, 4);
  map(2, 3) = 12345;
  const auto back = decodePng(encodePng(map.view())).picture;
  QCOMPARE(back(2, 3), fixtures::grey16(12345));
}

void ImageTest::pngTextsComeBackInUtf8() {
  const Image<Rgb8> picture(2, 2);
  const PngTexts texts{{"humble-scaffold-recipe", "{\"prompt\":\"Düne, 風\"}"}, {"Title", "x"}};
  QCOMPARE(readPngTexts(encodePng(picture.view(), texts)), texts);
}

void ImageTest::damagedPngIsRefused() {
  const auto good = encodePng(toSrgb8(fixtures::noise(64, 64, 2)).view());
  for (const std::size_t length : {std::size_t{0}, std::size_t{5}, std::size_t{20}, good.size() / 2}) {
    const std::span<const std::byte> part(good.data(), length);
    QVERIFY(!fixtures::problemOf([&] { decodePng(part); }).isEmpty());
  }
  auto bent = good;
  bent[good.size() / 2] ^= std::byte{0x5a};
  QVERIFY(!fixtures::problemOf([&] { decodePng(bent); }).isEmpty());
}

void ImageTest::halfWrittenFilesNeverAppear() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "map.png");
  writeFileAtomically(path, bytesOf(std::string("old")));
  const std::string large(100'000, 'x');
  const QString problem = [&] {
    const fixtures::FullDisk full(4096);
    return fixtures::problemOf([&] { writeFileAtomically(path, bytesOf(large)); });
  }();
  QVERIFY2(problem.contains("map.png") && problem.contains("large"), qPrintable(problem));
  QCOMPARE(fixtures::readFile(path), std::string("old"));
  QCOMPARE(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
}

HSCAFFOLD_TEST(ImageTest)
#include "image_test.moc"
