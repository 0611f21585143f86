#include "core/stage/animal.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <limits>

#include "core/pose/posed_body.h"

namespace hscaffold::stage {
namespace {

/// What makes a kind, against the skeleton's own proportions.
struct Proportions {
  float legs, neck, muzzle, tail;           ///< lengths
  float girth, thighs, legThickness, head;  ///< breadths
  float earLength, tailThickness;
  bool hoofs, horns, mane;
};
constexpr Proportions proportionsOf(Animal kind) {
  switch (kind) {
    case Animal::dog:
      return {1.0f, 1.0f, 1.0f, 0.9f, 1.0f, 1.0f, 1.0f, 1.0f, 1.0f, 0.8f, false, false, false};
    case Animal::fox:
      return {0.85f, 0.9f, 1.05f, 1.5f, 0.85f, 0.8f, 0.75f, 0.9f, 1.3f, 2.6f, false, false, false};
    case Animal::horse:
      return {1.35f, 1.35f, 1.35f, 1.1f, 1.15f, 1.15f, 0.85f, 1.0f, 0.8f, 1.4f, true, false, true};
    case Animal::cow:
      return {0.95f, 0.85f, 1.15f, 1.0f, 1.45f, 1.1f, 0.95f, 1.15f, 0.9f, 0.5f, true, true, false};
    default:
      return {0.75f, 0.7f, 0.6f, 1.4f, 0.85f, 0.8f, 0.75f, 0.95f, 0.8f, 0.8f, false, false, false};
  }
}

Proportions proportionsOf(const AnimalSpec& spec) {
  Proportions out = proportionsOf(spec.kind);
  const AnimalBuild& build = spec.build;
  out.legs *= build.legs, out.neck *= build.neck, out.muzzle *= build.muzzle, out.tail *= build.tail;
  out.girth *= build.girth, out.legThickness *= build.limbs, out.head *= build.head;
  out.earLength *= build.ears, out.tailThickness *= build.brush;
  return out;
}

struct Places {
  const pose::Skeleton& skeleton;
  const pose::PosedBody& posed;
  [[nodiscard]] Vec3 operator()(const char* id) const { return posed.points[*skeleton.find(id)].cast<float>(); }
};

/// A round tube along some places, its breadth lying as `side` does.
void addTubeAlong(Mesh& mesh, std::span<const Vec3> at, std::span<const float> wide, std::span<const float> high,
                  const Vec3& side, std::span<const Rgb> colours, int around) {
  std::vector<Ring> rings;
  for (std::size_t i = 0; i < at.size(); ++i) {
    const Vec3 along = (at[std::min(i + 1, at.size() - 1)] - at[i > 0 ? i - 1 : 0]).normalized();
    Vec3 across = side - along * side.dot(along);
    across = across.norm() > 0.05f ? Vec3(across.normalized()) : Vec3(along.unitOrthogonal());
    rings.push_back({at[i], across * wide[i], along.cross(across) * high[i], colours[i]});
  }
  addTube(mesh, rings, around);
}

}  // namespace

pose::BodyPlace placeFor(const AnimalSpec& spec) {
  const Proportions shape = proportionsOf(spec);
  pose::BodyPlace place;
  place.size = static_cast<double>(spec.size);
  const auto& skeleton = pose::skeletonOf("four-legged");
  for (const auto& bone : skeleton.bones) {
    const std::string& to = skeleton.points[bone.to].id;
    const auto is = [&](const char* part) { return to.find(part) != std::string::npos; };
    float scale = 1;
    if (is("elbow") || is("wrist") || is("paw") || is("stifle") || is("hock")) scale = shape.legs;
    if (is("poll")) scale = shape.neck;
    if (is("nose")) scale = shape.muzzle;
    if (is("tail_middle") || is("tail_tip")) scale = shape.tail;
    place.natural.push_back(bone.length * static_cast<double>(scale * spec.size));
  }
  return place;
}

AnimalBody animalOf(const AnimalSpec& spec) {
  const auto& skeleton = pose::skeletonOf("four-legged");
  const Proportions shape = proportionsOf(spec);
  const pose::BodyPlace place = placeFor(spec);
  const auto posed = pose::posed(skeleton, spec.angles, place);
  const Places at{skeleton, posed};
  AnimalBody out;
  Mesh& mesh = out.mesh;
  const float s = spec.size;
  const Rgb coat = spec.coat, patch = spec.patch, dark{0.02f, 0.015f, 0.01f};
  const Vec3 side = (at("left_hip") - at("right_hip")).normalized(),
             sideFront = (at("left_shoulder") - at("right_shoulder")).normalized();
  const Vec3 croup = at("croup"), back = at("back"), withers = at("withers"), poll = at("poll"), nose = at("nose");
  const Vec3 trunkSide = (side + sideFront).normalized();
  const Vec3 down = (back - croup).cross(trunkSide).normalized() * -1.0f;
  const Vec3 under = (down.dot(at("left_front_elbow") - withers) > 0 ? down : Vec3(-down));
  constexpr std::array ears = {"left_ear", "right_ear"};
  // Where it hangs, an ear lies along the side of the head.
  const auto earTip = [&](const char* ear) {
    const Vec3 upright = (at(ear) - poll) * 0.55f, aside = at(ear) - (at(ears[0]) + at(ears[1])) / 2;
    const Vec3 hanging = (under + aside.normalized() * 0.6f).normalized() * upright.norm();
    const Vec3 way = (upright * (1 - spec.build.droop) + hanging * spec.build.droop).normalized() * upright.norm();
    return Vec3(poll + (at(ear) - poll) * 0.45f + way * shape.earLength);
  };
  // The back runs above the middle of the trunk.
  {
    const float g = shape.girth * s;
    const Vec3 rear = croup + (croup - back).normalized() * (0.075f * s);
    const std::array places = {Vec3(rear + under * (0.05f * s)),
                               Vec3(croup + under * (0.07f * g)),
                               Vec3((croup + back) / 2 + under * (0.085f * g)),
                               Vec3(back + under * (0.10f * g)),
                               Vec3(withers + under * (0.11f * g)),
                               Vec3(withers + (withers - back).normalized() * (0.08f * s) + under * (0.08f * g))};
    const std::array wide = {0.030f * g, 0.080f * g * shape.thighs, 0.078f * g, 0.085f * g, 0.080f * g, 0.035f * g};
    const std::array high = {0.035f * g, 0.085f * g, 0.080f * g, 0.098f * g, 0.105f * g, 0.055f * g};
    const std::array colours = {coat, coat, spec.kind == Animal::cow ? patch : coat,
                                coat, coat, spec.kind == Animal::fox ? patch : coat};
    addTubeAlong(mesh, places, wide, high, trunkSide, colours, spec.around + 2);
  }
  {
    const float h = shape.head * s;
    const std::array places = {Vec3(withers + under * (0.06f * s)), Vec3((withers + poll) / 2 + under * (0.03f * s)),
                               poll};
    const std::array wide = {0.062f * h, 0.045f * h, 0.040f * h};
    const std::array high = {0.080f * h, 0.060f * h, 0.048f * h};
    const std::array colours = {coat, coat, coat};
    addTubeAlong(mesh, places, wide, high, sideFront, colours, spec.around);
    const Vec3 face = (nose - poll), ahead = face.normalized();
    const Vec3 eyes = (at("left_eye") - at("right_eye")).normalized();
    const std::array head = {Vec3(poll - ahead * (0.045f * h)), poll,
                             Vec3(poll + face * 0.38f),         Vec3(poll + face * 0.55f),
                             Vec3(poll + face * 0.9f),          nose};
    const std::array headWide = {0.022f * h, 0.055f * h, 0.055f * h, 0.034f * h, 0.026f * h, 0.014f * h};
    const std::array headHigh = {0.022f * h, 0.056f * h, 0.056f * h, 0.036f * h, 0.028f * h, 0.016f * h};
    const std::array headColours = {
        coat, coat, coat, spec.kind == Animal::dog || spec.kind == Animal::cow ? patch : coat, coat, dark};
    addTubeAlong(mesh, head, headWide, headHigh, eyes, headColours, spec.around);
    for (const char* eye : {"left_eye", "right_eye"}) {
      const float r = 0.012f * h * spec.build.eyes;
      addEllipsoid(mesh, at(eye) + (at(eye) - (at("left_eye") + at("right_eye")) / 2).normalized() * (0.014f * h),
                   {r, 0, 0}, {0, r, 0}, {0, 0, r}, dark, 6);
    }
    for (const char* ear : ears) {
      const Vec3 root = poll + (at(ear) - poll) * 0.45f, tip = earTip(ear);
      const std::array earAt = {root, Vec3((root + tip) / 2), tip};
      const std::array earWide = {0.022f * h, 0.024f * h, 0.004f * h};
      const std::array earHigh = {0.010f * h, 0.008f * h, 0.003f * h};
      const std::array earColours = {coat, coat, spec.kind == Animal::fox ? dark : coat};
      addTubeAlong(mesh, earAt, earWide, earHigh, eyes, earColours, 6);
      if (!shape.horns) continue;
      const Vec3 horn = root + (at(ear) - poll) * 0.9f + Vec3(0, 0.05f * h, 0);
      const std::array hornAt = {root, horn};
      const std::array thick = {0.012f * h, 0.003f * h};
      addTubeAlong(mesh, hornAt, thick, thick, eyes, std::array{patch, patch}, 6);
    }
    if (shape.mane) {
      const Vec3 up = under * -1.0f;
      const std::array maneAt = {Vec3(withers + up * (0.02f * s)), Vec3((withers + poll) / 2 + up * (0.045f * s)),
                                 Vec3(poll + up * (0.06f * s))};
      const std::array thin = {0.010f * s, 0.014f * s, 0.010f * s}, tall = {0.03f * s, 0.045f * s, 0.03f * s};
      addTubeAlong(mesh, maneAt, thin, tall, sideFront, std::array{dark, dark, dark}, 6);
    }
  }
  {
    const float t = shape.tailThickness * s;
    const std::array places = {at("tail_root"), at("tail_middle"), at("tail_tip")};
    const std::array thick = {0.018f * s, 0.020f * t, 0.006f * t + 0.004f * s};
    addTubeAlong(mesh, places, thick, thick, side, std::array{coat, coat, spec.kind == Animal::fox ? patch : coat}, 7);
  }
  for (const bool left : {true, false}) {
    const auto name = [&](const char* rest) { return std::string(left ? "left_" : "right_") + rest; };
    const auto p = [&](const char* rest) { return at(name(rest).c_str()); };
    const float l = shape.legThickness * s;
    const Rgb foot = shape.hoofs || spec.kind == Animal::fox ? dark : patch;
    const std::array front = {Vec3(p("shoulder") - under * (0.02f * s)),
                              Vec3((p("shoulder") + p("front_elbow")) / 2),
                              p("front_elbow"),
                              p("front_wrist"),
                              p("front_paw"),
                              Vec3(p("front_paw") + Vec3(0, -0.014f * s, 0))};
    const std::array frontWide = {0.050f * l, 0.046f * l, 0.036f * l, 0.022f * l, 0.022f * l, 0.026f * l};
    addTubeAlong(mesh, front, frontWide, frontWide, sideFront, std::array{coat, coat, coat, coat, foot, foot},
                 spec.around);
    const std::array hind = {Vec3(p("hip") - under * (0.02f * s)),
                             Vec3((p("hip") + p("stifle")) / 2),
                             p("stifle"),
                             p("hock"),
                             p("hind_paw"),
                             Vec3(p("hind_paw") + Vec3(0, -0.014f * s, 0))};
    const std::array hindWide = {
        0.060f * l * shape.thighs, 0.062f * l * shape.thighs, 0.046f * l, 0.023f * l, 0.022f * l, 0.026f * l};
    addTubeAlong(mesh, hind, hindWide, hindWide, side, std::array{coat, coat, coat, coat, foot, foot}, spec.around);
  }
  float lowest = std::numeric_limits<float>::max();
  for (const Vec3& v : mesh.at) lowest = std::min(lowest, v.y());
  const Vec3 shift = spec.at - Vec3(0, lowest, 0);
  for (Vec3& v : mesh.at) v += shift;
  for (const auto& each : posed.points) out.points.push_back(each.cast<float>() + shift);
  for (const char* ear : ears) out.points[*skeleton.find(ear)] = earTip(ear) + shift;
  out.radius.assign(out.points.size(), 0.05f * s);
  for (const char* deep : {"withers", "back", "croup", "left_shoulder", "right_shoulder", "left_hip", "right_hip"})
    out.radius[*skeleton.find(deep)] = 0.13f * s * shape.girth;
  computeNormals(mesh);
  return out;
}

}  // namespace hscaffold::stage
