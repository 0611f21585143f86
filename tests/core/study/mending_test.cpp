// What is written can be read: any state within its limits comes back equal, and a study in which one field or row is
// wrong opens with that one mended or left out, which is said.
#include <SQLiteCpp/SQLiteCpp.h>

#include <QTest>
#include <nlohmann/json.hpp>
#include <random>

#include "core/guides/json_fields.h"
#include "core/kinds.h"
#include "core/sheet/sheet.h"
#include "core/study/study_file.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

/// Numbers as they come out of drags, typing and arithmetic gone wrong.
class Numbers {
 public:
  explicit Numbers(unsigned seed) : random_(seed) {}
  double any() {
    switch (random_() % 8) {
      case 0:
        return std::numeric_limits<double>::quiet_NaN();
      case 1:
        return std::numeric_limits<double>::infinity();
      case 2:
        return -1e300;
      case 3:
        return 0;
      case 4:
        return 256.0000001;
      default:
        return std::uniform_real_distribution<double>(-3, 300)(random_);
    }
  }
  int whole() { return static_cast<int>(random_() % 20'001) - 10'000; }
  bool flag() { return random_() % 2 == 0; }
  std::string text(std::size_t longest) {
    static const std::vector<std::string> pieces = {"dune ", "M\xc3\xa4rz", "\xff\xfe", "\xf0\x9f\xaa\x81",
                                                    "\"\\",  "\n"};
    std::string out;
    for (std::size_t n = random_() % longest; out.size() < n;) out += pieces[random_() % pieces.size()];
    return out;
  }
  std::size_t below(std::size_t count) { return random_() % count; }

 private:
  std::mt19937 random_;
};

void scramble(Placement& p, Numbers& n) {
  p = {static_cast<Fit>(n.below(4)),
       n.any(),
       n.any(),
       n.any(),
       n.any(),
       n.any(),
       n.flag(),
       n.flag(),
       static_cast<Fill>(n.below(4)),
       {static_cast<float>(n.any()), 0.5f, -2}};
}

StudyState scrambled(unsigned seed) {
  Numbers n(seed);
  StudyState state;
  state.title = n.text(400);
  state.frame = {n.whole(), n.whole()};
  state.sizeStep = n.whole();
  state.comfort = n.any();
  state.keepTotal = n.flag();
  for (std::size_t i = n.below(4); i > 0; --i) {
    Reference reference;
    reference.id = newId(state, "r");
    reference.name = n.text(200);
    reference.size = {1 + static_cast<int>(n.below(9000)), 1 + static_cast<int>(n.below(9000))};
    reference.content = n.flag() ? "" : "0123abcd";
    scramble(reference.placement, n);
    state.references.push_back(std::move(reference));
  }
  for (std::size_t i = n.below(5); i > 0; --i) {
    Guide guide;
    guide.id = newId(state, "g");
    const Kind& kind = kinds()[n.below(kinds().size())];
    guide.kind = kind.id;
    guide.name = n.text(200);
    guide.weight = n.any();
    guide.on = n.flag();
    guide.range = {n.any(), n.any(), n.any(), n.any(), {}};
    if (n.flag()) guide.range.shape = {{n.any(), n.any()}, {n.any(), n.any()}, {n.any(), n.any()}};
    for (const TuningField& field : *kind.fields) guide.tuning[field.id] = n.any();
    guide.region = {n.flag(), n.any()};
    guide.words = n.text(9000);
    state.guides.push_back(std::move(guide));
  }
  Brief& brief = state.brief;
  brief.prompt = n.text(9000);
  brief.avoid = n.text(9000);
  brief.steps = n.whole();
  brief.guidance = n.any();
  brief.vary = n.any();
  brief.emphasis = {{n.whole(), n.whole(), n.any()}, {3, 8, n.any()}};
  for (std::size_t i = n.below(40); i > 0; --i)
    brief.styles.push_back({n.text(100), n.text(100), n.text(5000), n.any()});
  brief.start.from = static_cast<StartPicture::From>(n.below(4));
  brief.start.reference = "r1";
  brief.start.proof = 7;
  brief.start.change = n.any();
  brief.start.colour = {static_cast<float>(n.any()), 2, -1};
  brief.start.shows = n.text(9000);
  scramble(brief.start.placement, n);
  return state;
}

StudyState mendable() {
  StudyState state;
  state.title = "Wind almanac";
  Reference reference;
  reference.id = newId(state, "r");
  reference.name = "dune.png";
  reference.size = {1200, 800};
  state.references.push_back(reference);
  for (const char* kind : {"edges", "depth"}) {
    Guide guide;
    guide.id = newId(state, "g");
    guide.kind = kind;
    guide.name = kind;
    guide.reference = reference.id;
    guide.region.feather = 3;
    state.guides.push_back(guide);
  }
  state.brief.prompt = "a kite";
  state.brief.styles.push_back({"ink", "Ink", "ink, wash", 1});
  return state;
}

void setSettings(const std::filesystem::path& path, const std::string& json) {
  SQLite::Database database(path.string(), SQLite::OPEN_READWRITE);
  SQLite::Statement statement(database, "UPDATE settings SET json = ?");
  statement.bind(1, json);
  statement.exec();
}

void sqlIn(const std::filesystem::path& path, const std::string& sql) {
  SQLite::Database(path.string(), SQLite::OPEN_READWRITE).exec(sql);
}

bool says(const std::vector<std::string>& sentences, const char* words) {
  return std::any_of(sentences.begin(), sentences.end(),
                     [&](const std::string& s) { return s.find(words) != std::string::npos; });
}

}  // namespace

class MendingTest : public QObject {
  Q_OBJECT
 private slots:
  void whatIsWithinItsLimitsComesBackEqual();
  void recipesOfOtherSizesComeBackEqual();
  void oneBadFieldIsMendedAndSaid_data();
  void oneBadFieldIsMendedAndSaid();
  void whatIsLeftOutIsCarriedAlong();
  void oneBadRowIsLeftOut();
  void cellsThatAreNotThereStandAlone();
  void deepListsAreRefused();
  void idsAreNeverGivenTwice();
};

void MendingTest::whatIsWithinItsLimitsComesBackEqual() {
  for (unsigned seed = 0; seed < 300; ++seed) {
    StudyState state = scrambled(seed);
    keepWithinLimits(state);
    const auto json = stateToJson(state);
    const std::string text = json.dump(-1, ' ', false, nlohmann::json::error_handler_t::strict);
    Mended mended;
    const auto back = stateFromJson(parseJson(text, "state"), &mended);
    QVERIFY2(mended.sentences().empty(), mended.sentences().empty() ? "" : mended.sentences().front().c_str());
    QVERIFY(stateToJson(back) == json);
    QVERIFY(stateToJson(stateFromJson(json)) == json);  // the strict reader, too
    // And so does what would be pulled.
    const auto recipe = recipeToJson(recipeOf(state));
    QVERIFY(recipeToJson(recipeFromJson(recipe)) == recipe);
  }
}

void MendingTest::recipesOfOtherSizesComeBackEqual() {
  for (unsigned seed = 0; seed < 100; ++seed) {
    StudyState state = scrambled(seed);
    keepWithinLimits(state);
    for (Guide& guide : state.guides) guide.on = true, guide.region.feather = limits::feather.most;
    const Recipe recipe = recipeOf(state);
    for (const Size size : {Size{64, 64}, Size{8192, 8192}, Size{519, 345}}) {
      const auto json = recipeToJson(atSize(recipe, size));
      QVERIFY(recipeToJson(recipeFromJson(json)) == json);
    }
  }
}

void MendingTest::oneBadFieldIsMendedAndSaid_data() {
  QTest::addColumn<QString>("pointer");
  QTest::addColumn<QString>("value");
  QTest::addColumn<int>("guides");
  const std::vector<std::array<const char*, 3>> cases = {{"/guides/0/region/feather", "-0.0001", "2"},
                                                         {"/guides/0/weight", "2.0000001", "2"},
                                                         {"/guides/0/weight", "\"heavy\"", "2"},
                                                         {"/guides/0/range/to", "-5", "2"},
                                                         {"/guides/0/range", "[]", "2"},
                                                         {"/guides/1/tuning", "{\"sparkle\": 3}", "2"},
                                                         {"/guides/1/kind", "\"incense\"", "1"},
                                                         {"/guides/0", "null", "1"},
                                                         {"/guides/1/id", "\"g2\"", "1"},
                                                         {"/references/0/width", "-20", "2"},
                                                         {"/references/0/placement", "7", "2"},
                                                         {"/references/0/placement/fit", "\"askew\"", "2"},
                                                         {"/brief/steps", "1000", "2"},
                                                         {"/brief/guidance", "\"much\"", "2"},
                                                         {"/brief/styles", "{}", "2"},
                                                         {"/brief/styles/0/strength", "-1", "2"},
                                                         {"/brief/start", "{\"from\": \"moon\"}", "2"},
                                                         {"/brief/prompt", "17", "2"},
                                                         {"/brief", "3", "2"},
                                                         {"/frame/width", "3", "2"},
                                                         {"/frame", "\"wide\"", "2"},
                                                         {"/comfort", "99", "2"},
                                                         {"/size-step", "0", "2"},
                                                         {"/shown-proof", "-4", "2"},
                                                         {"/discarded", "7", "2"},
                                                         {"/next-id", "1e400", "0"}};
  for (const auto& [pointer, value, guides] : cases)
    if (QString(value) != "1e400")
      QTest::addRow("%s = %s", pointer, value) << pointer << value << QString(guides).toInt();
}

void MendingTest::oneBadFieldIsMendedAndSaid() {
  QFETCH(QString, pointer);
  QFETCH(QString, value);
  QFETCH(int, guides);
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  StudyFile::create(path, mendable());
  auto json = stateToJson(mendable());
  json[nlohmann::json::json_pointer(pointer.toStdString())] = nlohmann::json::parse(value.toStdString());
  setSettings(path, json.dump());
  auto file = StudyFile::open(path);
  StudyState state = file.readState();
  QCOMPARE(static_cast<int>(state.guides.size()), guides);
  QVERIFY2(!file.mended().empty(), "nothing was said");
  QVERIFY(QString::fromStdString(file.mended().front()).endsWith('.'));
  // The rest is as it was, can be worked with, and what is written is sound.
  QCOMPARE(state.title, std::string("Wind almanac"));
  file.writeState(state);
  const auto again = StudyFile::open(path);
  static_cast<void>(again.readState());
  QVERIFY(again.mended().empty());
}

void MendingTest::whatIsLeftOutIsCarriedAlong() {
  auto json = stateToJson(mendable());
  json["guides"][1]["kind"] = "incense";
  Mended mended;
  StudyState state = stateFromJson(json, &mended);
  QCOMPARE(state.guides.size(), std::size_t{1});
  QVERIFY(says(mended.sentences(), "incense"));
  const auto back = stateToJson(state);
  QCOMPARE(back.at("left-out").size(), std::size_t{1});
  QVERIFY(back.at("left-out").at(0).at("entry") == json["guides"][1]);
  QVERIFY(stateFromJson(back).guides.size() == 1);
}

void MendingTest::oneBadRowIsLeftOut() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  auto file = StudyFile::create(path, mendable());
  ProofInfo info;
  info.recipe = recipeOf(mendable());
  info.holds = {{"g2", 40}};
  const Bytes png = encodePng(Image<Rgb8>(8, 8).view());
  for (int i = 0; i < 4; ++i) file.addProof(info, png, png);
  SheetInfo sheet;
  sheet.plan.base = info.recipe;
  sheet.plan.seeds = {1, 2};
  for (int i = 0; i < 2; ++i) file.addSheet(sheet);
  sqlIn(path,
        "UPDATE proofs SET recipe = 'no recipe' WHERE number = 1;"
        "UPDATE proofs SET recipe = replace(recipe, '\"feather\":3.0', '\"feather\":256.0000001') WHERE number = 2;"
        "UPDATE proofs SET holds = '[3' WHERE number = 3;"
        "UPDATE proofs SET holds = '{\"g2\": 4000, \"gone\": 3, \"odd\": \"x\"}', shift = -20 WHERE number = 4;"
        "UPDATE sheets SET plan = '{}' WHERE number = 1; UPDATE sheets SET waiting = '{' WHERE number = 2;");
  const auto opened = StudyFile::open(path, StudyFile::Access::read);
  const auto proofs = opened.proofs();
  QCOMPARE(proofs.size(), std::size_t{3});
  QCOMPARE(proofs[0].number, 2);
  QCOMPARE(proofs[0].recipe.guides[0].guide.region.feather, limits::feather.most);
  QVERIFY(proofs[1].holds.empty());
  QCOMPARE(proofs[2].holds.at("g2"), 100.0);
  QCOMPARE(*proofs[2].shift, 0.0);
  QCOMPARE(opened.sheets().size(), std::size_t{1});
  for (const char* words : {"Proof 1", "Proof 2", "Proof 3", "Sheet 1"}) QVERIFY2(says(opened.mended(), words), words);
  // Its picture is in the file still.
  QVERIFY(!opened.proofPng(1).empty());
  // And proofs can be kept as before.
  file = StudyFile::open(path);
  QCOMPARE(file.addProof(info, png, png), 5);
}

void MendingTest::cellsThatAreNotThereStandAlone() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  auto file = StudyFile::create(path, mendable());
  SheetInfo sheet;
  sheet.plan.base = recipeOf(mendable());
  sheet.plan.seeds = {1, 2, 3};
  ProofInfo info;
  info.recipe = sheet.plan.base;
  info.sheet = file.addSheet(sheet);
  const Bytes png = encodePng(Image<Rgb8>(8, 8).view());
  for (const int cell : {2, -1, 3}) {
    info.cell = cell;
    file.addProof(info, png, png);
  }
  info.sheet = 77;
  info.cell = 0;
  file.addProof(info, png, png);
  const auto proofs = file.proofs();
  QCOMPARE(proofs.size(), std::size_t{4});
  QCOMPARE(proofs[0].cell, 2);
  for (std::size_t i = 1; i < 4; ++i) QVERIFY(proofs[i].sheet == 0 && proofs[i].cell == 0);
  QVERIFY(says(file.mended(), "cell -1 of sheet 1"));
}

void MendingTest::deepListsAreRefused() {
  const std::string deep = std::string(100'000, '[') + std::string(100'000, ']');
  QVERIFY(fixtures::problemOf([&] { parseJson(deep, "The list"); }).contains("deep"));
  QVERIFY(fixtures::problemOf([&] { parseJson(std::string(50'000, '{'), "The list"); }).contains("deep"));
  // Brackets in texts are none.
  QCOMPARE(parseJson("\"" + std::string(100'000, '[') + "\\\"[\"", "A text").get<std::string>().size(),
           std::size_t{100'002});
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  StudyFile::create(path, mendable());
  setSettings(path, deep);
  QVERIFY(fixtures::problemOf([&] { StudyFile::open(path); }).contains("deep"));
}

void MendingTest::idsAreNeverGivenTwice() {
  auto json = stateToJson(mendable());
  json["next-id"] = 1;
  StudyState state = stateFromJson(json);
  QVERIFY(state.guide(newId(state, "g")) == nullptr);
  json["next-id"] = std::numeric_limits<std::int64_t>::max();
  Mended mended;
  state = stateFromJson(json, &mended);
  for (int i = 0; i < 3; ++i) QVERIFY(state.guide(newId(state, "g")) == nullptr);
}

HSCAFFOLD_TEST(MendingTest)
#include "mending_test.moc"
