// Hands: palms that go on from the forearm's skin, five fingers of three joints, and what they do.
#include <array>

#include "core/stage/body.h"

namespace hscaffold::stage {
namespace {

constexpr std::array<const char*, 5> fingerIds = {"thumb", "index", "middle", "ring", "little"};

struct FingerBend {
  float root = 0, middle = 0, tip = 0;  ///< degrees, towards the palm; of a thumb the first is across it
  float aside = 0;                      ///< degrees, towards the thumb
};
struct GripEntry {
  const char* id;
  const char* name;
  std::array<FingerBend, 5> fingers;
};
constexpr FingerBend shut{80, 95, 60, 0}, level{0, 4, 2, 0};
constexpr std::array<GripEntry, grips> gripTable = {
    {{"relaxed", "Relaxed", {{{12, 8, 10, 0}, {16, 22, 12, 2}, {20, 26, 14, 0}, {23, 29, 15, -1}, {24, 30, 15, -3}}}},
     {"open", "Open", {{{0, 0, 0, 0}, {0, 4, 2, 5}, {0, 4, 2, 0}, {0, 4, 2, -5}, {0, 4, 2, -10}}}},
     {"spread", "Spread", {{{-18, -5, 0, 0}, {-6, 0, 0, 14}, {-6, 0, 0, 3}, {-6, 0, 0, -9}, {-6, 0, 0, -21}}}},
     {"flat", "Flat", {{{0, 2, 0, 0}, level, level, level, level}}},
     {"fist", "Fist", {{{58, 34, 46, 0}, shut, shut, shut, shut}}},
     {"pointing", "Pointing", {{{54, 34, 46, 0}, {2, 5, 3, 0}, shut, shut, shut}}},
     {"pinch", "Pinch", {{{52, 18, 18, 0}, {46, 42, 20, 0}, {28, 34, 18, 0}, {24, 30, 16, 0}, {22, 28, 15, -3}}}},
     {"rod", "Round a rod", {{{50, 22, 32, 0}, {56, 72, 42, 0}, {58, 74, 42, 0}, {60, 76, 42, 0}, {62, 78, 42, 0}}}},
     {"ball",
      "Round a ball",
      {{{42, 12, 22, 0}, {28, 38, 22, 9}, {30, 40, 22, 2}, {30, 40, 22, -6}, {30, 40, 22, -13}}}},
     {"hook", "Hook", {{{4, 6, 6, 0}, {10, 84, 52, 0}, {10, 84, 52, 0}, {10, 84, 52, 0}, {10, 84, 52, 0}}}},
     {"pen", "As with a pen", {{{50, 22, 22, 0}, {46, 44, 14, 0}, {52, 56, 24, 0}, {62, 64, 32, 0}, {64, 66, 34, 0}}}},
     {"cupped", "Cupped", {{{26, 14, 12, 0}, {22, 30, 20, 0}, {24, 32, 20, 0}, {26, 34, 20, 0}, {28, 36, 20, 0}}}},
     {"thumb-up", "Thumb up", {{{-32, -8, -6, 0}, shut, shut, shut, shut}}},
     {"two", "Two fingers", {{{58, 42, 44, 0}, {0, 3, 2, 8}, {0, 3, 2, -6}, shut, shut}}}}};

Vec3 fingerPoint(const Rig& rig, bool left, std::size_t finger, int joint) {
  const std::string id = std::string(left ? "left_" : "right_") + fingerIds[finger] + "_" + std::to_string(joint);
  return rig.point(id.c_str());
}

/// A finger: a tube over its joints, rounded at the tip; its root lies within the palm.
void addFinger(Flesh& flesh, const Rig& bind, bool left, const HandFrame& hand, std::size_t finger, std::size_t motions,
               Rgb skin) {
  std::array<Vec3, 4> p;
  for (int i = 0; i < 4; ++i) p[static_cast<std::size_t>(i)] = fingerPoint(bind, left, finger, i + 1);
  const bool thumb = finger == 0;
  const float s = bind.size * (0.85f + 0.15f * bind.build.girth);
  const float thick = (thumb ? 0.0098f : finger == 4 ? 0.0068f : 0.0080f) * s;
  struct Across {
    Vec3 at;
    float radius;
    Carried by;
  };
  const std::size_t root = motions + fingerMotion + 3 * finger;
  const auto within = [&](std::size_t i, float t) { return Vec3(p[i] + (p[i + 1] - p[i]) * t); };
  const std::array<Across, 7> rings = {
      {{thumb ? Vec3(within(0, -0.25f) - hand.thumb * (0.006f * s)) : within(0, -0.45f), (thumb ? 0.75f : 0.9f) * thick,
        Carried::between(motions + handMotion, root, thumb ? 0.4f : 0.25f)},
       {within(0, thumb ? 0.45f : 0.3f), (thumb ? 1.25f : 1.05f) * thick, Carried::wholly(root)},
       {p[1], 0.98f * thick, Carried::between(root, root + 1, 0.5f)},
       {within(1, 0.55f), 0.92f * thick, Carried::wholly(root + 1)},
       {p[2], 0.86f * thick, Carried::between(root + 1, root + 2, 0.5f)},
       {within(2, 0.75f), 0.80f * thick, Carried::wholly(root + 2)},
       {within(2, 1.15f), 0.42f * thick, Carried::wholly(root + 2)}}};
  constexpr int around = 7;
  std::vector<std::uint32_t> before;
  for (std::size_t r = 0; r < rings.size(); ++r) {
    const Vec3 along = (p[std::min<std::size_t>(3, r / 2 + 1)] - p[std::min<std::size_t>(2, r / 2)]).normalized();
    const Vec3 aside = (hand.thumb - along * along.dot(hand.thumb)).normalized(), out = along.cross(aside);
    std::vector<std::uint32_t> ring;
    for (int i = 0; i < around; ++i) {
      const float a = 2 * pi * static_cast<float>(i) / around;
      ring.push_back(flesh.put(rings[r].at + (aside * std::cos(a) + out * (0.95f * std::sin(a))) * rings[r].radius,
                               skin, rings[r].by));
    }
    if (before.empty())
      flesh.close(ring, rings[r].at, true);
    else
      flesh.bridge(before, ring, false);
    before = std::move(ring);
  }
  flesh.close(before, within(2, 1.24f), false);
}

}  // namespace

const char* idOf(Grip grip) { return gripTable[static_cast<std::size_t>(grip)].id; }
const char* nameOf(Grip grip) { return gripTable[static_cast<std::size_t>(grip)].name; }
std::optional<Grip> gripNamed(const std::string& id) {
  for (std::size_t i = 0; i < gripTable.size(); ++i)
    if (id == gripTable[i].id) return static_cast<Grip>(i);
  return {};
}

HandFrame handFrame(const Rig& rig, bool left) {
  HandFrame out;
  out.wrist = rig.point(left ? "left_wrist" : "right_wrist");
  out.along = (fingerPoint(rig, left, 2, 1) - out.wrist).normalized();
  const Vec3 wide = fingerPoint(rig, left, 1, 1) - fingerPoint(rig, left, 4, 1);
  out.thumb = (wide - out.along * out.along.dot(wide)).normalized();
  out.palm = left ? Vec3(out.along.cross(out.thumb)) : Vec3(out.thumb.cross(out.along));
  return out;
}

void addHand(Flesh& flesh, const Rig& bind, bool left, std::span<const std::uint32_t> wrist, std::size_t first,
             std::size_t arm, Rgb skin) {
  const HandFrame hand = handFrame(bind, left);
  const float s = bind.size * (0.85f + 0.15f * bind.build.girth),
              length = (fingerPoint(bind, left, 2, 1) - hand.wrist).norm();
  struct Across {
    float along, thick, wide;
    float hand;  ///< share that the hand carries, the rest the forearm
  };
  constexpr std::array<Across, 5> rings = {{{0.16f, 0.0125f, 0.0178f, 0.6f},
                                            {0.38f, 0.0130f, 0.0205f, 1},
                                            {0.70f, 0.0122f, 0.0232f, 1},
                                            {0.97f, 0.0100f, 0.0240f, 1},
                                            {1.10f, 0.0062f, 0.0215f, 1}}};
  // From the back of the hand over the thumb's side to the palm, as the arm's points go.
  std::vector<std::uint32_t> before(wrist.begin(), wrist.end());
  for (const Across& r : rings) {
    const Vec3 middle = hand.wrist + hand.along * (r.along * length);
    std::vector<std::uint32_t> ring;
    for (std::size_t i = 0; i < wrist.size(); ++i) {
      const float a = 2 * pi * static_cast<float>(i) / static_cast<float>(wrist.size());
      const Vec3 off = hand.palm * (-r.thick * s * std::cos(a)) + hand.thumb * (r.wide * s * std::sin(a));
      ring.push_back(flesh.put(middle + off, skin, Carried::between(arm, first + handMotion, r.hand)));
    }
    flesh.bridge(before, ring, !left);
    before = std::move(ring);
  }
  flesh.close(before, hand.wrist + hand.along * (1.12f * length), !left);
  for (std::size_t finger = 0; finger < fingerIds.size(); ++finger)
    addFinger(flesh, bind, left, hand, finger, first, skin);
}

void poseHand(const Rig& bind, bool left, const Hand& hand, const Eigen::Isometry3f& arm, Eigen::Isometry3f* to) {
  const HandFrame frame = handFrame(bind, left);
  const Vec3 curl = frame.along.cross(frame.palm);
  to[handMotion] = arm * turnedAbout(frame.wrist, curl, hand.bend);
  const auto& grip = gripTable[static_cast<std::size_t>(hand.grip)].fingers;
  for (std::size_t finger = 0; finger < fingerIds.size(); ++finger) {
    const FingerBend& bend = grip[finger];
    std::array<Vec3, 3> p;
    for (int i = 0; i < 3; ++i) p[static_cast<std::size_t>(i)] = fingerPoint(bind, left, finger, i + 1);
    Eigen::Isometry3f* of = to + fingerMotion + 3 * finger;
    if (finger == 0) {
      // A thumb goes across the palm about the hand's length, and bends towards where the palm then is.
      const Vec3 axis = (p[2] - p[1]).cross(frame.palm);
      of[0] = to[handMotion] * turnedAbout(p[0], frame.thumb.cross(frame.palm), bend.root);
      of[1] = of[0] * turnedAbout(p[1], axis, bend.middle);
      of[2] = of[1] * turnedAbout(p[2], axis, bend.tip);
    } else {
      of[0] = to[handMotion] * turnedAbout(p[0], curl, bend.root) *
              turnedAbout(p[0], frame.along.cross(frame.thumb), bend.aside);
      of[1] = of[0] * turnedAbout(p[1], curl, bend.middle);
      of[2] = of[1] * turnedAbout(p[2], curl, bend.tip);
    }
  }
}

void carryHandPoints(const Rig& bind, bool left, const Eigen::Isometry3f* motions, std::vector<Vec3>& at) {
  const auto point = [&](const std::string& id) { return *bind.skeleton->find((left ? "left_" : "right_") + id); };
  const auto brought = [&](std::size_t p, std::size_t motion) {
    at[p] = motions[motion] * Vec3(bind.posed.points[p].cast<float>());
  };
  brought(point("palm"), handMotion);
  for (std::size_t finger = 0; finger < fingerIds.size(); ++finger)
    for (std::size_t joint = 0; joint < 4; ++joint)
      brought(point(std::string(fingerIds[finger]) + "_" + std::to_string(joint + 1)),
              joint == 0 ? handMotion : fingerMotion + 3 * finger + joint - 1);
}

}  // namespace hscaffold::stage
