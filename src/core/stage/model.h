/// Things from elsewhere: static triangles out of glTF 2.0 files (Khronos Group), made small enough to be kept in a
/// scene.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <string>

#include "core/stage/mesh.h"

namespace hscaffold::stage {

/// A thing of no size yet: from -0.5 to 0.5 across and deep, from 0 to 1 high.
struct Model {
  std::vector<Vec3> at;
  std::vector<std::array<std::uint16_t, 3>> faces;
};
inline constexpr std::size_t mostModelPoints = 6000, mostModelFaces = 10000;
/// What is read before it is made smaller.
inline constexpr std::size_t mostReadFaces = 4'000'000, mostReadNodes = 20'000;

/// How large it was, metres, each at least a millimetre.
struct ReadModel {
  std::shared_ptr<const Model> model;
  Vec3 size{1, 1, 1};
  std::size_t faces = 0;      ///< that the file has
  std::optional<Rgb> colour;  ///< linear: the mean of its materials' own, where they say any
};
/// From .gltf with its points inside, or .glb. Of more points than a scene takes those near one another become one
/// (Rossignac and Borrel 1993). Of materials only the mean colour is taken; skins and cameras are left out.
/// @throws Problem (badInput) saying what is wrong
ReadModel modelFrom(std::span<const std::byte> bytes, const std::string& where);

/// Its surface as large as said. @param place  where it stands
Mesh meshOf(const Model& model, const Vec3& size, Rgb colour);

/// As text for a scene's file, and back. @throws Problem (badInput)
std::string modelToText(const Model& model);
std::shared_ptr<const Model> modelFromText(const std::string& points, const std::string& faces,
                                           const std::string& where);

}  // namespace hscaffold::stage
