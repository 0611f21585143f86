// Patches hold what they must, and not much more.
#include "core/image/patch.h"

#include <QTest>
#include <random>

#include "test_program.h"

using namespace hscaffold;

class PatchTest : public QObject {
  Q_OBJECT
 private slots:
  void hullsHoldWhatLiesBetweenPoints();
  void hullsAreClose();
  void joinedHoldsBoth();
  void nothingIsEmpty();
};

namespace {
bool holds(const Patch& patch, int x, int y) {
  const int row = y - patch.top;
  if (row < 0 || row >= static_cast<int>(patch.rows.size())) return false;
  const Patch::Run& run = patch.rows[static_cast<std::size_t>(row)];
  return run.left <= x && x < run.right;
}

std::int64_t pixelsOf(const Patch& patch) {
  std::int64_t out = 0;
  for (const Patch::Run& run : patch.rows) out += std::max(0, run.right - run.left);
  return out;
}
}  // namespace

void PatchTest::hullsHoldWhatLiesBetweenPoints() {
  std::mt19937 chance(3);
  constexpr Size size{90, 70};
  for (int run = 0; run < 300; ++run) {
    std::vector<Point> points(1 + chance() % 7);
    std::uniform_real_distribution<double> x(-60, 150), y(-50, 120);
    for (Point& p : points) p = {x(chance), y(chance)};
    if (run % 5 == 0)
      for (Point& p : points) p.y = points.front().y;
    const Patch patch = hullOf(points, 1.5, size);
    QVERIFY(patch.rows.size() <= 70 && patch.top >= 0);
    for (const Patch::Run& each : patch.rows) QVERIFY(each.left >= 0 && each.right <= 90);
    // Mixtures of the points lie in the hull.
    std::uniform_real_distribution<double> any(0, 1);
    for (int k = 0; k < 200; ++k) {
      Point at;
      double sum = 0;
      for (const Point& p : points) {
        const double share = std::pow(any(chance), 3);
        at = at + p * share;
        sum += share;
      }
      at = at * (1 / sum);
      if (at.x < 0 || at.y < 0 || at.x >= 90 || at.y >= 70) continue;
      QVERIFY2(holds(patch, static_cast<int>(at.x), static_cast<int>(at.y)), qPrintable(QString::number(run)));
    }
  }
}

void PatchTest::hullsAreClose() {
  // A thin sliver from corner to corner has few pixels, though its box is the picture.
  const std::array<Point, 3> sliver = {Point{0, 0}, Point{400, 300}, Point{398, 300}};
  const Patch patch = hullOf(sliver, 2, {400, 300});
  QCOMPARE(patch.bounds(), boxOf({400, 300}));
  QVERIFY2(pixelsOf(patch) < 400 * 300 / 12, qPrintable(QString::number(pixelsOf(patch))));
  QVERIFY(holds(patch, 200, 150) && !holds(patch, 200, 100) && !holds(patch, 100, 150));
}

void PatchTest::joinedHoldsBoth() {
  const Patch a = patchOf({2, 3, 5, 6}), b = patchOf({7, 5, 9, 12});
  const Patch both = joined(a, b);
  QCOMPARE(both.bounds(), (Box{2, 3, 9, 12}));
  QVERIFY(holds(both, 2, 3) && holds(both, 8, 11) && holds(both, 6, 5) && !holds(both, 6, 4) && !holds(both, 2, 7));
  QCOMPARE(joined(a, {}), a);
  QCOMPARE(joined({}, b), b);
  // Rows between them that are of neither have no pixels.
  const Patch apart = joined(patchOf({0, 0, 1, 1}), patchOf({0, 9, 1, 10}));
  QCOMPARE(apart.rows.size(), 10u);
  QCOMPARE(pixelsOf(apart), 2);
}

void PatchTest::nothingIsEmpty() {
  QVERIFY(Patch{}.empty() && patchOf({}).empty() && hullOf({}, 3, {10, 10}).empty() &&
          joined(Patch{}, Patch{}).empty());
  const std::array<Point, 2> beside = {Point{-30, 4}, Point{-20, 8}};
  QVERIFY(hullOf(beside, 2, {10, 10}).empty());
  QVERIFY(hullOf(std::array{Point{4, 40}}, 2, {10, 10}).empty());
}

HSCAFFOLD_TEST(PatchTest)
#include "patch_test.moc"
