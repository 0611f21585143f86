/// Skeletons as data: key points, bones with their natural lengths, and the joints that a body turns in.
///
/// Skeletons are JSON after docs/skeleton.schema.json. Lengths are shares of the figure's size: a human's standing
/// height, a four-legged animal's length from nose to tail root. Body axes: x to its left, y up, z to where it faces.
#pragma once

#include <array>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/problem.h"

namespace hscaffold::pose {

using Vec3 = std::array<double, 3>;

enum class Side { middle, left, right };

struct SkeletonPoint {
  std::string id;              ///< "left_wrist"
  std::string name;            ///< "left wrist"
  std::string part = "body";   ///< parts other than the body are optional
  Vec3 rest{};                 ///< where it is at rest
  std::size_t joint = 0;       ///< the joint it is carried by
  std::size_t mirror = 0;      ///< its counterpart on the other side; itself in the middle
  int bone = -1;               ///< that leads to it from the trunk; -1: none
  bool anchor = false;         ///< a limb that is dragged hangs on the nearest one
  bool turnsChildren = false;  ///< what hangs on it turns with its bone rather than only moving along
  bool handle = false;         ///< by these a whole pose can be led
};

struct Bone {
  std::size_t from = 0, to = 0;  ///< points; `from` is nearer the trunk
  Side side = Side::middle;
  double length = 0;           ///< at rest, as a share of the figure's size
  double reach = 1;            ///< how much longer than at rest it may get where it spans a bending back
  double least = 1, most = 1;  ///< natural builds have from `least` to `most` times `length`
};

/// One axis that a joint turns about, within anatomical limits.
struct Turn {
  std::string id;              ///< "left_elbow.bend"
  Vec3 axis{};                 ///< unit length, in the frame of the joint it hangs on
  double least = 0, most = 0;  ///< degrees; 0 is at rest
};

struct Joint {
  std::string id;
  int parent = -1;
  Vec3 rest{};
  std::size_t firstTurn = 0, turns = 0;  ///< in `Skeleton::turns`; the first one is outermost
};

/// A round, tapered volume between the means of some points: what bodies are built of, and what hides what is behind.
struct Solid {
  std::vector<std::size_t> from, to;
  double radiusFrom = 0, radiusTo = 0;  ///< shares of the figure's size
  enum class Of { torso, arm, leg, hand, head } of = Of::torso;
  std::string name = {};  ///< "left forearm", for limbs that are looked for one by one; else empty
};

struct Skeleton {
  std::string id, name;
  std::string category;  ///< its name in COCO files
  struct Part {
    std::string id, name;
  };
  std::vector<Part> parts;  ///< the first is the body
  std::vector<SkeletonPoint> points;
  std::vector<Bone> bones;
  std::vector<Joint> joints;  ///< parents first
  std::vector<Turn> turns;
  /// Dragging one of `carried` takes the figure along, while the `planted` stay as far as they can.
  std::vector<std::size_t> carried, planted;
  /// Dragging one of `swung` turns the figure about the middle of `swungAbout`, but for what hangs on `staying`.
  std::vector<std::size_t> swung, swungAbout, staying;

  /// The points of the head that face forward, and the points about whose middle it is round.
  std::vector<std::size_t> head, headAbout;
  std::vector<Solid> solids;

  [[nodiscard]] std::optional<std::size_t> find(std::string_view point) const;
  [[nodiscard]] std::optional<std::size_t> findTurn(std::string_view turn) const;
  /// The point that this one hangs on; none for the root.
  [[nodiscard]] std::optional<std::size_t> parentOf(std::size_t point) const;
  /// `point` and everything that hangs on it.
  [[nodiscard]] const std::vector<std::size_t>& below(std::size_t point) const { return below_[point]; }
  [[nodiscard]] bool isBody(std::size_t point) const { return points[point].part == parts.front().id; }

 private:
  friend Skeleton skeletonFromJson(const std::string& text, const std::string& where);
  std::vector<std::vector<std::size_t>> below_;
};

/// @throws Problem (badInput) naming the point, bone or joint that is wrong.
Skeleton skeletonFromJson(const std::string& text, const std::string& where);

/// Those that come with the program: human body first, four-legged animal second.
std::span<const Skeleton> skeletons();
/// @param where  how the message names the place that asked for it; may be empty.
/// @throws Problem (badInput) if there is none of that id.
const Skeleton& skeletonOf(const std::string& id, const std::string& where = {});

}  // namespace hscaffold::pose

namespace hscaffold {
/// Text that comes with the program, by file name; empty if there is none.
std::string_view poseData(std::string_view name);
}  // namespace hscaffold
