/// How far cells belong together, softly: where a walk from cell to cell gets that prefers like neighbours and ends
/// after a while (random walker, Grady 2006). Unlike pieces with hard borders this changes a little when the picture
/// changes a little.
#pragma once

#include <memory>
#include <span>

#include "core/depth/superpixels.h"

namespace hscaffold::depth {

/// How alike the two sides of each border are, [0, 1], times its share of a cell's side. What counts as alike depends
/// on how much neighbours differ round about (local scaling, Zelnik-Manor and Perona 2004): in foliage the borders of
/// single leaves are no borders.
std::vector<double> tiesOf(const Superpixels& patches);

class Kinship {
 public:
  /// @param ties    from `tiesOf`.
  /// @param ending  how likely a walk ends at each cell, against a tie of 1: it gets about 1 / sqrt(ending) cells far.
  Kinship(const Superpixels& patches, std::span<const double> ties, double ending);
  ~Kinship();
  Kinship(Kinship&&) noexcept;
  Kinship& operator=(Kinship&&) noexcept;

  /// Mean of `values`, one a cell, over where walks from each cell end.
  [[nodiscard]] std::vector<float> mean(std::span<const float> values) const;
  /// How likely a walk comes to one of `wanted` before one of `others` and before it ends, [0, 1].
  [[nodiscard]] std::vector<float> reaches(std::span<const int> wanted, std::span<const int> others) const;

 private:
  struct Parts;
  std::unique_ptr<Parts> parts_;
};

}  // namespace hscaffold::depth
