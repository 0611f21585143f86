// A picture that is painted again only where something has changed is, to the last bit, the one that is painted whole.
#include "core/stage/stand.h"

#include <QTest>
#include <algorithm>
#include <random>

#include "core/pose/library.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

namespace {

constexpr Size small{320, 200};

/// Figures and things in three rows.
Scene crowd(std::mt19937& chance) {
  Scene out;
  std::uniform_int_distribution<std::size_t> pose(0, pose::housePoses().size() - 1);
  for (int i = 0; i < 9; ++i) {
    Thing thing{newThingId(out),
                "",
                {{1.1f * static_cast<float>(i % 3 - 1), 0, -1.3f * static_cast<float>(i / 3)}, 0},
                false,
                Person{}};
    if (i % 2 != 0) thing.is = usualProp(static_cast<Prop::Form>(i));
    if (auto* person = std::get_if<Person>(&thing.is)) {
      const auto& named = pose::housePoses()[pose(chance)];
      if (named.skeleton == "human") person->angles = anglesAhead(named);
    }
    out.things.push_back(std::move(thing));
  }
  out.eye = lookingFrom({0.5f, 1.7f, 6}, {0, 0.8f, -1}, 38);
  return out;
}

/// What somebody might do to a scene.
void change(Scene& scene, std::mt19937& chance) {
  std::uniform_real_distribution<float> any(-1, 1);
  Thing& thing = scene.things[chance() % scene.things.size()];
  switch (chance() % 12) {
    case 0:
      thing.hidden = !thing.hidden;
      break;
    case 1:
      thing.place.turn += 90 * any(chance);
      break;
    case 2:
      scene.eye.turn += 3 * any(chance);
      break;
    case 3:
      scene.light.from += 40 * any(chance);
      break;
    case 4:
      std::swap(scene.things.front(), thing);
      break;
    case 5:
      thing.place.at.y() += 0.5f * any(chance);  // above the ground, or sunk into it
      break;
    case 6:
      scene.light.soft = 0.5f + 0.5f * any(chance);
      break;
    case 7:
      if (auto* person = std::get_if<Person>(&thing.is)) person->build.girth += 0.2f * any(chance);
      break;
    default:
      thing.place.at += Vec3(0.4f * any(chance), 0, 0.4f * any(chance));
  }
}

bool sameShadows(const ShadowMap& a, const ShadowMap& b) {
  const auto one = a.field(), other = b.field();
  if (one.side != other.side || one.soft != other.soft || one.texel != other.texel || one.stride != other.stride)
    return false;
  const auto alike = [&](const float* from, const float* to) {
    for (int y = 0; y < one.side; ++y)
      if (!std::equal(from + y * one.stride, from + y * one.stride + one.side, to + y * one.stride)) return false;
    return true;
  };
  return alike(one.over, other.over) && alike(one.most, other.most) && alike(one.least, other.least);
}

bool same(const Rendered& a, const Rendered& b) {
  return a.colour == b.colour && a.near == b.near && a.object == b.object;
}

}  // namespace

class KeptPictureTest : public QObject {
  Q_OBJECT
 private slots:
  void isWhatIsPaintedWhole();
  void paintsNoMoreThanAFigureAndItsShadow();
  void whatWasCalledOffIsPaintedLater();
  void shadowsOfTowersReachFar();
  void aPartIsThatPartOfTheWhole();
  void aPartBehindTheEyeIsTheWhole();
};

void KeptPictureTest::isWhatIsPaintedWhole() {
  int inPart = 0, nothing = 0;
  for (unsigned seed = 1; seed <= 6; ++seed) {
    std::mt19937 chance(seed);
    Scene scene = crowd(chance);
    KeptPicture kept;
    std::shared_ptr<const Stand> stand;
    for (int step = 0; step < 40; ++step) {
      // A drag of several steps has coarse shadows, and ends in fine ones.
      stand = standOf(scene, stand, step % 5 != 0);
      const Camera camera = cameraOf(scene.eye, small);
      const Box part = kept.paint(stand, camera);
      inPart += part.empty() || part == boxOf(small) ? 0 : 1;
      nothing += part.empty() ? 1 : 0;
      QVERIFY2(same(kept.seen(), rendered(*stand, camera)), qPrintable(QString("%1, %2").arg(seed).arg(step)));
      const Lighting lighting = lightingOf(scene.light);
      QVERIFY(sameShadows(stand->shadows, ShadowMap(stand->set.meshes, lighting.lights.front().from, lighting.soft,
                                                    stand->shadows.side(), stand->shadows.reach())));
      if (!stand->coarse) {
        const auto anew = standOf(scene);
        QVERIFY(sameShadows(stand->shadows, anew->shadows));
        QVERIFY(same(kept.seen(), rendered(*anew, camera)));
      }
      change(scene, chance);
    }
  }
  QVERIFY2(inPart > 60, qPrintable(QString::number(inPart)));
  QVERIFY(nothing > 0);
}

void KeptPictureTest::paintsNoMoreThanAFigureAndItsShadow() {
  std::mt19937 chance(9);
  Scene scene = crowd(chance);
  // In the middle of all, lit from above: what stands about it stays as it is.
  scene.light.height = 80;
  Thing& walker = scene.things[4];
  KeptPicture kept;
  auto stand = standOf(scene);
  const Camera camera = cameraOf(scene.eye, small);
  QCOMPARE(kept.paint(stand, camera), boxOf(small));
  QVERIFY(kept.paint(stand, camera).empty());
  walker.name = "Walker";
  stand = standOf(scene, stand);
  QVERIFY(kept.paint(stand, camera).empty());
  walker.place.at.x() -= 0.02f;
  stand = standOf(scene, stand, true);
  const Box part = kept.paint(stand, camera);
  QVERIFY2(!part.empty() && part.width() < small.width / 2, qPrintable(QString::number(part.width())));
  // Also who stands at the rim, and moves the middle of all that throws.
  scene.things[2].place.at.x() += 0.05f;
  stand = standOf(scene, stand, true);
  QVERIFY(stand->coarse);
  const Box atRim = kept.paint(stand, camera);
  QVERIFY2(!atRim.empty() && atRim.width() < small.width / 2, qPrintable(QString::number(atRim.width())));
  const Set alone = setOf(walker);
  for (const Vec3& p : alone.meshes.front().at) {
    const auto at = camera.seen(p);
    QVERIFY(at.x >= static_cast<float>(part.left) && at.x <= static_cast<float>(part.right));
  }
}

void KeptPictureTest::whatWasCalledOffIsPaintedLater() {
  std::mt19937 chance(4);
  Scene scene = crowd(chance);
  const Camera camera = cameraOf(scene.eye, small);
  KeptPicture kept;
  auto stand = standOf(scene);
  std::stop_source stop;
  stop.request_stop();
  QVERIFY_EXCEPTION_THROWN(kept.paint(stand, camera, stop.get_token()), Cancelled);
  QCOMPARE(kept.paint(stand, camera), boxOf(small));
  // Two moves, the first of which nobody waited for.
  scene.things[0].place.at.x() -= 0.3f;
  stand = standOf(scene, stand);
  QVERIFY_EXCEPTION_THROWN(kept.paint(stand, camera, stop.get_token()), Cancelled);
  scene.things[0].place.at.x() += 0.3f;
  stand = standOf(scene, stand);
  QVERIFY(!kept.paint(stand, camera).empty());
  QVERIFY(same(kept.seen(), rendered(*stand, camera)));
}

void KeptPictureTest::shadowsOfTowersReachFar() {
  // Higher than the light's eye stands, and far higher than shadows are cast from; under a low sun and a high one.
  for (const float high : {20.0f, 60.0f, 190.0f})
    for (const float sun : {2.0f, 10.0f, 45.0f}) {
      std::mt19937 chance(8);
      Scene scene = crowd(chance);
      scene.light.height = sun;
      scene.light.from = 160;  // from behind: shadows come towards the eye
      scene.things[1].is = usualProp(Prop::Form::box);
      std::get<Prop>(scene.things[1].is).size = {2, high, 2};
      scene.things[1].place.at = {-4, 0, -14};
      const Camera camera = cameraOf(scene.eye, small);
      KeptPicture kept;
      auto stand = standOf(scene);
      kept.paint(stand, camera);
      for (int step = 0; step < 3; ++step) {
        scene.things[1].place.at.x() += 1;
        stand = standOf(scene, stand, true);
        kept.paint(stand, camera);
        QVERIFY2(same(kept.seen(), rendered(*stand, camera)), qPrintable(QString("%1 m, %2 deg").arg(high).arg(sun)));
      }
    }
}

void KeptPictureTest::aPartIsThatPartOfTheWhole() {
  std::mt19937 chance(5);
  const Scene scene = crowd(chance);
  const auto stand = standOf(scene);
  const Camera camera = cameraOf(scene.eye, small);
  Lighting lighting = lightingOf(scene.light);
  lighting.ready = &stand->shadows;
  const Keep keep{.normal = true, .fine = true};
  const Rendered whole = rendered(stand->set.meshes, camera, lighting, {}, keep);
  // Of another scene, so that all of a part has to be painted.
  Rendered seen = rendered({}, camera, lighting, {}, keep);
  for (const Box part : {Box{0, 0, 320, 1}, {319, 0, 320, 200}, {37, 51, 211, 133}, {0, 199, 1, 200}, {5, 5, 5, 9}}) {
    renderPart(stand->set.meshes, camera, lighting, patchOf(part), seen);
    for (int y = part.top; y < part.bottom; ++y)
      for (int x = part.left; x < part.right; ++x) {
        QVERIFY(seen.colour(x, y) == whole.colour(x, y) && seen.near(x, y) == whole.near(x, y));
        QVERIFY(seen.object(x, y) == whole.object(x, y) && seen.normal(x, y) == whole.normal(x, y));
        QVERIFY(seen.fine(2 * x + 1, 2 * y) == whole.fine(2 * x + 1, 2 * y));
      }
  }
  const Rendered nothing = rendered({}, camera, lighting, {}, keep);
  QVERIFY(seen.colour(20, 100) == nothing.colour(20, 100) && seen.object(160, 190) == nothing.object(160, 190));
}

void KeptPictureTest::aPartBehindTheEyeIsTheWhole() {
  Camera camera;
  camera.size = small;
  const std::array<Vec3, 2> across = {camera.eye - Vec3(0, 0, 2), camera.eye + Vec3(0, 0, 2)};
  QCOMPARE(camera.partOf(across).bounds(), boxOf(small));
  const std::array<Vec3, 1> ahead = {camera.eye - Vec3(0, 0, 2)}, beside = {camera.eye - Vec3(20, 0, 2)};
  QCOMPARE(camera.partOf(ahead).bounds(), (Box{158, 98, 162, 103}));
  QVERIFY(camera.partOf(beside).empty());
  QVERIFY(camera.partOf({}).empty());
  const std::array<Vec3, 1> faraway = {camera.eye - Vec3(1e9f, 0, 2)};
  QCOMPARE(camera.partOf(faraway).bounds(), boxOf(small));
}

HSCAFFOLD_TEST(KeptPictureTest)
#include "kept_picture_test.moc"
