// What proofs show of words in Avoid that keep a code from being read.
#include <QTest>

#include "core/engine/standin/words.h"
#include "core/study/checks.h"
#include "core/study/words_against_code.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class WordsAgainstCodeTest : public QObject {
  Q_OBJECT
 private slots:
  void aStripShowsThem();
  void whatIsNotAlikeShowsNothing();
  void theCheckTakesThemOut();
  void theStandInFollowsThem();

 private:
  static StudyState study(const std::string& avoid) {
    StudyState state;
    state.frame = {320, 320};
    state.brief.prompt = "a cobbled square";
    state.brief.avoid = avoid;
    Guide code;
    code.id = "g1";
    code.name = "Code";
    code.kind = "pattern";
    state.guides.push_back(code);
    return state;
  }
  static ProofInfo proof(std::int64_t number, const std::string& avoid, double margin) {
    ProofInfo out;
    out.number = number;
    out.recipe = recipeOf(study(avoid));
    out.holds["g1"] = margin;
    return out;
  }
};

void WordsAgainstCodeTest::aStripShowsThem() {
  const std::vector<ProofInfo> proofs{proof(1, "fog, contrast", 8), proof(2, "fog", 61), proof(3, "", 60),
                                      proof(4, "crowd", 58)};
  const auto found = wordsAgainstCode(study("fog, contrast"), proofs);
  QVERIFY(found.has_value());
  QCOMPARE(found->words, std::vector<std::string>{"contrast"});
  QVERIFY(found->proofWith == 1 && found->proofWithout == 2 && found->with == 8 && found->without == 61);
  // Not avoided any more, or never shown to matter.
  QVERIFY(!wordsAgainstCode(study("fog"), proofs));
  QVERIFY(!wordsAgainstCode(study("crowd"), proofs));
  QVERIFY(!wordsAgainstCode(study(""), proofs));
  QVERIFY(!wordsAgainstCode(study("fog, contrast"), {}));
}

void WordsAgainstCodeTest::whatIsNotAlikeShowsNothing() {
  std::vector<ProofInfo> proofs{proof(1, "contrast", 8), proof(2, "", 61)};
  proofs[1].recipe.brief.guidance = 3;
  QVERIFY(!wordsAgainstCode(study("contrast"), proofs));
  proofs[1] = proof(2, "", 15);  // within chance
  QVERIFY(!wordsAgainstCode(study("contrast"), proofs));
  proofs[1] = proof(2, "", 61);
  StudyState off = study("contrast");
  off.guides[0].on = false;
  QVERIFY(!wordsAgainstCode(off, proofs));
  StudyState rings = study("contrast");
  rings.guides[0].tuning["what"] = 2.0;
  QVERIFY(!wordsAgainstCode(rings, proofs));
  proofs[1].holds.clear();
  QVERIFY(!wordsAgainstCode(study("contrast"), proofs));
}

void WordsAgainstCodeTest::theCheckTakesThemOut() {
  StudyState state = study("fog, contrast");
  const std::vector<ProofInfo> proofs{proof(1, "fog, contrast", 8), proof(2, "fog", 61)};
  MapPairs pairs;
  const auto checks = checksOf(state, {}, pairs, nullptr, proofs);
  const auto check =
      std::find_if(checks.begin(), checks.end(), [](const Check& c) { return c.id == "avoid-breaks-code"; });
  QVERIFY(check != checks.end());
  QVERIFY(check->sentence.find("margin 8 (proof 1)") != std::string::npos);
  check->fix(state);
  QCOMPARE(state.brief.avoid, std::string("fog"));
}

void WordsAgainstCodeTest::theStandInFollowsThem() {
  QCOMPARE(standin::flatnessFrom(""), 0.0);
  QCOMPARE(standin::flatnessFrom("crowd, fog"), 0.0);
  QCOMPARE(standin::flatnessFrom("crowd, Contrast"), 0.5);
  QCOMPARE(standin::flatnessFrom("contrast, black shadows"), 1.0);
}

HSCAFFOLD_TEST(WordsAgainstCodeTest)
#include "words_against_code_test.moc"
