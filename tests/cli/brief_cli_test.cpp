// `hscaffold study brief`, strips over what it sets, and `hscaffold styles`.
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>

#include "core/brief/recipe.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "fixtures.h"
#include "program.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::run;

class BriefCliTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void briefsAreSetAndGoIntoProofs();
  void badBriefsChangeNothing_data();
  void badBriefsChangeNothing();

 private:
  [[nodiscard]] QString path(const char* name) const { return folder_->filePath(name); }
  std::unique_ptr<QTemporaryDir> folder_;
};

void BriefCliTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  writeFileAtomically(fixtures::in(*folder_, "scene.png"), encodePng(toSrgb8(fixtures::scene(1)).view()));
}

void BriefCliTest::briefsAreSetAndGoIntoProofs() {
  const QString study = path("b.scaffold");
  QCOMPARE(run({"study", "new", study, "--size", "192x128", "--reference", path("scene.png"), "--guide", "edges=0.5",
                "--prompt", "a red dune, a tower on a red dune", "--seed", "3"})
               .code,
           0);
  const auto set = run({"study", "brief", study, "--emphasis", "red dune=1.5", "--style", "Lamp soot=0.4", "--style",
                        "tide-chart=0.9", "--start", "reference:1", "--change", "0.45", "--vary", "0.1"});
  QVERIFY2(set.code == 0, set.err);
  QCOMPARE(run({"pull", study, "-o", path("out"), "--keep"}).code, 0);
  const auto content = decodePng(readWholeFile(fixtures::in(*folder_, "out/seed3.png")));
  const Brief brief = recipeFromTexts(content.texts).brief;
  QCOMPARE(brief.emphasis.size(), std::size_t{2});
  QCOMPARE(brief.styles.size(), std::size_t{2});
  QCOMPARE(brief.start.change, 0.45);
  QCOMPARE(brief.vary, 0.1);
  // What was written beside it makes the same proof again, to within what 16 bits keep of the start picture.
  QCOMPARE(run({"study", "export", study, "-o", path("ex")}).code, 0);
  QCOMPARE(run({"pull", path("ex/recipe.json"), "-o", path("again")}).code, 0);
  const auto again = decodePng(readWholeFile(fixtures::in(*folder_, "again/seed3.png")));
  int away = 0;
  for (int y = 0; y < 128; ++y)
    for (int x = 0; x < 192; ++x)
      if (std::abs(again.picture(x, y).g - content.picture(x, y).g) > 3 * 257) ++away;
  QVERIFY2(away <= 192 * 128 / 100, qPrintable(QString::number(away)));
  // From words to words, from the kept proof; a strip over the change amount begins with the proof itself.
  QCOMPARE(run({"study", "brief", study, "--plain", "--no-styles", "--start", "proof:1", "--shows", "day", "--wanted",
                "night"})
               .code,
           0);
  QCOMPARE(run({"pull", study, "-o", path("strip"), "--strip", "change=0..0.5/2"}).code, 0);
  QVERIFY(decodePng(readWholeFile(fixtures::in(*folder_, "strip/seed3-change0.png"))).picture == content.picture);
  QVERIFY(!(decodePng(readWholeFile(fixtures::in(*folder_, "strip/seed3-change0.5.png"))).picture == content.picture));
  const auto list = run({"styles", "--json"});
  QVERIFY(QJsonDocument::fromJson(list.out).object()["styles"].toArray().size() >= 24);
}

void BriefCliTest::badBriefsChangeNothing_data() {
  QTest::addColumn<QStringList>("arguments");
  QTest::addColumn<QString>("said");
  QTest::newRow("phrase that is not there") << QStringList{"--emphasis", "boat=1.2"} << "does not have";
  QTest::newRow("too heavy") << QStringList{"--emphasis", "dune=7"} << "from -1 to 2";
  QTest::newRow("no such style") << QStringList{"--style", "Nobody=1"} << "no style";
  QTest::newRow("no such proof") << QStringList{"--start", "proof:9"} << "9";
  QTest::newRow("no such reference") << QStringList{"--start", "reference:4"} << "no such reference";
  QTest::newRow("odd colour") << QStringList{"--start", "#12345z"} << "not a colour";
  QTest::newRow("change without a start") << QStringList{"--change", "0.3"} << "no start picture";
  QTest::newRow("words without a start") << QStringList{"--shows", "a scarf"} << "no start picture";
}

void BriefCliTest::badBriefsChangeNothing() {
  QFETCH(QStringList, arguments);
  QFETCH(QString, said);
  const QString study = path("b.scaffold");
  QCOMPARE(run({"study", "new", study, "--size", "192x128", "--prompt", "a dune"}).code, 0);
  const auto before = run({"study", "info", study, "--json"}).out;
  const auto done = run(QStringList{"study", "brief", study} + arguments);
  QVERIFY(done.code != 0);
  QVERIFY2(done.err.contains(said.toUtf8()), done.err);
  QCOMPARE(done.err.count('\n'), 1);
  QCOMPARE(run({"study", "info", study, "--json"}).out, before);
}

HSCAFFOLD_TEST(BriefCliTest)
#include "brief_cli_test.moc"
