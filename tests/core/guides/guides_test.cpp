#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numeric>
#include <random>

#include "core/guides/guide.h"
#include "core/guides/json_fields.h"
#include "core/kinds.h"
#include "core/measure/agreement.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class GuidesTest : public QObject {
  Q_OBJECT
 private slots:
  void rampsRiseAndFall();
  void overlappingRampsShareTheRange();
  void loadCountsOnlyGuidesThatAreOn();
  void narrowRangesMayCoverNoStep();
  void keepTotalKeepsTheTotal();
  void keepTotalLeavesHeldOnesAndKeepsLimits();
  void drownedGuidesAreTold();
  void shapesAreValidRanges();
  void tuningRoundTripsThroughJson();
  void wrongTuningIsNamed_data();
  void wrongTuningIsNamed();
  void textsAreTunedToo();
  void kindsMayStandOnSettingsAlone();
  void cachedExtractionIsTheSame();
  void toneIsSmoothAndFollowsLight();
  void digestsTellMapsApart();
};

void GuidesTest::rampsRiseAndFall() {
  const Range r{20, 80, 20, 10};
  QCOMPARE(rampAt(r, 19.9), 0.0);
  QCOMPARE(rampAt(r, 30), 0.5);
  QCOMPARE(rampAt(r, 50), 1.0);
  QVERIFY(std::abs(rampAt(r, 75) - 0.5) < 1e-9);
  QCOMPARE(rampAt(r, 80.1), 0.0);
  QCOMPARE(rampAt({0, 100, 0, 0}, 0), 1.0);
}

void GuidesTest::overlappingRampsShareTheRange() {
  const Range r{0, 40, 60, 20};
  double most = 0;
  for (double p = 0; p <= 40; p += 0.5) most = std::max(most, rampAt(r, p));
  QVERIFY(most > 0.97 && most <= 1);
  QVERIFY(std::abs(rampAt(r, 30) - 1) < 1e-9);  // they meet at three quarters of the range
}

void GuidesTest::loadCountsOnlyGuidesThatAreOn() {
  std::vector<Guide> guides(2);
  guides[0].weight = 0.8;
  guides[0].range = {0, 50, 0, 0};
  guides[1].weight = 0.5;
  auto load = totalLoad(guides, 10);
  QCOMPARE(load[0], 1.3);
  QCOMPARE(load[9], 0.5);
  guides[1].on = false;
  load = totalLoad(guides, 10);
  QCOMPARE(load[9], 0.0);
}

void GuidesTest::narrowRangesMayCoverNoStep() {
  QCOMPARE(stepsCovered({0, 100, 0, 0}, 20), 20);
  QCOMPARE(stepsCovered({51, 52, 0, 0}, 20), 0);
  QCOMPARE(stepsCovered({50, 55, 0, 0}, 20), 1);
}

void GuidesTest::keepTotalKeepsTheTotal() {
  std::vector<Guide> guides(3);
  guides[0].weight = 0.9;
  guides[1].weight = 0.6;
  guides[1].range = {0, 50, 10, 10};
  guides[2].weight = 0.3;
  guides[2].on = false;
  const auto total = [&] {
    const auto load = totalLoad(guides, 1000);
    return std::accumulate(load.begin(), load.end(), 0.0) / 1000;
  };
  const double before = total();
  setWeightKeepingTotal(guides, 0, 0.7);
  QVERIFY(std::abs(total() - before) < 2e-3);
  QCOMPARE(guides[0].weight, 0.7);
  QVERIFY(guides[1].weight > 0.6);
  QCOMPARE(guides[2].weight, 0.3);
  setWeightKeepingTotal(guides, 0, 2);  // more than the others can give
  QCOMPARE(guides[1].weight, 0.0);
}

void GuidesTest::keepTotalLeavesHeldOnesAndKeepsLimits() {
  std::mt19937 dice(7);
  std::uniform_real_distribution<double> share(0, 1);
  for (int round = 0; round < 300; ++round) {
    std::vector<Guide> guides(4);
    for (std::size_t i = 0; i < guides.size(); ++i) {
      guides[i].id = std::to_string(i);
      guides[i].weight = 2 * share(dice);
      guides[i].range.from = 50 * share(dice);
      guides[i].range.to = guides[i].range.from + 10 + 40 * share(dice);
    }
    const auto total = [&] {
      double sum = 0;
      for (const Guide& guide : guides) sum += guide.weight * (guide.range.to - guide.range.from);
      return sum / 100;
    };
    const double before = total(), held = guides[2].weight;
    setWeightKeepingTotal(guides, 0, 2 * share(dice), {"2"});
    QCOMPARE(guides[2].weight, held);
    bool room = false;
    for (const Guide& guide : guides) QVERIFY(guide.weight >= 0 && guide.weight <= limits::weight.most);
    // Where the others have room to give or to take, the total is what it was.
    for (const std::size_t i : {std::size_t{1}, std::size_t{3}})
      room = room || (guides[i].weight > 0 && guides[i].weight < limits::weight.most);
    if (room) QVERIFY2(std::abs(total() - before) < 0.001, qPrintable(QString::number(total() - before)));
  }
}

void GuidesTest::drownedGuidesAreTold() {
  std::vector<Guide> guides(3);
  guides[0].weight = 1.2;
  guides[1].weight = 0.6;
  guides[1].range = {0, 50, 0, 0};
  guides[2].weight = 0.2;
  guides[2].range = {0, 40, 0, 0};
  QVERIFY(isDrowned(guides, 2, 20, 1.5));
  QVERIFY(!isDrowned(guides, 0, 20, 1.5));
  guides[2].range.to = 80;  // past the others' end it has room
  QVERIFY(!isDrowned(guides, 2, 20, 1.5));
  guides[2].range.to = 40;
  QVERIFY(!isDrowned(guides, 2, 20, 2.5));
  guides[2].on = false;
  QVERIFY(!isDrowned(guides, 2, 20, 1.5));
}

void GuidesTest::shapesAreValidRanges() {
  QVERIFY(rangeShapes().size() >= 4);
  for (const RangeShape& shape : rangeShapes()) {
    QCOMPARE(rangeFromJson(rangeToJson(shape.range), "shape"), shape.range);
    QVERIFY(stepsCovered(shape.range, 20) > 0);
  }
}

void GuidesTest::tuningRoundTripsThroughJson() {
  for (const Kind& kind : kinds()) {
    Tuning tuning;
    for (const TuningField& field : *kind.fields)
      tuning[field.id] = field.text              ? TuningValue(std::string("a wind from the sea"))
                         : field.choices.empty() ? TuningValue((field.minimum + field.maximum) / 2)
                                                 : TuningValue(static_cast<double>(field.choices.size() - 1));
    QCOMPARE(tuningFromJson(*kind.fields, tuningToJson(*kind.fields, tuning), "here"), tuning);
  }
}

void GuidesTest::wrongTuningIsNamed_data() {
  QTest::addColumn<QString>("json");
  QTest::addColumn<QString>("named");
  QTest::addRow("unknown") << R"({"blurr": 2})"
                           << "blurr";
  QTest::addRow("range") << R"({"blur": 99})"
                         << "blur";
  QTest::addRow("type") << R"({"blur": "much"})"
                        << "blur";
  QTest::addRow("choice") << R"({"gradient": "sideways"})"
                          << "sideways";
  QTest::addRow("no object") << R"([1])"
                             << "here";
}

void GuidesTest::wrongTuningIsNamed() {
  QFETCH(QString, json);
  QFETCH(QString, named);
  const auto problem = fixtures::problemOf(
      [&] { tuningFromJson(*kindOf("edges").fields, nlohmann::json::parse(json.toStdString()), "here"); });
  QVERIFY2(problem.contains(named) && problem.contains("here"), qPrintable(problem));
}

namespace {

/// A number, a choice and a text.
const TuningFields& wordedFields() {
  static const TuningFields fields = {{"size", "Size", "px", 1, 9, 3, 1, 0, {}, ""},
                                      {"form", "Form", "", 0, 1, 0, 1, 0, {"round", "square"}, ""},
                                      {"says", "Says", "", 0, 0, 0, 1, 0, {}, "", {}, TuningField::Text{12, "wind"}}};
  return fields;
}

}  // namespace

void GuidesTest::textsAreTunedToo() {
  const TuningFields& fields = wordedFields();
  QCOMPARE(wordingOf(fields, {}, "says"), std::string("wind"));
  Tuning tuning;
  tuning["size"] = 4;
  tuning["says"] = std::string("Böe \"7\"");
  QVERIFY(tuningFromJson(fields, tuningToJson(fields, tuning), "tuning") == spelledOut(fields, tuning));
  QCOMPARE(tuningToJson(fields, {})["says"].get<std::string>(), std::string("wind"));
  // Too long: refused, or cut between characters where things are mended.
  auto json = tuningToJson(fields, {});
  json["says"] = "äöüäöüäöüäöüäöü";
  QVERIFY(fixtures::problemOf([&] { tuningFromJson(fields, json, "here"); }).contains("12 characters"));
  Mended mended;
  QCOMPARE(wordingOf(fields, tuningFromJson(fields, json, "here", &mended), "says"), std::string("äöüäöüäöüäöü"));
  QCOMPARE(mended.sentences().size(), std::size_t{1});
  json["says"] = 7;
  QVERIFY(fixtures::problemOf([&] { tuningFromJson(fields, json, "here"); }).contains("text"));
  // On the command line, and what comes out of all bounds.
  QCOMPARE(tuningValueFromText(fields[2], "gust").text(), std::string("gust"));
  QVERIFY(fixtures::problemOf([&] { tuningValueFromText(fields[2], "thirteen char"); }).contains("--says"));
  TuningValue wrong = std::string("a\xff") + std::string(40, 'b');
  keepWithin(wrong, fields[2]);
  QCOMPARE(wrong.text(), std::string("a\xEF\xBF\xBD") + std::string(10, 'b'));
  TuningValue far = 99.0, between = 0.7;
  keepWithin(far, fields[0]);
  keepWithin(between, fields[1]);
  QVERIFY(far.number() == 9 && between.number() == 1);
}

void GuidesTest::kindsMayStandOnSettingsAlone() {
  Kind kind{.id = "grid",
            .name = "Grid",
            .letter = 'G',
            .colour = 0,
            .nature = MapNature::halfTones,
            .help = "",
            .fields = &wordedFields()};
  kind.onSettings = true;
  kind.make = [](const MapGround& ground, ExtractionCache&, const StopToken&) {
    Extraction out;
    out.map = Map(ground.place.frame.width, ground.place.frame.height, 40000);
    return out;
  };
  Guide guide;
  QVERIFY(standsAlone(kind, guide) && !kind.needsPicture());
  guide.reference = "r1";  // then it is made from that
  QVERIFY(!standsAlone(kind, guide));
  kind.onSettings = false;
  guide.reference.clear();
  QVERIFY(!standsAlone(kind, guide));
  // Moods say nothing about what lies where, and are read value by value.
  QVERIFY(isOfValues(MapNature::mood) && !isOnNothing(MapNature::mood));
  QVERIFY(isOfValues(MapNature::halfTones) && isOnNothing(MapNature::lines) && isOnNothing(MapNature::inks));
  kind.nature = MapNature::mood;
  GuideInput input;
  input.map = Map(64, 48, 30000);
  const MapSketch sketch = sketchOf(kind, input);
  QVERIFY(sketch.borders.empty() && sketch.values.empty());
}

void GuidesTest::cachedExtractionIsTheSame() {
  const auto& picture = fixtures::scene(1);
  ExtractionCache cache, fresh;
  Tuning tuning;
  kindOf("edges").extract(picture, tuning, cache, {});
  for (const double blur : {1.4, 2.0, 1.4})
    for (const double high : {0.05, 0.2}) {
      tuning = {{"thresholds", 1}, {"low", high / 2}, {"high", high}, {"blur", blur}};
      fresh = {};
      QVERIFY(kindOf("edges").extract(picture, tuning, cache, {}).map ==
              kindOf("edges").extract(picture, tuning, fresh, {}).map);
    }
}

void GuidesTest::toneIsSmoothAndFollowsLight() {
  const auto& picture = fixtures::scene(1);
  ExtractionCache cache;
  const auto map = kindOf("tone").extract(picture, {}, cache, {}).map;
  QCOMPARE(map.size(), picture.size());
  const auto brighter = kindOf("tone").extract(picture, {{"brightness", 0.2}}, cache, {}).map;
  std::int64_t rough = 0, more = 0;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 1; x < map.width(); ++x) {
      rough += std::abs(map(x, y) - map(x - 1, y)) > 6000 ? 1 : 0;
      more += brighter(x, y) >= map(x, y) ? 1 : 0;
    }
  QVERIFY(rough < map.size().area() / 200);
  QCOMPARE(more, std::int64_t{map.height()} * (map.width() - 1));
}

void GuidesTest::digestsTellMapsApart() {
  Map a(64, 48), b(64, 48), c(48, 64);
  b(10, 10) = 1;
  QVERIFY(digestOf(a) != digestOf(b));
  QVERIFY(digestOf(a) != digestOf(c));
  QCOMPARE(digestOf(a), digestOf(a.clone()));
}

HSCAFFOLD_TEST(GuidesTest)
#include "guides_test.moc"
