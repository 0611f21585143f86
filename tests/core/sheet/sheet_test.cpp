#include <QTest>
#include <nlohmann/json.hpp>
#include <set>

#include "core/brief/differences.h"
#include "core/sheet/reading.h"
#include "core/sheet/sheet.h"
#include "core/sheet/size_trial.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

Recipe recipeWithGuides() {
  Recipe recipe;
  recipe.brief.prompt = "a kite over a dune";
  recipe.brief.seed = 40;
  for (const char* name : {"Kite flyer", "Dune"}) {
    RecipeGuide entry;
    entry.guide.id = name[0] == 'K' ? "g1" : "g2";
    entry.guide.kind = "edges";
    entry.guide.name = name;
    entry.guide.reference = "r1";
    entry.guide.weight = 0.8;
    recipe.guides.push_back(entry);
  }
  recipe.references.push_back({"r1", "dune.png", {}});
  recipe.brief.styles.push_back({"s1", "Salt paper", "watercolour", 0.5});
  return recipeFromJson(recipeToJson(recipe));  // all tuning spelled out
}

SheetPlan strip(std::vector<Axis> axes, std::vector<std::uint32_t> seeds = {40}) {
  return {recipeWithGuides(), std::move(axes), std::move(seeds)};
}

/// Cells measured by a formula of their place.
template <typename Hold, typename Shift>
std::vector<MeasuredCell> measured(const SheetPlan& plan, Hold&& hold, Shift&& shift) {
  std::vector<MeasuredCell> cells;
  for (int cell = 0; cell < plan.cells(); ++cell)
    cells.push_back({cell, hold(placeOf(plan, cell)), shift(placeOf(plan, cell))});
  return cells;
}

}  // namespace

class SheetTest : public QObject {
  Q_OBJECT
 private slots:
  void axesAreReadAndApplied_data();
  void axesAreReadAndApplied();
  void wrongAxesSaySo_data();
  void wrongAxesSaySo();
  void everySettingChangesOneThing();
  void cellsCoverValuesAndSeedsOnce();
  void plansAreBounded();
  void plansSurviveTheirFile();
  void cellsThatComeToTheSameAreFound();
  void smallSizesKeepTheRatio();
  void recipesOfOtherSizesPlaceAlike();
  void differencesNameWhatDiffers();
  void differencesOfLongPromptsShowWhereTheyPart();
  void readingFindsTheKnee();
  void readingOfTwoAxesNamesBoth();
  void readingAdmitsNoise();
  void readingOfFlatStripsAndTooFewCells();
  void aStripOfSeedsSaysHowMuchIsChance();
  void whatCarriesOverFollowsFromOnePair();
  void tradeOffsAreThoseThatNobodyBeats();
};

void SheetTest::axesAreReadAndApplied_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<QString>("name");
  QTest::addColumn<QStringList>("values");
  QTest::newRow("weight") << "weight:Kite flyer=0.2..1/3"
                          << "Kite flyer, weight" << QStringList{"0.20", "0.60", "1.00"};
  QTest::newRow("by id") << "end:g2=20,45,100"
                         << "Dune, range end" << QStringList{"20 %", "45 %", "100 %"};
  QTest::newRow("downwards") << "start:Dune=60..0/3"
                             << "Dune, range start" << QStringList{"60 %", "30 %", "0 %"};
  QTest::newRow("on") << "on:Dune"
                      << "Dune, on or off" << QStringList{"off", "on"};
  QTest::newRow("style") << "style:Salt paper=0..1.5/2"
                         << "Salt paper, strength" << QStringList{"0.00", "1.50"};
  QTest::newRow("avoid") << "avoid=fog, crowd | -"
                         << "avoid" << QStringList{"fog, crowd", "nothing"};
  QTest::newRow("guidance") << "guidance=2..12/3"
                            << "guidance" << QStringList{"2.0", "7.0", "12.0"};
  QTest::newRow("each value once") << "steps=8..9/5"
                                   << "steps" << QStringList{"8", "9"};
  QTest::newRow("prompts") << "prompt=a dune | a harbour at night"
                           << "prompt" << QStringList{"a dune", "a harbour at night"};
}

void SheetTest::axesAreReadAndApplied() {
  QFETCH(QString, text);
  QFETCH(QString, name);
  QFETCH(QStringList, values);
  const Recipe base = recipeWithGuides();
  const Axis axis = axisFromText(text.toStdString(), base);
  QCOMPARE(QString::fromStdString(nameOf(axis, base)), name);
  QStringList got;
  for (std::size_t i = 0; i < axis.count(); ++i) got << QString::fromStdString(valueName(axis, i));
  QCOMPARE(got, values);
  QVERIFY(axisFromJson(axisToJson(axis), "axis") == axis);
}

void SheetTest::wrongAxesSaySo_data() {
  QTest::addColumn<QString>("text");
  for (const char* text :
       {"", "weight", "weight=0..1/3", "weight:Nobody=0..1/3", "weight:Dune=0..9/3", "weight:Dune=abc",
        "weight:Dune=0..1", "weight:Dune=0..1/0", "weight:Dune=0..1/9999", "smell:Dune=0..1/3", "guidance:Dune=1..2/2",
        "change=0..1/3", "prompt=", "steps=0..20/3", "weight:Dune=nan..1/3", "style:Nothing=0..1/2"})
    QTest::newRow(*text != '\0' ? text : "empty") << text;
}

void SheetTest::wrongAxesSaySo() {
  QFETCH(QString, text);
  QVERIFY(
      !fixtures::problemOf([&] { static_cast<void>(axisFromText(text.toStdString(), recipeWithGuides())); }).isEmpty());
}

void SheetTest::everySettingChangesOneThing() {
  Recipe base = recipeWithGuides();
  base.brief.start.from = StartPicture::From::colour;
  base.guides[0].guide.range = {10, 60, 0, 0};
  for (const SettingInfo& info : settingInfos()) {
    Axis axis{info.setting,
              info.of == SettingInfo::Of::guide   ? "g1"
              : info.of == SettingInfo::Of::style ? "s1"
                                                  : "",
              {},
              {}};
    if (isWording(info.setting))
      axis.prompts = {"something else"};
    else
      axis.values = {info.setting == Setting::on ? 0.0 : std::min(info.values.most, info.values.least + 17)};
    if (info.setting == Setting::end) axis.values = {35};
    const Recipe changed = withValue(base, axis, 0);
    const auto all = differences(base, changed);
    // Moving a range moves both of its ends, ramps are two.
    const std::size_t most = info.setting == Setting::place || info.setting == Setting::ramp ? 2 : 1;
    QVERIFY2(!all.empty() && all.size() <= most, info.id);
    if (!isWording(info.setting) && info.setting != Setting::on)
      QCOMPARE(valueIn(changed, axis), axis.values[0]);
  }
  // The range keeps its length while it is moved, and never ends before it begins.
  const Recipe moved = withValue(base, {Setting::place, "g1", {30}, {}}, 0);
  QVERIFY(moved.guides[0].guide.range == (Range{30, 80, 0, 0}));
  const Recipe late = withValue(base, {Setting::start, "g1", {90}, {}}, 0);
  QVERIFY(late.guides[0].guide.range == (Range{90, 90, 0, 0}));
}

void SheetTest::cellsCoverValuesAndSeedsOnce() {
  const SheetPlan plan =
      strip({axisOver(Setting::weight, "g1", 0.2, 1, 5), axisOver(Setting::end, "g2", 20, 100, 3)}, {7, 8});
  QCOMPARE(plan.cells(), 30);
  std::set<std::tuple<double, double, std::uint32_t>> seen;
  for (int cell = 0; cell < plan.cells(); ++cell) {
    QCOMPARE(cellAt(plan, placeOf(plan, cell)), cell);
    const Recipe recipe = recipeOfCell(plan, cell);
    seen.insert({recipe.guides[0].guide.weight, recipe.guides[1].guide.range.to, recipe.brief.seed});
  }
  QCOMPARE(seen.size(), std::size_t{30});
  QCOMPARE(QString::fromStdString(titleOf(plan)), QString("Kite flyer, weight across, Dune, range end down"));
  QCOMPARE(QString::fromStdString(cellName(plan, 16)), QString("weight 0.40, range end 20 %, seed 8"));
}

void SheetTest::plansAreBounded() {
  const auto axis = axisOver(Setting::weight, "g1", 0, 2, 100), other = axisOver(Setting::end, "g1", 0, 100, 100);
  const auto said = fixtures::problemOf([&] { checkPlan(strip({axis, other})); });
  QVERIFY2(said.contains("10000"), qPrintable(said));
  QVERIFY(!fixtures::problemOf([&] { checkPlan(strip({axis, axis})); }).isEmpty());
  QVERIFY(!fixtures::problemOf([&] { checkPlan(strip({axis}, {})); }).isEmpty());
  // One axis turns off what the other changes.
  QVERIFY(!fixtures::problemOf([&] { checkPlan(strip({{Setting::on, "g1", {0, 1}, {}}, axis})); }).isEmpty());
  checkPlan(strip({axis, {Setting::on, "g2", {0, 1}, {}}}));
}

void SheetTest::plansSurviveTheirFile() {
  const SheetPlan plan = strip(
      {axisOver(Setting::weight, "g1", 0.2, 1, 5), {Setting::prompt, "", {}, {"one", "zwölf"}}}, {7, 4294967295u});
  QVERIFY(planFromJson(planToJson(plan), "plan") == plan);
  auto json = planToJson(plan);
  json["axes"][0]["values"][0] = 99;
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(planFromJson(json, "plan")); }).isEmpty());
}

void SheetTest::cellsThatComeToTheSameAreFound() {
  SheetPlan plan = strip({axisOver(Setting::end, "g1", 91, 100, 4)});
  plan.base.brief.steps = 10;
  // Ten steps stand at 5, 15, ... 95 %: the last is beyond 94 %.
  QCOMPARE(repeatedCells(plan), (std::vector<int>{1, 3}));
  QVERIFY(repeatedCells(strip({axisOver(Setting::weight, "g1", 0, 1, 5)})).empty());
}

void SheetTest::smallSizesKeepTheRatio() {
  QCOMPARE(smallSize({768, 512}, 384, 8), (Size{384, 256}));
  QCOMPARE(smallSize({1536, 1024}, 384, 8), (Size{384, 256}));
  QCOMPARE(smallSize({320, 200}, 384, 8), (Size{320, 200}));
  // Of the exact ratio where one is near, else within 1 % of it, near the wish.
  QCOMPARE(smallSize({720, 544}, 512, 8), (Size{520, 392}));  // 512 x 384 is three times as far from the ratio
  QCOMPARE(smallSize({768, 512}, 512, 8), (Size{504, 336}));
  QCOMPARE(smallSize({544, 720}, 512, 8), (Size{392, 520}));
  for (int width = 520; width <= 1600; width += 40)
    for (int height = 520; height <= 1600; height += 56) {
      const Size small = smallSize({width, height}, 512, 8);
      QVERIFY(std::abs(static_cast<double>(small.width) * height / (static_cast<double>(small.height) * width) - 1) <=
              0.01);
      QVERIFY(std::abs(std::max(small.width, small.height) - 512) <= 64);
    }
  for (const Size frame : {Size{832, 1216}, Size{1000, 1000}, Size{1920, 1080}, Size{4096, 72}}) {
    const Size small = smallSize(frame, 384, 8);
    QVERIFY(small.width % 8 == 0 && small.height % 8 == 0);
    QVERIFY(std::max(small.width, small.height) <= 480);
    if (std::min(frame.width, frame.height) < 200) continue;
    QVERIFY(
        std::abs(static_cast<double>(small.width) * frame.height / (static_cast<double>(small.height) * frame.width) -
                 1) < 0.03);
  }
}

void SheetTest::recipesOfOtherSizesPlaceAlike() {
  Recipe recipe = recipeWithGuides();
  Placement& placement = recipe.references[0].placement;
  placement = {.fit = Fit::free, .x = 0.3, .y = 0.6, .scaleX = 1.4, .scaleY = 1.1, .turn = 0};
  const Size reference{500, 400};
  const auto large = frameFromReference(placement, reference, recipe.frame);
  // A smaller proof shows the same: nothing is counted anew, and it comes back without loss.
  const Recipe half = atSize(recipe, {384, 256});
  QCOMPARE(half.frame, (Size{384, 256}));
  QCOMPARE(half.mapsSize(), recipe.frame);
  QVERIFY(half.references == recipe.references && half.guides == recipe.guides);
  QCOMPARE(atSize(half, {192, 128}).mapsSize(), recipe.frame);
  QVERIFY(atSize(half, recipe.frame) == recipe);
  QVERIFY(recipeFromJson(recipeToJson(half)) == half);
  const Recipe twice = atSize(half, {1536, 1024});
  QCOMPARE(twice.mapsSize(), (Size{1536, 1024}));
  const auto huge = frameFromReference(twice.references[0].placement, reference, twice.frame);
  for (const auto& [x, y] : {std::pair{0.0, 0.0}, {500.0, 400.0}, {120.0, 310.0}}) {
    QVERIFY(std::abs(huge.mapX(x, y) - 2 * large.mapX(x, y)) < 1e-6);
    QVERIFY(std::abs(huge.mapY(x, y) - 2 * large.mapY(x, y)) < 1e-6);
  }
}

void SheetTest::differencesNameWhatDiffers() {
  const Recipe first = recipeWithGuides();
  QVERIFY(differences(first, first).empty());
  Recipe second = first;
  second.guides[0].guide.weight = 1.1;
  second.guides[0].guide.range.to = 45;
  second.guides[0].guide.tuning["blur"] = 2.5;
  second.guides.erase(second.guides.begin() + 1);
  second.brief.styles[0].strength = 1.25;
  second.brief.guidance = 6.5001;
  second.frame = {384, 256};
  const std::vector<Difference> wanted = {{"Frame", "768 x 512", "384 x 256"},
                                          {"Kite flyer, weight", "0.80", "1.10"},
                                          {"Kite flyer, range end", "100 %", "45 %"}};
  const auto got = differences(first, second);
  QVERIFY(got.size() >= 7);
  for (std::size_t i = 0; i < wanted.size(); ++i) QVERIFY2(got[i] == wanted[i], got[i].what.c_str());
  const auto named = [&](const std::string& what) {
    return std::find_if(got.begin(), got.end(), [&](const Difference& d) { return d.what == what; });
  };
  QVERIFY(named("Dune") != got.end() && named("Dune")->second == "off");
  QVERIFY(named("Style Salt paper") != got.end());
  // However small, it is seen to differ.
  QVERIFY(named("Guidance") != got.end() && named("Guidance")->first != named("Guidance")->second);
}

void SheetTest::differencesOfLongPromptsShowWhereTheyPart() {
  Recipe first = recipeWithGuides(), second = first;
  first.brief.prompt = std::string(300, 'a') + std::string("\xC3\xBC") + " dune at noon";
  second.brief.prompt = std::string(300, 'a') + std::string("\xC3\xBC") + " dune at dusk";
  const auto got = differences(first, second);
  QCOMPARE(got.size(), std::size_t{1});
  QVERIFY2(got[0].first.find("noon") != std::string::npos && got[0].second.find("dusk") != std::string::npos,
           got[0].first.c_str());
}

void SheetTest::readingFindsTheKnee() {
  // Hold is lost below 45 %; a longer range costs shift.
  const SheetPlan plan = strip({axisOver(Setting::end, "g1", 15, 100, 6)}, {1, 2, 3});
  const auto cells = measured(
      plan, [](const CellPlace& p) { return (p.across < 2 ? 40.0 + 10 * p.across : 92.0) + p.seed; },
      [](const CellPlace& p) { return 70.0 - 8 * p.across; });
  const SheetReading reading = readingOf(plan, cells);
  QVERIFY(reading.advised.has_value());
  QCOMPARE(placeOf(plan, *reading.advised).across, 2);
  QCOMPARE(QString::fromStdString(reading.button), QString("Set range end 49 %"));
  QVERIFY2(reading.sentence.find("down to range end 49 %") != std::string::npos, reading.sentence.c_str());
  QVERIFY(reading.sentence.find("above 90") != std::string::npos);
  QVERIFY(reading.doubt.find("18 proofs") != std::string::npos);
  QVERIFY(reading.evidence.size() >= 6);
}

void SheetTest::readingOfTwoAxesNamesBoth() {
  const SheetPlan plan =
      strip({axisOver(Setting::weight, "g1", 0.3, 1.1, 5), axisOver(Setting::end, "g1", 15, 100, 5)});
  const auto cells = measured(
      plan, [](const CellPlace& p) { return std::min(94.0, 20.0 + 14 * p.across + 14 * p.down); },
      [](const CellPlace& p) { return 90.0 - 6 * p.across - 4 * p.down; });
  const SheetReading reading = readingOf(plan, cells);
  QVERIFY(reading.advised.has_value());
  const CellPlace place = placeOf(plan, *reading.advised);
  QVERIFY(place.across + place.down == 5);
  QVERIFY(reading.button.find("weight") != std::string::npos && reading.button.find("range end") != std::string::npos);
  QVERIFY(reading.doubt.find("One seed only") != std::string::npos);
}

void SheetTest::readingAdmitsNoise() {
  const SheetPlan plan = strip({axisOver(Setting::weight, "g1", 0.3, 1.1, 4)}, {1, 2});
  const auto cells = measured(
      plan, [](const CellPlace& p) { return 60.0 + 3 * p.across + (p.seed == 0 ? -20 : 20); },
      [](const CellPlace&) { return 50.0; });
  const SheetReading reading = readingOf(plan, cells);
  QVERIFY(!reading.advised.has_value());
  QVERIFY(reading.button.empty());
  QVERIFY2(reading.sentence.find("seeds alone") != std::string::npos, reading.sentence.c_str());
}

void SheetTest::readingOfFlatStripsAndTooFewCells() {
  const SheetPlan plan = strip({axisOver(Setting::guidance, "", 2, 12, 6)});
  auto cells = measured(
      plan, [](const CellPlace&) { return 88.0; }, [](const CellPlace& p) { return 30.0 + p.across; });
  const SheetReading flat = readingOf(plan, cells);
  QVERIFY(flat.advised.has_value() && placeOf(plan, *flat.advised).across == 5);
  QVERIFY(flat.sentence.find("stays between 88 and 88") != std::string::npos);
  cells.resize(2);
  QVERIFY(!readingOf(plan, cells).advised.has_value());
  QVERIFY(!readingOf(plan, {}).sentence.empty());
  const SheetPlan seeds = strip({}, {1, 2, 3, 4});
  const SheetReading chance = readingOf(
      seeds, measured(
                 seeds, [](const CellPlace& p) { return 50.0 + p.seed; }, [](const CellPlace&) { return 1.0; }));
  QVERIFY(!chance.advised.has_value() && chance.sentence.find("chance") != std::string::npos);
}

void SheetTest::aStripOfSeedsSaysHowMuchIsChance() {
  // Holds of 40, 50 and 60: a standard deviation of 10, so that single proofs say nothing below 28 points.
  const auto hold = [](const CellPlace& p) { return 40.0 + 10 * (p.seed + p.across); };
  const auto shift = [](const CellPlace&) { return 30.0; };
  const SheetPlan seeds = strip({}, {1, 2, 3}), axis = strip({axisOver(Setting::seed, "", 1, 3, 3)});
  for (const SheetPlan* plan : {&seeds, &axis}) {
    const auto cells = measured(*plan, hold, shift);
    QVERIFY(spreadOf(cells).has_value() && std::abs(*spreadOf(cells) - 10) < 1e-9);
    const SheetReading reading = readingOf(*plan, cells);
    QVERIFY2(reading.sentence.find("50 give or take 10 (40 to 60)") != std::string::npos, reading.sentence.c_str());
    QVERIFY2(reading.doubt.find("below 28") != std::string::npos && reading.doubt.find("below 16") != std::string::npos,
             reading.doubt.c_str());
    QVERIFY(!reading.advised.has_value());
  }
  QVERIFY(!spreadOf({{0, 40, 1}, {1, 60, 1}}).has_value());
  // What is known of chance is taken into account by a strip of one seed: of holds 70 and 90, one is not better.
  const SheetPlan plan = strip({axisOver(Setting::weight, "g1", 0.2, 1, 3)});
  const auto cells = measured(
      plan, [](const CellPlace& p) { return 70.0 + 10 * p.across; }, shift);
  QVERIFY(readingOf(plan, cells).doubt.find("not known") != std::string::npos);
  const SheetReading informed = readingOf(plan, cells, KnownChance{10, "Sheet 4"});
  QVERIFY2(informed.sentence.find("seeds alone") != std::string::npos, informed.sentence.c_str());
  QVERIFY2(informed.doubt.find("in Sheet 4 seeds differ by 10") != std::string::npos, informed.doubt.c_str());
  QVERIFY(!informed.advised.has_value());
}

void SheetTest::whatCarriesOverFollowsFromOnePair() {
  const SizeTrial same{0.98, 71, 75, 40, 38}, other{0.4, 71, 75, 40, 38}, none{0.98, 71, 40, 40, 38};
  QVERIFY(carriesOver(same) == CarriesOver::all);
  QVERIFY(carriesOver(other) == CarriesOver::measures);
  QVERIFY(carriesOver(none) == CarriesOver::nothing);
  QVERIFY(carriesOver({0.98, -1, -1, 40, 60}) == CarriesOver::nothing);
  QVERIFY(carriesOver({0.98, -1, -1, -1, -1}) == CarriesOver::all);
  QVERIFY(sentenceOf(same).find("hold 71 small and 75 large") != std::string::npos);
  QVERIFY(sentenceOf({0.98, -1, -1, -1, -1}).find("hold") == std::string::npos);
  // The same picture at two sizes, its mirror image, and one without any tone.
  const auto drawn = [](Size size, bool mirrored) {
    Image<Rgb8> picture(size);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) {
        const double u = (x + 0.5) / size.width, v = (y + 0.5) / size.height;
        const auto level =
            static_cast<std::uint8_t>(255 * std::clamp(0.7 * (mirrored ? 1 - u : u) + 0.3 * v * v, 0.0, 1.0));
        picture(x, y) = {level, level, level};
      }
    return picture;
  };
  const auto small = drawn({192, 128}, false), large = drawn({768, 512}, false), turned = drawn({768, 512}, true);
  QVERIFY(toneAlike(small, large) > 0.99);
  QVERIFY(toneAlike(small, turned) < 0);
  QCOMPARE(toneAlike(small, Image<Rgb8>(Size{768, 512})), 0.0);
}

void SheetTest::tradeOffsAreThoseThatNobodyBeats() {
  const std::vector<MeasuredCell> cells = {{0, 95, 20}, {1, 80, 50}, {2, 70, 45},
                                           {3, 40, 80}, {4, 30, 80}, {5, 95, 10}};
  QCOMPARE(bestTradeOffs(cells), (std::vector<int>{0, 1, 3}));
}

HSCAFFOLD_TEST(SheetTest)
#include "sheet_test.moc"
