/// Prints, under Google Benchmark's own lines, how our times stand to those of a plain comparison in the same run.
#pragma once

#include <benchmark/benchmark.h>

#include <map>
#include <string>

namespace bench {

class RatioReporter : public benchmark::ConsoleReporter {
 public:
  void ReportRuns(const std::vector<Run>& runs) override;
  /// "ours / theirs" for every pair of names NAME/ours... and NAME/theirs...
  void printRatios() const;

 private:
  std::map<std::string, double> milliseconds_;
};

}  // namespace bench
