#include "app/tasks/yielding.h"

#include <sys/resource.h>
#include <unistd.h>

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

}  // namespace hscaffold::app
