#include "raymarch.h"

#include "core/engine/standin/noise.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace almanac {
namespace {

using hscaffold::Rgb;
using hscaffold::standin::mixed;
using hscaffold::standin::signedUnit;

struct Tracer {
  const Scene& scene;

  [[nodiscard]] bool trace(Vec from, Vec way, float& t, Surface& found) const {
    t = 0.02f;
    for (int i = 0; i < 220 && t < scene.reach; ++i) {
      found = scene.surface(from + way * t);
      if (found.distance < 0.0006f * t + 0.0004f) return true;
      t += found.distance * 0.85f;
    }
    return false;
  }
  [[nodiscard]] Vec normal(Vec p, float t) const {
    const float e = 0.0008f * std::fmax(1.0f, t);
    const auto d = [&](float x, float y, float z) { return scene.surface(p + Vec{x, y, z}).distance; };
    return unit({d(e, 0, 0) - d(-e, 0, 0), d(0, e, 0) - d(0, -e, 0), d(0, 0, e) - d(0, 0, -e)});
  }
  /// Share of the sun that gets through, soft with distance.
  [[nodiscard]] float lit(Vec p) const {
    float t = 0.02f, light = 1;
    for (int i = 0; i < 48 && t < 14; ++i) {
      const float d = scene.surface(p + scene.sun * t).distance;
      if (d < 0.0006f) return 0;
      light = std::fmin(light, 14 * d / t);
      t += std::fmax(0.015f, d * 0.9f);
    }
    return light * light * (3 - 2 * light);
  }
  [[nodiscard]] float open(Vec p, Vec n) const {
    float hidden = 0, weight = 1;
    for (int i = 1; i <= 5; ++i) {
      const float h = 0.07f * static_cast<float>(i * i) * 0.5f;
      hidden += weight * std::fmax(0.0f, h - scene.surface(p + n * h).distance) / h;
      weight *= 0.6f;
    }
    return std::fmax(0.15f, 1 - 0.55f * hidden);
  }
  [[nodiscard]] Rgb shade(Vec from, Vec way, int bounces) const {
    float t = 0;
    Surface found;
    if (!trace(from, way, t, found)) return scene.sky(way);
    const Vec p = from + way * t, n = normal(p, t);
    float shine = 0;
    const Rgb base = scene.colour(found.material, p, n, shine);
    const float sun = std::fmax(0.0f, dot(n, scene.sun)) * lit(p + n * 0.01f);
    const float sky = (0.55f + 0.45f * n.y) * open(p, n);
    const float bounce =
        std::fmax(0.0f, -n.y) * 0.25f + std::fmax(0.0f, dot(n, {-scene.sun.x, 0, -scene.sun.z})) * 0.12f;
    const auto light = [&](float b, float sunPart, float skyPart) {
      return b * (sun * sunPart + sky * skyPart + bounce * sunPart * 0.5f);
    };
    Rgb c{light(base.r, scene.sunColour.r, scene.skyColour.r), light(base.g, scene.sunColour.g, scene.skyColour.g),
          light(base.b, scene.sunColour.b, scene.skyColour.b)};
    if (shine > 0 && bounces > 0) {
      const Vec mirrored = way - n * (2 * dot(way, n));
      const float grazing = std::pow(1 - std::fmax(0.0f, -dot(way, n)), 4.0f);
      const float share = shine * (0.12f + 0.88f * grazing);
      c = c * (1 - share) + shade(p + n * 0.01f, mirrored, bounces - 1) * share;
    }
    const float clear = std::exp(-scene.fog * t);
    return c * clear + scene.fogColour * (1 - clear);
  }
};

/// Lines of sight through places of a picture.
struct Sight {
  Vec forward, right, up;
  float lens;
  hscaffold::Size size;

  Sight(const Camera& camera, hscaffold::Size frame)
      : forward(unit(camera.target - camera.eye)), lens(camera.lens), size(frame) {
    const Vec upright{std::sin(camera.roll), std::cos(camera.roll), 0.0001f};
    right = unit(cross(upright, forward));
    up = cross(forward, right);
  }
  /// Of unit length; x and y in pixels.
  [[nodiscard]] Vec through(float x, float y) const {
    const auto height = static_cast<float>(size.height);
    const float u = (2 * x - static_cast<float>(size.width)) / height, v = 1 - 2 * y / height;
    return unit(right * u + up * v + forward * lens);
  }
};

}  // namespace

hscaffold::Image<float> nearness(const Scene& scene, hscaffold::Size size) {
  const Tracer tracer{scene};
  const Sight sight(scene.camera, size);
  hscaffold::Image<float> out(size);
  hscaffold::parallelRows(
      size.height,
      [&](int first, int end) {
        for (int y = first; y < end; ++y) {
          for (int x = 0; x < size.width; ++x) {
            const Vec way = sight.through(static_cast<float>(x) + 0.5f, static_cast<float>(y) + 0.5f);
            float t = 0;
            Surface found;
            if (tracer.trace(scene.camera.eye, way, t, found)) out(x, y) = 1 / (t * dot(way, sight.forward));
          }
        }
      },
      4);
  return out;
}

hscaffold::Image<Rgb> photograph(const Scene& scene, hscaffold::Size size, std::uint64_t seed) {
  const Tracer tracer{scene};
  const Sight sight(scene.camera, size);
  hscaffold::Image<Rgb> out(size);
  hscaffold::parallelRows(
      size.height,
      [&](int first, int end) {
        for (int y = first; y < end; ++y) {
          for (int x = 0; x < size.width; ++x) {
            Rgb sum;
            for (const auto& [ox, oy] : {std::pair{0.25f, 0.35f}, {0.75f, 0.65f}}) {
              const Vec way = sight.through(static_cast<float>(x) + ox, static_cast<float>(y) + oy);
              sum = sum + tracer.shade(scene.camera.eye, way, 1) * 0.5f;
            }
            out(x, y) = sum;
          }
        }
      },
      4);
  out = hscaffold::gaussianBlur(out.view(), 0.6f);
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const float u = static_cast<float>(x) / static_cast<float>(size.width) - 0.5f,
                  v = static_cast<float>(y) / static_cast<float>(size.height) - 0.5f;
      const float corner = 1 - 0.6f * (u * u + v * v);
      const auto expose = [&](float value, std::uint64_t channel) {
        const float grain =
            signedUnit(mixed(seed, static_cast<std::uint64_t>(y) * 65536 + static_cast<std::uint64_t>(x), channel));
        const float light = std::fmax(0.0f, value * corner);
        const float toned = light * (1 + light * 0.18f) / (1 + 0.62f * light);
        return std::fmin(1.0f, std::fmax(0.0f, toned + 0.012f * grain * (0.25f + std::sqrt(toned))));
      };
      Rgb& c = out(x, y);
      c = {expose(c.r, 1), expose(c.g, 2), expose(c.b, 3)};
    }
  }
  return out;
}

}  // namespace almanac
