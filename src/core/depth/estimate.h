/// Depth as a network of the artist's choice guesses it: one more cue under the hints; in the slot "estimate" of a
/// guide, so that a study shows the same map where that network is not at hand.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "core/frame/placement.h"
#include "core/guides/work.h"
#include "core/image/image.h"

namespace hscaffold::depth {

struct Cue;
struct Seen;

inline constexpr const char* estimateSlot = "estimate";

/// Immutable once shared.
struct Estimate {
  Size frame;                     ///< that it belongs to
  std::optional<Affine> placing;  ///< frame from reference when it was made
  std::string by;                 ///< who guessed, for reading
  Image<float> near;              ///< over the whole frame, at a size of its own; [0, 1], 1 nearest; below 0: not known
};

/// The estimate as it lies when the frame or the placing of the reference is another.
Estimate following(const Estimate& estimate, Size frame, const std::optional<Affine>& placing);
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
