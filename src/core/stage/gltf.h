/// Sets and scenes as glTF 2.0 (Khronos Group), to be gone on with elsewhere: one file, all of it inside as base64.
#pragma once

#include <span>
#include <string>

#include "core/stage/scene.h"

namespace hscaffold::stage {

/// One mesh and one node each, with normals and colours of points; in metres, y up.
std::string gltfFrom(std::span<const Mesh> meshes);

/// A scene by its things' names: figures and animals as skins over their bones, which stand as they are posed; things
/// and panels with their pictures; the eye as a camera. What is hidden is left out, and so is the ground.
/// @param frame  what the eye sees
std::string gltfFrom(const Scene& scene, Size frame);

}  // namespace hscaffold::stage
