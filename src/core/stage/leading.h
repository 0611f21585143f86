/// Posing figures on a stage: what is led goes where it should in three dimensions, the rest of the body follows.
/// Damped least squares over joint angles (Wampler 1986; Buss 2004, "Introduction to inverse kinematics"), within
/// anatomical limits by projection, staying near the pose that is there.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/stage/scene.h"

namespace hscaffold::stage {

/// Key points of a figure or animal where they are on the stage; empty for a thing.
std::vector<Vec3> pointsOf(const Thing& thing);

/// A figure's skeleton on the stage: key points, where its joints are, and the axes of its turns.
struct Standing {
  std::vector<Vec3> points, joints, axes;
};
Standing standingOf(const Thing& figure);

/// Where a key point should be.
struct Lead {
  std::size_t point = 0;
  Vec3 to;
  float weight = 1;
};
/// Leads a figure. Points that its skeleton names as carrying take it along, while planted ones stay; any other moves
/// what it hangs on, the trunk a little. Pinned points stay where they are pinned.
/// @return how far from its place the worst lead came, metres
float lead(Thing& thing, std::span<const Lead> leads, std::span<const Lead> pins = {});

/// Key points of a figure in its own axes, from its pelvis; not where it stands.
std::vector<Vec3> restingPoints(const Thing& figure);
/// Angles that bring its key points to places in its own axes, from its pelvis, as near as they can.
std::vector<double> fittedAngles(const Thing& figure, std::span<const Lead> places);

/// What a pin of a figure holds on to, where that is now; empty if the thing is gone.
std::optional<Vec3> placeOfPin(const Scene& scene, const Pin& pin);
/// A pin that holds a point where it is now; on another thing if that is named, and then goes along with it.
Pin pinAt(const Scene& scene, const Thing& figure, std::size_t point, const std::string& on);
/// Pinned points and looks brought to where they belong after anything on the stage has changed.
void settle(Scene& scene);

/// Turns a head towards a place, the upper body a little with it, as far as both can.
void lookTo(Thing& thing, const Vec3& place);
/// Lets a thing down (or up) onto what is under it: the ground or other things.
/// @return metres that it moved
float letDown(Scene& scene, const std::string& id);

/// Left for right, as in a mirror: the pose, hands and what they hold; it then faces the other way round.
void mirror(Thing& thing);
/// All angles a share of the way towards standing at rest. @param share  [0, 1]
void relax(Thing& thing, double share);
/// A share of the way into another pose of its skeleton.
void blendInto(Thing& thing, const std::vector<double>& angles, double share);

/// Where figures sink into other things: "Walker sinks 4 cm into Bench". Lying or standing on counts from 2 cm on.
std::vector<std::string> whatSinksIn(const Scene& scene, const Set& set);

}  // namespace hscaffold::stage
