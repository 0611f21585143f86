// Which engine takes the next cell of a sheet, and how long engines took.
#include <QTest>
#include <limits>
#include <nlohmann/json.hpp>
#include <queue>

#include "core/sheet/sharing.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

/// Milliseconds that a sheet takes where every free lane is given what `takerOf` says.
double finished(std::vector<Worker> workers, int cells, std::vector<int>* made = nullptr) {
  struct Running {
    double end;
    std::size_t worker;
    bool operator<(const Running& other) const { return end > other.end; }
  };
  std::priority_queue<Running> running;
  if (made != nullptr) made->assign(workers.size(), 0);
  double now = 0;
  while (cells > 0 || !running.empty()) {
    while (cells > 0) {
      const auto taker = takerOf(workers, cells);
      if (!taker) break;
      --cells;
      ++workers[*taker].running;
      if (made != nullptr) ++(*made)[*taker];
      running.push({now + workers[*taker].milliseconds, *taker});
    }
    if (running.empty()) return std::numeric_limits<double>::infinity();
    now = running.top().end;
    --workers[running.top().worker].running;
    running.pop();
  }
  return now;
}

}  // namespace

class SharingTest : public QObject {
  Q_OBJECT
 private slots:
  void oneEngineTakesAll();
  void workIsSharedBySpeed();
  void aSlowOneLeavesTheLastCellToAQuickOne();
  void lanesCount();
  void paceIsWhatWasMeasured();
};

void SharingTest::oneEngineTakesAll() {
  const std::vector<Worker> one{{500, 1, 0}};
  QCOMPARE(takerOf(one, 3), std::optional<std::size_t>(0));
  QCOMPARE(takerOf({}, 3), std::optional<std::size_t>());
  QCOMPARE(takerOf(one, 0), std::optional<std::size_t>());
  const std::vector<Worker> busy{{500, 1, 1}};
  QCOMPARE(takerOf(busy, 3), std::optional<std::size_t>());
  QCOMPARE(finished({{500, 1, 0}}, 4), 2000.0);
  // Whoever says that it takes no time still has but one lane.
  const std::vector<Worker> boastful{{0, 1, 1}, {500, 1, 0}};
  QCOMPARE(takerOf(boastful, 1), std::optional<std::size_t>());
  QCOMPARE(takerOf(boastful, 2000), std::optional<std::size_t>(1));
}

void SharingTest::workIsSharedBySpeed() {
  std::vector<int> made;
  // Thrice as quick: about thrice as many, and no later than can be by more than one slow proof.
  const double took = finished({{100, 1, 0}, {300, 1, 0}}, 25, &made);
  QCOMPARE(made[0] + made[1], 25);
  QVERIFY2(made[1] >= 5 && made[1] <= 7, qPrintable(QString("%1 and %2").arg(made[0]).arg(made[1])));
  QVERIFY2(took <= 25 / (1.0 / 100 + 1.0 / 300) + 300, qPrintable(QString::number(took)));
}

void SharingTest::aSlowOneLeavesTheLastCellToAQuickOne() {
  // Ten times as slow: what it would begin last the other has made before.
  const std::vector<Worker> workers{{100, 1, 1}, {1000, 1, 0}};
  QCOMPARE(takerOf(workers, 3), std::optional<std::size_t>());
  QCOMPARE(takerOf(workers, 30), std::optional<std::size_t>(1));
  QVERIFY(finished({{100, 1, 0}, {1000, 1, 0}}, 5) <= 500);
}

void SharingTest::lanesCount() {
  std::vector<int> made;
  finished({{100, 3, 0}, {100, 1, 0}}, 40, &made);
  QVERIFY2(std::abs(made[0] - 30) <= 1, qPrintable(QString::number(made[0])));
}

void SharingTest::paceIsWhatWasMeasured() {
  Pace pace;
  Recipe recipe;
  QVERIFY(!pace.estimate("loft", recipe));
  pace.took("loft", recipe, 800);
  QCOMPARE(*pace.estimate("loft", recipe), 800.0);
  Recipe larger = recipe;
  larger.frame = {2 * recipe.frame.width, 2 * recipe.frame.height};
  QCOMPARE(*pace.estimate("loft", larger), 3200.0);
  // What it takes now counts, but one slow proof does not say all.
  pace.took("loft", recipe, 1600);
  QVERIFY(*pace.estimate("loft", recipe) > 1000 && *pace.estimate("loft", recipe) < 1300);
  const Pace kept = Pace::fromJson(pace.toJson());
  QCOMPARE(*kept.estimate("loft", recipe), *pace.estimate("loft", recipe));
  // Nonsense is no pace.
  pace.took("attic", recipe, -3);
  pace.took("attic", recipe, std::numeric_limits<double>::quiet_NaN());
  QVERIFY(!pace.estimate("attic", recipe));
  QVERIFY(!Pace::fromJson({{"attic", "quick"}, {"loft", -1}}).estimate("attic", recipe));
  QVERIFY(!Pace::fromJson(3).estimate("loft", recipe));
}

HSCAFFOLD_TEST(SharingTest)
#include "sharing_test.moc"
