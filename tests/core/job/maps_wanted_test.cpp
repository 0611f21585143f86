// Maps as an engine wants them: turned over, made small, in other inks, under other names; the job itself stays.
#include <QTest>
#include <nlohmann/json.hpp>

#include "core/guides/json_fields.h"
#include "core/image/colour.h"
#include "core/job/job_folder.h"
#include "core/job/maps_wanted.h"
#include "core/kinds.h"
#include "core/pose/figure.h"
#include "core/pose/inks.h"
#include "core/pose/library.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

constexpr Size mapSize{160, 128};

/// The house's inks in one colour.
std::string redInks() {
  auto json = nlohmann::json::parse(pose::houseInks().text);
  json["name"] = "all red";
  const std::function<void(nlohmann::json&)> redden = [&](nlohmann::json& part) {
    for (auto& [key, value] : part.items()) {
      if (value.is_structured()) redden(value);
      if (value.is_string() && value.get<std::string>().starts_with("#") && key != "background") value = "#ff0000";
    }
  };
  redden(json);
  return json.dump();
}

/// A figure's guide, with a stroke of the hand in white beside it.
EngineJob poseJob() {
  EngineJob job;
  job.recipe.frame = mapSize;
  RecipeGuide entry;
  entry.guide.kind = "pose";
  entry.guide.name = "Figure";
  job.recipe.guides.push_back(entry);
  const auto& named = pose::housePoses().front();
  auto figure = pose::fittedInto(pose::figureFrom(pose::skeletonOf(named.skeleton), named.pose, {}),
                                 pose::Bounds{50, 10, 110, 110});
  GuideInput input;
  input.work.put(pose::figuresSlot, std::any(std::make_shared<const pose::Figures>(pose::Figures{
                                        mapSize, {}, {std::make_shared<const pose::Figure>(std::move(figure))}})));
  const Kind& kind = kindOf("pose");
  ExtractionCache cache;
  auto made = kind.make(MapGround{{}, {mapSize, {}}, {}, input.work}, cache, {});
  input.colour = std::move(made.colour);
  for (int x = 5; x < 30; ++x) input.colour(x, 100) = {255, 255, 255};
  input.map = brightnessOf(input.colour);
  job.inputs.push_back(std::move(input));
  return job;
}

EngineJob linesJob() {
  EngineJob job;
  job.recipe.frame = {80, 64};
  job.recipe.mapsFrame = mapSize;
  for (const char* kind : {"edges", "depth"}) {
    RecipeGuide entry;
    entry.guide.kind = kind;
    job.recipe.guides.push_back(entry);
    GuideInput input;
    input.map = Map(mapSize);
    for (int y = 40; y < 80; ++y)
      for (int x = 40; x < 120; ++x) input.map(x, y) = 60'001;
    input.region = Map(mapSize.width, mapSize.height, 65535);
    job.inputs.push_back(std::move(input));
  }
  return job;
}

}  // namespace

class MapsWantedTest : public QObject {
  Q_OBJECT
 private slots:
  void nothingWantedChangesNothing();
  void eachKindIsTurnedOverOnItsOwn();
  void smallPicturesGetSmallMaps();
  void posesAreDrawnInTheEnginesInks();
  void namesOfKindsGoOutWithTheJob();
  void whatIsWantedIsKept();
  void wordsOfACommandLine();
};

void MapsWantedTest::nothingWantedChangesNothing() {
  const auto job = linesJob();
  const auto same = asWanted(job, {});
  QVERIFY(same.recipe == job.recipe);
  for (std::size_t i = 0; i < 2; ++i)
    QVERIFY(same.inputs[i].map == job.inputs[i].map && same.inputs[i].region == job.inputs[i].region);
  const auto figure = poseJob();
  QVERIFY(asWanted(figure, {}).inputs[0].colour == figure.inputs[0].colour);
}

void MapsWantedTest::eachKindIsTurnedOverOnItsOwn() {
  const auto job = linesJob();
  MapsWanted wanted;
  wanted.darkLines = true;
  const auto dark = asWanted(job, wanted);
  QCOMPARE(int{dark.inputs[0].map(60, 50)}, 65535 - 60'001);
  QVERIFY(dark.inputs[1].map == job.inputs[1].map);
  wanted = {};
  wanted.nearIsDark = true;
  const auto near = asWanted(job, wanted);
  QVERIFY(near.inputs[0].map == job.inputs[0].map);
  QCOMPARE(int{near.inputs[1].map(60, 50)}, 65535 - 60'001);
  wanted = {};
  wanted.eightBits = true;
  QCOMPARE(int{asWanted(job, wanted).inputs[1].map(60, 50)} % 257, 0);
}

void MapsWantedTest::smallPicturesGetSmallMaps() {
  const auto job = linesJob();
  MapsWanted wanted;
  wanted.atFrame = true;
  const auto small = asWanted(job, wanted);
  QCOMPARE(small.recipe.mapsSize(), (Size{80, 64}));
  for (const GuideInput& input : small.inputs) {
    QCOMPARE(input.map.size(), (Size{80, 64}));
    QCOMPARE(input.region.size(), (Size{80, 64}));
    QCOMPARE(int{input.map(30, 25)}, 60'001);
    QCOMPARE(int{input.map(5, 5)}, 0);
    QCOMPARE(int{input.region(70, 50)}, 65535);
  }
  EngineInfo info;
  checkJob(small, info);
}

void MapsWantedTest::posesAreDrawnInTheEnginesInks() {
  const auto job = poseJob();
  MapsWanted wanted;
  wanted.inks = redInks();
  const auto red = asWanted(job, wanted);
  const ColourMap &before = job.inputs[0].colour, &after = red.inputs[0].colour;
  int drawn = 0, other = 0, gone = 0;
  for (int y = 0; y < mapSize.height; ++y)
    for (int x = 0; x < mapSize.width; ++x) {
      const bool hand = y == 100 && x >= 5 && x < 30;
      if (hand) {
        QVERIFY(after(x, y) == (Rgb8{255, 255, 255}));
        continue;
      }
      const bool was = before(x, y).r + before(x, y).g + before(x, y).b > 0;
      drawn += after(x, y).r > 0 ? 1 : 0;
      other += after(x, y).g > 0 || after(x, y).b > 0 ? 1 : 0;
      gone += was && after(x, y).r == 0 ? 1 : 0;
    }
  QVERIFY(drawn > 200);
  QCOMPARE(other, 0);
  QCOMPARE(gone, 0);
  QVERIFY(red.inputs[0].map == brightnessOf(after));
  wanted.inks = "{}";
  QVERIFY(!fixtures::problemOf([&] { asWanted(job, wanted); }).isEmpty());
}

void MapsWantedTest::namesOfKindsGoOutWithTheJob() {
  MapsWanted wanted;
  wanted.called["edges"] = "outline";
  const auto job = asWanted(linesJob(), wanted);
  QCOMPARE(job.recipe.guides[0].called, std::string("outline"));
  QVERIFY(job.recipe.guides[1].called.empty());
  const auto files = jobFiles(job);
  const auto json = nlohmann::json::parse(textOf(files.at("recipe.json")));
  QCOMPARE(json["guides"][0]["called"].get<std::string>(), std::string("outline"));
  QCOMPARE(json["guides"][0]["kind"].get<std::string>(), std::string("edges"));
  QVERIFY(!json["guides"][1].contains("called"));
  // Whoever reads it has the kind; the name was for whom it was sent to.
  const auto read = readJob(recipeFromJson(json), [&](const std::string& name) { return files.at(name); });
  QVERIFY(read.job.recipe.guides[0].called.empty());
}

void MapsWantedTest::whatIsWantedIsKept() {
  MapsWanted wanted;
  wanted.darkLines = wanted.atFrame = true;
  wanted.called = {{"edges", "outline"}, {"pose", "manikin"}};
  wanted.inks = redInks();
  MapsWanted back = mapsWantedFromJson(mapsWantedToJson(wanted), "maps");
  QVERIFY(nlohmann::json::parse(back.inks) == nlohmann::json::parse(wanted.inks));
  back.inks = wanted.inks;
  QVERIFY(back == wanted);
  QVERIFY(mapsWantedFromJson(mapsWantedToJson({}), "maps") == MapsWanted{});
  // A kind that nobody here knows is none of ours; inks that are none are refused.
  QVERIFY(mapsWantedFromJson({{"called", {{"smell", "scent"}}}}, "maps").called.empty());
  QVERIFY(fixtures::problemOf([] { mapsWantedFromJson({{"inks", {{"name", 3}}}}, "maps"); }).contains("inks"));
}

void MapsWantedTest::wordsOfACommandLine() {
  const std::vector<std::string> words{"dark-lines", "8-bit", "at-frame", "depth=nearness"};
  const auto wanted = mapsWantedFrom(words);
  QVERIFY(wanted.darkLines && wanted.eightBits && wanted.atFrame && !wanted.nearIsDark);
  QCOMPARE(wanted.called.at("depth"), std::string("nearness"));
  for (const char* wrong : {"lines-dark", "smell=scent", "edges="})
    QVERIFY(!fixtures::problemOf([&] { mapsWantedFrom(std::vector<std::string>{wrong}); }).isEmpty());
}

HSCAFFOLD_TEST(MapsWantedTest)
#include "maps_wanted_test.moc"
