// Light and shadows of many places at once come to what each alone comes to.
#include "core/stage/lit.h"

#include <QTest>
#include <random>

#include "core/stage/shadow_map.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

class LitTest : public QObject {
  Q_OBJECT
 private slots:
  void lightRunsEvenlyOverATriangle();
  void shadowsAreThoseOfRays();
  void fineSlitsThrowAnEvenShadow();
};

void LitTest::lightRunsEvenlyOverATriangle() {
  Mesh mesh;
  mesh.at = {{-1, -1, -2}, {2, -1, -4}, {0, 2, -3}};
  mesh.normal.assign(3, Vec3(0, 0, 1));
  mesh.colour.assign(3, {1, 1, 1});
  mesh.faces = {{0, 1, 2}};
  Camera camera;
  camera.eye = Vec3::Zero();
  camera.size = {64, 64};
  const std::vector<Mesh> meshes = {mesh};
  const Triangles triangles(meshes, camera, false, patchOf(boxOf(camera.size)));
  // What is straight in space comes back as it is at each place: here the place itself.
  std::vector<Lit> points(3);
  for (std::size_t i = 0; i < 3; ++i) {
    points[i].put(Lit::colour, {mesh.at[i].x(), mesh.at[i].y(), mesh.at[i].z()});
    for (std::size_t k = 3; k < Lit::count; ++k) points[i].part[k] = 7;
  }
  const std::vector<LitMesh> lit = {{meshes[0].faces.data(), points.data()}};
  const float focal = camera.millimetres / 36 * static_cast<float>(camera.size.width);
  std::vector<LitPlace> places;
  for (int i = 0; i < 37; ++i)
    places.push_back({0, 60.0f + static_cast<float>(i % 6), 58.0f + static_cast<float>(i / 6)});
  std::vector<Lit> out(places.size());
  std::vector<std::uint32_t> which(places.size(), 9);
  raster_detail::lightAt(triangles, lit, places, out.data(), which.data());
  for (std::size_t i = 0; i < places.size(); ++i) {
    const Rgb at = out[i].rgb(Lit::colour);
    // Samples: two a pixel, from the left and from the top.
    const float x = 32 + focal * at.r / -at.b, y = 32 - focal * at.g / -at.b;
    QVERIFY(std::abs(2 * x - places[i].x) < 1e-3f && std::abs(2 * y - places[i].y) < 1e-3f);
    for (std::size_t k = 3; k < Lit::count; ++k) QVERIFY(std::abs(out[i].part[k] - 7) < 1e-4f);
    QCOMPARE(which[i], 0u);
  }
}

void LitTest::shadowsAreThoseOfRays() {
  // A board of two metres, two metres above the ground, lit from straight above and a little aside.
  Mesh board;
  addSheet(board, {-1, 2, 1}, {2, 0, 0}, {0, 0, -2}, {1, 1, 1});
  Mesh ground;
  addSheet(ground, {-6, 0, 6}, {12, 0, 0}, {0, 0, -12}, {1, 1, 1}, 4, 4);
  ground.material.throws = true;
  computeNormals(board);
  computeNormals(ground);
  const std::vector<Mesh> meshes = {board, ground};
  const Vec3 from = Vec3(0.3f, 1, 0).normalized();
  constexpr float soft = 0.05f;
  const ShadowMap map(meshes, from, soft);
  std::mt19937 chance(5);
  std::uniform_real_distribution<float> place(-3, 3);
  std::vector<Vec3> at;
  std::vector<Lit> lit;
  for (int i = 0; i < 1003; ++i) {
    at.emplace_back(place(chance), 0, place(chance));
    const auto seen = map.seen(at.back(), {0, 1, 0});
    std::copy(seen.begin(), seen.end(), lit.emplace_back().part.begin() + Lit::light);
  }
  std::vector<float> all(lit.size(), -1);
  raster_detail::shadowsAt(map.field(), lit, all.data());
  int dark = 0, border = 0;
  for (std::size_t i = 0; i < lit.size(); ++i) {
    float alone[2] = {-1, -1};
    raster_detail::shadowsAt(map.field(), std::span(lit).subspan(i, 1), alone);
    QCOMPARE(alone[0], all[i]);
    QCOMPARE(alone[1], -1.0f);  // nothing beyond the last place is written
    // Where the ray towards the light goes through the board, and how far that is from its rim.
    const Vec3 through = at[i] + from * (2 / from.y());
    const float inside = 1 - std::max(std::abs(through.x()), std::abs(through.z()));
    if (std::abs(inside) > 3 * soft) QCOMPARE(all[i], inside > 0 ? 1.0f : 0.0f);
    if (inside > 3 * soft) ++dark;
    if (all[i] > 0 && all[i] < 1) ++border;
  }
  QVERIFY(dark > 50 && border > 5);
  // Without anything that throws there are none.
  const ShadowMap none({}, from, soft);
  raster_detail::shadowsAt(none.field(), lit, all.data());
  QVERIFY(std::all_of(all.begin(), all.end(), [](float share) { return share == 0; }));
}

void LitTest::fineSlitsThrowAnEvenShadow() {
  // Slats of a centimetre and a half, as far apart, two metres wide and high above the ground: under a soft light what
  // lies below them is neither dark nor lit anywhere, and changes little from place to place.
  Mesh slats;
  constexpr float wide = 0.015f;
  for (int i = 0; i < 66; ++i)
    addSheet(slats, {-1 + 2 * wide * static_cast<float>(i), 2, 1}, {wide, 0, 0}, {0, 0, -2}, {1, 1, 1});
  computeNormals(slats);
  const std::vector<Mesh> meshes = {slats};
  for (const float aslant : {0.0f, 0.3f, 0.5f}) {
    const Vec3 from = Vec3(aslant, 1, 0.6f * aslant).normalized();
    const ShadowMap map(meshes, from, 0.05f);
    std::vector<Lit> lit;
    for (int i = 0; i < 400; ++i) {
      const Vec3 at = Vec3(-0.4f + 0.002f * static_cast<float>(i), 2, 0.1f) - from * (2 / from.y());
      const auto seen = map.seen(at, {0, 1, 0});
      std::copy(seen.begin(), seen.end(), lit.emplace_back().part.begin() + Lit::light);
    }
    std::vector<float> dark(lit.size());
    raster_detail::shadowsAt(map.field(), lit, dark.data());
    const auto [least, most] = std::minmax_element(dark.begin(), dark.end());
    QVERIFY2(*least > 0.25f && *most < 0.75f, qPrintable(QString("%1 to %2").arg(*least).arg(*most)));
    for (std::size_t i = 1; i < dark.size(); ++i) QVERIFY(std::abs(dark[i] - dark[i - 1]) < 0.05f);
  }
}

HSCAFFOLD_TEST(LitTest)
#include "lit_test.moc"
