// A study's settings: undo, what is adopted from proofs, what is left out of recipes, what checks say.
#include <QTest>
#include <array>
#include <random>

#include "core/engine/registry.h"
#include "core/frame/frame.h"
#include "core/guides/json_fields.h"
#include "core/study/checks.h"
#include "core/study/history.h"
#include "core/study/study_examples.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::example;
using fixtures::pictureOf;
using fixtures::same;

namespace {

bool has(const std::vector<Check>& checks, const std::string& start) {
  return std::any_of(checks.begin(), checks.end(), [&](const Check& c) { return c.id.starts_with(start); });
}

}  // namespace

class StudyTest : public QObject {
  Q_OBJECT
 private slots:
  void undoAndRedoWithNames();
  void everyStateComesBackAsItWas();
  void changesOfOneDragAreOneStep();
  void whatIsDraggedAwayAndBackIsSaid();
  void changesThatThrowLeaveNothing();
  void foreignRecipesComeAsSomethingNew();
  void recipesLeaveOutWhatIsOff();
  void adoptingBringsEverythingBack();
  void whatAnEngineDoesNotKnowIsSaid();
  void checksComeAndTheirFixesHelp_data();
  void checksComeAndTheirFixesHelp();
};

void StudyTest::undoAndRedoWithNames() {
  StudyHistory history(example());
  const auto first = history.state();
  const auto setSteps = [](int steps) { return [steps](StudyState& s) { s.brief.steps = steps; }; };
  QVERIFY(history.change("Steps", setSteps(30)).brief);
  QVERIFY(!history.change("Nothing", setSteps(30)).any());
  QVERIFY(history.change("Frame", [](StudyState& s) { s.frame = {512, 512}; }).frame);
  const auto last = history.state();
  QCOMPARE(history.undoName(), std::string("Frame"));
  QVERIFY(history.undo().frame);
  QCOMPARE(history.redoName(), std::string("Frame"));
  QVERIFY(history.undo().brief);
  QVERIFY(history.state() == first);
  QVERIFY(!history.undo().any());
  QVERIFY(history.redo().any() && history.redo().any() && !history.redo().any());
  QVERIFY(history.state() == last);
  history.undo();
  history.change("Other", setSteps(31));
  QVERIFY(!history.canRedo());
}

void StudyTest::everyStateComesBackAsItWas() {
  StudyHistory history(example());
  std::minstd_rand random(7);
  std::vector<StudyState> states = {history.state()};
  const auto change = [&](StudyState& s) {
    const auto number = static_cast<int>(random() % 1000);
    switch (random() % 8) {
      case 0:
        s.scene = "{\"scene\":" + std::to_string(number) + "}";
        break;
      case 1:
        s.brief.prompt = "a quay, " + std::to_string(number);
        break;
      case 2:
        if (s.guides.size() < 9) s.guides.insert(s.guides.begin(), s.guides.front());
        s.guides.front().id = newId(s, "g");
        break;
      case 3:
        if (s.guides.size() > 2) s.guides.erase(s.guides.begin() + 1);
        break;
      case 4:
        std::rotate(s.guides.begin(), s.guides.begin() + 1, s.guides.end());
        break;
      case 5:
        s.discarded.push_back(number);
        break;
      case 6:
        s.finals.push_back({});
        s.finals.back().id = newId(s, "f");
        break;
      default:
        s.guides.back().weight = number * 0.001;
    }
  };
  for (int i = 0; i < 300; ++i) {
    history.change("Change " + std::to_string(i), change);
    if (!(history.state() == states.back())) states.push_back(history.state());
  }
  // Whatever was taken out of one state and kept with another: each is whole.
  const auto alike = [](StudyState a, const StudyState& b) {
    a.nextId = b.nextId;  // ids are never used twice
    a.looking = b.looking;
    return a == b;
  };
  for (int round = 0; round < 3; ++round) {
    for (std::size_t i = states.size() - 1; i-- > 0;) {
      history.undo();
      QVERIFY(alike(history.state(), states[i]));
    }
    QVERIFY(!history.canUndo());
    for (std::size_t i = 1; i < states.size(); ++i) {
      history.redo();
      QVERIFY(alike(history.state(), states[i]));
    }
    QVERIFY(!history.canRedo());
    if (round != 0) continue;
    // What is everywhere is in the states that are kept folded, too.
    const auto titled = [](StudyState& s) { s.title = "Quay", s.brief.guidance = 3; };
    for (int i = 0; i < 20; ++i) history.undo();
    history.changeAlways(titled);
    for (int i = 0; i < 20; ++i) history.redo();
    for (StudyState& s : states) titled(s);
  }
}

void StudyTest::changesOfOneDragAreOneStep() {
  StudyHistory history(example());
  const auto setWeight = [&](double weight) {
    history.change(
        "Weight", [weight](StudyState& s) { s.guides[0].weight = weight; }, "weight g2");
  };
  for (int i = 1; i <= 20; ++i) setWeight(0.05 * i);
  setWeight(0.95);
  history.seal();
  setWeight(0.1);
  history.undo();
  QVERIFY(std::abs(history.state().guides[0].weight - 0.95) < 1e-9);
  history.undo();
  QVERIFY(history.state() == example());
}

void StudyTest::whatIsDraggedAwayAndBackIsSaid() {
  StudyHistory history(example());
  const auto weight = [&](double value) {
    return history.change(
        "Weight", [&](StudyState& s) { s.guides[0].weight = value; }, "weight");
  };
  const double before = history.state().guides[0].weight;
  QVERIFY(weight(0.2).guide("g2"));
  // What shows the map must hear of the way back, too, though nothing is different from the beginning.
  QVERIFY(weight(before).guide("g2"));
  QVERIFY(!weight(before).any());
  history.seal();
  QVERIFY(!history.canUndo());
}

void StudyTest::changesThatThrowLeaveNothing() {
  StudyHistory history(example());
  history.change("Steps", [](StudyState& s) { s.brief.steps = 9; });
  history.undo();
  const auto before = history.state();
  const auto half = [](StudyState& s) {
    s.title = "Half a change";
    throw failed("The disk is full.");
  };
  for (const char* merge : {"", "drag"}) {
    QVERIFY(fixtures::problemOf([&] { history.change("Broken", half, merge); }).contains("full"));
    QVERIFY(history.state() == before);
    QVERIFY(!history.canUndo());
    QCOMPARE(history.redoName(), std::string("Steps"));
  }
  QVERIFY(fixtures::problemOf([&] { history.changeQuietly(half); }).contains("full"));
  QVERIFY(history.state() == before);
}

void StudyTest::foreignRecipesComeAsSomethingNew() {
  auto state = example();
  Recipe foreign = recipeOf(example());
  RecipeGuide other = foreign.guides[0];
  other.guide.kind = "tone";
  other.guide.name = "Somebody's tone";
  other.guide.tuning.clear();
  foreign.guides.push_back(other);  // by chance under the id of a guide that is here
  foreign.brief.start.from = StartPicture::From::proof;
  foreign.brief.start.proof = 1;
  std::vector<std::string> lost;
  adoptRecipe(state, asForeign(foreign, state, lost));
  QCOMPARE(lost.size(), std::size_t{1});
  QVERIFY(!state.brief.start.given());
  QCOMPARE(state.guides.size(), std::size_t{2});
  QCOMPARE(state.guides[0].kind, std::string("edges"));
  QCOMPARE(state.guides[1].name, std::string("Somebody's tone"));
  QVERIFY(state.guides[0].id != state.guides[1].id);
  QVERIFY(state.guide(newId(state, "g")) == nullptr);
}

void StudyTest::recipesLeaveOutWhatIsOff() {
  auto state = example();
  Guide other = state.guides[0];
  other.id = "g9";
  other.on = false;
  state.guides.push_back(other);
  QCOMPARE(recipeOf(state).guides.size(), std::size_t{1});
  QCOMPARE(recipeOf(state).references.size(), std::size_t{1});
  // All tuning is written out.
  QCOMPARE(recipeOf(state).guides[0].guide.tuning.size(), kindOf("edges").fields->size());
  state.references.clear();
  QVERIFY(recipeOf(state).guides.empty());
}

void StudyTest::adoptingBringsEverythingBack() {
  auto state = example();
  const auto recipe = recipeOf(state);
  state.frame = {512, 512};
  state.guides[0].weight = 0.1;
  state.guides[0].tuning["blur"] = 7;
  state.references[0].placement.turn = 20;
  state.brief.prompt = "something else";
  Guide extra = state.guides[0];
  extra.id = "g50";
  state.guides.push_back(extra);
  QVERIFY(adoptRecipe(state, recipe).empty());
  QVERIFY(recipeOf(state) == recipe);
  QVERIFY(!state.guide("g50")->on);
  state.guides.clear();
  QVERIFY(adoptRecipe(state, recipe).empty());
  QVERIFY(recipeOf(state) == recipe);
  state.guides.clear();
  state.references.clear();
  const auto lost = adoptRecipe(state, recipe);
  QCOMPARE(lost.size(), std::size_t{1});
}

void StudyTest::whatAnEngineDoesNotKnowIsSaid() {
  auto state = example();
  std::map<std::string, MapFacts> facts;
  facts["g2"].numbers = {{"share", 0.03}};
  MapPairs pairs;
  EngineInfo engine;
  engine.title = "Some engine";
  engine.kinds = {"edges", "depth"};
  QVERIFY(!has(checksOf(state, facts, pairs, &engine), "not-known:g2"));
  engine.kinds = {"depth"};
  const auto checks = checksOf(state, facts, pairs, &engine);
  QVERIFY(has(checks, "not-known:g2") && checks.front().id == "not-known:g2");
  QVERIFY(QString::fromStdString(checks.front().sentence).contains("Some engine"));
  checks.front().fix(state);
  QVERIFY(!state.guide("g2")->on);
  QVERIFY(!has(checksOf(state, facts, pairs, &engine), "not-known:g2"));
}

void StudyTest::checksComeAndTheirFixesHelp_data() {
  QTest::addColumn<QString>("id");
  for (const char* id : {"no-guide", "few-edges:g2", "no-step:g2", "small-reference:r1", "swapped:r1", "no-weight:g2",
                         "few-lines:g2", "hidden-retouch:g2", "no-region:g2", "high-load", "off-step"})
    QTest::addRow("%s", id) << id;
}

void StudyTest::checksComeAndTheirFixesHelp() {
  QFETCH(QString, id);
  auto state = example();
  std::map<std::string, MapFacts> facts;
  facts["g2"].numbers = {{"share", 0.03}, {"acts", 1}, {"high", 0.2}, {"low", 0.1}};
  QVERIFY(checksOf(state, facts).empty());
  if (id == "no-guide") state.guides[0].on = false;
  if (id == "few-edges:g2") facts["g2"].numbers["share"] = 0.002;
  if (id == "no-step:g2") state.guides[0].range = {51, 52, 0, 0};
  if (id == "small-reference:r1") {
    state.frame = {1536, 1024};
    state.references[0].size = {600, 400};
  }
  if (id == "swapped:r1") state.frame = {512, 768};
  if (id == "no-weight:g2") state.guides[0].weight = 0;
  if (id == "high-load") state.guides[0].weight = 1.9;
  if (id == "off-step") state.frame = {770, 514};
  if (id == "few-lines:g2") {
    state.guides[0].kind = "lines";
    state.guides[0].tuning.clear();
    facts["g2"].numbers["share"] = 0.0004;
  }
  if (id == "hidden-retouch:g2") {
    state.guides[0].work.put("retouch", "some");
    state.guides[0].retouchHidden = true;
  }
  if (id == "no-region:g2") {
    state.guides[0].work.put("region", "some");
    facts["g2"].numbers["acts"] = 0;
  }
  const auto checks = checksOf(state, facts);
  QVERIFY(has(checks, id.toStdString()));
  const auto& check =
      *std::find_if(checks.begin(), checks.end(), [&](const Check& c) { return c.id == id.toStdString(); });
  QVERIFY(QString::fromStdString(check.sentence).endsWith('.'));
  QVERIFY(check.fix != nullptr);
  check.fix(state);
  if (id == "few-edges:g2") {
    QVERIFY(state.guides[0].tuning.at("high").number() < 0.2);  // the map must be made anew to know more
    return;
  }
  if (id == "few-lines:g2") {
    QCOMPARE(state.guides[0].tuning.at("ink").number(), 70.0);
    return;
  }
  QVERIFY(!has(checksOf(state, facts), id.toStdString()));
}

HSCAFFOLD_TEST(StudyTest)
#include "study_test.moc"
