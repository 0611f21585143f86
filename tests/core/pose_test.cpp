// Skeletons, figures, inks and their map, posing, bodies, fits, the library and words.
#include <QTest>
#include <nlohmann/json.hpp>
#include <random>

#include "core/pose/finder.h"
#include "core/pose/fit.h"
#include "core/pose/library.h"
#include "core/pose/pose_map.h"
#include "core/pose/pose_words.h"
#include "core/pose/posed_body.h"
#include "core/pose/posing.h"
#include "fixtures.h"

using namespace hscaffold;
using namespace hscaffold::pose;
using fixtures::problemOf;

namespace {

const Skeleton& human() { return skeletonOf("human"); }
std::size_t at(const std::string& point, const std::string& skeleton = "human") {
  return *skeletonOf(skeleton).find(point);
}

Figure posedAs(const std::string& name, double size = 300, Point place = {400, 300}) {
  for (const NamedPose& pose : housePoses())
    if (pose.name == name) {
      BodyPlace where;
      where.size = size;
      where.at = place;
      return figureFrom(skeletonOf(pose.skeleton), pose.pose, where);
    }
  throw std::runtime_error("no such pose");
}

/// Figures of all kinds: the library's own, and some whose natural lengths had to be guessed.
std::vector<Figure> someFigures(std::size_t every) {
  std::vector<Figure> out;
  for (std::size_t i = 0; i < housePoses().size(); i += every) {
    BodyPlace place;
    place.size = 120 + 40.0 * static_cast<double>(i % 7);
    place.at = {400, 300};
    out.push_back(figureFrom(skeletonOf(housePoses()[i].skeleton), housePoses()[i].pose, place));
    Figure guessed = out.back();
    guessed.body.reset();
    guessed.natural = naturalFor(guessed);
    out.push_back(std::move(guessed));
  }
  return out;
}

double largestMove(const Figure& a, const Figure& b) {
  double most = 0;
  for (std::size_t i = 0; i < a.points.size(); ++i)
    most = std::max(most, distanceBetween(a.points[i].at, b.points[i].at));
  return most;
}

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

class PoseTest : public QObject {
  Q_OBJECT
 private slots:
  void skeletonsAreWhole();
  void schemasNameEveryField();
  void wrongSkeletonsAreNamed_data();
  void wrongSkeletonsAreNamed();
  void noDragMakesBonesLonger();
  void pinsStay();
  void theDraggedPointGoesWhereItCan();
  void limbsKeepTheirLengths();
  void turningKeepsEverythingRigid();
  void alonePointsForeshorten();
  void hipsTakeTheFigureAlongAndFeetStay();
  void theUpperBodySwings();
  void selectionsMoveTogether();
  void absentPointsTakeNoPart();
  void relaxingBringsNaturalLengthsBack();
  void mirroringTwiceChangesNothing();
  void swappingSidesExchangesInks();
  void figuresFollowTheirReference();
  void partsAreAddedWhereTheyBelong();
  void bodiesHaveNaturalLengths();
  void fitsFindAPoseFromEightPoints();
  void leadingAFigureFollowsTheHand();
  void animalsAreLedToo();
  void detectionsAreTidied();
  void aNewPoseNeedsSixDrags();
  void blendsMeetTheirEnds();
  void theLibraryIsLargeAndFound();
  void wrongPosesAreNamed_data();
  void wrongPosesAreNamed();
  void ownPosesComeBack();
  void libraryPosesAreToldByTheirNames();
  void wordsNameSidesAndHands();
  void promptsAreKeptUpToDate();
  void inksAreDrawn();
  void thicknessFollowsSize();
  void nearFiguresCoverFarOnes();
  void partsOfAMapAreDrawnAlike();
  void wrongInksAreNamed_data();
  void wrongInksAreNamed();
};

void PoseTest::skeletonsAreWhole() {
  QCOMPARE(skeletons().size(), std::size_t{2});
  const char* coco[] = {"nose",           "left_eye",   "right_eye",   "left_ear",   "right_ear",   "left_shoulder",
                        "right_shoulder", "left_elbow", "right_elbow", "left_wrist", "right_wrist", "left_hip",
                        "right_hip",      "left_knee",  "right_knee",  "left_ankle", "right_ankle"};
  for (std::size_t i = 0; i < std::size(coco); ++i) QCOMPARE(human().points[i].id, std::string(coco[i]));
  int hand = 0, body = 0;
  for (const SkeletonPoint& point : human().points) {
    hand += point.part == "left_hand" ? 1 : 0;
    body += point.part == "body" ? 1 : 0;
  }
  QCOMPARE(hand, 21);
  QCOMPARE(body, 18);
  QVERIFY(skeletonOf("four-legged").points.size() >= 20);
  for (const Skeleton& skeleton : skeletons())
    for (std::size_t i = 0; i < skeleton.points.size(); ++i) {
      const SkeletonPoint& point = skeleton.points[i];
      const SkeletonPoint& mirror = skeleton.points[point.mirror];
      QCOMPARE(skeleton.points[point.mirror].mirror, i);
      QCOMPARE(mirror.rest[0], -point.rest[0]);
      QCOMPARE(mirror.rest[1], point.rest[1]);
      // Everything but the root hangs on something.
      QVERIFY(skeleton.parentOf(i) || skeleton.below(i).size() == skeleton.points.size());
    }
}

void PoseTest::schemasNameEveryField() {
  // Every field of the data that comes with the program is in its schema, but for the names of turns and skeletons.
  const std::function<void(const nlohmann::json&, const std::string&, const QString&)> look =
      [&](const nlohmann::json& json, const std::string& schema, const QString& where) {
        if (json.is_array())
          for (const auto& entry : json) look(entry, schema, where);
        if (!json.is_object()) return;
        for (const auto& [key, value] : json.items()) {
          const bool name = where.endsWith("angles") || where.endsWith("skeletons");
          QVERIFY2(name || schema.find("\"" + key + "\"") != std::string::npos, key.c_str());
          look(value, schema, where + "/" + QString::fromStdString(key));
        }
      };
  for (const auto& [data, schema] : {std::pair{"human.json", "skeleton"},
                                     {"four-legged.json", "skeleton"},
                                     {"house-inks.json", "inks"},
                                     {"poses.json", "poses"}})
    look(nlohmann::json::parse(poseData(data)),
         fixtures::readFile(std::string(HSCAFFOLD_SOURCE) + "/docs/" + schema + ".schema.json"), {});
}

void PoseTest::wrongSkeletonsAreNamed_data() {
  QTest::addColumn<QString>("from");
  QTest::addColumn<QString>("to");
  QTest::addColumn<QString>("named");
  QTest::addRow("unknown mirror") << "\"mirror\": \"right_eye\""
                                  << "\"mirror\": \"third_eye\""
                                  << "third_eye";
  QTest::addRow("unknown joint") << "\"rides\": \"left_knee\""
                                 << "\"rides\": \"left_keen\""
                                 << "left_keen";
  QTest::addRow("unknown bone end") << "\"to\": \"left_wrist\""
                                    << "\"to\": \"left_wirst\""
                                    << "left_wirst";
  QTest::addRow("a range without rest") << "\"range\": [0, 150]"
                                        << "\"range\": [10, 150]"
                                        << "holds 0";
  QTest::addRow("an axis") << "\"axis\": \"y\""
                           << "\"axis\": \"w\""
                           << "axis";
}

void PoseTest::wrongSkeletonsAreNamed() {
  QFETCH(QString, from);
  QFETCH(QString, to);
  QFETCH(QString, named);
  QString text = QString::fromStdString(std::string(poseData("human.json")));
  QVERIFY(text.contains(from));
  text.replace(text.indexOf(from), from.size(), to);
  const QString message = problemOf([&] { skeletonFromJson(text.toStdString(), "mine.json"); });
  QVERIFY2(message.contains(named) && message.contains("mine.json"), qPrintable(message));
}

void PoseTest::noDragMakesBonesLonger() {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> places(-500, 1200);
  const auto starts = startsFor("human");
  double worst = 0;
  for (Figure figure : someFigures(4)) {
    const std::size_t count = figure.points.size();
    for (int drag = 0; drag < 60; ++drag) {
      const auto point = static_cast<std::size_t>(random()) % count;
      if (!figure.points[point].there()) continue;
      if (drag % 9 == 3) figure.points[static_cast<std::size_t>(random()) % count].pinned ^= true;
      const Point to{places(random), places(random)};
      const auto how = static_cast<Drag>(random() % 3);
      if (drag % 7 == 2 && figure.skeleton == "human") {
        figure = ledBy(figure, point, to, {at("right_ankle")}, starts);
      } else if (drag % 5 == 4) {
        figure = draggedTogether(figure, {point, static_cast<std::size_t>(random()) % count}, to * 0.2);
      } else {
        figure = dragged(figure, point, to, how);
      }
      worst = std::max(worst, overlength(figure));
      for (const KeyPoint& p : figure.points) QVERIFY(std::isfinite(p.at.x) && std::isfinite(p.at.y));
    }
  }
  QVERIFY2(worst <= lengthTolerance, qPrintable(QString("longest bone %1 % too long").arg(worst * 100)));
}

void PoseTest::pinsStay() {
  std::mt19937 random(6);
  std::uniform_real_distribution<double> places(0, 800);
  double worst = 0;
  for (const Figure& start : someFigures(5)) {
    Figure figure = start;
    std::vector<std::size_t> pins;
    for (int i = 0; i < 3; ++i) {
      const auto pin = static_cast<std::size_t>(random()) % figure.points.size();
      if (!figure.points[pin].there()) continue;
      figure.points[pin].pinned = true;
      pins.push_back(pin);
    }
    for (int drag = 0; drag < 25; ++drag) {
      const auto point = static_cast<std::size_t>(random()) % figure.points.size();
      figure = dragged(figure, point, {places(random), places(random)}, static_cast<Drag>(drag % 3));
      for (const std::size_t pin : pins)
        worst = std::max(worst, distanceBetween(figure.points[pin].at, start.points[pin].at));
    }
    const Figure led = figure.kind().id == "human"
                           ? ledBy(figure, at("left_wrist"), {places(random), places(random)}, {}, startsFor("human"))
                           : figure;
    for (const std::size_t pin : pins)
      worst = std::max(worst, distanceBetween(led.points[pin].at, start.points[pin].at));
  }
  QVERIFY2(worst <= 0.5, qPrintable(QString("a pin moved by %1 px").arg(worst)));
}

void PoseTest::theDraggedPointGoesWhereItCan() {
  const Figure start = posedAs("Standing straight");
  for (const auto& [point, by] : {std::pair{"left_wrist", Point{30, -60}}, {"left_ankle", Point{25, -50}}}) {
    const Point to = start.points[at(point)].at + by;
    const Figure moved = dragged(start, at(point), to);
    QVERIFY2(distanceBetween(moved.points[at(point)].at, to) < 1, point);
  }
  // Out of reach: the limb points there, as long as it is.
  const Point far = start.points[at("left_shoulder")].at + Point{900, 0};
  const Figure reaching = dragged(start, at("left_wrist"), far);
  const Point arm = reaching.points[at("left_wrist")].at - reaching.points[at("left_shoulder")].at;
  QVERIFY(std::abs(arm.y) < 0.15 * arm.x);
}

void PoseTest::limbsKeepTheirLengths() {
  const Figure start = posedAs("Walking");
  const int upper = human().points[at("left_elbow")].bone, lower = human().points[at("left_wrist")].bone;
  const auto lengths = [&](const Figure& f) {
    return std::pair{pose::lengthOf(f, human().bones[static_cast<std::size_t>(upper)]),
                     pose::lengthOf(f, human().bones[static_cast<std::size_t>(lower)])};
  };
  const auto [a, b] = lengths(start);
  const Point shoulder = start.points[at("left_shoulder")].at;
  const Figure bent = dragged(start, at("left_wrist"), shoulder + Point{0.4 * (a + b), 0.5 * (a + b)});
  const auto [c, d] = lengths(bent);
  QVERIFY(std::abs(a - c) < 0.5 && std::abs(b - d) < 0.5);
  // What is not of the limb has not moved.
  for (const char* still : {"nose", "right_wrist", "left_ankle", "left_hip"})
    QVERIFY(distanceBetween(bent.points[at(still)].at, start.points[at(still)].at) < 0.01);
}

void PoseTest::turningKeepsEverythingRigid() {
  const Figure start = posedAs("Running");
  const Figure turned = dragged(start, at("left_knee"), start.points[at("left_hip")].at + Point{0, 500}, Drag::turn);
  for (const char* point : {"left_knee", "left_ankle"}) {
    const auto bone = static_cast<std::size_t>(human().points[at(point)].bone);
    QVERIFY(std::abs(*shareOfNatural(turned, bone) - *shareOfNatural(start, bone)) < 1e-9);
  }
  const Point thigh = turned.points[at("left_knee")].at - turned.points[at("left_hip")].at;
  QVERIFY(std::abs(thigh.x) < 1e-6 && thigh.y > 0);
  QVERIFY(turned.points[at("right_knee")] == start.points[at("right_knee")]);
}

void PoseTest::alonePointsForeshorten() {
  const Figure start = posedAs("Hands on hips");
  const Point shoulder = start.points[at("left_shoulder")].at, elbow = start.points[at("left_elbow")].at;
  const Point to = shoulder + (elbow - shoulder) * 0.85;
  const Figure moved = dragged(start, at("left_elbow"), to, Drag::alone);
  QVERIFY(distanceBetween(moved.points[at("left_elbow")].at, to) < 0.5);
  const auto bone = static_cast<std::size_t>(human().points[at("left_elbow")].bone);
  QVERIFY(std::abs(*shareOfNatural(moved, bone) / *shareOfNatural(start, bone) - 0.85) < 0.01);
  for (const char* still : {"left_shoulder", "left_wrist", "nose"})
    QVERIFY(moved.points[at(still)] == start.points[at(still)]);
}

void PoseTest::hipsTakeTheFigureAlongAndFeetStay() {
  const Figure start = posedAs("Standing at ease");
  const Figure crouching = dragged(start, at("left_hip"), start.points[at("left_hip")].at + Point{0, 45});
  for (const char* foot : {"left_ankle", "right_ankle"})
    QVERIFY(distanceBetween(crouching.points[at(foot)].at, start.points[at(foot)].at) < 1.5);
  QVERIFY(std::abs(crouching.points[at("nose")].at.y - start.points[at("nose")].at.y - 45) < 2);
  // Legs that are too short for it come along.
  const Figure flying = dragged(start, at("left_hip"), start.points[at("left_hip")].at + Point{0, -400});
  QVERIFY(flying.points[at("left_ankle")].at.y < start.points[at("left_ankle")].at.y - 200);
  QVERIFY(overlength(flying) <= lengthTolerance);
}

void PoseTest::theUpperBodySwings() {
  const Figure start = posedAs("Standing straight");
  const Figure leaning = dragged(start, at("neck"), start.points[at("neck")].at + Point{50, 12});
  QVERIFY(leaning.points[at("nose")].at.x > start.points[at("nose")].at.x + 40);
  for (const char* still : {"left_ankle", "left_knee"})
    QVERIFY(distanceBetween(leaning.points[at(still)].at, start.points[at(still)].at) < 2);
  const Figure fox = posedAs("Standing, alert");
  const auto withers = at("withers", "four-legged"), hind = at("left_hind_paw", "four-legged");
  const Figure rearing = dragged(fox, withers, fox.points[withers].at + Point{-20, -60});
  QVERIFY(rearing.points[at("nose", "four-legged")].at.y < fox.points[at("nose", "four-legged")].at.y - 30);
  QVERIFY(distanceBetween(rearing.points[hind].at, fox.points[hind].at) < 2);
}

void PoseTest::selectionsMoveTogether() {
  const Figure start = posedAs("Standing straight");
  std::set<std::size_t> all;
  for (std::size_t i = 0; i < start.points.size(); ++i)
    if (start.points[i].there()) all.insert(i);
  const Figure moved = draggedTogether(start, all, {33, -12});
  for (const std::size_t i : all)
    QVERIFY(distanceBetween(moved.points[i].at, start.points[i].at + Point{33, -12}) < 1e-9);
  const Figure arm = draggedTogether(start, {at("left_elbow"), at("left_wrist")}, {10, -8});
  QVERIFY(distanceBetween(arm.points[at("left_wrist")].at, start.points[at("left_wrist")].at + Point{10, -8}) < 3);
}

void PoseTest::absentPointsTakeNoPart() {
  Figure figure = posedAs("Standing straight");
  figure.points[at("left_shoulder")].presence = Presence::absent;
  figure.points[at("left_elbow")].presence = Presence::absent;
  const Point to{700, 100};
  const Figure moved = dragged(figure, at("left_wrist"), to);
  QVERIFY(distanceBetween(moved.points[at("left_wrist")].at, to) < 1e-6);
  QVERIFY(moved.points[at("left_elbow")] == figure.points[at("left_elbow")]);
  QVERIFY(moved.points[at("nose")] == figure.points[at("nose")]);
  QVERIFY(dragged(figure, at("left_elbow"), to) == figure);
}

void PoseTest::relaxingBringsNaturalLengthsBack() {
  const Figure straight = posedAs("Standing straight");
  QVERIFY(largestMove(relaxed(straight), straight) < 4);
  // An arm pushed together comes out again, and little else moves.
  const Figure bent = posedAs("Hands on hips");
  const Figure pushedMore =
      dragged(bent, at("left_elbow"), bent.points[at("left_shoulder")].at + Point{20, 14}, Drag::alone);
  const Figure mended = relaxed(pushedMore);
  for (std::size_t b = 0; b < human().bones.size(); ++b) {
    if (human().points[human().bones[b].to].anchor || human().bones[b].length < 0.1) continue;
    if (const auto share = shareOfNatural(mended, b)) QVERIFY(std::abs(*share - 1) < lengthTolerance);
  }
  QVERIFY(distanceBetween(mended.points[at("right_wrist")].at, pushedMore.points[at("right_wrist")].at) < 12);
  // Pins stay in relaxing too.
  Figure pinned = pushedMore;
  pinned.points[at("left_wrist")].pinned = true;
  QVERIFY(distanceBetween(relaxed(pinned).points[at("left_wrist")].at, pinned.points[at("left_wrist")].at) < 1e-9);
  // A figure of odd build comes back into the natural ranges.
  Figure odd = straight;
  odd.natural[static_cast<std::size_t>(human().points[at("left_wrist")].bone)] *= 3;
  const auto bone = static_cast<std::size_t>(human().points[at("left_wrist")].bone);
  QVERIFY(relaxed(odd).natural[bone] <=
          sizeOf(odd) * human().bones[bone].length * human().bones[bone].most * (1 + lengthTolerance));
}

void PoseTest::mirroringTwiceChangesNothing() {
  for (const Figure& figure : someFigures(3)) {
    const Figure once = mirrored(figure, 400), twice = mirrored(once, 400);
    QVERIFY(largestMove(twice, figure) < 1e-9);
    QVERIFY(twice.natural == figure.natural);
    QVERIFY(twice.body.has_value() == figure.body.has_value());
    if (figure.body) QVERIFY(twice.body->angles == figure.body->angles);
    for (std::size_t i = 0; i < figure.points.size(); ++i)
      QCOMPARE(twice.points[i].presence, figure.points[i].presence);
    // The mirrored body is the mirrored figure.
    if (!figure.body) continue;
    BodyPlace place;
    place.size = sizeOf(figure);
    place.natural = once.natural;
    place.at = {0, 0};
    const Figure body = figureFrom(figure.kind(), *once.body, place);
    const Point off = once.points[0].at - body.points[0].at;
    QVERIFY(largestMove(moved(body, off), once) < 0.01);
  }
}

void PoseTest::swappingSidesExchangesInks() {
  const Figure figure = posedAs("Pointing aside");
  const Figure swapped = withSidesSwapped(figure);
  QVERIFY(swapped.points[at("right_wrist")] == figure.points[at("left_wrist")]);
  const auto inkAt = [](const Figure& f, Point p) {
    Figures one;
    one.frame = {800, 600};
    one.figures = {std::make_shared<const Figure>(f)};
    return drawnFigures(one, one.frame, houseInks())(static_cast<int>(p.x), static_cast<int>(p.y));
  };
  const Point left = (figure.points[at("left_elbow")].at + figure.points[at("left_wrist")].at) * 0.5,
              right = (figure.points[at("right_elbow")].at + figure.points[at("right_wrist")].at) * 0.5;
  // The left side is violet, the right one yellow.
  QVERIFY(inkAt(figure, left).b > inkAt(figure, left).r && inkAt(figure, right).r > inkAt(figure, right).b);
  QCOMPARE(inkAt(swapped, left).r, inkAt(figure, right).r);
  QCOMPARE(inkAt(swapped, right).b, inkAt(figure, left).b);
  QVERIFY(withSidesSwapped(swapped).points == figure.points);
}

void PoseTest::figuresFollowTheirReference() {
  Figures figures;
  figures.frame = {800, 600};
  figures.placing = Affine{};
  figures.figures = {std::make_shared<const Figure>(posedAs("Walking"))};
  const auto twice = following(figures, {800, 600}, Affine{2, 0, 10, 0, 2, -5});
  QVERIFY(distanceBetween(twice.figures[0]->points[0].at, figures.figures[0]->points[0].at * 2 + Point{10, -5}) < 1e-9);
  QCOMPARE(sizeOf(*twice.figures[0]), 2 * sizeOf(*figures.figures[0]));
  // A stretched picture stretches figures, but makes no bone longer than natural.
  QVERIFY(overlength(*following(figures, {800, 600}, Affine{3, 0, 0, 0, 1, 0}).figures[0]) <= lengthTolerance);
  // In a flipped picture left and right change sides.
  const auto flipped = following(figures, {800, 600}, Affine{-1, 0, 800, 0, 1, 0});
  const Figure expected = mirrored(*figures.figures[0], 400);
  QVERIFY(largestMove(*flipped.figures[0], expected) < 1e-9);
  // Without a reference they keep their shape in a frame of another ratio.
  Figures alone = figures;
  alone.placing.reset();
  const auto wide = following(alone, {1600, 600}, {});
  QVERIFY(std::abs(sizeOf(*wide.figures[0]) - sizeOf(*figures.figures[0])) < 1e-9);
}

void PoseTest::partsAreAddedWhereTheyBelong() {
  const Figure figure = posedAs("Pointing aside");
  const Figure with = withPart(withPart(figure, "left_hand", true), "face", true);
  const Point wrist = figure.points[at("left_wrist")].at, elbow = figure.points[at("left_elbow")].at;
  const Point finger = with.points[at("left_middle_4")].at;
  // The hand goes on where the forearm ends.
  QVERIFY(dot(normalised(finger - wrist), normalised(wrist - elbow)) > 0.9);
  QVERIFY(distanceBetween(finger, wrist) < 0.15 * sizeOf(figure));
  QVERIFY(with.points[at("chin")].at.y > with.points[at("nose")].at.y);
  QVERIFY(overlength(with) <= lengthTolerance);
  // It follows the wrist, turned with the forearm.
  const Figure moved = dragged(with, at("left_wrist"), with.points[at("left_shoulder")].at + Point{20, 80});
  const Point now = moved.points[at("left_middle_4")].at - moved.points[at("left_wrist")].at;
  QVERIFY(dot(normalised(now), normalised(moved.points[at("left_wrist")].at - moved.points[at("left_elbow")].at)) >
          0.85);
  QVERIFY(!withPart(with, "left_hand", false).points[at("left_middle_4")].there());
}

void PoseTest::bodiesHaveNaturalLengths() {
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

void PoseTest::fitsFindAPoseFromEightPoints() {
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

void PoseTest::leadingAFigureFollowsTheHand() {
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

void PoseTest::animalsAreLedToo() {
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

void PoseTest::detectionsAreTidied() {
  Figure sure = posedAs("Walking", 200), twin = moved(sure, {3, -2}), other = posedAs("Walking", 60, {90, 90});
  for (KeyPoint& p : twin.points) p.confidence = 0.5;
  for (KeyPoint& p : other.points) p.confidence = 0.3;
  other.points[at("left_wrist")].confidence = 0.05;
  QVERIFY(similarity(sure, sure) > 0.999 && similarity(sure, twin) > 0.85 && similarity(sure, other) < 0.1);
  QVERIFY(similarity(sure, moved(sure, {40, 0})) < similarity(sure, moved(sure, {10, 0})));
  const auto kept = tidied({twin, sure, other});
  QCOMPARE(kept.size(), std::size_t{2});
  QVERIFY(sizeOf(kept[0]) < sizeOf(kept[1]));
  QVERIFY(confidenceOf(kept[1]) > 0.99);
  QVERIFY(!kept[0].points[at("left_wrist")].there() && kept[0].points[at("right_wrist")].there());
  for (const Figure& figure : kept) QVERIFY(overlength(figure) <= lengthTolerance);
  QVERIFY(tidied({Figure{"", "human", true, std::vector<KeyPoint>(human().points.size()), {}, {}}}).empty());
}

void PoseTest::aNewPoseNeedsSixDrags() {
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

void PoseTest::blendsMeetTheirEnds() {
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

void PoseTest::theLibraryIsLargeAndFound() {
  int people = 0, animals = 0;
  std::set<std::string> categories, names;
  for (const NamedPose& pose : housePoses()) {
    (pose.skeleton == "human" ? people : animals)++;
    categories.insert(pose.category);
    QVERIFY2(names.insert(pose.skeleton + pose.name).second, pose.name.c_str());
    QVERIFY(!pose.tags.empty());
  }
  QVERIFY(people >= 48 && animals >= 8);
  for (const char* category :
       {"standing", "walking", "running", "sitting", "kneeling", "crouching", "lying", "reaching", "carrying",
        "climbing", "dancing", "working with the hands", "flying a kite"})
    QVERIFY2(categories.contains(category), category);
  for (const std::size_t i : foundPoses(housePoses(), "kneel")) QVERIFY(housePoses()[i].category == "kneeling");
  QCOMPARE(foundPoses(housePoses(), "").size(), housePoses().size());
  QVERIFY(!foundPoses(housePoses(), "Kite STRING").empty());
  QVERIFY(foundPoses(housePoses(), "kneeling fox").empty());
}

void PoseTest::wrongPosesAreNamed_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<QString>("named");
  QTest::addRow("no list") << "{\"poses\": 1}"
                           << "list";
  QTest::addRow("unknown turn") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"angles\":{\"left_wing.bend\":3}}]}"
                                << "left_wing.bend";
  QTest::addRow("beyond limits") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"angles\":{\"left_elbow.bend\":170}}]}"
                                 << "0 to 150";
  QTest::addRow("unknown skeleton") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"skeleton\":\"bird\",\"angles\":{}}]}"
                                    << "bird";
  QTest::addRow("second pose") << "{\"poses\":1,\"list\":[{\"name\":\"A\",\"angles\":{}},{\"angles\":{}}]}"
                               << "pose 2";
  QTest::addRow("no JSON") << "poses"
                           << "mine";
}

void PoseTest::wrongPosesAreNamed() {
  QFETCH(QString, text);
  QFETCH(QString, named);
  const QString message = problemOf([&] { posesFromJson(text.toStdString(), "mine.json"); });
  QVERIFY2(message.contains(named) && message.contains("mine.json"), qPrintable(message));
}

void PoseTest::ownPosesComeBack() {
  const std::vector<NamedPose> some(housePoses().begin(), housePoses().begin() + 5);
  QVERIFY(posesFromJson(posesToJson(some, "mine"), "mine.json") == some);
}

void PoseTest::libraryPosesAreToldByTheirNames() {
  const std::set<std::string> told = {"standing", "walking", "running", "sitting", "kneeling", "crouching", "lying"};
  int right = 0, asked = 0;
  for (const NamedPose& pose : housePoses()) {
    if (!told.contains(pose.category)) continue;
    ++asked;
    const auto words = wordsFor(skeletonOf(pose.skeleton), pose.pose);
    const bool good = agree(words.stance, pose.category);
    right += good ? 1 : 0;
    if (!good) qInfo("%s is told as %s", pose.name.c_str(), words.text().c_str());
  }
  QVERIFY2(right >= asked - 1, qPrintable(QString("%1 of %2").arg(right).arg(asked)));
  // The same from the places in the picture alone.
  Figure flat = posedAs("Sitting on a chair");
  flat.body.reset();
  QCOMPARE(wordsFor(flat).stance, std::string("sitting"));
}

void PoseTest::wordsNameSidesAndHands() {
  const auto told = [](const char* pose, double turn) {
    return wordsFor(human(), seenFrom(human(), *posedAs(pose).body, turn)).text();
  };
  QVERIFY(told("Reaching up", 0).find("left arm raised") != std::string::npos);
  QVERIFY(told("Standing straight", 0).find("seen from the front") != std::string::npos);
  QVERIFY(told("Standing straight", 180).find("seen from behind") != std::string::npos);
  QVERIFY(told("Walking", -90).find("facing left") != std::string::npos);
  // Mirrored, the other arm is raised and it faces the other way.
  const auto mirrorWords = wordsFor(mirrored(posedAs("Reaching up"), 100)).text();
  QVERIFY(mirrorWords.find("right arm raised") != std::string::npos);
  Figures two;
  two.frame = {800, 600};
  Figure flyer = posedAs("Flying a kite"), far = posedAs("Walking");
  flyer.name = "Flyer";
  far.name = "Far walker";
  two.figures = {std::make_shared<const Figure>(far), std::make_shared<const Figure>(flyer)};
  const std::string text = wordsFor(two);
  QVERIFY2(text.starts_with("Flyer ") && text.find("Far walker walking") != std::string::npos, text.c_str());
}

void PoseTest::promptsAreKeptUpToDate() {
  const auto first = withPoseWords("a kite flyer", {}, "running, facing left");
  QCOMPARE(*first, std::string("a kite flyer, running, facing left"));
  const auto second = withPoseWords(*first, "running, facing left", "sitting");
  QCOMPARE(*second, std::string("a kite flyer, sitting"));
  QVERIFY(!withPoseWords("a kite flyer, running fast", "running, facing left", "sitting"));
  QVERIFY(stancesIn("A girl RUNNING home, seated dogs") == (std::vector<std::string>{"running", "sitting"}));
  QVERIFY(stancesIn("a runway, a sitter").empty());
  QVERIFY(!agree("running", "sitting") && agree("walking", "standing"));
  QCOMPARE(withStance("She runs, running far", "running", "sitting"), std::string("She sitting, sitting far"));
}

void PoseTest::inksAreDrawn() {
  Figures figures;
  figures.frame = {400, 500};
  figures.figures = {std::make_shared<const Figure>(posedAs("Standing straight", 420, {200, 240}))};
  const auto map = drawnFigures(figures, figures.frame, houseInks());
  const Figure& figure = *figures.figures[0];
  const auto ink = [&](Point p) { return map(static_cast<int>(p.x), static_cast<int>(p.y)); };
  const auto between = [&](const char* a, const char* b, double t) {
    return figure.points[at(a)].at * (1 - t) + figure.points[at(b)].at * t;
  };
  // Widest at the trunk: the thigh is broader than the shin.
  const auto breadth = [&](Point middle) {
    int count = 0;
    for (int x = -30; x < 30; ++x) count += ink(middle + Point{static_cast<double>(x), 0}).g > 40 ? 1 : 0;
    return count;
  };
  QVERIFY(breadth(between("left_hip", "left_knee", 0.3)) > breadth(between("left_knee", "left_ankle", 0.7)) + 2);
  // Lighter towards the end of the limb, and the sides differ in lightness as well as in hue.
  QVERIFY(ink(between("left_knee", "left_ankle", 0.8)).g > ink(between("left_hip", "left_knee", 0.4)).g + 20);
  QVERIFY(ink(between("right_hip", "right_knee", 0.4)).g > ink(between("left_hip", "left_knee", 0.4)).g + 60);
  QCOMPARE(ink(between("neck", "left_hip", 0.0) + Point{0, 60}).r, std::uint8_t{0xe9});
  // Seen joints are open rings; hidden ones have none, and hidden limbs are dashed.
  const Point knee = figure.points[at("left_knee")].at;
  QVERIFY(ink(knee).b < 60);
  Figure hidden = figure;
  hidden.points[at("left_knee")].presence = hidden.points[at("left_ankle")].presence = Presence::hidden;
  Figures other = figures;
  other.figures = {std::make_shared<const Figure>(hidden)};
  const auto dashed = drawnFigures(other, figures.frame, houseInks());
  int changes = 0;
  for (double t = 0; t < 1; t += 0.01) {
    const Point p = between("left_knee", "left_ankle", t), q = between("left_knee", "left_ankle", t + 0.01);
    changes += (dashed(static_cast<int>(p.x), static_cast<int>(p.y)).b > 120) !=
                       (dashed(static_cast<int>(q.x), static_cast<int>(q.y)).b > 120)
                   ? 1
                   : 0;
  }
  QVERIFY(changes >= 6);
  QVERIFY(brightnessOf(map)(static_cast<int>(knee.x), static_cast<int>(knee.y + 20)) > 0xf000);
  // The face shows where it looks; from behind there is none.
  const auto wedges = [](const Figure& f) {
    int count = 0;
    for (const Mark& mark : marksOf(f, houseInks()).marks) count += mark.shape == Mark::Shape::wedge ? 1 : 0;
    return count;
  };
  QCOMPARE(wedges(figure), 1);
  QCOMPARE(wedges(figureFrom(human(), seenFrom(human(), *figure.body, 180), {})), 0);
}

void PoseTest::thicknessFollowsSize() {
  const auto large = marksOf(posedAs("Walking", 400), houseInks()),
             small = marksOf(posedAs("Walking", 100), houseInks());
  QVERIFY(large.marks.front().radius > 2.5 * small.marks.front().radius);
  QVERIFY(marksOf(posedAs("Walking", 400), houseInks(), 2).marks.front().radius > 1.9 * large.marks.front().radius);
  Figure off = posedAs("Walking", 400);
  off.on = false;
  QVERIFY(marksOf(off, houseInks()).marks.empty());
}

void PoseTest::nearFiguresCoverFarOnes() {
  Figures two;
  two.frame = {400, 500};
  const Figure left = posedAs("Standing straight", 420, {200, 240}), right = withSidesSwapped(left);
  two.figures = {std::make_shared<const Figure>(left), std::make_shared<const Figure>(right)};
  const auto both = drawnFigures(two, two.frame, houseInks());
  Figures near = two;
  near.figures.erase(near.figures.begin());
  const auto alone = drawnFigures(near, two.frame, houseInks());
  const Point thigh = (left.points[at("left_hip")].at + left.points[at("left_knee")].at) * 0.5;
  QCOMPARE(both(static_cast<int>(thigh.x), static_cast<int>(thigh.y)).b,
           alone(static_cast<int>(thigh.x), static_cast<int>(thigh.y)).b);
}

void PoseTest::partsOfAMapAreDrawnAlike() {
  Figures figures;
  figures.frame = {640, 480};
  std::vector<FigureMarks> marks;
  for (const char* name : {"Walking", "Running", "Trotting"}) {
    figures.figures.push_back(std::make_shared<const Figure>(posedAs(name, 220, {300, 240})));
    marks.push_back(marksOf(*figures.figures.back(), houseInks()));
  }
  const auto whole = drawnFigures(figures, figures.frame, houseInks());
  Image<Rgb8> pieces(figures.frame);
  for (const Box& part : {Box{0, 0, 300, 480}, Box{300, 0, 640, 200}, Box{300, 200, 640, 480}, Box{-50, -50, -1, -1}})
    drawInto(pieces.view(), part, marks);
  QVERIFY(whole == pieces);
}

void PoseTest::wrongInksAreNamed_data() {
  QTest::addColumn<QString>("from");
  QTest::addColumn<QString>("to");
  QTest::addColumn<QString>("named");
  QTest::addRow("unknown point") << "\"to\": [\"left_knee\"]"
                                 << "\"to\": [\"left_fin\"]"
                                 << "left_fin";
  QTest::addRow("a colour") << "\"#e9e9e9\""
                            << "\"#e9e9\""
                            << "#e9e9";
  QTest::addRow("a width") << "\"widths\": [0.028, 0.022]"
                           << "\"widths\": [0.028, 9]"
                           << "widths";
  QTest::addRow("a skeleton") << "\"human\":"
                              << "\"bird\":"
                              << "bird";
  QTest::addRow("a ring") << "\"point\": \"neck\""
                          << "\"point\": \"gill\""
                          << "gill";
  QTest::addRow("another version") << "\"inks\": 1"
                                   << "\"inks\": 7"
                                   << "inks";
}

void PoseTest::wrongInksAreNamed() {
  QFETCH(QString, from);
  QFETCH(QString, to);
  QFETCH(QString, named);
  QString text = QString::fromStdString(std::string(poseData("house-inks.json")));
  QVERIFY(text.contains(from));
  text.replace(text.indexOf(from), from.size(), to);
  const QString message = problemOf([&] { inksFromJson(text.toStdString(), "mine.json"); });
  QVERIFY2(message.contains(named) && message.contains("mine.json"), qPrintable(message));
}

QTEST_GUILESS_MAIN(PoseTest)
#include "pose_test.moc"
