/// Drawings: strokes as they belong to a guide, in its slot "drawing".
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/frame/placement.h"
#include "core/guides/work.h"
#include "core/strokes/stroke.h"

namespace hscaffold {

inline constexpr const char* drawingSlot = "drawing";

/// Strokes drawn by hand, traced, or brought in. Immutable once shared, so that copies are cheap and undo can keep
/// them.
struct Drawing {
  bool alone = false;             ///< it is the whole guide; otherwise it is laid over the extraction
  Size frame;                     ///< that its coordinates belong to
  std::optional<Affine> placing;  ///< frame from reference coordinates when it was made; none without a reference
  std::vector<std::shared_ptr<const Stroke>> strokes;
};

/// The drawing as it lies when the frame or the placing of its reference is another: moved with the reference, or with
/// the frame where there is none.
Drawing following(const Drawing& drawing, Size frame, const std::optional<Affine>& placing);

/// As JSON: see docs/study-file.md.
const WorkForm& drawingForm();

}  // namespace hscaffold
