#include "core/stage/model.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <unordered_map>

#include "core/base64.h"
#include "core/problem.h"
#include "core/recently_used.h"

namespace hscaffold::stage {
namespace {

using Json = nlohmann::json;

/// A glTF file as far as its shapes go. Numbers in it are nobody's word: each is checked before it is used.
class Reading {
 public:
  Reading(std::span<const std::byte> bytes, const std::string& where) : where_(where) {
    constexpr std::uint32_t magic = 0x46546c67, jsonChunk = 0x4e4f534a, binaryChunk = 0x004e4942;
    std::span<const std::byte> text = bytes;
    if (bytes.size() >= 12 && wordAt(bytes, 0) == magic) {
      text = {};
      for (std::size_t at = 12; at + 8 <= bytes.size();) {
        const std::size_t length = wordAt(bytes, at), kind = wordAt(bytes, at + 4);
        if (length > bytes.size() - at - 8) throw wrong("is cut off");
        const auto chunk = bytes.subspan(at + 8, length);
        if (kind == jsonChunk && text.empty()) text = chunk;
        if (kind == binaryChunk && inside_.empty()) inside_.assign(chunk.begin(), chunk.end());
        at += 8 + length;
      }
    }
    file_ = Json::parse(reinterpret_cast<const char*>(text.data()),
                        reinterpret_cast<const char*>(text.data()) + text.size(), nullptr, false);
    if (!file_.is_object() || !file_.contains("asset")) throw wrong("is no glTF file");
  }

  /// Corners of all triangles, where they are in space.
  std::vector<Vec3> triangles() {
    const Json& nodes = list("nodes");
    if (nodes.size() > mostReadNodes) throw wrong(fmt::format("has more than {} parts", mostReadNodes));
    std::vector<std::size_t> roots;
    const Json& scenes = list("scenes");
    const std::size_t shown = wholeIn(file_, "scene", 0);
    if (shown < scenes.size() && scenes[shown].is_object() && scenes[shown].contains("nodes"))
      roots = wholesOf(scenes[shown]["nodes"]);
    else
      for (std::size_t i = 0; i < nodes.size(); ++i) roots.push_back(i);
    visited_.assign(nodes.size(), false);
    for (const std::size_t root : roots) visit(root, Eigen::Affine3f::Identity());
    return std::move(corners_);
  }

  /// The mean base colour of its materials over what they cover; empty if none says one.
  [[nodiscard]] std::optional<Rgb> colour() const {
    if (!(coloured_ > 0)) return {};
    const Rgb mean = colourSum_ * (1 / coloured_);
    return Rgb{std::clamp(mean.r, 0.0f, 1.0f), std::clamp(mean.g, 0.0f, 1.0f), std::clamp(mean.b, 0.0f, 1.0f)};
  }

 private:
  [[nodiscard]] Problem wrong(const std::string& what) const { return badInput(fmt::format("{} {}.", where_, what)); }

  static std::uint32_t wordAt(std::span<const std::byte> bytes, std::size_t at) {
    std::uint32_t out = 0;
    std::memcpy(&out, bytes.data() + at, sizeof out);
    return out;
  }

  [[nodiscard]] const Json& list(const char* key) const {
    static const Json none = Json::array();
    const auto found = file_.find(key);
    return found != file_.end() && found->is_array() ? *found : none;
  }

  [[nodiscard]] static std::size_t wholeIn(const Json& json, const char* key, std::size_t usual) {
    const auto found = json.find(key);
    return found != json.end() && found->is_number_unsigned() ? found->get<std::size_t>() : usual;
  }

  /// Empty if it is not there or no text.
  [[nodiscard]] static std::string textIn(const Json& json, const char* key) {
    const auto found = json.find(key);
    return found != json.end() && found->is_string() ? found->get<std::string>() : std::string();
  }
  [[nodiscard]] static std::vector<std::size_t> wholesOf(const Json& json) {
    std::vector<std::size_t> out;
    if (json.is_array())
      for (const auto& each : json)
        if (each.is_number_unsigned()) out.push_back(each.get<std::size_t>());
    return out;
  }

  template <std::size_t Count>
  [[nodiscard]] static std::optional<std::array<float, Count>> numbersIn(const Json& json, const char* key) {
    const auto found = json.find(key);
    if (found == json.end() || !found->is_array() || found->size() != Count) return {};
    std::array<float, Count> out;
    for (std::size_t i = 0; i < Count; ++i) {
      if (!(*found)[i].is_number()) return {};
      out[i] = (*found)[i].template get<float>();
      if (!std::isfinite(out[i])) return {};
    }
    return out;
  }

  /// Each part once: files in which one is inside itself, or in two, do not go round for ever.
  void visit(std::size_t first, const Eigen::Affine3f& outer) {
    struct Waiting {
      std::size_t node;
      Eigen::Affine3f to;
    };
    std::vector<Waiting> waiting{{first, outer}};
    while (!waiting.empty()) {
      const Waiting here = waiting.back();
      waiting.pop_back();
      if (here.node >= visited_.size() || visited_[here.node]) continue;
      visited_[here.node] = true;
      const Json& node = list("nodes")[here.node];
      if (!node.is_object()) continue;
      Eigen::Affine3f own = Eigen::Affine3f::Identity();
      if (const auto matrix = numbersIn<16>(node, "matrix")) {
        own.matrix() = Eigen::Map<const Eigen::Matrix4f>(matrix->data());
      } else {
        if (const auto t = numbersIn<3>(node, "translation")) own.translate(Vec3((*t)[0], (*t)[1], (*t)[2]));
        if (const auto r = numbersIn<4>(node, "rotation"))
          if (const Eigen::Quaternionf q((*r)[3], (*r)[0], (*r)[1], (*r)[2]); q.norm() > 1e-6f)
            own.rotate(q.normalized());
        if (const auto s = numbersIn<3>(node, "scale")) own.scale(Vec3((*s)[0], (*s)[1], (*s)[2]));
      }
      const Eigen::Affine3f to = here.to * own;
      if (const std::size_t mesh = wholeIn(node, "mesh", none_); mesh < list("meshes").size())
        addMesh(list("meshes")[mesh], to);
      if (node.contains("children"))
        for (const std::size_t child : wholesOf(node["children"])) waiting.push_back({child, to});
    }
  }

  void addMesh(const Json& mesh, const Eigen::Affine3f& to) {
    if (!mesh.is_object() || !mesh.contains("primitives") || !mesh["primitives"].is_array()) return;
    for (const Json& part : mesh["primitives"]) {
      constexpr std::size_t triangleMode = 4;
      if (!part.is_object() || wholeIn(part, "mode", triangleMode) != triangleMode) continue;
      const auto attributes = part.find("attributes");
      if (attributes == part.end() || !attributes->is_object()) continue;
      const auto points = pointsIn(wholeIn(*attributes, "POSITION", none_));
      std::vector<std::size_t> order;
      if (part.contains("indices")) {
        order = ordersIn(wholeIn(part, "indices", none_));
      } else {
        for (std::size_t i = 0; i < points.size(); ++i) order.push_back(i);
      }
      if (corners_.size() / 3 + order.size() / 3 > mostReadFaces)
        throw wrong(fmt::format("has more than {} million triangles", mostReadFaces / 1'000'000));
      const auto colour = colourOf(wholeIn(part, "material", none_));
      for (std::size_t i = 0; i + 2 < order.size(); i += 3) {
        if (order[i] >= points.size() || order[i + 1] >= points.size() || order[i + 2] >= points.size())
          throw wrong("has triangles of points that are not there");
        for (std::size_t k = 0; k < 3; ++k) {
          const Vec3 p = to * points[order[i + k]];
          if (!p.allFinite()) throw wrong("has points that are nowhere");
          corners_.push_back(p);
        }
        if (!colour) continue;
        const Vec3* p = corners_.data() + corners_.size() - 3;
        const float area = (p[1] - p[0]).cross(p[2] - p[0]).norm();
        if (!std::isfinite(area)) continue;
        colourSum_ = colourSum_ + *colour * area;
        coloured_ += area;
      }
    }
  }

  [[nodiscard]] std::optional<Rgb> colourOf(std::size_t material) const {
    const Json& materials = list("materials");
    if (material >= materials.size() || !materials[material].is_object()) return {};
    const auto rough = materials[material].find("pbrMetallicRoughness");
    if (rough == materials[material].end() || !rough->is_object()) return {};
    const auto factor = numbersIn<4>(*rough, "baseColorFactor");
    if (!factor) return {};
    return Rgb{(*factor)[0], (*factor)[1], (*factor)[2]};
  }

  struct View {
    std::span<const std::byte> bytes;
    std::size_t count = 0, stride = 0;
    std::size_t component = 0;
  };
  /// Bytes of an accessor, all of it within its buffer. @param each  bytes of one entry, 0 for what the type says
  [[nodiscard]] View viewOf(std::size_t number, const char* type, std::size_t components) {
    constexpr std::size_t byteType = 5121, shortType = 5123, wordType = 5125, floatType = 5126;
    if (number >= list("accessors").size() || !list("accessors")[number].is_object())
      throw wrong("names points that are not there");
    const Json& accessor = list("accessors")[number];
    if (accessor.contains("sparse")) throw wrong("keeps its points sparsely: export it without that");
    if (textIn(accessor, "type") != type) throw wrong("has points of a type that is not theirs");
    View out;
    out.component = wholeIn(accessor, "componentType", 0);
    const std::size_t width = out.component == byteType                                 ? 1
                              : out.component == shortType                              ? 2
                              : out.component == wordType || out.component == floatType ? 4
                                                                                        : 0;
    if (width == 0) throw wrong("has numbers of a kind that is not read");
    out.count = wholeIn(accessor, "count", 0);
    if (out.count > 3 * mostReadFaces)
      throw wrong(fmt::format("has more than {} million triangles", mostReadFaces / 1'000'000));
    const std::size_t view = wholeIn(accessor, "bufferView", none_);
    if (view >= list("bufferViews").size() || !list("bufferViews")[view].is_object())
      throw wrong("names bytes that are not there");
    const Json& of = list("bufferViews")[view];
    const auto& buffer = bufferOf(wholeIn(of, "buffer", none_));
    const std::size_t start = wholeIn(of, "byteOffset", 0), length = wholeIn(of, "byteLength", 0),
                      inner = wholeIn(accessor, "byteOffset", 0);
    out.stride = wholeIn(of, "byteStride", width * components);
    if (start > buffer.size() || length > buffer.size() - start || inner > length || out.stride < width * components ||
        out.stride > 4096)
      throw wrong("names bytes that are not there");
    out.bytes = std::span(buffer).subspan(start + inner, length - inner);
    if (out.count > 0 && (out.count - 1) * out.stride + width * components > out.bytes.size())
      throw wrong("is cut off");
    return out;
  }

  [[nodiscard]] std::vector<Vec3> pointsIn(std::size_t accessor) {
    constexpr std::size_t floatType = 5126;
    const View view = viewOf(accessor, "VEC3", 3);
    if (view.component != floatType) throw wrong("has places that are no decimal numbers: export it uncompressed");
    std::vector<Vec3> out(view.count);
    for (std::size_t i = 0; i < view.count; ++i)
      std::memcpy(out[i].data(), view.bytes.data() + i * view.stride, 3 * sizeof(float));
    return out;
  }

  [[nodiscard]] std::vector<std::size_t> ordersIn(std::size_t accessor) {
    const View view = viewOf(accessor, "SCALAR", 1);
    std::vector<std::size_t> out(view.count);
    for (std::size_t i = 0; i < view.count; ++i) {
      const std::byte* at = view.bytes.data() + i * view.stride;
      if (view.component == 5121) {
        out[i] = std::to_integer<std::size_t>(*at);
      } else if (view.component == 5123) {
        std::uint16_t value = 0;
        std::memcpy(&value, at, sizeof value);
        out[i] = value;
      } else {
        std::uint32_t value = 0;
        std::memcpy(&value, at, sizeof value);
        out[i] = value;
      }
    }
    return out;
  }

  [[nodiscard]] const std::vector<std::byte>& bufferOf(std::size_t number) {
    if (number >= list("buffers").size() || !list("buffers")[number].is_object())
      throw wrong("names bytes that are not there");
    if (const auto known = buffers_.find(number); known != buffers_.end()) return known->second;
    const Json& buffer = list("buffers")[number];
    if (!buffer.contains("uri")) return buffers_[number] = inside_;
    const std::string uri = textIn(buffer, "uri");
    const auto comma = uri.find(";base64,");
    if (!uri.starts_with("data:") || comma == std::string::npos)
      throw wrong("keeps its points in another file: export it as one file (.glb)");
    auto bytes = fromBase64(std::string_view(uri).substr(comma + 8));
    if (!bytes) throw wrong("has bytes that cannot be read");
    return buffers_[number] = std::move(*bytes);
  }

  static constexpr std::size_t none_ = std::numeric_limits<std::size_t>::max();
  std::string where_;
  Json file_;
  std::vector<std::byte> inside_;
  std::map<std::size_t, std::vector<std::byte>> buffers_;
  std::vector<bool> visited_;
  std::vector<Vec3> corners_;
  Rgb colourSum_{0, 0, 0};
  float coloured_ = 0;  ///< area
};

/// Points within a cell of a grid become their mean; triangles that fall together go.
Model clustered(std::span<const Vec3> corners, const Vec3& low, const Vec3& size, int cells) {
  const float cell = std::max(1e-9f, size.maxCoeff() / static_cast<float>(cells));
  struct Cluster {
    Vec3 sum = Vec3::Zero();
    float count = 0;
    std::uint16_t name = 0;
  };
  std::unordered_map<std::uint64_t, Cluster> clusters;
  std::vector<std::uint16_t> names;
  names.reserve(corners.size());
  for (const Vec3& p : corners) {
    const Vec3 q = (p - low) / cell;
    const auto key = static_cast<std::uint64_t>(q.x()) | static_cast<std::uint64_t>(q.y()) << 20 |
                     static_cast<std::uint64_t>(q.z()) << 40;
    const auto [of, fresh] = clusters.try_emplace(key);
    if (fresh) {
      if (clusters.size() > mostModelPoints) return {};
      of->second.name = static_cast<std::uint16_t>(clusters.size() - 1);
    }
    of->second.sum += p;
    of->second.count += 1;
    names.push_back(of->second.name);
  }
  Model out;
  out.at.resize(clusters.size());
  for (const auto& [key, cluster] : clusters) {
    const Vec3 p = cluster.sum / cluster.count - low;
    out.at[cluster.name] = {p.x() / std::max(1e-9f, size.x()) - 0.5f, p.y() / std::max(1e-9f, size.y()),
                            p.z() / std::max(1e-9f, size.z()) - 0.5f};
  }
  std::set<std::array<std::uint16_t, 3>> there;
  for (std::size_t i = 0; i + 2 < names.size(); i += 3) {
    const std::array face = {names[i], names[i + 1], names[i + 2]};
    if (face[0] == face[1] || face[1] == face[2] || face[0] == face[2]) continue;
    auto sorted = face;
    std::sort(sorted.begin(), sorted.end());
    if (!there.insert(sorted).second) continue;
    out.faces.push_back(face);
    if (out.faces.size() > mostModelFaces) return {};
  }
  return out;
}

}  // namespace

ReadModel modelFrom(std::span<const std::byte> bytes, const std::string& where) {
  Reading reading(bytes, where);
  const auto corners = reading.triangles();
  if (corners.size() < 3) throw badInput(where + " has no triangles.");
  Vec3 low = corners.front(), high = low;
  for (const Vec3& p : corners) low = low.cwiseMin(p), high = high.cwiseMax(p);
  ReadModel out;
  out.faces = corners.size() / 3;
  out.colour = reading.colour();
  const Vec3 size = high - low;
  constexpr float smallest = 0.001f, largest = 200;
  if (!(size.maxCoeff() > 1e-6f) || !size.allFinite()) throw badInput(where + " has no size.");
  // What is measured in other units comes in as large as a chair.
  const float scale = size.maxCoeff() > largest || size.maxCoeff() < 0.02f ? 1 / size.maxCoeff() : 1;
  out.size = (size * scale).cwiseMax(smallest);
  for (const int cells : {4096, 512, 256, 160, 100, 64, 40, 24, 12}) {
    auto model = clustered(corners, low, size, cells);
    if (model.faces.empty()) continue;
    out.model = std::make_shared<const Model>(std::move(model));
    return out;
  }
  throw badInput(where + " has no surface that could be kept.");
}

Mesh meshOf(const Model& model, const Vec3& size, Rgb colour) {
  Mesh out;
  for (const Vec3& p : model.at) {
    out.at.push_back(p.cwiseProduct(size));
    out.colour.push_back(colour);
  }
  for (const auto& f : model.faces) out.faces.push_back({f[0], f[1], f[2]});
  computeNormals(out);
  return out;
}

namespace {
std::string wordsAsText(const std::vector<std::uint16_t>& words) { return base64(std::as_bytes(std::span(words))); }
}  // namespace

std::string modelToText(const Model& model) {
  std::vector<std::uint16_t> points, faces;
  constexpr float most = 65535;
  const auto kept = [](float v) { return static_cast<std::uint16_t>(std::lround(std::clamp(v, 0.0f, 1.0f) * most)); };
  for (const Vec3& p : model.at)
    for (const float v : {p.x() + 0.5f, p.y(), p.z() + 0.5f}) points.push_back(kept(v));
  for (const auto& f : model.faces) faces.insert(faces.end(), f.begin(), f.end());
  return wordsAsText(points) + "," + wordsAsText(faces);
}

namespace {
std::shared_ptr<const Model> readModel(const std::string& points, const std::string& faces, const std::string& where) {
  const auto words = [&](const std::string& text, std::size_t most) {
    const auto bytes = fromBase64(text);
    if (!bytes || bytes->size() % 6 != 0 || bytes->size() / 6 > most || bytes->empty())
      throw badInput(where + ": its model cannot be read.");
    std::vector<std::uint16_t> out(bytes->size() / 2);
    std::memcpy(out.data(), bytes->data(), bytes->size());
    return out;
  };
  Model out;
  const auto at = words(points, mostModelPoints), corners = words(faces, mostModelFaces);
  for (std::size_t i = 0; i < at.size(); i += 3)
    out.at.emplace_back(static_cast<float>(at[i]) / 65535 - 0.5f, static_cast<float>(at[i + 1]) / 65535,
                        static_cast<float>(at[i + 2]) / 65535 - 0.5f);
  for (std::size_t i = 0; i < corners.size(); i += 3) {
    if (std::max({corners[i], corners[i + 1], corners[i + 2]}) >= out.at.size())
      throw badInput(where + ": its model has faces of points that are not there.");
    out.faces.push_back({corners[i], corners[i + 1], corners[i + 2]});
  }
  return std::make_shared<const Model>(std::move(out));
}
}  // namespace

std::shared_ptr<const Model> modelFromText(const std::string& points, const std::string& faces,
                                           const std::string& where) {
  // A scene is read anew at every change of it.
  static RecentlyUsed<std::string, Model> known(16);
  return known.of(points + ',' + faces, [&] { return readModel(points, faces, where); });
}

}  // namespace hscaffold::stage
