// Scenes as glTF: bones stand as the figure does, and who turns them takes the skin along.
#include <QTest>
#include <cmath>
#include <cstring>
#include <nlohmann/json.hpp>

#include "core/base64.h"
#include "core/stage/bones.h"
#include "core/stage/gltf.h"
#include "core/stage/model.h"
#include "core/stage/scene_maps.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;
using Json = nlohmann::json;

namespace {

/// A file as somebody else reads it: numbers out of its buffer, nodes one above the other, skins by linear blending.
class Reader {
 public:
  explicit Reader(const std::string& text) : file(Json::parse(text)) {
    const std::string uri = file["buffers"][0]["uri"];
    bytes_ = *fromBase64(std::string_view(uri).substr(uri.find(',') + 1));
    parents_.assign(file["nodes"].size(), -1);
    for (std::size_t n = 0; n < file["nodes"].size(); ++n)
      if (file["nodes"][n].contains("children"))
        for (const auto& child : file["nodes"][n]["children"]) parents_[child.get<std::size_t>()] = static_cast<int>(n);
  }

  template <typename T>
  [[nodiscard]] std::vector<T> numbers(std::size_t accessor, std::size_t each) const {
    const Json& of = file["accessors"][accessor];
    const Json& view = file["bufferViews"][of["bufferView"].get<std::size_t>()];
    std::vector<T> out(of["count"].get<std::size_t>() * each);
    if (view["byteLength"].get<std::size_t>() != out.size() * sizeof(T) ||
        view["byteOffset"].get<std::size_t>() % sizeof(T) != 0)
      return {};
    std::memcpy(out.data(), bytes_.data() + view["byteOffset"].get<std::size_t>(), out.size() * sizeof(T));
    return out;
  }

  [[nodiscard]] std::size_t node(const std::string& name) const {
    for (std::size_t n = 0; n < file["nodes"].size(); ++n)
      if (file["nodes"][n].value("name", "") == name) return n;
    return file["nodes"].size();
  }

  [[nodiscard]] Eigen::Isometry3f whole(std::size_t node) const {
    const Json& n = file["nodes"][node];
    Eigen::Isometry3f own = Eigen::Isometry3f::Identity();
    if (n.contains("rotation")) {
      const auto q = n["rotation"].get<std::vector<float>>();
      own.linear() = Eigen::Quaternionf(q[3], q[0], q[1], q[2]).toRotationMatrix();
    }
    if (n.contains("translation")) {
      const auto t = n["translation"].get<std::vector<float>>();
      own.translation() = Vec3(t[0], t[1], t[2]);
    }
    return parents_[node] < 0 ? own : whole(static_cast<std::size_t>(parents_[node])) * own;
  }

  [[nodiscard]] const Json& attributes(std::size_t node) const {
    return file["meshes"][file["nodes"][node]["mesh"].get<std::size_t>()]["primitives"][0]["attributes"];
  }
  [[nodiscard]] std::vector<Vec3> places(std::size_t node) const {
    const auto flat = numbers<float>(attributes(node)["POSITION"], 3);
    std::vector<Vec3> out;
    for (std::size_t i = 0; i + 2 < flat.size(); i += 3) out.emplace_back(flat[i], flat[i + 1], flat[i + 2]);
    return out;
  }
  /// Where the bones take the points of a surface.
  [[nodiscard]] std::vector<Vec3> taken(std::size_t surface) const {
    const Json& skin = file["skins"][file["nodes"][surface]["skin"].get<std::size_t>()];
    const auto inverse = numbers<float>(skin["inverseBindMatrices"], 16);
    std::vector<Eigen::Matrix4f> moves;
    for (std::size_t j = 0; j < skin["joints"].size(); ++j)
      moves.push_back(whole(skin["joints"][j]).matrix() * Eigen::Map<const Eigen::Matrix4f>(inverse.data() + 16 * j));
    const auto joints = numbers<std::uint16_t>(attributes(surface)["JOINTS_0"], 4);
    const auto weights = numbers<float>(attributes(surface)["WEIGHTS_0"], 4);
    const auto at = places(surface);
    std::vector<Vec3> out;
    for (std::size_t i = 0; i < at.size(); ++i) {
      Eigen::Vector4f sum = Eigen::Vector4f::Zero();
      float whole = 0;
      for (std::size_t k = 0; k < 4; ++k) {
        if (joints[4 * i + k] >= moves.size()) return {};
        sum += weights[4 * i + k] * (moves[joints[4 * i + k]] * at[i].homogeneous());
        whole += weights[4 * i + k];
      }
      if (std::abs(whole - 1) > 1e-4f) return {};
      out.emplace_back(sum.head<3>());
    }
    return out;
  }

  Json file;

 private:
  std::vector<std::byte> bytes_;
  std::vector<int> parents_;
};

Scene twoOfThem() {
  Scene scene;
  Person person;
  person.angles = anglesAhead(pose::housePoses()[6]);
  person.build.child = 0.3f;
  person.clothes.skirtLength = 0.6f;
  person.clothes.left = Held::staff;
  person.right.grip = Grip::fist;
  scene.things.push_back({"a", "Walker", {{0.7f, 0.2f, -1}, 40}, false, person});
  Beast fox;
  fox.kind = Animal::fox;
  scene.things.push_back({"b", "Fox", {{-1, 0, 0.5f}, -120}, false, fox});
  scene.things.push_back({"c", "Crate", {{2, 0, 0}, 15}, false, usualProp(Prop::Form::box)});
  scene.things.push_back({"d", "Gone", {{0, 0, 0}, 0}, true, usualProp(Prop::Form::ball)});
  return scene;
}

}  // namespace

class SkinnedTest : public QObject {
  Q_OBJECT
 private slots:
  void bonesStandAsTheFigureDoes();
  void turnedBonesTakeTheSkinAlong();
  void theEyeIsACamera();
  void panelsTakeTheirPictureAlong();
  void whatGoesOutComesIn();
};

void SkinnedTest::bonesStandAsTheFigureDoes() {
  const Scene scene = twoOfThem();
  const Set set = setOf(scene);
  const Reader file(gltfFrom(scene, {768, 512}));
  for (std::size_t i = 0; i < 2; ++i) {
    const auto surface = file.node(scene.things[i].name + " (surface)");
    QVERIFY(surface < file.file["nodes"].size());
    const auto at = file.places(surface), taken = file.taken(surface);
    QCOMPARE(at.size(), set.meshes[i].at.size());
    QCOMPARE(taken.size(), at.size());
    for (std::size_t p = 0; p < at.size(); ++p) {
      QVERIFY((at[p] - set.meshes[i].at[p]).norm() < 1e-4f);
      QVERIFY((taken[p] - at[p]).norm() < 1e-4f);
    }
  }
  // Bones lie where the stage has the key points.
  const auto& skeleton = pose::skeletonOf("human");
  const auto near = [&](const char* bone, const char* point) {
    return (file.whole(file.node(bone)).translation() - set.actors[0].points[*skeleton.find(point)]).norm();
  };
  QVERIFY(near("left_elbow", "left_elbow") < 0.02f && near("right_knee", "right_knee") < 0.02f);
  QVERIFY(near("right_index_2", "right_index_2") < 0.005f && near("left_hand", "left_wrist") < 0.005f);
  QCOMPARE(file.node("Gone"), file.file["nodes"].size());
  QVERIFY(file.node("Crate") < file.file["nodes"].size());
}

void SkinnedTest::turnedBonesTakeTheSkinAlong() {
  const Scene scene = twoOfThem();
  Reader file(gltfFrom(scene, {768, 512}));
  const auto surface = file.node("Walker (surface)");
  const auto before = file.taken(surface);
  const auto elbow = file.node("left_elbow"), hand = file.node("left_hand"), knee = file.node("right_knee");
  const Vec3 at = file.whole(elbow).translation(), wrist = file.whole(hand).translation(),
             leg = file.whole(knee).translation();
  const auto q = file.file["nodes"][elbow]["rotation"].get<std::vector<float>>();
  const Eigen::Quaternionf turned =
      Eigen::Quaternionf(q[3], q[0], q[1], q[2]) * Eigen::Quaternionf(Eigen::AngleAxisf(0.8f, Vec3(1, 0, 0)));
  file.file["nodes"][elbow]["rotation"] = {turned.x(), turned.y(), turned.z(), turned.w()};
  const auto after = file.taken(surface);
  QVERIFY((file.whole(hand).translation() - wrist).norm() > 0.05f);
  int moved = 0, stayed = 0;
  for (std::size_t i = 0; i < before.size(); ++i) {
    const float far = (after[i] - before[i]).norm();
    if ((before[i] - wrist).norm() < 0.03f) {
      ++moved;
      QVERIFY(far > 0.02f);
      // A turn about the elbow: nothing of the forearm comes nearer to it or goes away.
      QVERIFY(std::abs((after[i] - at).norm() - (before[i] - at).norm()) < 0.01f);
    }
    if ((before[i] - leg).norm() < 0.08f) {
      ++stayed;
      QVERIFY(far < 1e-4f);
    }
  }
  QVERIFY(moved > 10 && stayed > 10);
}

void SkinnedTest::theEyeIsACamera() {
  Scene scene = twoOfThem();
  scene.eye = lookingFrom({1, 2, 5}, {0, 1, 0}, 50);
  scene.eye.roll = 12;
  const Size frame{900, 600};
  const Reader file(gltfFrom(scene, frame));
  const auto eye = file.whole(file.node("Eye"));
  const double high = file.file["cameras"][0]["perspective"]["yfov"],
               ratio = file.file["cameras"][0]["perspective"]["aspectRatio"];
  const Camera camera = cameraOf(scene.eye, frame);
  for (const Vec3& p : {Vec3(0, 1, 0), Vec3(0.5f, 0.2f, 1), Vec3(-1, 1.5f, -2)}) {
    const Vec3 q = eye.inverse() * p;  // a camera looks along its own -z
    const double y = static_cast<double>(q.y() / -q.z()) / std::tan(high / 2),
                 x = static_cast<double>(q.x() / -q.z()) / (std::tan(high / 2) * ratio);
    const auto seen = camera.seen(p);
    QVERIFY(std::abs((x + 1) / 2 * frame.width - static_cast<double>(seen.x)) < 0.05);
    QVERIFY(std::abs((1 - y) / 2 * frame.height - static_cast<double>(seen.y)) < 0.05);
  }
}

void SkinnedTest::panelsTakeTheirPictureAlong() {
  Scene scene;
  Thing panel{"p", "Page", {}, false, usualProp(Prop::Form::panel)};
  Image<Rgba16> picture(8, 6);
  std::get<Prop>(panel.is).picture = PanelPicture::of(picture.view());
  scene.things.push_back(panel);
  const Reader file(gltfFrom(scene, {300, 200}));
  const Json& parts = file.file["meshes"][0]["primitives"];
  QCOMPARE(parts.size(), std::size_t{2});
  QVERIFY(!parts[0].contains("material") && parts[1]["material"] == 0);
  QCOMPARE(file.file["accessors"][parts[1]["indices"].get<std::size_t>()]["count"].get<int>(), 6);
  QVERIFY(parts[1]["attributes"].contains("TEXCOORD_0"));
  const std::string uri = file.file["images"][0]["uri"];
  QCOMPARE(uri.substr(uri.find(',') + 1), std::get<Prop>(panel.is).picture->text());
  // An empty stage is a file, too.
  QVERIFY(Json::parse(gltfFrom(Scene{}, {300, 200}))["nodes"].size() == 1);
}

void SkinnedTest::whatGoesOutComesIn() {
  const Scene scene = twoOfThem();
  const auto read = modelFrom(bytesOf(gltfFrom(scene, {768, 512})), "stage.gltf");
  const Set set = setOf(scene);
  std::size_t faces = 0;
  Vec3 low = Vec3::Constant(1e9f), high = -low;
  for (const Mesh& mesh : set.meshes) {
    if (mesh.object == groundObject) continue;
    faces += mesh.faces.size();
    for (const Vec3& p : mesh.at) low = low.cwiseMin(p), high = high.cwiseMax(p);
  }
  QCOMPARE(read.faces, faces);
  QVERIFY((read.size - (high - low)).norm() < 1e-3f);
}

HSCAFFOLD_TEST(SkinnedTest)
#include "skinned_test.moc"
