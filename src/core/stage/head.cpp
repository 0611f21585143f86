// Heads: skull with its features, eyes, ears, hair and what is worn on it.
#include <Eigen/Geometry>
#include <array>
#include <cmath>

#include "core/stage/body.h"

namespace hscaffold::stage {
namespace {

struct SkullRing {
  float height, across, deep, forward;
};
constexpr std::array<SkullRing, 10> skull = {{{0.852f, 0.008f, 0.008f, 0.034f},
                                              {0.858f, 0.020f, 0.022f, 0.028f},
                                              {0.872f, 0.032f, 0.038f, 0.016f},
                                              {0.892f, 0.040f, 0.050f, 0.008f},
                                              {0.914f, 0.0445f, 0.056f, 0.003f},
                                              {0.936f, 0.046f, 0.059f, 0.000f},
                                              {0.958f, 0.045f, 0.058f, -0.002f},
                                              {0.977f, 0.037f, 0.048f, -0.004f},
                                              {0.990f, 0.022f, 0.029f, -0.005f},
                                              {0.996f, 0.006f, 0.008f, -0.005f}}};

/// Places on the head at rest, carried and scaled.
struct OnHead {
  const Rig& rig;
  [[nodiscard]] Vec3 at(float x, float y, float z) const {
    const float neck = 0.83f;
    return rig.by(rig.head, Vec3(0, neck, 0) + (Vec3(x, y, z) - Vec3(0, neck, 0)) * rig.build.head);
  }
  [[nodiscard]] Vec3 axis(float x, float y, float z) const {
    return rig.turned(rig.head, {x, y, z}) * (rig.size * rig.build.head);
  }
  [[nodiscard]] Ring ring(const SkullRing& r, float more, Rgb colour) const {
    return {at(0, r.height, r.forward), axis(r.across + more, 0, 0), axis(0, 0, r.deep + more), colour};
  }
  void ball(Mesh& mesh, Vec3 place, Vec3 half, Rgb colour, int around = 6) const {
    addEllipsoid(mesh, at(place.x(), place.y(), place.z()), axis(half.x(), 0, 0), axis(0, half.y(), 0),
                 axis(0, 0, half.z()), colour, around);
  }
};

float hill(float v, float middle, float wide) { return std::exp(-(v - middle) * (v - middle) / (wide * wide)); }

/// What stands out of the skull or lies in it, before it: brow, sockets, nose, cheeks, lips, chin. @param turn  radians
/// from straight ahead, to either side
float featuresOf(float height, float turn) {
  const float aside = std::fabs(turn);
  const float ridge = std::clamp((0.943f - height) / 0.034f, 0.0f, 1.0f);  // of the nose, from its root to its tip
  const float nose = height > 0.906f
                         ? 0.0125f * std::pow(ridge, 1.3f) * hill(aside, 0, 0.085f + 0.06f * ridge) +
                               0.004f * hill(height, 0.9125f, 0.006f) * hill(aside, 0.17f, 0.09f)
                         : 0.0125f * std::max(0.0f, 1 - (0.906f - height) / 0.0055f) * hill(aside, 0, 0.13f);
  return nose + 0.0045f * hill(height, 0.953f, 0.006f) * hill(aside, 0.32f, 0.30f)  // brow
         - 0.0095f * hill(height, 0.9405f, 0.0080f) * hill(aside, 0.37f, 0.17f)     // socket
         + 0.0045f * hill(height, 0.921f, 0.011f) * hill(aside, 0.72f, 0.25f)       // cheekbone
         - 0.0030f * hill(height, 0.897f, 0.010f) * hill(aside, 0.75f, 0.22f)       // hollow below it
         + 0.0024f * hill(height, 0.8925f, 0.0036f) * hill(aside, 0, 0.27f)         // upper lip
         + 0.0028f * hill(height, 0.8850f, 0.0038f) * hill(aside, 0, 0.25f)         // lower lip
         - 0.0018f * hill(height, 0.8888f, 0.0016f) * hill(aside, 0, 0.33f)         // between them
         - 0.0025f * hill(height, 0.8765f, 0.0040f) * hill(aside, 0, 0.22f)         // below
         + 0.0060f * hill(height, 0.8640f, 0.0085f) * hill(aside, 0, 0.24f);        // chin
}

/// The oval of the skull at a height, between the rows of the table.
SkullRing skullAt(float height) {
  for (std::size_t i = 1; i < skull.size(); ++i) {
    const SkullRing &a = skull[i - 1], &b = skull[i];
    if (height > b.height && i + 1 < skull.size()) continue;
    const float t = std::clamp((height - a.height) / (b.height - a.height), 0.0f, 1.0f);
    const auto mix = [t](float x, float y) { return x + t * (y - x); };
    return {height, mix(a.across, b.across), mix(a.deep, b.deep), mix(a.forward, b.forward)};
  }
  return skull.back();
}

/// The head itself: rows from the chin to the crown, with more points where the face is.
void addSkull(Mesh& mesh, const OnHead& head, const Clothes& wear) {
  constexpr std::array<float, 24> heights = {0.8525f, 0.8555f, 0.8600f, 0.8650f, 0.8705f, 0.8765f, 0.8815f, 0.8850f,
                                             0.8888f, 0.8925f, 0.8980f, 0.9035f, 0.9085f, 0.9130f, 0.9190f, 0.9260f,
                                             0.9335f, 0.9405f, 0.9470f, 0.9540f, 0.9650f, 0.9780f, 0.9880f, 0.9940f};
  constexpr std::array<float, 14> turns = {0.0f,  0.10f, 0.20f, 0.31f, 0.43f, 0.58f, 0.76f,
                                           1.00f, 1.30f, 1.65f, 2.02f, 2.40f, 2.78f, pi};
  constexpr int around = 26;
  const auto turnOf = [&](int i) {
    return i < 14 ? turns[static_cast<std::size_t>(i)] : -turns[static_cast<std::size_t>(around - i)];
  };
  const Rgb lips{wear.skin.r * 0.84f, wear.skin.g * 0.58f, wear.skin.b * 0.58f};
  const auto base = static_cast<std::uint32_t>(mesh.at.size());
  for (const float height : heights) {
    const SkullRing r = skullAt(height);
    for (int i = 0; i < around; ++i) {
      const float turn = turnOf(i), c = std::cos(turn), s = std::sin(turn);
      const float out = featuresOf(height, turn);
      // A jaw is squarer than an oval.
      const float jaw = 1 + 0.07f * hill(height, 0.883f, 0.014f) * hill(std::fabs(turn), 1.15f, 0.35f);
      const Vec3 rest((r.across * s) * jaw + out * s, height, r.forward + (r.deep * c) * jaw + out * c);
      mesh.at.push_back(head.at(rest.x(), rest.y(), rest.z()));
      const bool mouth = height > 0.8825f && height < 0.8945f && std::fabs(turn) < 0.35f;
      mesh.colour.push_back(mouth ? lips : wear.skin);
    }
  }
  const auto at = [&](std::size_t row, int i) {
    return base + static_cast<std::uint32_t>(row) * around + static_cast<std::uint32_t>(i % around);
  };
  for (std::size_t row = 0; row + 1 < heights.size(); ++row)
    for (int i = 0; i < around; ++i) {
      mesh.faces.push_back({at(row, i), at(row, i + 1), at(row + 1, i + 1)});
      mesh.faces.push_back({at(row, i), at(row + 1, i + 1), at(row + 1, i)});
    }
  // The line of the mouth, the wings and the tip of the nose.
  const auto drawn = [&](std::size_t row, int from, int to) {
    for (int i = from; i < to; ++i) mesh.drawn.push_back({at(row, i + around), at(row, i + 1 + around)});
  };
  constexpr std::size_t mouthRow = 8, noseRow = 12;
  drawn(mouthRow, -3, 3);
  drawn(noseRow, -2, 2);
  const auto cap = [&](std::size_t row, float height, bool top) {
    const SkullRing r = skullAt(height);
    mesh.at.push_back(head.at(0, height, r.forward));
    mesh.colour.push_back(wear.skin);
    const auto middle = static_cast<std::uint32_t>(mesh.at.size() - 1);
    for (int i = 0; i < around; ++i)
      mesh.faces.push_back(top ? std::array{at(row, i), at(row, i + 1), middle}
                               : std::array{at(row, i + 1), at(row, i), middle});
  };
  cap(0, 0.851f, false);
  cap(heights.size() - 1, 0.9965f, true);
}

void addFace(Mesh& mesh, const OnHead& head, const Clothes& wear) {
  const Rgb skin = wear.skin, dark{0.02f, 0.015f, 0.01f}, white{0.75f, 0.73f, 0.7f};
  for (const float side : {-1.0f, 1.0f}) {
    head.ball(mesh, {0.0185f * side, 0.9405f, 0.0425f}, {0.0095f, 0.0066f, 0.0090f}, white, 8);
    head.ball(mesh, {0.0185f * side, 0.9405f, 0.0487f}, {0.0044f, 0.0048f, 0.0036f}, dark, 8);
    // Lids.
    head.ball(mesh, {0.0185f * side, 0.9462f, 0.0440f}, {0.0112f, 0.0026f, 0.0086f}, skin, 7);
    head.ball(mesh, {0.0185f * side, 0.9345f, 0.0435f}, {0.0105f, 0.0020f, 0.0080f}, skin, 7);
    head.ball(mesh, {0.0195f * side, 0.9540f, 0.0480f}, {0.0125f, 0.0021f, 0.0065f}, wear.hair, 6);
    head.ball(mesh, {0.0450f * side, 0.931f, -0.006f}, {0.0045f, 0.0165f, 0.0105f}, skin, 8);
    head.ball(mesh, {0.0480f * side, 0.933f, -0.009f}, {0.0040f, 0.0140f, 0.0070f}, skin, 6);
  }
  if (wear.beard) {
    head.ball(mesh, {0, 0.868f, 0.040f}, {0.030f, 0.022f, 0.024f}, wear.hair, 8);
    head.ball(mesh, {0, 0.8985f, 0.057f}, {0.020f, 0.004f, 0.006f}, wear.hair, 6);
  }
}

/// How far down hair (or a cap) covers the head, by direction.
struct Hairline {
  float brow, temple, ear, nape;  ///< heights straight ahead, at 0.9, 1.45 and pi radians
};
constexpr Hairline shortHair{0.966f, 0.958f, 0.925f, 0.892f}, tiedHair{0.968f, 0.962f, 0.945f, 0.886f},
    longHair{0.968f, 0.958f, 0.885f, 0.868f}, roundHair{0.962f, 0.945f, 0.862f, 0.858f};

/// A cap over the head down to its line, thin there and `more` thick above.
void addCap(Mesh& mesh, const OnHead& head, const Hairline& line, float more, Rgb colour) {
  constexpr int around = 24, rows = 8;
  const auto lowest = [&](float aside) {
    const auto between = [&](float from, float to, float a, float b) {
      const float t = std::clamp((aside - from) / (to - from), 0.0f, 1.0f);
      return a + (b - a) * t * t * (3 - 2 * t);
    };
    return aside < 0.9f    ? between(0.25f, 0.9f, line.brow, line.temple)
           : aside < 1.45f ? between(0.9f, 1.25f, line.temple, line.ear)
                           : between(1.6f, 2.5f, line.ear, line.nape);
  };
  const auto base = static_cast<std::uint32_t>(mesh.at.size());
  for (int row = 0; row <= rows; ++row)
    for (int i = 0; i < around; ++i) {
      const float turn = 2 * pi * static_cast<float>(i) / around, c = std::cos(turn), s = std::sin(turn);
      const float from = lowest(std::fabs(std::remainder(turn, 2 * pi)));
      const float t = static_cast<float>(row) / rows, height = from + (0.9955f - from) * (1 - (1 - t) * (1 - t));
      const float thick = more * std::min(1.0f, 0.25f + 3.0f * t) + 0.001f;
      const SkullRing r = skullAt(height);
      const Vec3 rest((r.across + thick) * s, height + thick * t * t, r.forward + (r.deep + thick) * c);
      mesh.at.push_back(head.at(rest.x(), rest.y(), rest.z()));
      mesh.colour.push_back(colour);
    }
  const auto at = [&](int row, int i) { return base + static_cast<std::uint32_t>(row * around + i % around); };
  for (int row = 0; row < rows; ++row)
    for (int i = 0; i < around; ++i) {
      mesh.faces.push_back({at(row, i), at(row, i + 1), at(row + 1, i + 1)});
      mesh.faces.push_back({at(row, i), at(row + 1, i + 1), at(row + 1, i)});
    }
  const SkullRing top = skullAt(0.9955f);
  mesh.at.push_back(head.at(0, 0.9965f + more, top.forward));
  mesh.colour.push_back(colour);
  const auto middle = static_cast<std::uint32_t>(mesh.at.size() - 1);
  for (int i = 0; i < around; ++i) mesh.faces.push_back({at(rows, i), at(rows, i + 1), middle});
}

void addHair(Mesh& mesh, const OnHead& head, const Clothes& wear) {
  const Rig& rig = head.rig;
  const Rgb c = wear.hair;
  const auto fall = [&](float from, float length, float wide, float thick, float behind) {
    // Hangs down by itself from the back of the head.
    const Vec3 start = head.at(0, from, behind), side = head.axis(1, 0, 0).normalized();
    const Vec3 along =
        (head.axis(0, -1, 0).normalized() * 0.4f + Vec3(0, -0.6f, 0) - head.axis(0, 0, 1).normalized() * 0.15f)
            .normalized();
    std::vector<Ring> rings;
    for (int i = 0; i <= 4; ++i) {
      const float t = static_cast<float>(i) / 4, w = wide * (1 - 0.5f * t * t) * rig.size;
      rings.push_back(
          {start + along * (length * t * rig.size), side * w, along.cross(side).normalized() * (thick * rig.size), c});
    }
    addTube(mesh, rings, 8);
  };
  switch (wear.hairStyle) {
    case HairStyle::none:
      break;
    case HairStyle::cropped:
      addCap(mesh, head, shortHair, 0.006f, c);
      break;
    case HairStyle::bob:
      addCap(mesh, head, roundHair, 0.014f, c);
      break;
    case HairStyle::lengthy:
      addCap(mesh, head, longHair, 0.011f, c);
      fall(0.93f, 0.22f, 0.055f, 0.022f, -0.050f);
      break;
    case HairStyle::bun:
      addCap(mesh, head, tiedHair, 0.006f, c);
      head.ball(mesh, {0, 0.965f, -0.075f}, {0.028f, 0.026f, 0.026f}, c, 8);
      break;
    case HairStyle::tail:
      addCap(mesh, head, tiedHair, 0.006f, c);
      fall(0.955f, 0.17f, 0.022f, 0.020f, -0.068f);
      break;
    case HairStyle::full:
      head.ball(mesh, {0, 0.955f, -0.022f}, {0.080f, 0.078f, 0.076f}, c, 12);
      break;
  }
}

void addHat(Mesh& mesh, const OnHead& head, const Clothes& wear) {
  const Rgb c = wear.hat, darker{c.r * 0.5f, c.g * 0.5f, c.b * 0.5f};
  const auto ring = [&](float height, float across, float deep, float forward, Rgb colour) {
    return Ring{head.at(0, height, forward), head.axis(across, 0, 0), head.axis(0, 0, deep), colour};
  };
  switch (wear.headgear) {
    case Hat::none:
      break;
    case Hat::brimmed: {
      const std::array brim = {ring(0.962f, 0.115f, 0.125f, 0, darker), ring(0.970f, 0.112f, 0.122f, 0, c),
                               ring(0.972f, 0.05f, 0.06f, 0, c)};
      addTube(mesh, brim, 14);
      const std::array crown = {ring(0.968f, 0.052f, 0.064f, 0, darker), ring(0.985f, 0.052f, 0.064f, 0, c),
                                ring(1.022f, 0.044f, 0.055f, 0, c), ring(1.030f, 0.02f, 0.03f, 0, c)};
      addTube(mesh, crown, 10);
      break;
    }
    case Hat::cap: {
      addCap(mesh, head, {0.958f, 0.957f, 0.955f, 0.95f}, 0.010f, c);
      const std::array crown = {ring(0.958f, 0.056f, 0.068f, 0, c), ring(0.985f, 0.050f, 0.060f, -0.002f, c),
                                ring(1.006f, 0.02f, 0.03f, -0.004f, c)};
      addTube(mesh, crown, 10);
      const std::array peak = {ring(0.962f, 0.045f, 0.020f, 0.055f, darker),
                               ring(0.958f, 0.035f, 0.030f, 0.075f, darker)};
      addTube(mesh, peak, 8);
      break;
    }
    case Hat::cone: {
      const std::array cone = {ring(0.955f, 0.130f, 0.140f, 0, darker), ring(0.962f, 0.128f, 0.138f, 0, c),
                               ring(1.045f, 0.010f, 0.012f, 0, c)};
      addTube(mesh, cone, 14);
      break;
    }
    case Hat::hood: {
      std::vector<Ring> rings;
      for (const SkullRing& r : skull)
        if (r.height > 0.856f) rings.push_back(head.ring(r, 0.022f, c));
      rings.insert(rings.begin(), ring(0.835f, 0.075f, 0.062f, 0, c));
      addHalfTube(mesh, rings, 12, 0.72f * pi, 2.28f * pi);
      const std::array top = {ring(0.975f, 0.060f, 0.072f, 0, c), ring(1.005f, 0.040f, 0.050f, -0.006f, c),
                              ring(1.016f, 0.010f, 0.014f, -0.01f, c)};
      addTube(mesh, top, 10);
      break;
    }
    case Hat::helmet: {
      addCap(mesh, head, {0.955f, 0.945f, 0.905f, 0.90f}, 0.016f, c);
      const std::array top = {ring(0.950f, 0.060f, 0.074f, 0, c), ring(0.985f, 0.048f, 0.060f, -0.004f, c),
                              ring(1.012f, 0.012f, 0.016f, -0.004f, c)};
      addTube(mesh, top, 10);
      break;
    }
    case Hat::band: {
      const std::array band = {ring(0.955f, 0.051f, 0.064f, -0.001f, c), ring(0.972f, 0.048f, 0.060f, -0.003f, c)};
      addTube(mesh, band, 12, Ends::open);
      break;
    }
  }
}

}  // namespace

void addHead(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  const OnHead head{rig};
  addSkull(mesh, head, wear);
  addFace(mesh, head, wear);
  if (wear.headgear != Hat::hood && wear.headgear != Hat::helmet) addHair(mesh, head, wear);
  addHat(mesh, head, wear);
}

}  // namespace hscaffold::stage
