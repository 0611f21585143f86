// Skeletons and their schemas, inks, and the map that is drawn of figures.
#include <QTest>
#include <nlohmann/json.hpp>

#include "core/image/colour.h"
#include "core/pose/pose_fixtures.h"
#include "core/pose/pose_map.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;
using namespace fixtures;

class SkeletonTest : public QObject {
  Q_OBJECT
 private slots:
  void skeletonsAreWhole();
  void schemasNameEveryField();
  void wrongSkeletonsAreNamed_data();
  void wrongSkeletonsAreNamed();
  void inksAreDrawn();
  void thicknessFollowsSize();
  void nearFiguresCoverFarOnes();
  void partsOfAMapAreDrawnAlike();
  void wrongInksAreNamed_data();
  void wrongInksAreNamed();
};

void SkeletonTest::skeletonsAreWhole() {
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

void SkeletonTest::schemasNameEveryField() {
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

void SkeletonTest::wrongSkeletonsAreNamed_data() {
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

void SkeletonTest::wrongSkeletonsAreNamed() {
  QFETCH(QString, from);
  QFETCH(QString, to);
  QFETCH(QString, named);
  QString text = QString::fromStdString(std::string(poseData("human.json")));
  QVERIFY(text.contains(from));
  text.replace(text.indexOf(from), from.size(), to);
  const QString message = problemOf([&] { skeletonFromJson(text.toStdString(), "mine.json"); });
  QVERIFY2(message.contains(named) && message.contains("mine.json"), qPrintable(message));
}

void SkeletonTest::inksAreDrawn() {
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

void SkeletonTest::thicknessFollowsSize() {
  const auto large = marksOf(posedAs("Walking", 400), houseInks()),
             small = marksOf(posedAs("Walking", 100), houseInks());
  QVERIFY(large.marks.front().radius > 2.5 * small.marks.front().radius);
  QVERIFY(marksOf(posedAs("Walking", 400), houseInks(), 2).marks.front().radius > 1.9 * large.marks.front().radius);
  Figure off = posedAs("Walking", 400);
  off.on = false;
  QVERIFY(marksOf(off, houseInks()).marks.empty());
}

void SkeletonTest::nearFiguresCoverFarOnes() {
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

void SkeletonTest::partsOfAMapAreDrawnAlike() {
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

void SkeletonTest::wrongInksAreNamed_data() {
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

void SkeletonTest::wrongInksAreNamed() {
  QFETCH(QString, from);
  QFETCH(QString, to);
  QFETCH(QString, named);
  QString text = QString::fromStdString(std::string(poseData("house-inks.json")));
  QVERIFY(text.contains(from));
  text.replace(text.indexOf(from), from.size(), to);
  const QString message = problemOf([&] { inksFromJson(text.toStdString(), "mine.json"); });
  QVERIFY2(message.contains(named) && message.contains("mine.json"), qPrintable(message));
}

HSCAFFOLD_TEST(SkeletonTest)
#include "skeleton_test.moc"
