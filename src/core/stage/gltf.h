/// A set as glTF 2.0 (Khronos Group), to be looked at elsewhere: one file, points and faces inside it as base64.
#pragma once

#include <span>
#include <string>

#include "core/stage/mesh.h"

namespace hscaffold::stage {

/// One mesh and one node each, with normals and colours of points; in metres, y up.
std::string gltfFrom(std::span<const Mesh> meshes);

}  // namespace hscaffold::stage
