#include "core/stage/raster.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/stage/lit.h"
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

void copyFine(const Samples& samples, Image<float>& into) {
  for (int y = samples.first; y < samples.end; ++y) {
    const Patch::Run& run = samples.runs[static_cast<std::size_t>(y - samples.first) / fine];
    if (run.empty()) continue;
    const int left = run.left * fine;
    std::copy_n(samples.over.begin() + static_cast<std::ptrdiff_t>(y - samples.first) * samples.width + left,
                run.right * fine - left, into.line(y).begin() + left);
  }
}

/// All that shading needs, made once for a picture or a part of it.
class Shading {
 public:
  Shading(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting, const Patch& part)
      : meshes_(meshes),
        camera_(camera),
        lighting_(lighting),
        triangles_(meshes, camera, false, part),
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
      if (!triangles_.shows(m)) return;
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
    for (std::size_t m = 0; m < meshes.size(); ++m) {
      lit_.push_back({meshes[m].faces.data(), points_[m].data()});
      hasPattern_.push_back(meshes[m].material.picture != nullptr || meshes[m].material.grain > 0);
      objects_.push_back(meshes[m].object);
    }
    if (shadow_ != nullptr) field_ = shadow_->field();
  }

  [[nodiscard]] std::size_t strips() const { return triangles_.strips(); }

  void paint(std::size_t strip, Rendered& out) const {
    // Kept by each thread: as large as a picture's strip, and asked for thirty times a picture.
    static thread_local Samples samples;
    static thread_local Block block;
    triangles_.nearestIn(strip, samples);
    for (int y = samples.first / fine; y < samples.end / fine; ++y) {
      const Patch::Run& run = samples.runs[static_cast<std::size_t>(y - samples.first / fine)];
      for (int x = run.left; x < run.right; x += Block::widest) {
        block.left = x;
        block.y = y;
        block.width = std::min(Block::widest, run.right - x);
        take(block, samples);
        shade(block);
        put(block, out);
      }
    }
    if (!out.fine.empty()) copyFine(samples, out.fine);
  }

 private:
  static constexpr int perPixel = fine * fine;
  static constexpr std::uint32_t sky = 0xffffffffu;  ///< a part that is no place

  /// A pixel that shows several triangles, or one and the sky.
  struct Mixed {
    int at = 0;                                ///< in its block
    std::array<std::uint32_t, perPixel> part;  ///< of each sample; those of one triangle have one
    std::array<float, perPixel> over;
  };
  /// Some pixels of a row, and the places on triangles that are seen in them: few enough to stay near at hand.
  struct Block {
    static constexpr int widest = 128;
    static constexpr std::size_t mostPlaces = widest * perPixel;
    int left = 0, y = 0, width = 0;
    std::size_t count = 0, mixedCount = 0;  ///< places, and mixed pixels
    bool anySky = false;
    std::array<std::uint32_t, widest> part;  ///< of a pixel that is not mixed: a place by number, or `sky`
    std::array<float, widest> near;          ///< of its middle
    std::array<Mixed, widest> mixed;
    std::array<Rgb, widest> skies;  ///< of its pixels, where there is any
    std::array<LitPlace, mostPlaces> places;
    std::array<float, mostPlaces> over, shadow;
    std::array<Lit, mostPlaces> lit;
    std::array<std::uint32_t, mostPlaces> mesh;
    std::array<Rgb, mostPlaces> colour;
  };

  static void take(Block& block, const Samples& samples) {
    const auto width = static_cast<std::size_t>(samples.width);
    const std::size_t first =
        static_cast<std::size_t>(block.y * fine - samples.first) * width + static_cast<std::size_t>(block.left * fine);
    const std::uint32_t* name = samples.winner.data() + first;
    const float* over = samples.over.data() + first;
    const float left = static_cast<float>(block.left * fine), top = static_cast<float>(block.y * fine);
    std::uint32_t count = 0;
    std::size_t mixed = 0;
    bool anySky = false;
    const auto place = [&](std::uint32_t of, float x, float y, float near) {
      if (of == nobody) {
        anySky = true;
        return sky;
      }
      block.places[count] = {of, x, y};
      block.over[count] = near;
      return count++;
    };
    for (int i = 0; i < block.width; ++i, name += fine, over += fine) {
      const float x = left + static_cast<float>(i * fine);
      // The pixel's middle lies between its samples, and 1 / metres is straight across a face: what belongs together is
      // taken together.
      const float middle = 0.25f * ((over[0] + over[1]) + (over[width] + over[width + 1]));
      block.near[static_cast<std::size_t>(i)] = middle;
      if (name[0] == name[1] && name[0] == name[width] && name[0] == name[width + 1]) {
        block.part[static_cast<std::size_t>(i)] = place(name[0], x + 0.5f * fine, top + 0.5f * fine, middle);
        continue;
      }
      Mixed& pixel = block.mixed[mixed++];
      pixel.at = i;
      pixel.over = {over[0], over[1], over[width], over[width + 1]};
      const std::array<std::uint32_t, perPixel> names = {name[0], name[1], name[width], name[width + 1]};
      for (std::size_t s = 0; s < perPixel; ++s) {
        std::size_t same = 0;
        while (names[same] != names[s]) ++same;
        pixel.part[s] = same < s ? pixel.part[same]
                                 : place(names[s], x + static_cast<float>(s % fine) + 0.5f,
                                         top + static_cast<float>(s / fine) + 0.5f, pixel.over[s]);
      }
      block.part[static_cast<std::size_t>(i)] = pixel.part[0];
    }
    block.count = count;
    block.mixedCount = mixed;
    block.anySky = anySky;
  }

  /// Colours of a block's places, and of the sky behind them.
  void shade(Block& block) const {
    const std::span places(block.places.data(), block.count);
    raster_detail::lightAt(triangles_, lit_, places, block.lit.data(), block.mesh.data());
    if (shadow_ != nullptr)
      raster_detail::shadowsAt(field_, std::span(block.lit.data(), block.count), block.shadow.data());
    for (std::size_t i = 0; i < block.count; ++i) {
      const Lit& here = block.lit[i];
      Rgb colour = here.rgb(Lit::colour);
      if (shadow_ != nullptr) colour = colour + here.rgb(Lit::beam) * (1 - block.shadow[i]);
      if (hasPattern_[block.mesh[i]]) colour = patterned(block.places[i], here, colour);
      if (lighting_.veilLength > 0) {
        const float clear = std::exp(-1 / (std::max(block.over[i], 1e-4f) * lighting_.veilLength));
        colour = colour * clear + lighting_.veil * (1 - clear);
      }
      block.colour[i] = colour;
    }
    if (block.anySky) skiesOf(block);
  }

  void put(const Block& block, Rendered& out) const {
    Rgb* colours = &out.colour(block.left, block.y);
    float* nears = &out.near(block.left, block.y);
    std::uint16_t* objects = &out.object(block.left, block.y);
    const auto width = static_cast<std::size_t>(block.width);
    for (std::size_t i = 0; i < width; ++i)
      colours[i] = block.part[i] == sky ? block.skies[i] : block.colour[block.part[i]];
    for (std::size_t i = 0; i < width; ++i) objects[i] = objectOf(block, block.part[i]);
    std::copy_n(block.near.begin(), width, nears);
    Rgb* normals = out.normal.empty() ? nullptr : &out.normal(block.left, block.y);
    for (std::size_t i = 0; normals != nullptr && i < width; ++i) normals[i] = unitNormalOf(block, block.part[i]);
    for (const Mixed& pixel : std::span(block.mixed.data(), block.mixedCount)) {
      const auto at = static_cast<std::size_t>(pixel.at);
      Rgb sum{0, 0, 0};
      for (const std::uint32_t part : pixel.part)
        sum = sum + (part == sky ? block.skies[at] : block.colour[part]) * (1.0f / perPixel);
      colours[at] = sum;
      const std::size_t best = mostSeen(block, pixel);
      if (!isEven(block, pixel, best)) nears[at] = pixel.over[best];
      objects[at] = objectOf(block, pixel.part[best]);
      if (normals != nullptr) normals[at] = unitNormalOf(block, pixel.part[best]);
    }
  }

  /// Depth, normal and object of a pixel are of what most samples show; of two halves, the nearer.
  [[nodiscard]] std::size_t mostSeen(const Block& block, const Mixed& pixel) const {
    std::array<std::uint16_t, perPixel> object;
    for (std::size_t s = 0; s < object.size(); ++s) object[s] = objectOf(block, pixel.part[s]);
    std::size_t best = 0;
    int most = 0;
    for (std::size_t s = 0; s < object.size(); ++s) {
      const auto votes = static_cast<int>(std::count(object.begin(), object.end(), object[s]));
      if (votes > most || (votes == most && pixel.over[s] > pixel.over[best])) most = votes, best = s;
    }
    return best;
  }

  /// Whether a pixel shows one surface that goes on over it.
  [[nodiscard]] bool isEven(const Block& block, const Mixed& pixel, std::size_t best) const {
    const auto [least, greatest] = std::minmax_element(pixel.over.begin(), pixel.over.end());
    constexpr float together = 1.02f;
    const bool alike = *greatest <= together * *least;
    const std::uint16_t object = objectOf(block, pixel.part[best]);
    const Vec3 normal = normalOf(block, pixel.part[best]);
    return std::all_of(pixel.part.begin(), pixel.part.end(), [&](std::uint32_t part) {
      if (objectOf(block, part) != object) return false;
      if (alike) return true;
      const Vec3 other = normalOf(block, part);
      return other.dot(normal) > 0.999f * other.squaredNorm();
    });
  }

  [[nodiscard]] std::uint16_t objectOf(const Block& block, std::uint32_t part) const {
    return part == sky ? std::uint16_t{0} : objects_[block.mesh[part]];
  }
  [[nodiscard]] static Vec3 normalOf(const Block& block, std::uint32_t part) {
    if (part == sky) return Vec3::Zero();
    const auto& of = block.lit[part].part;
    return {of[Lit::normal], of[Lit::normal + 1], of[Lit::normal + 2]};
  }

  [[nodiscard]] static Rgb unitNormalOf(const Block& block, std::uint32_t part) {
    const Vec3 normal = normalOf(block, part);
    const float length = normal.norm(), scale = length > 0 ? 1 / length : 0;
    return {normal.x() * scale, normal.y() * scale, normal.z() * scale};
  }

  /// Brighter towards the rim, by how steeply the line of sight rises.
  void skiesOf(Block& block) const {
    const auto width = static_cast<float>(camera_.size.width), height = static_cast<float>(camera_.size.height);
    const float focal = camera_.millimetres / 36 * width, up = 0.5f * height - static_cast<float>(block.y) - 0.5f;
    const float left = static_cast<float>(block.left) + 0.5f - 0.5f * width;
    const Vec3 vertical = camera_.look.col(1);
    const float rises = vertical.y() * up - vertical.z() * focal, across = vertical.x(), rest = up * up + focal * focal;
    std::array<float, Block::widest> high;
    for (int i = 0; i < Block::widest; ++i) {
      const float x = left + static_cast<float>(i);
      const float steep = 1.6f * (across * x + rises) / std::sqrt(x * x + rest);
      high[static_cast<std::size_t>(i)] = std::min(std::max(steep, 0.0f), 1.0f);
    }
    for (std::size_t i = 0; i < block.skies.size(); ++i)
      block.skies[i] = lighting_.skyRim * (1 - high[i]) + lighting_.skyTop * high[i];
  }

  /// With the picture and the grain of its material.
  [[nodiscard]] Rgb patterned(const LitPlace& place, const Lit& here, Rgb colour) const {
    const Triangle& t = triangles_[place.triangle];
    const Mesh& mesh = meshes_[t.mesh];
    if (mesh.material.picture != nullptr && here.part[Lit::across] >= 0)
      colour = times(colour, pictureAt(t, here, place));
    if (mesh.material.grain > 0) {
      const auto shares = triangles_.sharesAt(t, place.x, place.y);
      const auto& [a, b, c] = mesh.faces[t.face];
      const Vec3 at = (mesh.at[a] * shares[0] + mesh.at[b] * shares[1] + mesh.at[c] * shares[2]) /
                      std::max(1e-3f, mesh.material.grainSize);
      const float n = 0.65f * noise(at) + 0.35f * noise(2.7f * at);
      colour = colour * (1 + mesh.material.grain * 2 * (n - 0.5f));
    }
    return colour;
  }

  /// What the material's picture has there.
  [[nodiscard]] Rgb pictureAt(const Triangle& t, const Lit& here, const LitPlace& place) const {
    const Mesh& mesh = meshes_[t.mesh];
    const auto& corners = mesh.faces[t.face];
    // How far one sample to the right and one down are in it.
    const auto step = [&](float dx, float dy) {
      const auto shares = triangles_.sharesAt(t, place.x + dx, place.y + dy);
      const auto along = [&](std::size_t axis) {
        return shares[0] * mesh.across[corners[0]][axis] + shares[1] * mesh.across[corners[1]][axis] +
               shares[2] * mesh.across[corners[2]][axis] - here.part[Lit::across + axis];
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
  std::vector<LitMesh> lit_;              ///< those, by mesh
  std::vector<std::uint8_t> hasPattern_;  ///< by mesh: its material has a picture or grain
  std::vector<std::uint16_t> objects_;    ///< by mesh
  std::optional<ShadowMap> own_;
  const ShadowMap* shadow_ = nullptr;
  ShadowField field_;
};

}  // namespace

Camera::Seen Camera::seen(const Vec3& at) const {
  const Vec3 p = look * (at - eye);
  const float focal = millimetres / 36 * static_cast<float>(size.width), far = -p.z();
  const float safe = std::max(far, 1e-4f);
  return {0.5f * static_cast<float>(size.width) + focal * p.x() / safe,
          0.5f * static_cast<float>(size.height) - focal * p.y() / safe, far};
}

Patch Camera::partOf(std::span<const Vec3> hull) const {
  constexpr float farthest = 1e6f;  // pixels
  constexpr double rim = 2;
  std::vector<Point> points;
  for (const Vec3& each : hull) {
    const Seen at = seen(each);
    if (!(at.ahead() && std::abs(at.x) < farthest && std::abs(at.y) < farthest)) return patchOf(boxOf(size));
    points.push_back({static_cast<double>(at.x), static_cast<double>(at.y)});
  }
  return hullOf(points, rim, size);
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
  renderPart(meshes, camera, lighting, patchOf(boxOf(camera.size)), out, stop);
  return out;
}

void renderPart(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting, const Patch& part,
                Rendered& into, const StopToken& stop) {
  const Shading shading(meshes, camera, lighting, part);
  throwIfStopped(stop);
  parallelItems(shading.strips(), [&](std::size_t strip) { shading.paint(strip, into); });
  throwIfStopped(stop);
}

Image<float> nearestOf(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly) {
  Image<float> out(Size{camera.size.width * fine, camera.size.height * fine});
  nearestInto(meshes, camera, throwsOnly, patchOf(boxOf(camera.size)), out);
  return out;
}

void nearestInto(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly, const Patch& part,
                 Image<float>& into) {
  const Triangles triangles(meshes, camera, throwsOnly, part);
  parallelItems(triangles.strips(), [&](std::size_t strip) {
    static thread_local Samples samples;
    triangles.nearestIn(strip, samples);
    copyFine(samples, into);
  });
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
