// A stage in the space of a picture: eyes from lines, depths joined; motion clips onto figures.
#include <QTest>
#include <cmath>
#include <random>

#include "core/stage/clip.h"
#include "core/stage/leading.h"
#include "core/stage/photograph.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

class PhotographTest : public QObject {
  Q_OBJECT
 private slots:
  void eyesAreFoundFromTheirLines();
  void parallelUprightsLeaveTheLens();
  void linesThatAreNoneGiveNothing();
  void depthsAreJoinedOnTheGround();
  void withoutGroundNothingIsJoined();
  void clipsPoseFigures();
  void keyFramesAreWhereMotionTurns();
};

void PhotographTest::eyesAreFoundFromTheirLines() {
  std::mt19937 dice(11);
  std::uniform_real_distribution<float> any(-1, 1);
  const Size frame{768, 512};
  for (int i = 0; i < 100; ++i) {
    Eye eye;
    eye.at = {any(dice), 1.5f + any(dice), 4};
    eye.turn = 180 * any(dice);
    // Enough of a tilt for uprights to meet.
    eye.tilt = (any(dice) > 0 ? 1.0f : -1.0f) * (8 + 14 * std::abs(any(dice)));
    eye.roll = 12 * any(dice);
    eye.millimetres = 40 + 18 * any(dice);
    const auto lines = linesFor(eye, frame);
    Eye before = eye;
    before.tilt = before.roll = 0;
    before.millimetres = 70;
    const auto found = eyeOf(lines, frame, before);
    QVERIFY(found.has_value());
    QVERIFY2(std::abs(found->tilt - eye.tilt) < 0.3f, qPrintable(QString("%1 %2").arg(found->tilt).arg(eye.tilt)));
    QVERIFY2(std::abs(found->roll - eye.roll) < 0.3f, qPrintable(QString("%1 %2").arg(found->roll).arg(eye.roll)));
    QVERIFY(std::abs(found->millimetres - eye.millimetres) < 0.01f * eye.millimetres);
    QCOMPARE(found->turn, eye.turn);
    QCOMPARE(found->at, eye.at);
  }
}

void PhotographTest::parallelUprightsLeaveTheLens() {
  Eye before;
  before.millimetres = 38;
  const auto found =
      eyeOf({{{0, 200}, {768, 200}}, {{200, 100}, {200, 400}}, {{500, 100}, {500, 400}}}, {768, 512}, before);
  QVERIFY(found && found->millimetres == 38 && std::abs(found->roll) < 1e-4f);
  // The horizon lies above the middle: it looks down.
  QVERIFY(std::abs(found->tilt + std::atan(56.0 / (38.0 / 36 * 768)) * 180 / std::numbers::pi) < 0.01);
}

void PhotographTest::linesThatAreNoneGiveNothing() {
  const DrawnLine upright{{200, 100}, {200, 400}}, none{{5, 5}, {5, 5}};
  QVERIFY(!eyeOf({none, upright, upright}, {768, 512}, {}));
  QVERIFY(!eyeOf({upright, upright, upright}, {768, 512}, {}));
  QVERIFY(!eyeOf({{{0, 200}, {700, 200}}, none, upright}, {768, 512}, {}));
}

/// A picture's depth of unknown scale, made from a scene of its own, joined with somebody who is put into it.
void PhotographTest::depthsAreJoinedOnTheGround() {
  const Size frame{240, 160};
  Scene place;
  place.things.push_back({"t1", "Post", {{-1.2f, 0, 0}, 0}, false, usualProp(Prop::Form::box)});
  place.eye = lookingFrom({0, 1.5f, 5}, {0, 0.7f, 0}, 35);
  const auto there = lookAt(place, frame);
  Image<std::uint16_t> picture(frame);
  const double a = 1 / 9e-6, b = 0.03;  // near = picture / a + b
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x)
      picture(x, y) =
          static_cast<std::uint16_t>(std::clamp((static_cast<double>(there.seen.near(x, y)) - b) * a, 0.0, 65535.0));
  Scene own;
  own.things.push_back({"t2", "Walker", {{0.8f, 0, 0.5f}, 0}, false, Person{}});
  own.eye = place.eye;
  const auto look = lookAt(own, frame);
  const auto joined = joinedDepth(picture.view(), look);
  QVERIFY(joined.has_value());
  long figure = 0, wrong = 0;
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x) {
      const double expected = look.seen.object(x, y) == 1
                                  ? std::max<double>(picture(x, y), (static_cast<double>(look.seen.near(x, y)) - b) * a)
                                  : picture(x, y);
      figure += look.seen.object(x, y) == 1 ? 1 : 0;
      wrong += std::abs((*joined)(x, y) - expected) > 900 ? 1 : 0;
    }
  QVERIFY(figure > 300);
  QVERIFY2(wrong < frame.area() / 100, qPrintable(QString::number(wrong)));
  // Behind the box of the picture it is hidden.
  own.things[0].place.at = {-1.48f, 0, -0.8f};
  const auto behind = lookAt(own, frame);
  const auto again = joinedDepth(picture.view(), behind);
  QVERIFY(again.has_value());
  int both = 0;
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x) {
      if (there.seen.object(x, y) != 1 || behind.seen.object(x, y) != 1) continue;
      ++both;
      QVERIFY(std::abs((*again)(x, y) - picture(x, y)) < 400);
    }
  QVERIFY2(both > 20, qPrintable(QString::number(both)));
}

void PhotographTest::withoutGroundNothingIsJoined() {
  Scene scene;
  scene.ground = false;
  scene.things.push_back({"t1", "", {}, false, Person{}});
  const auto look = lookAt(scene, {64, 64});
  QVERIFY(!joinedDepth(Image<std::uint16_t>(Size{64, 64}).view(), look));
  QVERIFY(!joinedDepth(Image<std::uint16_t>(Size{32, 64}).view(), look));
}

void PhotographTest::clipsPoseFigures() {
  const auto clip = pose::bvhFrom(fixtures::wavingClip(), "waving.bvh");
  const auto mapping = pose::mappingByName(clip);
  QVERIFY(pose::missingIn(mapping).empty());
  Person person;
  person.build.limbs = 1.1f;
  const auto& skeleton = pose::skeletonOf("human");
  for (const int frame : {0, 7, 15}) {
    person.angles = anglesOf(clip, static_cast<std::size_t>(frame), mapping, person);
    const Thing thing{"t", "", {}, false, person};
    const auto points = pointsOf(thing);
    const double up = 80 * (0.5 - 0.5 * std::cos(4 * std::numbers::pi * frame / 60.0)) * std::numbers::pi / 180;
    const Vec3 wanted(static_cast<float>(std::sin(up)), static_cast<float>(-std::cos(up)), 0);
    const Vec3 arm = points[*skeleton.find("left_wrist")] - points[*skeleton.find("left_shoulder")];
    QVERIFY2(arm.normalized().dot(wanted) > 0.97f, qPrintable(QString::number(arm.normalized().dot(wanted))));
    const Vec3 leg = points[*skeleton.find("right_ankle")] - points[*skeleton.find("right_hip")];
    QVERIFY(leg.normalized().y() < -0.98f);
  }
}

void PhotographTest::keyFramesAreWhereMotionTurns() {
  const auto clip = pose::bvhFrom(fixtures::wavingClip(), "waving.bvh");
  const auto keys = pose::keyFrames(clip, pose::mappingByName(clip));
  // Arms are down at 0, 30 and 60, up at 15 and 45; what is alike is named once.
  QVERIFY(!keys.empty() && keys.size() <= 5);
  bool down = false, up = false;
  for (const std::size_t each : keys) {
    const auto near = [&](int frame) { return std::abs(static_cast<int>(each) - frame) <= 2; };
    QVERIFY2(near(0) || near(15) || near(30) || near(45) || near(60), qPrintable(QString::number(each)));
    down = down || near(0) || near(30) || near(60);
    up = up || near(15) || near(45);
  }
  QVERIFY(down && up);
  QVERIFY_THROWS_EXCEPTION(Problem, (void)pose::keyFrames(clip, {}));
}

HSCAFFOLD_TEST(PhotographTest)
#include "photograph_test.moc"
