/// Depth as a network of the artist's choice guesses it: one more cue under the hints; in the slot "estimate" of a
/// guide, so that a study shows the same map where that network is not at hand.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/guides/nearness.h"
#include "core/guides/work.h"
#include "core/image/image.h"

namespace hscaffold::depth {

struct Cue;
struct Seen;

inline constexpr const char* estimateSlot = "estimate";

using Estimate = Nearness;
/// As JSON: see docs/study-file.md.
const WorkForm& estimateForm();

/// What it says of the cells.
Cue estimateCue(const Estimate& estimate, const Seen& seen);

/// What an artist's own network answers with, from the JSON beside it (docs/networks.md).
class Estimator {
 public:
  /// @param onnx  a network; its description lies beside it. @throws Problem (badInput)
  explicit Estimator(const std::filesystem::path& onnx);

  [[nodiscard]] const std::string& name() const { return name_; }
  /// @param picture  placed in the frame, linear RGB. @throws Problem, Cancelled
  Estimate estimate(View<Rgb> picture, const std::optional<Affine>& placing, StopToken stop = {}) const;

 private:
  std::filesystem::path onnx_;
  std::string name_;
};

}  // namespace hscaffold::depth
