/// From surfaces to a picture: colour, depth, normals and objects, by a z-buffer with four samples a pixel; each sample
/// that a triangle wins is shaded once a pixel (deferred, after a visibility buffer: Burns and Hunt 2013).
#pragma once

#include <Eigen/Core>
#include <optional>
#include <span>
#include <vector>

#include "core/image/patch.h"
#include "core/problem.h"
#include "core/stage/mesh.h"

namespace hscaffold::stage {

struct Camera {
  static constexpr float nearest = 0.05f;  ///< metres: what is closer to the eye is cut off
  Vec3 eye{0, 1.5f, 5};
  Eigen::Matrix3f look = Eigen::Matrix3f::Identity();  ///< rows: to the right, up, back towards the eye
  float millimetres = 50;                              ///< focal length for a frame 36 mm wide
  Size size{512, 512};

  struct Seen {
    float x = 0, y = 0;  ///< pixels, centres at +0.5
    float far = 0;       ///< metres along the line of sight; not above 0: behind the eye
    [[nodiscard]] bool ahead() const { return far > nearest; }
  };
  [[nodiscard]] Seen seen(const Vec3& at) const;
  /// The pixels in which anything between places may be seen: the whole picture where one of them is not ahead.
  [[nodiscard]] Patch partOf(std::span<const Vec3> hull) const;
};
/// @param roll  degrees, counter-clockwise in the picture.
Camera lookingAt(const Vec3& eye, const Vec3& target, float millimetres, Size size, float roll = 0);

class ShadowMap;

struct Light {
  Vec3 from{0, 1, 0};  ///< direction towards it, unit length
  Rgb colour{1, 1, 1};
};
struct Lighting {
  std::vector<Light> lights;
  Rgb above{0.4f, 0.45f, 0.5f}, below{0.2f, 0.18f, 0.16f};   ///< from all round
  Rgb skyTop{0.25f, 0.45f, 0.8f}, skyRim{0.7f, 0.8f, 0.9f};  ///< where nothing is
  Rgb veil{0.75f, 0.78f, 0.8f};                              ///< colour of haze
  float veilLength = 0;                                      ///< metres until two thirds are veiled; 0: clear
  bool shadows = false;                                      ///< of the first light, on everything
  float soft = 0;                                            ///< radius of their borders, metres
  const ShadowMap* ready = nullptr;                          ///< of these meshes and this light, where it is there
};

struct Rendered {
  Image<Rgb> colour;  ///< linear; may exceed 1 in highlights
  Image<float> near;  ///< 1 / metres along the line of sight; 0: nothing
  Image<std::uint16_t> object;
  Image<Rgb> normal;  ///< in the eye's axes (r: right, g: up, b: towards the eye); 0 where nothing is
  Image<float> fine;  ///< 1 / metres at twice the size, one sample each
};
/// What of it is not always wanted; otherwise it is empty.
struct Keep {
  bool normal = false, fine = false;
};

/// @param meshes  with normals. @throws Cancelled
Rendered rendered(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting, StopToken stop = {},
                  Keep keep = {});

/// Paints a part of the picture again: there it becomes what `rendered` makes of it, to the last bit.
/// @param part  within the camera's picture; may be empty
/// @param into  as `rendered` made it, by a camera of this size; what it keeps is painted @throws Cancelled: the part
///              may be half painted
void renderPart(std::span<const Mesh> meshes, const Camera& camera, const Lighting& lighting, const Patch& part,
                Rendered& into, const StopToken& stop = {});

/// What is nearest, 1 / metres, at twice the camera's size; of all meshes, or of those whose material throws.
Image<float> nearestOf(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly = false);
/// The same for a part of the camera's picture, again. @param into  at twice the camera's size
void nearestInto(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly, const Patch& part,
                 Image<float>& into);

/// The shadow that meshes cast on the plane y = `ground` away from a light, as a flat mesh just above it.
Mesh shadowOn(float ground, std::span<const Mesh> meshes, const Light& light, Rgb colour, std::uint16_t object);

}  // namespace hscaffold::stage
