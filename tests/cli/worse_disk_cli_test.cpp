// Studies and pictures on disks that are full, closed, without locks or as simple as FAT, and by a clock that is set
// back: what works elsewhere works, or a sentence says why not, and nothing is lost.
#include <QDir>
#include <QImage>
#include <QTest>

#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/study/study_file.h"
#include "files/study_lock.h"
#include "fixtures.h"
#include "program.h"
#include "test_program.h"

using namespace hscaffold;
using fixtures::run;

class WorseDiskCliTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void simpleDisksDo();
  void withoutLocksNoStudyIsWritten();
  void clocksMayBeSetBack();
  void halfMadeLocksOfTomorrowAreTakenOver();
  void closedFoldersAreReadFrom();
  void fullDisksKeepWhatTheyHave();

 private:
  QString path(const QString& name) const { return folder_->filePath(name); }
  QStringList newStudy(const QString& file) const {
    return {"study", "new", path(file), "--size", "128x96", "--reference", path("scene.png"), "--guide", "edges"};
  }
  /// The program with the library in between.
  static fixtures::Run runOn(const QString& worse, const QStringList& words) {
    return run(words, {}, 0, {{"LD_PRELOAD", HSCAFFOLD_WORSE_DISK}, {"HSCAFFOLD_WORSE", worse}});
  }
  /// Has a disk of its own mounted at `at` while a line of the shell runs, in a place that nobody else sees.
  /// @return the exit code of the line; none where that may not be done
  [[nodiscard]] std::optional<int> onDisk(const QString& options, const QString& at, const QString& line,
                                          QByteArray& said) const {
    QProcess process;
    process.setProcessChannelMode(QProcess::MergedChannels);
    process.start("unshare", {"--map-root-user", "--mount", "sh", "-c",
                              QString("mount -t tmpfs -o %1 tmpfs '%2' || exit 77; %3")
                                  .arg(options, at, line)
                                  .replace("PROGRAM", HSCAFFOLD_PROGRAM)});
    if (!process.waitForFinished(60'000)) return std::nullopt;
    said = process.readAll();
    return process.exitCode() == 77 || said.startsWith("unshare") ? std::nullopt : std::optional(process.exitCode());
  }
  std::unique_ptr<QTemporaryDir> folder_;
};

void WorseDiskCliTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  writeFileAtomically(fixtures::in(*folder_, "scene.png"), encodePng(toSrgb8(fixtures::scene(1)).view()));
}

void WorseDiskCliTest::simpleDisksDo() {
#ifdef HSCAFFOLD_SANITIZED
  QSKIP("the sanitizers' own library has to be the first");
#endif
  const auto does = [](const QStringList& words) {
    const auto ran = runOn("fat", words);
    if (ran.code != 0) qWarning("%s: %s", qPrintable(words.join(' ')), ran.err.constData());
    return ran.code == 0;
  };
  QVERIFY(does(newStudy("a.scaffold")));
  QVERIFY(does({"study", "set", path("a.scaffold"), "--seed", "7"}));
  {
    auto file = StudyFile::open(fixtures::in(*folder_, "a.scaffold"));
    StudyState state = file.readState();
    state.guides[0].name = "Kite: \"red\" <1?>";
    file.writeState(state);
  }
  QVERIFY(does({"pull", path("a.scaffold"), "--keep", "-o", path("out")}));
  QVERIFY(does({"pull", path("a.scaffold"), "--strip", "weight:Kite: \"red\" <1?>=0.5,1", "-o", path("out")}));
  QCOMPARE(QDir(path("out")).entryList({"*.png"}).size(), 3);
  QVERIFY(does({"map", "edges", path("scene.png"), "-o", path("map.png")}));
  QVERIFY(does({"map", "tone", path("scene.png"), "-o", path("map.png")}));
  QVERIFY(!QImage(path("map.png")).isNull());
  const auto file = StudyFile::open(fixtures::in(*folder_, "a.scaffold"));
  QCOMPARE(file.readState().brief.seed, 7u);
  QCOMPARE(file.proofs().size(), std::size_t{1});
  QVERIFY(file.mended().empty());
  // No half files lie about.
  QCOMPARE(QDir(folder_->path()).entryList(QDir::Files | QDir::Hidden).size(), 3);
}

void WorseDiskCliTest::withoutLocksNoStudyIsWritten() {
#ifdef HSCAFFOLD_SANITIZED
  QSKIP("the sanitizers' own library has to be the first");
#endif
  QCOMPARE(run(newStudy("a.scaffold")).code, 0);
  const std::string before = fixtures::readFile(fixtures::in(*folder_, "a.scaffold"));
  for (const QStringList& words :
       {newStudy("b.scaffold"), QStringList{"study", "set", path("a.scaffold"), "--seed", "7"},
        QStringList{"pull", path("a.scaffold"), "--keep", "-o", path("out")}}) {
    const auto ran = runOn("nolocks", words);
    QCOMPARE(ran.code, 3);
    QVERIFY2(ran.err.contains("keeps no locks"), ran.err.constData());
  }
  QVERIFY(fixtures::readFile(fixtures::in(*folder_, "a.scaffold")) == before);
  QCOMPARE(QDir(folder_->path()).entryList(QDir::Files | QDir::Hidden).size(), 2);
  QCOMPARE(runOn("nolocks", {"map", "edges", path("scene.png"), "-o", path("map.png")}).code, 0);
}

void WorseDiskCliTest::clocksMayBeSetBack() {
#ifdef HSCAFFOLD_SANITIZED
  QSKIP("the sanitizers' own library has to be the first");
#endif
  QCOMPARE(run(newStudy("a.scaffold")).code, 0);
  QCOMPARE(run({"pull", path("a.scaffold"), "--keep", "-o", path("out")}).code, 0);
  for (const char* clock : {"clock:-31536000", "clock:-2000000000", "clock:31536000"}) {
    QCOMPARE(runOn(clock, {"study", "set", path("a.scaffold"), "--prompt", clock}).code, 0);
    QCOMPARE(runOn(clock, {"pull", path("a.scaffold"), "--keep", "--force", "-o", path("out")}).code, 0);
  }
  const auto proofs = StudyFile::open(fixtures::in(*folder_, "a.scaffold")).proofs();
  QCOMPARE(proofs.size(), std::size_t{4});
  // In the order in which they were pulled, whatever the clock said.
  for (std::size_t i = 1; i < proofs.size(); ++i) QVERIFY(proofs[i].number > proofs[i - 1].number);
  QVERIFY(proofs[1].made < proofs[0].made && proofs[3].made > proofs[0].made);
  QCOMPARE(QString::fromStdString(proofs[3].recipe.brief.prompt), QString("clock:31536000"));
}

void WorseDiskCliTest::halfMadeLocksOfTomorrowAreTakenOver() {
  QCOMPARE(run(newStudy("a.scaffold")).code, 0);
  const auto study = fixtures::in(*folder_, "a.scaffold"), lock = fixtures::in(*folder_, "a.scaffold.lock");
  writeFileAtomically(lock, Bytes());
  std::filesystem::last_write_time(lock, std::filesystem::file_time_type::clock::now() + std::chrono::hours(24));
  QVERIFY(StudyLock::take(study, 0).lock != nullptr);
}

void WorseDiskCliTest::closedFoldersAreReadFrom() {
  QCOMPARE(run(newStudy("a.scaffold")).code, 0);
  QDir(folder_->path()).mkdir("disk");
  const QString disk = path("disk");
  const auto tried = [&](const QString& line, QByteArray& said) {
    return onDisk("size=64m", disk,
                  QString("cp '%1' '%2/' && mount -o remount,ro '%2' && %3").arg(path("a.scaffold"), disk, line), said);
  };
  QByteArray said;
  const auto looked = tried(QString("PROGRAM study check '%1/a.scaffold'").arg(disk), said);
  if (!looked) QSKIP("a disk may not be mounted here");
  QVERIFY2(looked == 0, said.constData());
  QVERIFY2(tried(QString("PROGRAM pull '%1/a.scaffold' -o '%2'").arg(disk, path("out")), said) == 0, said.constData());
  QCOMPARE(QDir(path("out")).entryList({"*.png"}).size(), 1);
  for (const char* line : {"PROGRAM study set 'DISK/a.scaffold' --seed 7", "PROGRAM study new DISK/b.scaffold",
                           "PROGRAM pull 'DISK/a.scaffold' --keep -o 'DISK/out'",
                           "PROGRAM map edges 'DISK/../scene.png' -o 'DISK/map.png'"}) {
    const auto code = tried(QString(line).replace("DISK", disk), said);
    QVERIFY2(code == 3, qPrintable(QString("%1: %2").arg(line, said)));
    QVERIFY2(said.startsWith("hscaffold: ") && said.contains(qPrintable(disk)), said.constData());
  }
}

void WorseDiskCliTest::fullDisksKeepWhatTheyHave() {
  QCOMPARE(run(newStudy("a.scaffold")).code, 0);
  QDir(folder_->path()).mkdir("disk");
  const QString disk = path("disk"), study = path("a.scaffold");
  QByteArray said;
  const auto code = onDisk(
      "size=64m", disk,
      QString(
          "cp '%1' '%2/' && (cat /dev/zero > '%2/filler' 2>/dev/null; true) && "
          "PROGRAM study set '%2/a.scaffold' --seed 7; first=$?; PROGRAM map edges '%3' -o '%2/map.png'; second=$?; "
          "rm '%2/filler'; PROGRAM study check '%2/a.scaffold' >/dev/null || exit 9; ls -A '%2' | tr '\\n' ' '; "
          "test $first = 3 && test $second = 3")
          .arg(study, disk, path("scene.png")),
      said);
  if (!code) QSKIP("a disk may not be mounted here");
  QVERIFY2(code == 0, said.constData());
  QVERIFY2(said.count("hscaffold: ") == 2 && said.endsWith("\na.scaffold "), said.constData());
}

HSCAFFOLD_TEST(WorseDiskCliTest)
#include "worse_disk_cli_test.moc"
