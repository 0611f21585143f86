// Strokes of a line map that hang together are decided together; what is much of a map comes with most of it at once.
#include <QTest>
#include <cmath>
#include <map>

#include "core/engine/guided_jobs.h"
#include "core/engine/standin/chains.h"
#include "core/engine/standin/line_fields.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::standin;
using fixtures::box;
using fixtures::layout;
using fixtures::line;

namespace {

std::vector<Chain> chainsIn(const Map& map) { return chainsOf(shrunkLines(map, layout), map); }

/// Lengths by rank.
std::map<double, double> lengthsIn(const std::vector<Chain>& chains) {
  std::map<double, double> out;
  for (const Chain& chain : chains) out[chain.rank] += chain.length;
  return out;
}

double lengthOf(const std::vector<Chain>& chains) {
  double sum = 0;
  for (const Chain& chain : chains) sum += chain.length;
  return sum;
}

}  // namespace

class ChainPiecesTest : public QObject {
  Q_OBJECT
 private slots:
  void piecesHaveOneRank();
  void mostOfALargePieceComesAtOnce();
  void whatOnlyTouchesAtTheLayoutsSizeIsNotTorn();
};

void ChainPiecesTest::piecesHaveOneRank() {
  // Six crosses in boxes: none of them is much of the map.
  Map map(layout);
  for (int i = 0; i < 6; ++i) {
    const int x = 30 + 115 * (i % 3), y = 30 + 110 * (i / 3), side = 40 + 6 * i;
    box(map, x, y, x + side, y + side);
    line(map, x, y + side / 2, x + side, y + side / 2);
    line(map, x + side / 2, y, x + side / 2, y + side);
  }
  const auto chains = chainsIn(map);
  QVERIFY(chains.size() > 12);
  std::map<int, std::set<double>> ranks;  // by box
  for (const Chain& chain : chains)
    for (const Point p : chain.path)
      ranks[static_cast<int>((p.x - 20) / 115) + 3 * static_cast<int>((p.y - 20) / 110)].insert(chain.rank);
  QCOMPARE(ranks.size(), std::size_t{6});
  for (const auto& [_, own] : ranks) QCOMPARE(own.size(), std::size_t{1});
  QCOMPARE(lengthsIn(chains).size(), std::size_t{6});
}

void ChainPiecesTest::mostOfALargePieceComesAtOnce() {
  // A net of uneven meshes over the whole map.
  Map map(layout);
  for (const int x : {20, 60, 85, 150, 190, 260, 300, 350}) line(map, x, 20, x, 230);
  for (const int y : {20, 55, 70, 120, 165, 230}) line(map, 20, y, 350, y);
  const auto chains = chainsIn(map);
  const double all = lengthOf(chains);
  double most = 0;
  for (const auto& [_, length] : lengthsIn(chains)) most = std::max(most, length / all);
  QVERIFY2(most > 0.7 && most < 0.9, qPrintable(QString::number(most)));
  // Range ends go through it stroke by stroke all the same.
  double first = 1, last = 0;
  for (const Chain& chain : chains)
    if (chain.rank == chains[0].rank) {
      first = std::min(first, chain.settles);
      last = std::max(last, chain.settles);
    }
  QVERIFY2(first < 0.15 && last > 0.3, qPrintable(QString("%1 %2").arg(first).arg(last)));
  // The rest is stroke by stroke, after it.
  QVERIFY(lengthsIn(chains).size() > 2);
  QVERIFY(std::abs(lengthsIn(chains).begin()->second / all - most) < 1e-9);
}

void ChainPiecesTest::whatOnlyTouchesAtTheLayoutsSizeIsNotTorn() {
  // Boxes and diamonds in a row: two pixels apart in the map, one piece in the layout.
  Map map(Size{2 * layout.width, 2 * layout.height});
  constexpr int things = 9, wide = 80, middle = 250;
  const auto leftOf = [](int i) { return 15 + (wide + 2) * i; };
  for (int i = 0; i < things; ++i) {
    const int left = leftOf(i), right = left + wide, tall = 30 + 8 * i;
    if (i % 2 == 0) {
      box(map, left, middle - tall, right, middle + tall);
    } else {
      const int centre = left + wide / 2;
      for (const int y : {middle - tall, middle + tall}) {
        line(map, left, middle, centre, y);
        line(map, right, middle, centre, y);
      }
    }
  }
  const auto chains = chainsIn(map);
  std::map<int, std::map<double, double>> lengths;  // by thing and rank
  for (const Chain& chain : chains)
    for (const Point p : chain.path) lengths[static_cast<int>((2 * p.x + 1 - leftOf(0)) / (wide + 2))][chain.rank] += 1;
  QCOMPARE(lengths.size(), std::size_t{things});
  std::set<double> ranks;
  for (const auto& [which, own] : lengths) {
    double sum = 0, largest = 0;
    for (const auto& [rank, length] : own) {
      sum += length;
      if (length > largest) largest = length, ranks.insert(rank);
    }
    QVERIFY2(largest > 0.9 * sum, qPrintable(QString("thing %1: %2 of %3").arg(which).arg(largest).arg(sum)));
  }
  QVERIFY2(ranks.size() > 1, "all came at once");
}

HSCAFFOLD_TEST(ChainPiecesTest)
#include "chain_pieces_test.moc"
