// Rough and final: two sets, of which one is in use.
#include <QTest>
#include <nlohmann/json.hpp>

#include "core/guides/json_fields.h"
#include "core/study/checks.h"
#include "core/study/pull_sets.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class PullSetsTest : public QObject {
  Q_OBJECT
 private slots:
  void thereAndBackIsTheSame();
  void roughProofsAreSmallAndOfTheSameFrame();
  void eitherSetIsChangedWithoutTheOther();
  void bothAreKept();
  void familiesAreChecked();
};

void PullSetsTest::thereAndBackIsTheSame() {
  StudyState state;
  state.engine = "loft";
  state.brief.steps = 32;
  const PullSet before = pullSet(state, false);
  changeOver(state);
  QVERIFY(state.rough);
  QCOMPARE(state.longest, usualRough);
  QCOMPARE(state.engine, std::string("loft"));
  state.engine = "stand-in";
  state.brief.steps = 8;
  changeOver(state);
  QVERIFY(!state.rough && pullSet(state, false) == before);
  changeOver(state);
  QCOMPARE(state.engine, std::string("stand-in"));
  QCOMPARE(state.brief.steps, 8);
  QCOMPARE(state.longest, usualRough);
}

void PullSetsTest::roughProofsAreSmallAndOfTheSameFrame() {
  StudyState state;
  state.frame = {1200, 800};
  QCOMPARE(pullRecipeOf(state).frame, state.frame);
  changeOver(state);
  const Recipe recipe = pullRecipeOf(state);
  QVERIFY(recipe.frame.width <= 520 && recipe.frame.width >= 500);
  QCOMPARE(recipe.mapsSize(), state.frame);
  // A frame that is small already stays as it is.
  state.frame = {384, 256};
  QCOMPARE(pullRecipeOf(state).frame, state.frame);
  QCOMPARE(pullRecipeOf(state).mapsFrame, Size{});
}

void PullSetsTest::eitherSetIsChangedWithoutTheOther() {
  StudyState state;
  PullSet rough = pullSet(state, true);
  rough.steps = 6;
  rough.longest = 320;
  const PullSet final = pullSet(state, false);
  setPullSet(state, true, rough);
  QVERIFY(pullSet(state, false) == final && pullSet(state, true) == rough);
  PullSet large = final;
  large.steps = 60;
  setPullSet(state, false, large);
  QCOMPARE(state.brief.steps, 60);
  QVERIFY(pullSet(state, true) == rough);
}

void PullSetsTest::bothAreKept() {
  StudyState state;
  state.family = "slate";
  changeOver(state);
  state.engine = "attic";
  state.brief.steps = 7;
  const StudyState back = stateFromJson(stateToJson(state));
  QVERIFY(back == state);
  // What is out of range is brought within it.
  auto json = stateToJson(state);
  json["other-set"]["longest"] = -4;
  json["other-set"]["steps"] = 100'000;
  Mended mended;
  StudyState read = stateFromJson(json, &mended);
  keepWithinLimits(read);
  QVERIFY(!mended.sentences().empty());
  QVERIFY(read.otherSet && read.otherSet->longest == 0 && read.otherSet->steps <= limits::steps.most);
}

void PullSetsTest::familiesAreChecked() {
  EngineInfo info;
  info.name = info.title = "Loft";
  info.kinds = {"edges", "depth"};
  info.families = {{"slate", {"edges"}}, {"chalk", {}}};
  StudyState state;
  Guide guide;
  guide.id = "g1";
  guide.kind = "depth";
  guide.name = "Depth";
  state.guides = {guide};
  const auto said = [&](const std::string& id) {
    MapPairs pairs;
    for (const Check& check : checksOf(state, {}, pairs, &info))
      if (check.id == id) return check;
    return Check{};
  };
  // Of the first family, which knows no depth.
  QVERIFY(said("not-known:g1").sentence.find("family") != std::string::npos);
  QVERIFY(!asUnderstood(state.guides, info)[0].on);
  state.family = "chalk";
  QVERIFY(said("not-known:g1").id.empty());
  QVERIFY(asUnderstood(state.guides, info, state.family)[0].on);
  state.family = "granite";
  Check family = said("family");
  QVERIFY(family.severity == Severity::bad && family.sentence.find("granite") != std::string::npos);
  family.fix(state);
  QCOMPARE(state.family, std::string("slate"));
  QVERIFY(said("family").id.empty());
  EngineJob job;
  job.recipe.family = "granite";
  QVERIFY(fixtures::problemOf([&] { checkJob(job, info); }).contains("granite"));
  job.recipe.family = "chalk";
  checkJob(job, info);
  // An engine that is in trouble says so before a pull.
  info.trouble = "Loft does not answer.";
  QCOMPARE(said("engine-trouble").sentence, info.trouble);
}

HSCAFFOLD_TEST(PullSetsTest)
#include "pull_sets_test.moc"
