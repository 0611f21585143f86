#include "core/stage/gltf.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base64.h"
#include "core/stage/bones.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::stage {
namespace {

using Json = nlohmann::json;

constexpr int floats = 5126, wholes = 5125, shorts = 5123;  // component types of the standard

class Writer {
 public:
  /// @param carried  by its bones; null without any
  std::size_t addMesh(const Mesh& mesh, const std::vector<Carried>* carried) {
    Json attributes{{"POSITION", putPlaces(mesh.at)}, {"NORMAL", putVectors(mesh.normal)}};
    std::vector<float> colours;
    for (const Rgb c : mesh.colour) colours.insert(colours.end(), {c.r, c.g, c.b});
    attributes["COLOR_0"] = put(colours, floats, "VEC3", mesh.colour.size());
    if (carried != nullptr) {
      std::vector<std::uint16_t> joints;
      std::vector<float> weights;
      for (const Carried& c : *carried)
        for (std::size_t k = 0; k < c.by.size(); ++k) {
          joints.push_back(c.share[k] > 0 ? c.by[k] : std::uint16_t{0});
          weights.push_back(std::max(0.0f, c.share[k]));
        }
      attributes["JOINTS_0"] = put(joints, shorts, "VEC4", carried->size());
      attributes["WEIGHTS_0"] = put(weights, floats, "VEC4", carried->size());
    }
    const bool pictured = mesh.material.picture != nullptr && mesh.across.size() == mesh.at.size();
    const auto shown = [&](const std::array<std::uint32_t, 3>& f) {
      return pictured && std::all_of(f.begin(), f.end(), [&](std::uint32_t p) { return mesh.across[p][0] >= 0; });
    };
    std::vector<std::uint32_t> plain, picture;
    for (const auto& f : mesh.faces) {
      auto& into = shown(f) ? picture : plain;
      into.insert(into.end(), f.begin(), f.end());
    }
    Json parts = Json::array();
    if (!plain.empty())
      parts.push_back({{"attributes", attributes}, {"indices", put(plain, wholes, "SCALAR", plain.size())}});
    if (!picture.empty()) {
      std::vector<float> across;
      for (const auto& [u, v] : mesh.across) across.insert(across.end(), {std::max(0.0f, u), std::max(0.0f, v)});
      attributes["TEXCOORD_0"] = put(across, floats, "VEC2", mesh.across.size());
      parts.push_back({{"attributes", attributes},
                       {"indices", put(picture, wholes, "SCALAR", picture.size())},
                       {"material", addPicture(*mesh.material.picture)}});
    }
    meshes_.push_back({{"primitives", parts}});
    return meshes_.size() - 1;
  }

  std::size_t addNode(Json node) {
    nodes_.push_back(std::move(node));
    return nodes_.size() - 1;
  }
  Json& node(std::size_t number) { return nodes_[number]; }
  void addRoot(std::size_t node) { roots_.push_back(node); }

  /// @param stands  where the figure does @param first  node of the first bone; the others follow
  std::size_t addSkin(const std::vector<Bone>& bones, const Eigen::Isometry3f& stands, std::size_t first) {
    std::vector<float> inverse;
    Json joints = Json::array();
    for (std::size_t b = 0; b < bones.size(); ++b) {
      const Eigen::Matrix4f matrix =
          (stands * bones[b].at).inverse().matrix();  // columns first, as the standard has it
      inverse.insert(inverse.end(), matrix.data(), matrix.data() + 16);
      joints.push_back(first + b);
    }
    skins_.push_back({{"joints", joints}, {"inverseBindMatrices", put(inverse, floats, "MAT4", bones.size())}});
    return skins_.size() - 1;
  }

  void addCamera(Json camera) { cameras_.push_back(std::move(camera)); }

  [[nodiscard]] std::string text() const {
    Json out{
        {"asset", {{"version", "2.0"}, {"generator", "Humble Scaffold"}}}, {"scene", 0}, {"scenes", {Json::object()}}};
    // Lists may not be empty.
    const auto list = [](Json& into, const char* name, const Json& of) {
      if (!of.empty()) into[name] = of;
    };
    list(out["scenes"][0], "nodes", roots_);
    list(out, "nodes", nodes_);
    list(out, "meshes", meshes_);
    list(out, "skins", skins_);
    list(out, "cameras", cameras_);
    list(out, "materials", materials_);
    list(out, "textures", textures_);
    list(out, "images", images_);
    list(out, "accessors", accessors_);
    list(out, "bufferViews", views_);
    if (!bytes_.empty())
      out["buffers"] = {{{"byteLength", bytes_.size()},
                         {"uri", "data:application/octet-stream;base64," + base64(std::as_bytes(std::span(bytes_)))}}};
    return out.dump();
  }

 private:
  template <typename T>
  std::size_t put(const std::vector<T>& values, int component, const char* type, std::size_t count) {
    bytes_.resize((bytes_.size() + 3) / 4 * 4, '\0');  // numbers begin at their own width
    const std::size_t length = values.size() * sizeof(T);
    views_.push_back({{"buffer", 0}, {"byteOffset", bytes_.size()}, {"byteLength", length}});
    bytes_.append(reinterpret_cast<const char*>(values.data()), length);
    accessors_.push_back(
        {{"bufferView", views_.size() - 1}, {"componentType", component}, {"count", count}, {"type", type}});
    return accessors_.size() - 1;
  }
  std::size_t putVectors(const std::vector<Vec3>& values) {
    std::vector<float> flat;
    for (const Vec3& v : values) flat.insert(flat.end(), {v.x(), v.y(), v.z()});
    return put(flat, floats, "VEC3", values.size());
  }
  std::size_t putPlaces(const std::vector<Vec3>& values) {
    const auto places = putVectors(values);
    Vec3 low = values.front(), high = low;
    for (const Vec3& p : values) low = low.cwiseMin(p), high = high.cwiseMax(p);
    accessors_.back()["min"] = {low.x(), low.y(), low.z()};
    accessors_.back()["max"] = {high.x(), high.y(), high.z()};
    return places;
  }
  std::size_t addPicture(const PanelPicture& picture) {
    images_.push_back({{"uri", "data:image/png;base64," + picture.text()}});
    textures_.push_back({{"source", images_.size() - 1}});
    materials_.push_back(
        {{"pbrMetallicRoughness", {{"baseColorTexture", {{"index", textures_.size() - 1}}}, {"metallicFactor", 0}}}});
    return materials_.size() - 1;
  }

  std::string bytes_;
  Json views_ = Json::array(), accessors_ = Json::array(), meshes_ = Json::array(), nodes_ = Json::array(),
       skins_ = Json::array(), cameras_ = Json::array(), materials_ = Json::array(), textures_ = Json::array(),
       images_ = Json::array(), roots_ = Json::array();
};

/// Where a node is, as the standard says it.
void place(Json& node, const Eigen::Isometry3f& at) {
  const Eigen::Quaternionf turned(Eigen::Matrix3f(at.linear()));
  const Vec3 to = at.translation();
  node["rotation"] = {turned.x(), turned.y(), turned.z(), turned.w()};
  node["translation"] = {to.x(), to.y(), to.z()};
}

Eigen::Isometry3f standsAt(const Place& place) {
  Eigen::Isometry3f out = turnedAbout(Vec3::Zero(), {0, 1, 0}, place.turn);
  out.translation() = place.at;
  return out;
}

void addFigure(Writer& writer, const Thing& thing) {
  Skinned skinned = skinnedOf(thing);
  const Eigen::Isometry3f stands = standsAt(thing.place);
  // As it stands on the stage, also for those who know nothing of skins.
  for (Vec3& p : skinned.mesh.at) p = stands * p;
  for (Vec3& n : skinned.mesh.normal) n = stands.linear() * n;
  const std::size_t mesh = writer.addMesh(skinned.mesh, &skinned.carried);
  Json root{{"name", calledOf(thing)}};
  place(root, stands);
  const std::size_t whole = writer.addNode(std::move(root));
  writer.addRoot(whole);
  std::size_t first = 0;
  for (std::size_t b = 0; b < skinned.bones.size(); ++b) {
    const Bone& bone = skinned.bones[b];
    Json node{{"name", bone.id}};
    place(node,
          bone.parent < 0 ? bone.at : skinned.bones[static_cast<std::size_t>(bone.parent)].at.inverse() * bone.at);
    const std::size_t number = writer.addNode(std::move(node));
    if (b == 0) first = number;
  }
  for (std::size_t b = 0; b < skinned.bones.size(); ++b) {
    const int parent = skinned.bones[b].parent;
    writer.node(parent < 0 ? whole : first + static_cast<std::size_t>(parent))["children"].push_back(first + b);
  }
  const std::size_t surface = writer.addNode({{"name", calledOf(thing) + " (surface)"},
                                              {"mesh", mesh},
                                              {"skin", writer.addSkin(skinned.bones, stands, first)}});
  writer.addRoot(surface);
}

}  // namespace

std::string gltfFrom(std::span<const Mesh> meshes) {
  Writer writer;
  for (const Mesh& mesh : meshes)
    if (!mesh.faces.empty())
      writer.addRoot(
          writer.addNode({{"mesh", writer.addMesh(mesh, nullptr)}, {"name", "object " + std::to_string(mesh.object)}}));
  return writer.text();
}

std::string gltfFrom(const Scene& scene, Size frame) {
  Writer writer;
  for (const Thing& thing : scene.things) {
    if (thing.hidden) continue;
    if (isFigure(thing)) {
      addFigure(writer, thing);
      continue;
    }
    for (const Mesh& mesh : setOf(thing).meshes)
      if (!mesh.faces.empty())
        writer.addRoot(writer.addNode({{"mesh", writer.addMesh(mesh, nullptr)}, {"name", calledOf(thing)}}));
  }
  const Camera camera = cameraOf(scene.eye, frame);
  const float ratio = static_cast<float>(frame.width) / static_cast<float>(frame.height);
  writer.addCamera(
      {{"type", "perspective"},
       {"perspective",
        {{"yfov", 2 * std::atan(18 / (camera.millimetres * ratio))}, {"aspectRatio", ratio}, {"znear", 0.05}}}});
  Json eye{{"name", "Eye"}, {"camera", 0}};
  Eigen::Isometry3f at = Eigen::Isometry3f::Identity();
  at.linear() = camera.look.transpose();
  at.translation() = camera.eye;
  place(eye, at);
  writer.addRoot(writer.addNode(std::move(eye)));
  return writer.text();
}

}  // namespace hscaffold::stage
