#include "core/stage/mesh.h"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>

#include "core/image/parallel.h"

namespace hscaffold::stage {
namespace {

constexpr float circle = 2 * std::numbers::pi_v<float>;

std::uint32_t put(Mesh& mesh, const Vec3& at, Rgb colour) {
  mesh.at.push_back(at);
  mesh.colour.push_back(colour);
  return static_cast<std::uint32_t>(mesh.at.size() - 1);
}

Vec3 onRing(const Ring& ring, float angle) {
  return ring.centre + ring.across * std::cos(angle) + ring.deep * std::sin(angle);
}

/// Two triangles between four points that go round.
void addField(Mesh& mesh, std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
  mesh.faces.push_back({a, b, c});
  mesh.faces.push_back({a, c, d});
}

void close(Mesh& mesh, const Ring& ring, std::uint32_t first, int around, bool last) {
  const auto middle = put(mesh, ring.centre, ring.colour);
  for (int i = 0; i < around; ++i) {
    const auto a = first + static_cast<std::uint32_t>(i), b = first + static_cast<std::uint32_t>((i + 1) % around);
    if (last)
      mesh.faces.push_back({a, b, middle});
    else
      mesh.faces.push_back({b, a, middle});
  }
}

}  // namespace

std::array<Vec3, 8> Bounds::corners() const {
  std::array<Vec3, 8> out;
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = {(i & 1u) != 0 ? high.x() : low.x(), (i & 2u) != 0 ? high.y() : low.y(),
              (i & 4u) != 0 ? high.z() : low.z()};
  return out;
}

Bounds boundsOf(const Mesh& mesh) {
  Bounds out;
  for (const Vec3& p : mesh.at) out.take(p);
  return out;
}

std::vector<Bounds> boundsOf(std::span<const Mesh> meshes) {
  std::vector<Bounds> out(meshes.size());
  parallelItems(out.size(), [&](std::size_t m) { out[m] = boundsOf(meshes[m]); });
  return out;
}

void Mesh::add(const Mesh& other) {
  const auto base = static_cast<std::uint32_t>(at.size());
  if (closed == faces.size()) closed += other.closed;
  at.insert(at.end(), other.at.begin(), other.at.end());
  normal.insert(normal.end(), other.normal.begin(), other.normal.end());
  colour.insert(colour.end(), other.colour.begin(), other.colour.end());
  if (!across.empty() || !other.across.empty()) {
    across.resize(base, {-1, -1});
    across.insert(across.end(), other.across.begin(), other.across.end());
    across.resize(at.size(), {-1, -1});
  }
  for (const auto& f : other.faces) faces.push_back({f[0] + base, f[1] + base, f[2] + base});
  for (const auto& e : other.drawn) drawn.push_back({e[0] + base, e[1] + base});
}

void addTube(Mesh& mesh, std::span<const Ring> rings, int around, Ends ends) {
  if (rings.size() < 2) return;
  const auto base = static_cast<std::uint32_t>(mesh.at.size()), n = static_cast<std::uint32_t>(around);
  for (const Ring& ring : rings)
    for (int i = 0; i < around; ++i)
      put(mesh, onRing(ring, circle * static_cast<float>(i) / static_cast<float>(around)), ring.colour);
  for (std::uint32_t r = 0; r + 1 < rings.size(); ++r)
    for (std::uint32_t i = 0; i < n; ++i) {
      const auto j = (i + 1) % n;
      addField(mesh, base + r * n + i, base + r * n + j, base + (r + 1) * n + j, base + (r + 1) * n + i);
    }
  if (ends == Ends::first || ends == Ends::both) close(mesh, rings.front(), base, around, false);
  if (ends == Ends::last || ends == Ends::both)
    close(mesh, rings.back(), base + static_cast<std::uint32_t>(rings.size() - 1) * n, around, true);
}

void addHalfTube(Mesh& mesh, std::span<const Ring> rings, int around, float from, float to) {
  const auto base = static_cast<std::uint32_t>(mesh.at.size()), n = static_cast<std::uint32_t>(around) + 1;
  for (const Ring& ring : rings)
    for (int i = 0; i <= around; ++i)
      put(mesh, onRing(ring, from + (to - from) * static_cast<float>(i) / static_cast<float>(around)), ring.colour);
  for (std::uint32_t r = 0; r + 1 < rings.size(); ++r)
    for (std::uint32_t i = 0; i + 1 < n; ++i)
      addField(mesh, base + r * n + i, base + r * n + i + 1, base + (r + 1) * n + i + 1, base + (r + 1) * n + i);
}

void addEllipsoid(Mesh& mesh, const Vec3& centre, const Vec3& x, const Vec3& y, const Vec3& z, Rgb colour, int around) {
  std::vector<Ring> rings;
  // Faces look outwards whichever hand the axes are of.
  const Vec3 deep = x.cross(y).dot(z) > 0 ? Vec3(-z) : z;
  const int down = std::max(3, around / 2 + 1);
  for (int i = 0; i <= down; ++i) {
    const float angle = std::numbers::pi_v<float> * static_cast<float>(i) / static_cast<float>(down);
    const float wide = std::max(0.02f, std::sin(angle));
    rings.push_back({centre - y * std::cos(angle), x * wide, deep * wide, colour});
  }
  addTube(mesh, rings, around);
}

void addBox(Mesh& mesh, const Vec3& centre, const Vec3& x, const Vec3& y, const Vec3& z, Rgb colour) {
  // Each side has points of its own, so that edges stay sharp.
  const auto side = [&](const Vec3& out, const Vec3& u, const Vec3& v) {
    const Vec3 middle = centre + out;
    const auto a = put(mesh, middle - u - v, colour), b = put(mesh, middle + u - v, colour),
               c = put(mesh, middle + u + v, colour), d = put(mesh, middle - u + v, colour);
    addField(mesh, a, b, c, d);
  };
  side(z, x, y);
  side(-z, -x, y);
  side(x, -z, y);
  side(-x, z, y);
  side(y, x, -z);
  side(-y, x, z);
}

void addSheet(Mesh& mesh, const Vec3& corner, const Vec3& side, const Vec3& up, Rgb colour, int across, int down) {
  const auto base = static_cast<std::uint32_t>(mesh.at.size()), n = static_cast<std::uint32_t>(across) + 1;
  for (int j = 0; j <= down; ++j)
    for (int i = 0; i <= across; ++i)
      put(mesh,
          corner + side * (static_cast<float>(i) / static_cast<float>(across)) +
              up * (static_cast<float>(j) / static_cast<float>(down)),
          colour);
  for (std::uint32_t j = 0; j < static_cast<std::uint32_t>(down); ++j)
    for (std::uint32_t i = 0; i + 1 < n; ++i)
      addField(mesh, base + j * n + i, base + j * n + i + 1, base + (j + 1) * n + i + 1, base + (j + 1) * n + i);
}

void computeNormals(Mesh& mesh) {
  mesh.normal.assign(mesh.at.size(), Vec3::Zero());
  for (const auto& [a, b, c] : mesh.faces) {
    const Vec3 n = (mesh.at[b] - mesh.at[a]).cross(mesh.at[c] - mesh.at[a]);
    mesh.normal[a] += n;
    mesh.normal[b] += n;
    mesh.normal[c] += n;
  }
  for (Vec3& n : mesh.normal) {
    const float length = n.norm();
    n = length > 1e-12f ? Vec3(n / length) : Vec3(0, 1, 0);
  }
}

}  // namespace hscaffold::stage
