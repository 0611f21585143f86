// The pictures that the demo begins with are those that this program draws.
#include <QTest>

#include "core/image/colour.h"
#include "core/image/resample.h"
#include "files/picture_reader.h"
#include "fixtures.h"
#include "scenes.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

Image<Rgb> kept(const char* name) {
  const auto read = readPicture(std::string(HSCAFFOLD_SOURCE) + "/almanac/pictures/" + name + ".jpg").picture;
  return resampled(read.view(), read.size(), Resampling::area);
}

/// Mean difference of encoded values, [0, 255].
double differenceOf(View<Rgb> first, View<Rgb> second) {
  const auto a = toSrgb8(first), b = toSrgb8(second);
  double sum = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x)
      sum += std::abs(a(x, y).r - b(x, y).r) + std::abs(a(x, y).g - b(x, y).g) + std::abs(a(x, y).b - b(x, y).b);
  return sum / (3.0 * static_cast<double>(a.size().area()));
}

}  // namespace

class AlmanacTest : public QObject {
  Q_OBJECT
 private slots:
  void theSketchIsDrawnAnew();
  void photographsAreOfTheirScenes_data();
  void photographsAreOfTheirScenes();
};

void AlmanacTest::theSketchIsDrawnAnew() {
  const auto drawn = almanac::sailCartSketch({1500, 1000}, 14), sketch = kept("sail-cart-sketch");
  QCOMPARE(sketch.size(), drawn.size());
  const double difference = differenceOf(sketch, drawn);
  QVERIFY2(difference < 2, qPrintable(QString::number(difference)));
}

void AlmanacTest::photographsAreOfTheirScenes_data() {
  QTest::addColumn<QString>("name");
  QTest::addColumn<int>("scene");
  QTest::newRow("kite flyer") << "kite-flyer" << 0;
  QTest::newRow("tea house") << "tea-house" << 1;
  QTest::newRow("sailcloth") << "sailcloth" << fixtures::sailcloth;
}
void AlmanacTest::photographsAreOfTheirScenes() {
  QFETCH(QString, name);
  QFETCH(int, scene);
  // The same scene without grain and at another size, which a build draws once.
  const auto& drawn = fixtures::scene(scene);
  const auto photograph = kept(name.toStdString().c_str());
  QCOMPARE(photograph.width() * drawn.height(), photograph.height() * drawn.width());
  const double difference = differenceOf(resampled(photograph, drawn.size(), Resampling::area), drawn);
  QVERIFY2(difference < 6, qPrintable(QString::number(difference)));
  for (int other = 0; other < 5; ++other)
    if (other != scene) QVERIFY(differenceOf(fixtures::scene(other), drawn) > 3 * difference);
}

HSCAFFOLD_TEST(AlmanacTest)
#include "almanac_test.moc"
