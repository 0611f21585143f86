// Posing on a stage: what is led arrives, what is pinned stays, within joints' limits.
#include <QTest>
#include <cmath>
#include <random>

#include "core/pose/library.h"
#include "core/stage/leading.h"
#include "core/stage/scene_maps.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

namespace {

Thing figure(const char* pose, const Vec3& at = Vec3::Zero(), float turn = 0) {
  Thing out{"t1", "Walker", {at, turn}, false, Person{}};
  for (const auto& each : pose::housePoses())
    if (each.name == pose && each.skeleton == "human") std::get<Person>(out.is).angles = anglesAhead(each);
  return out;
}

std::size_t human(const char* id) { return *pose::skeletonOf("human").find(id); }

void checkLimits(const Thing& thing) {
  const auto& skeleton = skeletonOf(thing);
  const auto angles = anglesOf(thing);
  for (std::size_t t = 0; t < angles.size(); ++t) {
    QVERIFY2(angles[t] >= skeleton.turns[t].least - 1e-6 && angles[t] <= skeleton.turns[t].most + 1e-6,
             skeleton.turns[t].id.c_str());
  }
}

Thing prop(const char* id, Prop::Form form, const Vec3& at, const Vec3& size) {
  Prop is = usualProp(form);
  is.size = size;
  return {id, id, {at, 0}, false, is};
}

}  // namespace

class LeadingTest : public QObject {
  Q_OBJECT
 private slots:
  void wristsArriveWhereTheyCan();
  void hipsTakeTheBodyAlongAndFeetStay();
  void outOfReachIsStretchedTowards();
  void whatIsNotLedHardlyMoves();
  void animalsAreLedToo();
  void pinsHoldPlacesAndThings();
  void headsLookAtWhatTheyShould();
  void thingsAreLetDownOntoOthers();
  void mirroringTwiceIsNothing();
  void relaxedAndBlended();
  void sinkingInIsSaid();
  void pinsAndLooksAreReadBack();
};

/// 200 places within reach of an arm, from several poses and turned places.
void LeadingTest::wristsArriveWhereTheyCan() {
  std::mt19937 dice(3);
  std::uniform_real_distribution<float> any(-1, 1);
  int arrived = 0;
  constexpr int tries = 200;
  for (int i = 0; i < tries; ++i) {
    Thing thing =
        figure(i % 2 == 0 ? "Standing straight" : "Walking", {any(dice) * 3, 0, any(dice) * 3}, 180 * any(dice));
    const auto points = pointsOf(thing);
    const Vec3 shoulder = points[human("left_shoulder")];
    // Before, beside or above: not through the trunk.
    const Vec3 way =
        thing.place.direction(Vec3(0.3f + 0.5f * any(dice), any(dice), 0.75f + 0.2f * any(dice))).normalized();
    const Vec3 to = shoulder + way * (0.30f + 0.20f * std::abs(any(dice)));
    const std::array leads = {Lead{human("left_wrist"), to, 1}};
    const float miss = lead(thing, leads);
    checkLimits(thing);
    const float seen = (pointsOf(thing)[human("left_wrist")] - to).norm();
    QVERIFY(std::abs(seen - miss) < 0.03f);  // but for how it then stands
    arrived += miss < 0.01f ? 1 : 0;
  }
  QVERIFY2(arrived > tries * 95 / 100, qPrintable(QString::number(arrived)));
}

void LeadingTest::hipsTakeTheBodyAlongAndFeetStay() {
  Thing thing = figure("Standing straight", {1, 0, -2}, 30);
  const auto before = pointsOf(thing);
  const Vec3 hip = before[human("left_hip")];
  const std::array leads = {Lead{human("left_hip"), hip + Vec3(0, -0.3f, 0), 1}};
  QVERIFY(lead(thing, leads) < 0.03f);
  const auto after = pointsOf(thing);
  const float down = after[human("left_hip")].y() - hip.y();
  QVERIFY2(std::abs(down + 0.3f) < 0.05f, qPrintable(QString::number(down)));
  for (const char* ankle : {"left_ankle", "right_ankle"})
    QVERIFY2((after[human(ankle)] - before[human(ankle)]).norm() < 0.08f, ankle);  // heels rise
  // So the knees have bent.
  const auto angles = anglesOf(thing);
  QVERIFY(angles[*skeletonOf(thing).findTurn("left_knee.bend")] > 30);
  checkLimits(thing);
}

void LeadingTest::outOfReachIsStretchedTowards() {
  Thing thing = figure("Standing straight");
  const Vec3 shoulder = pointsOf(thing)[human("right_shoulder")];
  const Vec3 to = shoulder + Vec3(-0.3f, 0.4f, 3);
  const std::array leads = {Lead{human("right_wrist"), to, 1}};
  QVERIFY(lead(thing, leads) > 1.5f);
  checkLimits(thing);
  const auto after = pointsOf(thing);
  const Vec3 arm = after[human("right_wrist")] - after[human("right_shoulder")];
  QVERIFY(arm.norm() > 0.97f * 0.33f * 1.7f);
  QVERIFY(arm.normalized().dot((to - after[human("right_shoulder")]).normalized()) > 0.95f);
}

void LeadingTest::whatIsNotLedHardlyMoves() {
  Thing thing = figure("Walking");
  const auto before = pointsOf(thing);
  const std::array leads = {Lead{human("left_wrist"), before[human("left_wrist")] + Vec3(0.1f, 0.15f, 0.1f), 1}};
  lead(thing, leads);
  const auto after = pointsOf(thing);
  for (const char* still : {"right_wrist", "left_knee", "right_ankle", "nose"})
    QVERIFY2((after[human(still)] - before[human(still)]).norm() < 0.05f, still);
}

void LeadingTest::animalsAreLedToo() {
  Thing thing{"t1", "Dog", {}, false, Beast{}};
  const auto& skeleton = skeletonOf(thing);
  const auto nose = *skeleton.find("nose");
  const Vec3 to = pointsOf(thing)[nose] + Vec3(0.08f, -0.1f, 0);
  const std::array leads = {Lead{nose, to, 1}};
  QVERIFY(lead(thing, leads) < 0.02f);
  checkLimits(thing);
}

void LeadingTest::pinsHoldPlacesAndThings() {
  Scene scene;
  scene.things.push_back(figure("Standing straight"));
  scene.things.push_back(prop("t2", Prop::Form::post, {0.35f, 0, 0.3f}, {0.1f, 1.1f, 0.1f}));
  const auto wrist = human("left_wrist");
  // Its hand on the post.
  const std::array leads = {Lead{wrist, {0.35f, 1.1f, 0.3f}, 1}};
  lead(scene.things[0], leads);
  scene.things[0].pins.push_back(pinAt(scene, scene.things[0], wrist, "t2"));
  const Vec3 before = pointsOf(scene.things[0])[wrist];
  settle(scene);
  QVERIFY((pointsOf(scene.things[0])[wrist] - before).norm() < 0.005f);
  // The post moves: the hand goes along. The figure moves: the hand stays.
  scene.things[1].place.at += Vec3(0.05f, 0, 0.08f);
  settle(scene);
  QVERIFY((pointsOf(scene.things[0])[wrist] - before - Vec3(0.05f, 0, 0.08f)).norm() < 0.02f);
  scene.things[0].place.at += Vec3(0, 0, 0.1f);
  settle(scene);
  QVERIFY((pointsOf(scene.things[0])[wrist] - before - Vec3(0.05f, 0, 0.08f)).norm() < 0.02f);
  // With the post gone nothing holds the hand, and nothing breaks.
  scene.things.pop_back();
  settle(scene);
  QVERIFY(scene.things[0].pins.empty());
}

void LeadingTest::headsLookAtWhatTheyShould() {
  Scene scene;
  scene.things.push_back(figure("Standing straight", {0, 0, 0}, 10));
  scene.things.push_back(prop("t2", Prop::Form::ball, {2, 0, 2}, {0.4f, 0.4f, 0.4f}));
  scene.things[0].gaze = {true, "t2"};
  const auto miss = [&](const Vec3& at) {
    const auto points = pointsOf(scene.things[0]);
    const Vec3 ears = (points[human("left_ear")] + points[human("right_ear")]) / 2;
    const Vec3 nose = points[human("nose")];
    return std::acos(std::clamp((nose - ears).normalized().dot((at - ears).normalized()), -1.0f, 1.0f)) * 180 / pi;
  };
  settle(scene);
  QVERIFY2(miss({2, 0.2f, 2}) < 14, qPrintable(QString::number(miss({2, 0.2f, 2}))));
  // At the eye, from behind its shoulder: the waist helps.
  scene.things[0].gaze = {true, ""};
  scene.eye.at = {3, 1.6f, -1.2f};
  settle(scene);
  QVERIFY2(miss(scene.eye.at) < 20, qPrintable(QString::number(miss(scene.eye.at))));
  checkLimits(scene.things[0]);
  scene.things[0].gaze = {true, "gone"};
  settle(scene);
  QVERIFY(!scene.things[0].gaze.on);
}

void LeadingTest::thingsAreLetDownOntoOthers() {
  Scene scene;
  scene.things.push_back(figure("Standing straight", {0, 2, 0}));
  scene.things.push_back(prop("t2", Prop::Form::box, {0, 0, 0}, {2, 0.7f, 2}));
  scene.things.push_back(prop("t3", Prop::Form::ball, {5, 3, 0}, {0.4f, 0.4f, 0.4f}));
  QVERIFY(std::abs(letDown(scene, "t1") + 1.3f) < 0.01f);
  QVERIFY(std::abs(scene.things[0].place.at.y() - 0.7f) < 0.01f);
  letDown(scene, "t3");
  QVERIFY(std::abs(scene.things[2].place.at.y()) < 0.02f);
  // What has sunk in a little comes up.
  scene.things[0].place.at.y() = 0.4f;
  QVERIFY(std::abs(letDown(scene, "t1") - 0.3f) < 0.01f);
  QCOMPARE(letDown(scene, "nobody"), 0.0f);
}

void LeadingTest::mirroringTwiceIsNothing() {
  Thing thing = figure("Walking");
  std::get<Person>(thing.is).left.grip = Grip::fist;
  const auto before = anglesOf(thing);
  const auto points = pointsOf(thing);
  mirror(thing);
  const auto mirrored = pointsOf(thing);
  QVERIFY((mirrored[human("left_wrist")] -
           Vec3(-points[human("right_wrist")].x(), points[human("right_wrist")].y(), points[human("right_wrist")].z()))
              .norm() < 0.03f);
  QVERIFY(std::get<Person>(thing.is).right.grip == Grip::fist);
  mirror(thing);
  QCOMPARE(anglesOf(thing), before);
}

void LeadingTest::relaxedAndBlended() {
  Thing thing = figure("Kneeling on one knee"), other = figure("Walking");
  const auto kneeling = anglesOf(thing);
  blendInto(thing, anglesOf(other), 1);
  QCOMPARE(anglesOf(thing), anglesOf(other));
  setAngles(thing, kneeling);
  blendInto(thing, anglesOf(other), 0);
  QCOMPARE(anglesOf(thing), kneeling);
  relax(thing, 1);
  for (const double angle : anglesOf(thing)) QVERIFY(std::abs(angle) < 1e-9);
}

void LeadingTest::sinkingInIsSaid() {
  Scene scene;
  scene.things.push_back(figure("Standing straight"));
  scene.things.push_back(prop("Bench", Prop::Form::box, {0, 0, 0}, {1, 0.4f, 1}));
  auto said = whatSinksIn(scene, setOf(scene));
  QCOMPARE(said.size(), std::size_t{1});
  QVERIFY2(said[0].find("Walker sinks ") == 0 && said[0].find("into Bench") != std::string::npos, said[0].c_str());
  letDown(scene, "t1");
  QVERIFY(whatSinksIn(scene, setOf(scene)).empty());
  scene.things[0].place.at = {3, 0, 0};
  QVERIFY(whatSinksIn(scene, setOf(scene)).empty());
}

void LeadingTest::pinsAndLooksAreReadBack() {
  Scene scene;
  scene.things.push_back(figure("Walking"));
  scene.things.push_back(prop("t2", Prop::Form::post, {1, 0, 0}, {0.1f, 1, 0.1f}));
  Thing& thing = scene.things[0];
  thing.locked = true;
  thing.group = "pair";
  thing.gaze = {true, "t2"};
  thing.pins = {{"left_wrist", "t2", {0, 1, 0}}, {"right_ankle", "", {0.5f, 0.1f, 0.25f}}};
  std::get<Person>(thing.is).left = {Grip::hook, 30};
  std::get<Person>(thing.is).build.child = 0.5f;
  scene.light.soft = 0.75f;
  const std::string text = sceneToText(scene);
  const Scene read = sceneFromText(text, "test");
  QCOMPARE(sceneToText(read), text);
  const Thing& back = read.things[0];
  QVERIFY(back.locked && back.group == "pair" && back.gaze.on && back.gaze.thing == "t2");
  QCOMPARE(back.pins.size(), std::size_t{2});
  QVERIFY(back.pins[0].on == "t2" && back.pins[1].on.empty() && back.pins[1].at.isApprox(Vec3(0.5f, 0.1f, 0.25f)));
  QVERIFY(std::get<Person>(back.is).left.grip == Grip::hook);
  QVERIFY_THROWS_EXCEPTION(
      Problem, (void)sceneFromText(R"({"scene": 1, "things": [{"id": "a", "person": {}, "pins": 3}]})", "x"));
  QVERIFY_THROWS_EXCEPTION(
      Problem,
      (void)sceneFromText(R"({"scene": 1, "things": [{"id": "a", "person": {"left-hand": {"grip": "claw"}}}]})", "x"));
}

HSCAFFOLD_TEST(LeadingTest)
#include "leading_test.moc"
