// Bodies in space, found from the points of a figure, led by a point, and blended.
#include <QTest>
#include <random>

#include "core/pose/fit.h"
#include "core/pose/pose_fixtures.h"
#include "core/pose/pose_words.h"
#include "core/pose/posed_body.h"
#include "core/pose/posing.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;
using namespace fixtures;

namespace {

double meanError(const Figure& guess, const Figure& truth) {
  double sum = 0;
  int count = 0;
  for (std::size_t i = 0; i < truth.points.size(); ++i)
    if (truth.kind().isBody(i)) {
      sum += distanceBetween(guess.points[i].at, truth.points[i].at);
      ++count;
    }
  return sum / count / sizeOf(truth);
}

std::vector<BodyPose> startsWithout(const std::string& name) {
  std::vector<BodyPose> starts;
  for (const NamedPose& pose : housePoses())
    if (pose.skeleton == "human" && pose.name != name) starts.push_back(pose.pose);
  return starts;
}

}  // namespace

class BodyTest : public QObject {
  Q_OBJECT
 private slots:
  void bodiesHaveNaturalLengths();
  void fitsFindAPoseFromEightPoints();
  void leadingAFigureFollowsTheHand();
  void animalsAreLedToo();
  void aNewPoseNeedsSixDrags();
  void blendsMeetTheirEnds();
};

void BodyTest::bodiesHaveNaturalLengths() {
  for (const NamedPose& pose : housePoses()) {
    const Skeleton& skeleton = skeletonOf(pose.skeleton);
    QVERIFY(withinLimits(skeleton, pose.pose) == pose.pose);
    BodyPlace place;
    place.size = 1;
    const PosedBody body = posed(skeleton, pose.pose.angles, place);
    for (const Bone& bone : skeleton.bones) {
      const double length = (body.points[bone.to] - body.points[bone.from]).norm();
      QVERIFY2(length <= bone.length * bone.reach * 1.12, pose.name.c_str());
      if (bone.reach == 1 && skeleton.points[bone.from].rest != skeleton.points[bone.to].rest)
        QVERIFY2(std::abs(length - bone.length) < 1e-9, pose.name.c_str());
    }
  }
}

void BodyTest::fitsFindAPoseFromEightPoints() {
  double sum = 0;
  int count = 0;
  for (const NamedPose& pose : housePoses()) {
    if (pose.skeleton != "human") continue;
    const Figure truth = posedAs(pose.name, 400);
    Figure given = truth;
    given.body.reset();
    int points = 0;
    for (std::size_t i = 0; i < given.points.size(); ++i)
      if (!human().points[i].handle)
        given.points[i] = {};
      else
        ++points;
    QCOMPARE(points, 8);
    // The pose itself is not among those to begin from.
    const auto fit = lifted(given, startsWithout(pose.name));
    QVERIFY(withinLimits(human(), fit.pose) == fit.pose);
    const double error = meanError(figureFrom(human(), fit.pose, fit.place), truth);
    QVERIFY2(error <= 0.04, qPrintable(QString("%1: %2").arg(pose.name.c_str()).arg(error)));
    sum += error;
    ++count;
  }
  QVERIFY2(sum / count <= 0.02, qPrintable(QString::number(sum / count)));
}

void BodyTest::leadingAFigureFollowsTheHand() {
  const auto starts = startsFor("human");
  const Figure start = posedAs("Standing straight");
  const Point to = start.points[at("left_wrist")].at + Point{60, -150};
  const Figure led = ledBy(start, at("left_wrist"), to, {}, starts);
  QVERIFY(distanceBetween(led.points[at("left_wrist")].at, to) < 1.5);
  QVERIFY(overlength(led) <= lengthTolerance);
  QVERIFY(led.body && withinLimits(human(), *led.body) == *led.body);
  for (const char* foot : {"left_ankle", "right_ankle"})
    QVERIFY(distanceBetween(led.points[at(foot)].at, start.points[at(foot)].at) < 0.03 * sizeOf(start));
  // Far out of reach the arm stretches, and the feet stay on the ground all the same.
  const Figure stretched = ledBy(start, at("left_wrist"), to + Point{0, -400}, {}, starts);
  for (const char* foot : {"left_ankle", "right_ankle"})
    QVERIFY(distanceBetween(stretched.points[at(foot)].at, start.points[at(foot)].at) < 0.12 * sizeOf(start));
  QVERIFY(stretched.points[at("left_wrist")].at.y < stretched.points[at("left_shoulder")].at.y);
  // What was led before stays.
  const Figure then =
      ledBy(led, at("right_wrist"), led.points[at("right_wrist")].at + Point{-50, -120}, {at("left_wrist")}, starts);
  QVERIFY(distanceBetween(then.points[at("left_wrist")].at, to) < 0.02 * sizeOf(start));
  // A figure that is known only in the picture is given a body first, and keeps its places.
  Figure flat = start;
  flat.body.reset();
  const Figure lifted = ledBy(flat, at("left_wrist"), flat.points[at("left_wrist")].at + Point{1, -1}, {}, starts);
  QVERIFY(largestMove(lifted, flat) < 0.03 * sizeOf(flat));
}

void BodyTest::animalsAreLedToo() {
  const auto starts = startsFor("four-legged");
  const Figure fox = posedAs("Standing, alert", 260);
  const auto paw = at("left_front_paw", "four-legged"), hind = at("right_hind_paw", "four-legged");
  const Point to = fox.points[paw].at + Point{40, -35};
  const Figure led = ledBy(fox, paw, to, {}, starts);
  QVERIFY(distanceBetween(led.points[paw].at, to) < 2);
  QVERIFY(distanceBetween(led.points[hind].at, fox.points[hind].at) < 0.05 * sizeOf(fox));
  QVERIFY(overlength(led) <= lengthTolerance);
  QVERIFY(withinLimits(led.kind(), *led.body) == *led.body);
  // Its body is found from the picture alone, and told.
  for (const char* name : {"Sitting", "Lying, head up", "Running flat out"}) {
    Figure truth;
    for (const NamedPose& pose : housePoses())
      if (pose.name == name && pose.skeleton == "four-legged")
        truth = figureFrom(skeletonOf(pose.skeleton), pose.pose, {{400, 300}, 260, {}});
    const std::string stance = wordsFor(truth).stance;
    truth.body.reset();
    QCOMPARE(wordsFor(truth).stance, stance);
  }
}

void BodyTest::aNewPoseNeedsSixDrags() {
  // From standing to other poses by dragging each handle once to where it should be.
  const auto starts = startsFor("human");
  for (const char* goal : {"Kneeling on one knee", "Running", "Flying a kite", "Walking", "Reaching out"}) {
    const Figure truth = posedAs(goal, 300);
    // Begin facing the same way, standing on the same ground.
    Figure figure = figureFrom(human(),
                               seenFrom(human(), posedAs("Standing straight").body.value(),
                                        truth.body->angles[*human().findTurn("pelvis.turn")]),
                               {{400, 300}, 300, {}});
    std::vector<std::size_t> led;
    int drags = 0;
    for (const char* point : {"left_hip", "left_ankle", "right_ankle", "left_wrist", "right_wrist", "nose"}) {
      figure = ledBy(figure, at(point), truth.points[at(point)].at, led, starts);
      led.push_back(at(point));
      ++drags;
    }
    QCOMPARE(drags, 6);
    const double error = meanError(figure, truth);
    QVERIFY2(error < 0.06, qPrintable(QString("%1: %2").arg(goal).arg(error)));
  }
}

void BodyTest::blendsMeetTheirEnds() {
  const Figure a = posedAs("Standing straight"), b = posedAs("Sitting on a chair", 320, {450, 330});
  QVERIFY(blendedFigures(a, b, 0) == a);
  QVERIFY(blendedFigures(a, b, 1) == b);
  double before = 0;
  for (int i = 1; i <= 10; ++i) {
    const Figure between = blendedFigures(a, b, i / 10.0 - 0.001);
    QVERIFY(overlength(between) <= lengthTolerance);
    // Evenly on the way, without jumps at the ends.
    const double way = largestMove(between, a);
    QVERIFY(way >= before - 1 && way - before < 60);
    before = way;
  }
  QVERIFY(largestMove(blendedFigures(a, b, 1e-6), a) < 0.01);
  QVERIFY(largestMove(blendedFigures(a, b, 1 - 1e-6), b) < 0.01);
  // Figures without a pose in 3D meet theirs too.
  Figure flat = dragged(a, at("left_wrist"), a.points[at("left_wrist")].at + Point{12, -30}, Drag::alone);
  flat.body.reset();
  QVERIFY(largestMove(blendedFigures(flat, b, 1e-6), flat) < 0.01);
  QVERIFY(problemOf([&] { blendedFigures(a, posedAs("Trotting"), 0.5); }).contains("same kind"));
}

HSCAFFOLD_TEST(BodyTest)
#include "body_test.moc"
