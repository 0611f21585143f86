#include "report.h"

#include <cstdio>

namespace bench {

void RatioReporter::ReportRuns(const std::vector<Run>& runs) {
  for (const Run& run : runs)
    if (run.run_type == Run::RT_Iteration && !run.error_occurred && run.iterations > 0) {
      const double time = run.real_accumulated_time / static_cast<double>(run.iterations) * 1e3;
      auto& best = milliseconds_[run.benchmark_name()];
      best = best == 0 ? time : std::min(best, time);
    }
  ConsoleReporter::ReportRuns(runs);
}

void RatioReporter::printRatios() const {
  std::printf("\nratios (ours / comparison; best of the repetitions)\n");
  for (const auto& [name, time] : milliseconds_) {
    const auto at = name.find("/ours");
    if (at == std::string::npos) continue;
    std::string other = name;
    other.replace(at, 5, "/theirs");
    const auto found = milliseconds_.find(other);
    if (found != milliseconds_.end())
      std::printf("  %-46s %8.2f ms / %8.2f ms = %5.2f\n", name.c_str(), time, found->second, time / found->second);
  }
}

}  // namespace bench
