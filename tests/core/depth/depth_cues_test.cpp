// Each cue on a picture where only it has something to say, and the parts that all of them stand on.
#include <QTest>
#include <cmath>
#include <set>

#include "core/depth/kinship.h"
#include "core/depth/things.h"
#include "core/image/filter.h"
#include "depth_fixtures.h"
#include "test_program.h"

using namespace depth_fixtures;
using hscaffold::depth::Cue;
using hscaffold::depth::Seen;

namespace {

Rgb grey(float v) { return {v, v, v}; }
/// Repeatable grain, about [-1, 1].
float grain(float x, float y) {
  return std::sin(x * 911.3f + 37 * std::sin(y * 277.1f)) * std::cos(y * 613.7f + 11 * std::sin(x * 431.9f));
}

}  // namespace

class DepthCuesTest : public QObject {
  Q_OBJECT
 private slots:
  void superpixelsAreConnectedAndKeepToEdges();
  void piecesAreWhatBelongsTogether();
  void whatBelongsTogetherIsToldSoftly();
  void theHorizonIsFoundWhereColoursPart();
  void linesMeetWhereTheyWereDrawnTo();
  void groundRunsAwayAndTheSkyIsFarthest();
  void whatStandsIsAsFarAsItsFoot();
  void aRoomComesNearerAwayFromItsMiddle();
  void hazeVeilsTheFar();
  void blurLiesBehind();
  void whatDiffersFromTheRimStandsInFront();
  void cuesKeepQuietWhereTheyKnowNothing();
  void softThingsAreThingsAndSlopesAreLand();
};

void DepthCuesTest::superpixelsAreConnectedAndKeepToEdges() {
  const auto picture = fixtures::overlappingShapes(240, 160);
  const Seen seen = depth::seenIn(picture);
  const auto& patches = seen.patches;
  QVERIFY(patches.count() > depth::seenCells / 2 && patches.count() < depth::seenCells * 2);
  int covered = 0;
  for (const auto& cell : patches.cells) covered += cell.area;
  QCOMPARE(covered, 240 * 160);
  // One piece each: flooding from any pixel of a cell reaches all of it.
  std::set<int> flooded;
  Image<std::uint8_t> gone(seen.size);
  for (int y = 0; y < seen.size.height; ++y)
    for (int x = 0; x < seen.size.width; ++x) {
      if (gone(x, y) != 0) continue;
      const int cell = patches.cell(x, y);
      QVERIFY2(flooded.insert(cell).second, "a cell lies in two pieces");
      std::vector<std::pair<int, int>> open{{x, y}};
      gone(x, y) = 1;
      while (!open.empty()) {
        const auto [cx, cy] = open.back();
        open.pop_back();
        for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
          const int nx = cx + dx, ny = cy + dy;
          if (nx < 0 || ny < 0 || nx >= seen.size.width || ny >= seen.size.height || gone(nx, ny) != 0) continue;
          if (patches.cell(nx, ny) != cell) continue;
          gone(nx, ny) = 1;
          open.emplace_back(nx, ny);
        }
      }
    }
  // No cell has two clearly different colours in it.
  int astray = 0;
  for (int y = 0; y < seen.size.height; ++y)
    for (int x = 0; x < seen.size.width; ++x) {
      const CieLab a = seen.colour(x, y), b = patches.cells[static_cast<std::size_t>(patches.cell(x, y))].colour;
      astray += std::hypot(a.l - b.l, a.a - b.a, a.b - b.b) > 15 ? 1 : 0;
    }
  QVERIFY2(astray < 240 * 160 / 100, qPrintable(QString::number(astray)));
}

void DepthCuesTest::piecesAreWhatBelongsTogether() {
  const auto picture = drawn([](float x, float y) {
    if (std::hypot(x - 0.3f, y - 0.5f) < 0.15f) return Rgb{0.7f, 0.1f, 0.1f};
    return x < 0.6f ? grey(0.4f) : Rgb{0.1f, 0.2f, 0.6f};
  });
  const Seen seen = depth::seenIn(picture);
  const int disc = seen.piece[static_cast<std::size_t>(cellAt(seen, 0.3f, 0.5f))],
            left = seen.piece[static_cast<std::size_t>(cellAt(seen, 0.05f, 0.1f))],
            right = seen.piece[static_cast<std::size_t>(cellAt(seen, 0.9f, 0.9f))];
  QVERIFY(disc != left && left != right && disc != right);
  QCOMPARE(seen.piece[static_cast<std::size_t>(cellAt(seen, 0.5f, 0.95f))], left);
  float area = 0;
  for (const int i : seen.pieces[static_cast<std::size_t>(disc)].cells)
    area += static_cast<float>(seen.patches.cells[static_cast<std::size_t>(i)].area);
  QVERIFY(std::fabs(area / static_cast<float>(seen.size.area()) - 3.1416f * 0.15f * 0.15f) < 0.015f);
}

void DepthCuesTest::whatBelongsTogetherIsToldSoftly() {
  // A post from 0.2 to 0.9 of the height before a wall, both grainy.
  const Seen seen = depth::seenIn(drawn([](float x, float y) {
    const bool post = x > 0.45f && x < 0.55f && y > 0.2f && y < 0.9f;
    return (post ? Rgb{0.5f, 0.15f, 0.1f} : Rgb{0.25f, 0.3f, 0.35f}) * (1 + 0.25f * grain(x, y));
  }));
  const auto post = static_cast<std::size_t>(cellAt(seen, 0.5f, 0.5f)),
             wall = static_cast<std::size_t>(cellAt(seen, 0.15f, 0.5f));
  QVERIFY2(std::fabs(seen.foot[post] - 0.9f) < 0.1f, qPrintable(QString::number(static_cast<double>(seen.foot[post]))));
  QVERIFY2(std::fabs(seen.head[post] - 0.2f) < 0.1f, qPrintable(QString::number(static_cast<double>(seen.head[post]))));
  QVERIFY(seen.broad[post] < 0.2f && seen.broad[wall] > 0.35f);
  QVERIFY(seen.tall[post] > 0.45f);
  // The mean of a cell's kin is that of its own stuff, not of what touches it.
  const depth::Kinship kin(seen.patches, seen.ties, 0.002);
  std::vector<float> red;
  for (const auto& cell : seen.patches.cells) red.push_back(cell.colour.a);
  const auto mean = kin.mean(red);
  QVERIFY(mean[post] > mean[wall] + 15);
  // From the wall a walk gets to the left edge, from the post hardly.
  std::vector<int> left, right;
  for (std::size_t i = 0; i < seen.x.size(); ++i)
    if (seen.x[i] < 0.04f)
      left.push_back(static_cast<int>(i));
    else if (seen.x[i] > 0.96f)
      right.push_back(static_cast<int>(i));
  const auto reached = kin.reaches(left, right), other = kin.reaches(right, left);
  QVERIFY(reached[wall] > 0.5f && reached[wall] > 2 * reached[post] && reached[wall] > 2 * other[wall]);
  for (std::size_t i = 0; i < reached.size(); ++i) QVERIFY(reached[i] >= 0 && reached[i] + other[i] <= 1.0001f);
}

void DepthCuesTest::theHorizonIsFoundWhereColoursPart() {
  for (const float horizon : {0.3f, 0.45f, 0.6f}) {
    const auto picture = drawn([horizon](float x, float y) {
      return y < horizon ? Rgb{0.5f, 0.6f, 0.8f} : Rgb{0.3f, 0.22f, 0.1f} * (1 + 0.4f * grain(x, y));
    });
    const Seen seen = depth::seenIn(picture);
    QVERIFY2(std::fabs(seen.horizon.row() - horizon) < 0.03f,
             qPrintable(QString::number(static_cast<double>(seen.horizon.row()))));
    QVERIFY(seen.horizon.sure() > 0.5f);
    QVERIFY(seen.horizon.above(horizon + 0.1f) > 0.9f && seen.horizon.above(horizon - 0.1f) < 0.1f);
    QVERIFY(seen.horizon.groundNear(1) > 0.95f && seen.horizon.groundNear(horizon) < 0.15f);
  }
  QVERIFY(depth::seenIn(drawn([](float, float) { return grey(0.4f); })).horizon.sure() < 0.1f);
}

namespace {

/// A corridor: four planes that run to a place.
Image<Rgb> corridor(float x0, float y0) {
  return drawn([=](float x, float y) {
    const float dx = (x - x0) / (x < x0 ? x0 : 1 - x0), dy = (y - y0) / (y < y0 ? y0 : 1 - y0);
    if (std::max(std::fabs(dx), std::fabs(dy)) < 0.25f) return grey(0.35f);
    if (std::fabs(dx) > std::fabs(dy)) return dx < 0 ? Rgb{0.5f, 0.45f, 0.4f} : Rgb{0.3f, 0.28f, 0.26f};
    return dy < 0 ? grey(0.75f) : Rgb{0.25f, 0.15f, 0.08f};
  });
}

}  // namespace

void DepthCuesTest::linesMeetWhereTheyWereDrawnTo() {
  for (const auto& [x, y] : {std::pair{0.5f, 0.5f}, {0.35f, 0.45f}}) {
    const Seen seen = depth::seenIn(corridor(x, y));
    QVERIFY(!seen.vanishing.empty());
    QVERIFY(std::hypot(seen.vanishing[0].x - x, seen.vanishing[0].y - y) < 0.04f);
    QVERIFY(depth::roominess(seen) > 0.8f);
  }
  // A road has lines from below only.
  const auto road = drawn([](float x, float y) {
    if (y < 0.4f) return Rgb{0.5f, 0.6f, 0.8f};
    return std::fabs(x - 0.5f) < (y - 0.4f) * 0.6f ? grey(0.2f) : Rgb{0.2f, 0.35f, 0.1f};
  });
  QVERIFY(depth::roominess(depth::seenIn(road)) < 0.1f);
  QVERIFY(depth::seenIn(drawn([](float, float y) { return grey(y); })).vanishing.empty());
  // A wheel's spokes meet, too; between them there is no floor.
  const auto wheel = drawn([](float x, float y) {
    const float dx = 1.5f * (x - 0.5f), dy = y - 0.45f, away = std::hypot(dx, dy),
                turn = std::atan2(dy, dx) * 4 / 3.1416f;
    return away < 0.3f && std::fabs(turn - std::round(turn)) < 0.02f / std::max(0.05f, away)
               ? grey(0.1f)
               : grey(0.45f + 0.15f * grain(x, y));
  });
  QVERIFY(depth::roominess(depth::seenIn(wheel)) < 0.15f);
}

void DepthCuesTest::groundRunsAwayAndTheSkyIsFarthest() {
  const Seen seen = depth::seenIn(drawn([](float x, float y) {
    return y < 0.4f ? Rgb{0.45f, 0.55f, 0.75f} : Rgb{0.3f, 0.25f, 0.15f} * (1 + 0.2f * grain(x, y));
  }));
  const Cue cue = depth::groundCue(seen);
  QVERIFY(meanIn(seen, cue.near, 0, 0.05f, 1, 0.3f) < 0.02f);
  QVERIFY(meanIn(seen, cue.sure, 0, 0.05f, 1, 0.3f) > 0.9f);
  const float far = meanIn(seen, cue.near, 0, 0.45f, 1, 0.55f), near = meanIn(seen, cue.near, 0, 0.9f, 1, 1);
  QVERIFY(far < 0.35f && near > 0.85f);
  QVERIFY(meanIn(seen, cue.sure, 0, 0.6f, 1, 1) > 0.4f);
}

void DepthCuesTest::whatStandsIsAsFarAsItsFoot() {
  // Two posts of one height in the picture's middle; one stands lower.
  const Seen seen = depth::seenIn(drawn([](float x, float y) {
    if (x > 0.2f && x < 0.27f && y > 0.25f && y < 0.9f) return Rgb{0.6f, 0.1f, 0.1f};
    if (x > 0.7f && x < 0.75f && y > 0.25f && y < 0.55f) return Rgb{0.1f, 0.1f, 0.5f};
    return y < 0.4f ? Rgb{0.5f, 0.6f, 0.8f} : Rgb{0.35f, 0.3f, 0.18f};
  }));
  const Cue cue = depth::footCue(seen);
  const auto at = [&](const std::vector<float>& v, float x, float y) {
    return v[static_cast<std::size_t>(cellAt(seen, x, y))];
  };
  QVERIFY(at(cue.near, 0.235f, 0.3f) > at(cue.near, 0.725f, 0.3f) + 0.3f);
  QVERIFY(at(cue.sure, 0.235f, 0.3f) > 0.5f && at(cue.sure, 0.725f, 0.3f) > 0.5f);
  QVERIFY(std::fabs(at(cue.near, 0.235f, 0.3f) - at(cue.near, 0.235f, 0.85f)) < 0.1f);
  QVERIFY(at(cue.sure, 0.5f, 0.2f) < 0.05f);
}

void DepthCuesTest::aRoomComesNearerAwayFromItsMiddle() {
  const Seen seen = depth::seenIn(corridor(0.5f, 0.5f));
  const Cue cue = depth::roomCue(seen);
  const float middle = meanIn(seen, cue.near, 0.45f, 0.45f, 0.55f, 0.55f);
  for (const auto& [x, y] : {std::pair{0.02f, 0.5f}, {0.98f, 0.5f}, {0.5f, 0.02f}, {0.5f, 0.98f}})
    QVERIFY(cue.near[static_cast<std::size_t>(cellAt(seen, x, y))] > middle + 0.6f);
  QVERIFY(meanIn(seen, cue.sure, 0, 0, 1, 1) > 0.4f);
}

void DepthCuesTest::hazeVeilsTheFar() {
  // Bands of the same patchy stuff, each more veiled than the one below it.
  const Rgb veil{0.65f, 0.68f, 0.72f};
  const Seen seen = depth::seenIn(drawn([veil](float x, float y) {
    const float far = std::floor((1 - y) * 6) / 6;
    const float clear = std::exp(-2.2f * far);
    return Rgb{0.14f, 0.12f, 0.08f} * (1 + 0.9f * grain(x, y)) * clear + veil * (1 - clear);
  }));
  const Cue cue = depth::hazeCue(seen);
  QVERIFY(meanIn(seen, cue.sure, 0, 0, 1, 1) > 0.3f);
  QVERIFY(meanIn(seen, cue.near, 0, 0.86f, 1, 1) > meanIn(seen, cue.near, 0, 0.36f, 1, 0.48f) + 0.2f);
  QVERIFY(meanIn(seen, cue.near, 0, 0.36f, 1, 0.48f) > meanIn(seen, cue.near, 0, 0.02f, 1, 0.14f));
}

void DepthCuesTest::blurLiesBehind() {
  auto picture = drawn(
      [](float x, float y) { return grey(0.35f + 0.25f * (std::sin(x * 70) * std::sin(y * 50) > 0 ? 1.0f : -1.0f)); },
      {384, 256});
  const auto blurred = gaussianBlur(picture.view(), 4);
  for (int y = 0; y < 256; ++y)
    for (int x = 192; x < 384; ++x) picture(x, y) = blurred(x, y);
  const Seen seen = depth::seenIn(picture);
  const Cue cue = depth::focusCue(seen);
  QVERIFY(meanIn(seen, cue.near, 0.05f, 0.1f, 0.45f, 0.9f) > meanIn(seen, cue.near, 0.55f, 0.1f, 0.95f, 0.9f) + 0.4f);
  QVERIFY(meanIn(seen, cue.sure, 0.05f, 0.1f, 0.45f, 0.9f) > 0.3f);
}

void DepthCuesTest::whatDiffersFromTheRimStandsInFront() {
  const Seen seen = depth::seenIn(drawn([](float x, float y) {
    return std::hypot(x - 0.5f, y - 0.5f) < 0.2f ? Rgb{0.7f, 0.2f, 0.1f}
                                                 : Rgb{0.2f, 0.3f, 0.35f} * (1 + 0.1f * grain(x, y));
  }));
  const Cue cue = depth::frontCue(seen);
  QVERIFY(meanIn(seen, cue.near, 0.42f, 0.42f, 0.58f, 0.58f) > 0.8f);
  QVERIFY(meanIn(seen, cue.near, 0, 0, 0.2f, 1) < 0.2f);
  QVERIFY(meanIn(seen, cue.sure, 0.42f, 0.42f, 0.58f, 0.58f) > 0.5f);
}

void DepthCuesTest::cuesKeepQuietWhereTheyKnowNothing() {
  const auto blank = drawn([](float, float) { return grey(0.5f); });
  const auto noisy = fixtures::noise(240, 160, 3);
  for (const auto* picture : {&blank, &noisy}) {
    const Seen seen = depth::seenIn(*picture);
    for (const auto& cue : depth::cues()) {
      const Cue made = cue.make(seen);
      QCOMPARE(made.near.size(), seen.x.size());
      QCOMPARE(made.sure.size(), seen.x.size());
      for (std::size_t i = 0; i < made.near.size(); ++i)
        QVERIFY(made.near[i] >= 0 && made.near[i] <= 1 && made.sure[i] >= 0 && made.sure[i] <= 1);
      // These three always have an opinion; it weighs little, and doubt is shown where others speak against it.
      const std::string_view id = cue.id;
      if (id != "place" && id != "ground" && id != depth::networkCueId)
        QVERIFY2(
            meanIn(seen, made.sure, 0, 0, 1, 1) < 0.3f,
            qPrintable(QString("%1 %2").arg(cue.id).arg(static_cast<double>(meanIn(seen, made.sure, 0, 0, 1, 1)))));
    }
  }
  // One pixel, one row, nothing at all.
  for (const Size s : {Size{1, 1}, Size{300, 1}, Size{1, 200}, Size{3, 2}}) {
    const Seen seen = depth::seenIn(drawn([](float x, float) { return grey(x); }, s));
    for (const auto& cue : depth::cues()) QCOMPARE(cue.make(seen).near.size(), seen.x.size());
  }
  QCOMPARE(depth::seenIn({}).patches.count(), 0);
}

void DepthCuesTest::softThingsAreThingsAndSlopesAreLand() {
  const auto mapOf = [](auto&& value) {
    Image<float> near(size);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) near(x, y) = value(static_cast<float>(x), static_cast<float>(y));
    return gaussianBlur(near.view(), 3);
  };
  const auto plain = [](float y) { return std::max(0.0f, (y - 60) / 100); };
  const auto panel = mapOf(
      [&](float x, float y) { return x >= 90 && x < 140 && y >= 40 && y < 90 ? std::max(0.4f, plain(y)) : plain(y); });
  const auto things = depth::thingsIn(panel);
  QCOMPARE(things.all.size(), std::size_t{1});
  QVERIFY(std::abs(things.all[0].area - 2500) < 500);
  QVERIFY(things.all[0].drop > 0.05);
  QVERIFY(things.label(115, 60) == 0 && things.label(60, 60) < 0 && things.label(115, 120) < 0);
  const auto lines = depth::outlinesOf(things, panel);
  int left = 0, middle = 0;
  for (int y = 45; y < 70; ++y) {
    for (int x = 84; x < 96; ++x) left += lines(x, y) != 0 ? 1 : 0;
    for (int x = 100; x < 130; ++x) middle += lines(x, y) != 0 ? 1 : 0;
  }
  QVERIFY2(left >= 23 && middle == 0, qPrintable(QString("%1 %2").arg(left).arg(middle)));
  // A dune that rises slowly to one side, a wall that the frame cuts, and grain are none.
  QVERIFY(
      depth::thingsIn(mapOf([&](float x, float y) { return std::min(1.0f, plain(y) + 0.3f * x / 240); })).all.empty());
  QVERIFY(depth::thingsIn(mapOf([&](float x, float y) { return x < 30 ? 0.9f : plain(y); })).all.empty());
  QVERIFY(
      depth::thingsIn(mapOf([&](float x, float y) { return plain(y) + 0.1f * grain(x / 240, y / 160); })).all.empty());
  // Who may not be a thing is none.
  QVERIFY(depth::thingsIn(panel, [](int, int) { return false; }).all.empty());
}

HSCAFFOLD_TEST(DepthCuesTest)
#include "depth_cues_test.moc"
