#include "app/tasks/yielding.h"

#include <sys/resource.h>
#include <unistd.h>

#include <QSemaphore>
#include <QThreadPool>
#include <memory>

#ifndef __SANITIZE_THREAD__
// It has functions by the name of one of Qt's words.
#pragma push_macro("emit")
#undef emit
#include <tbb/task_arena.h>
#include <tbb/task_scheduler_observer.h>
#pragma pop_macro("emit")
#endif

namespace hscaffold::app {
namespace {

void beNice() {
  constexpr int niceness = 10;
  thread_local bool done = false;
  if (done) return;
  done = true;
  // Of the thread alone, as Linux has it. Where it may not be, everything works as before.
  ::setpriority(PRIO_PROCESS, static_cast<id_t>(::gettid()), niceness);
}

#ifndef __SANITIZE_THREAD__
/// Workers of the scheduler belong to nobody; who hands out the work, works along as itself.
class Workers : public tbb::task_scheduler_observer {
 public:
  Workers() { observe(true); }
  ~Workers() override { observe(false); }
  void on_scheduler_entry(bool worker) override {
    if (worker) beNice();
  }
};
#endif

}  // namespace

void yieldToTheHand() {
#ifndef __SANITIZE_THREAD__
  static Workers workers;
#endif
  beNice();
}

int workingAlone(const std::function<int()>& work) {
#ifdef __SANITIZE_THREAD__
  return work();
#else
  tbb::task_arena alone(1);
  return alone.execute([&] { return work(); });
#endif
}

void beginPainters() {
  struct Meeting {
    QSemaphore come, go;
  };
  QThreadPool& pool = *QThreadPool::globalInstance();
  pool.setExpiryTimeout(-1);
  // Each stays until all are there: otherwise one would do for all.
  const auto meeting = std::make_shared<Meeting>();
  const int count = pool.maxThreadCount();
  for (int i = 0; i < count; ++i)
    pool.start([meeting] {
      meeting->come.release();
      meeting->go.acquire();
    });
  constexpr int longest = 1000;  // milliseconds: where a thread cannot be begun, the window comes all the same
  meeting->come.tryAcquire(count, longest);
  meeting->go.release(count);
}

}  // namespace hscaffold::app
