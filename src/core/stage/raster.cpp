#include "core/stage/raster.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/stage/shadow_map.h"

namespace hscaffold::stage {
namespace {

constexpr float nearest = 0.05f;  ///< metres: what is closer to the eye is cut off
constexpr int fine = 2;           ///< samples along each side of a pixel

/// A point on its way to the screen.
struct Corner {
  float x = 0, y = 0;  ///< in samples
  float over = 0;      ///< 1 / metres
};

/// Shares of a triangle's corners at a place of the screen: each is `start + right * x + down * y`.
struct Edges {
  std::array<float, 3> right{}, down{}, start{};
  Edges() = default;
  explicit Edges(const std::array<Corner, 3>& at) {
    const auto& [p, q, r] = at;
    const float area = (q.x - p.x) * (r.y - p.y) - (r.x - p.x) * (q.y - p.y);
    const float scale = area != 0 ? 1 / area : 0;
    right = {(q.y - r.y) * scale, (r.y - p.y) * scale, (p.y - q.y) * scale};
    down = {(r.x - q.x) * scale, (p.x - r.x) * scale, (q.x - p.x) * scale};
    start = {(q.x * r.y - r.x * q.y) * scale, (r.x * p.y - p.x * r.y) * scale, (p.x * q.y - q.x * p.y) * scale};
  }
};

struct Triangle {
  Edges edges;
  float overRight = 0, overDown = 0;  ///< how 1 / metres grows
  float x = 0, y = 0, over = 0;       ///< and what it is at the first corner
  Vec3 right, down, start;            ///< shares of the mesh's three points at a place, up to a common factor
  float left = 0, top = 0, rightmost = 0, bottom = 0;
  std::uint32_t mesh = 0, face = 0;

  /// @param share  of the mesh's points at each corner: cut triangles have corners in between.
  Triangle(const std::array<Corner, 3>& at, const std::array<Vec3, 3>& share, std::uint32_t ofMesh,
           std::uint32_t ofFace)
      : edges(at), right(Vec3::Zero()), down(Vec3::Zero()), start(Vec3::Zero()), mesh(ofMesh), face(ofFace) {
    // From a corner on, since far away all of it is alike but for the last digits.
    x = at[0].x, y = at[0].y, over = at[0].over;
    for (std::size_t i = 0; i < 3; ++i) {
      const float more = at[i].over - over;
      overRight += edges.right[i] * more;
      overDown += edges.down[i] * more;
      right += share[i] * (edges.right[i] * at[i].over);
      down += share[i] * (edges.down[i] * at[i].over);
      start += share[i] * (edges.start[i] * at[i].over);
    }
    std::tie(left, rightmost) = std::minmax({at[0].x, at[1].x, at[2].x});
    std::tie(top, bottom) = std::minmax({at[0].y, at[1].y, at[2].y});
  }
};

/// A sample's winner.
constexpr std::uint32_t nobody = 0xffffffffu;

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

/// A mesh's triangles before the eye, cut where they pass it.
std::vector<Triangle> trianglesOf(const Mesh& mesh, std::uint32_t number, const Camera& camera) {
  std::vector<Triangle> out;
  out.reserve(mesh.faces.size());
  const float focal = camera.millimetres / 36 * static_cast<float>(camera.size.width) * fine;
  const float cx = 0.5f * static_cast<float>(camera.size.width) * fine,
              cy = 0.5f * static_cast<float>(camera.size.height) * fine;
  std::vector<Vec3> eyes;
  eyes.reserve(mesh.at.size());
  for (const Vec3& p : mesh.at) eyes.push_back(camera.look * (p - camera.eye));
  for (std::uint32_t f = 0; f < mesh.faces.size(); ++f) {
    struct Cut {
      Vec3 at, share;
    };
    std::array<Cut, 4> kept;
    std::size_t count = 0;
    const auto& face = mesh.faces[f];
    for (std::size_t i = 0; i < 3; ++i) {
      const Vec3 &a = eyes[face[i]], &b = eyes[face[(i + 1) % 3]];
      const float fa = -a.z() - nearest, fb = -b.z() - nearest;
      const Vec3 sa = Vec3::Unit(static_cast<Eigen::Index>(i)), sb = Vec3::Unit(static_cast<Eigen::Index>((i + 1) % 3));
      if (fa > 0) kept[count++] = {a, sa};
      if ((fa > 0) != (fb > 0)) {
        const float t = fa / (fa - fb);
        kept[count++] = {a + t * (b - a), sa + t * (sb - sa)};
      }
    }
    for (std::size_t k = 2; k < count; ++k) {
      std::array<Corner, 3> at;
      std::array<Vec3, 3> share;
      const std::array<const Cut*, 3> corners = {&kept[0], &kept[k - 1], &kept[k]};
      for (std::size_t i = 0; i < 3; ++i) {
        const Vec3& p = corners[i]->at;
        const float over = -1 / p.z();
        at[i] = {cx + focal * p.x() * over, cy - focal * p.y() * over, over};
        share[i] = corners[i]->share;
      }
      // Whatever lies beside the picture is none of its business.
      const auto [left, right] = std::minmax({at[0].x, at[1].x, at[2].x});
      const auto [top, bottom] = std::minmax({at[0].y, at[1].y, at[2].y});
      if (right < 0 || bottom < 0 || left > 2 * cx || top > 2 * cy) continue;
      out.emplace_back(at, share, number, f);
    }
  }
  return out;
}

/// All triangles before the eye.
std::vector<Triangle> onScreen(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly) {
  std::vector<std::vector<Triangle>> parts(meshes.size());
  parallelItems(meshes.size(), [&](std::size_t m) {
    if (!throwsOnly || meshes[m].material.throws)
      parts[m] = trianglesOf(meshes[m], static_cast<std::uint32_t>(m), camera);
  });
  std::size_t count = 0;
  for (const auto& part : parts) count += part.size();
  std::vector<Triangle> out;
  out.reserve(count);
  for (const auto& part : parts) out.insert(out.end(), part.begin(), part.end());
  return out;
}

/// Rows of pixels that are painted together, and the triangles that reach into each such strip, in their order.
constexpr int stripRows = 32;
std::vector<std::vector<std::uint32_t>> stripsOf(std::span<const Triangle> triangles, int rows) {
  std::vector<std::vector<std::uint32_t>> out(static_cast<std::size_t>((rows + stripRows - 1) / stripRows));
  const auto last = static_cast<int>(out.size()) - 1;
  for (std::uint32_t t = 0; t < triangles.size(); ++t) {
    constexpr float high = stripRows * fine;
    const int from = static_cast<int>(std::max(0.0f, triangles[t].top) / high),
              to = std::min(last, static_cast<int>(triangles[t].bottom / high));
    for (int strip = from; strip <= to; ++strip) out[static_cast<std::size_t>(strip)].push_back(t);
  }
  return out;
}

struct Samples {
  int width = 0;
  std::vector<float> over;
  std::vector<std::uint32_t> winner;
};

/// Rounded up and down, of what is not negative: the library's own are calls.
int upOf(float v) {
  const int whole = static_cast<int>(v);
  return static_cast<float>(whole) < v ? whole + 1 : whole;
}

void draw(const Triangle& t, std::uint32_t name, int first, int end, Samples& into) {
  const auto within = [](float v, int from, int to) {
    return std::clamp(v, static_cast<float>(from), static_cast<float>(to));
  };
  const int x0 = upOf(within(t.left - 0.5f, 0, into.width)),
            x1 = t.rightmost < 0.5f ? -1 : static_cast<int>(within(t.rightmost - 0.5f, 0, into.width - 1));
  const int y0 = upOf(within(t.top - 0.5f, first, end)),
            y1 = t.bottom - 0.5f < static_cast<float>(first)
                     ? first - 1
                     : static_cast<int>(within(t.bottom - 0.5f, first, end - 1));
  if (x0 > x1 || y0 > y1) return;
  const Edges& e = t.edges;
  if (e.right[0] == 0 && e.right[1] == 0 && e.right[2] == 0) return;
  std::array<float, 3> inverse;
  for (std::size_t k = 0; k < 3; ++k) inverse[k] = e.right[k] != 0 ? 1 / e.right[k] : 0;
  for (int y = y0; y <= y1; ++y) {
    const float py = static_cast<float>(y) + 0.5f;
    // From where to where all three shares are at least 0.
    float least = static_cast<float>(x0), most = static_cast<float>(x1);
    for (std::size_t k = 0; k < 3; ++k) {
      const float at = e.start[k] + e.down[k] * py + 0.5f * e.right[k];
      if (e.right[k] > 0)
        least = std::max(least, -at * inverse[k]);
      else if (e.right[k] < 0)
        most = std::min(most, -at * inverse[k]);
      else if (at < 0)
        most = -1;
    }
    if (!(least <= most)) continue;
    const int begin = upOf(least), count = static_cast<int>(most) - begin + 1;
    const auto from = static_cast<float>(begin);
    const float over = t.over + t.overDown * (py - t.y) + t.overRight * (from + 0.5f - t.x);
    const std::size_t row =
        static_cast<std::size_t>(y - first) * static_cast<std::size_t>(into.width) + static_cast<std::size_t>(begin);
    float* overs = into.over.data() + row;
    std::uint32_t* winners = into.winner.data() + row;
    for (int i = 0; i < count; ++i) {
      const float here = over + t.overRight * static_cast<float>(i);
      const bool wins = here > overs[i];
      overs[i] = wins ? here : overs[i];
      winners[i] = wins ? name : winners[i];
    }
  }
}

struct Shaded {
  Rgb colour;
  Vec3 normal = Vec3::Zero();  ///< in the eye's axes
  std::uint16_t object = 0;
};

/// All that shading needs, made once for a picture.
class Shading {
 public:
  Shading(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting)
      : meshes_(meshes),
        camera_(camera),
        lighting_(lighting),
        triangles_(onScreen(meshes, camera, false)),
        light_(meshes.size()),
        beam_(meshes.size()) {
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
      light_[m].reserve(mesh.at.size());
      if (shadow_) beam_[m].reserve(mesh.at.size());
      for (std::size_t i = 0; i < mesh.at.size(); ++i) {
        const auto [around, first] =
            lit(mesh.normal[i], (camera.eye - mesh.at[i]).normalized(), mesh.colour[i], mesh.material, lighting);
        light_[m].push_back(shadow_ ? around : around + first);
        if (shadow_) beam_[m].push_back(first);
      }
    });
    strips_ = stripsOf(triangles_, camera.size.height);
  }

  [[nodiscard]] std::size_t strips() const { return strips_.size(); }

  void paint(std::size_t strip, Rendered& out) const {
    const int first = static_cast<int>(strip) * stripRows, end = std::min(camera_.size.height, first + stripRows);
    Samples samples;
    samples.width = camera_.size.width * fine;
    const auto count = static_cast<std::size_t>(samples.width) * static_cast<std::size_t>((end - first) * fine);
    samples.over.assign(count, 0.0f);
    samples.winner.assign(count, nobody);
    for (const std::uint32_t t : strips_[strip]) draw(triangles_[t], t, first * fine, end * fine, samples);
    for (int y = first; y < end; ++y)
      for (int x = 0; x < camera_.size.width; ++x) {
        Pixel pixel;
        for (int s = 0; s < fine * fine; ++s) {
          const auto place =
              static_cast<std::size_t>((y - first) * fine + s / fine) * static_cast<std::size_t>(samples.width) +
              static_cast<std::size_t>(x * fine + s % fine);
          pixel.winner[static_cast<std::size_t>(s)] = samples.winner[place];
          pixel.over[static_cast<std::size_t>(s)] = samples.over[place];
        }
        resolve(x, y, pixel, out);
      }
  }

 private:
  struct Pixel {
    std::array<std::uint32_t, fine * fine> winner;
    std::array<float, fine * fine> over;
  };

  void resolve(int x, int y, const Pixel& pixel, Rendered& out) const {
    const auto& names = pixel.winner;
    std::array<Shaded, fine * fine> parts;
    std::size_t best = 0;
    bool whole = true;
    if (std::all_of(names.begin(), names.end(), [&](std::uint32_t name) { return name == names[0]; })) {
      parts[0] = shaded(names[0], pixel.over[0], x, y, 0);
      out.colour(x, y) = parts[0].colour;
    } else {
      // Samples of one triangle are shaded as one.
      Rgb sum{0, 0, 0};
      for (std::size_t s = 0; s < names.size(); ++s) {
        std::size_t same = 0;
        while (names[same] != names[s]) ++same;
        parts[s] = same < s ? parts[same] : shaded(names[s], pixel.over[s], x, y, static_cast<int>(s));
        sum = sum + parts[s].colour * (1.0f / (fine * fine));
      }
      out.colour(x, y) = sum;
      // Depth, normal and object are of what most samples show; of two halves, the nearer.
      int most = 0;
      for (std::size_t s = 0; s < names.size(); ++s) {
        const auto votes = static_cast<int>(std::count_if(
            parts.begin(), parts.end(), [&](const Shaded& other) { return other.object == parts[s].object; }));
        if (votes > most || (votes == most && pixel.over[s] > pixel.over[best])) most = votes, best = s;
      }
      const auto [least, greatest] = std::minmax_element(pixel.over.begin(), pixel.over.end());
      constexpr float together = 1.02f;
      const bool alike = *greatest <= together * *least;
      whole = std::all_of(parts.begin(), parts.end(), [&](const Shaded& part) {
        return part.object == parts[best].object &&
               (alike || part.normal.dot(parts[best].normal) > 0.999f * part.normal.squaredNorm());
      });
    }
    // The pixel's middle lies between its samples, and 1 / metres is straight across a face: what belongs together is
    // taken together.
    out.near(x, y) = whole ? 0.25f * (pixel.over[0] + pixel.over[1] + pixel.over[2] + pixel.over[3]) : pixel.over[best];
    out.object(x, y) = parts[best].object;
    const Vec3 n = names[best] == nobody ? Vec3::Zero() : parts[best].normal.normalized();
    out.normal(x, y) = {n.x(), n.y(), n.z()};
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
    const float px = static_cast<float>(sx) + 0.5f, py = static_cast<float>(sy) + 0.5f;
    float u = t.start[0] + t.right[0] * px + t.down[0] * py, v = t.start[1] + t.right[1] * px + t.down[1] * py,
          w = t.start[2] + t.right[2] * px + t.down[2] * py;
    const float whole = 1 / std::max(1e-9f, u + v + w);
    u *= whole;
    v *= whole;
    w *= whole;
    const Vec3 weights(u, v, w);
    const Mesh& mesh = meshes_[t.mesh];
    const auto& face = mesh.faces[t.face];
    const std::uint32_t a = face[0], b = face[1], c = face[2];
    const auto between = [&](const std::vector<Vec3>& of) {
      const Vec3 &p = of[a], &q = of[b], &r = of[c];
      return Vec3(u * p.x() + v * q.x() + w * r.x(), u * p.y() + v * q.y() + w * r.y(),
                  u * p.z() + v * q.z() + w * r.z());
    };
    const auto& light = light_[t.mesh];
    Shaded out;
    out.object = mesh.object;
    out.colour = light[a] * u + light[b] * v + light[c] * w;
    const Vec3 normal = between(mesh.normal);
    const auto& look = camera_.look;
    out.normal = {look(0, 0) * normal.x() + look(0, 1) * normal.y() + look(0, 2) * normal.z(),
                  look(1, 0) * normal.x() + look(1, 1) * normal.y() + look(1, 2) * normal.z(),
                  look(2, 0) * normal.x() + look(2, 1) * normal.y() + look(2, 2) * normal.z()};
    if (shadow_) {
      const auto& beam = beam_[t.mesh];
      const Rgb first = beam[a] * u + beam[b] * v + beam[c] * w;
      if (first.r + first.g + first.b > 0)
        out.colour = out.colour + first * (1 - shadow_->shadowAt(between(mesh.at), normal));
    }
    if (mesh.material.grain > 0) {
      const Vec3 at = (mesh.at[a] * weights[0] + mesh.at[b] * weights[1] + mesh.at[c] * weights[2]) /
                      std::max(1e-3f, mesh.material.grainSize);
      const float n = 0.65f * noise(at) + 0.35f * noise(2.7f * at);
      out.colour = out.colour * (1 + mesh.material.grain * 2 * (n - 0.5f));
    }
    return out;
  }

  std::span<const Mesh> meshes_;
  const Camera& camera_;
  const Lighting& lighting_;
  std::vector<Triangle> triangles_;
  std::vector<std::vector<Rgb>> light_;  ///< of points; without what shadows may take
  std::vector<std::vector<Rgb>> beam_;   ///< what shadows may take
  std::optional<ShadowMap> own_;
  const ShadowMap* shadow_ = nullptr;
  std::vector<std::vector<std::uint32_t>> strips_;
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

Rendered rendered(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting, StopToken stop) {
  Rendered out{Image<Rgb>(camera.size), Image<float>(camera.size), Image<Rgb>(camera.size),
               Image<std::uint16_t>(camera.size)};
  if (out.colour.empty()) return out;
  const Shading shading(meshes, camera, lighting);
  throwIfStopped(stop);
  parallelItems(shading.strips(), [&](std::size_t strip) { shading.paint(strip, out); });
  throwIfStopped(stop);
  return out;
}

Image<float> nearestOf(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly) {
  Image<float> out(Size{camera.size.width * fine, camera.size.height * fine});
  if (out.empty()) return out;
  const auto triangles = onScreen(meshes, camera, throwsOnly);
  const auto strips = stripsOf(triangles, camera.size.height);
  parallelItems(strips.size(), [&](std::size_t strip) {
    const int first = static_cast<int>(strip) * stripRows * fine,
              end = std::min(camera.size.height * fine, first + stripRows * fine);
    Samples samples;
    samples.width = out.width();
    const auto count = static_cast<std::size_t>(samples.width) * static_cast<std::size_t>(end - first);
    samples.over.assign(count, 0.0f);
    samples.winner.assign(count, nobody);
    for (const std::uint32_t t : strips[strip]) draw(triangles[t], 0, first, end, samples);
    for (int y = first; y < end; ++y)
      std::copy_n(samples.over.begin() + static_cast<std::ptrdiff_t>(y - first) * samples.width, samples.width,
                  out.line(y).begin());
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
