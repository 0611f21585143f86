// What is read from binary pictures and from the course of light, against the plainest way of doing it.
#include <QTest>
#include <algorithm>
#include <cmath>
#include <random>

#include "core/image/components.h"
#include "core/image/distance.h"
#include "core/image/narrow.h"
#include "core/image/tensor.h"
#include "core/image/transform.h"
#include "core/image/widen.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

/// Each pixel set by chance.
Image<std::uint8_t> speckles(int width, int height, double share, unsigned seed) {
  Image<std::uint8_t> mask(width, height);
  std::mt19937 random(seed);
  std::bernoulli_distribution set(share);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) mask(x, y) = set(random) ? 255 : 0;
  return mask;
}

/// Pieces found by walking from pixel to pixel.
std::vector<Component> walked(const Image<std::uint8_t>& mask, Connected connected, Image<std::int32_t>& label) {
  std::vector<Component> all;
  label = Image<std::int32_t>(mask.size());
  for (int y = 0; y < mask.height(); ++y)
    for (std::int32_t& l : label.line(y)) l = -1;
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x) {
      if (mask(x, y) == 0 || label(x, y) >= 0) continue;
      const auto number = static_cast<std::int32_t>(all.size());
      Component piece{0, x, y, x, y};
      std::vector<std::pair<int, int>> open = {{x, y}};
      label(x, y) = number;
      while (!open.empty()) {
        const auto [px, py] = open.back();
        open.pop_back();
        ++piece.area;
        piece.left = std::min(piece.left, px);
        piece.right = std::max(piece.right, px);
        piece.bottom = std::max(piece.bottom, py);
        for (int dy = -1; dy <= 1; ++dy)
          for (int dx = -1; dx <= 1; ++dx) {
            if (connected == Connected::four && dx != 0 && dy != 0) continue;
            const int nx = px + dx, ny = py + dy;
            if (nx < 0 || ny < 0 || nx >= mask.width() || ny >= mask.height()) continue;
            if (mask(nx, ny) == 0 || label(nx, ny) >= 0) continue;
            label(nx, ny) = number;
            open.emplace_back(nx, ny);
          }
      }
      all.push_back(piece);
    }
  return all;
}

}  // namespace

class BinaryTest : public QObject {
  Q_OBJECT
 private slots:
  void distancesAreExact_data();
  void distancesAreExact();
  void nothingSetIsFartherThanAnyPlace();
  void piecesAreThoseThatAWalkFinds_data();
  void piecesAreThoseThatAWalkFinds();
  void cornersJoinOnlyWhereTheyMay();
  void transposingTwiceChangesNothing();
  void twoByTwoKeepsTheMean();
  void widthsOfNumbersComeBack();
  void structureTensorsFollowTheStripes_data();
  void structureTensorsFollowTheStripes();
};

void BinaryTest::distancesAreExact_data() {
  QTest::addColumn<int>("width");
  QTest::addColumn<int>("height");
  QTest::addColumn<double>("share");
  QTest::newRow("few") << 61 << 43 << 0.002;
  QTest::newRow("some") << 47 << 59 << 0.03;
  QTest::newRow("most") << 33 << 21 << 0.8;
  QTest::newRow("one row") << 90 << 1 << 0.05;
  QTest::newRow("one column") << 1 << 90 << 0.05;
}

void BinaryTest::distancesAreExact() {
  QFETCH(int, width);
  QFETCH(int, height);
  QFETCH(double, share);
  for (unsigned seed = 1; seed <= 4; ++seed) {
    auto mask = speckles(width, height, share, seed);
    mask(width / 3, height / 2) = 128;  // the least that counts as set
    if (width > 2) mask(width - 1, 0) = 127;
    const auto distance = distanceToSet(mask);
    QCOMPARE(distance.size(), mask.size());
    for (int y = 0; y < height; ++y)
      for (int x = 0; x < width; ++x) {
        int nearest = 1'000'000;
        for (int sy = 0; sy < height; ++sy)
          for (int sx = 0; sx < width; ++sx)
            if (mask(sx, sy) >= 128) nearest = std::min(nearest, (sx - x) * (sx - x) + (sy - y) * (sy - y));
        QVERIFY2(std::abs(distance(x, y) - std::sqrt(static_cast<float>(nearest))) < 1e-3f,
                 qPrintable(QString("%1 at %2, %3, %4 wanted").arg(distance(x, y)).arg(x).arg(y).arg(nearest)));
      }
  }
}

void BinaryTest::nothingSetIsFartherThanAnyPlace() {
  const auto distance = distanceToSet(Image<std::uint8_t>(31, 17));
  for (int y = 0; y < 17; ++y)
    for (int x = 0; x < 31; ++x) QCOMPARE(distance(x, y), 48.0f);
}

void BinaryTest::piecesAreThoseThatAWalkFinds_data() {
  QTest::addColumn<double>("share");
  QTest::addColumn<bool>("corners");
  for (const double share : {0.0, 0.1, 0.42, 0.6, 1.0})
    for (const bool corners : {false, true})
      QTest::addRow("%.2f, %s", share, corners ? "eight" : "four") << share << corners;
}

void BinaryTest::piecesAreThoseThatAWalkFinds() {
  QFETCH(double, share);
  QFETCH(bool, corners);
  const Connected connected = corners ? Connected::eight : Connected::four;
  for (unsigned seed = 1; seed <= 5; ++seed) {
    const auto mask = speckles(71 + static_cast<int>(seed), 40, share, seed);
    const auto found = componentsOf(mask, connected);
    Image<std::int32_t> label;
    const auto pieces = walked(mask, connected, label);
    QCOMPARE(found.all.size(), pieces.size());
    QVERIFY(found.label == label);  // numbered by their first pixels, as the walk does
    for (std::size_t i = 0; i < pieces.size(); ++i) {
      QCOMPARE(found.all[i].area, pieces[i].area);
      QCOMPARE(found.all[i].left, pieces[i].left);
      QCOMPARE(found.all[i].top, pieces[i].top);
      QCOMPARE(found.all[i].right, pieces[i].right);
      QCOMPARE(found.all[i].bottom, pieces[i].bottom);
    }
  }
}

void BinaryTest::cornersJoinOnlyWhereTheyMay() {
  // A chequered cloth: one piece over its corners, each field its own over its sides.
  Image<std::uint8_t> cloth(20, 12);
  for (int y = 0; y < 12; ++y)
    for (int x = 0; x < 20; ++x) cloth(x, y) = (x + y) % 2 == 0 ? 1 : 0;
  QCOMPARE(componentsOf(cloth, Connected::eight).all.size(), std::size_t{1});
  QCOMPARE(componentsOf(cloth, Connected::four).all.size(), std::size_t{120});
}

void BinaryTest::transposingTwiceChangesNothing() {
  for (const Size size : {Size{64, 64}, Size{37, 91}, Size{1, 50}}) {
    Image<float> picture(size);
    std::mt19937 random(7);
    std::uniform_real_distribution<float> value(-1, 1);
    for (int y = 0; y < size.height; ++y)
      for (float& v : picture.line(y)) v = value(random);
    const auto turned = transposed(picture);
    QCOMPARE(turned.size(), (Size{size.height, size.width}));
    QCOMPARE(turned(size.height - 1, 0), picture(0, size.height - 1));
    QVERIFY(transposed(turned) == picture);
  }
}

void BinaryTest::twoByTwoKeepsTheMean() {
  const auto picture = fixtures::noise(48, 30, 5);
  const auto half = twoByTwo(picture.view());
  QCOMPARE(half.size(), (Size{24, 15}));
  double before = 0, after = 0;
  for (int y = 0; y < 30; ++y)
    for (const Rgb& p : picture.line(y)) before += static_cast<double>(p.g);
  for (int y = 0; y < 15; ++y)
    for (const Rgb& p : half.line(y)) after += static_cast<double>(p.g);
  QVERIFY(std::abs(before / 4 - after) < 1e-3);
  // A single row is doubled before it is halved: nothing is lost of it but the last odd pixel.
  const Image<float> row(9, 1);
  QCOMPARE(twoByTwo(row.view()).size(), (Size{4, 1}));
}

void BinaryTest::widthsOfNumbersComeBack() {
  Image<std::uint8_t> eight(256, 1);
  for (int x = 0; x < 256; ++x) eight(x, 0) = static_cast<std::uint8_t>(x);
  const auto sixteen = widened(eight, [](std::uint8_t v) { return static_cast<std::uint16_t>(v * 257); });
  QCOMPARE(sixteen(255, 0), std::uint16_t{65535});
  QVERIFY(narrowed(sixteen) == eight);
  const auto shares = widened(sixteen.view());
  for (int x = 0; x < 256; ++x) QVERIFY(std::abs(shares(x, 0) - static_cast<float>(x) / 255) < 1e-6f);
}

void BinaryTest::structureTensorsFollowTheStripes_data() {
  QTest::addColumn<int>("degrees");
  for (const int degrees : {0, 20, 45, 90, 110, 150}) QTest::addRow("%d degrees", degrees) << degrees;
}

void BinaryTest::structureTensorsFollowTheStripes() {
  QFETCH(int, degrees);
  // Light that changes in one direction only: the tensor's first axis is that direction.
  const double angle = degrees * 3.14159265358979 / 180, c = std::cos(angle), s = std::sin(angle);
  Image<float> stripes(97, 80);
  for (int y = 0; y < 80; ++y)
    for (int x = 0; x < 97; ++x) stripes(x, y) = static_cast<float>(0.5 + 0.4 * std::sin((x * c + y * s) / 3.5));
  const auto tensor = structureTensor(stripes, 4);
  QCOMPARE(tensor.size(), (Size{49, 40}));
  const Rgb middle = tensor(24, 20);
  const auto xx = static_cast<double>(middle.r), xy = static_cast<double>(middle.g), yy = static_cast<double>(middle.b);
  const double found = 0.5 * std::atan2(2 * xy, xx - yy);
  QVERIFY2(std::abs(std::sin(found - angle)) < 0.03,
           qPrintable(QString("%1 degrees").arg(found * 180 / 3.14159265358979)));
  // And hardly anything changes across it.
  const double trace = xx + yy, spread = std::hypot(xx - yy, 2 * xy);
  QVERIFY(spread > 0.95 * trace);
}

HSCAFFOLD_TEST(BinaryTest)
#include "binary_test.moc"
