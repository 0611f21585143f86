// The parts of the stand-in, each for itself: words to wishes to palette, composition, flow, media.
#include <QTest>
#include <cmath>
#include <set>

#include "core/engine/standin/assembly.h"
#include "core/engine/standin/bodies.h"
#include "core/engine/standin/composition.h"
#include "core/engine/standin/flow.h"
#include "core/engine/standin/guidance_fields.h"
#include "core/engine/standin/line_fields.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/painting.h"
#include "core/engine/standin/plan.h"
#include "core/image/colour.h"
#include "core/measure/hold.h"
#include "core/pose/library.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::standin;

namespace {

constexpr Size canvas{240, 160};

Wishes wished(const std::string& prompt, double guidance = 6.5) { return wishesFrom(prompt, "", guidance); }

/// What prompt and seed draw, the subject in its place.
Composition pictureOf(const std::string& prompt, std::uint64_t seed) {
  const auto place = compose(wished(prompt), seed, canvas);
  return withSubject(place, place.subject);
}

/// A guide at plain weight over the whole way.
const LoadCurve& plainLoads() {
  static const LoadCurve loads = [] {
    Guide guide;
    guide.weight = 1;
    return LoadCurve(guide, 6.5, 20);
  }();
  return loads;
}

Plan planOf(const std::string& prompt, std::uint64_t seed = 5) {
  const auto wishes = wished(prompt);
  const auto composition = pictureOf(prompt, seed);
  return planFrom(composition.fields, composition, paletteFrom(wishes, seed), canvas);
}

double meanLightness(const Plan& plan) {
  double sum = 0;
  for (int y = 0; y < plan.colour.height(); ++y)
    for (const OkLab& c : plan.colour.line(y)) sum += static_cast<double>(c.l);
  return sum / static_cast<double>(plan.colour.size().area());
}

double meanChroma(const Plan& plan) {
  double sum = 0;
  for (int y = 0; y < plan.colour.height(); ++y)
    for (const OkLab& c : plan.colour.line(y)) sum += std::hypot(static_cast<double>(c.a), static_cast<double>(c.b));
  return sum / static_cast<double>(plan.colour.size().area());
}

double share(const Fields& fields, Part part) {
  double sum = 0;
  const auto& field = fields.part(static_cast<std::size_t>(part));
  for (int y = 0; y < field.height(); ++y)
    for (const float v : field.line(y)) sum += static_cast<double>(v);
  return sum / static_cast<double>(field.size().area());
}

}  // namespace

class PaintingTest : public QObject {
  Q_OBJECT
 private slots:
  void hashesSpreadAndRepeat();
  void noiseIsSmoothAndBounded();
  void partsAddUpEverywhere();
  void everySubjectCanBeDrawn_data();
  void everySubjectCanBeDrawn();
  void emptyPlacesHaveNoSubject();
  void seedsGiveDifferentCompositions();
  void hoursAndWeatherChangeLightAndColour();
  void coloursGoWhereTheyAreMeant();
  void guidanceDecidesHowFar();
  void snowWhitensTheGround();
  void flowFollowsStripes();
  void smearedNoiseRunsAlong();
  void mediaDifferAndStayInRange_data();
  void mediaDifferAndStayInRange();
  void linesAreDrawnInEveryMedium_data();
  void linesAreDrawnInEveryMedium();
  void linesBurnInBeyondPlain_data();
  void linesBurnInBeyondPlain();
  void lineRegionsStandOff();
  void posesBuildBodies();
  void clothesTakeTheirColour();
  void unknownKindsActOnNothing();
};

void PaintingTest::hashesSpreadAndRepeat() {
  std::set<std::uint64_t> seen;
  double sum = 0;
  for (std::uint64_t i = 0; i < 4000; ++i) {
    seen.insert(mixed(i, 7));
    sum += static_cast<double>(unit(mixed(i, 7)));
    QCOMPARE(mixed(i, 7), mixed(i, 7));
    QVERIFY(unit(mixed(i)) >= 0 && unit(mixed(i)) < 1);
  }
  QCOMPARE(seen.size(), std::size_t{4000});
  QVERIFY(std::abs(sum / 4000 - 0.5) < 0.03);
  QVERIFY(hashOf("dune") != hashOf("dunes"));
}

void PaintingTest::noiseIsSmoothAndBounded() {
  for (int i = 0; i < 500; ++i) {
    const float x = static_cast<float>(i) * 0.037f - 9, y = static_cast<float>(i) * 0.013f;
    QVERIFY(std::abs(valueNoise(3, x, y)) <= 1);
    QVERIFY(std::abs(valueNoise(3, x, y) - valueNoise(3, x + 1e-3f, y)) < 0.01f);
    QVERIFY(std::abs(fractalNoise(3, x, y, 5)) <= 1);
  }
}

void PaintingTest::partsAddUpEverywhere() {
  for (std::uint64_t seed = 0; seed < 6; ++seed) {
    const auto fields = pictureOf("lighthouse, tree, sea", seed).fields;
    for (int y = 0; y < canvas.height; y += 3)
      for (int x = 0; x < canvas.width; x += 3) {
        float sum = 0;
        for (std::size_t p = 0; p < partCount; ++p) sum += fields.part(p)(x, y);
        QVERIFY(std::abs(sum - 1) < 0.02f);
        QVERIFY(fields.depth()(x, y) >= 0 && fields.depth()(x, y) <= 1);
      }
  }
}

void PaintingTest::everySubjectCanBeDrawn_data() {
  QTest::addColumn<QString>("word");
  for (const char* word : {"figure", "tower", "house", "tree", "boat", "fox", "kite", "arch", "flower", "rock"})
    QTest::addRow("%s", word) << word;
}

void PaintingTest::everySubjectCanBeDrawn() {
  QFETCH(QString, word);
  for (std::uint64_t seed = 0; seed < 5; ++seed) {
    const double covered = share(pictureOf("a " + word.toStdString(), seed).fields, Part::subject);
    QVERIFY2(covered > 0.002 && covered < 0.4, qPrintable(QString::number(covered)));
  }
}

void PaintingTest::emptyPlacesHaveNoSubject() {
  const auto with = pictureOf("a tower", 3), without = compose(wished("a tower"), 3, canvas);
  QVERIFY(share(with.fields, Part::subject) > 0.01);
  QCOMPARE(share(without.fields, Part::subject), 0.0);
  QCOMPARE(with.horizon, without.horizon);
}

void PaintingTest::seedsGiveDifferentCompositions() {
  std::set<int> horizons;
  for (std::uint64_t seed = 0; seed < 30; ++seed) {
    const auto composition = compose(wished("a field"), seed, {60, 40});
    horizons.insert(static_cast<int>(composition.horizon * 100));
    QVERIFY(composition.horizon > 0.2f && composition.horizon < 0.75f);
  }
  QVERIFY(horizons.size() > 8);
}

void PaintingTest::hoursAndWeatherChangeLightAndColour() {
  QVERIFY(meanLightness(planOf("a field, night")) < meanLightness(planOf("a field, noon")) - 0.15);
  QVERIFY(meanChroma(planOf("a field, noon, fog, muted")) < 0.7 * meanChroma(planOf("a field, noon, vivid")));
  QVERIFY(meanLightness(planOf("a field, storm, dark")) < meanLightness(planOf("a field, bright")));
}

void PaintingTest::coloursGoWhereTheyAreMeant() {
  const auto wishes = wished("red dune, blue sky, green tower");
  const auto palette = paletteFrom(wishes, 9);
  const auto hueAway = [](float a, float degrees) {
    return std::abs(std::remainder(a - degrees * 3.14159265f / 180, 6.2831853f));
  };
  QVERIFY(hueAway(palette.parts[static_cast<std::size_t>(Part::ground)].h, 27) < 0.3f);
  QVERIFY(hueAway(palette.parts[static_cast<std::size_t>(Part::subject)].h, 146) < 0.3f);
}

void PaintingTest::guidanceDecidesHowFar() {
  const auto away = [](double guidance) {
    const auto palette = paletteFrom(wished("a crimson dune", guidance), 4),
               plain = paletteFrom(wished("a dune", guidance), 4);
    const OkLab a = okLchToOkLab(palette.parts[3]), b = okLchToOkLab(plain.parts[3]);
    return std::hypot(a.a - b.a, a.b - b.b);
  };
  QVERIFY(away(0) < 0.01f);
  QVERIFY(away(6.5) > away(1));
}

void PaintingTest::snowWhitensTheGround() {
  const auto bare = paletteFrom(wished("a dune, noon"), 4).parts[3],
             white = paletteFrom(wished("a dune, noon, snow"), 4).parts[3];
  QVERIFY(white.l > bare.l + 0.05f && white.c < 0.5f * bare.c);
}

void PaintingTest::flowFollowsStripes() {
  Image<float> stripes(120, 120);
  for (int y = 0; y < 120; ++y)
    for (int x = 0; x < 120; ++x) stripes(x, y) = 0.5f + 0.5f * std::sin(static_cast<float>(x + 2 * y) * 0.3f);
  const auto flow = flowAlong(stripes, 6, 1);
  // Stripes x + 2 y = constant run along (2, -1).
  for (int y = 30; y < 90; y += 7)
    for (int x = 30; x < 90; x += 7) {
      const Direction d = flow(x, y);
      QVERIFY(std::abs(std::hypot(d.x, d.y) - 1) < 1e-3f);
      QVERIFY(std::abs(d.x * 2 - d.y) / std::sqrt(5.0f) > 0.95f);
    }
}

void PaintingTest::smearedNoiseRunsAlong() {
  const Image<Direction> across(100, 60);  // all along x
  const auto smeared = smearedNoise(across, 8, 1, 3);
  double along = 0, over = 0;
  for (int y = 1; y < 59; ++y)
    for (int x = 1; x < 99; ++x) {
      along += std::abs(static_cast<double>(smeared(x, y) - smeared(x - 1, y)));
      over += std::abs(static_cast<double>(smeared(x, y) - smeared(x, y - 1)));
    }
  QVERIFY(over > 3 * along);
}

void PaintingTest::mediaDifferAndStayInRange_data() {
  QTest::addColumn<QString>("medium");
  for (const char* medium : {"gouache", "oil", "watercolour", "ink", "woodcut", "pencil", "photograph"})
    QTest::addRow("%s", medium) << medium;
}

void PaintingTest::mediaDifferAndStayInRange() {
  QFETCH(QString, medium);
  const auto plan = planOf("a tower by the sea, dusk");
  const auto picture = painted(plan, wished(medium.toStdString()), 3, {});
  QCOMPARE(picture.size(), canvas);
  const auto flat = planPicture(plan);
  double difference = 0;
  for (int y = 0; y < canvas.height; ++y)
    for (int x = 0; x < canvas.width; ++x) {
      const Rgb c = picture(x, y);
      QVERIFY(c.r >= 0 && c.r <= 1 && c.g >= 0 && c.g <= 1 && c.b >= 0 && c.b <= 1);
      difference += std::abs(static_cast<double>(luminance(c) - luminance(flat(x, y))));
    }
  QVERIFY(difference / static_cast<double>(canvas.area()) > 0.004);
  QVERIFY_EXCEPTION_THROWN(painted(plan, wished(medium.toStdString()), 3, fixtures::stopped()), Cancelled);
}

void PaintingTest::linesAreDrawnInEveryMedium_data() { mediaDifferAndStayInRange_data(); }

void PaintingTest::linesAreDrawnInEveryMedium() {
  QFETCH(QString, medium);
  auto plan = planOf("a quiet field, noon", 11);
  const auto without = toSrgb8(painted(plan, wished(medium.toStdString()), 3, {}));
  Image<std::uint8_t> drawn(canvas);
  for (int i = 30; i < 130; ++i)
    for (int thick = 0; thick < 2; ++thick) {
      plan.line(i, 50 + thick) = 1;
      drawn(i, 50 + thick) = 255;
    }
  const auto with = toSrgb8(painted(plan, wished(medium.toStdString()), 3, {}));
  double change = 0, elsewhere = 0;
  const auto light = [](Rgb8 c) { return (c.r + 2 * c.g + c.b) / 4.0; };
  for (int i = 34; i < 126; ++i) {
    change += std::abs(light(with(i, 50)) - light(without(i, 50))) / 92;
    elsewhere += std::abs(light(with(i, 120)) - light(without(i, 120))) / 92;
  }
  QVERIFY2(change > 18 && change > 4 * elsewhere, qPrintable(QString("%1 %2").arg(change).arg(elsewhere)));
}

void PaintingTest::linesBurnInBeyondPlain_data() { mediaDifferAndStayInRange_data(); }

void PaintingTest::linesBurnInBeyondPlain() {
  QFETCH(QString, medium);
  if (medium == "woodcut") return;  // prints in one black: lines burn in by growing broader, before they get here
  auto plan = planOf("a quiet field, noon", 11);
  const auto darkness = [&](float strength) {
    for (int i = 30; i < 130; ++i)
      for (int thick = 0; thick < 3; ++thick) plan.line(i, 50 + thick) = strength;
    const auto picture = painted(plan, wished(medium.toStdString()), 3, {});
    double sum = 0;
    for (int i = 34; i < 126; ++i) sum += 1 - static_cast<double>(linearToOkLab(picture(i, 51)).l);
    return sum / 92;
  };
  const double plain = darkness(1), burnt = darkness(1.5f);
  QVERIFY2(burnt > plain + 0.03, qPrintable(QString("%1 %2").arg(plain).arg(burnt)));
}

void PaintingTest::lineRegionsStandOff() {
  GuideInput input;
  input.map = Map(canvas.width, canvas.height);
  Map& map = input.map;
  for (int i = 70; i <= 88; ++i) map(i, 70) = map(i, 88) = map(70, i) = map(88, i) = 65535;
  const auto place = compose(wished("a field, noon"), 3, canvas);
  Readings readings;
  const Palette palette = paletteFrom(wished("a field, noon"), 3);
  const auto wanted = wantedByLines({input, place, palette, plainLoads(), 5, readings});
  QVERIFY(wanted.decided);
  const Fields& fields = wanted.decided->fields;
  QVERIFY(fields.part(static_cast<std::size_t>(Part::subject))(80, 80) > 0.5f);
  QVERIFY(wanted.decided->where(80, 80) > 0.95f && wanted.decided->where(20, 20) < 0.05f);
  QVERIFY(std::abs(fields.tone()(80, 80) - fields.tone()(98, 80)) > 0.1f);
  QVERIFY(wanted.decided->lines(80, 70) > 0.5f && wanted.decided->lines(80, 80) < 0.05f);
}

void PaintingTest::posesBuildBodies() {
  const auto wishes = wished("a man in a red coat on a field");
  const auto place = compose(wishes, 3, canvas);
  pose::Figures figures;
  figures.frame = {480, 320};
  const auto standing = [&](double turn, Point at) {
    const auto& human = pose::skeletonOf("human");
    figures.figures.push_back(std::make_shared<const pose::Figure>(
        pose::figureFrom(human, pose::seenFrom(human, pose::housePoses()[0].pose, turn), {at, 200, {}})));
  };
  standing(90, {120, 180});
  auto wanted = wantedByPose(place, figures, plainLoads(), 5);
  QVERIFY(wanted.decided && wanted.bodies);
  const Decided& body = *wanted.decided;
  const auto at = [&](const Image<float>& field, Point p) {
    return field(static_cast<int>(p.x / 2), static_cast<int>(p.y / 2));
  };
  const pose::Figure figure = *figures.figures[0];
  const auto point = [&](const char* name) { return figure.points[*figure.kind().find(name)].at; };
  const Point chest = (point("neck") + point("left_hip")) * 0.5, thigh = (point("left_hip") + point("left_knee")) * 0.5;
  const auto& subject = body.fields.part(static_cast<std::size_t>(Part::subject));
  QVERIFY(at(subject, chest) > 0.95f && at(subject, thigh) > 0.95f);
  QVERIFY(at(subject, {400, 60}) < 0.05f);
  // Legs are darker than the coat, and the face is lighter than the back of the head.
  QVERIFY(at(body.fields.accent(), thigh) < at(body.fields.accent(), chest) - 0.3f);
  const Point head = (point("left_ear") + point("right_ear")) * 0.5;
  QVERIFY(at(body.fields.accent(), head + Point{9, 0}) > at(body.fields.accent(), head - Point{9, 0}) + 0.3f);
  QVERIFY(at(body.lines, {chest.x, chest.y}) < 0.3f);
  // It takes the body's place and throws a shadow; elsewhere nothing is asked for.
  QVERIFY(at(body.where, chest) > 0.95f);
  QVERIFY(at(body.where, {400, 60}) == 0.0f && at(body.shade, {400, 60}) == 0.0f);
  QVERIFY(at(body.shade, {120, point("left_ankle").y}) > 0.1f);
  // The prompt's own figure goes.
  const std::vector<LoadCurve> loads = {plainLoads()};
  const auto own = withSubject(place, place.subject), picture = assembled(place, std::span(&wanted, 1), loads);
  double before = 0, after = 0;
  for (int y = 0; y < canvas.height; ++y)
    for (int x = 0; x < canvas.width; ++x)
      if (own.fields.part(4)(x, y) > 0.9f && body.where(x, y) <= 0) {
        before += static_cast<double>(own.fields.part(4)(x, y));
        after += static_cast<double>(picture.fields.part(4)(x, y));
      }
  QVERIFY(before > 50 && after < 0.05 * before);
  // From behind there is no face; turned off there is no body; a region takes the guide away.
  standing(180, {320, 180});
  const auto two = wantedByPose(place, figures, plainLoads(), 5);
  const Point back = (figures.figures[1]->points[3].at + figures.figures[1]->points[4].at) * 0.5;
  QVERIFY(at(two.decided->fields.accent(), back) < -0.5f);
  pose::Figure off = figure;
  off.on = false;
  figures.figures = {std::make_shared<const pose::Figure>(off)};
  QVERIFY(!wantedByPose(place, figures, plainLoads(), 5).decided);
  figures.figures = {std::make_shared<const pose::Figure>(figure)};
  GuideInput input;
  input.map = Map(480, 320);
  input.region = Map(480, 320);
  input.work.put(pose::figuresSlot,
                 std::any(std::shared_ptr<const pose::Figures>(std::make_shared<const pose::Figures>(figures))));
  Readings readings;
  const auto limited = wantedBy("pose", {input, place, paletteFrom(Wishes{}, 1), plainLoads(), 1, readings});
  QVERIFY(at(limited.decided->where, chest) < 0.01f);
  QCOMPARE(at(limited.decided->shade, {120, point("left_ankle").y}), 0.0f);
}

void PaintingTest::clothesTakeTheirColour() {
  const auto red = wished("a man in a red coat"), blue = wished("a man in a blue coat");
  const auto subject = static_cast<std::size_t>(Part::subject);
  QVERIFY(red.colours[subject].strength > 0 && blue.colours[subject].strength > 0);
  QVERIFY(std::abs(red.colours[subject].colour.h - blue.colours[subject].colour.h) > 1);
}

void PaintingTest::unknownKindsActOnNothing() {
  const auto place = compose(wished("a field"), 3, canvas);
  GuideInput input;
  input.map = Map(canvas.width, canvas.height);
  Readings readings;
  const auto wanted = wantedBy("smell", {input, place, paletteFrom(Wishes{}, 1), plainLoads(), 1, readings});
  QVERIFY(std::none_of(wanted.acts.begin(), wanted.acts.end(), [](bool acts) { return acts; }) && !wanted.decided);
}

HSCAFFOLD_TEST(PaintingTest)
#include "painting_test.moc"
