/// Rows worked on by all cores. Results must not depend on how rows are shared out.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace hscaffold {

/// Calls `work(first, end)` for row ranges that together cover [0, rows).
template <typename Work>
void parallelRows(int rows, Work&& work, int grain = 16) {
  tbb::parallel_for(tbb::blocked_range<int>(0, rows, static_cast<std::size_t>(grain)),
                    [&](const tbb::blocked_range<int>& range) { work(range.begin(), range.end()); });
}

}  // namespace hscaffold
