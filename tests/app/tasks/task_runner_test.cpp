// One job a key, the newest wins, nothing outlives whom it works for.
#include <sys/resource.h>
#include <unistd.h>

#include <QElapsedTimer>
#include <QImage>
#include <QPainter>
#include <QSemaphore>
#include <QSignalSpy>
#include <QTest>
#include <QThreadPool>
#include <algorithm>
#include <atomic>
#include <mutex>
#include <set>
#include <thread>

#include "app/tasks/task_runner.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

/// Runs until it is asked to stop.
void untilStopped(const StopToken& stop, std::atomic<bool>* started) {
  *started = true;
  while (!stop.stop_requested()) std::this_thread::yield();
  throw Cancelled();
}

}  // namespace

class TaskRunnerTest : public QObject {
  Q_OBJECT
 private slots:
  void resultsArriveOnThisThread();
  void whatRunsIsStoppedByTheNewest();
  void somethingIsSeenOfWhatIsAskedOnAndOn();
  void jobsOfOtherKeysAreNotLost();
  void whatIsHurriedGoesFirstAndOnce();
  void jobsOfOneKeyNeverRunTogether();
  void nothingOutlivesItsContext();
  void whatIsToldOnTheWayEndsWithItsContext();
  void nothingOutlivesItsStudy();
  void whatJobsThrowIsSaid();
  void whatIsThrownOnArrivalIsSaidToo();
  void endingWaitsForWhatRuns();
  void paintersGoAsFirstAsTheWindow();
};

void TaskRunnerTest::resultsArriveOnThisThread() {
  TaskRunner tasks;
  QObject context;
  std::thread::id ran, arrived;
  int result = 0;
  tasks.run(
      &context, "a", Priority::maps,
      [&ran](const StopToken&) {
        ran = std::this_thread::get_id();
        return 42;
      },
      [&](int value) {
        arrived = std::this_thread::get_id();
        result = value;
      });
  QTRY_COMPARE(result, 42);
  QVERIFY(tasks.idle());
  QVERIFY(ran != arrived && arrived == std::this_thread::get_id());
}

void TaskRunnerTest::whatRunsIsStoppedByTheNewest() {
  TaskRunner tasks;
  QObject context;
  std::atomic<bool> started = false;
  std::vector<int> done;
  tasks.run(
      &context, "a", Priority::maps, [&started](const StopToken& stop) { untilStopped(stop, &started); },
      [&] { done.push_back(-1); });
  QTRY_VERIFY(started);
  for (int i = 0; i < 50; ++i)
    tasks.run(
        &context, "a", Priority::maps, [i](const StopToken&) { return i; }, [&](int v) { done.push_back(v); });
  QTRY_VERIFY(tasks.idle());
  QCOMPARE(done, std::vector<int>{49});
}

void TaskRunnerTest::somethingIsSeenOfWhatIsAskedOnAndOn() {
  TaskRunner tasks;
  QObject context;
  int seen = 0, asked = 0;
  // As a slider that is dragged: asked again every few milliseconds, for something that takes far longer. Were each
  // overtaken by the next, nothing would ever be seen.
  QElapsedTimer timer;
  timer.start();
  while (seen < 2 && timer.elapsed() < 20'000 * fixtures::patience) {
    ++asked;
    tasks.run(
        &context, "a", Priority::maps,
        [](const StopToken& stop) {
          for (int i = 0; i < 80; ++i) {
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
            throwIfStopped(stop);
          }
        },
        [&] { ++seen; });
    QTest::qWait(4);
  }
  QVERIFY2(seen >= 2, qPrintable(QString("%1 of %2").arg(seen).arg(asked)));
  QTRY_VERIFY(tasks.idle());
}

void TaskRunnerTest::jobsOfOtherKeysAreNotLost() {
  TaskRunner tasks;
  QObject context;
  int sum = 0;
  for (int i = 0; i < 20; ++i)
    tasks.run(
        &context, std::to_string(i), Priority::maps, [i](const StopToken&) { return i; }, [&](int v) { sum += v; });
  QTRY_COMPARE(sum, 190);
}

void TaskRunnerTest::whatIsHurriedGoesFirstAndOnce() {
  TaskRunner tasks;
  QObject context;
  // More than there are threads, and before all others: nothing else runs until all of it waits.
  constexpr int most = 16;
  std::atomic<bool> go = false;
  for (int i = 0; i < most; ++i)
    tasks.run(
        &context, "hold " + std::to_string(i), Priority::hand,
        [&](const StopToken&) {
          while (!go) std::this_thread::yield();
        },
        [] {});
  std::mutex mutex;
  std::vector<int> order;
  const auto add = [&](int i) {
    tasks.run(
        &context, std::to_string(i), Priority::maps,
        [&, i](const StopToken&) {
          const std::lock_guard lock(mutex);
          order.push_back(i);
        },
        [] {});
  };
  for (int i = 0; i < 30; ++i) add(i);
  tasks.hurry("29", Priority::shown);
  tasks.hurry("29", Priority::shown);
  tasks.hurry("28", Priority::facts);  // which it is before already
  tasks.hurry("of nobody", Priority::shown);
  go = true;
  QTRY_VERIFY(tasks.idle());
  QCOMPARE(order.size(), std::size_t{30});
  // What begins at once on several threads may come in another order.
  const auto place = std::find(order.begin(), order.end(), 29) - order.begin();
  QVERIFY2(place < most / 2, qPrintable(QString::number(place)));
  QCOMPARE(std::set<int>(order.begin(), order.end()).size(), order.size());
}

void TaskRunnerTest::jobsOfOneKeyNeverRunTogether() {
  TaskRunner tasks;
  QObject context;
  auto running = std::make_shared<std::atomic<int>>(0);
  auto together = std::make_shared<std::atomic<bool>>(false);
  for (int i = 0; i < 40; ++i) {
    tasks.run(
        &context, "a", Priority::maps,
        [running, together](const StopToken&) {
          if (++*running > 1) *together = true;
          std::this_thread::sleep_for(std::chrono::milliseconds(3));
          --*running;
        },
        [] {});
    QTest::qWait(1);
  }
  QTRY_VERIFY(tasks.idle());
  QVERIFY(!*together);
}

void TaskRunnerTest::nothingOutlivesItsContext() {
  TaskRunner tasks;
  auto context = std::make_unique<QObject>();
  std::atomic<bool> started = false;
  bool arrived = false;
  tasks.run(
      context.get(), "a", Priority::maps, [&started](const StopToken& stop) { untilStopped(stop, &started); },
      [&] { arrived = true; });
  QTRY_VERIFY(started);
  // Done, but not delivered yet.
  tasks.run(
      context.get(), "b", Priority::maps, [](const StopToken&) {}, [&] { arrived = true; });
  std::this_thread::sleep_for(std::chrono::milliseconds(50));
  context.reset();
  QTRY_VERIFY(tasks.idle());
  QVERIFY(!arrived);
}

void TaskRunnerTest::whatIsToldOnTheWayEndsWithItsContext() {
  TaskRunner tasks;
  for (int round = 0; round < 20; ++round) {
    auto context = std::make_unique<QObject>();
    int told = 0;
    bool gone = false, late = false;
    tasks.run(
        context.get(), "a", Priority::maps,
        [&](const StopToken& stop) {
          // Tells as fast as it can, also while its context is going.
          while (!stop.stop_requested()) {
            tasks.tell(stop, [&] {
              ++told;
              late = late || gone;
            });
            std::this_thread::yield();
          }
        },
        [] {});
    QTRY_VERIFY(told > 0);
    gone = true;
    context.reset();
    QTRY_VERIFY(tasks.idle());
    QVERIFY(!late);
  }
}

void TaskRunnerTest::nothingOutlivesItsStudy() {
  TaskRunner tasks;
  QObject context;
  std::vector<int> arrived;
  tasks.run(
      &context, "a", Priority::maps, [](const StopToken&) { return 1; }, [&](int v) { arrived.push_back(v); });
  tasks.forgetAll();
  QVERIFY(tasks.idle());
  // The same key for the next study is its own.
  tasks.run(
      &context, "a", Priority::maps, [](const StopToken&) { return 2; }, [&](int v) { arrived.push_back(v); });
  QTRY_VERIFY(tasks.idle());
  QTest::qWait(20);
  QCOMPARE(arrived, std::vector<int>{2});
}

void TaskRunnerTest::whatJobsThrowIsSaid() {
  TaskRunner tasks;
  QObject context;
  const QSignalSpy problems(&tasks, &TaskRunner::problem);
  bool arrived = false;
  tasks.run(
      &context, "a", Priority::maps, [](const StopToken&) { throw badInput("That is no picture."); },
      [&] { arrived = true; });
  tasks.run(
      &context, "b", Priority::maps, [](const StopToken&) { throw Cancelled(); }, [&] { arrived = true; });
  QTRY_VERIFY(tasks.idle());
  QCOMPARE(problems.size(), 1);
  QCOMPARE(problems[0][0].toString(), QString("That is no picture."));
  QVERIFY(!arrived);
}

void TaskRunnerTest::whatIsThrownOnArrivalIsSaidToo() {
  TaskRunner tasks;
  QObject context;
  const QSignalSpy problems(&tasks, &TaskRunner::problem), ended(&tasks, &TaskRunner::ended);
  tasks.run(
      &context, "a", Priority::maps, [](const StopToken&) { return 7; },
      [](int) { throw failed("The disk is full."); });
  tasks.run(
      &context, "b", Priority::maps,
      [&tasks](const StopToken& stop) { tasks.tell(stop, [] { throw badInput("No progress."); }); }, [] {});
  bool goesOn = false;
  QTRY_VERIFY(tasks.idle());
  tasks.run(
      &context, "a", Priority::maps, [](const StopToken&) {}, [&] { goesOn = true; });
  QTRY_VERIFY(goesOn);
  QStringList said;
  for (const auto& problem : problems) said << problem[0].toString();
  said.sort();
  QCOMPARE(said, (QStringList{"No progress.", "The disk is full."}));
  QVERIFY(ended.size() >= 3);
}

void TaskRunnerTest::endingWaitsForWhatRuns() {
  std::atomic<bool> started = false, ended = false;
  QObject context;
  {
    TaskRunner tasks;
    tasks.run(
        &context, "long", Priority::maps,
        [&](const StopToken& stop) {
          started = true;
          while (!stop.stop_requested()) std::this_thread::yield();
          ended = true;
        },
        [] {});
    QTRY_VERIFY(started);
  }
  QVERIFY(ended);
}

void TaskRunnerTest::paintersGoAsFirstAsTheWindow() {
  // A job of ours paints first, and what it paints is large enough to be shared out.
  TaskRunner tasks;
  QObject context;
  int jobs = 0, done = 0;
  const auto nice = [] { return ::getpriority(PRIO_PROCESS, static_cast<id_t>(::gettid())); };
  const auto paint = [] {
    QImage picture(2000, 2000, QImage::Format_ARGB32_Premultiplied), large(1000, 1000, picture.format());
    large.fill(Qt::darkCyan);
    picture.fill(Qt::white);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(QRectF(0.5, 0.5, 1999, 1999), large);
  };
  tasks.run(
      &context, "paints", Priority::maps,
      [&](const StopToken&) {
        paint();
        return nice();
      },
      [&](int value) { jobs = value, ++done; });
  QTRY_COMPARE(done, 1);
  QVERIFY2(jobs > nice(), "jobs let the window go first");
  // Each of Qt's painters says how first it goes.
  QThreadPool& pool = *QThreadPool::globalInstance();
  const int count = pool.maxThreadCount(), window = nice();
  std::atomic<int> asFirst = 0;
  QSemaphore come, go;
  for (int i = 0; i < count; ++i)
    pool.start([&] {
      if (nice() == window) ++asFirst;
      come.release();
      go.acquire();
    });
  const bool all = come.tryAcquire(count, 10'000);
  go.release(count);
  pool.waitForDone();
  QVERIFY(all);
  QCOMPARE(asFirst.load(), count);
}

HSCAFFOLD_TEST(TaskRunnerTest)
#include "task_runner_test.moc"
