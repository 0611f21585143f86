#include <QTest>
#include <cmath>

#include "core/edge_finding/edges.h"
#include "core/image/components.h"
#include "core/image/distance.h"
#include "core/image/narrow.h"
#include "core/lines/lines.h"
#include "core/lines/loose.h"
#include "core/strokes/thinning.h"
#include "core/strokes/trace.h"
#include "drawn_pages.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

Image<std::uint8_t> blobs(int width, int height, unsigned seed) {
  std::mt19937 random(seed);
  Image<std::uint8_t> mask(width, height);
  std::uniform_int_distribution<int> x(0, width - 1), y(0, height - 1), r(1, 9), kind(0, 2);
  for (int i = 0; i < 40; ++i) {
    const int cx = x(random), cy = y(random), radius = r(random), hole = kind(random);
    for (int py = std::max(0, cy - radius); py <= std::min(height - 1, cy + radius); ++py)
      for (int px = std::max(0, cx - radius); px <= std::min(width - 1, cx + radius); ++px) {
        const double d = std::hypot(px - cx, py - cy);
        if (d <= radius && (hole != 0 || d >= radius * 0.5)) mask(px, py) = 1;
      }
  }
  return mask;
}

Image<std::uint8_t> turnedOver(const Image<std::uint8_t>& mask) {
  // With a border of paper, so that the outside is one piece.
  Image<std::uint8_t> out(mask.width() + 2, mask.height() + 2, 1);
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x) out(x + 1, y + 1) = mask(x, y) != 0 ? 0 : 1;
  return out;
}

/// A textbook union of flood fills, to check the component counter against.
std::size_t floodCount(const Image<std::uint8_t>& mask, bool eight) {
  auto left = mask.clone();
  std::size_t count = 0;
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x) {
      if (left(x, y) == 0) continue;
      ++count;
      std::vector<std::pair<int, int>> open{{x, y}};
      left(x, y) = 0;
      while (!open.empty()) {
        const auto [px, py] = open.back();
        open.pop_back();
        for (int dy = -1; dy <= 1; ++dy)
          for (int dx = -1; dx <= 1; ++dx) {
            const int qx = px + dx, qy = py + dy;
            if ((!eight && dx != 0 && dy != 0) || qx < 0 || qy < 0 || qx >= mask.width() || qy >= mask.height())
              continue;
            if (left(qx, qy) == 0) continue;
            left(qx, qy) = 0;
            open.emplace_back(qx, qy);
          }
      }
    }
  return count;
}

std::vector<StrokePlace> sine(int points, double height) {
  std::vector<StrokePlace> path;
  for (int i = 0; i < points; ++i) path.push_back({{10.0 + i, 60 + height * std::sin(i / 17.0)}, 2});
  return path;
}

/// How far stroke and path are apart at most, either way.
double farthest(const Stroke& stroke, std::span<const StrokePlace> path) {
  return std::max(fixtures::farthestFrom(path, flattened(stroke, 0.02)),
                  fixtures::farthestFrom(flattened(stroke, 0.005), path));
}

}  // namespace

class LinesTest : public QObject {
  Q_OBJECT
 private slots:
  void componentsAreCountedLikeFloodFills();
  void thinningKeepsPiecesAndHoles();
  void thinningLeavesNothingThatCouldGo();
  void thinLinesStay();
  void aCrossBecomesTwoStrokes();
  void aRingBecomesAClosedStroke();
  void spursAreDropped();
  void fittedCurvesStayWithinTheTolerance_data();
  void fittedCurvesStayWithinTheTolerance();
  void tracedStrokesFollowTheSkeleton();
  void cornersStayCorners();
  void aDrawnStrokeCoversItsWidth();
  void strokesAreFoundOnPages_data();
  void strokesAreFoundOnPages();
  void sourcesAreToldApart();
  void meadowsAreNoSheets();
  void photographLinesFollowOutlines();
  void inkAddsLines();
  void evenedLinesHaveOneWidth();
  void blankAndBlackPicturesGiveAMessage();
  void aPhotographAsPaperIsDoubted();
  void halfAMillionStrokesAreBounded();
  void looseLinesStayNear();
  void looseLinesOfAStudyAreTheSameEachTime();
};

void LinesTest::componentsAreCountedLikeFloodFills() {
  for (unsigned seed = 0; seed < 8; ++seed) {
    const auto mask = blobs(120, 90, seed);
    for (const auto connected : {Connected::four, Connected::eight}) {
      const auto found = componentsOf(mask, connected);
      QCOMPARE(found.all.size(), floodCount(mask, connected == Connected::eight));
      std::int64_t area = 0;
      for (const auto& piece : found.all) area += piece.area;
      std::int64_t set = 0;
      for (int y = 0; y < mask.height(); ++y)
        for (int x = 0; x < mask.width(); ++x) {
          set += mask(x, y);
          QCOMPARE(found.label(x, y) >= 0, mask(x, y) != 0);
        }
      QCOMPARE(area, set);
    }
  }
}

void LinesTest::thinningKeepsPiecesAndHoles() {
  for (unsigned seed = 0; seed < 12; ++seed) {
    const auto mask = blobs(140, 100, seed);
    const auto thin = thinned(mask);
    QCOMPARE(floodCount(thin, true), floodCount(mask, true));
    QCOMPARE(floodCount(turnedOver(thin), false), floodCount(turnedOver(mask), false));
    for (int y = 0; y < mask.height(); ++y)
      for (int x = 0; x < mask.width(); ++x) QVERIFY(thin(x, y) <= mask(x, y));
  }
}

void LinesTest::thinningLeavesNothingThatCouldGo() {
  for (unsigned seed = 20; seed < 26; ++seed) {
    const auto thin = thinned(blobs(100, 100, seed));
    QVERIFY(thinned(thin) == thin);
    // No two by two block is left unless it holds something together: blocks of a thin line are rare.
    int blocks = 0, set = 0;
    for (int y = 0; y + 1 < 100; ++y)
      for (int x = 0; x + 1 < 100; ++x) {
        set += thin(x, y);
        blocks += thin(x, y) != 0 && thin(x + 1, y) != 0 && thin(x, y + 1) != 0 && thin(x + 1, y + 1) != 0 ? 1 : 0;
      }
    QVERIFY(set > 100);
    QVERIFY(blocks * 100 <= set);
  }
}

void LinesTest::thinLinesStay() {
  Image<std::uint8_t> mask(60, 40);
  for (int x = 5; x < 55; ++x) mask(x, 20) = 1;
  for (int i = 0; i < 15; ++i) mask(10 + i, 2 + i) = 1;
  QVERIFY(thinned(mask) == mask);
}

void LinesTest::aCrossBecomesTwoStrokes() {
  Image<std::uint16_t> map(120, 120);
  for (int i = 10; i < 110; ++i)
    for (int k = -1; k <= 1; ++k) map(i, 60 + k) = map(60 + k, i) = 65535;
  const auto strokes = traced(map).strokes;
  QCOMPARE(strokes.size(), std::size_t{2});
  for (const auto& stroke : strokes) {
    QVERIFY(std::abs(lengthOf(*stroke) - 98) < 5);
    QVERIFY(std::abs(meanWidth(*stroke) - 3) < 0.6);
  }
}

void LinesTest::aRingBecomesAClosedStroke() {
  Image<std::uint16_t> map(120, 120);
  for (int y = 0; y < 120; ++y)
    for (int x = 0; x < 120; ++x)
      if (std::abs(std::hypot(x - 60, y - 60) - 40) < 1.5) map(x, y) = 65535;
  const auto strokes = traced(map).strokes;
  QCOMPARE(strokes.size(), std::size_t{1});
  QVERIFY(strokes[0]->closed);
  QVERIFY(std::abs(lengthOf(*strokes[0]) - 2 * 3.14159 * 40) < 6);
  for (const auto& place : flattened(*strokes[0])) {
    const double radius = std::hypot(place.at.x - 60.5, place.at.y - 60.5);
    QVERIFY2(std::abs(radius - 40) < 1.6, qPrintable(QString::number(radius)));
  }
}

void LinesTest::spursAreDropped() {
  Image<std::uint16_t> map(200, 60);
  for (int x = 10; x < 190; ++x)
    for (int k = -2; k <= 2; ++k) map(x, 30 + k) = 65535;
  for (int k = 0; k < 4; ++k) map(100, 27 - k) = 65535;  // a hair on the line
  QCOMPARE(traced(map).strokes.size(), std::size_t{1});
  for (int k = 0; k < 22; ++k) map(60, 27 - k) = map(61, 27 - k) = 65535;  // a branch
  QCOMPARE(traced(map).strokes.size(), std::size_t{2});
}

void LinesTest::fittedCurvesStayWithinTheTolerance_data() {
  QTest::addColumn<double>("tolerance");
  for (const double t : {0.3, 0.5, 1.0, 2.0, 5.0}) QTest::addRow("%.1f px", t) << t;
}

void LinesTest::fittedCurvesStayWithinTheTolerance() {
  QFETCH(double, tolerance);
  std::size_t curves = 0;
  for (const double height : {0.0, 5.0, 20.0, 45.0}) {
    const auto path = sine(400, height);
    const Stroke stroke = fittedStroke(path, tolerance);
    QVERIFY2(farthest(stroke, path) <= tolerance + 0.02, qPrintable(QString::number(farthest(stroke, path))));
    QCOMPARE(stroke.points.front(), path.front().at);
    QCOMPARE(stroke.points.back(), path.back().at);
    QCOMPARE(stroke.widths.size(), stroke.curves() + 1);
    curves += stroke.curves();
  }
  // Far fewer curves than points: it is a fit, not a copy.
  QVERIFY(curves < 160);
  // Jagged paths, as skeletons are.
  std::mt19937 random(7);
  std::uniform_int_distribution<int> step(-1, 1);
  std::vector<StrokePlace> jagged;
  int y = 50;
  for (int x = 0; x < 300; ++x) jagged.push_back({{x + 0.5, (y += step(random)) + 0.5}, 1});
  QVERIFY(farthest(fittedStroke(jagged, tolerance), jagged) <= tolerance + 0.02);
}

void LinesTest::tracedStrokesFollowTheSkeleton() {
  for (unsigned seed = 1; seed < 5; ++seed) {
    const auto map = drawnStrokes(fixtures::knownStrokes({500, 400}, seed, 3), {500, 400});
    const auto skeleton = thinned(lineMask(map));
    for (const double tolerance : {0.6, 1.0, 2.0}) {
      TraceTuning tuning;
      tuning.tolerance = tolerance;
      tuning.spur = 0;
      tuning.shortest = 0;
      const auto strokes = traced(map, tuning).strokes;
      // A junction's node lies in the middle of its pixels: half a pixel more.
      QVERIFY(fixtures::precisionOf(strokes, skeleton, tolerance + 1.3) > 0.995);
      QVERIFY(fixtures::recallOf(strokes, skeleton, tolerance + 1.3) > 0.995);
    }
  }
}

void LinesTest::cornersStayCorners() {
  std::vector<StrokePlace> path;
  for (int i = 0; i <= 50; ++i) path.push_back({{10.0 + i, 10}, 1});
  for (int i = 1; i <= 50; ++i) path.push_back({{60, 10.0 + i}, 1});
  const Stroke stroke = fittedStroke(path, 1);
  QVERIFY(distanceTo(stroke, {60, 10}) < 0.3);
  QVERIFY(stroke.curves() <= 4);
}

void LinesTest::aDrawnStrokeCoversItsWidth() {
  for (const double width : {1.0, 2.0, 3.5, 8.0}) {
    const auto line =
        std::make_shared<const Stroke>(Stroke{{{10, 20.3}, {30, 20.3}, {60, 20.3}, {90, 20.3}}, {width, width}, false});
    const auto map = drawnStrokes({line}, {100, 40});
    double sum = 0;
    for (int y = 0; y < 40; ++y) sum += map(50, y) / 65535.0;
    QVERIFY2(std::abs(sum - width) < 0.15, qPrintable(QString::number(sum)));
  }
  // A swelling line is wider at its wide end.
  const auto swelling = std::make_shared<const Stroke>(Stroke{{{10, 20}, {35, 20}, {65, 20}, {90, 20}}, {1, 9}, false});
  const auto map = drawnStrokes({swelling}, {100, 40});
  const auto across = [&](int x) {
    double sum = 0;
    for (int y = 0; y < 40; ++y) sum += map(x, y) / 65535.0;
    return sum;
  };
  QVERIFY(across(85) > across(50) + 1.5 && across(50) > across(15) + 1.5);
}

void LinesTest::strokesAreFoundOnPages_data() {
  QTest::addColumn<int>("index");
  for (int i = 0; i < 7; ++i) QTest::addRow("page %d", i) << i;
}

void LinesTest::strokesAreFoundOnPages() {
  QFETCH(int, index);
  static const auto pages = fixtures::drawnPages();
  const auto& page = pages[static_cast<std::size_t>(index)];
  LineTuning tuning;
  tuning.source = LineSource::paper;
  const auto art = extractLines(page.picture, tuning);
  const auto skeleton = thinned(lineMask(art.map));
  const double recall = fixtures::recallOf(page.strokes, skeleton, 2);
  const double precision = fixtures::precisionOf(page.strokes, skeleton, 2);
  qInfo("%s: recall %.3f, precision %.3f, %d ruled lines", qPrintable(page.name), recall, precision,
        art.findings.ruledLines);
  QVERIFY2(recall >= 0.95 && precision >= 0.95,
           qPrintable(QString("%1: recall %2, precision %3").arg(page.name).arg(recall).arg(precision)));
  QCOMPARE(art.findings.lightOnDark, page.name == "white on slate");
}

void LinesTest::sourcesAreToldApart() {
  for (const auto& page : fixtures::drawnPages()) QVERIFY2(looksLikePaper(page.picture), qPrintable(page.name));
  for (int i = 0; i < fixtures::scenes; ++i) QVERIFY(!looksLikePaper(fixtures::scene(i)));
  QCOMPARE(extractLines(fixtures::scene(0), {}).findings.source, LineSource::photograph);
}

void LinesTest::meadowsAreNoSheets() {
  // One hue and evenly lit, but no paper is as green as that.
  Image<Rgb> meadow(240, 160);
  for (int y = 0; y < 160; ++y)
    for (int x = 0; x < 240; ++x) {
      const float blade = (x / 5 + y / 40) % 3 == 0 ? 0.75f : 1.0f;
      meadow(x, y) = {0.35f * blade, 0.7f * blade, 0.05f * blade};
    }
  QVERIFY(!looksLikePaper(meadow));
  const auto art = extractLines(meadow, {});
  QCOMPARE(art.findings.source, LineSource::photograph);
  QVERIFY2(art.findings.note.empty(), art.findings.note.c_str());
  QVERIFY(edgeShare(narrowed(art.map)) > 0.02);
}

void LinesTest::photographLinesFollowOutlines() {
  // Bright discs on dark ground: the lines lie on their borders.
  Image<Rgb> picture(300, 200, Rgb{0.05f, 0.05f, 0.06f});
  std::vector<std::array<double, 3>> discs = {{80, 90, 40}, {200, 110, 60}};
  for (int y = 0; y < 200; ++y)
    for (int x = 0; x < 300; ++x)
      for (const auto& [cx, cy, r] : discs)
        if (std::hypot(x + 0.5 - cx, y + 0.5 - cy) < r) picture(x, y) = {0.7f, 0.5f, 0.3f};
  LineTuning tuning;
  tuning.source = LineSource::photograph;
  const auto skeleton = thinned(lineMask(extractLines(picture, tuning).map));
  int set = 0, near = 0;
  for (int y = 0; y < 200; ++y)
    for (int x = 0; x < 300; ++x)
      if (skeleton(x, y) != 0) {
        ++set;
        double least = 1e9;
        for (const auto& [cx, cy, r] : discs) least = std::min(least, std::abs(std::hypot(x - cx, y - cy) - r));
        near += least < 4 ? 1 : 0;
      }
  QVERIFY(set > 450);
  QVERIFY2(near > 0.97 * set, qPrintable(QString("%1 of %2").arg(near).arg(set)));
}

void LinesTest::inkAddsLines() {
  const auto share = [](double ink, LineSource source, View<Rgb> picture) {
    LineTuning tuning;
    tuning.ink = ink;
    tuning.source = source;
    const auto mask = lineMask(extractLines(picture, tuning).map);
    double sum = 0;
    for (int y = 0; y < mask.height(); ++y)
      for (int x = 0; x < mask.width(); ++x) sum += mask(x, y);
    return sum;
  };
  const auto& photo = fixtures::scene(1);
  QVERIFY(share(25, LineSource::photograph, photo) < 0.8 * share(50, LineSource::photograph, photo));
  QVERIFY(share(50, LineSource::photograph, photo) < 0.8 * share(80, LineSource::photograph, photo));
  const auto page = std::move(fixtures::drawnPages()[5]);
  QVERIFY(share(20, LineSource::paper, page.picture) < share(50, LineSource::paper, page.picture));
}

void LinesTest::evenedLinesHaveOneWidth() {
  const auto page = std::move(fixtures::drawnPages()[0]);
  LineTuning tuning;
  tuning.weight = LineWeight::evened;
  tuning.width = 4;
  const auto strokes = traced(extractLines(page.picture, tuning).map).strokes;
  QVERIFY(strokes.size() > 5);
  double sum = 0, count = 0;
  for (const auto& stroke : strokes) {
    sum += meanWidth(*stroke) * lengthOf(*stroke);
    count += lengthOf(*stroke);
  }
  QVERIFY2(std::abs(sum / count - 4) < 0.8, qPrintable(QString::number(sum / count)));
}

void LinesTest::blankAndBlackPicturesGiveAMessage() {
  for (const float value : {0.0f, 0.5f, 1.0f})
    for (const auto source : {LineSource::automatic, LineSource::photograph, LineSource::paper}) {
      LineTuning tuning;
      tuning.source = source;
      const Image<Rgb> flat(200, 150, Rgb{value, value, value});
      const auto art = extractLines(flat, tuning);
      QCOMPARE(art.map.size(), flat.size());
      QVERIFY2(art.findings.note.find("next to no line") != std::string::npos,
               qPrintable(QString("%1 %2").arg(static_cast<double>(value)).arg(static_cast<int>(source))));
    }
  for (const Size size : {Size{1, 1}, Size{3, 200}, Size{200, 2}}) {
    const auto art = extractLines(fixtures::noise(size.width, size.height, 3), {});
    QCOMPARE(art.map.size(), size);
  }
}

void LinesTest::aPhotographAsPaperIsDoubted() {
  LineTuning tuning;
  tuning.source = LineSource::paper;
  const auto art = extractLines(fixtures::scene(0), tuning);
  QVERIFY(art.findings.note.find("does not look like a drawing") != std::string::npos);
}

void LinesTest::halfAMillionStrokesAreBounded() {
  // Ticks of three pixels all over: about half a million.
  Image<std::uint16_t> map(2400, 2400);
  for (int y = 1; y < 2400; y += 2)
    for (int x = y % 4; x + 3 < 2400; x += 5)
      for (int k = 0; k < 3; ++k) map(x + k, y) = 65535;
  TraceTuning tuning;
  tuning.shortest = 0;
  const auto tracing = traced(map, tuning);
  QCOMPARE(tracing.strokes.size(), tuning.most);
  QVERIFY(tracing.dropped > 400'000);
}

void LinesTest::looseLinesStayNear() {
  const auto map = drawnStrokes(fixtures::knownStrokes({500, 400}, 3, 2), {500, 400});
  const auto paths = tracedPaths(map, {});
  const auto skeleton = thinned(lineMask(map));
  LooseTuning calm, wild;
  calm.wander = 0;
  calm.tolerance = 3;
  wild.wander = 6;
  wild.tolerance = 3;
  const auto quiet = loosened(paths, calm), stray = loosened(paths, wild);
  QVERIFY(quiet.size() > 5);
  QVERIFY(fixtures::recallOf(quiet, skeleton, 3 + 2.5) > 0.995);
  QVERIFY(fixtures::recallOf(stray, skeleton, 3 + 6 + 2.5) > 0.995);
  // It does stray.
  QVERIFY(fixtures::recallOf(stray, skeleton, 2) < fixtures::recallOf(quiet, skeleton, 2) - 0.15);
  // Simpler: fewer curves than a close fit has.
  std::size_t close = 0, loose = 0;
  for (const auto& path : paths) close += fittedStroke(path, 0.5).curves();
  for (const auto& stroke : quiet) loose += fittedStroke(flattened(*stroke), 3).curves();
  QVERIFY(loose < close);
}

void LinesTest::looseLinesOfAStudyAreTheSameEachTime() {
  const auto map = drawnStrokes(fixtures::knownStrokes({300, 240}, 5, 2), {300, 240});
  const auto once = drawnLoosely(loosened(tracedPaths(map, {}), {}), {}, {300, 240});
  const auto again = drawnLoosely(loosened(tracedPaths(map, {}), {}), {}, {300, 240});
  QVERIFY(once == again);
}

HSCAFFOLD_TEST(LinesTest)
#include "lines_test.moc"
