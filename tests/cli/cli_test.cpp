#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QSet>
#include <QTest>

#include "core/brief/recipe.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/pose/skeleton.h"
#include "core/stage/animal.h"
#include "core/stage/body.h"
#include "core/stage/raster.h"
#include "fixtures.h"
#include "program.h"
#include "test_program.h"

using namespace hscaffold;

using fixtures::Run;
using fixtures::run;

class CliTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void mapsLinesAsPictureAndStrokes();
  void retouchesFromTheCommandLine();
  void mapsEdgesWithAReport();
  void patternsAreMadeAndScanned();
  void mapsFromStandardInputToOutput();
  void tuningComesFromFlags();
  void badInputGivesOneSentenceAndNoFile_data();
  void badInputGivesOneSentenceAndNoFile();
  void badUsageIsTwo();
  void decimalsAreReadAlikeUnderACommaLocale();
  void fullDiskIsThreeAndLeavesNothing();
  void studyFromNewToProof();
  void proofsRepeatFromTheirRecipes();
  void stripsCoverTheirValues();
  void sheetsAreListedExportedAndMeasured();
  void checksAreListed();
  void posesAreMadeMappedAndTold();
  void peopleAndAnimalsAreFoundInPictures();
  void figuresGoIntoAStudyAndItsProof();
  void badFiguresGiveOneSentenceAndNoFile();

 private:
  QString path(const char* name) const { return folder_->filePath(name); }
  std::unique_ptr<QTemporaryDir> folder_;
};

void CliTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  writeFileAtomically(fixtures::in(*folder_, "scene.png"), encodePng(toSrgb8(fixtures::scene(1)).view()));
}

void CliTest::patternsAreMadeAndScanned() {
  const auto made = run({"pattern", "code", "--says", "a fair wind", "--size", "320x320", "-o", path("code.png")});
  QVERIFY2(made.code == 0, made.err);
  QCOMPARE(QImage(path("code.png")).size(), QSize(320, 320));
  const auto scan = run({"--json", "scan", path("code.png")});
  QVERIFY2(scan.code == 0, scan.err);
  const auto json = QJsonDocument::fromJson(scan.out).object();
  QCOMPARE(json["text"].toString(), QString("a fair wind"));
  QVERIFY(json["margin"].toDouble() > 80);
  QCOMPARE(json["ways"].toObject().size(), 11);
  const auto other = run({"scan", path("code.png"), "--says", "a foul wind"});
  QVERIFY(other.code == 0 && other.out.contains("no code that says so"));
  QVERIFY(run({"scan", path("scene.png")}).out.contains("no code reads"));
  // What cannot be a code is refused, and nothing is written.
  const auto tooLong =
      run({"pattern", "code", "--says", QString(1300, 'x'), "--size", "320x320", "-o", path("no.png")});
  QVERIFY(tooLong.code == 1 && tooLong.err.contains("27 letters too long") && !QFile::exists(path("no.png")));
  QCOMPARE(run({"pattern", "code", "--size", "320x320", "-o", path("no.png")}).code, 2);
  const auto outside =
      run({"pattern", "code", "--says", "x", "--module", "64", "--size", "320x320", "-o", path("o.png")});
  QVERIFY(outside.code == 0 && outside.err.contains("outside of the frame"));
  // Shapes and pictures; a study's guide of the kind needs no reference.
  QCOMPARE(run({"pattern", "rose", "--size", "160x120", "-o", path("rose.png")}).code, 0);
  QCOMPARE(run({"pattern", "picture", path("scene.png"), "-o", path("parted.png")}).code, 0);
  QCOMPARE(QImage(path("parted.png")).size(), QImage(path("scene.png")).size());
  QCOMPARE(run({"study", "new", path("p.scaffold"), "--size", "320x320", "--guide", "pattern"}).code, 0);
}

void CliTest::mapsEdgesWithAReport() {
  const auto done = run({"map", "edges", path("scene.png"), "-o", path("map.png"), "--size", "256x192", "--fit",
                         "contain", "--report", path("report.json")});
  QVERIFY2(done.code == 0, done.err);
  const QImage map(path("map.png"));
  QCOMPARE(map.size(), QSize(256, 192));
  QCOMPARE(map.depth(), 8);
  const auto report =
      QJsonDocument::fromJson(QByteArray::fromStdString(fixtures::readFile(path("report.json").toStdString())))
          .object();
  QVERIFY(report["milliseconds"].toDouble() > 0);
  QCOMPARE(report["frame"].toObject()["width"].toInt(), 256);
  QCOMPARE(report["tuning"].toObject()["thresholds"].toString(), QString("automatic"));
  QVERIFY(report["thresholds-used"].toObject()["high"].toDouble() > 0);
}

void CliTest::mapsLinesAsPictureAndStrokes() {
  for (const char* kind : {"lines", "loose"}) {
    QCOMPARE(run({"map", kind, path("scene.png"), "-o", path("map.png"), "--ink", "60"}).code, 0);
    QVERIFY(!QImage(path("map.png")).isNull());
    const auto done = run(
        {"map", kind, path("scene.png"), "-o", path("map.svg"), "--report", path("r.json"), "--svg-tolerance", "2"});
    QVERIFY2(done.code == 0, done.err);
    const auto svg = QString::fromStdString(fixtures::readFile(path("map.svg").toStdString()));
    const auto report =
        QJsonDocument::fromJson(QByteArray::fromStdString(fixtures::readFile(path("r.json").toStdString()))).object();
    QCOMPARE(svg.count("<path"), report["strokes"].toInt());
    QVERIFY(svg.count("<path") > 3);
    QCOMPARE(report["found"].toString(), QString("photograph"));
  }
  // Blank paper is answered with a sentence and an empty map.
  QImage blank(300, 200, QImage::Format_RGB32);
  blank.fill(Qt::white);
  blank.save(path("blank.png"));
  const auto done = run({"map", "lines", path("blank.png"), "-o", path("none.png")});
  QCOMPARE(done.code, 0);
  QVERIFY(done.err.contains("next to no line"));
  QVERIFY(run({"map", "lines", path("scene.png"), "-o", path("x.png"), "--weight", "heavy"}).code != 0);
}

void CliTest::retouchesFromTheCommandLine() {
  const auto study = path("r.scaffold");
  QCOMPARE(
      run({"study", "new", study, "--reference", path("scene.png"), "--guide", "lines=0.8", "--size", "480x320"}).code,
      0);
  const auto exported = [&](const char* folder) {
    run({"study", "export", study, "-o", path(folder)});
    return QImage(path(folder) + "/map-1-lines.png").convertToFormat(QImage::Format_Grayscale8);
  };
  const QImage before = exported("a");
  QCOMPARE(run({"study", "retouch", study, "--guide", "Line art", "--drop", "0,0 480,0 480,160 0,160"}).code, 0);
  const QImage after = exported("b");
  // There is something in both halves, or it could not be seen what went and what stayed.
  const auto inked = [](const QImage& map, int from, int to) {
    int count = 0;
    for (int y = from; y < to; ++y)
      for (int x = 0; x < map.width(); ++x) count += qGray(map.pixel(x, y)) > 127 ? 1 : 0;
    return count;
  };
  QVERIFY(inked(before, 0, 159) > 200 && inked(before, 161, 320) > 200);
  QCOMPARE(inked(after, 0, 159), 0);
  QCOMPARE(inked(after, 161, 320), inked(before, 161, 320));
  for (int x = 0; x < 480; ++x) {
    QCOMPARE(qGray(after.pixel(x, 80)), 0);
    QCOMPARE(after.pixel(x, 250), before.pixel(x, 250));
  }
  // It stays when the tuning changes, and goes when it is cleared.
  QCOMPARE(run({"study", "set", study, "--guide", "Line art", "--tuning", "ink=70"}).code, 0);
  QCOMPARE(qGray(exported("c").pixel(240, 80)), 0);
  QCOMPARE(run({"study", "set", study, "--guide", "Line art", "--tuning", "ink=50"}).code, 0);
  QCOMPARE(run({"study", "retouch", study, "--guide", "Line art", "--clear"}).code, 0);
  QVERIFY(exported("d") == before);
  QCOMPARE(run({"study", "retouch", study, "--guide", "Nobody", "--specks", "9"}).code, 1);
  QCOMPARE(run({"study", "retouch", study, "--guide", "Line art", "--keep", "1,1 2"}).code, 1);
}

void CliTest::mapsFromStandardInputToOutput() {
  const auto bytes = fixtures::readFile(fixtures::in(*folder_, "scene.png"));
  const auto done = run({"map", "tone", "-", "-o", "-"}, QByteArray::fromStdString(bytes));
  QVERIFY2(done.code == 0, done.err);
  const auto picture =
      decodePng(std::as_bytes(std::span(done.out.constData(), static_cast<std::size_t>(done.out.size())))).picture;
  QCOMPARE(picture.size(), fixtures::scene(1).size());
}

void CliTest::tuningComesFromFlags() {
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", path("a.png"), "--high", "0.4"}).code, 0);
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", path("b.png"), "--high", "0.05", "--low", "0.02", "--gradient",
                "colour"})
               .code,
           0);
  const auto share = [](const QImage& image) {
    int count = 0;
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) count += qGray(image.pixel(x, y)) > 128;
    return count;
  };
  QVERIFY(share(QImage(path("b.png"))) > 2 * share(QImage(path("a.png"))));
}

void CliTest::badInputGivesOneSentenceAndNoFile_data() {
  QTest::addColumn<QStringList>("arguments");
  QTest::addColumn<QString>("says");
  QTest::addRow("no file") << QStringList{"map", "edges", "none.png", "-o", "OUT"} << "none.png";
  QTest::addRow("text") << QStringList{"map", "edges", "TEXT", "-o", "OUT"} << "text.png";
  QTest::addRow("folder") << QStringList{"map", "edges", "/", "-o", "OUT"} << "folder";
  QTest::addRow("range") << QStringList{"map", "edges", "SCENE", "-o", "OUT", "--blur", "900"} << "blur";
  QTest::addRow("number") << QStringList{"map", "edges", "SCENE", "-o", "OUT", "--blur", "lots"} << "lots";
  QTest::addRow("choice") << QStringList{"map", "edges", "SCENE", "-o", "OUT", "--gradient", "up"} << "up";
  QTest::addRow("size") << QStringList{"map", "edges", "SCENE", "-o", "OUT", "--size", "12by9"} << "12by9";
  QTest::addRow("study") << QStringList{"study", "info", "TEXT"} << "not a study";
  QTest::addRow("recipe") << QStringList{"pull", "TEXT.json", "-o", "OUT"} << "not JSON";
  QTest::addRow("no recipe") << QStringList{"pull", "SCENE", "-o", "OUT"} << "no recipe";
  QTest::addRow("exists") << QStringList{"study", "new", "SCENE"} << "already";
}

void CliTest::badInputGivesOneSentenceAndNoFile() {
  QFETCH(QStringList, arguments);
  QFETCH(QString, says);
  fixtures::writeFile(fixtures::in(*folder_, "text.png"), "no picture");
  fixtures::writeFile(fixtures::in(*folder_, "text.json"), "no json");
  for (QString& argument : arguments) {
    if (argument == "OUT") argument = path("out");
    if (argument == "TEXT") argument = path("text.png");
    if (argument == "TEXT.json") argument = path("text.json");
    if (argument == "SCENE") argument = path("scene.png");
  }
  const auto done = run(arguments);
  QCOMPARE(done.code, 1);
  QVERIFY2(QString(done.err).contains(says), done.err);
  QCOMPARE(done.err.count('\n'), 1);
  QVERIFY(!QFileInfo::exists(path("out")) || QDir(path("out")).isEmpty());
}

void CliTest::decimalsAreReadAlikeUnderACommaLocale() {
  // One in which 0.8 is written 0,8.
  const QString locales = path("locales");
  QVERIFY(QDir().mkpath(locales));
  QProcess::execute("localedef", {"-i", "de_DE", "-f", "UTF-8", locales + "/de_DE.UTF-8"});
  QVERIFY2(QDir(locales + "/de_DE.UTF-8").exists(), "the package locales is missing");
  qputenv("LOCPATH", locales.toUtf8());
  qputenv("LC_ALL", "de_DE.UTF-8");
  const auto restore = qScopeGuard([] {
    qunsetenv("LOCPATH");
    qunsetenv("LC_ALL");
  });
  const QString study = path("a.scaffold");
  const auto make = run({"study", "new", study, "--reference", path("scene.png"), "--guide", "edges=0.8"});
  QVERIFY2(make.code == 0, make.err);
  const auto set = run({"study", "set", study, "--guide", "Edges", "--weight", "0.55", "--ramp-in", "2.5", "--tuning",
                        "blur=1.75", "--guidance", "7.25"});
  QVERIFY2(set.code == 0, set.err);
  // A free shape takes the place of ramps; a wrong one changes nothing; none brings ramps back.
  const auto shaped = run({"study", "set", study, "--guide", "Edges", "--shape", "10:0.25,42.5:1,90:0"});
  QVERIFY2(shaped.code == 0, shaped.err);
  const auto rangeNow = [&] {
    const auto all = QJsonDocument::fromJson(run({"--json", "study", "info", study}).out).object();
    return all["guides"].toArray()[0].toObject()["range"].toObject();
  };
  QCOMPARE(rangeNow()["shape"].toArray().size(), 3);
  QCOMPARE(rangeNow()["from"].toDouble(), 10.0);
  QCOMPARE(run({"study", "set", study, "--guide", "Edges", "--shape", "50:1,20:0"}).code, 1);
  QCOMPARE(rangeNow()["shape"].toArray().size(), 3);
  QCOMPARE(run({"study", "set", study, "--guide", "Edges", "--shape", "", "--ramp-in", "2.5"}).code, 0);
  QVERIFY(!rangeNow().contains("shape"));
  const auto retouch = run({"study", "retouch", study, "--guide", "Edges", "--drop", "10.5,10.5 90.5,10 90,90.5"});
  QVERIFY2(retouch.code == 0, retouch.err);
  const auto pose = run({"pose", "make", "--pose", "Walking/45.5@10.5,10.5,80.5,150.25", "-o", path("p.json")});
  QVERIFY2(pose.code == 0, pose.err);
  const auto map =
      run({"map", "edges", path("scene.png"), "-o", path("m.svg"), "--svg-tolerance", "1.5", "--high", "0.2"});
  QVERIFY2(map.code == 0, map.err);
  QVERIFY(fixtures::readFile(path("m.svg").toStdString()).find(',') == std::string::npos);
  const auto strip = run({"pull", study, "-o", path("proofs"), "--strip", "weight:Edges=0.25..0.75/2"});
  QVERIFY2(strip.code == 0, strip.err);
  const auto info = QJsonDocument::fromJson(run({"--json", "study", "info", study}).out).object();
  const auto guide = info["guides"].toArray()[0].toObject();
  QCOMPARE(guide["weight"].toDouble(), 0.55);
  QCOMPARE(guide["range"].toObject()["ramp-in"].toDouble(), 2.5);
  QCOMPARE(guide["tuning"].toObject()["blur"].toDouble(), 1.75);
  QCOMPARE(info["brief"].toObject()["guidance"].toDouble(), 7.25);
}

void CliTest::badUsageIsTwo() {
  QCOMPARE(run({}).code, 2);
  QCOMPARE(run({"map", "edges"}).code, 2);
  QCOMPARE(run({"map", "smells", "x", "-o", "y"}).code, 2);
  QCOMPARE(run({"pull", "x", "-o", "y", "--count", "none"}).code, 2);
  QCOMPARE(run({"--help"}).code, 0);
  QCOMPARE(run({"map", "edges", "--help"}).code, 0);
}

void CliTest::fullDiskIsThreeAndLeavesNothing() {
  const auto done = run({"map", "tone", path("scene.png"), "-o", path("map.png")}, {}, 2000);
  QCOMPARE(done.code, 3);
  QVERIFY2(done.err.contains("map.png"), done.err);
  QCOMPARE(QDir(folder_->path()).entryList(QDir::Files | QDir::Hidden), QStringList{"scene.png"});
}

void CliTest::studyFromNewToProof() {
  QCOMPARE(
      run({"study", "new", path("a.scaffold"), "--title", "Tide", "--size", "384x256", "--reference", path("scene.png"),
           "--guide", "edges=0.8", "--guide", "tone@1=0.3", "--prompt", "tea house, ink", "--seed", "12"})
          .code,
      0);
  const auto info = run({"study", "info", path("a.scaffold"), "--json"});
  const auto json = QJsonDocument::fromJson(info.out).object();
  QCOMPARE(json["title"].toString(), QString("Tide"));
  QCOMPARE(json["guides"].toArray().size(), 2);
  const auto pulled = run({"pull", path("a.scaffold"), "-o", path("proofs"), "--count", "2", "--json"});
  QVERIFY2(pulled.code == 0, pulled.err);
  QCOMPARE(QJsonDocument::fromJson(pulled.out).array().size(), 2);
  QCOMPARE(QImage(path("proofs/seed13.png")).size(), QSize(384, 256));
  const auto recipe = recipeFromTexts(readPngTexts(readWholeFile(path("proofs/seed12.png").toStdString())));
  QCOMPARE(recipe.brief.seed, 12U);
  QCOMPARE(recipe.guides[0].guide.weight, 0.8);
  QVERIFY(!recipe.guides[0].mapDigest.empty());
  QCOMPARE(
      run({"study", "set", path("a.scaffold"), "--guide", "Edges", "--to", "40", "--weight", "0.5", "--steps", "9"})
          .code,
      0);
  QCOMPARE(run({"study", "set", path("a.scaffold"), "--guide", "Edges", "--to", "400"}).code, 2);
  QCOMPARE(run({"study", "set", path("a.scaffold"), "--guide", "Nobody", "--to", "40"}).code, 1);
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("kept"), "--keep"}).code, 0);
  QVERIFY(run({"study", "info", path("a.scaffold")}).out.contains("proofs      1"));
  // A study that cannot be completed is not left half made.
  QCOMPARE(run({"study", "new", path("b.scaffold"), "--reference", path("none.png")}).code, 1);
  QVERIFY(!QFileInfo::exists(path("b.scaffold")));
}

void CliTest::proofsRepeatFromTheirRecipes() {
  run({"study", "new", path("a.scaffold"), "--size", "256x192", "--reference", path("scene.png"), "--guide",
       "edges=0.8", "--prompt", "sea", "--seed", "5"});
  run({"pull", path("a.scaffold"), "-o", path("one")});
  QCOMPARE(run({"study", "export", path("a.scaffold"), "-o", path("parts")}).code, 0);
  const auto again = run({"pull", path("parts/recipe.json"), "-o", path("two")});
  QVERIFY2(again.code == 0 && !again.err.contains("differ"), again.err);
  QCOMPARE(QImage(path("one/seed5.png")), QImage(path("two/seed5.png")));
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("three")}).code, 0);
  QVERIFY(fixtures::readFile(path("one/seed5.png").toStdString()) ==
          fixtures::readFile(path("three/seed5.png").toStdString()));
}

void CliTest::stripsCoverTheirValues() {
  run({"study", "new", path("a.scaffold"), "--size", "128x96", "--reference", path("scene.png"), "--guide", "edges"});
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("strip"), "--strip", "weight:Edges=0.2..1/3", "--strip",
                "end:Edges=20..100/2"})
               .code,
           0);
  QCOMPARE(QDir(path("strip")).entryList({"*.png"}).size(), 6);
  for (const char* wrong :
       {"weight=0..1/3", "weight:Edges=0..1", "smell:Edges=0..1/3", "weight:Edges=0..9/3", "weight:Nobody=0..1/2"})
    QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("strip2"), "--strip", wrong}).code, 1);
}

void CliTest::sheetsAreListedExportedAndMeasured() {
  const QString study = path("a.scaffold");
  run({"study", "new", study, "--size", "192x128", "--reference", path("scene.png"), "--guide", "edges", "--prompt",
       "a tea house, gouache"});
  QCOMPARE(run({"sheet", "export", study, "-o", path("none.csv")}).code, 1);  // there is none yet
  const auto pulled = run({"--json", "pull", study, "-o", path("out"), "--keep", "--longest", "96", "--strip",
                           "weight:Edges=0.1,0.6,1", "--strip", "prompt=a dune|a harbour at night"});
  QVERIFY2(pulled.code == 0, pulled.err);
  const auto proofs = QJsonDocument::fromJson(pulled.out).array();
  QCOMPARE(proofs.size(), 6);
  QVERIFY(proofs[0].toObject()["shift"].toDouble() > 0);
  QCOMPARE(QImage(proofs[0].toObject()["file"].toString()).size(), QSize(96, 64));
  const auto list = QJsonDocument::fromJson(run({"--json", "sheet", "list", study}).out).array();
  QCOMPARE(list.size(), 1);
  QCOMPARE(list[0].toObject()["proofs"].toInt(), 6);
  QVERIFY(!list[0].toObject()["reading"].toObject()["sentence"].toString().isEmpty());
  for (const char* name : {"s.png", "s.html", "s.csv"}) {
    const auto written = run({"sheet", "export", study, "-o", path(name)});
    QVERIFY2(written.code == 0, written.err);
  }
  QVERIFY(QImage(path("s.png")).width() > 500);
  QCOMPARE(fixtures::readFile(path("s.csv").toStdString()).find("proof,settings"), std::size_t{0});
  QCOMPARE(run({"sheet", "export", study, "-o", path("s.doc")}).code, 1);
  QVERIFY(!QFile::exists(path("s.doc")));
  // A proof is measured as it was when it was pulled; any other picture by what the study has now.
  const auto measured =
      QJsonDocument::fromJson(run({"--json", "measure", study, proofs[4].toObject()["file"].toString()}).out).object();
  const auto then = proofs[4].toObject();
  for (const auto& id : then["holds"].toObject().keys())
    QVERIFY(std::abs(measured["holds"].toObject()[id].toDouble() - then["holds"].toObject()[id].toDouble()) < 1e-6);
  QVERIFY(std::abs(measured["shift"].toDouble() - then["shift"].toDouble()) < 1e-6);
  QCOMPARE(run({"measure", study, path("scene.png")}).code, 1);  // of another size
  // Too many are refused before anything is pulled.
  const auto many =
      run({"pull", study, "-o", path("many"), "--strip", "weight:Edges=0..2/200", "--strip", "end:Edges=0..100/101"});
  QCOMPARE(many.code, 1);
  QVERIFY(many.err.contains("20200") && !QDir(path("many")).exists());
}

void CliTest::posesAreMadeMappedAndTold() {
  QVERIFY(run({"pose", "list", "kneel"}).out.contains("Kneeling on one knee"));
  const auto made = run({"pose", "make", "--pose", "four-legged: Walking/90@20,150,120,80", "--pose",
                         "Sitting on a chair@160,20,120,220", "--size", "320x256", "-o", path("figures.json")});
  QVERIFY2(made.code == 0, made.err);
  const auto words = run({"--json", "pose", "words", path("figures.json")});
  QVERIFY2(words.code == 0, words.err);
  const auto told = QJsonDocument::fromJson(words.out).array();
  QCOMPARE(told.size(), 2);
  QCOMPARE(told[0].toObject()["stance"].toString(), QString("walking"));
  QCOMPARE(told[1].toObject()["stance"].toString(), QString("sitting"));
  for (const char* name : {"map.png", "map.svg", "again.json"})
    QCOMPARE(run({"map", "pose", path("figures.json"), "-o", path(name), "--report", path("report.json")}).code, 0);
  const auto report =
      QJsonDocument::fromJson(QByteArray::fromStdString(fixtures::readFile(fixtures::in(*folder_, "report.json"))))
          .object();
  QCOMPARE(report["figures"].toArray().size(), 2);
  QVERIFY(report["figures"].toArray()[1].toObject()["words"].toString().startsWith("sitting"));
  QCOMPARE(QImage(path("map.png")).size(), QSize(320, 256));
  int inked = 0;
  const QImage map(path("map.png"));
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) inked += map.pixelColor(x, y).lightness() > 60 ? 1 : 0;
  QVERIFY(inked > 800 && inked < map.width() * map.height() / 4);
  QVERIFY(fixtures::readFile(fixtures::in(*folder_, "map.svg")).starts_with("<?xml") ||
          fixtures::readFile(fixtures::in(*folder_, "map.svg")).starts_with("<svg"));
  QCOMPARE(fixtures::readFile(fixtures::in(*folder_, "again.json")),
           fixtures::readFile(fixtures::in(*folder_, "figures.json")));
  // Another size, and through standard input to standard output.
  const auto piped = run({"map", "pose", "-", "-o", "-", "--size", "640x512", "--thickness", "150"},
                         QByteArray::fromStdString(fixtures::readFile(fixtures::in(*folder_, "figures.json"))));
  QCOMPARE(QImage::fromData(piped.out).size(), QSize(640, 512));
}

void CliTest::figuresGoIntoAStudyAndItsProof() {
  QCOMPARE(run({"pose", "make", "--pose", "Walking@100,40,60,120", "--size", "256x192", "-o", path("f.json")}).code, 0);
  QCOMPARE(run({"study", "new", path("s.scaffold"), "--size", "256x192", "--reference", path("scene.png"), "--prompt",
                "a person in a red coat"})
               .code,
           0);
  const auto posed = run({"study", "pose", path("s.scaffold"), "--figures", path("f.json"), "--name", "Walker"});
  QVERIFY2(posed.code == 0, posed.err);
  QVERIFY(run({"study", "check", path("s.scaffold")}).out.contains("No doubts"));
  QCOMPARE(run({"study", "set", path("s.scaffold"), "--prompt", "a person sitting on a rock"}).code, 0);
  QVERIFY(run({"study", "check", path("s.scaffold")}).out.contains("pull against each other"));
  const auto pulled = run({"pull", path("s.scaffold"), "-o", path("a")});
  QVERIFY2(pulled.code == 0, pulled.err);
  // Exported, the recipe names the figures by their key points, and makes the same picture.
  QCOMPARE(run({"study", "export", path("s.scaffold"), "-o", path("out")}).code, 0);
  QVERIFY(QFile::exists(path("out/map-1-pose.png")) && QFile::exists(path("out/map-1-pose.json")));
  const auto again = run({"pull", path("out/recipe.json"), "-o", path("b")});
  QVERIFY2(again.code == 0, again.err);
  const auto only = [&](const char* folder) { return QDir(path(folder)).entryInfoList({"*.png"}).first().filePath(); };
  QCOMPARE(QImage(only("a")), QImage(only("b")));
}

void CliTest::peopleAndAnimalsAreFoundInPictures() {
  const auto keep = [&](const stage::Mesh& mesh, const stage::Vec3& from, const stage::Vec3& to, const char* name) {
    const auto camera = stage::lookingAt(from, to, 60, {384, 288});
    stage::Lighting lighting;
    lighting.lights.push_back({});
    const auto seen = stage::rendered(std::span(&mesh, 1), camera, lighting);
    Image<Rgb> picture(384, 288, Rgb{0.3f, 0.37f, 0.45f});
    for (int y = 0; y < picture.height(); ++y)
      for (int x = 0; x < picture.width(); ++x)
        if (seen.near(x, y) > 0) picture(x, y) = seen.colour(x, y);
    writeFileAtomically(fixtures::in(*folder_, name), encodePng(toSrgb8(picture).view()));
  };
  stage::BodySpec person;
  person.angles.resize(pose::skeletonOf("human").turns.size());
  person.clothes.top = {0.4f, 0.06f, 0.05f};
  keep(stage::bodyOf(person).mesh, {0.3f, 1.2f, 4.2f}, {0, 0.85f, 0}, "person.png");
  stage::AnimalSpec fox;
  fox.angles.resize(pose::skeletonOf("four-legged").turns.size());
  fox.kind = stage::Animal::fox;
  keep(stage::animalOf(fox).mesh, {2.6f, 0.6f, 0.2f}, {0, 0.25f, 0}, "fox.png");

  const auto categories = [&](const char* picture, const char* kind) {
    QSet<QString> out;
    const auto done = run({"map", "pose", path(picture), "-o", path("found.json"), "--kind", kind});
    if (done.code != 0) return out;
    const auto found =
        QJsonDocument::fromJson(QByteArray::fromStdString(fixtures::readFile(path("found.json").toStdString())))
            .object();
    QHash<int, QString> names;
    for (const auto& category : found["categories"].toArray())
      names[category.toObject()["id"].toInt()] = category.toObject()["name"].toString();
    for (const auto& figure : found["annotations"].toArray()) out << names[figure.toObject()["category_id"].toInt()];
    return out;
  };
  const auto somebody = categories("person.png", "auto");
  QCOMPARE(somebody, QSet<QString>{"person"});
  const auto animal = categories("fox.png", "auto");
  QCOMPARE(animal.size(), 1);
  QVERIFY(!animal.contains("person"));
  // Asked for by kind: that kind or nothing.
  QCOMPARE(categories("person.png", "person"), somebody);
  QCOMPARE(categories("fox.png", "animal"), animal);
  QVERIFY(!categories("fox.png", "person").contains(*animal.begin()));
  QCOMPARE(run({"map", "pose", path("fox.png"), "-o", path("x.json"), "--kind", "bird"}).code, 2);
}

void CliTest::badFiguresGiveOneSentenceAndNoFile() {
  fixtures::writeFile(fixtures::in(*folder_, "bad.json"), "{\"annotations\": [{\"keypoints\": [1, 2]}]}");
  fixtures::writeFile(fixtures::in(*folder_, "bad.bvh"), "HIERARCHY\nROOT Hips\n{\nOFFSET 0 0");
  fixtures::writeFile(fixtures::in(*folder_, "inks.json"), "{\"inks\": 1, \"skeletons\": {\"bird\": {}}}");
  QCOMPARE(run({"pose", "make", "--pose", "Walking@0,0,50,90", "--size", "64x96", "-o", path("good.json")}).code, 0);
  for (const auto& [arguments, named] :
       {std::pair{QStringList{"map", "pose", path("bad.json"), "-o", path("x.png")}, "annotation 1"},
        {QStringList{"map", "pose", path("bad.bvh"), "-o", path("x.png")}, "line"},
        {QStringList{"map", "pose", path("good.json"), "-o", path("x.png"), "--inks", path("inks.json")}, "bird"},
        {QStringList{"map", "pose", path("none.json"), "-o", path("x.png")}, "none.json"},
        {QStringList{"pose", "words", path("bad.json")}, "bad.json"},
        {QStringList{"pose", "make", "--pose", "Flying@1,2,3,4", "-o", path("x.png")}, "Flying"},
        {QStringList{"pose", "make", "--pose", "Walking", "-o", path("x.png")}, "Walking"}}) {
    const auto done = run(arguments);
    QCOMPARE(done.code, 1);
    QVERIFY2(done.err.contains(named) && done.err.count('\n') == 1, done.err);
    QVERIFY(!QFile::exists(path("x.png")));
  }
}

void CliTest::checksAreListed() {
  run({"study", "new", path("a.scaffold"), "--size", "512x768", "--reference", path("scene.png"), "--guide",
       "edges=2"});
  const auto done = run({"study", "check", path("a.scaffold"), "--json"});
  QVERIFY(done.out.contains("swapped:r1") && done.out.contains("high-load"));
}

HSCAFFOLD_TEST(CliTest)
#include "cli_test.moc"
