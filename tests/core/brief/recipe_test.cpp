#include <QTest>
#include <nlohmann/json.hpp>

#include "core/brief/recipe.h"
#include "core/brief/recipe_reader.h"
#include "core/guides/json_fields.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

Recipe example() {
  Recipe recipe;
  recipe.engine = "stand-in 3";
  recipe.frame = {512, 768};
  recipe.brief.prompt = "a kite over Pellamere, \"gouache\" ü";
  recipe.brief.avoid = "rain";
  recipe.brief.seed = 4294967295U;
  recipe.brief.steps = 33;
  recipe.brief.guidance = 7.25;
  recipe.brief.emphasis = {{2, 4, 1.35}, {12, 8, -0.5}};
  recipe.brief.styles = {{"lamp-soot", "Lamp soot", "ink, dark", 0.55}, {"mine", "Mine ü", "gouache", 1.5}};
  recipe.brief.start.from = StartPicture::From::reference;
  recipe.brief.start.reference = "r1";
  recipe.brief.start.placement.turn = 3.5;
  recipe.brief.start.change = 0.45;
  recipe.brief.start.moodOnly = true;
  recipe.brief.start.shows = "a scarf";
  recipe.brief.start.wanted = "a satchel";
  recipe.brief.start.pictureFile = "start.png";
  recipe.brief.vary = 0.15;
  recipe.brief.variation = 7;
  Placement placement;
  placement.fit = Fit::free;
  placement.x = 0.123456789012345;
  placement.turn = -12.5;
  placement.flipDown = true;
  placement.fill = Fill::mirror;
  recipe.references.push_back({"r1", "dune.png", placement});
  RecipeGuide guide;
  guide.guide.id = "g2";
  guide.guide.kind = "edges";
  guide.guide.name = "Dune";
  guide.guide.reference = "r1";
  guide.guide.weight = 0.85;
  guide.guide.range = {10, 70, 5, 20};
  for (const auto& field : *kindOf("edges").fields) guide.guide.tuning[field.id] = field.defaultValue;
  guide.mapDigest = "00ff";
  recipe.guides.push_back(guide);
  RecipeGuide posed;
  posed.guide.id = "g3";
  posed.guide.kind = "pose";
  posed.guide.name = "Flyer";
  posed.guide.tuning = {{"thickness", 120}};
  posed.guide.work.put("figures", "0123");
  posed.guide.work.put("inks", "4567");
  posed.guide.words = "standing, facing left";
  posed.mapDigest = "89ab";
  recipe.guides.push_back(posed);
  return recipe;
}

}  // namespace

class RecipeTest : public QObject {
  Q_OBJECT
 private slots:
  void comesBackWholeFromJson();
  void comesBackFromAPng();
  void mistakesAreNamed_data();
  void mistakesAreNamed();
  void schemaNamesEveryField();
  void picturesWithoutRecipeSaySo();
  void manyAreReadAsEachAlone();
};

void RecipeTest::comesBackWholeFromJson() {
  const auto recipe = example();
  const auto text = recipeToJson(recipe).dump();
  QVERIFY(recipeFromJson(parseJson(text, "x")) == recipe);
  QCOMPARE(recipeToJson(recipeFromJson(parseJson(text, "x"))).dump(), text);
}

void RecipeTest::comesBackFromAPng() {
  const Image<Rgb8> picture(8, 8);
  const auto png = encodePng(picture.view(), textsFor(example()));
  QVERIFY(recipeFromTexts(readPngTexts(png)) == example());
}

void RecipeTest::mistakesAreNamed_data() {
  QTest::addColumn<QString>("pointer");
  QTest::addColumn<QString>("value");  // empty: taken out
  QTest::addColumn<QString>("named");
  QTest::addRow("no seed") << "/brief/seed"
                           << ""
                           << "seed";
  QTest::addRow("negative seed") << "/brief/seed"
                                 << "-1"
                                 << "seed";
  QTest::addRow("broken seed") << "/brief/seed"
                               << "1.5"
                               << "seed";
  QTest::addRow("many steps") << "/brief/steps"
                              << "101"
                              << "steps";
  QTest::addRow("guidance text") << "/brief/guidance"
                                 << "\"much\""
                                 << "guidance";
  QTest::addRow("no prompt") << "/brief/prompt"
                             << ""
                             << "prompt";
  QTest::addRow("heavy phrase") << "/brief/emphasis/0/weight"
                                << "2.5"
                                << "weight";
  QTest::addRow("style twice") << "/brief/styles/1/id"
                               << "\"lamp-soot\""
                               << "twice";
  QTest::addRow("style without words") << "/brief/styles/0/words"
                                       << ""
                                       << "words";
  QTest::addRow("strong style") << "/brief/styles/0/strength"
                                << "1.6"
                                << "strength";
  QTest::addRow("start from nowhere") << "/brief/start/from"
                                      << "\"air\""
                                      << "air";
  QTest::addRow("start without reference") << "/brief/start/reference"
                                           << ""
                                           << "names it";
  QTest::addRow("change") << "/brief/start/change"
                          << "1.5"
                          << "change";
  QTest::addRow("vary") << "/brief/vary/by"
                        << "-1"
                        << "by";
  QTest::addRow("unknown") << "/brief/mood"
                           << "1"
                           << "mood";
  QTest::addRow("unknown at top") << "/colour"
                                  << "1"
                                  << "colour";
  QTest::addRow("weight") << "/guides/0/weight"
                          << "2.5"
                          << "weight";
  QTest::addRow("range") << "/guides/0/range/to"
                         << "5"
                         << "comes before";
  QTest::addRow("kind") << "/guides/0/kind"
                        << "\"smell\""
                        << "smell";
  QTest::addRow("tuning") << "/guides/0/tuning/low"
                          << "3"
                          << "low";
  QTest::addRow("frame") << "/frame/width"
                         << "99999"
                         << "width";
  QTest::addRow("version") << "/recipe"
                           << "9"
                           << "version 9";
  QTest::addRow("guides") << "/guides"
                          << "{}"
                          << "guides";
  QTest::addRow("fit") << "/references/0/placement/fit"
                       << "\"squash\""
                       << "squash";
}

void RecipeTest::mistakesAreNamed() {
  QFETCH(QString, pointer);
  QFETCH(QString, value);
  QFETCH(QString, named);
  auto json = recipeToJson(example());
  const nlohmann::json::json_pointer at(pointer.toStdString());
  if (value.isEmpty())
    json.at(at.parent_pointer()).erase(at.back());
  else
    json[at] = nlohmann::json::parse(value.toStdString());
  const auto problem = fixtures::problemOf([&] { recipeFromJson(json); });
  QVERIFY2(problem.contains(named), qPrintable(problem));
  QVERIFY(problem.endsWith('.'));
}

void RecipeTest::schemaNamesEveryField() {
  // What is written must be described, level by level.
  const auto schema =
      parseJson(fixtures::readFile(std::filesystem::path(HSCAFFOLD_SOURCE) / "docs" / "recipe.schema.json"), "schema");
  const auto& properties = schema.at("properties");
  const auto json = recipeToJson(example());
  for (const auto& [key, value] : json.items()) QVERIFY2(properties.contains(key), key.c_str());
  for (const auto& [key, value] : json.at("brief").items())
    QVERIFY2(properties.at("brief").at("properties").contains(key), key.c_str());
  const auto& start = properties.at("brief").at("properties").at("start").at("properties");
  for (const auto& [key, value] : json.at("brief").at("start").items()) QVERIFY2(start.contains(key), key.c_str());
  for (const char* list : {"emphasis", "styles"}) {
    const auto& entry = properties.at("brief").at("properties").at(list).at("items").at("properties");
    for (const auto& [key, value] : json.at("brief").at(list).at(0).items()) QVERIFY2(entry.contains(key), key.c_str());
  }
  const auto& guide = schema.at("$defs").at("guide").at("properties");
  for (const auto& [key, value] : json.at("guides").at(0).items()) QVERIFY2(guide.contains(key), key.c_str());
  const auto& placement = schema.at("$defs").at("placement").at("properties");
  for (const auto& [key, value] : json.at("references").at(0).at("placement").items())
    QVERIFY2(placement.contains(key), key.c_str());
  QCOMPARE(properties.at("brief").at("properties").at("steps").at("maximum").get<double>(), limits::steps.most);
}

void RecipeTest::picturesWithoutRecipeSaySo() {
  QVERIFY(fixtures::problemOf([] { recipeFromTexts({}); }).contains("no recipe"));
  QVERIFY(fixtures::problemOf([] { recipeFromTexts({{recipeKeyword, "{]"}}); }).contains("not JSON"));
}

void RecipeTest::manyAreReadAsEachAlone() {
  std::vector<std::string> texts;
  const auto whole = recipeToJson(example());
  texts.push_back(whole.dump());
  texts.push_back(whole.dump(3, '\t'));
  const auto with = [&](const std::function<void(nlohmann::json&)>& edit) {
    auto json = whole;
    edit(json);
    texts.push_back(json.dump());
  };
  with([](auto& json) { json["guides"] = nlohmann::json::array(); });
  with([](auto& json) { json["guides"][0]["name"] = R"(a "]}, {[ \\ ü, "guides":[)"; });
  with([](auto& json) { json["brief"]["prompt"] = R"(said "guides":[{"id":"x"}] and \")"; });
  with([](auto& json) { json["engine"] = "guides"; });
  with([](auto& json) { json["guides"].push_back(json["guides"][0]); });
  // What is mended or refused is told alike.
  with([](auto& json) { json["guides"][1]["weight"] = 99; });
  with([](auto& json) { json["guides"][1]["nonsense"] = {1, {2, 3}}; });
  with([](auto& json) { json["guides"][0]["kind"] = "smell"; });
  with([](auto& json) { json["guides"] = 3; });
  with([](auto& json) { json["guides"] = {nullptr, {}, 4, "]"}; });
  with([](auto& json) { json.erase("guides"); });
  with([](auto& json) { json["brief"]["steps"] = -4; });
  const std::string once = texts.front();
  texts.push_back(once.substr(0, once.size() - 3));
  texts.push_back(once.substr(0, once.find("\"guides\"") + 30));
  texts.push_back(once + "]");
  texts.push_back("");
  texts.push_back("[1, 2]");
  texts.push_back(R"({"guides":[,]})");
  texts.push_back(R"({"guides":[)" + std::string(5000, '['));
  const auto outcome = [](const auto& read) {
    Mended mended;
    std::string out;
    try {
      out = recipeToJson(read(&mended)).dump();
    } catch (const Problem& problem) {
      out = problem.what();
    }
    for (const auto& sentence : mended.sentences()) out += "\n" + sentence;
    try {
      out += "\n" + recipeToJson(read(nullptr)).dump();
    } catch (const Problem& problem) {
      out += std::string("\n") + problem.what();
    }
    return out;
  };
  RecipeReader reader;
  for (int round = 0; round < 2; ++round)
    for (const std::string& text : texts) {
      const auto alone =
          outcome([&](Mended* mended) { return recipeFromJson(parseJson(text, "Proof 7, recipe"), mended); });
      const auto read = outcome([&](Mended* mended) { return reader.read(text, "Proof 7, recipe", mended); });
      QVERIFY2(read == alone, (read + "\nnot\n" + alone).c_str());
    }
}

HSCAFFOLD_TEST(RecipeTest)
#include "recipe_test.moc"
