#include "core/stage/raster.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/stage/panel.h"
#include "core/stage/shadow_map.h"
#include "core/stage/triangles.h"

namespace hscaffold::stage {
namespace {

constexpr int fine = samplesAside;

float hashed(int x, int y, int z) {
  auto h = static_cast<std::uint32_t>(x) * 0x8da6b343u ^ static_cast<std::uint32_t>(y) * 0xd8163841u ^
           static_cast<std::uint32_t>(z) * 0xcb1ab31fu;
  h ^= h >> 15;
  h *= 0x2c1b3c6du;
  h ^= h >> 13;
  return static_cast<float>(h & 0xffffu) / 65535.0f;
}

/// Value noise, [0, 1].
float noise(const Vec3& at) {
  const float fx = std::floor(at.x()), fy = std::floor(at.y()), fz = std::floor(at.z());
  const int x = static_cast<int>(fx), y = static_cast<int>(fy), z = static_cast<int>(fz);
  const auto ease = [](float t) { return t * t * (3 - 2 * t); };
  const float u = ease(at.x() - fx), v = ease(at.y() - fy), w = ease(at.z() - fz);
  const auto mix = [](float a, float b, float t) { return a + (b - a) * t; };
  const auto row = [&](int dy, int dz) { return mix(hashed(x, y + dy, z + dz), hashed(x + 1, y + dy, z + dz), u); };
  return mix(mix(row(0, 0), row(1, 0), v), mix(row(0, 1), row(1, 1), v), w);
}

Rgb times(Rgb a, Rgb b) { return {a.r * b.r, a.g * b.g, a.b * b.b}; }

/// What comes from one light, of shine as well.
Rgb litBy(const Light& light, const Vec3& normal, const Vec3& toEye, Rgb colour, const Material& material) {
  const Rgb spread = times(light.colour * std::max(0.0f, normal.dot(light.from)), colour);
  if (material.shine <= 0) return spread;
  const float half = std::max(0.0f, normal.dot((light.from + toEye).normalized()));
  const float h2 = half * half, h4 = h2 * h2, h8 = h4 * h4;
  const float shine = material.shine * h8 * h8 * luminance(light.colour);
  return spread + Rgb{shine, shine, shine};
}

/// @return from all round and from all lights but the first; from the first
std::pair<Rgb, Rgb> lit(const Vec3& normal, const Vec3& toEye, Rgb colour, const Material& material,
                        const Lighting& lighting) {
  if (material.glows) return {colour, Rgb{0, 0, 0}};
  const float up = 0.5f + 0.5f * normal.y();
  Rgb around = times(lighting.above * up + lighting.below * (1 - up), colour), first{0, 0, 0};
  for (std::size_t i = 0; i < lighting.lights.size(); ++i) {
    const Rgb by = litBy(lighting.lights[i], normal, toEye, colour, material);
    (i == 0 ? first : around) = (i == 0 ? first : around) + by;
  }
  return {around, first};
}

struct Shaded {
  Rgb colour;
  Vec3 normal = Vec3::Zero();  ///< in the eye's axes
  std::uint16_t object = 0;
};

void copyFine(const Samples& samples, Image<float>& into) {
  for (int y = samples.first; y < samples.end; ++y)
    std::copy_n(samples.over.begin() + static_cast<std::ptrdiff_t>(y - samples.first) * samples.width, samples.width,
                into.line(y).begin());
}

/// What a point of a mesh gives to the pixels of its faces: all of it runs evenly over a triangle.
struct alignas(64) Lit {
  enum : std::size_t { colour = 0, beam = 3, normal = 6, light = 9, across = 13, count = 16 };
  /// Light but for what shadows may take; what they may take; normal in the eye's axes; as the shadow map has it; where
  /// in the material's picture.
  std::array<float, count> part{};

  void put(std::size_t first, const Rgb& c) { part[first] = c.r, part[first + 1] = c.g, part[first + 2] = c.b; }
  [[nodiscard]] Rgb rgb(std::size_t first) const { return {part[first], part[first + 1], part[first + 2]}; }
  static Lit between(const Lit& a, const Lit& b, const Lit& c, const std::array<float, 3>& shares) {
    Lit out;
    const auto [u, v, w] = shares;
    for (std::size_t i = 0; i < count; ++i) out.part[i] = u * a.part[i] + v * b.part[i] + w * c.part[i];
    return out;
  }
};

/// All that shading needs, made once for a picture.
class Shading {
 public:
  Shading(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting)
      : meshes_(meshes),
        camera_(camera),
        lighting_(lighting),
        triangles_(meshes, camera, false),
        points_(meshes.size()) {
    if (lighting.shadows && !lighting.lights.empty()) {
      shadow_ = lighting.ready;
      if (shadow_ == nullptr) {
        own_.emplace(meshes, lighting.lights.front().from, lighting.soft);
        shadow_ = &*own_;
      }
    }
    // Light is computed once a point and runs evenly over its triangles.
    parallelItems(meshes.size(), [&](std::size_t m) {
      const Mesh& mesh = meshes[m];
      points_[m].resize(mesh.at.size());
      for (std::size_t i = 0; i < mesh.at.size(); ++i) {
        Lit& out = points_[m][i];
        const auto [around, first] =
            lit(mesh.normal[i], (camera.eye - mesh.at[i]).normalized(), mesh.colour[i], mesh.material, lighting);
        out.put(Lit::colour, shadow_ != nullptr ? around : around + first);
        const Vec3 normal = camera.look * mesh.normal[i];
        out.put(Lit::normal, {normal.x(), normal.y(), normal.z()});
        if (!mesh.across.empty())
          std::copy(mesh.across[i].begin(), mesh.across[i].end(), out.part.begin() + Lit::across);
        if (shadow_ == nullptr) continue;
        out.put(Lit::beam, first);
        const auto seen = shadow_->seen(mesh.at[i], mesh.normal[i]);
        std::copy(seen.begin(), seen.end(), out.part.begin() + Lit::light);
      }
    });
  }

  [[nodiscard]] std::size_t strips() const { return triangles_.strips(); }

  void paint(std::size_t strip, Rendered& out) const {
    Samples samples;
    triangles_.nearestIn(strip, samples);
    const auto width = static_cast<std::size_t>(samples.width);
    for (int y = samples.first / fine; y < samples.end / fine; ++y) {
      const std::size_t row = static_cast<std::size_t>(y * fine - samples.first) * width;
      for (int x = 0; x < camera_.size.width; ++x) {
        const std::size_t at = row + static_cast<std::size_t>(x * fine);
        const auto four = [at, width](const auto& of) {
          return std::array{of[at], of[at + 1], of[at + width], of[at + width + 1]};
        };
        resolve(x, y, {four(samples.winner), four(samples.over)}, out);
      }
    }
    if (!out.fine.empty()) copyFine(samples, out.fine);
  }

 private:
  struct Pixel {
    std::array<std::uint32_t, fine * fine> winner;
    std::array<float, fine * fine> over;
  };

  void resolve(int x, int y, const Pixel& pixel, Rendered& out) const {
    const auto& [names, over] = pixel;
    const auto put = [&](const Shaded& part) {
      out.object(x, y) = part.object;
      if (out.normal.empty()) return;
      const float length = part.normal.norm(), scale = length > 0 ? 1 / length : 0;
      out.normal(x, y) = {part.normal.x() * scale, part.normal.y() * scale, part.normal.z() * scale};
    };
    // The pixel's middle lies between its samples, and 1 / metres is straight across a face: what belongs together is
    // taken together.
    const float middle = 0.25f * (over[0] + over[1] + over[2] + over[3]);
    if (names[0] == names[1] && names[0] == names[2] && names[0] == names[3]) {
      const Shaded part = shaded(names[0], over[0], x, y, 0);
      out.colour(x, y) = part.colour;
      out.near(x, y) = middle;
      put(part);
      return;
    }
    // Samples of one triangle are shaded as one.
    std::array<Shaded, fine * fine> parts;
    Rgb sum{0, 0, 0};
    for (std::size_t s = 0; s < names.size(); ++s) {
      std::size_t same = 0;
      while (names[same] != names[s]) ++same;
      parts[s] = same < s ? parts[same] : shaded(names[s], over[s], x, y, static_cast<int>(s));
      sum = sum + parts[s].colour * (1.0f / (fine * fine));
    }
    out.colour(x, y) = sum;
    // Depth, normal and object are of what most samples show; of two halves, the nearer.
    std::size_t best = 0;
    int most = 0;
    for (std::size_t s = 0; s < names.size(); ++s) {
      const auto votes = static_cast<int>(std::count_if(
          parts.begin(), parts.end(), [&](const Shaded& other) { return other.object == parts[s].object; }));
      if (votes > most || (votes == most && over[s] > over[best])) most = votes, best = s;
    }
    const auto [least, greatest] = std::minmax_element(over.begin(), over.end());
    constexpr float together = 1.02f;
    const bool alike = *greatest <= together * *least;
    const bool whole = std::all_of(parts.begin(), parts.end(), [&](const Shaded& part) {
      return part.object == parts[best].object &&
             (alike || part.normal.dot(parts[best].normal) > 0.999f * part.normal.squaredNorm());
    });
    out.near(x, y) = whole ? middle : over[best];
    put(parts[best]);
  }

  [[nodiscard]] Shaded shaded(std::uint32_t winner, float over, int x, int y, int sample) const {
    if (winner == nobody) return {skyAt(x, y), Vec3::Zero(), 0};
    Shaded out = surface(winner, x * fine + sample % fine, y * fine + sample / fine);
    if (lighting_.veilLength > 0) {
      const float clear = std::exp(-1 / (std::max(over, 1e-4f) * lighting_.veilLength));
      out.colour = out.colour * clear + lighting_.veil * (1 - clear);
    }
    return out;
  }

  [[nodiscard]] Rgb skyAt(int x, int y) const {
    const auto width = static_cast<float>(camera_.size.width), height = static_cast<float>(camera_.size.height);
    const float focal = camera_.millimetres / 36 * width;
    const Vec3 ray(static_cast<float>(x) + 0.5f - 0.5f * width, 0.5f * height - static_cast<float>(y) - 0.5f, -focal);
    const float high = std::clamp(1.6f * camera_.look.col(1).dot(ray) / ray.norm(), 0.0f, 1.0f);
    return lighting_.skyRim * (1 - high) + lighting_.skyTop * high;
  }

  [[nodiscard]] Shaded surface(std::uint32_t winner, int sx, int sy) const {
    const Triangle& t = triangles_[winner];
    const auto shares = triangles_.sharesAt(t, static_cast<float>(sx) + 0.5f, static_cast<float>(sy) + 0.5f);
    const Mesh& mesh = meshes_[t.mesh];
    const auto& [a, b, c] = mesh.faces[t.face];
    const auto& points = points_[t.mesh];
    const Lit here = Lit::between(points[a], points[b], points[c], shares);
    Shaded out;
    out.object = mesh.object;
    out.colour = here.rgb(Lit::colour);
    out.normal = {here.part[Lit::normal], here.part[Lit::normal + 1], here.part[Lit::normal + 2]};
    if (shadow_ != nullptr) {
      const Rgb first = here.rgb(Lit::beam);
      if (first.r + first.g + first.b > 0) {
        ShadowMap::Seen seen;
        std::copy_n(here.part.begin() + Lit::light, seen.size(), seen.begin());
        out.colour = out.colour + first * (1 - shadow_->shadowAt(seen));
      }
    }
    if (mesh.material.picture != nullptr && here.part[Lit::across] >= 0)
      out.colour = times(out.colour, pictureAt(t, here, sx, sy));
    if (mesh.material.grain > 0) {
      const Vec3 at = (mesh.at[a] * shares[0] + mesh.at[b] * shares[1] + mesh.at[c] * shares[2]) /
                      std::max(1e-3f, mesh.material.grainSize);
      const float n = 0.65f * noise(at) + 0.35f * noise(2.7f * at);
      out.colour = out.colour * (1 + mesh.material.grain * 2 * (n - 0.5f));
    }
    return out;
  }

  /// What the material's picture has there.
  [[nodiscard]] Rgb pictureAt(const Triangle& t, const Lit& here, int sx, int sy) const {
    const Mesh& mesh = meshes_[t.mesh];
    const auto& [a, b, c] = mesh.faces[t.face];
    // How far one sample to the right and one down are in it.
    const auto step = [&](float dx, float dy) {
      const auto [u, v, w] =
          triangles_.sharesAt(t, static_cast<float>(sx) + 0.5f + dx, static_cast<float>(sy) + 0.5f + dy);
      const auto along = [&](std::size_t axis) {
        return u * mesh.across[a][axis] + v * mesh.across[b][axis] + w * mesh.across[c][axis] -
               here.part[Lit::across + axis];
      };
      return std::hypot(along(0), along(1));
    };
    return mesh.material.picture->at(here.part[Lit::across], here.part[Lit::across + 1],
                                     std::max(step(1, 0), step(0, 1)));
  }

  std::span<const Mesh> meshes_;
  const Camera& camera_;
  const Lighting& lighting_;
  Triangles triangles_;
  std::vector<std::vector<Lit>> points_;  ///< of each mesh
  std::optional<ShadowMap> own_;
  const ShadowMap* shadow_ = nullptr;
};

}  // namespace

Camera::Seen Camera::seen(const Vec3& at) const {
  const Vec3 p = look * (at - eye);
  const float focal = millimetres / 36 * static_cast<float>(size.width), far = -p.z();
  const float safe = std::max(far, 1e-4f);
  return {0.5f * static_cast<float>(size.width) + focal * p.x() / safe,
          0.5f * static_cast<float>(size.height) - focal * p.y() / safe, far};
}

Camera lookingAt(const Vec3& eye, const Vec3& target, float millimetres, Size size, float roll) {
  Camera out;
  out.eye = eye;
  out.millimetres = millimetres;
  out.size = size;
  const Vec3 back = (eye - target).normalized();
  const Vec3 upright = std::fabs(back.y()) > 0.999f ? Vec3(0, 0, -1) : Vec3(0, 1, 0);
  const Vec3 right = upright.cross(back).normalized(), up = back.cross(right);
  const float turn = roll * std::numbers::pi_v<float> / 180, c = std::cos(turn), s = std::sin(turn);
  out.look.row(0) = (right * c + up * s).transpose();
  out.look.row(1) = (up * c - right * s).transpose();
  out.look.row(2) = back.transpose();
  return out;
}

Rendered rendered(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting, StopToken stop,
                  Keep keep) {
  Rendered out{Image<Rgb>(camera.size), Image<float>(camera.size), Image<std::uint16_t>(camera.size), {}, {}};
  if (out.colour.empty()) return out;
  if (keep.normal) out.normal = Image<Rgb>(camera.size);
  if (keep.fine) out.fine = Image<float>(Size{camera.size.width * fine, camera.size.height * fine});
  const Shading shading(meshes, camera, lighting);
  throwIfStopped(stop);
  parallelItems(shading.strips(), [&](std::size_t strip) { shading.paint(strip, out); });
  throwIfStopped(stop);
  return out;
}

Image<float> nearestOf(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly) {
  Image<float> out(Size{camera.size.width * fine, camera.size.height * fine});
  if (out.empty()) return out;
  const Triangles triangles(meshes, camera, throwsOnly);
  parallelItems(triangles.strips(), [&](std::size_t strip) {
    Samples samples;
    triangles.nearestIn(strip, samples);
    copyFine(samples, out);
  });
  return out;
}

Mesh shadowOn(float ground, std::span<const Mesh> meshes, const Light& light, Rgb colour, std::uint16_t object) {
  Mesh out;
  out.object = object;
  out.material.glows = true;
  const float steep = std::max(0.15f, light.from.y());
  for (const Mesh& mesh : meshes) {
    const auto base = static_cast<std::uint32_t>(out.at.size());
    for (const Vec3& p : mesh.at) {
      const float high = std::max(0.0f, p.y() - ground);
      Vec3 down = p - light.from * (high / steep);
      down.y() = ground + 0.004f;
      out.at.push_back(down);
      out.colour.push_back(colour);
    }
    for (const auto& f : mesh.faces) out.faces.push_back({f[0] + base, f[1] + base, f[2] + base});
  }
  out.normal.assign(out.at.size(), Vec3(0, 1, 0));
  return out;
}

}  // namespace hscaffold::stage
