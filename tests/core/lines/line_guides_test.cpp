// How the stand-in takes line art, loose lines and regions.
#include <QTest>
#include <cmath>

#include "core/engine/guided_jobs.h"
#include "core/engine/standin/flow.h"
#include "core/engine/standin/layout.h"
#include "core/image/colour.h"
#include "core/lines/loose.h"
#include "core/measure/hold.h"
#include "core/strokes/thinning.h"
#include "drawn_pages.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::made;
using fixtures::mapOf;

namespace {

constexpr Size guideFrame{480, 320};
constexpr int seeds = 3;

EngineJob jobOf(const std::string& kind, const Map& map, std::uint32_t seed,
                const std::string& prompt = "a tower by the sea, gouache") {
  return fixtures::guidedJob(kind, map, seed, 0.9, prompt);
}

Map movedBy(const Map& map, int dx, int dy) {
  Map out(map.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) out(x, y) = map.view().clamped(x - dx, y - dy);
  return out;
}

double difference(const Image<Rgb8>& a, const Image<Rgb8>& b, int left, int right) {
  double sum = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = left; x < right; ++x)
      sum += std::abs(a(x, y).r - b(x, y).r) + std::abs(a(x, y).g - b(x, y).g) + std::abs(a(x, y).b - b(x, y).b);
  return sum / 3 / (a.height() * (right - left));
}

double held(const std::string& kind, const Map& map, const Image<Rgb8>& proof) {
  GuideInput input;
  input.map = map.clone();
  return holdingOf(kindOf(kind), input, proof)->hold;
}

/// Its lines one pixel wide: a broad stroke is met at either of its sides.
Map middlesOf(const Map& map) {
  Image<std::uint8_t> mask(map.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) mask(x, y) = map(x, y) >= 32768 ? 1 : 0;
  const auto thin = thinned(mask);
  Map out(map.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) out(x, y) = thin(x, y) != 0 ? 65535 : 0;
  return out;
}

}  // namespace

class LineGuidesTest : public QObject {
  Q_OBJECT
 private slots:
  void looseLinesTolerateSmallMoves();
  void lineArtHoldsItsLines();
  void looseLinesHoldAbout();
  void lineArtTurnsTheHatching();
  void regionsLimitTheEngine();
  void emptyRegionsAreAsNone();
  void regionsOfAWrongSizeAreRefused();
};

void LineGuidesTest::looseLinesTolerateSmallMoves() {
  // The guide moves by four pixels: how much does that change what is held of the layout that was wanted? As it is
  // shown, and looked at strictly, within one and a half pixels.
  constexpr double strictly = 0.0026;
  std::map<std::string, double> shown, strict;
  for (const char* kind : {"lines", "loose"})
    for (int scene = 0; scene < fixtures::scenes; ++scene) {
      const Map map = mapOf(kind, scene), moved = movedBy(map, 4, 0);
      for (std::uint32_t seed = 1; seed <= seeds; ++seed) {
        const auto there = made(jobOf(kind, map, seed)), aside = made(jobOf(kind, moved, seed));
        shown[kind] += std::abs(held(kind, map, aside) - held(kind, map, there)) / (seeds * fixtures::scenes);
        const Map middle = middlesOf(map);
        strict[kind] += std::abs(lineHold(middle, aside, strictly) - lineHold(middle, there, strictly)) /
                        (seeds * fixtures::scenes);
      }
    }
  qInfo("moved by 4 px: hold changes by %.1f with line art, %.1f with loose lines; strictly by %.1f and %.1f",
        shown["lines"], shown["loose"], strict["lines"], strict["loose"]);
  QVERIFY(shown["loose"] < shown["lines"]);
  QVERIFY(strict["loose"] < strict["lines"]);
}

void LineGuidesTest::lineArtHoldsItsLines() {
  double own = 0, stranger = 0;
  for (int scene = 0; scene < fixtures::scenes; ++scene) {
    const Map map = mapOf("lines", scene);
    own += held("lines", map, made(jobOf("lines", map, 5))) / fixtures::scenes;
    stranger += held("lines", map, made(jobOf("lines", mapOf("lines", (scene + 1) % 3), 5))) / fixtures::scenes;
  }
  QVERIFY2(own > 60 && stranger < 25, qPrintable(QString("%1 %2").arg(own).arg(stranger)));
}

void LineGuidesTest::looseLinesHoldAbout() {
  double own = 0, stranger = 0, strict = 0;
  for (int scene = 0; scene < fixtures::scenes; ++scene) {
    const Map map = mapOf("loose", scene);
    const auto proof = made(jobOf("loose", map, 5));
    own += held("loose", map, proof) / fixtures::scenes;
    strict += held("lines", map, proof) / fixtures::scenes;
    stranger += held("loose", map, made(jobOf("loose", mapOf("loose", (scene + 1) % 3), 5))) / fixtures::scenes;
  }
  QVERIFY2(own > 40 && stranger < 30, qPrintable(QString("%1 %2").arg(own).arg(stranger)));
  // About, not exactly.
  QVERIFY2(strict < own, qPrintable(QString("%1 %2").arg(strict).arg(own)));
}

void LineGuidesTest::lineArtTurnsTheHatching() {
  using namespace standin;
  for (const double angle : {0.4, 1.2, 2.3}) {
    // Short parallel lines all over.
    std::vector<std::shared_ptr<const Stroke>> strokes;
    const Point along{std::cos(angle), std::sin(angle)};
    for (int y = 20; y < 320; y += 28)
      for (int x = 20; x < 480; x += 28) {
        const Point a{x - 9 * along.x, y - 9 * along.y}, b{x + 9 * along.x, y + 9 * along.y};
        strokes.push_back(std::make_shared<const Stroke>(
            Stroke{{a, a + (b - a) * (1.0 / 3), b - (b - a) * (1.0 / 3), b}, {2, 2}, false}));
      }
    const auto map = drawnStrokes(strokes, guideFrame);
    const auto alignment = [&](const char* kind) {
      const auto fields = settledLayout(jobOf(kind, map, 3, "fog, ink"));
      const auto& x = fields.all[Fields::courseX];
      const auto& y = fields.all[Fields::courseY];
      double sum = 0;
      for (int row = 0; row < x.height(); ++row)
        for (int column = 0; column < x.width(); ++column)
          sum += static_cast<double>(x(column, row)) * std::cos(2 * angle) +
                 static_cast<double>(y(column, row)) * std::sin(2 * angle);
      return sum / static_cast<double>(x.size().area());
    };
    QVERIFY2(alignment("lines") > 0.3, qPrintable(QString::number(alignment("lines"))));
    QVERIFY(std::abs(alignment("edges")) < 0.1);
    // And the flow that hatches follow obeys a wish.
    Course wish{Image<float>(200, 150, static_cast<float>(0.7 * std::cos(2 * angle))),
                Image<float>(200, 150, static_cast<float>(0.7 * std::sin(2 * angle)))};
    const auto flow = flowAlong(Image<float>(200, 150, 0.5f), 6, 1, wish);
    double turned = 0;
    for (int row = 0; row < 150; ++row)
      for (int column = 0; column < 200; ++column) {
        const double c =
            static_cast<double>(flow(column, row).x) * along.x + static_cast<double>(flow(column, row).y) * along.y;
        turned += c * c / (200 * 150);
      }
    QVERIFY2(turned > 0.85, qPrintable(QString::number(turned)));
  }
}

void LineGuidesTest::regionsLimitTheEngine() {
  const Map map = mapOf("edges", 0);
  Map left(guideFrame);
  for (int y = 0; y < guideFrame.height; ++y) std::fill_n(left.row(y), guideFrame.width / 2, std::uint16_t{65535});
  for (const char* kind : {"edges", "tone"}) {
    auto free = jobOf(kind, map, 2), limited = jobOf(kind, map, 2), whole = jobOf(kind, map, 2);
    free.recipe.guides[0].guide.weight = 0;
    limited.inputs[0].region = left.clone();
    const auto none = made(free), half = made(limited), all = made(whole);
    // Inside like the guided one, outside like the free one; the middle is left out.
    const double insideGuided = difference(half, all, 0, 180), insideFree = difference(half, none, 0, 180);
    const double outsideGuided = difference(half, all, 300, 480), outsideFree = difference(half, none, 300, 480);
    qInfo("%s: inside %.1f from guided, %.1f from free; outside %.1f and %.1f", kind, insideGuided, insideFree,
          outsideGuided, outsideFree);
    QVERIFY(insideGuided < 0.6 * insideFree);
    QVERIFY(outsideFree < 0.6 * outsideGuided);
  }
}

void LineGuidesTest::emptyRegionsAreAsNone() {
  const Map map = mapOf("lines", 1);
  auto job = jobOf("lines", map, 3), same = jobOf("lines", map, 3);
  same.inputs[0].region = Map();
  QVERIFY(made(job) == made(same));
  // A region of everything differs only by rounding.
  auto full = jobOf("lines", map, 3);
  full.inputs[0].region = Map(guideFrame.width, guideFrame.height, std::uint16_t{65535});
  QVERIFY(difference(made(full), made(job), 0, 480) < 0.5);
}

void LineGuidesTest::regionsOfAWrongSizeAreRefused() {
  auto job = jobOf("lines", mapOf("lines", 1), 3);
  job.inputs[0].region = Map(10, 10);
  QVERIFY(!fixtures::problemOf([&] { made(job); }).isEmpty());
}

HSCAFFOLD_TEST(LineGuidesTest)
#include "line_guides_test.moc"
