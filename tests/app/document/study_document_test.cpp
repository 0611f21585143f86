// The open study on disk: who may write it, what is never lost, what undo leaves alone.
#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <QElapsedTimer>
#include <QProcess>
#include <QSignalSpy>
#include <QSysInfo>
#include <fstream>
#include <nlohmann/json.hpp>

#include "app/document/study_edits.h"
#include "app/window_fixture.h"
#include "core/guides/json_fields.h"
#include "core/study/study_file.h"
#include "files/study_lock.h"

using namespace hscaffold;
using namespace hscaffold::app;

class StudyDocumentTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void cleanup();
  void theSecondOpensForLooking();
  void theCommandLineWaitsAndSaysWhoHoldsIt();
  void closingLeavesTheHandWorkOfOthersAlone();
  void locksOfTheDeadAreTakenOver();
  void locksThatWereHalfMadeAreTakenOver();
  void linksLeadToOneStudy();
  void holdersElsewhereAreNamedWithTheirMachine();
  void twoNewStudiesAtOnceAreTwo();
  void aHomeThatTakesNothingMoreIsSaid();
  void startPicturesFromFilesAreOneStep();
  void copiesOfWhatIsLookedAtCanBeWorkedOn();
  void picturesGoWhereTheStudyGoes();
  void everyPromptThatCanBeTypedIsReadAgain_data();
  void everyPromptThatCanBeTypedIsReadAgain();
  void stateThatIsOutOfAllBoundsIsBroughtIn();
  void whatCannotBeWrittenIsTriedAgain();
  void missingHandWorkLeavesTheStudyUsable();
  void undoLeavesWhatIsLookedAtAlone();
  void dragsCopyTheStateOnce();
  void changesSayWhatTheyConcern();
  void theFirstPictureSetsTheRatio();

 private:
  [[nodiscard]] QString path(const char* name) const { return folder_->filePath(name); }
  int commandLine(const QStringList& arguments, QString* said = nullptr) const {
    QProcess process;
    process.start(HSCAFFOLD_PROGRAM, arguments);
    process.waitForFinished(60'000);
    if (said != nullptr) *said = process.readAllStandardError();
    return process.exitCode();
  }
  std::unique_ptr<QTemporaryDir> folder_;
  std::unique_ptr<Desk> desk_;
};

void StudyDocumentTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  fixtures::writeScene(path("tea.png").toStdString());
  QCOMPARE(commandLine({"study", "new", path("a.scaffold"), "--size", "480x320", "--reference", path("tea.png"),
                        "--guide", "edges=0.8", "--prompt", "a tea house"}),
           0);
  desk_ = std::make_unique<Desk>();
}

void StudyDocumentTest::cleanup() {
  desk_.reset();
  folder_.reset();
}

void StudyDocumentTest::theSecondOpensForLooking() {
  desk_->document.open(path("a.scaffold").toStdString());
  QVERIFY(!desk_->document.forLooking());
  Desk second;
  const QSignalSpy said(&second, &Desk::notice);
  second.document.open(path("a.scaffold").toStdString());
  QVERIFY(second.document.forLooking());
  QVERIFY(said.last()[0].toString().contains("for looking"));
  QVERIFY(!second.document.change("Title", [](StudyState& s) { s.title = "Mine"; }));
  QCOMPARE(second.document.state().title, desk_->document.state().title);
  // Looking is free: maps are made, something else may be selected.
  QVERIFY(fixtures::settle(second));
  QVERIFY(second.maps.mapOf(second.document.state().guides[0].id) != nullptr);
  // Once the first has closed, the study can be opened for work.
  desk_.reset();
  second.document.open(path("a.scaffold").toStdString());
  QVERIFY(!second.document.forLooking());
}

void StudyDocumentTest::theCommandLineWaitsAndSaysWhoHoldsIt() {
  desk_->document.open(path("a.scaffold").toStdString());
  QString said;
  QElapsedTimer timer;
  timer.start();
  QCOMPARE(commandLine({"study", "set", path("a.scaffold"), "--title", "Other"}, &said), 3);
  QVERIFY2(said.contains("is open in") && said.contains(QString::number(QCoreApplication::applicationPid())),
           qPrintable(said));
  QVERIFY(timer.elapsed() < 20'000);
  // Reading is always allowed.
  QCOMPARE(commandLine({"study", "info", path("a.scaffold")}), 0);
  desk_.reset();
  QCOMPARE(commandLine({"study", "set", path("a.scaffold"), "--title", "Other"}), 0);
  QCOMPARE(StudyFile::open(path("a.scaffold").toStdString()).readState().title, std::string("Other"));
}

void StudyDocumentTest::closingLeavesTheHandWorkOfOthersAlone() {
  // A window that was opened before another program retouched, and closes without having done anything.
  {
    Desk looker;
    auto lock = StudyLock::take(path("a.scaffold").toStdString()).lock;
    looker.document.open(path("a.scaffold").toStdString());
    QVERIFY(looker.document.forLooking());
    lock.reset();
    QCOMPARE(commandLine({"study", "retouch", path("a.scaffold"), "--guide", "Edges", "--drop", "10,10 90,10 90,90"}),
             0);
    looker.document.look([](Looking& looking) { looking.guide.clear(); });
  }
  const auto file = StudyFile::open(path("a.scaffold").toStdString());
  const auto state = file.readState();
  QVERIFY(state.guides[0].work.has(retouchSlot));
  QVERIFY(!file.work(state.guides[0].work.in(retouchSlot)).empty());
  QCOMPARE(commandLine({"study", "check", path("a.scaffold")}), 0);
}

void StudyDocumentTest::locksThatWereHalfMadeAreTakenOver() {
  const auto study = path("a.scaffold").toStdString();
  const auto lock = path("a.scaffold.lock");
  // Killed between making the file and writing its number into it. Just now, somebody may be about to write.
  fixtures::writeFile(lock.toStdString(), "");
  QVERIFY(!StudyLock::take(study).lock);
  const auto old = std::filesystem::file_time_type::clock::now() - std::chrono::seconds(5);
  std::filesystem::last_write_time(lock.toStdString(), old);
  {
    // Somebody who is alive holds it.
    const int held = ::open(lock.toLocal8Bit().constData(), O_RDONLY | O_CLOEXEC);
    QCOMPARE(::flock(held, LOCK_EX | LOCK_NB), 0);
    QVERIFY(!StudyLock::take(study).lock);
    ::close(held);
  }
  QVERIFY(StudyLock::take(study).lock != nullptr);
  // The command line waits for as long as it takes.
  fixtures::writeFile(lock.toStdString(), "");
  QCOMPARE(commandLine({"study", "set", path("a.scaffold"), "--title", "Mine"}), 0);
}

void StudyDocumentTest::linksLeadToOneStudy() {
  const auto study = path("a.scaffold").toStdString(), hard = path("hard.scaffold").toStdString(),
             soft = path("soft.scaffold").toStdString();
  desk_->document.open(study);
  // Made after it was opened.
  std::filesystem::create_hard_link(study, hard);
  std::filesystem::create_symlink("a.scaffold", soft);
  for (const auto& way : {hard, soft}) {
    const auto taken = StudyLock::take(way);
    QVERIFY2(!taken.lock && !taken.folderClosed, way.c_str());
    QCOMPARE(commandLine({"study", "set", QString::fromStdString(way), "--title", "Mine"}), 3);
  }
  desk_.reset();
  QCOMPARE(commandLine({"study", "set", QString::fromStdString(hard), "--title", "Mine"}), 0);
}

void StudyDocumentTest::holdersElsewhereAreNamedWithTheirMachine() {
  std::ofstream(path("a.scaffold.lock").toStdString()) << "4711\nhumble-scaffold\ndune-hut\nid\nboot\n";
  const auto taken = StudyLock::take(path("a.scaffold").toStdString());
  QVERIFY(!taken.lock);
  QCOMPARE(taken.holder, std::string("humble-scaffold on the machine dune-hut"));
}

void StudyDocumentTest::locksOfTheDeadAreTakenOver() {
  // As a program leaves it that was killed: nobody has this process number.
  std::ofstream(path("a.scaffold.lock").toStdString()) << 4194000 << "\nhumble-scaffold\n"
                                                       << QSysInfo::machineHostName().toStdString() << "\n"
                                                       << QSysInfo::machineUniqueId().toStdString() << "\n"
                                                       << QSysInfo::bootUniqueId().toStdString() << "\n";
  desk_->document.open(path("a.scaffold").toStdString());
  QVERIFY(!desk_->document.forLooking());
}

void StudyDocumentTest::twoNewStudiesAtOnceAreTwo() {
  // Another window has the lock of the next free name, and has not made its file yet.
  desk_->document.createUntitled();
  const auto first = desk_->document.path();
  desk_->document.open(path("a.scaffold").toStdString());
  std::filesystem::remove(first);
  const auto other = StudyLock::take(first);
  QVERIFY(other.lock != nullptr);
  desk_->document.createUntitled();
  QVERIFY(desk_->document.path() != first);
  QVERIFY(!desk_->document.forLooking());
}

void StudyDocumentTest::aHomeThatTakesNothingMoreIsSaid() {
  const QByteArray home = qgetenv("XDG_DATA_HOME"), temporary = qgetenv("TMPDIR");
  const auto before = qScopeGuard([&] {
    qputenv("XDG_DATA_HOME", home);
    temporary.isEmpty() ? qunsetenv("TMPDIR") : qputenv("TMPDIR", temporary);
  });
  const auto plainFile = [&](const char* name) {
    std::ofstream(path(name).toStdString()) << "no folder";
    return path(name).toUtf8();
  };
  qputenv("XDG_DATA_HOME", plainFile("home"));
  qputenv("TMPDIR", QFile::encodeName(folder_->path()));
  const QSignalSpy said(&desk_->document, &StudyDocument::notice);
  desk_->document.createUntitled();
  QVERIFY(QString::fromStdString(desk_->document.path().string()).startsWith(folder_->path()));
  QVERIFY(desk_->document.isUntitled() && !desk_->document.forLooking());
  QCOMPARE(said.count(), 1);
  QVERIFY(said[0][0].toString().contains("save it elsewhere"));
  // Where nothing takes anything, the open study stays, and the first reason is told.
  const auto open = desk_->document.path();
  qputenv("TMPDIR", plainFile("no-place"));
  try {
    desk_->document.createUntitled();
    QFAIL("there is no place for it");
  } catch (const Problem& problem) {
    QVERIFY2(std::string(problem.what()).find("home") != std::string::npos, problem.what());
  }
  QCOMPARE(desk_->document.path(), open);
}

void StudyDocumentTest::startPicturesFromFilesAreOneStep() {
  desk_->document.createUntitled();
  fixtures::writeScene(fixtures::in(*folder_, "start.png"));
  startFromFile(*desk_, path("start.png").toStdString());
  QCOMPARE(desk_->document.state().references.size(), std::size_t{1});
  QVERIFY(desk_->document.state().brief.start.given());
  // In the file with its picture, in one go.
  const auto kept = StudyFile::open(desk_->document.path(), StudyFile::Access::read);
  QVERIFY(!kept.picture(kept.readState().references[0].source()).empty());
  desk_->document.undo();
  QVERIFY(desk_->document.state().references.empty() && !desk_->document.state().brief.start.given());
  QVERIFY(!desk_->document.history().canUndo());
}

void StudyDocumentTest::copiesOfWhatIsLookedAtCanBeWorkedOn() {
  const auto lock = StudyLock::take(path("a.scaffold").toStdString());
  desk_->document.open(path("a.scaffold").toStdString());
  QVERIFY(desk_->document.forLooking());
  desk_->document.saveAs(path("b.scaffold").toStdString());
  QVERIFY(!desk_->document.forLooking());
  QVERIFY(desk_->document.change("Title", [](StudyState& s) { s.title = "Copy"; }));
  QCOMPARE(StudyFile::open(path("b.scaffold").toStdString()).readState().title, std::string("Copy"));
}

void StudyDocumentTest::picturesGoWhereTheStudyGoes() {
  // A final takes long: meanwhile the study is saved under another name.
  auto& document = desk_->document;
  document.open(path("a.scaffold").toStdString());
  const auto picture = [](const std::string& text) {
    const auto bytes = bytesOf(text);
    return pictureFile({bytes.begin(), bytes.end()});
  };
  const auto first = picture("first"), during = picture("during"), after = picture("after"), late = picture("late");
  const StudyDocument::Store store(document);
  QVERIFY(store.put(first));
  {
    const auto saving = document.beginSaving(path("b.scaffold").toStdString());
    StudyDocument::makeCopy(*saving);
    QVERIFY(!store.put(during));  // it would be in the first file only
    document.endSaving(*saving);
  }
  QVERIFY(store.put(after) && store.isFor(document));
  const auto there = StudyFile::open(path("b.scaffold").toStdString(), StudyFile::Access::read);
  QVERIFY(!there.picture(first.content).empty() && !there.picture(after.content).empty());
  // A copy that is given up leaves the study where it is.
  static_cast<void>(document.beginSaving(path("c.scaffold").toStdString()));
  QVERIFY(store.put(during));
  QVERIFY(!there.picture(during.content).empty());
  // Into a study that was left, or another one, nothing goes.
  document.createUntitled();
  QVERIFY(!store.put(late) && !store.isFor(document));
}

void StudyDocumentTest::everyPromptThatCanBeTypedIsReadAgain_data() {
  QTest::addColumn<QString>("text");
  const QString u(QChar(0xfc));
  const QString kite = QString::fromUcs4(U"\U0001FA81");
  QTest::addRow("2013 umlauts") << u.repeated(2013);
  QTest::addRow("x and 2000 umlauts") << "x" + u.repeated(2000);
  QTest::addRow("as long as can be") << u.repeated(4000);
  QTest::addRow("too long") << u.repeated(4100);
  QTest::addRow("too long, beyond the first plane") << kite.repeated(4100);
  QTest::addRow("half a pair") << QString("a") + QChar(0xd83e) + "b";
}

void StudyDocumentTest::everyPromptThatCanBeTypedIsReadAgain() {
  QFETCH(QString, text);
  desk_->document.open(path("a.scaffold").toStdString());
  desk_->document.change("Prompt", [&](StudyState& s) {
    s.brief.prompt = text.toStdString();
    s.brief.avoid = text.toStdString();
  });
  QVERIFY(desk_->document.unwritten().isEmpty());
  const auto brief = desk_->document.state().brief;
  desk_.reset();
  const auto state = StudyFile::open(path("a.scaffold").toStdString()).readState();
  QVERIFY(state.brief == brief);
  QCOMPARE(charactersIn(state.brief.prompt), std::min<std::size_t>(longestPrompt, text.toUcs4().size()));
  QVERIFY(QString::fromStdString(state.brief.prompt).startsWith(text.left(1)));
}

void StudyDocumentTest::stateThatIsOutOfAllBoundsIsBroughtIn() {
  desk_->document.open(path("a.scaffold").toStdString());
  std::mt19937 random(11);
  const auto wild = [&] {
    static constexpr double values[] = {-1e300,
                                        -3,
                                        -0.001,
                                        0,
                                        0.5,
                                        99.9,
                                        101,
                                        4e9,
                                        1e300,
                                        std::numeric_limits<double>::infinity(),
                                        std::numeric_limits<double>::quiet_NaN()};
    return values[random() % std::size(values)];
  };
  for (int i = 0; i < 200; ++i) {
    desk_->document.change(
        "Wild",
        [&](StudyState& s) {
          Guide& g = s.guides[0];
          g.weight = wild();
          g.range = {wild(), wild(), wild(), wild()};
          g.region.feather = wild();
          g.tuning = {{"blur", wild()}, {"low", wild()}, {"thresholds", wild()}};
          s.brief.guidance = wild();
          s.brief.steps = static_cast<int>(random());
          s.frame = {static_cast<int>(random()), static_cast<int>(random() % 5000)};
          s.references[0].placement.x = wild();
          s.references[0].placement.scaleX = wild();
          s.references[0].placement.turn = wild();
          s.title = std::string(random() % 600, '\xC3');
        },
        "wild");
    // What is written can be read: see stateFromJson.
    const auto written = stateToJson(desk_->document.state());
    QVERIFY(stateToJson(stateFromJson(parseJson(written.dump(), "state"))) == written);
  }
}

void StudyDocumentTest::whatCannotBeWrittenIsTriedAgain() {
  desk_->document.open(path("a.scaffold").toStdString());
  const QSignalSpy problems(&desk_->document, &StudyDocument::problem);
  {
    // Another program is in the middle of writing.
    const auto other = StudyFile::open(path("a.scaffold").toStdString());
    fixtures::HeldDatabase held(path("a.scaffold").toStdString());
    desk_->document.change("Title", [](StudyState& s) { s.title = "Not lost"; });
    // The window does not wait until that is known.
    QVERIFY(!desk_->document.writer().idle());
    desk_->document.writer().finish();
    QVERIFY(!desk_->document.unwritten().isEmpty());
    QCOMPARE(problems.size(), 1);
    // Said once, not at every change.
    desk_->document.change("Prompt", [](StudyState& s) { s.brief.prompt = "not lost either"; });
    desk_->document.writer().finish();
    QCOMPARE(problems.size(), 1);
    QVERIFY(!desk_->document.flush());
  }
  QVERIFY(desk_->document.flush());
  const auto state = StudyFile::open(path("a.scaffold").toStdString()).readState();
  QCOMPARE(state.title, std::string("Not lost"));
  QCOMPARE(state.brief.prompt, std::string("not lost either"));
}

void StudyDocumentTest::missingHandWorkLeavesTheStudyUsable() {
  {
    auto file = StudyFile::open(path("a.scaffold").toStdString());
    auto state = file.readState();
    state.guides[0].work.put(retouchSlot, "feedfeedfeedfeedfeedfeedfeedfeed");
    state.guides[0].work.put(regionSlot, "beefbeefbeefbeefbeefbeefbeefbeef");
    file.writeState(state);
  }
  const QSignalSpy problems(desk_.get(), &Desk::problem);
  desk_->document.open(path("a.scaffold").toStdString());
  QVERIFY(fixtures::settle(*desk_));
  QVERIFY(desk_->maps.mapOf(desk_->document.state().guides[0].id) != nullptr);
  QCOMPARE(problems.size(), 2);
  QVERIFY(problems[0][0].toString().contains("made without it"));
  desk_->queue.pull();
  QVERIFY(fixtures::settle(*desk_));
  QCOMPARE(desk_->proofs.all().size(), std::size_t{1});
  desk_.reset();
  QString said;
  QCOMPARE(commandLine({"study", "check", path("a.scaffold")}, &said), 0);
  QVERIFY(said.contains("made without it"));
  QCOMPARE(commandLine({"study", "export", path("a.scaffold"), "-o", path("out")}), 0);
  QCOMPARE(commandLine({"pull", path("a.scaffold"), "-o", path("out")}), 0);
}

void StudyDocumentTest::undoLeavesWhatIsLookedAtAlone() {
  auto& document = desk_->document;
  document.open(path("a.scaffold").toStdString());
  addGuide(document, "tone");
  const std::string edges = document.state().guides[0].id, tone = document.state().guides[1].id;
  document.change("Weight", [&](StudyState& s) { s.guide(tone)->weight = 0.3; });
  document.look([&](Looking& looking) {
    looking.guide = edges;
    looking.proof = 7;
  });
  document.undo();
  QCOMPARE(document.state().guide(tone)->weight, 0.7);
  QCOMPARE(document.state().looking.guide, edges);
  QCOMPARE(document.state().looking.proof, std::int64_t{7});
  document.redo();
  QCOMPARE(document.state().looking.guide, edges);
  // Only where what was selected is gone, something else is.
  document.look([&](Looking& looking) { looking.guide = tone; });
  document.undo();
  document.undo();
  QVERIFY(document.state().guide(tone) == nullptr);
  QCOMPARE(document.state().looking.guide, edges);
}

void StudyDocumentTest::dragsCopyTheStateOnce() {
  auto& document = desk_->document;
  document.open(path("a.scaffold").toStdString());
  const auto copies = document.history().copies();
  for (int i = 0; i < 100; ++i)
    document.change(
        "Weight", [&](StudyState& s) { s.guides[0].weight = 0.01 * i; }, "weight");
  QCOMPARE(document.history().copies(), copies + 1);
  document.seal();
  document.undo();
  QCOMPARE(document.state().guides[0].weight, 0.8);
  // A drag that comes back to where it began is no step, and what could be redone still can.
  QVERIFY(document.history().canRedo());
  for (const double weight : {0.9, 0.2, 0.8})
    document.change(
        "Weight", [&](StudyState& s) { s.guides[0].weight = weight; }, "weight");
  document.seal();
  QVERIFY(document.history().canRedo() && !document.history().canUndo());
}

void StudyDocumentTest::changesSayWhatTheyConcern() {
  auto& document = desk_->document;
  document.open(path("a.scaffold").toStdString());
  Changes last;
  connect(&document, &StudyDocument::changed, this, [&](const Changes& changes) { last = changes; });
  const std::string id = document.state().guides[0].id;
  document.change("Weight", [&](StudyState& s) { s.guide(id)->weight = 0.1; });
  QVERIFY(last.guide(id) && !last.brief && !last.guideList && !last.references && !last.frame && !last.looking);
  document.change("Prompt", [](StudyState& s) { s.brief.prompt = "else"; });
  QVERIFY(last.brief && last.guides.empty());
  document.change("Frame", [](StudyState& s) { s.frame = {512, 512}; });
  QVERIFY(last.frame && !last.brief);
  document.look([](Looking& looking) { looking.guide.clear(); });
  QVERIFY(last.looking && !last.settings());
  removeGuide(document, id);
  QVERIFY(last.guideList && last.guide(id));
}

void StudyDocumentTest::theFirstPictureSetsTheRatio() {
  auto& document = desk_->document;
  document.createUntitled();
  QImage tall(300, 600, QImage::Format_RGB32);
  tall.fill(Qt::darkGreen);
  const QSignalSpy said(&document, &StudyDocument::notice);
  bringIn(*desk_, tall, "tall.png");
  QVERIFY(fixtures::settle(*desk_));
  const Size frame = document.state().frame;
  QVERIFY2(std::abs(static_cast<double>(frame.width) / frame.height - 0.5) < 0.005,
           qPrintable(QString("%1 x %2").arg(frame.width).arg(frame.height)));
  QVERIFY(std::abs(static_cast<double>(frame.area()) / (768 * 512) - 1) < 0.1);
  QVERIFY(said.last()[0].toString().contains("ratio"));
  // The second one does not, and undo brings back what was.
  bringIn(*desk_, QImage(600, 300, QImage::Format_RGB32), "wide.png");
  QVERIFY(fixtures::settle(*desk_));
  QCOMPARE(document.state().frame, frame);
  document.undo();
  document.undo();
  QCOMPARE(document.state().frame, (Size{768, 512}));
}

HSCAFFOLD_TEST(StudyDocumentTest)
#include "study_document_test.moc"
