/// How guides are obeyed: what of them is taken is decided piece by piece, by how much a piece says and by the load of
/// the steps in which pieces of its size settle. What is not taken is not there.
#pragma once

#include <vector>

#include "core/guides/guide.h"

namespace hscaffold::standin {

/// What the prompt's own pull makes of loads: they are divided by this. 1 at a guidance of 6.5.
double resistanceOf(double guidance);

/// The load of one guide in each step, against the prompt's own pull.
class LoadCurve {
 public:
  LoadCurve() = default;
  /// @param guidance  a harder prompt leaves guides a little less; 6.5 is plain.
  LoadCurve(const Guide& guide, double guidance, int steps);

  /// Mean load about a share of the way, [0, 1], as pieces that settle there feel it.
  [[nodiscard]] double at(double time) const;
  /// The same for what can still be drawn when it is late: loads after that time count the less the later.
  [[nodiscard]] double atOrAfter(double time) const;
  [[nodiscard]] double most() const;
  [[nodiscard]] double mean() const;

 private:
  std::vector<double> steps_;
};

/// When pieces settle, as a share of the way: the first of all (0) at once, the last (1) near the end.
double settlingTime(double rank);
/// How far, in ranks, a load reaches, [0, 1]: everything from 0.985 on.
double reachOf(double load);
/// How much outlines and values are overdrawn beyond plain weight; 1 up to there.
float burnOf(double load);
/// The same for the lines themselves, which burn in twice as fast.
float lineBurnOf(double load);

}  // namespace hscaffold::standin
