// Patterns on four corners and on the ground of a depth map, and letters.
#include <QTest>
#include <cmath>

#include "core/guides/kind.h"
#include "core/image/widen.h"
#include "core/kinds.h"
#include "core/measure/proof_seen.h"
#include "core/measure/scan.h"
#include "core/pattern/ground.h"
#include "core/pattern/letters.h"
#include "core/pattern/pattern.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pattern;

namespace {

constexpr Size laidCanvas{640, 480};

PatternTuning saying(What what, const std::string& text) {
  PatternTuning tuning;
  tuning.what = what;
  tuning.says = text;
  return tuning;
}

Map mapOf16(const PatternTuning& tuning, Size size) {
  return widened(patternMap(tuning, size, {}),
                 [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535)); });
}

/// Depth of a plane that is seen by the eye of `lean`: 1/z = near + along . (x, y), in pixels from the middle.
Map planeDepth(Size size, double middle, double across, double down) {
  Map out(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const double v = middle + across * (x + 0.5 - 0.5 * size.width) + down * (y + 0.5 - 0.5 * size.height);
      out(x, y) = static_cast<std::uint16_t>(std::lround(std::clamp(v, 0.0, 1.0) * 65535));
    }
  return out;
}

double lengthOf(Point a, Point b) { return std::hypot(b.x - a.x, b.y - a.y); }

double share(const Image<float>& map, bool dark) {
  double sum = 0;
  for (int y = 0; y < map.height(); ++y)
    for (const float v : map.line(y)) sum += (dark ? v < 0.2f : v > 0.8f) ? 1 : 0;
  return sum / static_cast<double>(map.size().area());
}

}  // namespace

class LayingTest : public QObject {
  Q_OBJECT
 private slots:
  void codesOnCornersScan();
  void cornersAreReadOrRefused_data();
  void cornersAreReadOrRefused();
  void theGroundLeansAsTheDepthSays();
  void whatIsNoGroundIsSaid();
  void thingsOnTheGroundAreLookedThrough();
  void lettersFillTheirPlace();
  void lettersThatCannotBeSetAreSaid_data();
  void lettersThatCannotBeSetAreSaid();
  void checksNameTheCorners();
  void fineShapesAreDoubted();
};

void LayingTest::codesOnCornersScan() {
  PatternTuning tuning = saying(What::code, "pellamere.example/o");
  tuning.corners = "24,22 76,20 88,84 12,86";
  const auto code = codeIn(mapOf16(tuning, {768, 768}).view());
  QVERIFY(code.has_value());
  QCOMPARE(code->text, tuning.says);
  const Quad lies = *outlineOf(tuning, {768, 768});
  QVERIFY(std::abs(lies[0].x - 0.24 * 768) < 1e-6 && std::abs(lies[2].y - 0.84 * 768) < 1e-6);
  // What is read back is where it was laid.
  QCOMPARE(textOf(cornersFrom(*tuning.corners, laidCanvas), laidCanvas),
           std::string("24.00,22.00 76.00,20.00 88.00,84.00 12.00,86.00"));
  QCOMPARE(codePlaced(tuning, {768, 768}).outside, 0.0);
}

void LayingTest::cornersAreReadOrRefused_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<bool>("good");
  QTest::newRow("usual") << "20,20 80,20 80,80 20,80" << true;
  QTest::newRow("outside") << "-40,20 180,20 80,180 20,180" << true;
  QTest::newRow("loosely written") << " 20, 20;80 20 80 ,80 20,80 " << true;
  QTest::newRow("mirrored") << "80,20 20,20 20,80 80,80" << true;
  QTest::newRow("nothing") << "" << false;
  QTest::newRow("three") << "20,20 80,20 80,80" << false;
  QTest::newRow("five") << "20,20 80,20 80,80 20,80 10,50" << false;
  QTest::newRow("words") << "left right up down" << false;
  QTest::newRow("crossed") << "20,20 80,80 80,20 20,80" << false;
  QTest::newRow("hollow") << "20,20 80,20 40,30 20,80" << false;
  QTest::newRow("on a line") << "20,20 40,20 60,20 80,20" << false;
  QTest::newRow("one place") << "20,20 20,20 20,20 20,20" << false;
  QTest::newRow("endless") << "1e308,20 80,20 80,80 20,80" << false;
  QTest::newRow("no number") << "nan,20 80,20 80,80 20,80" << false;
}

void LayingTest::cornersAreReadOrRefused() {
  QFETCH(QString, text);
  QFETCH(bool, good);
  const QString problem = fixtures::problemOf([&] { cornersFrom(text.toStdString(), laidCanvas); });
  QCOMPARE(problem.isEmpty(), good);
  PatternTuning tuning = saying(What::rings, "");
  tuning.corners = text.toStdString();
  QCOMPARE(outlineOf(tuning, laidCanvas).has_value(), good);
  if (good) QVERIFY(share(patternMap(tuning, laidCanvas, {}), true) > 0.03);
}

void LayingTest::theGroundLeansAsTheDepthSays() {
  // Level ground with its horizon a quarter down the frame: disparity 0 there.
  const double slope = 0.9 / (0.75 * laidCanvas.height);
  const Map ground = planeDepth(laidCanvas, slope * 0.25 * laidCanvas.height, 0, slope);
  PatternTuning tuning = saying(What::checks, "");
  tuning.size = 30;
  tuning.y = 75;
  const Quad q = cornersOnGround(tuning, laidCanvas, ground.view());
  // As wide at its middle as it was, level, and its sides run together on the horizon.
  QVERIFY(std::abs(q[0].y - q[1].y) < 1 && std::abs(q[2].y - q[3].y) < 1);
  QVERIFY(lengthOf(q[3], q[2]) > 1.1 * lengthOf(q[0], q[1]));
  const double left = (q[3].x - q[0].x) / (q[3].y - q[0].y), right = (q[2].x - q[1].x) / (q[2].y - q[1].y);
  const double meets = q[0].y - (q[1].x - q[0].x) / (right - left);
  QVERIFY2(std::abs(meets - 0.25 * laidCanvas.height) < 3, qPrintable(QString::number(meets)));
  // Turned on the ground it stays there: all corners go the same way to the horizon.
  tuning.turn = 30;
  const Quad turned = cornersOnGround(tuning, laidCanvas, ground.view());
  QVERIFY(std::abs(turned[0].y - turned[1].y) > 8);
  for (const Point& p : turned) QVERIFY(p.y > 0.25 * laidCanvas.height);
  // A wall that goes away to the right.
  const Map wall = planeDepth(laidCanvas, 0.45, -0.8 / laidCanvas.width, 0);
  tuning.turn = 0;
  tuning.y = 50;
  const Quad onWall = cornersOnGround(tuning, laidCanvas, wall.view());
  QVERIFY(lengthOf(onWall[0], onWall[3]) > 1.1 * lengthOf(onWall[1], onWall[2]));
  QVERIFY(onWall[0].y < onWall[3].y && onWall[0].x < onWall[1].x);
  // A code laid so is still one.
  PatternTuning code = saying(What::code, "Hi");
  code.y = 70;
  code.module = 8;
  code.corners = textOf(cornersOnGround(code, {768, 768}, planeDepth({768, 768}, 0.4, 0, 0.0008).view()), {768, 768});
  const auto read = codeIn(mapOf16(code, {768, 768}).view());
  QVERIFY(read.has_value() && read->text == "Hi");
}

void LayingTest::whatIsNoGroundIsSaid() {
  PatternTuning tuning = saying(What::rings, "");
  const auto problem = [&](const Map& map) {
    return fixtures::problemOf([&] { cornersOnGround(tuning, laidCanvas, map.view()); });
  };
  QVERIFY(problem(planeDepth(laidCanvas, 0.5, 0, 0)).contains("faces the eye"));
  QVERIFY(problem(planeDepth(laidCanvas, 0, 0, 0)).contains("endlessly far"));
  Map noise(64, 48);
  std::uint32_t seed = 9;
  for (int y = 0; y < noise.height(); ++y)
    for (auto& v : noise.line(y)) v = static_cast<std::uint16_t>((seed = seed * 1664525u + 1013904223u) >> 16);
  QVERIFY(problem(noise).contains("No plane"));
  tuning.what = What::picture;
  QVERIFY(!problem(planeDepth(laidCanvas, 0.4, 0, 0.001)).isEmpty());
}

void LayingTest::thingsOnTheGroundAreLookedThrough() {
  Map ground = planeDepth(laidCanvas, 0.4, 0, 0.0012);
  PatternTuning tuning = saying(What::checks, "");
  tuning.size = 40;
  tuning.y = 70;
  const Quad bare = cornersOnGround(tuning, laidCanvas, ground.view());
  for (int y = 250; y < 400; ++y)
    for (int x = 260; x < 330; ++x) ground(x, y) = 62000;  // somebody stands on it
  const Quad peopled = cornersOnGround(tuning, laidCanvas, ground.view());
  for (std::size_t i = 0; i < 4; ++i) QVERIFY(lengthOf(bare[i], peopled[i]) < 2);
}

void LayingTest::lettersFillTheirPlace() {
  PatternTuning tuning = saying(What::letters, "Low tide at noon");
  const auto set = lettering(tuning.says);
  QVERIFY(set->tall > 0.5 && set->tall < 1.6);  // broken so that they fill a square
  const auto map = patternMap(tuning, laidCanvas, {});
  QVERIFY2(share(map, true) > 0.07 && share(map, false) > 0.1 && share(map, true) < 0.5,
           qPrintable(QString("%1 %2").arg(share(map, true)).arg(share(map, false))));
  const Quad lies = *outlineOf(tuning, laidCanvas);
  QVERIFY(std::abs(std::max(lengthOf(lies[0], lies[1]), lengthOf(lies[1], lies[2])) - 0.84 * 480) < 1);
  QCOMPARE(map(4, 4), 0.5f);
  // The other way round, and softly.
  tuning.swapped = true;
  QVERIFY(std::abs(share(patternMap(tuning, laidCanvas, {}), true) - share(map, false)) < 0.01);
  tuning.swapped = false;
  tuning.softness = 100;
  QVERIFY(share(patternMap(tuning, laidCanvas, {}), false) < share(map, false));
  // One letter, letters of other alphabets, and one long word are set too.
  for (const char* text : {"O", "Прилив", "Ebbe & Flut", "Südwestwindgeschwindigkeitsmesser", "ΩΔ"})
    QVERIFY(share(patternMap(saying(What::letters, text), laidCanvas, {}), true) > 0.005);
  // Plain from afar where they are, and not where something else is.
  const Map wanted = mapOf16(saying(What::letters, "NW"), {512, 512});
  const Map rings = mapOf16(saying(What::rings, ""), {512, 512});
  Image<Rgb8> same(512, 512), other(512, 512);
  for (int y = 0; y < 512; ++y)
    for (int x = 0; x < 512; ++x) {
      const auto v = static_cast<std::uint8_t>(60 + wanted(x, y) / 520),
                 w = static_cast<std::uint8_t>(60 + rings(x, y) / 520);
      same(x, y) = {v, v, v};
      other(x, y) = {w, w, w};
    }
  QVERIFY(squintOf(wanted.view(), same).afar > 90);
  QVERIFY2(squintOf(wanted.view(), other).afar < 20, qPrintable(QString::number(squintOf(wanted.view(), other).afar)));
}

void LayingTest::lettersThatCannotBeSetAreSaid_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<QString>("says");
  QTest::newRow("none") << ""
                        << "no letters yet";
  QTest::newRow("spaces") << "   "
                          << "no letters yet";
  QTest::newRow("right to left") << "שלום"
                                 << "right to left";
  QTest::newRow("control") << QString("a") + QChar(7) << "cannot be seen";
  QTest::newRow("too many") << QString(200, 'n') << "at most 120";
  QTest::newRow("no face has it") << QString::fromUcs4(U"\U0001F9FF\U000E0041") << "No typeface";
}

void LayingTest::lettersThatCannotBeSetAreSaid() {
  QFETCH(QString, text);
  QFETCH(QString, says);
  const QString problem = fixtures::problemOf([&] { lettering(text.toStdString()); });
  QVERIFY2(problem.contains(says), qPrintable(problem));
  // In a guide it asks for nothing, and says why.
  const Kind& kind = kindOf("pattern");
  ExtractionCache cache;
  const Tuning tuning{{"what", 7.0}, {"says", TuningValue(text.toStdString())}};
  const auto made = kind.make({{}, {laidCanvas, {}}, tuning, {}}, cache, {});
  QCOMPARE(made.map(laidCanvas.width / 2, laidCanvas.height / 2), std::uint16_t{32768});
  QVERIFY(!made.note.empty());
}

void LayingTest::checksNameTheCorners() {
  const Kind& kind = kindOf("pattern");
  Guide guide;
  guide.kind = "pattern";
  guide.name = "Rose";
  guide.range = kind.startRange;
  guide.tuning = {{"what", 6.0}, {"laid", 1.0}, {"corners", TuningValue(std::string("10,10 20"))}};
  MapFacts facts;
  facts.numbers["empty"] = 1;
  const auto checks = kind.check(guide, facts, "");
  QCOMPARE(checks.size(), std::size_t{1});
  QVERIFY(checks[0].sentence.find("Corners are four places") != std::string::npos && checks[0].fix);
  std::string prompt;
  checks[0].fix(guide, prompt);
  QVERIFY(!patternTuningFrom(guide.tuning).corners);
}

void LayingTest::fineShapesAreDoubted() {
  const Kind& kind = kindOf("pattern");
  const auto doubted = [&](Guide& guide, bool mend) {
    ExtractionCache cache, told;
    const auto made = kind.make({{}, {laidCanvas, {}}, guide.tuning, {}}, cache, {});
    MapFacts facts;
    kind.tell({}, made, facts, told, {});
    for (const KindCheck& check : kind.check(guide, facts, ""))
      if (check.id == "fine-shape") {
        std::string prompt;
        if (mend) check.fix(guide, prompt);
        return true;
      }
    return false;
  };
  for (const double what : {1.0, 2.0, 3.0, 4.0}) {
    Guide guide;
    guide.kind = "pattern";
    guide.range = kind.startRange;
    guide.tuning["what"] = what;
    QVERIFY(!doubted(guide, false));
    guide.tuning["count"] = 40.0;
    QVERIFY(doubted(guide, true));
    QVERIFY(!doubted(guide, false));
  }
}

HSCAFFOLD_TEST(LayingTest)
#include "laying_test.moc"
