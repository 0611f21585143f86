#include <sqlite3.h>
#include <sys/resource.h>

#include <SQLiteCpp/SQLiteCpp.h>

#include <QTest>
#include <array>
#include <csignal>

#include "core/frame/frame.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/study/checks.h"
#include "core/study/history.h"
#include "core/study/study_file.h"
#include "files/study_job.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

StudyState example() {
  StudyState state;
  state.title = "Wind almanac: März";
  Reference reference;
  reference.id = newId(state, "r");
  reference.name = "dune.png";
  reference.size = {1200, 800};
  state.references.push_back(reference);
  Guide guide;
  guide.id = newId(state, "g");
  guide.kind = "edges";
  guide.name = "Dune";
  guide.reference = reference.id;
  guide.tuning["blur"] = 2.2;
  state.guides.push_back(guide);
  state.looking.guide = guide.id;
  state.brief.prompt = "a kite";
  return state;
}

PictureFile pictureOf(const std::string& content) {
  const auto bytes = bytesOf(content);
  return pictureFile(Bytes(bytes.begin(), bytes.end()));
}

void runSql(const std::filesystem::path& path, const std::string& sql) {
  sqlite3* database = nullptr;
  QCOMPARE(sqlite3_open(path.string().c_str(), &database), SQLITE_OK);
  QCOMPARE(sqlite3_exec(database, sql.c_str(), nullptr, nullptr, nullptr), SQLITE_OK);
  sqlite3_close(database);
}

/// As written: with all tuning spelled out.
bool same(const StudyState& a, const StudyState& b) { return stateToJson(a) == stateToJson(b); }

bool has(const std::vector<Check>& checks, const std::string& start) {
  return std::any_of(checks.begin(), checks.end(), [&](const Check& c) { return c.id.starts_with(start); });
}

}  // namespace

class StudyTest : public QObject {
  Q_OBJECT
 private slots:
  void everyReleasedVersionOpens_data();
  void everyReleasedVersionOpens();
  void mapsOfTheSecondVersionAreMadeAlike();
  void comesBackFromDisk();
  void unknownFieldsSurvive();
  void proofsAreKeptWithTheirRecipes();
  void copiesAreWhole();
  void foreignFilesAreRefusedUnchanged_data();
  void foreignFilesAreRefusedUnchanged();
  void fullDiskLosesNothing();
  void undoAndRedoWithNames();
  void changesOfOneDragAreOneStep();
  void whatIsDraggedAwayAndBackIsSaid();
  void changesThatThrowLeaveNothing();
  void journalsOfOthersAreNotPlayedIn();
  void newStudiesReplaceNothingUnlessAsked();
  void foreignRecipesComeAsSomethingNew();
  void recipesLeaveOutWhatIsOff();
  void adoptingBringsEverythingBack();
  void whatAnEngineDoesNotKnowIsSaid();
  void checksComeAndTheirFixesHelp_data();
  void checksComeAndTheirFixesHelp();
};

void StudyTest::comesBackFromDisk() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  {
    auto file = StudyFile::create(path, example());
    auto changed = example();
    changed.brief.steps = 44;
    file.writeState(changed, {}, std::array{pictureOf("picture")});
  }
  const auto file = StudyFile::open(path);
  const auto state = file.readState();
  QCOMPARE(state.brief.steps, 44);
  QCOMPARE(state.title, std::string("Wind almanac: März"));
  QCOMPARE(state.guides.front().tuning.at("blur").number(), 2.2);
  QCOMPARE(textOf(file.picture(pictureOf("picture").content)), std::string("picture"));
  QVERIFY(fixtures::problemOf([&] { static_cast<void>(file.picture("r9")); }).contains("r9"));
}

void StudyTest::unknownFieldsSurvive() {
  auto json = stateToJson(example());
  json["mood-board"] = {1, 2, 3};
  json["guides"][0]["sparkle"] = true;
  json["references"][0]["origin"] = "beach";
  json["brief"]["tempo"] = "slow";
  auto state = stateFromJson(json);
  state.brief.steps = 31;
  const auto back = stateToJson(state);
  QCOMPARE(back.at("mood-board").size(), std::size_t{3});
  QCOMPARE(back.at("guides").at(0).at("sparkle").get<bool>(), true);
  QCOMPARE(back.at("references").at(0).at("origin").get<std::string>(), std::string("beach"));
  QCOMPARE(back.at("brief").at("tempo").get<std::string>(), std::string("slow"));
}

void StudyTest::proofsAreKeptWithTheirRecipes() {
  QTemporaryDir folder;
  auto file = StudyFile::create(fixtures::in(folder, "a.scaffold"), example());
  ProofInfo info;
  info.recipe = recipeOf(example());
  info.milliseconds = 512.5;
  info.made = "2026-01-02T03:04:05Z";
  info.holds["g2"] = 87.5;
  const auto png = encodePng(Image<Rgb8>(16, 16).view(), textsFor(info.recipe));
  const auto number = file.addProof(info, png, png);
  QCOMPARE(file.addProof(info, png, png), number + 1);
  const auto all = file.proofs();
  QCOMPARE(all.size(), std::size_t{2});
  QVERIFY(all[0].recipe == info.recipe);
  QCOMPARE(all[0].holds.at("g2"), 87.5);
  QCOMPARE(all[0].milliseconds, 512.5);
  QVERIFY(recipeFromTexts(readPngTexts(file.proofPng(number))) == info.recipe);
}

void StudyTest::copiesAreWhole() {
  QTemporaryDir folder;
  auto file = StudyFile::create(fixtures::in(folder, "a.scaffold"), example());
  const auto picture = pictureOf(std::string(300'000, 'p'));
  file.writeState(example(), {}, std::array{picture});
  const auto copy = fixtures::in(folder, "copy.scaffold");
  fixtures::writeFile(copy, "something that is replaced");
  file.copyTo(copy);
  const auto opened = StudyFile::open(copy);
  QVERIFY(same(opened.readState(), example()));
  QCOMPARE(opened.picture(picture.content).size(), std::size_t{300'000});
  QVERIFY(!fixtures::problemOf([&] { file.copyTo("/nowhere/at/all.scaffold"); }).isEmpty());
}

void StudyTest::foreignFilesAreRefusedUnchanged_data() {
  QTest::addColumn<int>("which");
  for (const auto& [name, which] : {std::pair{"text", 0},
                                    {"empty", 1},
                                    {"cut off", 2},
                                    {"scribbled over", 3},
                                    {"other database", 4},
                                    {"newer", 5},
                                    {"folder", 6},
                                    {"missing", 7},
                                    {"settings damaged", 8},
                                    {"no settings", 9}})
    QTest::addRow("%s", name) << which;
}

void StudyTest::foreignFilesAreRefusedUnchanged() {
  QFETCH(int, which);
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "x.scaffold");
  if (which != 6 && which != 7 && which > 1) {
    auto file = StudyFile::create(path, example());
    file.writeState(example(), {}, std::array{pictureOf(std::string(200'000, 'p'))});
  }
  auto content = which > 1 && which != 6 && which != 7 ? fixtures::readFile(path) : std::string();
  switch (which) {
    case 0:
      fixtures::writeFile(path, "Dear diary, this is not a study at all.");
      break;
    case 1:
      fixtures::writeFile(path, "");
      break;
    case 2:
      fixtures::writeFile(path, content.substr(0, content.size() / 3));
      break;
    case 3:
      for (std::size_t i = 4096; i < content.size(); i += 7) content[i] = '#';
      fixtures::writeFile(path, content);
      break;
    case 4:
      runSql(path, "PRAGMA application_id = 77");
      break;
    case 5:
      runSql(path, "PRAGMA user_version = 99");
      break;
    case 6:
      std::filesystem::create_directory(path);
      break;
    case 8:
      runSql(path, "UPDATE settings SET json = '{\"frame\": 3}'");
      break;
    case 9:
      runSql(path, "DELETE FROM settings");
      break;
    default:
      break;
  }
  const bool isFile = std::filesystem::is_regular_file(path);
  const auto before = isFile ? fixtures::readFile(path) : std::string();
  const auto problem = fixtures::problemOf([&] { StudyFile::open(path); });
  QVERIFY2(!problem.isEmpty() && (problem.contains("x.scaffold") || which == 8), qPrintable(problem));
  QVERIFY(problem.endsWith('.'));
  if (isFile) QVERIFY(fixtures::readFile(path) == before);
}

void StudyTest::fullDiskLosesNothing() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  auto file = StudyFile::create(path, example());
  std::signal(SIGXFSZ, SIG_IGN);
  rlimit before{};
  getrlimit(RLIMIT_FSIZE, &before);
  const rlimit small{64 * 1024, before.rlim_max};
  setrlimit(RLIMIT_FSIZE, &small);
  auto larger = example();
  larger.brief.prompt = std::string(3000, 'x');
  const auto picture =
      fixtures::problemOf([&] { file.writeState(larger, {}, std::array{pictureOf(std::string(500'000, 'p'))}); });
  const auto copy = fixtures::problemOf([&] {
    file.writeState(example(), {}, std::array{pictureOf(std::string(30'000, 'q'))});
    file.copyTo(fixtures::in(folder, "b.scaffold"));
    file.writeState(larger, {}, std::array{pictureOf(std::string(60'000, 'r'))});
  });
  setrlimit(RLIMIT_FSIZE, &before);
  QVERIFY2(picture.contains("disk is full") && picture.contains("a.scaffold"), qPrintable(picture));
  QVERIFY2(copy.contains("disk is full"), qPrintable(copy));
  QVERIFY(same(file.readState(), example()));
  file.writeState(larger);
  QVERIFY(same(StudyFile::open(path).readState(), larger));
}

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

void StudyTest::journalsOfOthersAreNotPlayedIn() {
  QTemporaryDir folder;
  // A study that was being written when its program was killed, with its journal beside it.
  const auto path = fixtures::in(folder, "a.scaffold"), other = fixtures::in(folder, "b.scaffold");
  StudyFile::create(path, example());
  std::string journal;
  {
    SQLite::Database database(path.string(), SQLite::OPEN_READWRITE);
    database.exec(
        "PRAGMA cache_size = 1; PRAGMA cache_spill = 1; BEGIN IMMEDIATE;"
        "UPDATE settings SET json = replace(json, 'almanac', 'other');"
        "CREATE TABLE filler (x); INSERT INTO filler VALUES (randomblob(300000));");
    journal = fixtures::readFile(path.string() + "-journal");
    QVERIFY(!journal.empty());
  }
  auto saved = example();
  saved.title = "Saved as";
  const auto from = StudyFile::create(other, saved);
  fixtures::writeFile(path.string() + "-journal", journal);
  from.copyTo(path);
  QVERIFY(!std::filesystem::exists(path.string() + "-journal"));
  QCOMPARE(StudyFile::open(path).readState().title, std::string("Saved as"));
}

void StudyTest::newStudiesReplaceNothingUnlessAsked() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "a.scaffold");
  StudyFile::create(path, example(), std::array{pictureOf("dune")}, {}, StudyFile::Existing::keep);
  QVERIFY(fixtures::problemOf([&] {
            StudyFile::create(path, {}, {}, {}, StudyFile::Existing::keep);
          }).contains("is there already"));
  QVERIFY(same(StudyFile::open(path).readState(), example()));
  // What a program that died in the middle of it left is swept away; nobody has this process number.
  for (const char* left : {".a.scaffold.4194000.new", ".a.scaffold.4194000.new-journal"})
    fixtures::writeFile(fixtures::in(folder, left), "half");
  fixtures::writeFile(fixtures::in(folder, ".a.scaffold.notes"), "mine");
  StudyFile::create(path, example(), std::array{pictureOf("dune")});
  QVERIFY(std::filesystem::remove(fixtures::in(folder, ".a.scaffold.notes")));
  QCOMPARE(textOf(StudyFile::open(path).picture(pictureOf("dune").content)), std::string("dune"));
  // Nothing is left beside it.
  std::size_t files = 0;
  for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder.path().toStdString())) ++files;
  QCOMPARE(files, std::size_t{1});
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

void StudyTest::everyReleasedVersionOpens_data() {
  QTest::addColumn<int>("version");
  for (int version = 1; version < studyVersion; ++version) QTest::addRow("version %d", version) << version;
}

void StudyTest::everyReleasedVersionOpens() {
  QFETCH(int, version);
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "old.scaffold");
  runSql(path, fixtures::readFile(fixtures::kept("study-" + std::to_string(version) + ".sql")));
  // For looking it is read as it is.
  const auto before = fixtures::readFile(path);
  QVERIFY(StudyFile::open(path, StudyFile::Access::read).sheets().empty());
  QVERIFY(StudyFile::open(path, StudyFile::Access::read).proofs().size() <= 1);
  QVERIFY(fixtures::readFile(path) == before);
  auto file = StudyFile::open(path);
  auto state = file.readState();
  QVERIFY(state.guides.size() >= 2);
  const Guide& edges = state.guides.front();
  QCOMPARE(edges.name, std::string("Sun edges"));
  QVERIFY(edges.range == (Range{10, 80, 5, 20}));
  QVERIFY(!file.picture(edges.reference).empty());
  EditStore store([&](const std::string& id) { return file.edit(id); });
  for (const Guide& guide : state.guides) QVERIFY(editsOf(guide, store).missing.empty());
  // What is written now is read again, hand work and all.
  state.brief.steps = 31;
  state.comfort = 2.25;
  state.held = {state.guides[0].id};
  state.kept = {7, 3};
  state.looking.sheet = -1;
  file.writeState(state);
  QVERIFY(same(StudyFile::open(path).readState(), state));
  // Sheets are new in version 4.
  SheetInfo sheet;
  sheet.made = "2031-03-01T08:00:00Z";
  sheet.plan.base = recipeOf(state);
  sheet.plan.axes = {axisOver(Setting::weight, state.guides[0].id, 0.2, 1, 3)};
  sheet.plan.seeds = {1, 2};
  sheet.waiting = {4, 5, 1};
  const std::int64_t number = file.addSheet(sheet);
  ProofInfo cell;
  cell.made = sheet.made;
  cell.recipe = hscaffold::recipeOf(sheet.plan, 4);
  cell.sheet = number;
  cell.cell = 4;
  cell.shift = 41.5;
  file.addProof(cell, {}, {});
  const auto again = StudyFile::open(path);
  QCOMPARE(again.sheets().size(), std::size_t{1});
  QVERIFY(again.sheets()[0].plan == sheet.plan && again.sheets()[0].waiting == sheet.waiting);
  QCOMPARE(again.proofs().back().sheet, number);
  QCOMPARE(again.proofs().back().cell, 4);
  QCOMPARE(*again.proofs().back().shift, 41.5);
  file.setWaiting(number, {});
  QVERIFY(file.sheets()[0].waiting.empty());
  if (version < 2) return;
  QVERIFY(edges.work.has(retouchSlot) && edges.limited() && edges.retouchHidden);
  QVERIFY(edges.region.inverted);
  QCOMPARE(edges.region.feather, 3.0);
  QCOMPARE(state.guides[2].words, std::string("standing"));
  QVERIFY(state.guides[2].work.has("inks"));
  const auto proofs = file.proofs();
  QCOMPARE(proofs.size(), std::size_t{2});  // the one that was there, and the cell
  QVERIFY(!proofs[0].shift.has_value());
  QVERIFY(proofs[0].recipe.guides[0].guide.work == edges.work);
}

void StudyTest::mapsOfTheSecondVersionAreMadeAlike() {
  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "old.scaffold");
  runSql(path, fixtures::readFile(fixtures::kept("study-2.sql")));
  const auto file = StudyFile::open(path);
  const auto made = jobFor(file, recipeOf(file.readState()));
  const auto then = recipeFromJson(parseJson(fixtures::readFile(fixtures::kept("recipe-1.json")), "recipe"));
  QCOMPARE(made.job.recipe.guides.size(), then.guides.size());
  for (std::size_t i = 0; i < then.guides.size(); ++i)
    QCOMPARE(made.job.recipe.guides[i].mapDigest, then.guides[i].mapDigest);
}

HSCAFFOLD_TEST(StudyTest)
#include "study_test.moc"
