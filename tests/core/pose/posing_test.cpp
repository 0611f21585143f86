// Figures dragged by their points, and what else is done to a figure.
#include <QTest>
#include <random>

#include "core/pose/finder.h"
#include "core/pose/fit.h"
#include "core/pose/inks.h"
#include "core/pose/pose_fixtures.h"
#include "core/pose/pose_map.h"
#include "core/pose/posing.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;
using namespace fixtures;

class PosingTest : public QObject {
  Q_OBJECT
 private slots:
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
  void detectionsAreTidied();
};

void PosingTest::noDragMakesBonesLonger() {
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

void PosingTest::pinsStay() {
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

void PosingTest::theDraggedPointGoesWhereItCan() {
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

void PosingTest::limbsKeepTheirLengths() {
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

void PosingTest::turningKeepsEverythingRigid() {
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

void PosingTest::alonePointsForeshorten() {
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

void PosingTest::hipsTakeTheFigureAlongAndFeetStay() {
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

void PosingTest::theUpperBodySwings() {
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

void PosingTest::selectionsMoveTogether() {
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

void PosingTest::absentPointsTakeNoPart() {
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

void PosingTest::relaxingBringsNaturalLengthsBack() {
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

void PosingTest::mirroringTwiceChangesNothing() {
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

void PosingTest::swappingSidesExchangesInks() {
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

void PosingTest::figuresFollowTheirReference() {
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

void PosingTest::partsAreAddedWhereTheyBelong() {
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

void PosingTest::detectionsAreTidied() {
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

HSCAFFOLD_TEST(PosingTest)
#include "posing_test.moc"
