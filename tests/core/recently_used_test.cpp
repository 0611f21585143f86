#include "core/recently_used.h"

#include <QTest>
#include <thread>

#include "test_program.h"

using namespace hscaffold;

class RecentlyUsedTest : public QObject {
  Q_OBJECT
 private slots:
  void whatWasNotAskedForTheLongestGoesFirst();
  void costIsBounded();
  void severalThreadsMayUseIt();
};

void RecentlyUsedTest::whatWasNotAskedForTheLongestGoesFirst() {
  RecentlyUsed<int, int> kept(3);
  int made = 0;
  const auto ask = [&](int key) {
    return *kept.of(key, [&] {
      ++made;
      return std::make_shared<const int>(10 * key);
    });
  };
  for (const int key : {1, 2, 3}) QCOMPARE(ask(key), 10 * key);
  QCOMPARE(ask(1), 10);
  QCOMPARE(made, 3);
  QCOMPARE(ask(4), 40);  // 2 goes
  QVERIFY(kept.find(1) && kept.find(3) && kept.find(4));
  QVERIFY(!kept.find(2));
}

void RecentlyUsedTest::costIsBounded() {
  RecentlyUsed<std::string, int> kept(100);
  kept.put("a", std::make_shared<const int>(1), 60);
  kept.put("b", std::make_shared<const int>(2), 30);
  QCOMPARE(kept.cost(), std::size_t{90});
  kept.put("a", std::make_shared<const int>(3), 50);
  QCOMPARE(kept.cost(), std::size_t{80});
  QCOMPARE(*kept.find("a"), 3);
  kept.put("c", std::make_shared<const int>(4), 70);  // both others have to go
  QCOMPARE(kept.cost(), std::size_t{70});
  QVERIFY(!kept.find("a") && !kept.find("b"));
  kept.put("d", std::make_shared<const int>(5), 101);  // would leave room for nothing else, and does not fit
  QVERIFY(!kept.find("d") && kept.find("c"));
  kept.clear();
  QCOMPARE(kept.cost(), std::size_t{0});
}

void RecentlyUsedTest::severalThreadsMayUseIt() {
  RecentlyUsed<int, int> kept(5);
  std::atomic<int> wrong = 0;
  {
    std::vector<std::jthread> threads;
    for (int t = 0; t < 4; ++t)
      threads.emplace_back([&, t] {
        for (int i = 0; i < 4000; ++i) {
          const int key = (i * 7 + t) % 11;
          if (*kept.of(key, [&] { return std::make_shared<const int>(key); }) != key) ++wrong;
        }
      });
  }
  QCOMPARE(wrong.load(), 0);
  QCOMPARE(kept.cost(), std::size_t{5});
}

HSCAFFOLD_TEST(RecentlyUsedTest)
#include "recently_used_test.moc"
