/// Motion clips in BVH: one frame of them becomes a figure.
///
/// The format is as Meredith and Maddock describe it ("Motion capture file formats explained", 2001). Joints are
/// matched to our points by their names; what no name tells is asked for by a mapping.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/pose/body.h"

namespace hscaffold::pose {

struct BvhJoint {
  std::string name;
  int parent = -1;
  Vec3 offset{};
  std::vector<int> channels;  ///< 0-2: x, y, z position; 3-5: turns about x, y, z
  std::size_t firstChannel = 0;
  bool end = false;  ///< an end site, named after the joint it ends
};

struct BvhClip {
  std::vector<BvhJoint> joints;
  std::size_t channels = 0;  ///< numbers in a frame
  std::size_t frames = 0;
  double secondsAFrame = 1.0 / 30;
  std::vector<float> motion;  ///< frames x channels
};

inline constexpr std::size_t mostBvhFrames = 200'000, mostBvhJoints = 500;

/// @throws Problem (badInput) naming the line that is wrong.
BvhClip bvhFrom(const std::string& text, const std::string& where);

/// Which joint stands for each of our points, by the points' ids. Points of the head follow from the head joint.
using BvhMapping = std::map<std::string, int>;
/// As far as names tell: "LeftForeArm", "l_elbow", "LeftElbow" and the like.
BvhMapping mappingByName(const BvhClip& clip);
/// Points that a figure cannot do without and that `mapping` lacks.
std::vector<std::string> missingIn(const BvhMapping& mapping);

/// Frames in which a motion turns round or comes to rest, and that differ most from one another, in their order: what
/// one would take from it. The first frame alone if nothing moves.
/// @throws Problem (badInput) if points are missing
std::vector<std::size_t> keyFrames(const BvhClip& clip, const BvhMapping& mapping, std::size_t most = 8);

struct BvhView {
  double turn = 0;  ///< degrees, the camera goes round to its right
  double rise = 0;  ///< degrees, the camera goes up
};
/// The figure of a frame, as large as it comes, facing as the clip has it; see `fittedInto`.
/// @throws Problem (badInput) if points are missing.
Figure figureOf(const BvhClip& clip, std::size_t frame, const BvhMapping& mapping, const BvhView& view);

}  // namespace hscaffold::pose
