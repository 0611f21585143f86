#include <QTest>
#include <nlohmann/json.hpp>

#include "core/brief/recipe.h"
#include "core/brief/styles.h"
#include "core/guides/json_fields.h"
#include "core/study/checks.h"
#include "core/text.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class BriefTest : public QObject {
  Q_OBJECT
 private slots:
  void overlappingEmphasisIsPutInOrder();
  void emphasisFollowsEdits_data();
  void emphasisFollowsEdits();
  void randomEditsKeepEmphasisWithinThePrompt();
  void everythingIsBroughtIntoItsRange();
  void contradictionsAreNoticed();
  void phrasesAreFoundAsWholeWords();
  void wordsAreTakenOutOfLists();
  void cardsAreManyAndDiffer();
  void stylesAreTurnedOnAndOff();
  void ownCardsComeBack();
  void checksSayWhatDoesNothing();
};

void BriefTest::overlappingEmphasisIsPutInOrder() {
  const auto ordered = inOrder({{8, 6, 1.5}, {0, 4, 0.5}, {10, 10, -1}, {2, 1, 1}}, 16);
  const std::vector<Emphasis> wanted = {{0, 2, 0.5}, {3, 1, 0.5}, {8, 2, 1.5}, {10, 6, -1}};
  QVERIFY(ordered == wanted);
  QVERIFY(inOrder(ordered, 16) == ordered);
  QVERIFY(inOrder({{0, 4, 1.2}, {4, 4, 1.2}}, 8) == (std::vector<Emphasis>{{0, 8, 1.2}}));
  QVERIFY(inOrder({{-5, 3, 2}, {2'000'000'000, 2'000'000'000, 2}, {3, -4, 2}}, 8).empty());
  QVERIFY(inOrder({{0, 4, 99}, {4, 4, std::nan("")}}, 8) == (std::vector<Emphasis>{{0, 4, 2}}));
}

void BriefTest::emphasisFollowsEdits_data() {
  QTest::addColumn<QString>("after");
  QTest::addColumn<int>("first");
  QTest::addColumn<int>("length");  // 0: gone
  // "a red dune at dusk" with "red dune" heavier.
  QTest::newRow("typed before") << "and a red dune at dusk" << 6 << 8;
  QTest::newRow("typed behind") << "a red dune at dusk, gouache" << 2 << 8;
  QTest::newRow("typed inside") << "a red wide dune at dusk" << 2 << 13;
  QTest::newRow("typed at its end") << "a red dunes at dusk" << 2 << 8;
  QTest::newRow("shortened") << "a dune at dusk" << 2 << 4;
  QTest::newRow("taken out") << "a at dusk" << 0 << 0;
  QTest::newRow("emptied") << "" << 0 << 0;
  QTest::newRow("with umlauts") << QString::fromUtf8("ü a red dune at dusk") << 4 << 8;
}

void BriefTest::emphasisFollowsEdits() {
  QFETCH(QString, after);
  QFETCH(int, first);
  QFETCH(int, length);
  const auto now = followed({{2, 8, 1.5}}, "a red dune at dusk", after.toStdString());
  QCOMPARE(now.empty(), length == 0);
  if (now.empty()) return;
  QCOMPARE(now.size(), std::size_t{1});
  QCOMPARE(now[0].first, first);
  QCOMPARE(now[0].length, length);
  QCOMPARE(now[0].weight, 1.5);
}

void BriefTest::randomEditsKeepEmphasisWithinThePrompt() {
  std::mt19937 random(4);
  std::string prompt = "a kite flyer on a red dune at dusk";
  std::vector<Emphasis> emphasis = {{2, 4, 1.5}, {18, 8, 0.4}};
  for (int i = 0; i < 3000; ++i) {
    std::u32string next = codePointsOf(prompt);
    const auto at = random() % (next.size() + 1), count = std::min<std::size_t>(random() % 6, next.size() - at);
    next.erase(at, count);
    next.insert(at, random() % 5, random() % 2 == 0 ? U'\u00fc' : U'x');
    std::string after;
    for (const char32_t c : next) after += c < 0x80 ? std::string(1, static_cast<char>(c)) : "\u00fc";
    emphasis = followed(emphasis, prompt, after);
    prompt = after;
    int end = 0;
    for (const Emphasis& e : emphasis) {
      QVERIFY(e.first >= end && e.length > 0 && e.weight != 1);
      end = e.first + e.length;
    }
    QVERIFY(end <= static_cast<int>(charactersIn(prompt)));
    if (emphasis.size() < 3 && !next.empty())
      emphasis = inOrder({{static_cast<int>(random() % next.size()), 3, 1.7}}, next.size());
  }
}

void BriefTest::everythingIsBroughtIntoItsRange() {
  Brief brief;
  brief.prompt.assign(100'000, 'a');
  brief.prompt += '\xff';
  brief.emphasis = {{99'000, 500, 2}, {0, 10, 7}};
  for (int i = 0; i < 200; ++i)
    brief.styles.push_back({"s" + std::to_string(i % 150), std::string(500, 'n'), "ink", i * 0.1 - 5});
  brief.start.change = std::nan("");
  brief.start.colour = {-1, 9, std::nanf("")};
  brief.start.wanted = std::string(9000, 'w');
  brief.vary = 5;
  keepWithinLimits(brief);
  QCOMPARE(charactersIn(brief.prompt), longestPrompt);
  QVERIFY(brief.emphasis == (std::vector<Emphasis>{{0, 10, 2}}));
  QCOMPARE(brief.styles.size(), mostStyles);
  for (const auto& use : brief.styles) QVERIFY(use.strength >= 0 && use.strength <= limits::strength.most);
  // What is written can be read.
  const auto json = briefToJson(brief);
  QVERIFY(briefFromJson(json, "brief", false) == brief);
}

void BriefTest::contradictionsAreNoticed() {
  Brief brief;
  brief.prompt = "Fog over a dune, a boat in fog";
  brief.avoid = "crowd, fog, on, Boat";
  QCOMPARE(wordsInBoth(brief), (std::vector<std::string>{"fog", "boat"}));
  brief.avoid = "crowd";
  QVERIFY(wordsInBoth(brief).empty());
}

void BriefTest::phrasesAreFoundAsWholeWords() {
  QVERIFY(holdsPhrase("the Tea-House at night", "tea house"));
  QVERIFY(holdsPhrase("tea house", "Tea house"));
  QVERIFY(holdsPhrase("ein Übergang", "Übergang"));
  QVERIFY(!holdsPhrase("ein Übergang", "übergang"));  // only ASCII letters are made small
  QVERIFY(!holdsPhrase("tea houses", "tea house"));
  QVERIFY(!holdsPhrase("house of tea", "tea house"));
  QVERIFY(!holdsPhrase("tea house", ""));
  QVERIFY(!holdsPhrase("tea house", "..."));
  QVERIFY(!holdsPhrase("", "tea"));
}

void BriefTest::wordsAreTakenOutOfLists() {
  QCOMPARE(withoutWord("fog, crowd", "fog"), std::string("crowd"));
  QCOMPARE(withoutWord("thick Fog, crowd,fog", "fog"), std::string("thick, crowd"));
  QCOMPARE(withoutWord("foggy, crowd", "fog"), std::string("foggy, crowd"));
  QCOMPARE(withoutWord("fog", "fog"), std::string());
}

void BriefTest::cardsAreManyAndDiffer() {
  const auto& cards = houseStyles();
  QVERIFY(cards.size() >= 24);
  std::set<std::string> ids, names, words;
  for (const StyleCard& card : cards) {
    ids.insert(card.id);
    names.insert(card.name);
    words.insert(card.words);
    QVERIFY(!card.own);
  }
  QCOMPARE(ids.size(), cards.size());
  QCOMPARE(names.size(), cards.size());
  QCOMPARE(words.size(), cards.size());
}

void BriefTest::stylesAreTurnedOnAndOff() {
  Brief brief;
  const StyleCard& card = houseStyles()[3];
  QVERIFY(useStyle(brief, card, 0.8));
  QVERIFY(!useStyle(brief, card, 0.8));
  QVERIFY(useStyle(brief, card, 7));
  QCOMPARE(brief.styles[0].strength, limits::strength.most);
  QCOMPARE(brief.styles[0].words, card.words);
  QVERIFY(useStyle(brief, card, 0));
  QVERIFY(!useStyle(brief, card, 0));
  for (std::size_t i = 0; i < mostStyles; ++i) useStyle(brief, {std::to_string(i), "n", "ink", false}, 1);
  QVERIFY(fixtures::problemOf([&] { useStyle(brief, card, 1); }).contains("At most"));
  QCOMPARE(brief.styles.size(), mostStyles);
}

void BriefTest::ownCardsComeBack() {
  const std::vector<StyleCard> own = {{"own-1", "Mine \u00fc", "ink, \"dark\"", true}, {"own-2", "Two", "", true}};
  QVERIFY(stylesFromJson(stylesToJson(own)) == own);
  QVERIFY(fixtures::problemOf([&] { stylesFromJson({{"styles", 3}}); }).contains("not a list"));
}

void BriefTest::checksSayWhatDoesNothing() {
  StudyState state;
  const auto has = [&](const std::string& id) {
    const auto checks = checksOf(state, {});
    return std::any_of(checks.begin(), checks.end(), [&](const Check& c) { return c.id == id; });
  };
  const auto fix = [&](const std::string& id) {
    for (const Check& check : checksOf(state, {}))
      if (check.id == id) check.fix(state);
  };
  state.brief.start.from = StartPicture::From::reference;
  state.brief.start.reference = "r9";
  QVERIFY(has("start-gone"));
  QVERIFY(!recipeOf(state).brief.start.given());
  fix("start-gone");
  QVERIFY(!has("start-gone"));
  state.brief.start.from = StartPicture::From::colour;
  state.brief.start.change = 1;
  QVERIFY(has("start-none"));
  fix("start-none");
  QVERIFY(!has("start-none") && state.brief.start.given());
  state.brief.start = {};
  state.brief.start.wanted = "a satchel";
  QVERIFY(has("words-no-start"));
  fix("words-no-start");
  QVERIFY(!has("words-no-start"));
  state.brief.prompt = "a boat in fog";
  state.brief.avoid = "crowd, fog";
  QVERIFY(has("prompt-avoid"));
  fix("prompt-avoid");
  QCOMPARE(state.brief.avoid, std::string("crowd"));
}

HSCAFFOLD_TEST(BriefTest)
#include "brief_test.moc"
