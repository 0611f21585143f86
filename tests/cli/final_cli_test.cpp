// `hscaffold final` and `hscaffold touch-up`: a study's proof made large on the command line, as in the window.
#include <QFile>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>

#include "core/finish/touch_up.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/study/study_file.h"
#include "fixtures.h"
#include "program.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::run;

class FinalCliTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void aProofIsMadeLargeAndTouchedUp();
  void partsAreMadeByAProgram();
  void whatCannotBeIsSaidAndChangesNothing_data();
  void whatCannotBeIsSaidAndChangesNothing();

 private:
  [[nodiscard]] QString path(const char* name) const { return folder_->filePath(name); }
  std::unique_ptr<QTemporaryDir> folder_;
};

void FinalCliTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  writeFileAtomically(fixtures::in(*folder_, "scene.png"), encodePng(toSrgb8(fixtures::scene(1)).view()));
  QCOMPARE(run({"study", "new", path("a.scaffold"), "--size", "192x128", "--reference", path("scene.png"), "--guide",
                "edges=0.8", "--prompt", "a tea house, watercolour", "--seed", "5"})
               .code,
           0);
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("proofs"), "--keep"}).code, 0);
}

void FinalCliTest::aProofIsMadeLargeAndTouchedUp() {
  const auto made = run({"--json", "final", path("a.scaffold"), "--times", "2", "-o", path("large.png")});
  QVERIFY2(made.code == 0, made.err);
  const auto json = QJsonDocument::fromJson(made.out).object();
  QCOMPARE(json["width"].toInt(), 384);
  QCOMPARE(QImage(path("large.png")).size(), QSize(384, 256));
  const auto touched = run({"--json", "touch-up", path("a.scaffold"), "--box", "150,80,240,160", "--words",
                            "a red lantern, ink", "--name", "Lantern", "--tries", "2", "-o", path("touched.png")});
  QVERIFY2(touched.code == 0, touched.err);
  QCOMPARE(QJsonDocument::fromJson(touched.out).array().size(), 2);
  const QImage before(path("large.png")), after(path("touched.png"));
  QVERIFY(before != after);
  QVERIFY(before.copy(0, 0, 120, 256) == after.copy(0, 0, 120, 256));
  // It is in the study, to go on with in the window.
  const StudyState state = StudyFile::open(path("a.scaffold").toStdString()).readState();
  QCOMPARE(static_cast<int>(state.finals.size()), 1);
  QCOMPARE(state.finals[0].touchUps.at(0).name, std::string("Lantern"));
  QCOMPARE(static_cast<int>(state.finals[0].touchUps[0].tries.size()), 2);
  for (const char* out : {"x.tif", "x.jpg", "x.webp", "x.ora"}) {
    const auto written =
        run({"final", path("a.scaffold"), "--of", QString::fromStdString(state.finals[0].id), "-o", path(out)});
    QVERIFY2(written.code == 0, written.err);
    QVERIFY(QFile(path(out)).size() > 1000);
  }
  // All its maps, of its own size, made anew: finer than the proof's made large.
  const auto maps = run(
      {"final", path("a.scaffold"), "--of", QString::fromStdString(state.finals[0].id), "--all-maps", path("maps")});
  QVERIFY2(maps.code == 0, maps.err);
  const QStringList names = QDir(path("maps")).entryList(QDir::Files, QDir::Name);
  QCOMPARE(static_cast<std::size_t>(names.size()), state.guides.size());
  for (const QString& name : names) QCOMPARE(QImage(path("maps") + "/" + name).size(), QSize(384, 256));
  // What is there already stays as it is.
  QCOMPARE(
      run({"final", path("a.scaffold"), "--of", QString::fromStdString(state.finals[0].id), "--all-maps", path("maps")})
          .code,
      1);
  QCOMPARE(QDir(path("maps")).entryList(QDir::Files, QDir::Name), names);
  QVERIFY(QDir(path("")).entryList({"maps.*"}).isEmpty());
  // Without an engine: nearly the proof, enlarged.
  QCOMPARE(run({"final", path("a.scaffold"), "--width", "576", "--without-engine", "-o", path("plain.png")}).code, 0);
  QCOMPARE(QImage(path("plain.png")).size(), QSize(576, 384));
}

void FinalCliTest::partsAreMadeByAProgram() {
  const QString adapter = QString(HSCAFFOLD_SOURCE) + "/examples/adapter/paint.py";
  const auto made =
      run({"--json", "final", path("a.scaffold"), "--times", "3", "--program",
           "/usr/bin/python3 \"" + adapter + "\" {job} {out}", "--most-megapixels", "0.1", "-o", path("parts.png")});
  QVERIFY2(made.code == 0, made.err);
  const auto json = QJsonDocument::fromJson(made.out).object();
  QVERIFY(json["parts"].toInt() >= 3);
  QVERIFY(json["joins"].toObject()["energy"].toDouble() > 0);
  QCOMPARE(QImage(path("parts.png")).size(), QSize(576, 384));
}

void FinalCliTest::whatCannotBeIsSaidAndChangesNothing_data() {
  QTest::addColumn<QStringList>("arguments");
  QTest::addRow("no such proof") << QStringList{"final", "STUDY", "--proof", "99"};
  QTest::addRow("no ending") << QStringList{"final", "STUDY", "-o", "OUT.bmp"};
  QTest::addRow("no final") << QStringList{"touch-up", "STUDY", "--box", "1,1,50,50"};
  QTest::addRow("no such final") << QStringList{"final", "STUDY", "--of", "f77", "-o", "OUT.png"};
  QTest::addRow("smaller") << QStringList{"final", "STUDY", "--width", "96"};
}

void FinalCliTest::whatCannotBeIsSaidAndChangesNothing() {
  QFETCH(QStringList, arguments);
  for (QString& one : arguments) one.replace("STUDY", path("a.scaffold")).replace("OUT", path("out"));
  const auto before = StudyFile::open(path("a.scaffold").toStdString()).readState();
  const auto result = run(arguments);
  QCOMPARE(result.code, 1);
  QCOMPARE(result.err.trimmed().count('\n'), 0);
  QVERIFY(StudyFile::open(path("a.scaffold").toStdString()).readState().finals == before.finals);
}

HSCAFFOLD_TEST(FinalCliTest)
#include "final_cli_test.moc"
