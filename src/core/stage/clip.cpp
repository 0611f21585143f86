#include "core/stage/clip.h"

#include <array>
#include <cmath>

#include "core/stage/leading.h"

namespace hscaffold::stage {
namespace {

/// Places of a frame's key points in space, in the clip's own measure: two looks at right angles tell all three axes.
std::vector<Vec3> placesIn(const pose::BvhClip& clip, std::size_t frame, const pose::BvhMapping& mapping) {
  const auto front = pose::figureOf(clip, frame, mapping, {0, 0}), side = pose::figureOf(clip, frame, mapping, {90, 0});
  std::vector<Vec3> out;
  for (std::size_t i = 0; i < front.points.size(); ++i)
    out.emplace_back(static_cast<float>(front.points[i].at.x), static_cast<float>(-front.points[i].at.y),
                     static_cast<float>(-side.points[i].at.x));
  return out;
}

}  // namespace

std::vector<double> anglesOf(const pose::BvhClip& clip, std::size_t frame, const pose::BvhMapping& mapping,
                             const Person& figure) {
  const auto& skeleton = pose::skeletonOf("human");
  const auto at = placesIn(clip, frame, mapping);
  const auto point = [&](const char* id) { return *skeleton.find(id); };
  Thing thing{"", "", {}, false, figure};
  std::vector<double> start(skeleton.turns.size(), 0);
  const Vec3 hips = at[point("left_hip")] - at[point("right_hip")],
             trunk = at[point("neck")] - (at[point("left_hip")] + at[point("right_hip")]) / 2;
  constexpr double degrees = 180 / std::numbers::pi;
  const auto yaw = static_cast<double>(std::atan2(-hips.z(), hips.x()));
  start[*skeleton.findTurn("pelvis.turn")] = yaw * degrees;
  // How the trunk leans, as seen by the turned body.
  const auto c = static_cast<float>(std::cos(yaw)), s = static_cast<float>(std::sin(yaw));
  const Vec3 own(c * trunk.x() - s * trunk.z(), trunk.y(), s * trunk.x() + c * trunk.z());
  start[*skeleton.findTurn("pelvis.lean")] = static_cast<double>(std::atan2(own.z(), own.y())) * degrees;
  setAngles(thing, start);
  // From the hips outwards, each bone as long as the figure's own.
  const auto rest = restingPoints(thing);
  std::vector<Vec3> to(skeleton.points.size(), Vec3::Zero());
  const Vec3 middle = (rest[point("left_hip")] + rest[point("right_hip")]) / 2;
  const auto put = [&](const char* from, const char* id) {
    const std::size_t a = point(from), b = point(id);
    const Vec3 way = at[b] - at[a];
    const float length = (rest[b] - rest[a]).norm();
    to[b] = to[a] + (way.norm() > 1e-6f ? Vec3(way.normalized() * length) : Vec3(rest[b] - rest[a]));
  };
  const float half = (rest[point("left_hip")] - rest[point("right_hip")]).norm() / 2;
  to[point("left_hip")] = middle + hips.normalized() * half;
  to[point("right_hip")] = middle - hips.normalized() * half;
  to[point("neck")] = middle + trunk.normalized() * (rest[point("neck")] - middle).norm();
  put("neck", "left_shoulder");
  put("neck", "right_shoulder");
  put("neck", "nose");
  put("neck", "left_ear");
  put("neck", "right_ear");
  std::vector<Lead> leads;
  const auto lead = [&](const char* id, float weight) { leads.push_back({point(id), to[point(id)], weight}); };
  for (const char* id : {"left_hip", "right_hip", "neck", "left_shoulder", "right_shoulder"}) lead(id, 1);
  for (const char* id : {"nose", "left_ear", "right_ear"}) lead(id, 0.5f);
  for (const auto& [a, b, c2] :
       {std::array{"left_shoulder", "left_elbow", "left_wrist"},
        std::array{"right_shoulder", "right_elbow", "right_wrist"}, std::array{"left_hip", "left_knee", "left_ankle"},
        std::array{"right_hip", "right_knee", "right_ankle"}}) {
    put(a, b);
    put(b, c2);
    lead(b, 1);
    lead(c2, 1);
  }
  return fittedAngles(thing, leads);
}

}  // namespace hscaffold::stage
