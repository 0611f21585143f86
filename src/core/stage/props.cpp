#include "core/stage/props.h"

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <random>

namespace hscaffold::stage {
namespace {

Mesh done(Mesh mesh) {
  computeNormals(mesh);
  return mesh;
}

/// With points of its own for each face, so that edges stay sharp in the light.
Mesh flat(Mesh mesh) {
  Mesh out;
  for (const auto& face : mesh.faces) {
    const auto base = static_cast<std::uint32_t>(out.at.size());
    for (const std::uint32_t corner : face) {
      out.at.push_back(mesh.at[corner]);
      out.colour.push_back(mesh.colour[corner]);
    }
    out.faces.push_back({base, base + 1, base + 2});
  }
  return done(std::move(out));
}

/// Box by its low middle.
void addBlock(Mesh& mesh, const Place& place, const Vec3& foot, const Vec3& size, Rgb colour) {
  addBox(mesh, place.map(foot + Vec3(0, size.y() / 2, 0)), place.direction({size.x() / 2, 0, 0}),
         Vec3(0, size.y() / 2, 0), place.direction({0, 0, size.z() / 2}), colour);
}

void addRod(Mesh& mesh, const Vec3& from, const Vec3& to, float thickFrom, float thickTo, Rgb colour, int around = 7) {
  const Vec3 along = (to - from).normalized(), side = along.unitOrthogonal(), other = along.cross(side);
  const std::array rings = {Ring{from, side * thickFrom, other * thickFrom, colour},
                            Ring{to, side * thickTo, other * thickTo, colour}};
  addTube(mesh, rings, around);
}

/// Even in [-1, 1], by engine only: the same everywhere.
float even(std::minstd_rand& random) {
  return 2 * static_cast<float>(random() - std::minstd_rand::min()) /
             static_cast<float>(std::minstd_rand::max() - std::minstd_rand::min()) -
         1;
}

/// Smooth waves of three lengths, [-1, 1] about.
float waves(float x, float z, std::uint32_t seed) {
  const float p = static_cast<float>(seed % 997) * 0.37f;
  return 0.5f * std::sin(x * 0.9f + p) * std::cos(z * 0.7f - 1.3f * p) + 0.3f * std::sin(x * 2.1f - z * 1.3f + 2 * p) +
         0.2f * std::cos(x * 3.7f + z * 4.3f + 3 * p);
}

}  // namespace

Vec3 Place::map(const Vec3& local) const { return at + direction(local); }

Vec3 Place::direction(const Vec3& local) const {
  const float a = turn * pi / 180, c = std::cos(a), s = std::sin(a);
  return {c * local.x() + s * local.z(), local.y(), -s * local.x() + c * local.z()};
}

Mesh box(const Place& place, const Vec3& size, Rgb colour) {
  Mesh out;
  addBlock(out, place, Vec3::Zero(), size, colour);
  return done(std::move(out));
}

Mesh stair(const Place& place, int steps, float width, Rgb colour) {
  // One body whose faces share their points, so that its sides are whole.
  constexpr float rise = 0.17f, tread = 0.28f;
  Mesh out;
  const auto put = [&](float side, float y, float z) {
    out.at.push_back(place.map({side * width / 2, y, z}));
    out.colour.push_back(colour);
    return static_cast<std::uint32_t>(out.at.size() - 1);
  };
  const auto quad = [&](std::uint32_t p, std::uint32_t q, std::uint32_t r, std::uint32_t t) {
    out.faces.push_back({p, q, r});
    out.faces.push_back({p, r, t});
  };
  /// Of both sides: where a riser stands on the ground, at the tread before it, and at its own.
  struct Riser {
    std::array<std::uint32_t, 2> ground, low, high;
  };
  std::vector<Riser> risers;
  for (int i = 0; i <= steps; ++i) {
    Riser riser{};
    const float z = tread / 2 - tread * static_cast<float>(i);
    for (std::size_t side = 0; side < 2; ++side) {
      const float x = side == 0 ? -1.0f : 1.0f;
      riser.ground[side] = put(x, 0, z);
      riser.low[side] = i > 0 ? put(x, rise * static_cast<float>(i), z) : riser.ground[side];
      riser.high[side] = i < steps ? put(x, rise * static_cast<float>(i + 1), z) : riser.low[side];
    }
    risers.push_back(riser);
  }
  for (std::size_t i = 0; i + 1 < risers.size(); ++i) {
    const Riser &here = risers[i], &next = risers[i + 1];
    quad(here.low[0], here.low[1], here.high[1], here.high[0]);
    quad(here.high[0], here.high[1], next.low[1], next.low[0]);
    for (const std::size_t side : {0u, 1u}) {
      const auto face = [&](std::uint32_t p, std::uint32_t q, std::uint32_t r) {
        if (p != q && q != r && p != r) out.faces.push_back(side == 0 ? std::array{p, q, r} : std::array{p, r, q});
      };
      face(next.ground[side], here.ground[side], here.low[side]);
      face(next.ground[side], here.low[side], here.high[side]);
      face(next.ground[side], here.high[side], next.low[side]);
    }
  }
  const Riser& last = risers.back();
  quad(last.ground[1], last.ground[0], last.high[0], last.high[1]);
  return flat(std::move(out));
}

Mesh table(const Place& place, const Vec3& size, Rgb colour) {
  Mesh out;
  addBlock(out, place, {0, size.y() - 0.04f, 0}, {size.x(), 0.04f, size.z()}, colour);
  for (const float x : {-0.45f, 0.45f})
    for (const float z : {-0.42f, 0.42f})
      addBlock(out, place, {x * size.x(), 0, z * size.z()}, {0.05f, size.y() - 0.04f, 0.05f}, colour);
  return done(std::move(out));
}

Mesh chair(const Place& place, float size, Rgb colour) {
  Mesh out;
  addBlock(out, place, {0, 0.43f * size, 0}, {0.44f * size, 0.04f * size, 0.42f * size}, colour);
  addBlock(out, place, {0, 0.47f * size, -0.20f * size}, {0.44f * size, 0.45f * size, 0.03f * size}, colour);
  for (const float x : {-0.19f, 0.19f})
    for (const float z : {-0.18f, 0.18f})
      addBlock(out, place, {x * size, 0, z * size}, {0.04f * size, 0.43f * size, 0.04f * size}, colour);
  return done(std::move(out));
}

Mesh post(const Place& place, float height, float thick, Rgb colour) {
  Mesh out;
  addRod(out, place.at, place.at + Vec3(0, height, 0), thick, thick, colour, 8);
  return done(std::move(out));
}

Mesh ball(const Place& place, float radius, Rgb colour) {
  Mesh out;
  addEllipsoid(out, place.at + Vec3(0, radius, 0), {radius, 0, 0}, {0, radius, 0}, {0, 0, radius}, colour, 14);
  return done(std::move(out));
}

Mesh cylinder(const Place& place, const Vec3& size, Rgb colour) {
  Mesh out;
  const Vec3 across = place.direction({size.x() / 2, 0, 0}), deep = place.direction({0, 0, -size.z() / 2});
  const std::array rings = {Ring{place.at, across, deep, colour},
                            Ring{place.at + Vec3(0, size.y(), 0), across, deep, colour}};
  addTube(out, rings, 28);
  return done(std::move(out));
}

Mesh bench(const Place& place, const Vec3& size, Rgb colour) {
  Mesh out;
  addBlock(out, place, {0, size.y() - 0.05f, 0}, {size.x(), 0.05f, size.z()}, colour);
  for (const float x : {-0.38f, 0.38f})
    addBlock(out, place, {x * size.x(), 0, 0}, {0.08f, size.y() - 0.05f, 0.8f * size.z()}, colour);
  return done(std::move(out));
}

Mesh boat(const Place& place, const Vec3& size, Rgb colour) {
  // Half rings from stern to bow, the inside a little smaller than the outside.
  constexpr int stations = 12, around = 10;
  Mesh out;
  std::vector<std::vector<std::uint32_t>> rows;
  for (const float inside : {1.0f, 0.9f})
    for (int i = 0; i <= stations; ++i) {
      const float t = static_cast<float>(i) / stations;  // 0 stern, 1 bow
      const float wide = inside * std::sqrt(std::max(0.0f, 1 - std::pow(t, 3.0f))) * (0.72f + 0.28f * std::sin(pi * t));
      const float rise = 0.35f * t * t * t, keel = (inside < 1 ? 0.12f : 0.0f) + 0.25f * t * t * t;
      std::vector<std::uint32_t> row;
      for (int k = 0; k <= around; ++k) {
        const float a = pi * static_cast<float>(k) / around;
        const float x = -std::cos(a) * wide * size.x() / 2;
        const float high = 1 + rise, low = keel;
        const float y = (high - (high - low) * std::pow(std::max(0.0f, std::sin(a)), 0.8f)) * size.y();
        row.push_back(static_cast<std::uint32_t>(out.at.size()));
        out.at.push_back(place.map({x, y / 1.35f, (0.5f - t) * size.z()}));
        out.colour.push_back(inside < 1 ? colour * 0.8f : colour);
      }
      rows.push_back(std::move(row));
    }
  const auto quad = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
    out.faces.push_back({a, b, c});
    out.faces.push_back({a, c, d});
  };
  for (int shell = 0; shell < 2; ++shell)
    for (int i = 0; i < stations; ++i) {
      const auto& one = rows[static_cast<std::size_t>(shell * (stations + 1) + i)];
      const auto& next = rows[static_cast<std::size_t>(shell * (stations + 1) + i + 1)];
      for (std::size_t k = 0; k < around; ++k)
        shell == 0 ? quad(one[k], one[k + 1], next[k + 1], next[k]) : quad(one[k + 1], one[k], next[k], next[k + 1]);
    }
  // The stern, and the gunwale between both shells.
  const auto& stern = rows.front();
  for (std::size_t k = 1; k + 1 < stern.size(); ++k) out.faces.push_back({stern[0], stern[k + 1], stern[k]});
  for (int i = 0; i < stations; ++i) {
    const auto o = static_cast<std::size_t>(i), n = static_cast<std::size_t>(stations + 1 + i);
    quad(rows[o].front(), rows[o + 1].front(), rows[n + 1].front(), rows[n].front());
    quad(rows[o + 1].back(), rows[o].back(), rows[n].back(), rows[n + 1].back());
  }
  return done(std::move(out));
}

Mesh rail(const Place& place, float length, float height, Rgb colour) {
  Mesh out;
  const int posts = std::max(2, static_cast<int>(length / 1.2f) + 1);
  for (int i = 0; i < posts; ++i) {
    const float x = length * (static_cast<float>(i) / static_cast<float>(posts - 1) - 0.5f);
    addBlock(out, place, {x, 0, 0}, {0.06f, height, 0.06f}, colour);
  }
  for (const float y : {0.5f, 0.95f}) addBlock(out, place, {0, y * height, 0}, {length, 0.05f, 0.04f}, colour);
  return done(std::move(out));
}

Mesh arch(const Place& place, float width, float height, float deep, Rgb colour) {
  Mesh out;
  const float pier = 0.22f * width, spring = std::max(0.3f * height, height - width / 2 - pier);
  for (const float side : {-1.0f, 1.0f})
    addBlock(out, place, {side * (width / 2 + pier / 2), 0, 0}, {pier, spring, deep}, colour);
  std::vector<Ring> rings;
  for (int i = 0; i <= 10; ++i) {
    const float a = pi * static_cast<float>(i) / 10, r = width / 2 + pier / 2;
    rings.push_back({place.map({r * std::cos(a), spring + r * std::sin(a), 0}),
                     place.direction({std::cos(a) * pier / 1.6f, 0, 0}) + Vec3(0, std::sin(a) * pier / 1.6f, 0),
                     place.direction({0, 0, deep / 1.6f}), colour});
  }
  addTube(out, rings, 6);
  return done(std::move(out));
}

Mesh wall(const Place& place, float width, float height, Rgb colour) {
  return box(place, {width, height, 0.2f}, colour);
}

Mesh sheet(const Place& place, float width, float height, float wind, Rgb colour) {
  Mesh out;
  const auto first = out.at.size();
  addSheet(out, place.map({-width / 2, 0.1f * height, 0}), place.direction({width, 0, 0}), Vec3(0, 0.9f * height, 0),
           colour, 12, 6);
  for (auto i = first; i < out.at.size(); ++i) {
    const auto k = i - first;
    const float u = static_cast<float>(k % 13) / 12, v = static_cast<float>(k / 13) / 6;
    out.at[i] += place.direction({0, 0, wind * 0.2f * width * std::sin(9 * u + 2 * v) * (1 - v)});
  }
  for (const float side : {-0.5f, 0.5f})
    addRod(out, place.map({side * width, 0, 0}), place.map({side * width, 1.04f * height, 0}), 0.025f, 0.025f,
           {0.2f, 0.14f, 0.09f});
  return done(std::move(out));
}

Mesh lump(const Place& place, const Vec3& half, float rough, std::uint32_t seed, Rgb colour, int around) {
  Mesh out;
  addEllipsoid(out, place.at, place.direction({half.x(), 0, 0}), {0, half.y(), 0}, place.direction({0, 0, half.z()}),
               colour, around);
  for (Vec3& p : out.at) {
    const Vec3 d = p - place.at;
    p = place.at + d * (1 + 0.5f * rough *
                                waves(3 * d.x() / half.x() + 1.7f * d.y() / half.y(),
                                      3 * d.z() / half.z() - 1.1f * d.y() / half.y(), seed));
  }
  return done(std::move(out));
}

Mesh tree(const Place& place, float height, std::uint32_t seed, Rgb bark, Rgb leaves, bool bare) {
  std::minstd_rand random(seed * 2 + 1);
  Mesh out;
  const Vec3 lean(0.1f * height * even(random), 0.55f * height, 0.1f * height * even(random));
  const Vec3 fork = place.at + lean;
  addRod(out, place.at, fork, 0.035f * height, 0.022f * height, bark);
  const int boughs = 5;
  for (int i = 0; i < boughs; ++i) {
    const Vec3 from = place.at + lean * (0.6f + 0.08f * static_cast<float>(i));
    const Vec3 to = from + Vec3(0.3f * even(random), 0.22f + 0.15f * even(random), 0.3f * even(random)) * height;
    addRod(out, from, to, 0.016f * height, 0.006f * height, bark, 5);
    if (bare) {
      addRod(out, (from + to) / 2, to + Vec3(0.12f * even(random), 0.1f, 0.12f * even(random)) * height,
             0.008f * height, 0.003f * height, bark, 4);
      continue;
    }
    const float r = height * (0.14f + 0.05f * even(random));
    const Mesh crown = lump({to, 0}, {r, 0.8f * r, r}, 0.5f, seed + static_cast<std::uint32_t>(i),
                            leaves * (0.85f + 0.2f * even(random)), 8);
    out.normal.resize(out.at.size());
    out.add(crown);
  }
  return done(std::move(out));
}

Mesh stalks(const Place& place, float height, int count, std::uint32_t seed, Rgb colour) {
  std::minstd_rand random(seed * 2 + 1);
  Mesh out;
  for (int i = 0; i < count; ++i) {
    const Vec3 root = place.at + Vec3(0.1f * even(random), 0, 0.1f * even(random)) * height;
    const Vec3 tip = root + Vec3(0.6f * even(random), 0.8f + 0.3f * even(random), 0.6f * even(random)) * height;
    addRod(out, root, tip, 0.02f * height, 0.004f * height, colour * (0.8f + 0.3f * even(random)), 4);
  }
  return done(std::move(out));
}

Mesh land(const Place& place, float reach, float hills, std::uint32_t seed, Rgb colour, Rgb far) {
  Mesh out;
  // Rings that grow with distance: fine before the eye, coarse at the rim.
  constexpr int around = 40, rings = 14;
  const auto put = [&](float radius, float angle) {
    const float x = radius * std::cos(angle), z = radius * std::sin(angle), share = radius / reach;
    const float rise = std::clamp(2 * share - 0.5f, 0.0f, 1.0f);
    out.at.push_back(place.at + Vec3(x, rise * hills * (0.3f + 0.7f * waves(4 * x / reach, 4 * z / reach, seed)), z));
    out.colour.push_back(colour * (1 - share) + far * share);
  };
  put(0, 0);
  for (int r = 1; r <= rings; ++r)
    for (int i = 0; i < around; ++i)
      put(reach * std::pow(static_cast<float>(r) / rings, 2.2f), 2 * pi * static_cast<float>(i) / around);
  const auto name = [](int r, int i) { return static_cast<std::uint32_t>(1 + (r - 1) * around + i % around); };
  for (int i = 0; i < around; ++i) out.faces.push_back({0, name(1, i + 1), name(1, i)});
  for (int r = 1; r < rings; ++r)
    for (int i = 0; i < around; ++i) {
      out.faces.push_back({name(r, i), name(r, i + 1), name(r + 1, i + 1)});
      out.faces.push_back({name(r, i), name(r + 1, i + 1), name(r + 1, i)});
    }
  return done(std::move(out));
}

Mesh room(const Place& place, const Vec3& size, Rgb floor, Rgb walls, Rgb ceiling) {
  Mesh out;
  const float w = size.x() / 2, h = size.y(), d = size.z() / 2;
  const auto side = [&](const Vec3& corner, const Vec3& along, const Vec3& up, Rgb colour) {
    addSheet(out, place.map(corner), place.direction(along), place.direction(up), colour, 6, 4);
  };
  side({-w, 0, d}, {2 * w, 0, 0}, {0, 0, -2 * d}, floor);
  side({-w, 0, -d}, {2 * w, 0, 0}, {0, h, 0}, walls);
  side({-w, 0, d}, {0, 0, -2 * d}, {0, h, 0}, walls * 0.9f);
  side({w, 0, -d}, {0, 0, 2 * d}, {0, h, 0}, walls * 0.8f);
  side({-w, h, -d}, {2 * w, 0, 0}, {0, 0, 2 * d}, ceiling);
  return done(std::move(out));
}

}  // namespace hscaffold::stage
