// Finding key points with a network of the artist's own: what its description says, and what it answers.
#include <QTest>

#include "core/networks/tiny_networks.h"
#include "core/pose/find/own_network.h"
#include "core/pose/pose_fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;

namespace {

const char* const maps = R"({"width": 64, "height": 32, "points": ["nose", "", "left_wrist"]})";

/// Red at one place, blue at another, green all over.
Image<Rgb> twoSpots(Size size, Point red, Point blue) {
  Image<Rgb> out(size);
  const auto spot = [&](Point at, float Rgb::*channel) {
    for (int y = -3; y <= 3; ++y)
      for (int x = -3; x <= 3; ++x) out(static_cast<int>(at.x) + x, static_cast<int>(at.y) + y).*channel = 1;
  };
  for (int y = 0; y < size.height; ++y)
    for (Rgb& c : out.line(y)) c.g = 1;
  spot(red, &Rgb::r);
  spot(blue, &Rgb::b);
  return out;
}

bool near(const KeyPoint& point, Point at, double most) {
  return point.there() && std::hypot(point.at.x - at.x, point.at.y - at.y) <= most;
}

}  // namespace

class OwnNetworkTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { qputenv("HSCAFFOLD_MODELS", folder_.path().toUtf8()); }
  void mapsGiveTheirHighestPlaces();
  void boxesAreLookedAtAlone();
  void rowsGivePoints();
  void descriptionsAreRead();
  void wrongDescriptionsAreRefused_data();
  void wrongDescriptionsAreRefused();
  void otherAnswersAreRefused();

 private:
  QTemporaryDir folder_;
  std::filesystem::path network(const char* description) const {
    // Red says where the nose is, blue where the wrist is; green belongs to nothing.
    return fixtures::writeNetwork(folder_.path().toStdString(), "spots",
                                  fixtures::weighing(64, 32, {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}), description);
  }
};

void OwnNetworkTest::mapsGiveTheirHighestPlaces() {
  const auto picture = twoSpots({256, 128}, {60, 90}, {200, 40});
  const auto found = OwnNetworkFinder(network(maps)).find(picture, {});
  QCOMPARE(found.size(), std::size_t{1});
  QVERIFY(near(found[0].points[fixtures::at("nose")], {60, 90}, 4));
  QVERIFY(near(found[0].points[fixtures::at("left_wrist")], {200, 40}, 4));
  QVERIFY(found[0].points[fixtures::at("nose")].confidence > 0.5);
  QVERIFY(!found[0].points[fixtures::at("right_wrist")].there());
}

void OwnNetworkTest::boxesAreLookedAtAlone() {
  auto picture = twoSpots({256, 128}, {60, 90}, {80, 100});
  // A stronger spot outside of the box does not count.
  for (int y = 20; y < 40; ++y)
    for (int x = 200; x < 230; ++x) picture(x, y).r = 1;
  const auto found = OwnNetworkFinder(network(maps), {{50, 80, 90, 110}}).find(picture, {});
  QCOMPARE(found.size(), std::size_t{1});
  QVERIFY(near(found[0].points[fixtures::at("nose")], {60, 90}, 3));
  QVERIFY(near(found[0].points[fixtures::at("left_wrist")], {80, 100}, 3));
}

void OwnNetworkTest::rowsGivePoints() {
  auto how = pointAnswerFrom(
      R"({"width": 64, "height": 32, "points": ["nose", "left_wrist"], "means": "points", "unit": "pixels"})", "d");
  const networks::Tensor answer{{1, 2, 3}, {32, 16, 0.9f, 64, 0, 0.01f}};
  const Bounds part{100, 50, 228, 114};
  const auto found = figureFrom(answer, how, part, "some");
  QVERIFY(found && near(found->points[fixtures::at("nose")], {164, 82}, 1e-6));
  QVERIFY(std::abs(found->points[fixtures::at("nose")].confidence - 0.9) < 1e-6);
  // Too faint, or no number at all: not there.
  QVERIFY(!found->points[fixtures::at("left_wrist")].there());
  how.inPixels = false;
  const networks::Tensor shares{{2, 2}, {0.25f, 0.5f, std::nanf(""), 0}};
  const auto other = figureFrom(shares, how, part, "some");
  QVERIFY(other && near(other->points[fixtures::at("nose")], {132, 82}, 1e-6));
  QVERIFY(!other->points[fixtures::at("left_wrist")].there());
}

void OwnNetworkTest::descriptionsAreRead() {
  const auto how = pointAnswerFrom(maps, "d");
  QCOMPARE(how.input.size, (Size{64, 32}));
  QCOMPARE(how.points.size(), std::size_t{3});
  QVERIFY(!how.points[1] && how.points[0] == fixtures::at("nose"));
  QVERIFY(how.form == PointAnswer::Form::maps);
}

void OwnNetworkTest::wrongDescriptionsAreRefused_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<QString>("says");
  QTest::newRow("no points") << R"({"width": 64, "height": 32})"
                             << "points";
  QTest::newRow("no list") << R"({"width": 64, "height": 32, "points": "nose"})"
                           << "list of names";
  QTest::newRow("numbers") << R"({"width": 64, "height": 32, "points": [1]})"
                           << "list of names";
  QTest::newRow("unknown point") << R"({"width": 64, "height": 32, "points": ["tail tip"]})"
                                 << "tail tip";
  QTest::newRow("unknown skeleton") << R"({"width": 64, "height": 32, "points": ["nose"], "skeleton": "bird"})"
                                    << "bird";
  QTest::newRow("means") << R"({"width": 64, "height": 32, "points": ["nose"], "means": "boxes"})"
                         << "means";
  QTest::newRow("unit") << R"({"width": 64, "height": 32, "points": ["nose"], "unit": "cm"})"
                        << "unit";
  QTest::newRow("stray") << R"({"width": 64, "height": 32, "points": ["nose"], "colour": "red"})"
                         << "colour";
}

void OwnNetworkTest::wrongDescriptionsAreRefused() {
  QFETCH(QString, text);
  QFETCH(QString, says);
  const auto said = fixtures::problemOf([&] { pointAnswerFrom(text.toStdString(), "a description"); });
  QVERIFY2(said.contains(says) && said.contains("a description"), qPrintable(said));
}

void OwnNetworkTest::otherAnswersAreRefused() {
  // Three maps, of which the description names two.
  const auto path = network(R"({"width": 64, "height": 32, "points": ["nose", "left_wrist"]})");
  const auto said = fixtures::problemOf([&] { OwnNetworkFinder(path).find(Image<Rgb>(64, 32), {}); });
  QVERIFY2(said.contains("spots.onnx") && said.contains("2 maps"), qPrintable(said));
  QVERIFY(fixtures::problemOf([&] {
            OwnNetworkFinder("nowhere.onnx").find(Image<Rgb>(64, 32), {});
          }).contains("description"));
}

HSCAFFOLD_TEST(OwnNetworkTest)
#include "own_network_test.moc"
