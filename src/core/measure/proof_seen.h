/// A proof as measures look at it: what several of them need is made once, when it is first asked for.
#pragma once

#include <mutex>

#include "core/edge_finding/edges.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

/// Looks at pixels that somebody else keeps. May be used by several threads.
class ProofSeen {
 public:
  ProofSeen(View<Rgb8> pixels) : pixels_(pixels) {}  // NOLINT(google-explicit-constructor): a proof is its pixels
  ProofSeen(const Image<Rgb8>& picture) : pixels_(picture) {}  // NOLINT(google-explicit-constructor)

  [[nodiscard]] View<Rgb8> pixels() const { return pixels_; }
  [[nodiscard]] Size size() const { return pixels_.size(); }
  /// Linear light, [0, 1]; the proof's size. @throws Cancelled
  [[nodiscard]] const Image<Rgb>& linear(StopToken stop = {}) const;
  /// The same with at most `longestFromAfar` pixels on its longer side.
  [[nodiscard]] const Image<Rgb>& fromAfar(StopToken stop = {}) const;
  /// All edges, in colour; for thresholds as magnitudes.
  [[nodiscard]] const EdgeField& edges(StopToken stop = {}) const;

  static constexpr int longestFromAfar = 384;

 private:
  View<Rgb8> pixels_;
  mutable std::once_flag linearOnce_, fromAfarOnce_, edgesOnce_;
  mutable Image<Rgb> linear_, fromAfar_;
  mutable EdgeField edges_;
};

}  // namespace hscaffold
