// Engines by name, what checks ask of them, and what they do not know.
#include "core/engine/registry.h"

#include <QTest>
#include <nlohmann/json.hpp>

#include "core/frame/frame.h"
#include "core/study/checks.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

/// An engine that knows little and says so.
class PlainEngine final : public Engine {
 public:
  explicit PlainEngine(std::string name) : name_(std::move(name)) {}
  [[nodiscard]] EngineInfo info() const override {
    EngineInfo info;
    info.name = name_;
    info.id = name_ + " 1";
    info.title = "Plain engine";
    info.sizeStep = 64;
    info.mostPixels = 400'000;
    info.kinds = {"edges"};
    info.steps = {1, 8, 4, 1, 0};
    info.understands = {.ranges = false,
                        .ramps = false,
                        .regions = false,
                        .startPictures = false,
                        .wordsToWords = false,
                        .avoid = false,
                        .emphasis = false};
    return info;
  }
  Image<Rgb8> generate(const EngineJob& job, const EngineSink&, StopToken) override {
    return Image<Rgb8>(job.recipe.frame);
  }
  [[nodiscard]] double estimate(const Recipe&) const override { return 5; }

 private:
  std::string name_;
};

bool says(const std::vector<Check>& checks, const std::string& id) {
  return std::any_of(checks.begin(), checks.end(), [&](const Check& check) { return check.id == id; });
}

}  // namespace

class RegistryTest : public QObject {
  Q_OBJECT
 private slots:
  void enginesAreFoundByName();
  void missingEnginesAreSaidNotReplaced();
  void everythingThatIsNotUnderstoodIsSaid();
  void theStandInTellsItsWords();
  void guidesAreTakenAsTheEngineUnderstandsThem();
};

void RegistryTest::enginesAreFoundByName() {
  EngineRegistry engines;
  QCOMPARE(engines.all().size(), std::size_t{1});
  QVERIFY(engines.find(builtInEngine) != nullptr);
  engines.add(std::make_shared<PlainEngine>("plain"));
  const auto first = engines.find("plain");
  QCOMPARE(engines.all().size(), std::size_t{2});
  engines.add(std::make_shared<PlainEngine>("plain"));
  QCOMPARE(engines.all().size(), std::size_t{2});
  QVERIFY(engines.find("plain") != first);
  QCOMPARE(engines.info("plain")->sizeStep, 64);
  engines.remove("plain");
  QVERIFY(engines.find("plain") == nullptr);
  QVERIFY(engines.info("plain")->missing);
}

void RegistryTest::missingEnginesAreSaidNotReplaced() {
  StudyState state;
  state.engine = "attic";
  MapPairs pairs;
  const EngineInfo info = *EngineRegistry().info(state.engine);
  const auto checks = checksOf(state, {}, pairs, &info);
  QVERIFY(!checks.empty());
  QCOMPARE(checks.front().id, std::string("engine-missing"));
  QVERIFY(checks.front().severity == Severity::bad);
  QVERIFY(QString::fromStdString(checks.front().sentence).contains("attic"));
  checks.front().fix(state);
  QCOMPARE(state.engine, std::string(builtInEngine));
  // A study keeps the name of an engine that is not here.
  state.engine = "attic";
  QCOMPARE(stateFromJson(stateToJson(state)).engine, std::string("attic"));
}

void RegistryTest::everythingThatIsNotUnderstoodIsSaid() {
  StudyState state;
  state.frame = {1000, 800};
  state.brief.avoid = "fog";
  state.brief.prompt = "a dune";
  state.brief.emphasis = {{0, 1, 1.5}};
  state.brief.start.from = StartPicture::From::colour;
  for (const char* kind : {"edges", "depth"}) {
    Guide guide;
    guide.id = kind;
    guide.kind = kind;
    guide.name = kind;
    guide.range = {10, 60, 5, 0, {}};
    guide.work.put(regionSlot, "0123");
    state.guides.push_back(guide);
  }
  state.guides[1].range = {0, 100, 20, 0, {}};
  MapPairs pairs;
  const EngineInfo plain = PlainEngine("plain").info();
  const auto checks = checksOf(state, {}, pairs, &plain);
  for (const char* id : {"engine-step", "too-large", "engine-steps", "no-start", "no-avoid", "no-emphasis",
                         "no-region:edges", "no-range:edges", "no-ramp:depth", "not-known:depth"})
    QVERIFY2(says(checks, id), id);
  for (const Check& check : checks)
    if (check.fix) check.fix(state);
  QVERIFY(isOnStep(state.frame, 64));
  QCOMPARE(state.brief.steps, 8);
  QVERIFY(!state.brief.start.given());
  // The stand-in understands all of it.
  const EngineInfo standin = *EngineRegistry().info(builtInEngine);
  for (const Check& check : checksOf(state, {}, pairs, &standin))
    QVERIFY2(!QString::fromStdString(check.sentence).contains("knows no"), check.id.c_str());
}

void RegistryTest::theStandInTellsItsWords() {
  const EngineInfo info = *EngineRegistry().info(builtInEngine);
  QVERIFY(info.words != nullptr);
  QVERIFY(info.words->all.contains("dune") && info.words->all.contains("dunes") && info.words->all.contains("gouache"));
  QVERIFY(!info.words->all.contains("gramophone"));
  QVERIFY(info.words->manner.contains("gouache") && !info.words->manner.contains("dune"));
  QVERIFY(info.words->groups.at("season").size() >= 4);
  QVERIFY(info.words == EngineRegistry().info(builtInEngine)->words);
}

void RegistryTest::guidesAreTakenAsTheEngineUnderstandsThem() {
  std::vector<Guide> guides(2);
  guides[0].id = "g1";
  guides[0].kind = "edges";
  guides[0].range = {10, 60, 20, 5};
  guides[1].id = "g2";
  guides[1].kind = "pose";
  guides[1].range = {0, 100, 0, 0, {{0, 0.2}, {1, 1}}};
  EngineInfo info;
  info.kinds = {"edges", "pose"};
  QVERIFY(asUnderstood(guides, info) == guides);
  info.understands.ramps = false;
  auto taken = asUnderstood(guides, info);
  QVERIFY(taken[0].range == (Range{10, 60}) && taken[1].range == Range{});
  info.understands.ranges = false;
  taken = asUnderstood(guides, info);
  QVERIFY(taken[0].range == Range{});
  info.kinds = {"edges"};
  taken = asUnderstood(guides, info);
  QVERIFY(taken[0].on && !taken[1].on);
  // So load and checks are what that engine does: hard ends load more than ramps.
  info = {};
  info.kinds = {"edges", "pose"};
  info.understands.ramps = false;
  guides[0].weight = 0.9;
  const auto set = totalLoad(guides, 20), acts = totalLoad(asUnderstood(guides, info), 20);
  QVERIFY(acts[3] > set[3] + 0.3);
  StudyState state;
  state.guides = guides;
  MapPairs pairs;
  const auto high = [&](const EngineInfo* engine) {
    const auto checks = checksOf(state, {}, pairs, engine);
    return std::any_of(checks.begin(), checks.end(), [](const Check& check) { return check.id == "high-load"; });
  };
  state.guides[1].weight = 0.55;
  state.comfort = 1.25;
  QVERIFY(!high(nullptr) && high(&info));
  // One that is not here changes nothing.
  info.missing = true;
  QVERIFY(asUnderstood(guides, info) == guides);
}

HSCAFFOLD_TEST(RegistryTest)
#include "registry_test.moc"
