// `hscaffold mood`, `study lights`, `map tone --lights`, `map detail`, and wanted colours of `study brief`.
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>

#include "core/brief/recipe.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/mood/transport.h"
#include "fixtures.h"
#include "program.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::run;

class LightCliTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void moodsAreWritten();
  void lightsLieInTheStudy();
  void tonesAndDetailsAreMade();
  void briefsWantColoursAndMoods();
  void whatIsWrongChangesNothing_data();
  void whatIsWrongChangesNothing();

 private:
  [[nodiscard]] QString path(const char* name) const { return folder_->filePath(name); }
  [[nodiscard]] Image<Rgb8> picture(const char* name) const {
    return decodePngRgb8(readWholeFile(fixtures::in(*folder_, name)));
  }
  std::unique_ptr<QTemporaryDir> folder_;
};

void LightCliTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  writeFileAtomically(fixtures::in(*folder_, "scene.png"), encodePng(toSrgb8(fixtures::scene(1)).view()));
  Image<Rgb8> rust(96, 64, Rgb8{160, 80, 40});
  for (int y = 0; y < 24; ++y)
    for (auto& c : rust.line(y)) c = {50, static_cast<std::uint8_t>(110 + y), 120};
  writeFileAtomically(fixtures::in(*folder_, "rust.png"), encodePng(rust.view()));
  Image<std::uint16_t> near(96, 64);
  for (int y = 0; y < 64; ++y)
    for (int x = 0; x < 96; ++x) near(x, y) = static_cast<std::uint16_t>(x * 680);
  writeFileAtomically(fixtures::in(*folder_, "near.png"), encodePng(near.view()));
  fixtures::writeFile(fixtures::in(*folder_, "lights.json"),
                      R"({"width": 192, "height": 128, "tint": 0.5, "relight": 0.5, "from": 180, "lights": [
                         {"form": "round", "light": 0.9, "spots": [48, 64, 80, 64]}]})");
}

void LightCliTest::moodsAreWritten() {
  const auto made = run(
      {"mood", path("rust.png"), "-o", path("mood.png"), "--layout", path("scene.png"), "--palette", "4", "--json"});
  QVERIFY2(made.code == 0, made.err);
  const auto report = QJsonDocument::fromJson(made.out).object();
  QCOMPARE(report["palette"].toArray().size(), 4);
  QCOMPARE(report["sorted"].toString(), QString("by-light"));
  const auto mood = picture("mood.png");
  QCOMPARE(mood.size(), fixtures::scene(1).size());
  QVERIFY(mood::colourDistance(toLinear(mood).view(), toLinear(picture("rust.png")).view()) < 3);
  QCOMPARE(run({"mood", path("rust.png"), "-o", path("deep.png"), "--near", path("near.png")}).code, 0);
  QVERIFY(picture("deep.png")(90, 30).r > picture("deep.png")(4, 30).r);
  // What the sorting needs is asked for; nothing wanted is no use.
  QCOMPARE(run({"mood", path("rust.png"), "-o", path("no.png"), "--sorted", "by-colour"}).code, 1);
  QCOMPARE(run({"mood", path("rust.png")}).code, 1);
  QVERIFY(!QFile::exists(path("no.png")));
}

void LightCliTest::lightsLieInTheStudy() {
  const QString study = path("l.scaffold");
  QCOMPARE(run({"study", "new", study, "--size", "192x128", "--reference", path("scene.png"), "--guide", "tone=1",
                "--guide", "edges=0.4"})
               .code,
           0);
  const auto lit = run({"study", "lights", study, "--guide", "Tone", "--hour", "Rope hour", "--file",
                        path("lights.json"), "--near", path("near.png")});
  QVERIFY2(lit.code == 0, lit.err);
  QCOMPARE(run({"study", "export", study, "-o", path("ex")}).code, 0);
  const auto map = picture("ex/map-1-tone.png");
  // In colour, light where the lamp is.
  QVERIFY(map(48, 64).r > 220);
  const auto work = QJsonDocument::fromJson(
                        QByteArray::fromStdString(fixtures::readFile(fixtures::in(*folder_, "ex/work-1-light.json"))))
                        .object();
  QVERIFY(work["lights"].toArray().size() >= 2);
  QCOMPARE(run({"pull", path("ex/recipe.json"), "-o", path("again")}).code, 0);
  QCOMPARE(run({"study", "lights", study, "--guide", "Tone", "--clear"}).code, 0);
  QCOMPARE(run({"study", "lights", study, "--guide", "Edges", "--hour", "Rope hour"}).code, 1);
}

void LightCliTest::tonesAndDetailsAreMade() {
  QCOMPARE(run({"map", "tone", path("scene.png"), "-o", path("plain.png"), "--size", "192x128"}).code, 0);
  QCOMPARE(run({"map", "tone", path("scene.png"), "-o", path("lit.png"), "--size", "192x128", "--lights",
                path("lights.json"), "--near", path("near.png")})
               .code,
           0);
  QVERIFY(!(decodePng(readWholeFile(fixtures::in(*folder_, "plain.png"))).coloured));
  QVERIFY(decodePng(readWholeFile(fixtures::in(*folder_, "lit.png"))).coloured);
  QCOMPARE(run({"map", "detail", path("scene.png"), "-o", path("fine.png"), "--coarsest", "3"}).code, 0);
  const auto fine = picture("fine.png");
  double mean = 0;
  for (int y = 0; y < fine.height(); ++y)
    for (const auto& c : fine.line(y)) mean += c.g;
  QVERIFY(std::abs(mean / static_cast<double>(fine.size().area()) - 128) < 6);
  QCOMPARE(run({"map", "detail", path("scene.png"), "-o", path("fine.png"), "--coarsest", "0"}).code, 1);
}

void LightCliTest::briefsWantColoursAndMoods() {
  const QString study = path("b.scaffold");
  QCOMPARE(
      run({"study", "new", study, "--size", "192x128", "--reference", path("scene.png"), "--reference",
           path("rust.png"), "--guide", "edges@1=0.5", "--guide", "tone@1=0.5", "--prompt", "a field", "--seed", "3"})
          .code,
      0);
  const auto set = run({"study", "brief", study, "--start", "reference:2", "--mood-only", "--blur", "6", "--sorted",
                        "by-light", "--colour", "#a05028", "--colour", "#206070"});
  QVERIFY2(set.code == 0, set.err);
  QCOMPARE(run({"pull", study, "-o", path("out"), "--keep"}).code, 0);
  const Brief brief = recipeFromTexts(decodePng(readWholeFile(fixtures::in(*folder_, "out/seed3.png"))).texts).brief;
  QCOMPARE(brief.colours.size(), std::size_t{2});
  QCOMPARE(brief.start.mood.blur, 6.0);
  QVERIFY(brief.start.mood.sorting == mood::Sorting::byLight);
  QCOMPARE(run({"study", "brief", study, "--start", "guide:Tone", "--colour", "none"}).code, 0);
  QCOMPARE(run({"pull", study, "-o", path("from-tone"), "--keep"}).code, 0);
  const Brief next =
      recipeFromTexts(decodePng(readWholeFile(fixtures::in(*folder_, "from-tone/seed3.png"))).texts).brief;
  QVERIFY(next.start.from == StartPicture::From::guide && next.colours.empty());
}

void LightCliTest::whatIsWrongChangesNothing_data() {
  QTest::addColumn<QStringList>("words");
  QTest::addRow("colour") << QStringList{"study", "brief", "STUDY", "--colour", "rust"};
  QTest::addRow("too many") << QStringList{
      "study",   "brief",    "STUDY",   "--colour", "#000000", "--colour", "#000001", "--colour", "#000002", "--colour",
      "#000003", "--colour", "#000004", "--colour", "#000005", "--colour", "#000006", "--colour", "#000007"};
  QTest::addRow("no start") << QStringList{"study", "brief", "STUDY", "--blur", "6"};
  QTest::addRow("no guide") << QStringList{"study", "brief", "STUDY", "--start", "guide:Moon"};
  QTest::addRow("no such file") << QStringList{"study", "lights", "STUDY", "--guide", "Tone", "--file", "nowhere.json"};
  QTest::addRow("hour") << QStringList{"study", "lights", "STUDY", "--guide", "Tone", "--hour", "Tea time"};
}
void LightCliTest::whatIsWrongChangesNothing() {
  QFETCH(QStringList, words);
  const QString study = path("w.scaffold");
  QCOMPARE(run({"study", "new", study, "--size", "192x128", "--guide", "tone"}).code, 0);
  const auto before = fixtures::readFile(study.toStdString());
  words.replaceInStrings("STUDY", study);
  const auto done = run(words);
  QVERIFY(done.code == 1 || done.code == 2);
  QVERIFY(!done.err.isEmpty());
  QVERIFY(fixtures::readFile(study.toStdString()) == before);
}

HSCAFFOLD_TEST(LightCliTest)
#include "light_cli_test.moc"
