#include <QTest>
#include <atomic>
#include <chrono>
#include <stdexcept>
#include <thread>

#include "core/image/parallel.h"
#include "test_program.h"

using namespace hscaffold;

class ParallelTest : public QObject {
  Q_OBJECT
 private slots:
  void everyRowIsDoneOnce();
  void whatThrowsIsHeardOf();
  void loopsWithinOneThatWasCalledOffAreWhole();
};

void ParallelTest::everyRowIsDoneOnce() {
  for (const int rows : {0, 1, 15, 16, 17, 1000}) {
    std::vector<std::atomic<int>> done(static_cast<std::size_t>(rows));
    parallelRows(rows, [&](int first, int end) {
      for (int y = first; y < end; ++y) ++done[static_cast<std::size_t>(y)];
    });
    for (const auto& times : done) QCOMPARE(times.load(), 1);
  }
}

void ParallelTest::whatThrowsIsHeardOf() {
  QVERIFY_THROWS_EXCEPTION(std::runtime_error, parallelItems(8, [](std::size_t item) {
                             if (item == 3) throw std::runtime_error("no");
                           }));
}

void ParallelTest::loopsWithinOneThatWasCalledOffAreWhole() {
  // One item throws while the other is at work: what that one does in parts it does whole, for it goes on with it.
  std::atomic<bool> thrown = false;
  std::atomic<int> begun = 0, whole = 0, all = 0;
  for (int round = 0; round < 20; ++round) {
    thrown = false;
    begun = 0;
    try {
      parallelItems(2, [&](std::size_t item) {
        ++begun;
        // Both are there, or one thread does one after the other.
        for (int i = 0; i < 200 && begun < 2; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        if (item == 0) {
          thrown = true;
          throw std::runtime_error("called off");
        }
        for (int i = 0; i < 200 && !thrown; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
        std::atomic<int> rows = 0;
        parallelRows(
            64, [&](int first, int end) { rows += end - first; }, 1);
        ++all;
        whole += rows == 64 ? 1 : 0;
      });
    } catch (const std::runtime_error&) {
    }
  }
  QCOMPARE(whole.load(), all.load());
}

HSCAFFOLD_TEST(ParallelTest)
#include "parallel_test.moc"
