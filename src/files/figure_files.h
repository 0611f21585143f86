/// Figures from files: COCO key points, motion clips.
#pragma once

#include <map>
#include <span>
#include <string>

#include "core/image/atomic_file.h"
#include "core/pose/bvh.h"
#include "core/pose/coco.h"

namespace hscaffold {

/// What a motion clip leaves open.
struct ClipChoice {
  std::size_t frame = 0;
  pose::BvhView view;
  std::map<std::string, std::string> joints;  ///< our point to the clip's joint, where names do not tell
};

/// Figures as a file has them: COCO key points in JSON, or one frame of a BVH clip (as large as three quarters of
/// `frame`). Up to 64 MB.
/// @param frame  COCO figures of a picture of another size are fitted into it; empty: the file's own size.
/// @throws Problem (badInput) naming the place in the file.
pose::CocoFigures figuresFromFile(std::span<const std::byte> bytes, const std::string& name, Size frame,
                                  const ClipChoice& choice = {});

/// The mapping by names, with the choice's joints over it. @throws Problem (badInput) for joints that are not there.
pose::BvhMapping mappingFor(const pose::BvhClip& clip, const ClipChoice& choice);
/// A figure in the middle of the frame, three quarters of its height or width.
pose::Figure inTheMiddle(const pose::Figure& figure, Size frame);

}  // namespace hscaffold
