// Tone maps: masses stay, texture goes, and every tuning does what its name says.
#include <QTest>
#include <cmath>
#include <random>

#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/tone/tone.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

/// Dark left, light right (sRGB-encoded 0.3 and 0.7), with grain all over.
Image<Rgb> grainyHalves(int width, int height, float grain, unsigned seed = 3) {
  Image<Rgb> picture(width, height);
  std::mt19937 random(seed);
  std::uniform_real_distribution<float> speck(-grain, grain);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const float v = srgbToLinear(std::clamp((x < width / 2 ? 0.3f : 0.7f) + speck(random), 0.0f, 1.0f));
      picture(x, y) = {v, v, v};
    }
  return picture;
}

struct Spread {
  double mean = 0, deviation = 0;
};
Spread spreadIn(const Image<float>& map, int left, int right) {
  double sum = 0, squares = 0;
  std::int64_t count = 0;
  for (int y = 0; y < map.height(); ++y)
    for (int x = left; x < right; ++x) {
      const auto v = static_cast<double>(map(x, y));
      sum += v;
      squares += v * v;
      ++count;
    }
  const double mean = sum / static_cast<double>(count);
  return {mean, std::sqrt(std::max(0.0, squares / static_cast<double>(count) - mean * mean))};
}

}  // namespace

class ToneTest : public QObject {
  Q_OBJECT
 private slots:
  void massesStayAndGrainGoes();
  void softnessSmoothsMore();
  void levelsActAboutMiddleGrey();
  void valuesStayBounded();
  void mapsOfTwoSizesAgree();
  void emptyAndTinyPicturesAreHandled();
  void tuningIsReadWithinItsBounds();
  void stops();
};

void ToneTest::massesStayAndGrainGoes() {
  const auto picture = grainyHalves(240, 160, 0.08f);
  const auto map = extractTone(picture, {});
  QCOMPARE(map.size(), picture.size());
  const Spread dark = spreadIn(map, 10, 100), light = spreadIn(map, 140, 230);
  QVERIFY2(std::abs(dark.mean - 0.3) < 0.02, qPrintable(QString::number(dark.mean)));
  QVERIFY2(std::abs(light.mean - 0.7) < 0.02, qPrintable(QString::number(light.mean)));
  // Grain of 0.08 either way deviates by 0.046.
  QVERIFY2(dark.deviation < 0.015, qPrintable(QString::number(dark.deviation)));
  // The border between them stays a border: most of the step within a few pixels.
  const Spread before = spreadIn(map, 112, 117), after = spreadIn(map, 123, 128);
  QVERIFY2(after.mean - before.mean > 0.7 * (light.mean - dark.mean),
           qPrintable(QString::number(after.mean - before.mean)));
}

void ToneTest::softnessSmoothsMore() {
  const auto picture = grainyHalves(200, 120, 0.12f);
  double last = 1;
  for (const double softness : {5.0, 20.0, 60.0}) {
    ToneTuning tuning;
    tuning.softness = softness;
    const double left = spreadIn(extractTone(picture, tuning), 10, 80).deviation;
    QVERIFY2(left < last, qPrintable(QString("%1 at %2").arg(left).arg(softness)));
    last = left;
  }
}

void ToneTest::levelsActAboutMiddleGrey() {
  const auto picture = grainyHalves(120, 80, 0);
  ToneTuning strong, light;
  strong.contrast = 1.5;
  light.brightness = 0.1;
  const auto plain = extractTone(picture, {}), contrasted = extractTone(picture, strong),
             lifted = extractTone(picture, light);
  const auto mean = [](const Image<float>& map, int left, int right) { return spreadIn(map, left, right).mean; };
  QVERIFY(std::abs(mean(contrasted, 5, 40) - (0.5 + 1.5 * (mean(plain, 5, 40) - 0.5))) < 1e-4);
  QVERIFY(std::abs(mean(contrasted, 80, 115) - (0.5 + 1.5 * (mean(plain, 80, 115) - 0.5))) < 1e-4);
  QVERIFY(std::abs(mean(lifted, 5, 40) - mean(plain, 5, 40) - 0.1) < 1e-4);
}

void ToneTest::valuesStayBounded() {
  for (const double contrast : {0.2, 3.0})
    for (const double brightness : {-0.5, 0.5}) {
      ToneTuning tuning;
      tuning.contrast = contrast;
      tuning.brightness = brightness;
      const auto map = extractTone(fixtures::noise(64, 48, 2), tuning);
      for (int y = 0; y < map.height(); ++y)
        for (const float v : map.line(y)) QVERIFY(v >= 0 && v <= 1);
    }
}

void ToneTest::mapsOfTwoSizesAgree() {
  // What is smoothed away is told in shares of the picture: its size does not matter.
  const auto& scene = fixtures::scene(1);
  const Size half{scene.width() / 2, scene.height() / 2};
  const auto small = extractTone(resampled(scene.view(), half, Resampling::area), {});
  const auto shrunk = resampled(extractTone(scene, {}).view(), half, Resampling::area);
  double off = 0;
  for (int y = 0; y < half.height; ++y)
    for (int x = 0; x < half.width; ++x) off += std::abs(static_cast<double>(small(x, y) - shrunk(x, y)));
  off /= static_cast<double>(half.area());
  QVERIFY2(off < 0.02, qPrintable(QString::number(off)));
}

void ToneTest::emptyAndTinyPicturesAreHandled() {
  QVERIFY(extractTone(Image<Rgb>().view(), {}).empty());
  Image<Rgb> one(1, 1);
  one(0, 0) = {0.2f, 0.2f, 0.2f};
  const auto map = extractTone(one, {});
  QCOMPARE(map.size(), (Size{1, 1}));
  QVERIFY(std::abs(map(0, 0) - linearToSrgb(0.2f)) < 1e-3f);
}

void ToneTest::tuningIsReadWithinItsBounds() {
  const ToneTuning plain = toneTuningFrom({});
  QCOMPARE(plain.scale, ToneTuning{}.scale);
  QCOMPARE(plain.softness, ToneTuning{}.softness);
  QCOMPARE(plain.contrast, ToneTuning{}.contrast);
  QCOMPARE(plain.brightness, ToneTuning{}.brightness);
  QCOMPARE(toneTuningFrom({{"contrast", 2.5}}).contrast, 2.5);
  for (const TuningField& field : toneTuningFields())
    QVERIFY(field.minimum <= field.defaultValue && field.defaultValue <= field.maximum);
}

void ToneTest::stops() {
  QVERIFY_EXCEPTION_THROWN(extractTone(fixtures::noise(64, 48, 2), {}, fixtures::stopped()), Cancelled);
}

HSCAFFOLD_TEST(ToneTest)
#include "tone_test.moc"
