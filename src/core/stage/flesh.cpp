// The skin of trunk, arms and legs, and feet. The trunk is rows of points; arms grow from a hole at each side, legs
// from its lower end and a line between them.
#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>

#include "core/stage/body.h"

namespace hscaffold::stage {
namespace {

constexpr float inDegrees = pi / 180;

/// Upper arm and forearm in the pose that a body is built in: breadth from the body outwards, depth to the front.
constexpr std::array<Girth, 14> armProfile = {{{0.05f, 0.0260f, 0.0340f, 0},
                                               {0.15f, 0.0275f, 0.0350f, 0},
                                               {0.28f, 0.0285f, 0.0345f, 0.001f},
                                               {0.42f, 0.0285f, 0.0330f, 0.002f},
                                               {0.55f, 0.0275f, 0.0320f, 0.003f},
                                               {0.75f, 0.0250f, 0.0280f, 0.001f},
                                               {0.92f, 0.0240f, 0.0250f, -0.001f},
                                               {1.05f, 0.0250f, 0.0245f, -0.001f},
                                               {1.20f, 0.0275f, 0.0255f, 0},
                                               {1.38f, 0.0260f, 0.0250f, 0},
                                               {1.60f, 0.0205f, 0.0220f, 0},
                                               {1.82f, 0.0158f, 0.0190f, 0},
                                               {1.94f, 0.0142f, 0.0178f, 0},
                                               {2.0f, 0.0138f, 0.0176f, 0}}};
constexpr std::array<Girth, 14> legProfile = {{{0.24f, 0.0470f, 0.0590f, -0.006f},
                                               {0.40f, 0.0460f, 0.0530f, 0.001f},
                                               {0.58f, 0.0430f, 0.0470f, 0.004f},
                                               {0.76f, 0.0375f, 0.0405f, 0.003f},
                                               {0.90f, 0.0340f, 0.0365f, 0.003f},
                                               {1.00f, 0.0330f, 0.0365f, 0.003f},
                                               {1.10f, 0.0315f, 0.0340f, -0.001f},
                                               {1.22f, 0.0340f, 0.0355f, -0.006f},
                                               {1.36f, 0.0355f, 0.0385f, -0.010f},
                                               {1.52f, 0.0310f, 0.0335f, -0.009f},
                                               {1.70f, 0.0245f, 0.0260f, -0.006f},
                                               {1.86f, 0.0200f, 0.0220f, -0.003f},
                                               {1.95f, 0.0195f, 0.0220f, -0.002f},
                                               {2.05f, 0.0190f, 0.0215f, 0.001f}}};

/// A row of the trunk's skin, and who carries it beside pelvis and waist.
struct TrunkRow {
  float height, across, deep, forward;
  float legs, head;  ///< shares
};
constexpr std::array<TrunkRow, 18> trunkRows = {{{0.496f, 0.0950f, 0.0640f, -0.008f, 0.50f, 0},
                                                 {0.518f, 0.0950f, 0.0660f, -0.007f, 0.26f, 0},
                                                 {0.545f, 0.0905f, 0.0640f, -0.004f, 0.10f, 0},
                                                 {0.571f, 0.0835f, 0.0590f, -0.001f, 0.03f, 0},
                                                 {0.579f, 0.0815f, 0.0575f, 0.000f, 0, 0},
                                                 {0.612f, 0.0750f, 0.0530f, 0.002f, 0, 0},
                                                 {0.650f, 0.0765f, 0.0535f, 0.002f, 0, 0},
                                                 {0.688f, 0.0840f, 0.0570f, 0.003f, 0, 0},
                                                 {0.722f, 0.0910f, 0.0600f, 0.003f, 0, 0},
                                                 {0.750f, 0.0945f, 0.0610f, 0.002f, 0, 0},
                                                 {0.780f, 0.0945f, 0.0580f, 0.000f, 0, 0},
                                                 {0.811f, 0.0880f, 0.0500f, -0.003f, 0, 0},
                                                 {0.822f, 0.0660f, 0.0420f, -0.005f, 0, 0},
                                                 {0.829f, 0.0490f, 0.0370f, -0.004f, 0, 0.05f},
                                                 {0.835f, 0.0370f, 0.0335f, -0.003f, 0, 0.10f},
                                                 {0.849f, 0.0290f, 0.0310f, 0.000f, 0, 0.35f},
                                                 {0.866f, 0.0275f, 0.0295f, 0.003f, 0, 0.75f},
                                                 {0.886f, 0.0265f, 0.0285f, 0.004f, 0, 1.0f}}};
constexpr std::size_t holeLow = 9, holeMiddle = 10, holeTop = 11, hem = 4, collar = 14;
constexpr int trunkColumns = 20, halfColumns = trunkColumns / 2,
              quarterColumns = halfColumns / 2;  ///< of the trunk's skin
constexpr int armAround = 12;

float bump(float v, float middle, float wide) { return std::exp(-std::pow((v - middle) / wide, 2.0f)); }

/// What stands out of the trunk's ovals: chest, shoulder blades, seat, the hollow of the back. @param turn  radians
/// from the left side to the front
float reliefOf(float height, float turn, const Build& build) {
  const float back = std::fabs(std::remainder(turn - 1.5f * pi, 2 * pi)),
              front = std::fabs(std::remainder(turn - 0.5f * pi, 2 * pi));
  return 0.013f * bump(height, 0.515f, 0.045f) * bump(back, 0.55f, 0.45f) * (0.6f + 0.4f * build.hips) +
         (0.004f + 0.006f * build.muscle) * bump(height, 0.757f, 0.026f) * bump(front, 0.50f, 0.40f) +
         0.030f * build.bust * bump(height, 0.742f, 0.026f) * bump(front, 0.60f, 0.36f) +
         (0.004f + 0.004f * build.muscle) * bump(height, 0.770f, 0.030f) * bump(back, 0.60f, 0.40f) -
         0.005f * smooth(0.52f, 0.60f, height) * smooth(0.82f, 0.74f, height) * bump(back, 0, 0.22f);
}

/// The column so many steps in front of (or behind) the middle of a side.
std::size_t columnOf(bool left, int step) {
  return static_cast<std::size_t>(left ? (step + trunkColumns) % trunkColumns
                                       : (halfColumns - step + trunkColumns) % trunkColumns);
}

using Rows = std::vector<std::vector<std::uint32_t>>;

bool same(Rgb a, Rgb b) { return std::fabs(a.r - b.r) + std::fabs(a.g - b.g) + std::fabs(a.b - b.b) < 0.02f; }

Rows addTrunk(Flesh& flesh, const Rig& bind, const Clothes& wear) {
  const Build& build = bind.build;
  const float stand = 1 + 0.45f * wear.loose;
  const SideOf sideLeft = sideOf(bind, true), sideRight = sideOf(bind, false);
  Rows rows;
  for (std::size_t r = 0; r < trunkRows.size(); ++r) {
    const TrunkRow& row = trunkRows[r];
    const bool bare = r >= collar;
    float across = row.across * build.girth, deep = row.deep * build.girth, forward = row.forward;
    across *= 1 + (build.hips - 1) * smooth(0.64f, 0.53f, row.height) +
              (build.shoulders - 1) * smooth(0.64f, 0.76f, row.height) * (bare ? 0.0f : 1.0f);
    const float belly = build.belly * bump(row.height, 0.61f, 0.062f);
    deep += 0.035f * belly;
    forward += 0.03f * belly;
    across += 0.018f * belly;
    // A strong neck and back.
    if (row.height > 0.7f) across *= 1 + 0.10f * build.muscle, deep *= 1 + 0.10f * build.muscle;
    if (!bare) across *= stand, deep *= stand;
    const Rgb colour = bare                                        ? wear.skin
                       : r < hem                                   ? wear.legs
                       : wear.stripes > 0 && r > hem && r % 2 == 1 ? wear.stripe
                                                                   : wear.top;
    const Ring ring = bind.trunkRing(row.height, across, deep, forward, colour);
    const Vec3 side = ring.across.normalized(), ahead = ring.deep.normalized();
    const float waist = smooth(0.57f, 0.68f, row.height);
    // Chests are squarer than ovals.
    const float square = 2 + 0.7f * smooth(0.60f, 0.72f, row.height) * smooth(0.83f, 0.80f, row.height);
    auto& line = rows.emplace_back();
    for (int i = 0; i < trunkColumns; ++i) {
      const float turn = 2 * pi * static_cast<float>(i) / trunkColumns, c = std::cos(turn), s = std::sin(turn);
      const float round = std::pow(std::pow(std::fabs(c), square) + std::pow(std::fabs(s), square), -1 / square);
      Vec3 at = ring.centre + (ring.across * c + ring.deep * s) * round;
      if (!bare) at += (side * c + ahead * s) * (reliefOf(row.height, turn, build) * bind.size * build.girth);
      // Before the crotch both legs pull alike; at the sides each its own.
      const float share = row.legs * (0.5f + 0.5f * smooth(0.05f, 0.6f, std::fabs(c)));
      const float toLeft = c > 0.01f ? 1.0f : c < -0.01f ? 0.0f : 0.5f;
      Carried by;
      by.by = {static_cast<std::uint8_t>(bind.pelvis), static_cast<std::uint8_t>(bind.waist),
               static_cast<std::uint8_t>(bind.head), 0};
      const float rest = 1 - share - row.head;
      by.share = {(1 - waist) * rest, waist * rest, row.head, 0};
      if (row.legs > 0) {
        by.by[2] = static_cast<std::uint8_t>(sideLeft.motions + thighMotion);
        by.by[3] = static_cast<std::uint8_t>(sideRight.motions + thighMotion);
        by.share[2] = share * toLeft;
        by.share[3] = share * (1 - toLeft);
      } else if (r >= holeLow && r <= holeTop + 1) {
        // Shoulders go along with their arms a little.
        const float arms = (r == holeTop      ? 0.35f
                            : r == holeMiddle ? 0.30f
                            : r == holeLow    ? 0.22f
                                              : 0.12f) *
                           smooth(0.55f, 0.85f, std::fabs(c));
        by.by[3] = static_cast<std::uint8_t>((c > 0 ? sideLeft : sideRight).motions + armMotion);
        by.share[0] *= 1 - arms;
        by.share[1] *= 1 - arms;
        by.share[3] = arms;
      }
      line.push_back(flesh.put(at, colour, by));
    }
  }
  const auto inHole = [](std::size_t low, std::size_t column) {
    if (low < holeLow || low >= holeTop) return false;
    for (const bool left : {true, false})
      for (int step = -2; step < 2; ++step)
        if (column == (left ? columnOf(true, step) : columnOf(false, step + 1))) return true;
    return false;
  };
  for (std::size_t r = 0; r + 1 < rows.size(); ++r)
    for (std::size_t i = 0; i < trunkColumns; ++i) {
      if (inHole(r, i)) continue;
      const std::size_t j = (i + 1) % trunkColumns;
      flesh.mesh.faces.push_back({rows[r][i], rows[r + 1][j], rows[r][j]});
      flesh.mesh.faces.push_back({rows[r][i], rows[r + 1][i], rows[r + 1][j]});
    }
  for (const std::size_t row : {hem, collar - 1})
    if (row != hem || !same(wear.top, wear.legs)) flesh.draw(rows[row]);
  const auto& top = trunkRows.back();
  flesh.close(rows.back(), bind.trunkRing(top.height, 0, 0, top.forward, wear.skin).centre, true);
  return rows;
}

/// Colours a limb to where its cloth ends, with a ring on each side of the end.
std::vector<Girth> withEnd(std::span<const Girth> profile, float end) {
  std::vector<Girth> out;
  for (std::size_t i = 0; i < profile.size(); ++i) {
    if (i > 0 && profile[i - 1].along < end && profile[i].along > end) {
      const float t = (end - profile[i - 1].along) / (profile[i].along - profile[i - 1].along);
      const auto mix = [t](float a, float b) { return a + t * (b - a); };
      for (const float off : {-0.01f, 0.01f})
        out.push_back({end + off, mix(profile[i - 1].across, profile[i].across),
                       mix(profile[i - 1].deep, profile[i].deep), mix(profile[i - 1].forward, profile[i].forward)});
    }
    out.push_back(profile[i]);
  }
  return out;
}

struct Limb {
  Vec3 a, b, c;
  Vec3 outward;                                ///< of its first ring's first point
  std::size_t trunk, untwisted, upper, lower;  ///< what carries it
  float joins, joining;          ///< how much of its first ring the trunk carries, and over how long that ends
  float sloped;                  ///< how much less its upper end rises on the outer side
  std::span<const float> turns;  ///< of its first ring's points, degrees from outwards; empty: even
  float cover, stand;
  Rgb cloth;
};
/// Where the corners of the hole for an arm lie about its middle.
constexpr std::array<float, armAround> holeTurns = {0, 25, 46, 88, 126, 155, 180, 205, 234, 272, 314, 335};

/// A limb from a line of the trunk's points on. @return its last ring
std::vector<std::uint32_t> addLimb(Flesh& flesh, const Rig& bind, std::vector<std::uint32_t> from,
                                   std::span<const Girth> profile, const Limb& limb, bool left, Rgb skin) {
  const auto cut = withEnd(profile, 2 * limb.cover);
  const auto rings = limbRings(limb.a, limb.b, limb.c, limb.outward, limb.outward, cut, bind.size * bind.build.girth);
  for (std::size_t r = 0; r < rings.size(); ++r) {
    const float along = cut[r].along;
    const bool clothed = along <= 2 * limb.cover;
    // Where muscles are.
    const float strong = 1 + bind.build.muscle * (0.16f * bump(along, 0.35f, 0.3f) + 0.13f * bump(along, 1.3f, 0.25f));
    const float wide = strong * (clothed ? limb.stand : 1);
    const float lower = smooth(0.76f, 1.24f, along), outer = 1 - limb.sloped * smooth(0.5f, 0.0f, along);
    const float joined =
        limb.joins * smooth(profile.front().along + limb.joining, profile.front().along - 0.02f, along);
    Carried by;
    const float twisted = smooth(0.0f, 0.85f, along);
    by.by = {static_cast<std::uint8_t>(limb.upper), static_cast<std::uint8_t>(limb.lower),
             static_cast<std::uint8_t>(limb.trunk), static_cast<std::uint8_t>(limb.untwisted)};
    by.share = {(1 - lower) * (1 - joined) * twisted, lower, (1 - lower) * joined,
                (1 - lower) * (1 - joined) * (1 - twisted)};
    // limbRings has the depth to one hand of the breadth; ours is to the front.
    const Vec3 ahead = left ? rings[r].deep : Vec3(-rings[r].deep);
    const Vec3 centre =
        left ? rings[r].centre
             : Vec3(rings[r].centre + 2 * cut[r].forward * bind.size * bind.build.girth * ahead.normalized());
    std::vector<std::uint32_t> ring;
    for (std::size_t i = 0; i < from.size(); ++i) {
      float turn = 2 * pi * static_cast<float>(i) / static_cast<float>(from.size());
      if (!limb.turns.empty()) turn += (limb.turns[i] * inDegrees - turn) * smooth(0.9f, 0.0f, along);
      const float c = std::cos(turn) * (std::cos(turn) > 0 ? outer : 1.0f);
      ring.push_back(
          flesh.put(centre + (rings[r].across * c + ahead * std::sin(turn)) * wide, clothed ? limb.cloth : skin, by));
    }
    flesh.bridge(from, ring, !left);
    if (clothed && r + 1 < rings.size() && cut[r + 1].along > 2 * limb.cover) flesh.draw(ring);
    from = std::move(ring);
  }
  return from;
}

void addFoot(Flesh& flesh, const Rig& bind, const SideOf& side, const Vec3& knee, const Vec3& ankle, Rgb colour) {
  const float s = bind.size * (0.7f + 0.3f * bind.build.girth);
  const Vec3 shin = (ankle - knee).normalized(), x = bind.turned(side.knee, {1, 0, 0}),
             across = (x - shin * x.dot(shin)).normalized(), ahead = shin.cross(across);
  struct Across {
    float forward, under, wide, high;
    float toes;  ///< share that the toes carry
  };
  constexpr std::array<Across, 10> rings = {{{-0.037f, 0.027f, 0.010f, 0.009f, 0},
                                             {-0.031f, 0.022f, 0.018f, 0.021f, 0},
                                             {-0.016f, 0.013f, 0.0215f, 0.032f, 0},
                                             {0.006f, 0.013f, 0.0225f, 0.032f, 0},
                                             {0.030f, 0.022f, 0.0235f, 0.024f, 0},
                                             {0.055f, 0.029f, 0.0265f, 0.017f, 0},
                                             {0.077f, 0.032f, 0.0285f, 0.014f, 0.5f},
                                             {0.097f, 0.034f, 0.0245f, 0.012f, 1},
                                             {0.110f, 0.036f, 0.0165f, 0.009f, 1},
                                             {0.116f, 0.038f, 0.007f, 0.005f, 1}}};
  constexpr int around = 10;
  const std::size_t foot = side.motions + footMotion, toes = side.motions + toeMotion;
  std::vector<std::uint32_t> before;
  // The outer edge lies farther back than the inner one.
  const float inward = side.left ? -1.0f : 1.0f;
  for (const Across& r : rings) {
    std::vector<std::uint32_t> ring;
    const Vec3 middle =
        ankle + (ahead * r.forward + shin * r.under + across * (inward * 0.05f * std::max(0.0f, r.forward))) * s;
    for (int i = 0; i < around; ++i) {
      const float turn = 2 * pi * static_cast<float>(i) / around;
      // Soles are flat.
      const float down = std::sin(turn);
      const Vec3 off = across * (r.wide * std::cos(turn) * (down > 0 ? 1.06f : 1.0f)) +
                       shin * (down > 0 ? std::min(0.046f - r.under, r.high) * std::pow(down, 0.45f) : r.high * down);
      ring.push_back(flesh.put(middle + off * s, colour, Carried::between(foot, toes, r.toes)));
    }
    if (before.empty())
      flesh.close(ring, middle, false);
    else
      flesh.bridge(before, ring, true);
    before = std::move(ring);
  }
  flesh.close(before, ankle + (ahead * 0.118f + shin * 0.040f) * s, true);
}

}  // namespace

float smooth(float low, float high, float v) {
  const float t = std::clamp((v - low) / (high - low), 0.0f, 1.0f);
  return t * t * (3 - 2 * t);
}

std::vector<Ring> limbRings(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& sideUpper, const Vec3& sideLower,
                            std::span<const Girth> profile, float scale) {
  const Vec3 upper = (b - a).normalized(), lower = (c - b).normalized();
  std::vector<Ring> out;
  for (const Girth& g : profile) {
    // The bend is spread over a quarterColumns of both parts, so that the surface stays smooth.
    const float w = smooth(0.75f, 1.25f, g.along);
    Vec3 along = upper * (1 - w) + lower * w;
    along = along.norm() > 1e-3f ? Vec3(along.normalized()) : upper;
    Vec3 side = sideUpper * (1 - w) + sideLower * w;
    side = side - along * side.dot(along);
    side = side.norm() > 1e-3f ? Vec3(side.normalized()) : Vec3(along.unitOrthogonal());
    const Vec3 ahead = along.cross(side);
    const Vec3 centre = g.along <= 1 ? Vec3(a + (b - a) * g.along) : Vec3(b + (c - b) * (g.along - 1));
    out.push_back({centre + ahead * (g.forward * scale), side * (g.across * scale), ahead * (g.deep * scale), {}});
  }
  return out;
}

std::uint32_t Flesh::put(const Vec3& at, Rgb colour, const Carried& by) {
  mesh.at.push_back(at);
  mesh.colour.push_back(colour);
  carried.push_back(by);
  return static_cast<std::uint32_t>(mesh.at.size() - 1);
}

void Flesh::draw(std::span<const std::uint32_t> ring) {
  for (std::size_t i = 0; i < ring.size(); ++i) mesh.drawn.push_back({ring[i], ring[(i + 1) % ring.size()]});
}

void Flesh::bridge(std::span<const std::uint32_t> low, std::span<const std::uint32_t> high, bool turned) {
  for (std::size_t i = 0; i < low.size(); ++i) {
    const std::size_t j = (i + 1) % low.size();
    if (turned) {
      mesh.faces.push_back({low[i], high[j], low[j]});
      mesh.faces.push_back({low[i], high[i], high[j]});
    } else {
      mesh.faces.push_back({low[i], low[j], high[j]});
      mesh.faces.push_back({low[i], high[j], high[i]});
    }
  }
}

void Flesh::close(std::span<const std::uint32_t> ring, const Vec3& middle, bool turned) {
  const auto centre = put(middle, mesh.colour[ring.front()], carried[ring.front()]);
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const auto a = ring[i], b = ring[(i + 1) % ring.size()];
    if (turned)
      mesh.faces.push_back({b, a, centre});
    else
      mesh.faces.push_back({a, b, centre});
  }
}

/// All of the body that is one skin, and its feet, as they are built.
Flesh fleshOf(const Rig& bind, const Clothes& wear) {
  Flesh flesh;
  const Rows rows = addTrunk(flesh, bind, wear);
  const std::size_t leftHip = sideOf(bind, true).motions + thighMotion,
                    rightHip = sideOf(bind, false).motions + thighMotion;
  std::array<std::uint32_t, 3> between{};
  constexpr std::array<std::array<float, 2>, 3> crotch = {{{0.478f, 0.032f}, {0.470f, 0.000f}, {0.474f, -0.036f}}};
  for (std::size_t i = 0; i < crotch.size(); ++i) {
    Carried by;
    by.by = {static_cast<std::uint8_t>(bind.pelvis), static_cast<std::uint8_t>(leftHip),
             static_cast<std::uint8_t>(rightHip), 0};
    by.share = {0.5f, 0.25f, 0.25f, 0};
    between[i] =
        flesh.put(bind.by(bind.pelvis, {0, crotch[i][0], crotch[i][1] * std::sqrt(bind.build.girth)}), wear.legs, by);
  }
  for (const bool left : {true, false}) {
    const SideOf side = sideOf(bind, left);
    const auto point = [&](const char* id) {
      return bind.point((std::string(left ? "left_" : "right_") + id).c_str());
    };
    const float outward = left ? 1.0f : -1.0f;
    // Arms: round the hole from the top over the front.
    std::vector<std::uint32_t> hole;
    for (int step = 0; step <= 2; ++step) hole.push_back(rows[holeTop][columnOf(left, step)]);
    hole.push_back(rows[holeMiddle][columnOf(left, 2)]);
    for (int step = 2; step >= -2; --step) hole.push_back(rows[holeLow][columnOf(left, step)]);
    hole.push_back(rows[holeMiddle][columnOf(left, -2)]);
    for (int step = -2; step < 0; ++step) hole.push_back(rows[holeTop][columnOf(left, step)]);
    const Limb armLimb{point("shoulder"),
                       point("elbow"),
                       point("wrist"),
                       bind.turned(side.shoulder, {outward, 0, 0}),
                       bind.waist,
                       side.motions + armMotion,
                       side.shoulder,
                       side.elbow,
                       0.50f,
                       0.45f,
                       0.45f,
                       holeTurns,
                       wear.sleeves,
                       1.06f + 0.3f * wear.loose,
                       wear.top};
    const auto wrist = addLimb(flesh, bind, hole, armProfile, armLimb, left, wear.skin);
    addHand(flesh, bind, left, wrist, side.motions, side.elbow, wear.skin);
    // Legs: from the outer side over the front, back through between them.
    std::vector<std::uint32_t> rim;
    for (int step = 0; step <= quarterColumns; ++step) rim.push_back(rows[0][columnOf(left, step)]);
    rim.insert(rim.end(), between.begin(), between.end());
    for (int step = -quarterColumns; step < 0; ++step) rim.push_back(rows[0][columnOf(left, step)]);
    const Limb legLimb{point("hip"),   point("knee"),
                       point("ankle"), bind.turned(side.hip, {outward, 0, 0}),
                       bind.pelvis,    side.motions + thighMotion,
                       side.hip,       side.knee,
                       0.26f,          0.34f,
                       0.10f,          {},
                       wear.trousers,  1.05f + 0.2f * wear.loose,
                       wear.legs};
    const auto ankle = addLimb(flesh, bind, rim, legProfile, legLimb, left, wear.skin);
    flesh.close(ankle, point("ankle"), !left);
    addFoot(flesh, bind, side, point("knee"), point("ankle"), wear.shoes);
  }
  return flesh;
}

}  // namespace hscaffold::stage
