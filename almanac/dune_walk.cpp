// The kite flyer's dune with a far walker and a dune fox, both built on poses of the library, and everybody's key
// points exactly where the camera sees them.
#include <algorithm>
#include <cmath>

#include "core/pose/library.h"
#include "core/pose/posed_body.h"
#include "scenes.h"

namespace almanac {
namespace {

using namespace hscaffold;

/// A body of the pose library, standing in the scene.
struct Stander {
  pose::Figure figure;       ///< without places in the picture yet
  std::vector<Vec> points;   ///< in the scene
  std::vector<float> radii;  ///< two for each solid
  Vec middle;
  float reach = 0;
};

Stander standerAs(const char* name, const char* skeletonId, const char* called, double turn, double size, float x,
                  float z) {
  const Vec at{x, duneGround(x, z), z};
  const pose::Skeleton& skeleton = pose::skeletonOf(skeletonId);
  Stander out;
  for (const pose::NamedPose& named : pose::housePoses()) {
    if (named.name != name || named.skeleton != skeletonId) continue;
    const auto seen = pose::seenFrom(skeleton, named.pose, turn);
    pose::BodyPlace place;
    place.size = size;
    const auto body = pose::posed(skeleton, seen.angles, place);
    double lowest = 1e9;
    for (const auto& p : body.points) lowest = std::min(lowest, p.y());
    for (const auto& p : body.points)
      out.points.push_back(at + Vec{static_cast<float>(p.x()), static_cast<float>(p.y() - lowest + 0.03 * size),
                                    static_cast<float>(-p.z())});
    out.figure = pose::figureFrom(skeleton, seen, place);
  }
  out.figure.name = called;
  out.middle = at + Vec{0, static_cast<float>(0.5 * size), 0};
  out.reach = static_cast<float>(0.9 * size);
  return out;
}

Stander walker() { return standerAs("Walking", "human", "Far walker", -70, 1.7, -3.2f, 11.5f); }
Stander fox() { return standerAs("Trotting", "four-legged", "Dune fox", -80, 0.95, 2.0f, 2.9f); }

Surface surfaceOf(const Stander& who, Vec p, int first) {
  const float away = length(p - who.middle) - who.reach;
  if (away > 0.3f) return {away, first};
  const auto& skeleton = who.figure.kind();
  const float size = who.reach / 0.9f;
  const auto mean = [&](const std::vector<std::size_t>& points) {
    Vec sum;
    for (const std::size_t i : points) sum = sum + who.points[i];
    return sum * (1 / static_cast<float>(points.size()));
  };
  Surface out;
  for (const pose::Solid& solid : skeleton.solids) {
    const Vec a = mean(solid.from), b = mean(solid.to);
    const float ra = static_cast<float>(solid.radiusFrom) * size, rb = static_cast<float>(solid.radiusTo) * size;
    const float d = length(b - a) < 1e-4f ? sphere(p, a, std::max(ra, rb)) : limb(p, a, b, ra, rb);
    const bool dark = solid.of == pose::Solid::Of::leg || solid.of == pose::Solid::Of::hand;
    out = nearer(out, {d * 0.9f, dark ? first + 1 : solid.of == pose::Solid::Of::head ? first + 2 : first});
  }
  return out;
}

/// Where the camera sees a place of the scene.
Point seenAt(const Camera& camera, Vec p, Size size) {
  const Vec forward = unit(camera.target - camera.eye), right = unit(cross({0, 1, 0}, forward)),
            up = cross(forward, right);
  const Vec off = p - camera.eye;
  const float depth = dot(off, forward);
  return {size.width / 2.0 + static_cast<double>(dot(off, right) / depth * camera.lens) * size.height / 2.0,
          size.height / 2.0 - static_cast<double>(dot(off, up) / depth * camera.lens) * size.height / 2.0};
}

/// The kite flyer's own points, as its surface has them: feet at the origin, facing right, its left side away from us.
std::vector<std::pair<const char*, Vec>> flyerPoints() {
  return {{"nose", {0.03f, 1.70f, 0}},
          {"left_eye", {0.0f, 1.74f, 0.04f}},
          {"right_eye", {0.0f, 1.74f, -0.04f}},
          {"right_ear", {-0.09f, 1.72f, -0.09f}},
          {"neck", {-0.06f, 1.46f, 0}},
          {"left_shoulder", {-0.04f, 1.39f, 0.17f}},
          {"right_shoulder", {-0.04f, 1.39f, -0.17f}},
          {"left_elbow", {0.22f, 1.40f, 0.26f}},
          {"right_elbow", {0.20f, 1.52f, -0.20f}},
          {"left_wrist", {0.43f, 1.55f, 0.15f}},
          {"right_wrist", {0.42f, 1.66f, -0.06f}},
          {"left_hip", {0.24f, 0.92f, 0.09f}},
          {"right_hip", {0.24f, 0.92f, -0.09f}},
          {"left_knee", {0.40f, 0.50f, 0.16f}},
          {"right_knee", {0.02f, 0.56f, -0.13f}},
          {"left_ankle", {0.66f, 0.10f, 0.18f}},
          {"right_ankle", {0.14f, 0.10f, -0.14f}}};
}

}  // namespace

Scene duneWalk() {
  Scene scene = kiteFlyer();
  const auto ground = scene.surface;
  const auto colours = scene.colour;
  scene.surface = [ground, far = walker(), near = fox()](Vec p) {
    return nearer(ground(p), nearer(surfaceOf(far, p, 40), surfaceOf(near, p, 50)));
  };
  scene.colour = [colours](int material, Vec p, Vec n, float& shine) -> Rgb {
    switch (material) {
      case 40:
        return {0.30f, 0.07f, 0.05f};
      case 41:
        return {0.10f, 0.09f, 0.10f};
      case 42:
        return {0.46f, 0.28f, 0.19f};
      case 50:
        return {0.62f, 0.29f, 0.09f};
      case 51:
        return {0.16f, 0.09f, 0.06f};
      case 52:
        return {0.66f, 0.36f, 0.14f};
      default:
        return colours(material, p, n, shine);
    }
  };
  return scene;
}

pose::Figures duneWalkFigures(Size size) {
  const Scene scene = kiteFlyer();
  pose::Figures out;
  out.frame = size;
  const auto put = [&](pose::Figure figure) {
    figure.body.reset();
    figure.natural = pose::naturalFor(figure);
    out.figures.push_back(std::make_shared<const pose::Figure>(std::move(figure)));
  };
  for (const Stander& who : {walker(), fox()}) {
    pose::Figure figure = who.figure;
    for (std::size_t i = 0; i < figure.points.size(); ++i)
      if (figure.points[i].there()) figure.points[i].at = seenAt(scene.camera, who.points[i], size);
    put(std::move(figure));
  }
  pose::Figure flyer;
  flyer.name = "Kite flyer";
  flyer.points.resize(flyer.kind().points.size());
  for (const auto& [name, p] : flyerPoints()) {
    const bool behind =
        std::string(name) == "left_shoulder" || std::string(name) == "left_hip" || std::string(name) == "left_eye";
    flyer.points[*flyer.kind().find(name)] = {seenAt(scene.camera, flyerPlace(p), size),
                                              behind ? pose::Presence::hidden : pose::Presence::seen, 1, false};
  }
  put(std::move(flyer));
  return out;
}

}  // namespace almanac
