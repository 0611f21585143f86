// The light table: what is painted on it, how it follows, and what it makes of a tone.
#include <QTest>
#include <cmath>

#include "core/guide_map.h"
#include "core/image/narrow.h"
#include "core/kinds.h"
#include "core/retouch/painter.h"
#include "core/tone/light_table.h"
#include "core/tone/tone.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::light;

namespace {

constexpr Size canvas{120, 80};

Lit even(float value = 0.5f, Size size = canvas) { return {Image<float>(size.width, size.height, value), {}, {}}; }

Light lightOf(Light::Form form, std::vector<Point> spots, double light = 0.6) {
  Light out;
  out.form = form;
  out.spots = std::move(spots);
  out.light = light;
  return out;
}

Light brushed(std::vector<light::Stroke> strokes, double light = 0.8) {
  Light out;
  out.strokes = std::move(strokes);
  out.light = light;
  return out;
}

LightTable tableOf(std::vector<Light> lights, Size frame = canvas) {
  LightTable out;
  out.frame = frame;
  out.lights = std::move(lights);
  return out;
}

Lit laid(const LightTable& table, Lit under = even(), const Relief* relief = nullptr) {
  layLights(under, table, relief);
  return under;
}

/// A slope that comes nearer to the right.
Relief slope() {
  Relief out{canvas, {}, "slope", Image<float>(60, 40)};
  for (int y = 0; y < 40; ++y)
    for (int x = 0; x < 60; ++x) out.near(x, y) = static_cast<float>(x) / 59;
  return out;
}

/// Everything that a table can have.
LightTable fullTable() {
  LightTable out =
      tableOf({brushed({{{{10, 10}, {40, 30}}, 20, 0.3, 0.6, false}, {{{20, 20}}, 8, 1, 1, true}}, -0.7),
               lightOf(Light::Form::straight, {{0, 0}, {0, 80}}), lightOf(Light::Form::round, {{60, 40}, {80, 40}}),
               lightOf(Light::Form::rays, {{110, 5}, {20, 70}}),
               lightOf(Light::Form::flat, {{10, 10}, {60, 12}, {30, 60}}, -0.2)});
  out.placing = Affine{0.5, 0, 3, 0, 0.5, 4};
  out.lights[0].name = "Under the roof";
  out.lights[1].hue = Hue{0.1, 70};
  out.lights[1].endHue = Hue{0.08, 250};
  out.lights[1].endLight = -0.5;
  out.lights[2].hidden = true;
  out.lights[2].opacity = 0.25;
  out.lights[3].count = 9;
  out.lights[3].spread = 44;
  out.lights[3].aside = true;
  out.lights[3].nearest = 0.5;
  out.lights[4].softness = 0.1;
  out.tint = 0.4;
  out.inLight = {0.12, 50};
  out.inShadow = {0.02, 200};
  out.relight = 0.3;
  out.from = 12;
  out.height = 33;
  return out;
}

}  // namespace

class LightTableTest : public QObject {
  Q_OBJECT
 private slots:
  void comesBackAsItWasWritten();
  void whatIsWrongIsRefused_data();
  void whatIsWrongIsRefused();
  void followsItsReference();
  void fallsEvenlyFromEndToEnd();
  void lampsAreRoundAndSoft();
  void raysAreCountedAndPassBehind();
  void raysFromASideRunSideBySide();
  void brushesAreAsSoftAsTheySay();
  void whatIsTakenAwayIsGone();
  void areasLieInTheirOutline();
  void shadowDarkensAndLightLightens();
  void orderOpacityAndHidingCount();
  void coloursMixWhereTheyLie();
  void lightIsWarmAndShadowCool();
  void slopesAreLitFromWhereTheLightIs();
  void drawsTheSameAtEverySize();
  void hoursKeepWhatWasPainted();
  void tonesStandOnTheTableAlone();
  void coloursFollowRetouch();
  void reliefsAreTakenFromMaps();
  void keptCoversChangeNothing();
  void stopsWhenTold();
};

void LightTableTest::comesBackAsItWasWritten() {
  const LightTable table = fullTable();
  const auto& form = lightForm();
  const std::string text = form.write(std::any(std::make_shared<const LightTable>(table)));
  const auto again = std::any_cast<std::shared_ptr<const LightTable>>(form.read(text));
  QVERIFY(*again == table);
  QVERIFY(again->placing && again->placing->f == 4);
  QCOMPARE(form.write(std::any(again)), text);
}

void LightTableTest::whatIsWrongIsRefused_data() {
  QTest::addColumn<QString>("lights");
  QTest::addColumn<QString>("names");
  QTest::addRow("form") << R"({"form": "moonbeam", "light": 0})"
                        << "moonbeam";
  QTest::addRow("no place") << R"({"form": "round", "light": 0.5, "spots": [1, 2]})"
                            << "too few";
  QTest::addRow("half a place") << R"({"form": "round", "light": 0.5, "spots": [1, 2, 3]})"
                                << "pairs";
  QTest::addRow("too light") << R"({"form": "straight", "light": 1.5, "spots": [1, 2, 3, 4]})"
                             << "light";
  QTest::addRow("nowhere") << R"({"form": "straight", "light": 1, "spots": [1, 2, 3e9, 4]})"
                           << "far outside";
  QTest::addRow("hue") << R"({"form": "straight", "light": 1, "spots": [1, 2, 3, 4], "hue": {"chroma": 2, "angle": 0}})"
                       << "chroma";
  QTest::addRow("rays") << R"({"form": "rays", "light": 1, "spots": [1, 2, 3, 4], "count": 9000})"
                        << "count";
  QTest::addRow("unknown") << R"({"form": "flat", "light": 1, "spots": [1, 2, 3, 4, 5, 6], "glitter": 1})"
                           << "glitter";
  QTest::addRow("stroke") << R"({"form": "brush", "light": 1, "strokes": [{"spots": [], "width": 4}]})"
                          << "no place";
}
void LightTableTest::whatIsWrongIsRefused() {
  QFETCH(QString, lights);
  QFETCH(QString, names);
  const std::string text = R"({"width": 100, "height": 100, "lights": [)" + lights.toStdString() + "]}";
  const QString said = fixtures::problemOf([&] { tableFromText(text, "night.json"); });
  QVERIFY2(said.contains(names) && said.contains("night.json"), qPrintable(said));
}

void LightTableTest::followsItsReference() {
  const LightTable table = fullTable();
  QVERIFY(following(table, canvas, table.placing) == table);
  // Twice the frame with the reference twice as large: everything twice as far.
  const LightTable twice = following(table, {240, 160}, Affine{1, 0, 6, 0, 1, 8});
  QCOMPARE(twice.lights[2].spots[0], (Point{120, 80}));
  QCOMPARE(twice.lights[0].strokes[0].width, 40.0);
  QCOMPARE(twice.lights[0].strokes[0].spots[1], (Point{80, 60}));
}

void LightTableTest::fallsEvenlyFromEndToEnd() {
  Light fall = lightOf(Light::Form::straight, {{20, 0}, {100, 0}}, 1);
  fall.endLight = -1;
  const Lit lit = laid(tableOf({fall}));
  QCOMPARE(lit.light(5, 40), 1.0f);
  QCOMPARE(lit.light(115, 40), 0.0f);
  QVERIFY(std::abs(lit.light(60, 40) - 0.5f) < 0.03f);
  for (int x = 1; x < canvas.width; ++x) QVERIFY(lit.light(x, 7) <= lit.light(x - 1, 7));
  QVERIFY(lit.a.empty());
}

void LightTableTest::lampsAreRoundAndSoft() {
  Light lamp = lightOf(Light::Form::round, {{60, 40}, {80, 40}});
  for (const double softness : {0.0, 1.0}) {
    lamp.softness = softness;
    const auto cover = coverOf(lamp, canvas, nullptr);
    QVERIFY(cover(60, 40) > 0.98f);
    QCOMPARE(cover(85, 40), 0.0f);
    QCOMPARE(cover(60, 68), 0.0f);
    // At three quarters of the radius a hard lamp is whole, a soft one nearly gone.
    const float there = cover(60, 55);
    QVERIFY(softness > 0 ? there > 0.05f && there < 0.4f : there == 1);
    QVERIFY(std::abs(cover(75, 40) - cover(60, 55)) < 0.03f);
  }
}

void LightTableTest::raysAreCountedAndPassBehind() {
  Light rays = lightOf(Light::Form::rays, {{0, 40}, {100, 40}});
  rays.softness = 0;
  rays.spread = 60;
  const auto countAt = [&](const Image<float>& cover) {
    int count = 0;
    bool in = false;
    for (int y = 0; y < canvas.height; ++y) {
      const bool now = cover(60, y) > 0.2f;
      count += now && !in ? 1 : 0;
      in = now;
    }
    return count;
  };
  for (const int count : {1, 3, 7}) {
    rays.count = count;
    QCOMPARE(countAt(coverOf(rays, canvas, nullptr)), count);
  }
  // What is nearer than half hides them: the right half of the slope.
  rays.nearest = 0.5;
  const Relief relief = slope();
  const auto behind = coverOf(rays, canvas, &relief), free = coverOf(rays, canvas, nullptr);
  QCOMPARE(behind(90, 40), 0.0f);
  QVERIFY(free(90, 40) > 0.3f);
  QVERIFY(behind(30, 40) == free(30, 40) && behind(30, 40) > 0.3f);
}

void LightTableTest::raysFromASideRunSideBySide() {
  Light rays = lightOf(Light::Form::rays, {{10, 40}, {110, 40}});
  rays.aside = true;
  rays.count = 4;
  rays.spread = 50;  // percent of 120
  rays.softness = 0;
  const auto cover = coverOf(rays, canvas, nullptr);
  QCOMPARE(cover(5, 40), 0.0f);  // behind where they come from
  for (int y = 0; y < canvas.height; ++y) QCOMPARE(cover(30, y) > 0.2f, cover(100, y) > 0.2f);
  QCOMPARE(cover(60, 5), 0.0f);
}

void LightTableTest::brushesAreAsSoftAsTheySay() {
  Image<float> hard(canvas), soft(canvas);
  paintStroke(hard.view(), {{{20, 40}, {60, 40}, {100, 40}}, 30, 0, 0.5, false});
  paintStroke(soft.view(), {{{20, 40}, {100, 40}}, 30, 1, 0.5, false});
  QCOMPARE(hard(60, 40), 0.5f);
  QCOMPARE(hard(60, 52), 0.5f);
  QCOMPARE(hard(60, 57), 0.0f);
  QVERIFY(soft(60, 40) > 0.49f && soft(60, 52) < 0.1f && soft(60, 52) > 0 && soft(60, 57) == 0);
  QCOMPARE(hard(2, 40), 0.0f);
  // Twice over covers three quarters.
  paintStroke(hard.view(), {{{20, 40}, {100, 40}}, 30, 0, 0.5, false});
  QCOMPARE(hard(60, 40), 0.75f);
  // Outside of the frame nothing happens, and nothing falls.
  paintStroke(hard.view(), {{{-500, -500}, {-400, 900}}, 30, 0, 1, false});
  QCOMPARE(hard(0, 0), 0.0f);
}

void LightTableTest::whatIsTakenAwayIsGone() {
  const auto cover =
      coverOf(brushed({{{{20, 40}, {100, 40}}, 30, 0, 1, false}, {{{60, 40}}, 20, 0, 1, true}}), canvas, nullptr);
  QCOMPARE(cover(60, 40), 0.0f);
  QCOMPARE(cover(30, 40), 1.0f);
}

void LightTableTest::areasLieInTheirOutline() {
  Light area = lightOf(Light::Form::flat, {{20, 20}, {100, 20}, {100, 60}, {20, 60}});
  area.softness = 0;
  const auto hard = coverOf(area, canvas, nullptr);
  QVERIFY(hard(21, 21) == 1 && hard(19, 30) == 0 && hard(60, 61) == 0);
  area.softness = 1;
  const auto soft = coverOf(area, canvas, nullptr);
  QVERIFY(soft(19, 40) > 0.2f && soft(19, 40) < 0.8f && soft(60, 40) > 0.95f);
}

void LightTableTest::shadowDarkensAndLightLightens() {
  for (const double light : {-1.0, -0.5, 0.5, 1.0}) {
    Light lamp = lightOf(Light::Form::round, {{60, 40}, {80, 40}}, light);
    lamp.softness = 0;
    const Lit lit = laid(tableOf({lamp}), even(0.4f));
    const double wanted = light < 0 ? 0.4 * (1 + light) : 0.4 + 0.6 * light;
    QVERIFY(std::abs(static_cast<double>(lit.light(60, 40)) - wanted) < 1e-5);
    QCOMPARE(lit.light(5, 5), 0.4f);
  }
}

void LightTableTest::orderOpacityAndHidingCount() {
  Light bright = lightOf(Light::Form::flat, {{0, 0}, {120, 0}, {120, 80}, {0, 80}}, 1), dark = bright;
  bright.softness = dark.softness = 0;
  dark.light = -1;
  QCOMPARE(laid(tableOf({bright, dark})).light(60, 40), 0.0f);
  QCOMPARE(laid(tableOf({dark, bright})).light(60, 40), 1.0f);
  dark.hidden = true;
  QCOMPARE(laid(tableOf({bright, dark})).light(60, 40), 1.0f);
  dark.hidden = false;
  dark.opacity = 0.25;
  QCOMPARE(laid(tableOf({bright, dark})).light(60, 40), 0.75f);
}

void LightTableTest::coloursMixWhereTheyLie() {
  Light area = lightOf(Light::Form::flat, {{0, 0}, {60, 0}, {60, 80}, {0, 80}}, 0);
  area.softness = 0;
  area.hue = Hue{0.1, 0};
  const Lit lit = laid(tableOf({area}));
  QCOMPARE(lit.light(20, 40), 0.5f);
  QVERIFY(std::abs(lit.a(20, 40) - 0.1f) < 1e-6f && lit.a(100, 40) == 0);
  // Half of another over it.
  Light other = area;
  other.hue = Hue{0.1, 180};
  other.opacity = 0.5;
  QVERIFY(std::abs(laid(tableOf({area, other})).a(20, 40)) < 1e-6f);
  // A gradient with a colour at one end only leaves the other as it was.
  Light fall = lightOf(Light::Form::straight, {{0, 0}, {120, 0}}, 0);
  fall.endHue = Hue{0.1, 90};
  const Lit faded = laid(tableOf({fall}));
  QVERIFY(faded.b(1, 40) < 0.01f && faded.b(118, 40) > 0.09f);
}

void LightTableTest::lightIsWarmAndShadowCool() {
  LightTable table = tableOf({});
  table.tint = 1;
  Lit ramp = even();
  for (int y = 0; y < canvas.height; ++y)
    for (int x = 0; x < canvas.width; ++x) ramp.light(x, y) = static_cast<float>(x) / 119;
  const Lit lit = laid(table, ramp.clone());
  const auto picture = coloured(lit.light, lit.a, lit.b);
  QVERIFY(picture(100, 10).r > picture(100, 10).b + 15);
  QVERIFY(picture(20, 10).b > picture(20, 10).r + 15);
  // Lightness is what it was.
  for (const int x : {20, 60, 100}) {
    const Rgb8 c = picture(x, 10);
    const OkLab seen =
        linearToOkLab({srgbToLinear(c.r / 255.0f), srgbToLinear(c.g / 255.0f), srgbToLinear(c.b / 255.0f)});
    QVERIFY(std::abs(seen.l - std::cbrt(srgbToLinear(lit.light(x, 10)))) < 0.02f);
  }
}

void LightTableTest::slopesAreLitFromWhereTheLightIs() {
  const Relief relief = slope();
  LightTable table = tableOf({});
  table.relight = 1;
  table.height = 30;
  const auto at = [&](double from) {
    table.from = from;
    return laid(table, even(), &relief).light(60, 40);
  };
  // It rises to the right: it faces left.
  QVERIFY(at(180) > 0.55f && at(0) < 0.45f);
  QVERIFY(std::abs(at(90) - at(-90)) < 0.01f);
  // Without a relief nothing is known of slopes.
  table.from = 180;
  QCOMPARE(laid(table).light(60, 40), 0.5f);
}

void LightTableTest::drawsTheSameAtEverySize() {
  const LightTable table = fullTable();
  const LightTable large = following(table, {480, 320}, Affine{2, 0, 12, 0, 2, 16});
  const Lit small = laid(table), big = laid(large, even(0.5f, {480, 320}));
  double sum = 0;
  for (int y = 0; y < canvas.height; ++y)
    for (int x = 0; x < canvas.width; ++x) {
      float mean = 0;
      for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i) mean += big.light(4 * x + i, 4 * y + j) / 16;
      sum += std::pow(static_cast<double>(mean - small.light(x, y)), 2);
    }
  const double difference = std::sqrt(sum / static_cast<double>(canvas.area()));
  QVERIFY2(difference < 0.012, qPrintable(QString::number(difference)));
}

void LightTableTest::hoursKeepWhatWasPainted() {
  QVERIFY(hours().size() >= 5);
  const GuidePlace place{canvas, {}};
  LightTable before =
      tableOf({brushed({{{{20, 40}}, 30, 0, 1, false}}), lightOf(Light::Form::round, {{1, 1}, {9, 9}})});
  std::set<std::string> names;
  for (const Hour& hour : hours()) {
    QVERIFY(names.insert(hour.name).second);
    const LightTable after = atHour(hour, before, place);
    QCOMPARE(after.frame, canvas);
    QVERIFY(after.lights.back().strokes == before.lights[0].strokes);
    for (const Light& each : after.lights)
      QVERIFY(each.form != Light::Form::round || each.spots != before.lights[1].spots);
    Lit lit = laid(after);
    QVERIFY(!lit.a.empty());
    // One hour after the other leaves only the last.
    QCOMPARE(atHour(hour, after, place).lights.size(), after.lights.size());
  }
}

namespace {

GuideMap toneMap(const Guide& guide, WorkStore& store, View<Rgb> picture) {
  ExtractionCache cache;
  const GuidePlace place{picture.empty() ? canvas : picture.size(), {}};
  return makeGuideMap(guide, picture, place, takenWork(guide, store), cache);
}

}  // namespace

void LightTableTest::tonesStandOnTheTableAlone() {
  WorkStore store;
  Guide guide;
  guide.kind = "tone";
  const Kind& kind = kindOf("tone");
  QVERIFY(standsAlone(guide) && !kind.needsPicture());
  const auto checksOf = [&](const GuideMap& map) {
    ExtractionCache cache;
    return kind.check(guide, factsOf(kind, map.input, map.details, cache), {});
  };
  const auto bare = toneMap(guide, store, {});
  QCOMPARE(bare.input.map(60, 40), std::uint16_t{32768});
  QVERIFY(bare.input.colour.empty());
  QCOMPARE(checksOf(bare).size(), std::size_t{1});
  guide.work.put(lightSlot, store.keep(lightForm(), fullTable()));
  const auto lit = toneMap(guide, store, {});
  QVERIFY(checksOf(lit).empty());
  QCOMPARE(lit.input.colour.size(), canvas);
  // The map is what the table makes of middle grey.
  const Lit wanted = laid(following(fullTable(), canvas, {}));
  QVERIFY(std::abs(lit.input.map(30, 20) / 65535.0f - wanted.light(30, 20)) < 0.001f);
  // Over a reference, with its colours: they are kept where nothing is painted.
  const auto& scene = fixtures::scene(1);
  Guide plain = guide;
  plain.work = {};
  plain.tuning["colours"] = 1.0;
  const auto coloured = toneMap(plain, store, scene.view());
  QCOMPARE(coloured.input.colour.size(), scene.size());
  plain.tuning.clear();
  QVERIFY(toneMap(plain, store, scene.view()).input.colour.empty());
}

void LightTableTest::coloursFollowRetouch() {
  WorkStore store;
  Guide guide;
  guide.kind = "tone";
  guide.work.put(lightSlot, store.keep(lightForm(), fullTable()));
  const auto before = toneMap(guide, store, {});
  BrushStroke stroke({canvas, {}, {}}, {PaintMode::draw, 24, 1, 1, 1}, before.below);
  stroke.to({60, 40});
  guide.work.put(retouchSlot, store.keep(stroke.layer()));
  const auto after = toneMap(guide, store, {});
  QCOMPARE(after.input.map(60, 40), std::uint16_t{65535});
  const auto brightest = [](Rgb8 c) { return std::max({c.r, c.g, c.b}); };
  QVERIFY(brightest(after.input.colour(60, 40)) > 250);
  QVERIFY(after.input.colour(5, 5) == before.input.colour(5, 5));
}

void LightTableTest::reliefsAreTakenFromMaps() {
  Map near(600, 400);
  for (int y = 0; y < 400; ++y)
    for (int x = 0; x < 600; ++x) near(x, y) = static_cast<std::uint16_t>(x * 109);
  const auto relief = std::make_shared<const Relief>(reliefFrom(near, {{600, 400}, Affine{}}, "Depth of the stair"));
  QVERIFY(std::max(relief->near.width(), relief->near.height()) <= Relief::mostSide);
  const auto& form = reliefForm();
  const auto again = std::any_cast<std::shared_ptr<const Relief>>(form.read(form.write(std::any(relief))));
  QVERIFY(again->near == relief->near && again->by == relief->by);
  QVERIFY(std::abs(nearAt(again->near, 128, 80) - 0.5f) < 0.01f);
}

void LightTableTest::keptCoversChangeNothing() {
  LightTable table = fullTable();
  const auto relief = std::make_shared<const Relief>(slope());
  KeptCovers kept;
  const auto same = [&] {
    Lit one = even(), other = even();
    layLights(one, table, relief.get());
    layLights(other, table, relief.get(), {}, &kept, relief);
    return one.light == other.light && one.a == other.a && one.b == other.b;
  };
  QVERIFY(same());
  QVERIFY(same());
  // A stroke more, one that is another, one less; a light that moved; another order.
  table.lights[0].strokes.push_back({{{70, 20}, {90, 60}}, 14, 0.5, 0.7, false});
  QVERIFY(same());
  table.lights[0].strokes.back().spots.push_back({100, 70});
  QVERIFY(same());
  table.lights[0].strokes.pop_back();
  QVERIFY(same());
  table.lights[3].spots[1].x += 9;
  QVERIFY(same());
  std::swap(table.lights[0], table.lights[4]);
  QVERIFY(same());
  // Another frame and another relief.
  Lit large = even(0.5f, {60, 40}), plain = even(0.5f, {60, 40});
  layLights(large, table, nullptr, {}, &kept, {});
  layLights(plain, table, nullptr);
  QVERIFY(large.light == plain.light);
}

void LightTableTest::stopsWhenTold() {
  std::stop_source stop;
  stop.request_stop();
  Lit lit = even();
  QVERIFY_EXCEPTION_THROWN(layLights(lit, fullTable(), nullptr, stop.get_token()), Cancelled);
}

HSCAFFOLD_TEST(LightTableTest)
#include "light_table_test.moc"
