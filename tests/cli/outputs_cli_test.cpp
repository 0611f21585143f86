// What the command line promises about its outputs: nothing is said to be done that is not, and nothing that lies there
// is lost.
#include <sys/stat.h>

#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QTest>

#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/study/study_file.h"
#include "fixtures.h"
#include "program.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::run;

class OutputsCliTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void whatCannotBeWrittenOutIsNotDone_data();
  void whatCannotBeWrittenOutIsNotDone();
  void writesWhereLinksLead();
  void keepsPermissions();
  void refusesPipesAndDevices();
  void longNamesWork();
  void reportsToStandardOutput();
  void namesThatAreNoTextGoOutAsJson();
  void stripsHaveNamesOfTheirOwn();
  void nothingIsWrittenOverUnasked();
  void eachStripIsOneWord();
  void badFindingsFail();
  void inputsThatAreNoFiles();
  void sizesAreReadWhole();
  void boxesBeyondReasonAreRefused();
  void windowAnswersWithoutAScreen();

 private:
  QString path(const char* name) const { return folder_->filePath(name); }
  void makeStudy() const {
    QCOMPARE(run({"study", "new", path("a.scaffold"), "--size", "128x96", "--reference", path("scene.png"), "--guide",
                  "edges", "--guide", "tone@1=0.3"})
                 .code,
             0);
  }
  /// Under a shell, for redirections. @return the exit code
  int shell(const QString& line, QByteArray* out = nullptr) const {
    QProcess process;
    process.setWorkingDirectory(folder_->path());
    process.start("/bin/sh", {"-c", QString(line).replace("PROGRAM", HSCAFFOLD_PROGRAM)});
    if (!process.waitForFinished(60'000)) return -1;
    if (out != nullptr) *out = process.readAllStandardOutput();
    return process.exitCode();
  }
  std::unique_ptr<QTemporaryDir> folder_;
};

void OutputsCliTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  writeFileAtomically(fixtures::in(*folder_, "scene.png"), encodePng(toSrgb8(fixtures::scene(1)).view()));
}

void OutputsCliTest::whatCannotBeWrittenOutIsNotDone_data() {
  QTest::addColumn<QString>("line");
  QTest::addRow("a map onto a full disk") << "PROGRAM map edges scene.png -o - >/dev/full";
  QTest::addRow("JSON onto a full disk") << "PROGRAM styles --json >/dev/full";
  QTest::addRow("text onto a full disk") << "PROGRAM pose list >/dev/full";
  QTest::addRow("closed output") << "PROGRAM styles --json >&-";
  QTest::addRow("a report onto a full disk") << "PROGRAM map edges scene.png -o m.png --report - >/dev/full";
}

void OutputsCliTest::whatCannotBeWrittenOutIsNotDone() {
  QFETCH(QString, line);
  QCOMPARE(shell(line), 3);
}

void OutputsCliTest::writesWhereLinksLead() {
  QDir(folder_->path()).mkdir("elsewhere");
  QVERIFY(QFile::link("elsewhere/map.png", path("link.png")));  // of what is not there yet
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", path("link.png")}).code, 0);
  QVERIFY(QFileInfo(path("link.png")).isSymLink());
  const QImage first(path("elsewhere/map.png"));
  QVERIFY(!first.isNull());
  QCOMPARE(run({"map", "tone", path("scene.png"), "-o", path("link.png")}).code, 0);
  QVERIFY(QFileInfo(path("link.png")).isSymLink());
  QVERIFY(QImage(path("elsewhere/map.png")) != first);
  QVERIFY(QFile::link("round.png", path("round.png")));
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", path("round.png")}).code, 3);
}

void OutputsCliTest::keepsPermissions() {
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", path("m.png")}).code, 0);
  const auto mine = QFile::ReadOwner | QFile::WriteOwner;
  QVERIFY(QFile::setPermissions(path("m.png"), mine));
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", path("m.png")}).code, 0);
  QVERIFY(!(QFile::permissions(path("m.png")) & (QFile::ReadGroup | QFile::ReadOther)));
}

void OutputsCliTest::refusesPipesAndDevices() {
  QCOMPARE(::mkfifo(path("pipe").toLocal8Bit().constData(), 0600), 0);
  const auto done = run({"map", "edges", path("scene.png"), "-o", path("pipe")});
  QCOMPARE(done.code, 3);
  QVERIFY2(done.err.contains("pipe or a device"), done.err);
  struct stat there {};
  QCOMPARE(::lstat(path("pipe").toLocal8Bit().constData(), &there), 0);
  QVERIFY(S_ISFIFO(there.st_mode));
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", folder_->path()}).code, 3);
  QVERIFY(QDir(folder_->path()).exists());
}

void OutputsCliTest::longNamesWork() {
  const QByteArray name = QByteArray(250, 'n') + ".png";
  QCOMPARE(run({"map", "edges", path("scene.png"), "-o", path(name.constData())}).code, 0);
  QVERIFY(!QImage(path(name.constData())).isNull());
}

void OutputsCliTest::reportsToStandardOutput() {
  const auto done = run({"map", "edges", path("scene.png"), "-o", path("m.png"), "--report", "-"});
  QCOMPARE(done.code, 0);
  QCOMPARE(QJsonDocument::fromJson(done.out)["kind"].toString(), QString("edges"));
}

void OutputsCliTest::namesThatAreNoTextGoOutAsJson() {
  makeStudy();
  QByteArray out;
  QCOMPARE(shell("PROGRAM pull a.scaffold -o $(printf 'caf\\351') --json", &out), 0);
  QCOMPARE(QJsonDocument::fromJson(out).array().size(), 1);
  QVERIFY(QJsonDocument::fromJson(out)[0]["file"].toString().startsWith("caf"));
}

void OutputsCliTest::stripsHaveNamesOfTheirOwn() {
  makeStudy();
  // Weights have two decimals, and all of them are in the name.
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("strip"), "--strip", "weight:Edges=0.30..0.40/11"}).code, 0);
  QCOMPARE(QDir(path("strip")).entryList({"*.png"}).size(), 11);
  // Another guide's strip has other names.
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("strip"), "--strip", "weight:Tone=0.30..0.40/11"}).code, 0);
  QCOMPARE(QDir(path("strip")).entryList({"*.png"}).size(), 22);
  QVERIFY(QFile::exists(path("strip/seed1-Tone-weight0.31.png")));
  // Values that come to the same are not pulled twice.
  const auto twice = run({"pull", path("a.scaffold"), "-o", path("other"), "--strip", "guidance=3,3.001"});
  QCOMPARE(twice.code, 1);
  QVERIFY2(twice.err.contains("twice"), twice.err);
  QVERIFY(!QDir(path("other")).exists());
}

void OutputsCliTest::nothingIsWrittenOverUnasked() {
  makeStudy();
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("out")}).code, 0);
  fixtures::writeFile(path("out/seed1.png").toStdString(), "mine");
  const auto again = run({"pull", path("a.scaffold"), "-o", path("out")});
  QCOMPARE(again.code, 1);
  QVERIFY2(again.err.contains("--force"), again.err);
  QCOMPARE(fixtures::readFile(path("out/seed1.png").toStdString()), std::string("mine"));
  QCOMPARE(run({"pull", path("a.scaffold"), "-o", path("out"), "--force"}).code, 0);
  QVERIFY(!QImage(path("out/seed1.png")).isNull());
}

void OutputsCliTest::eachStripIsOneWord() {
  makeStudy();
  const auto done = run({"pull", "--strip", "X", path("a.scaffold"), "-o", path("out")});
  QCOMPARE(done.code, 1);
  QVERIFY2(done.err.contains("\"X\" is not like"), done.err);
  QCOMPARE(run({"pull", "--strip", "weight:Edges=0.2,0.4", path("a.scaffold"), "-o", path("out")}).code, 0);
}

void OutputsCliTest::badFindingsFail() {
  makeStudy();
  QCOMPARE(run({"study", "check", path("a.scaffold")}).code, 0);
  {
    auto file = StudyFile::open(path("a.scaffold").toStdString());
    auto state = file.readState();
    state.frame = {130, 96};
    file.writeState(state);
  }
  const auto off = run({"study", "check", path("a.scaffold")});
  QCOMPARE(off.code, 1);
  QVERIFY2(off.out.contains("steps of 8"), off.out);
}

void OutputsCliTest::inputsThatAreNoFiles() {
  QCOMPARE(::mkfifo(path("pipe").toLocal8Bit().constData(), 0600), 0);
  // Nobody writes into it: said, not waited for.
  QElapsedTimer timer;
  timer.start();
  QCOMPARE(run({"map", "edges", path("pipe"), "-o", path("m.png")}).code, 1);
  QVERIFY(timer.elapsed() < 30'000);
  const auto device = run({"map", "edges", "/dev/zero", "-o", path("m.png")});
  QCOMPARE(device.code, 1);
  QVERIFY2(device.err.contains("device"), device.err);
  // What is written into a pipe is read.
  QCOMPARE(shell("cat scene.png >pipe & PROGRAM map edges - -o m.png <pipe"), 0);
  QVERIFY(!QImage(path("m.png")).isNull());
  QCOMPARE(shell("PROGRAM map edges /dev/stdin -o n.png <scene.png"), 0);
}

void OutputsCliTest::sizesAreReadWhole() {
  for (const char* size :
       {"4294967360x64", "64x4294967360", "64", "64x", "x64", "64x64x64", "-64x64", " 64x64", "64x64 "}) {
    const auto done = run({"map", "edges", path("scene.png"), "-o", path("m.png"), "--size", size});
    QVERIFY2(done.code == 1 && done.err.contains("is not a size"), size);
  }
}

void OutputsCliTest::boxesBeyondReasonAreRefused() {
  for (const char* box : {"Standing straight@1e308,0,1e308,1e308", "Standing straight/1e308@0,0,100,200",
                          "Standing straight@0,0,1e-300,100"}) {
    QCOMPARE(run({"pose", "make", "--pose", box, "-o", path("p.json")}).code, 1);
    QVERIFY(!QFile::exists(path("p.json")));
  }
}

void OutputsCliTest::windowAnswersWithoutAScreen() {
  const auto window = [](const QStringList& words, const char* screen = nullptr) {
    QProcess process;
    auto environment = QProcessEnvironment::systemEnvironment();
    for (const char* name : {"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"}) environment.remove(name);
    if (screen) environment.insert("DISPLAY", screen);
    process.setProcessEnvironment(environment);
    process.start(HSCAFFOLD_WINDOW, words);
    process.waitForFinished(60'000);
    return fixtures::Run{process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -2,
                         process.readAllStandardOutput(), process.readAllStandardError()};
  };
  const auto help = window({"--help"});
  QCOMPARE(help.code, 0);
  QVERIFY(help.out.contains("--screenshot"));
  QCOMPARE(window({"--version"}).code, 0);
  QCOMPARE(window({"--nonsense"}).code, 1);
  const auto none = window({});
  QCOMPARE(none.code, 3);
  QVERIFY2(none.err.contains("no screen"), none.err);
  QCOMPARE(window({"-platform", "offscreen", "--screenshot", path("no/such/folder.png")}).code, 3);
  // A screen that is named and not there.
  QCOMPARE(window({"--help"}, ":4711").code, 0);
  const auto dead = window({}, ":4711");
  QCOMPARE(dead.code, 3);
  QVERIFY2(dead.err.contains("does not answer"), dead.err);
}

HSCAFFOLD_TEST(OutputsCliTest)
#include "outputs_cli_test.moc"
