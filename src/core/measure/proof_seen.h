/// A proof as measures look at it: always at one scale, so that a small proof and a large one of one picture measure
/// alike. What several measures need is made once, when it is first asked for.
#pragma once

#include <mutex>

#include "core/edge_finding/edges.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

/// Looks at pixels that somebody else keeps. May be used by several threads.
class ProofSeen {
 public:
  ProofSeen(View<Rgb8> pixels);  // NOLINT(google-explicit-constructor): a proof is its pixels
  ProofSeen(const Image<Rgb8>& picture) : ProofSeen(picture.view()) {}  // NOLINT(google-explicit-constructor)

  /// The proof itself.
  [[nodiscard]] View<Rgb8> pixels() const { return pixels_; }
  /// Of what is looked at: `longestSeen` pixels on the longer side.
  [[nodiscard]] Size size() const { return size_; }
  /// Linear light, [0, 1], of `size`. @throws Cancelled
  [[nodiscard]] const Image<Rgb>& linear(StopToken stop = {}) const;
  /// The same with at most `longestFromAfar` pixels on its longer side.
  [[nodiscard]] const Image<Rgb>& fromAfar(StopToken stop = {}) const;
  /// All edges of that, in colour; for thresholds as magnitudes.
  [[nodiscard]] const EdgeField& edges(StopToken stop = {}) const;

  static constexpr int longestSeen = 512, longestFromAfar = 384;

 private:
  View<Rgb8> pixels_;
  Size size_;
  mutable std::once_flag linearOnce_, fromAfarOnce_, edgesOnce_;
  mutable Image<Rgb> linear_, fromAfar_;
  mutable EdgeField edges_;
};

}  // namespace hscaffold
