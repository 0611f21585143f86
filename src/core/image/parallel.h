/// Rows worked on by all cores. Results must not depend on how rows are shared out.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#ifdef __SANITIZE_THREAD__
#include <atomic>
#endif

namespace hscaffold {

/// Tells a checker of threads what it cannot see in the scheduler, which is not built with it: that work begins after
/// it was given, and has ended when the call returns. Nothing in other builds.
inline void markHandover() {
#ifdef __SANITIZE_THREAD__
  static std::atomic<unsigned> handed = 0;
  handed.fetch_add(1, std::memory_order_acq_rel);
#endif
}

/// Calls `work(first, end)` for row ranges that together cover [0, rows).
template <typename Work>
void parallelRows(int rows, Work&& work, int grain = 16) {
  markHandover();
  tbb::parallel_for(tbb::blocked_range<int>(0, rows, static_cast<std::size_t>(grain)),
                    [&](const tbb::blocked_range<int>& range) {
                      markHandover();
                      work(range.begin(), range.end());
                      markHandover();
                    });
  markHandover();
}

}  // namespace hscaffold
