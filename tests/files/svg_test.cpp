#include <QTest>
#include <cmath>

#include "core/strokes/line_export.h"
#include "drawn_pages.h"
#include "files/svg_lines.h"
#include "files/svg_path.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

SvgLines read(const std::string& text, Size frame = {}) { return readSvgLines(bytesOf(text), "test.svg", frame); }

std::string wrapped(const std::string& inside, const std::string& attributes = "width='200' height='100'") {
  return "<svg xmlns='http://www.w3.org/2000/svg' " + attributes + ">" + inside + "</svg>";
}

double farthest(const Stroke& a, const Stroke& b) {
  return fixtures::farthestFrom(flattened(b, 0.01), flattened(a, 0.05));
}

}  // namespace

class SvgTest : public QObject {
  Q_OBJECT
 private slots:
  void roundTripKeepsStrokes();
  void pathCommandsAreUnderstood();
  void shapesBecomeStrokes();
  void transformsAreApplied();
  void drawingsAreFittedIntoTheFrame();
  void hiddenAndForeignThingsAreLeftOut();
  void scriptsAndOutsideReferencesDoNothing();
  void brokenFilesAreRefused_data();
  void brokenFilesAreRefused();
  void hugeFilesAreRefusedAtOnce();
  void deepNestingAndManyShapesAreBounded();
  void brokenPathsGiveTheirBeginning();
};

void SvgTest::roundTripKeepsStrokes() {
  auto strokes = fixtures::knownStrokes({640, 480}, 3, 2.5);
  strokes.push_back(
      std::make_shared<const Stroke>(Stroke{{{30, 40}, {50, 90}, {80, 20}, {120, 60}}, {1, 7.25}, false}));
  strokes.push_back(std::make_shared<const Stroke>(Stroke{{{300.5, 200.25}}, {5}, false}));
  const auto text = svgFrom(strokes, {640, 480}, "Sail & <cart>");
  QVERIFY(text.find("<title>Sail &amp; &lt;cart&gt;</title>") != std::string::npos);
  const auto back = read(text);
  QCOMPARE(back.size, (Size{640, 480}));
  QCOMPARE(back.strokes.size(), strokes.size());
  for (std::size_t i = 0; i + 1 < strokes.size(); ++i) {
    QVERIFY(farthest(*strokes[i], *back.strokes[i]) <= 0.1);
    QVERIFY(farthest(*back.strokes[i], *strokes[i]) <= 0.1);
    QCOMPARE(back.strokes[i]->closed, strokes[i]->closed);
    QCOMPARE(back.strokes[i]->widths.size(), strokes[i]->widths.size());
    for (std::size_t k = 0; k < strokes[i]->widths.size(); ++k)
      QVERIFY(std::abs(back.strokes[i]->widths[k] - strokes[i]->widths[k]) <= 0.1);
  }
  QVERIFY(distanceTo(*back.strokes.back(), {300.5, 200.25}) < 0.1);
  // What was read is written and read again without any further change.
  const auto second = svgFrom(back.strokes, {640, 480}, "again");
  QCOMPARE(QString::fromStdString(svgFrom(read(second).strokes, {640, 480}, "again")), QString::fromStdString(second));
}

void SvgTest::pathCommandsAreUnderstood() {
  const auto ends = [](const char* d) {
    QString out;
    for (const auto& run : runsOfPath(d, 1000))
      out += QString("[%1,%2>%3,%4 %5%6]")
                 .arg(run.points.front().x)
                 .arg(run.points.front().y)
                 .arg(run.points.back().x)
                 .arg(run.points.back().y)
                 .arg(run.points.size())
                 .arg(run.closed ? "z" : "");
    return out;
  };
  QCOMPARE(ends("M10 20L30 40"), "[10,20>30,40 4]");
  QCOMPARE(ends("m10,20 l5-5 h10 v.5e1"), "[10,20>25,20 10]");
  QCOMPARE(ends("M1 1 2 2 3 3m1 1 1 0"), "[1,1>3,3 7][4,4>5,4 4]");
  QCOMPARE(ends("M0 0C1 1 2 1 3 0S5-1 6 0"), "[0,0>6,0 7]");
  QCOMPARE(ends("M0 0Q5 10 10 0T20 0"), "[0,0>20,0 7]");
  QCOMPARE(ends("M0 0H10V10H0Z"), "[0,0>0,0 13z]");
  QCOMPARE(ends("M0 0L10 0L10 10Zl5 5"), "[0,0>0,0 10z][0,0>5,5 4]");
  // An arc without spaces between its flags: half a circle.
  const auto arc = runsOfPath("M0 0a5 5 0 0110 0", 100);
  QCOMPARE(arc.size(), std::size_t{1});
  Stroke bow{arc[0].points, std::vector<double>((arc[0].points.size() - 1) / 3 + 1, 1.0), false};
  QVERIFY(std::abs(lengthOf(bow) - 3.14159 * 5) < 0.1);
  for (const auto& place : flattened(bow, 0.01)) QVERIFY(std::abs(distanceBetween(place.at, {5, 0}) - 5) < 0.02);
  // A smooth curve goes on with the mirrored handle.
  const auto smooth = runsOfPath("M0 0C0 10 10 10 10 0S20-10 20 0", 100);
  QCOMPARE(smooth[0].points[4], (Point{10, -10}));
}

void SvgTest::shapesBecomeStrokes() {
  const auto lines =
      read(wrapped("<g stroke='black' fill='none' stroke-width='3'><line x1='1' y1='2' x2='30' y2='40'/>"
                   "<rect x='10' y='10' width='20' height='30'/><circle cx='100' cy='50' r='20'/>"
                   "<ellipse cx='50' cy='50' rx='20' ry='10'/><polyline points='0,0 10,10 20,0'/>"
                   "<polygon points='0 0 10 10 20 0' style='stroke-width: 5'/></g>"));
  QCOMPARE(lines.strokes.size(), std::size_t{6});
  QVERIFY(lines.strokes[1]->closed && lines.strokes[2]->closed && !lines.strokes[4]->closed &&
          lines.strokes[5]->closed);
  QVERIFY(std::abs(lengthOf(*lines.strokes[2]) - 2 * 3.14159 * 20) < 0.5);
  QVERIFY(std::abs(lengthOf(*lines.strokes[1]) - 100) < 1e-6);
  QCOMPARE(meanWidth(*lines.strokes[0]), 3.0);
  QCOMPARE(meanWidth(*lines.strokes[5]), 5.0);
  QVERIFY(lines.note.empty());
}

void SvgTest::transformsAreApplied() {
  const auto at = [](const std::string& transform) {
    const auto lines =
        read(wrapped("<g transform='" + transform + "'><path stroke='#000' stroke-width='2' d='M10 0L20 0'/></g>"));
    return lines.strokes[0]->points.back();
  };
  const auto is = [](Point a, Point b) { return distanceBetween(a, b) < 1e-6; };
  QVERIFY(is(at("translate(5 7)"), {25, 7}));
  QVERIFY(is(at("scale(2,3)"), {40, 0}));
  QVERIFY(is(at("rotate(90)"), {0, 20}));
  QVERIFY(is(at("rotate(90 20 0)"), {20, 0}));
  QVERIFY(is(at("matrix(1 2 3 4 5 6)"), {25, 46}));
  QVERIFY(is(at("translate(10) rotate(90), scale(2)"), {10, 40}));
  QVERIFY(is(at("skewY(45)"), {20, 20}));
  const auto nested =
      read(wrapped("<g transform='scale(2)'><g transform='translate(10,0)'><path stroke='red' "
                   "transform='scale(3)' d='M0 0L1 0'/></g></g>"));
  QVERIFY(is(nested.strokes[0]->points.back(), {26, 0}));
  QVERIFY(std::abs(meanWidth(*nested.strokes[0]) - 6) < 1e-9);
}

void SvgTest::drawingsAreFittedIntoTheFrame() {
  const auto lines = read(wrapped("<path stroke='#000' d='M10 10L110 60'/>", "viewBox='10 10 100 50'"), {400, 400});
  QCOMPARE(lines.size, (Size{400, 400}));
  QVERIFY(distanceBetween(lines.strokes[0]->points.front(), {0, 100}) < 1e-9);
  QVERIFY(distanceBetween(lines.strokes[0]->points.back(), {400, 300}) < 1e-9);
}

void SvgTest::hiddenAndForeignThingsAreLeftOut() {
  const auto lines = read(
      wrapped("<defs><path d='M0 0L9 9' stroke='red'/></defs><text>hm</text><image href='a.png'/>"
              "<path d='M0 0L9 9' stroke='none' fill='none'/><path d='M0 0L9 9' display='none' stroke='red'/>"
              "<g style='visibility:hidden'><path d='M0 0L9 9' stroke='red'/></g><path d='M5 5L20 9' stroke='red'/>"));
  QCOMPARE(lines.strokes.size(), std::size_t{1});
  QVERIFY(lines.note.find("2 things") != std::string::npos);
}

void SvgTest::scriptsAndOutsideReferencesDoNothing() {
  QTemporaryDir folder;
  const auto secret = fixtures::in(folder, "secret.txt");
  fixtures::writeFile(secret, "M0 0L50 50");
  const auto text = "<?xml version='1.0'?><!DOCTYPE svg [<!ENTITY e SYSTEM 'file://" + secret.string() +
                    "'><!ENTITY a 'aaaaaaaa'><!ENTITY b '&a;&a;&a;&a;&a;&a;&a;&a;'>]>" +
                    wrapped(
                        "<script>while(true){}</script><path stroke='red' d='&e;'/><text>&b;&b;</text>"
                        "<use href='http://pellamere.example/x.svg#y'/><path stroke='red' d='M1 1L2 2'/>");
  const auto lines = read(text);
  QCOMPARE(lines.strokes.size(), std::size_t{1});
  QCOMPARE(lines.strokes[0]->points.front(), (Point{1, 1}));
}

void SvgTest::brokenFilesAreRefused_data() {
  QTest::addColumn<QString>("content");
  QTest::newRow("nothing") << "";
  QTest::newRow("words") << "this is no drawing";
  QTest::newRow("cut off") << "<svg><path d='M0 0L1";
  QTest::newRow("other document") << "<html><body/></html>";
  QTest::newRow("no lines") << "<svg><text>a</text></svg>";
  QTest::newRow("senseless numbers") << "<svg><path stroke='red' d='M1e300 0L2e300 5'/></svg>";
}

void SvgTest::brokenFilesAreRefused() {
  QFETCH(QString, content);
  const QString problem = fixtures::problemOf([&] { read(content.toStdString()); });
  QVERIFY2(problem.contains("test.svg"), qPrintable(problem));
}

void SvgTest::hugeFilesAreRefusedAtOnce() {
  const Bytes large(100u << 20);
  const QString problem = fixtures::problemOf([&] { readSvgLines(large, "large.svg"); });
  QVERIFY2(problem.contains("100 MB"), qPrintable(problem));
}

void SvgTest::deepNestingAndManyShapesAreBounded() {
  std::string deep;
  for (int i = 0; i < 20'000; ++i) deep += "<g transform='translate(1,0)'>";
  deep += "<path stroke='red' d='M0 0L1 1'/>";
  for (int i = 0; i < 20'000; ++i) deep += "</g>";
  const auto said = [](const std::string& content) { return fixtures::problemOf([&] { read(wrapped(content)); }); };
  QVERIFY(said("<path stroke='red' d='M3 3L4 4'/>" + deep).contains("groups in groups"));
  std::string many;
  for (int i = 0; i < 150'000; ++i) many += "<line x1='0' y1='0' x2='9' y2='9' stroke='red'/>";
  QVERIFY(said(many).contains("too large"));
  // A path is taken whole or not at all.
  std::string path = "M0 0";
  for (int i = 0; i < 700'000; ++i) path += "L9 9L0 0";
  QVERIFY(said("<path stroke='red' d='" + path + "'/>").contains("too large"));
}

void SvgTest::brokenPathsGiveTheirBeginning() {
  QCOMPARE(runsOfPath("M0 0L10 0L10 ten", 100).front().points.size(), std::size_t{4});
  QVERIFY(runsOfPath("L1", 100).empty());
  QVERIFY(runsOfPath("z z z", 100).empty());
  QVERIFY(runsOfPath("garbage", 100).empty());
  QVERIFY(runsOfPath("M0 0A1", 100).empty());
}

HSCAFFOLD_TEST(SvgTest)
#include "svg_test.moc"
