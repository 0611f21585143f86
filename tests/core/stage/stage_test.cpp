// The set: the rasteriser against known answers, bodies and animals over their skeletons, what goes out.
#include <Eigen/Geometry>
#include <QTest>
#include <cmath>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>
#include <random>

#include "core/pose/library.h"
#include "core/stage/animal.h"
#include "core/stage/body.h"
#include "core/stage/gltf.h"
#include "core/stage/props.h"
#include "core/stage/raster.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

namespace {

constexpr Size size{200, 160};

Lighting even() {
  Lighting out;
  out.above = out.below = {1, 1, 1};
  out.skyTop = out.skyRim = {0, 0, 1};
  return out;
}

/// At z = 0 seen from `away` metres, 36 mm: a metre is width / away pixels there.
Camera ahead(float away) { return lookingAt({0, 0, away}, {0, 0, 0}, 36, size); }

Mesh square(const Vec3& middle, float side, Rgb colour, std::uint16_t object) {
  Mesh out;
  addSheet(out, middle - Vec3(side / 2, side / 2, 0), {side, 0, 0}, {0, side, 0}, colour);
  computeNormals(out);
  out.object = object;
  return out;
}

double areaOf(const Rendered& seen, std::uint16_t object) {
  int count = 0;
  for (int y = 0; y < seen.object.height(); ++y)
    for (const auto v : seen.object.line(y)) count += v == object ? 1 : 0;
  return count;
}

BodySpec standing() {
  BodySpec out;
  out.angles = pose::housePoses().front().pose.angles;
  out.at = {0, 0, 0};
  return out;
}

}  // namespace

class StageTest : public QObject {
  Q_OBJECT
 private slots:
  void areasAndColoursAreRight();
  void coverageIsCounted();
  void depthsAreOneOverTheDistance();
  void slopesAreRightInPerspective();
  void theNearerHidesTheFarther();
  void whatPassesTheEyeIsCut();
  void nothingShowsTheSky();
  void hazeVeilsTheFar();
  void bodiesCoverTheirSkeletons_data();
  void bodiesCoverTheirSkeletons();
  void skinHasNoGap();
  void skinIsNotTurnedOver();
  void farSidesOfSkinAreNotMissed();
  void handsGripAndBuildsGrow();
  void feetStandFlat();
  void bodiesStandOnTheirPlace();
  void clothesAddOnly();
  void animalsCoverTheirSkeletons();
  void propsStandOnTheGround();
  void shadowsLieOnTheGround();
  void shadowsLieOnThings();
  void anyThreadsGiveTheSame();
  void setsGoOutAsGltf();
};

void StageTest::areasAndColoursAreRight() {
  const std::vector<Mesh> meshes = {square({0, 0, 0}, 1, {0.5f, 0.25f, 0.125f}, 7)};
  const auto seen = rendered(meshes, ahead(4), even(), {}, {.normal = true});
  const double side = size.width / 4.0;
  QVERIFY(std::abs(areaOf(seen, 7) - side * side) <= 2 * side);
  const Rgb c = seen.colour(size.width / 2, size.height / 2);
  QVERIFY(std::abs(c.r - 0.5f) < 1e-5f && std::abs(c.g - 0.25f) < 1e-5f && std::abs(c.b - 0.125f) < 1e-5f);
  QCOMPARE(seen.normal(size.width / 2, size.height / 2), (Rgb{0, 0, 1}));
}

void StageTest::coverageIsCounted() {
  // The sum of what is covered is the area, to a part of a pixel a row.
  const std::vector<Mesh> meshes = {square({0.011f, 0.007f, 0}, 1.003f, {1, 1, 1}, 7)};
  auto lighting = even();
  lighting.skyTop = lighting.skyRim = {0, 0, 0};
  const auto seen = rendered(meshes, ahead(4), lighting);
  double sum = 0;
  for (int y = 0; y < size.height; ++y)
    for (const Rgb c : seen.colour.line(y)) sum += static_cast<double>(c.r);
  const double side = 1.003 * size.width / 4;
  QVERIFY2(std::abs(sum - side * side) < side * 0.6, qPrintable(QString("%1 %2").arg(sum).arg(side * side)));
}

void StageTest::depthsAreOneOverTheDistance() {
  const std::vector<Mesh> meshes = {square({-0.6f, 0, 1}, 0.8f, {1, 1, 1}, 1), square({0.6f, 0, -4}, 2, {1, 1, 1}, 2)};
  const auto seen = rendered(meshes, ahead(4), even());
  const auto left = Vec3(-0.6f, 0, 1), right = Vec3(0.6f, 0, -4);
  for (const auto& [at, far] : {std::pair{left, 3.0f}, {right, 8.0f}}) {
    const auto place = ahead(4).seen(at);
    QVERIFY(std::abs(place.far - far) < 1e-5f);
    QVERIFY(std::abs(seen.near(static_cast<int>(place.x), static_cast<int>(place.y)) - 1 / far) < 1e-5f);
  }
  QCOMPARE(seen.near(2, 2), 0.0f);
}

void StageTest::slopesAreRightInPerspective() {
  // A floor from the eye's feet to far away: at each row its depth follows from similar triangles.
  Mesh floor;
  addSheet(floor, {-50, -1, 3}, {100, 0, 0}, {0, 0, -100}, {1, 1, 1});
  computeNormals(floor);
  floor.object = 1;
  const auto seen = rendered(std::vector<Mesh>{floor}, ahead(4), even());
  for (int y = size.height / 2 + 6; y < size.height; y += 9) {
    const float down =
        (static_cast<float>(y) + 0.5f - size.height / 2.0f) / size.width;  // 36 mm: focal length is the width
    QVERIFY2(std::abs(seen.near(size.width / 3, y) - down) < 0.01f,
             qPrintable(QString("%1: %2 %3")
                            .arg(y)
                            .arg(static_cast<double>(seen.near(size.width / 3, y)))
                            .arg(static_cast<double>(down))));
  }
}

void StageTest::theNearerHidesTheFarther() {
  const Mesh near = square({0, 0, 1}, 0.5f, {1, 0, 0}, 1), far = square({0, 0, 0}, 2, {0, 1, 0}, 2);
  for (const bool nearFirst : {true, false}) {
    const std::vector<Mesh> meshes = nearFirst ? std::vector<Mesh>{near, far} : std::vector<Mesh>{far, near};
    const auto seen = rendered(meshes, ahead(4), even());
    QCOMPARE(seen.object(size.width / 2, size.height / 2), std::uint16_t{1});
    QCOMPARE(seen.object(size.width / 2 + 40, size.height / 2), std::uint16_t{2});
  }
  // Two that pass through each other meet in a straight line.
  Mesh slanted;
  addSheet(slanted, {-1, -1, -1}, {2, 0, 2}, {0, 2, 0}, {1, 1, 0});
  computeNormals(slanted);
  slanted.object = 3;
  const auto seen = rendered(std::vector<Mesh>{far, slanted}, ahead(4), even());
  QCOMPARE(seen.object(size.width / 2 - 10, size.height / 2), std::uint16_t{2});
  QCOMPARE(seen.object(size.width / 2 + 10, size.height / 2), std::uint16_t{3});
}

void StageTest::whatPassesTheEyeIsCut() {
  // A wall along the line of sight that goes on behind the eye.
  Mesh wall;
  addSheet(wall, {0.5f, -5, 20}, {0, 0, -40}, {0, 10, 0}, {1, 0, 0});
  computeNormals(wall);
  wall.object = 1;
  const auto seen = rendered(std::vector<Mesh>{wall}, ahead(4), even());
  QCOMPARE(seen.object(size.width - 2, size.height / 2), std::uint16_t{1});
  QCOMPARE(seen.object(2, size.height / 2), std::uint16_t{0});
  // At the right rim of a 36 mm lens things are as far away as twice their distance aside.
  QVERIFY(std::abs(seen.near(size.width - 1, size.height / 2) - 1.0f) < 0.02f);
}

void StageTest::nothingShowsTheSky() {
  auto lighting = even();
  lighting.skyTop = {0, 0, 1};
  lighting.skyRim = {1, 1, 1};
  const auto seen = rendered({}, lookingAt({0, 0, 0}, {0, 0, -1}, 20, size), lighting);
  QVERIFY(seen.colour(100, 2).r < 0.5f);
  QVERIFY(seen.colour(100, size.height - 2).r > 0.99f);
  QVERIFY(rendered({}, lookingAt({0, 0, 0}, {0, 0, -1}, 20, {0, 0}), lighting).colour.empty());
}

void StageTest::hazeVeilsTheFar() {
  auto lighting = even();
  lighting.veil = {0, 0, 1};
  lighting.veilLength = 4;
  const std::vector<Mesh> meshes = {square({0, 0, 0}, 1, {1, 0, 0}, 1)};
  const auto seen = rendered(meshes, ahead(4), lighting);
  const Rgb c = seen.colour(size.width / 2, size.height / 2);
  QVERIFY(std::abs(c.r - std::exp(-1.0f)) < 1e-4f && std::abs(c.b - 1 + std::exp(-1.0f)) < 1e-4f);
}

void StageTest::bodiesCoverTheirSkeletons_data() {
  QTest::addColumn<int>("pose");
  for (const int pose : {0, 6, 10, 14, 16, 20, 24, 28, 36, 43, 52})
    QTest::addRow("%s", pose::housePoses()[static_cast<std::size_t>(pose)].name.c_str()) << pose;
}

void StageTest::bodiesCoverTheirSkeletons() {
  QFETCH(int, pose);
  const auto& skeleton = pose::skeletonOf("human");
  BodySpec spec = standing();
  spec.angles = pose::housePoses()[static_cast<std::size_t>(pose)].pose.angles;
  auto body = bodyOf(spec);
  body.mesh.object = 5;
  const auto camera = lookingAt({0.4f, 1.3f, 3.2f}, {0, 0.7f, 0}, 36, {300, 300});
  const auto seen = rendered(std::vector<Mesh>{body.mesh}, camera, even());
  for (std::size_t p = 0; p < 18; ++p) {
    const auto at = camera.seen(body.points[p]);
    const int x = static_cast<int>(at.x), y = static_cast<int>(at.y);
    // Within the body's outline, and under its surface there by no more than it is thick.
    bool covered = false;
    for (int dy = -2; dy <= 2; ++dy)
      for (int dx = -2; dx <= 2; ++dx) covered |= seen.object(x + dx, y + dy) == 5;
    QVERIFY2(covered, skeleton.points[p].id.c_str());
    if (seen.object(x, y) == 5) QVERIFY2(1 / seen.near(x, y) < at.far + 0.03f, skeleton.points[p].id.c_str());
  }
  // The key points are those of the posed skeleton: bones have their lengths.
  for (const auto& bone : skeleton.bones) {
    if (!skeleton.isBody(bone.to) || !skeleton.isBody(bone.from) || bone.reach != 1) continue;
    const float length = (body.points[bone.from] - body.points[bone.to]).norm();
    QVERIFY(std::abs(length - static_cast<float>(bone.length) * spec.size) < 0.01f);
  }
}

namespace {

/// Any pose within the limits of the skeleton.
std::vector<double> anyAngles(std::mt19937& dice) {
  std::vector<double> out;
  for (const auto& turn : pose::skeletonOf("human").turns)
    out.push_back(std::uniform_real_distribution<double>(turn.least, turn.most)(dice));
  return out;
}

Vec3 normalOf(const Mesh& mesh, const std::array<std::uint32_t, 3>& face) {
  return (mesh.at[face[1]] - mesh.at[face[0]]).cross(mesh.at[face[2]] - mesh.at[face[0]]);
}

}  // namespace

/// Each edge of the skin has a face on either side, in whatever is worn; the pose changes nothing of that.
void StageTest::skinHasNoGap() {
  auto spec = standing();
  for (const float cover : {0.0f, 0.31f, 1.0f}) {
    spec.clothes.sleeves = spec.clothes.trousers = cover;
    const auto body = bodyOf(spec);
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
    for (std::size_t f = 0; f < body.skin; ++f)
      for (std::size_t k = 0; k < 3; ++k) {
        const auto& face = body.mesh.faces[f];
        ++edges[{face[k], face[(k + 1) % 3]}];
      }
    for (const auto& [edge, count] : edges) {
      QCOMPARE(count, 1);
      const auto back = edges.find({edge.second, edge.first});
      QVERIFY2(back != edges.end(), qPrintable(QString("%1 %2").arg(edge.first).arg(edge.second)));
    }
    // And it encloses a body's volume, seen from outside: about as heavy as water.
    double volume = 0;
    for (std::size_t f = 0; f < body.skin; ++f) {
      const auto& [a, b, c] = body.mesh.faces[f];
      volume += static_cast<double>(body.mesh.at[a].dot(body.mesh.at[b].cross(body.mesh.at[c]))) / 6;
    }
    QVERIFY2(volume > 0.03 && volume < 0.09, qPrintable(QString::number(volume)));
  }
}

/// Faces whose corners all look the other way, in random poses up to every joint's limit at once.
void StageTest::skinIsNotTurnedOver() {
  std::mt19937 dice(5);
  std::size_t wrong = 0, all = 0;
  float least = 1;
  constexpr int poses = 1000;
  for (int i = 0; i < poses; ++i) {
    auto spec = standing();
    spec.angles = anyAngles(dice);
    spec.left.grip = static_cast<Grip>(i % grips);
    const auto body = bodyOf(spec);
    for (std::size_t f = 0; f < body.skin; ++f) {
      const auto& face = body.mesh.faces[f];
      const Vec3 n = normalOf(body.mesh, face);
      QVERIFY(n.allFinite());
      bool away = n.norm() > 1e-9f;
      for (const auto corner : face) away &= n.dot(body.mesh.normal[corner]) < 0;
      wrong += away;
      ++all;
    }
    // Bones have their lengths, and joints lie within the skin that is carried by them.
    least = std::min(least, (body.points[5] - body.points[7]).norm() / spec.size);
  }
  qInfo("%zu of %zu faces", wrong, all);
  QVERIFY(wrong * 1000000 < all);
  QVERIFY(std::abs(least - 0.185f) < 1e-3f);
}

/// What is closed is drawn without its far side: from anywhere outside it looks as with it, and from within as well.
void StageTest::farSidesOfSkinAreNotMissed() {
  std::mt19937 dice(11);
  std::uniform_real_distribution<float> any(-1, 1);
  const auto at = [](const Body& body, const char* id) { return body.points[*pose::skeletonOf("human").find(id)]; };
  std::size_t other = 0, seen = 0;
  for (int i = 0; i < 60; ++i) {
    auto spec = standing();
    spec.angles = pose::housePoses()[static_cast<std::size_t>(i) % pose::housePoses().size()].pose.angles;
    const auto body = bodyOf(spec);
    QVERIFY(body.mesh.closed == body.skin && body.skin > 1000);
    std::vector<Mesh> skin(1, body.mesh);
    skin[0].faces.resize(body.skin);
    skin[0].object = 1;
    auto whole = skin;
    whole[0].closed = 0;
    // Every third time the eye is within the trunk.
    const Vec3 middle = 0.5f * at(body, "neck") + 0.25f * (at(body, "left_hip") + at(body, "right_hip"));
    const bool within = i % 3 == 2;
    const Vec3 eye = middle + Vec3(any(dice), any(dice), any(dice)).normalized() * (within ? 0.02f : 2.5f);
    const auto camera = lookingAt(eye, middle + Vec3(0, within ? 1 : 0, 0), within ? 16 : 40, size);
    const auto without = rendered(skin, camera, even()), with = rendered(whole, camera, even());
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) {
        seen += with.object(x, y) == 1;
        other += with.object(x, y) != without.object(x, y) ||
                 std::abs(with.near(x, y) - without.near(x, y)) > 0.01f * with.near(x, y);
      }
  }
  qInfo("%zu of %zu pixels are other ones", other, seen);
  QVERIFY(seen > 100'000 && other * 10'000 < seen);
}

void StageTest::handsGripAndBuildsGrow() {
  const auto& skeleton = pose::skeletonOf("human");
  const auto at = [&](const Body& body, const char* id) { return body.points[*skeleton.find(id)]; };
  auto spec = standing();
  spec.left.grip = Grip::open;
  const auto open = bodyOf(spec);
  spec.left.grip = Grip::fist;
  spec.left.bend = 40;
  const auto fist = bodyOf(spec);
  const auto reach = [&](const Body& body) { return (at(body, "left_middle_4") - at(body, "left_wrist")).norm(); };
  QVERIFY(reach(fist) < 0.75f * reach(open));
  // The other hand does what it did; lengths of fingers stay.
  QVERIFY((at(fist, "right_index_4") - at(open, "right_index_4")).norm() < 1e-4f);
  QVERIFY(std::abs((at(fist, "left_index_2") - at(fist, "left_index_1")).norm() -
                   (at(open, "left_index_2") - at(open, "left_index_1")).norm()) < 1e-4f);
  for (int i = 0; i < grips; ++i) {
    const auto grip = static_cast<Grip>(i);
    QVERIFY(gripNamed(idOf(grip)) == grip);
    QVERIFY(std::strlen(nameOf(grip)) > 2);
  }
  for (const NamedBuild& each : houseBuilds()) {
    auto built = standing();
    built.build = each.build;
    built.size = each.size;
    built.clothes.hairStyle = HairStyle::none;
    const auto body = bodyOf(built);
    float lowest = 100, highest = 0;
    for (const Vec3& p : body.mesh.at) lowest = std::min(lowest, p.y()), highest = std::max(highest, p.y());
    QVERIFY2(std::abs(highest - lowest - each.size) < 0.035f * each.size, each.id);
  }
  // A child's head is a larger share of it, its legs a smaller one.
  auto child = standing();
  child.build.child = 1;
  const auto small = bodyOf(child), grown = bodyOf(standing());
  const auto share = [&](const Body& body, const char* a, const char* b) { return (at(body, a) - at(body, b)).norm(); };
  QVERIFY(share(small, "left_ear", "right_ear") > 1.2f * share(grown, "left_ear", "right_ear"));
  QVERIFY(share(small, "left_hip", "left_ankle") < 0.9f * share(grown, "left_hip", "left_ankle"));
}

void StageTest::feetStandFlat() {
  auto spec = standing();
  const auto& skeleton = pose::skeletonOf("human");
  spec.angles.assign(skeleton.turns.size(), 0);
  // Both knees bent a little: soles that stay at right angles to the shins would stand on their tips.
  for (const char* side : {"left", "right"}) {
    spec.angles[*skeleton.findTurn(std::string(side) + "_hip.forward")] = 20;
    spec.angles[*skeleton.findTurn(std::string(side) + "_knee.bend")] = 40;
  }
  const auto touching = [&](bool level) {
    spec.level = level;
    const auto body = bodyOf(spec);
    int count = 0;
    for (const Vec3& p : body.mesh.at) count += p.y() < 0.012f ? 1 : 0;
    return count;
  };
  QVERIFY(2 * touching(true) > 3 * touching(false));
}

void StageTest::bodiesStandOnTheirPlace() {
  auto spec = standing();
  spec.at = {1, 0.5f, -2};
  const auto body = bodyOf(spec);
  float lowest = 100, highest = 0;
  for (const Vec3& p : body.mesh.at) lowest = std::min(lowest, p.y()), highest = std::max(highest, p.y());
  QVERIFY(std::abs(lowest - 0.5f) < 1e-4f);
  QVERIFY(std::abs(highest - lowest - spec.size) < 0.08f * spec.size);
  QVERIFY(std::abs(body.points[*pose::skeletonOf("human").find("left_hip")].z() + 2) < 0.2f);
  QCOMPARE(body.mesh.normal.size(), body.mesh.at.size());
}

void StageTest::clothesAddOnly() {
  const auto plain = bodyOf(standing());
  auto spec = standing();
  spec.clothes.skirtLength = 0.9f;
  spec.clothes.cloakLength = 1;
  spec.clothes.sleeveFlare = 1;
  spec.clothes.headgear = Hat::brimmed;
  spec.clothes.left = Held::staff;
  const auto dressed = bodyOf(spec);
  QVERIFY(dressed.mesh.faces.size() > plain.mesh.faces.size() + 100);
  // Same joints, whatever is worn: but for how high a hem lifts the body.
  const Vec3 shift = dressed.points[0] - plain.points[0];
  for (std::size_t p = 0; p < 18; ++p) QVERIFY((dressed.points[p] - plain.points[p] - shift).norm() < 1e-4f);
  for (const Vec3& p : dressed.mesh.at) QVERIFY(p.allFinite());
}

void StageTest::animalsCoverTheirSkeletons() {
  for (const auto kind : {Animal::dog, Animal::fox, Animal::horse, Animal::cow, Animal::cat})
    for (const auto& named : pose::housePoses()) {
      if (named.skeleton != "four-legged") continue;
      AnimalSpec spec;
      spec.kind = kind;
      spec.angles = named.pose.angles;
      auto body = animalOf(spec);
      body.mesh.object = 9;
      const auto camera = lookingAt({2.2f, 0.8f, 1.2f}, {0, 0.4f, 0}, 36, {260, 200});
      const auto seen = rendered(std::vector<Mesh>{body.mesh}, camera, even());
      const auto& skeleton = pose::skeletonOf("four-legged");
      for (std::size_t p = 0; p < skeleton.points.size(); ++p) {
        const auto at = camera.seen(body.points[p]);
        bool covered = false;
        for (int dy = -4; dy <= 4; ++dy)
          for (int dx = -4; dx <= 4; ++dx)
            covered |= seen.object.view().clamped(static_cast<int>(at.x) + dx, static_cast<int>(at.y) + dy) == 9;
        QVERIFY2(covered, (named.name + ": " + skeleton.points[p].id).c_str());
      }
    }
}

void StageTest::propsStandOnTheGround() {
  const Place place{{1, 0, -2}, 30};
  const Rgb grey{0.5f, 0.5f, 0.5f};
  for (const Mesh& mesh :
       {box(place, {1, 2, 1}, grey), stair(place, 4, 1, grey), table(place, {1, 0.8f, 1}, grey), chair(place, 1, grey),
        post(place, 2, 0.1f, grey), ball(place, 0.4f, grey), rail(place, 3, 1, grey), arch(place, 2, 3, 1, grey),
        sheet(place, 2, 1.5f, 1, grey), tree(place, 4, 3, grey, grey, false), stalks(place, 1, 9, 5, grey)}) {
    float lowest = 100;
    Vec3 middle = Vec3::Zero();
    for (const Vec3& p : mesh.at) lowest = std::min(lowest, p.y()), middle += p / static_cast<float>(mesh.at.size());
    QVERIFY(std::abs(lowest) < 0.08f);
    QVERIFY((Vec3(middle.x(), 0, middle.z()) - place.at).norm() < 1.2f);
    for (const auto& face : mesh.faces)
      for (const auto corner : face) QVERIFY(corner < mesh.at.size());
  }
}

void StageTest::shadowsLieOnTheGround() {
  const std::vector<Mesh> things = {post({{0, 0, 0}, 0}, 2, 0.1f, {1, 1, 1})};
  const Light light{Vec3(1, 1, 0).normalized(), {1, 1, 1}};
  const Mesh shadow = shadowOn(0, things, light, {0, 0, 0}, 3);
  float farthest = 0;
  for (const Vec3& p : shadow.at) {
    QVERIFY(p.y() < 0.01f);
    farthest = std::min(farthest, p.x());
  }
  // As long as the post is high, away from the light.
  QVERIFY(std::abs(farthest + 2.1f) < 0.05f);
}

/// On whatever is there, not on the ground alone: a board between the light and a wall.
void StageTest::shadowsLieOnThings() {
  Mesh wall = square({0, 0, 0}, 4, {1, 1, 1}, 1), board = square({0, 0, 1}, 1, {1, 1, 1}, 2);
  board.material.glows = true;
  auto lighting = even();
  lighting.above = lighting.below = {0.2f, 0.2f, 0.2f};
  lighting.lights.push_back({Vec3(0.6f, 0, 0.8f), {1, 1, 1}});
  const std::vector<Mesh> meshes = {wall, board};
  const auto camera = lookingAt({0, 0, 8}, {0, 0, 0}, 36, size);
  const auto lightAt = [&](float x, float y) {
    const auto seen = rendered(meshes, camera, lighting);
    const auto at = camera.seen({x, y, 0});
    return seen.colour(static_cast<int>(at.x), static_cast<int>(at.y)).g;
  };
  const float open = lightAt(-0.8f, 1.5f);
  QVERIFY(std::abs(open - 1) < 0.02f);
  QCOMPARE(lightAt(-0.85f, 0.2f), open);
  // The board's shadow is shifted by three quarters of its distance.
  lighting.shadows = true;
  QVERIFY(std::abs(lightAt(-0.8f, 1.5f) - open) < 0.02f);
  QVERIFY(std::abs(lightAt(-0.85f, 0.2f) - 0.2f) < 0.02f);
  QVERIFY(std::abs(lightAt(1.2f, 0.0f) - open) < 0.02f);
  // Its border lies there within two centimetres; soft ones are as wide as asked.
  QVERIFY(lightAt(-1.23f, 0) < 0.25f);
  QVERIFY(lightAt(-1.27f, 0) > 0.95f);
  lighting.soft = 0.1f;
  QVERIFY(lightAt(-1.25f, 0) > 0.4f && lightAt(-1.25f, 0) < 0.8f);
  QVERIFY(lightAt(-1.20f, 0) < lightAt(-1.25f, 0) && lightAt(-1.25f, 0) < lightAt(-1.30f, 0));
}

void StageTest::anyThreadsGiveTheSame() {
  auto body = bodyOf(standing());
  body.mesh.material.grain = 0.5f;
  const std::vector<Mesh> meshes = {body.mesh, land({}, 50, 3, 4, {0.2f, 0.3f, 0.1f}, {0.5f, 0.5f, 0.5f})};
  const auto camera = lookingAt({0.4f, 1.3f, 3.2f}, {0, 0.7f, 0}, 36, {301, 299});
  const auto first = rendered(meshes, camera, even());
  for (int i = 0; i < 3; ++i) {
    const auto again = rendered(meshes, camera, even());
    QVERIFY(again.colour == first.colour && again.near == first.near && again.object == first.object);
  }
}

void StageTest::setsGoOutAsGltf() {
  const std::vector<Mesh> meshes = {box({}, {1, 2, 3}, {1, 0, 0}), Mesh()};
  const auto json = nlohmann::json::parse(gltfFrom(meshes));
  QCOMPARE(json["asset"]["version"].get<std::string>(), std::string("2.0"));
  QCOMPARE(json["meshes"].size(), std::size_t{1});
  const auto& places =
      json["accessors"][json["meshes"][0]["primitives"][0]["attributes"]["POSITION"].get<std::size_t>()];
  QCOMPARE(places["count"].get<int>(), 24);
  QVERIFY(std::abs(places["max"][1].get<float>() - 2) < 1e-5f && std::abs(places["min"][1].get<float>()) < 1e-5f);
  const std::string uri = json["buffers"][0]["uri"];
  const auto bytes = QByteArray::fromBase64(QByteArray::fromStdString(uri.substr(uri.find(',') + 1)));
  QCOMPARE(bytes.size(), json["buffers"][0]["byteLength"].get<qsizetype>());
  float first = 0;
  std::memcpy(&first, bytes.constData(), sizeof first);
  QCOMPARE(first, meshes[0].at[0].x());
}

HSCAFFOLD_TEST(StageTest)
#include "stage_test.moc"
