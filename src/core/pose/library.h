/// Poses by name: those that come with the program, and the artist's own. JSON after docs/poses.schema.json.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/pose/body.h"

namespace hscaffold::pose {

struct NamedPose {
  std::string name;
  std::string skeleton = "human";
  std::string category;
  std::vector<std::string> tags;
  BodyPose pose;
  friend bool operator==(const NamedPose&, const NamedPose&) = default;
};

/// A view from one side: added to the pose's own turn about the upright axis, in degrees.
struct PoseView {
  const char* name;
  double turn;
};
/// Front, three-quarter, side and back: where a figure is looked at from. The pose then faces that way exactly.
std::span<const PoseView> poseViews();
/// The pose as it is seen from there.
BodyPose seenFrom(const Skeleton& skeleton, BodyPose pose, double turn);

/// At least 48 of the human body and 8 of the four-legged animal.
std::span<const NamedPose> housePoses();
/// The body poses of a skeleton, as starts for fits; none for a skeleton that there is not.
const std::vector<BodyPose>& startsFor(const std::string& skeleton);

/// Those in which every word of `words` begins a word of the name, the category or the tags; all if it is empty.
std::vector<std::size_t> foundPoses(std::span<const NamedPose> poses, const std::string& words);

/// @throws Problem (badInput) naming the pose that is wrong.
std::vector<NamedPose> posesFromJson(const std::string& text, const std::string& where);
std::string posesToJson(std::span<const NamedPose> poses, const std::string& name);

/// From one figure to another of the same skeleton, by joint angles: exactly the first at 0 and the second at 1.
/// Figures without a pose in 3D are given the one that fits best.
Figure blendedFigures(const Figure& a, const Figure& b, double share);

}  // namespace hscaffold::pose
