#include <QTest>
#include <cmath>

#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/measure/shift.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class ShiftTest : public QObject {
  Q_OBJECT
 private slots:
  void samePicturesDoNotDiffer();
  void growsWithHueTurn();
  void growsWithBlurAndTexture();
  void knowsContrast();
  void doesNotMindWhereThingsAre();
  void sizeHardlyMatters();
  void emptyPicturesAreNotMeasured();
};

namespace {

Image<Rgb8> hueTurned(const Image<Rgb>& picture, float by) {
  Image<Rgb> out(picture.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      OkLch lch = okLabToOkLch(linearToOkLab(picture(x, y)));
      lch.h += by;
      out(x, y) = okLabToLinearInGamut(okLchToOkLab(lch));
    }
  return toSrgb8(out.view());
}

}  // namespace

void ShiftTest::samePicturesDoNotDiffer() {
  for (int i = 0; i < fixtures::scenes; ++i) {
    const auto picture = toSrgb8(fixtures::scene(i));
    const Shift shift = shiftBetween(picture, picture);
    QCOMPARE(shift.colour, 0.0);
    QCOMPARE(shift.texture, 0.0);
    QCOMPARE(shift.total, 0.0);
    // And either way round alike.
    const auto other = toSrgb8(fixtures::scene((i + 1) % fixtures::scenes));
    QVERIFY(std::abs(shiftBetween(picture, other).total - shiftBetween(other, picture).total) < 1e-9);
    QVERIFY(shiftBetween(picture, other).total > 15);
  }
}

void ShiftTest::growsWithHueTurn() {
  const auto picture = toSrgb8(fixtures::scene(0));
  double last = 0;
  for (const float by : {0.2f, 0.5f, 1.0f, 1.6f}) {
    const Shift shift = shiftBetween(picture, hueTurned(fixtures::scene(0), by));
    QVERIFY2(shift.total > last, qPrintable(QString("%1 after %2").arg(shift.total).arg(last)));
    QVERIFY(shift.colour / 26 > shift.texture / 0.9);
    last = shift.total;
  }
}

void ShiftTest::growsWithBlurAndTexture() {
  const auto picture = toSrgb8(fixtures::scene(1));
  double last = 0;
  for (const float sigma : {1.0f, 2.5f, 6.0f}) {
    const Shift shift = shiftBetween(picture, toSrgb8(gaussianBlur(fixtures::scene(1).view(), sigma).view()));
    QVERIFY(shift.total > last);
    QVERIFY(shift.texture / 0.9 > shift.colour / 26);
    last = shift.total;
  }
  last = 0;
  for (const float strength : {0.05f, 0.15f, 0.4f}) {
    const auto grain = fixtures::noise(fixtures::scene(1).width(), fixtures::scene(1).height(), 3, strength);
    auto rough = fixtures::scene(1).clone();
    for (int y = 0; y < rough.height(); ++y)
      for (int x = 0; x < rough.width(); ++x) {
        const float by = luminance(grain(x, y)) - 0.5f;
        rough(x, y) = rough(x, y) + Rgb{by, by, by};
      }
    const double now = shiftBetween(picture, toSrgb8(rough.view())).total;
    QVERIFY2(now > last, qPrintable(QString("%1 after %2").arg(now).arg(last)));
    last = now;
  }
}

void ShiftTest::knowsContrast() {
  const auto& scene = fixtures::scene(2);
  Image<Rgb> pale(scene.size());
  for (int y = 0; y < pale.height(); ++y)
    for (int x = 0; x < pale.width(); ++x) pale(x, y) = scene(x, y) * 0.3f + Rgb{0.3f, 0.3f, 0.3f};
  QVERIFY(shiftBetween(toSrgb8(scene.view()), toSrgb8(pale.view())).total > 20);
}

void ShiftTest::doesNotMindWhereThingsAre() {
  const auto& scene = fixtures::scene(0);
  Image<Rgb> mirrored(scene.size());
  for (int y = 0; y < scene.height(); ++y)
    for (int x = 0; x < scene.width(); ++x) mirrored(x, y) = scene(scene.width() - 1 - x, y);
  QVERIFY(shiftBetween(toSrgb8(scene.view()), toSrgb8(mirrored.view())).total < 4);
}

void ShiftTest::sizeHardlyMatters() {
  const auto& scene = fixtures::scene(0);
  Image<Rgb> twice(scene.width() * 2, scene.height() * 2);
  for (int y = 0; y < twice.height(); ++y)
    for (int x = 0; x < twice.width(); ++x)
      twice(x, y) = sampleLinear(scene.view(), (static_cast<float>(x) + 0.5f) / 2, (static_cast<float>(y) + 0.5f) / 2);
  QVERIFY(shiftBetween(toSrgb8(scene.view()), toSrgb8(twice.view())).total < 12);
}

void ShiftTest::emptyPicturesAreNotMeasured() { QCOMPARE(shiftBetween(Image<Rgb8>(), Image<Rgb8>(4, 4)).total, 0.0); }

HSCAFFOLD_TEST(ShiftTest)
#include "shift_test.moc"
