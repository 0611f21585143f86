/// Rows worked on by all cores. Results must not depend on how rows are shared out.
#pragma once

#include <algorithm>

#ifdef __SANITIZE_THREAD__
#include <exception>
#include <thread>
#include <vector>
#else
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>
#endif

namespace hscaffold {

/// Calls `work(first, end)` for row ranges that together cover [0, rows). A build with the checker of threads shares
/// rows out among plain threads: the scheduler is not built with the checker, which would then report its own
/// hand-overs instead of our mistakes.
template <typename Work>
void parallelRows(int rows, Work&& work, int grain = 16) {
#ifdef __SANITIZE_THREAD__
  const int parts = std::clamp(rows / std::max(grain, 1), rows > 0 ? 1 : 0, 3);
  std::vector<std::exception_ptr> thrown(static_cast<std::size_t>(parts));
  const auto part = [&](int p) {
    try {
      work(rows * p / parts, rows * (p + 1) / parts);
    } catch (...) {
      thrown[static_cast<std::size_t>(p)] = std::current_exception();
    }
  };
  {
    std::vector<std::jthread> threads;
    for (int p = 1; p < parts; ++p) threads.emplace_back(part, p);
    if (parts > 0) part(0);
  }
  for (const std::exception_ptr& each : thrown)
    if (each) std::rethrow_exception(each);
#else
  // A loop within one that was called off (somebody threw) still does all of its rows: who started it takes them for
  // done.
  tbb::task_group_context alone(tbb::task_group_context::isolated);
  tbb::parallel_for(
      tbb::blocked_range<int>(0, rows, static_cast<std::size_t>(grain)),
      [&](const tbb::blocked_range<int>& range) { work(range.begin(), range.end()); }, alone);
#endif
}

/// Does work that others wait for: while its own parts are shared out, this thread takes up nothing else, which might
/// wait for the very same.
template <typename Work>
void isolated(Work&& work) {
#ifdef __SANITIZE_THREAD__
  work();
#else
  tbb::this_task_arena::isolate(std::forward<Work>(work));
#endif
}

/// Calls `work(item)` for each of `count` items that are large enough to be shared out one by one.
template <typename Work>
void parallelItems(std::size_t count, Work&& work) {
  parallelRows(
      static_cast<int>(count),
      [&](int first, int end) {
        for (int i = first; i < end; ++i) work(static_cast<std::size_t>(i));
      },
      1);
}

}  // namespace hscaffold
