#include "core/stage/gltf.h"

#include <cstring>
#include <nlohmann/json.hpp>

#include "core/base64.h"

namespace hscaffold::stage {
namespace {

constexpr int floats = 5126, wholes = 5125;  // component types of the standard

struct Writer {
  std::string bytes;
  nlohmann::json views = nlohmann::json::array(), accessors = nlohmann::json::array();

  template <typename T>
  std::size_t put(const std::vector<T>& values, int component, const char* type, std::size_t count) {
    const std::size_t length = values.size() * sizeof(T);
    views.push_back({{"buffer", 0}, {"byteOffset", bytes.size()}, {"byteLength", length}});
    bytes.append(reinterpret_cast<const char*>(values.data()), length);
    accessors.push_back(
        {{"bufferView", views.size() - 1}, {"componentType", component}, {"count", count}, {"type", type}});
    return accessors.size() - 1;
  }
  std::size_t putVectors(const std::vector<Vec3>& values) {
    std::vector<float> flat;
    for (const Vec3& v : values) flat.insert(flat.end(), {v.x(), v.y(), v.z()});
    return put(flat, floats, "VEC3", values.size());
  }
};

}  // namespace

std::string gltfFrom(std::span<const Mesh> meshes) {
  Writer writer;
  nlohmann::json list = nlohmann::json::array(), nodes = nlohmann::json::array(), names = nlohmann::json::array();
  for (const Mesh& mesh : meshes) {
    if (mesh.faces.empty()) continue;
    const auto places = writer.putVectors(mesh.at);
    Vec3 low = mesh.at.front(), high = low;
    for (const Vec3& p : mesh.at) low = low.cwiseMin(p), high = high.cwiseMax(p);
    writer.accessors.back()["min"] = {low.x(), low.y(), low.z()};
    writer.accessors.back()["max"] = {high.x(), high.y(), high.z()};
    const auto normals = writer.putVectors(mesh.normal);
    std::vector<float> colours;
    for (const Rgb c : mesh.colour) colours.insert(colours.end(), {c.r, c.g, c.b});
    const auto colour = writer.put(colours, floats, "VEC3", mesh.colour.size());
    std::vector<std::uint32_t> corners;
    for (const auto& f : mesh.faces) corners.insert(corners.end(), f.begin(), f.end());
    const auto indices = writer.put(corners, wholes, "SCALAR", corners.size());
    list.push_back(
        {{"primitives",
          {{{"attributes", {{"POSITION", places}, {"NORMAL", normals}, {"COLOR_0", colour}}}, {"indices", indices}}}}});
    nodes.push_back({{"mesh", list.size() - 1}, {"name", "object " + std::to_string(mesh.object)}});
    names.push_back(nodes.size() - 1);
  }
  return nlohmann::json{
      {"asset", {{"version", "2.0"}, {"generator", "Humble Scaffold"}}},
      {"scene", 0},
      {"scenes", {{{"nodes", names}}}},
      {"nodes", nodes},
      {"meshes", list},
      {"accessors", writer.accessors},
      {"bufferViews", writer.views},
      {"buffers",
       {{{"byteLength", writer.bytes.size()},
         {"uri", "data:application/octet-stream;base64," + base64(std::as_bytes(std::span(writer.bytes)))}}}}}
      .dump();
}

}  // namespace hscaffold::stage
