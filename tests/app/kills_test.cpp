// The window is killed at random moments while somebody works in it: what was done before is in the study.
// HSCAFFOLD_KILLS=200 says how often; a few times without it. Every second time the disk takes nothing meanwhile.
// HSCAFFOLD_KILLED_WITHIN says after how many milliseconds at most; parts of finals take some seconds.
#include <unistd.h>

#include <QProcess>
#include <csignal>
#include <functional>
#include <random>
#include <set>

#include "app/window_fixture.h"
#include "core/retouch/work_store.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

namespace {

constexpr int columns = 20, rows = 12, step = 24;  ///< places of strokes, in a frame of 480 x 320
QPointF placeOf(int stroke) { return {12.0 + step * (stroke % columns), 12.0 + step * (stroke / columns % rows)}; }

/// Said to whoever kills; what was said is done.
void say(const std::string& line) {
  const std::string whole = line + "\n";
  if (::write(STDOUT_FILENO, whole.data(), whole.size()) < 0) std::abort();
}

}  // namespace

/// Works until it is killed, as a process of its own.
class KilledWindow : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void works() {
    const std::string study = qEnvironmentVariable("HSCAFFOLD_KILLED_STUDY").toStdString();
    document().saveAs(study);
    desk_->workbench.settings.size = 8;
    desk_->workbench.settings.hardness = 100;
    const bool held = qEnvironmentVariableIsSet("HSCAFFOLD_KILLED_HELD");
    std::mt19937 chance(qEnvironmentVariableIntValue("HSCAFFOLD_KILLED_SEED"));
    std::size_t proofs = 0;
    int saved = 0;
    say("begun");
    // While a proof is on its way into the file, what is done meanwhile follows it: nobody has said that it is there.
    const auto done = [this](const std::string& what, const std::function<void()>& work) {
      const bool late = document().busy();
      work();
      if (!late && !document().busy()) say(what);
    };
    for (int stroke = 0;;) {
      switch (chance() % 10) {
        case 0:
          pressInWindow(Qt::Key_Return, Qt::ControlModifier);
          break;
        case 1: {
          const auto seed = static_cast<std::uint32_t>(chance() % 1000);
          say("trying " + std::to_string(seed));
          done("seed " + std::to_string(seed),
               [&] { document().change("Seed", [&](StudyState& s) { s.brief.seed = seed; }); });
          break;
        }
        case 2:
          say("undoing 0");
          done("redone 0", [this] {
            undo();
            redo();
          });
          break;
        case 3:
          // Placed and settled while something else goes on.
          document().change("Place", [&](StudyState& s) {
            s.references[0].placement.x = 0.4 + 0.01 * static_cast<double>(chance() % 20);
          });
          break;
        case 4: {
          if (held) break;
          // The work goes on in another file.
          const std::string number = std::to_string(++saved);
          say("saving " + number);
          document().saveAs(study + number);
          say("saved " + number);
          break;
        }
        case 5:
          if (const ProofInfo* proof = desk_->proofs.current())
            static_cast<void>(desk_->finals.begin({proof->number, {960, 640}}));
          break;
        default: {
          press(Qt::Key_D);
          const QPointF at = placeOf(stroke);
          done("stroke " + std::to_string(stroke), [&] { drag({at, at + QPointF(4, 0)}); });
          stroke = (stroke + 1) % (columns * rows);
        }
      }
      QTest::qWait(static_cast<int>(chance() % 30));
      if (const std::size_t now = desk_->proofs.all().size(); now > proofs) {
        proofs = now;
        say("proof " + std::to_string(proofs));
      }
    }
  }
};

class KillsTest : public QObject {
  Q_OBJECT
 private slots:
  void nothingIsLostButTheOpenStroke();

 private:
  void looksWhole(const std::filesystem::path& path, const QList<QByteArray>& lines);

  int strokes_ = 0, proofs_ = 0, finals_ = 0, saves_ = 0;  ///< that were said to be done and were there
};

void KillsTest::nothingIsLostButTheOpenStroke() {
  const int kills = std::max(3, qEnvironmentVariableIntValue("HSCAFFOLD_KILLS"));
  const int within = std::max(2500, qEnvironmentVariableIntValue("HSCAFFOLD_KILLED_WITHIN"));
  std::mt19937 chance(static_cast<unsigned>(kills));
  for (int i = 0; i < kills; ++i) {
    const QTemporaryDir folder;
    const auto study = in(folder, "killed.scaffold");
    QProcess process;
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert("HSCAFFOLD_KILLED_STUDY", QString::fromStdString(study.string()));
    environment.insert("HSCAFFOLD_KILLED_SEED", QString::number(i + 1));
    const bool held = i % 2 == 1;
    if (held) environment.insert("HSCAFFOLD_KILLED_HELD", "1");
    process.setProcessEnvironment(environment);
    process.start(QCoreApplication::applicationFilePath(), {"killed_window", "works"});
    QByteArray said;
    while (!said.contains("begun\n") && process.waitForReadyRead(60'000 * patience))
      said += process.readAllStandardOutput();
    QVERIFY2(said.contains("begun\n"), said);
    {
      std::optional<HeldDatabase> disk;
      if (held) disk.emplace(study);
      process.waitForFinished(static_cast<int>(chance() % static_cast<unsigned>(within)));
      process.kill();
      process.waitForFinished();
    }
    said += process.readAllStandardOutput();
    const auto lines = said.trimmed().split('\n');
    int saved = 0, saving = 0;
    for (const QByteArray& line : lines) {
      if (line.startsWith("saving ")) saving = line.mid(7).toInt();
      if (line.startsWith("saved ")) saved = line.mid(6).toInt();
    }
    const auto named = [&](int n) { return study.string() + (n > 0 ? std::to_string(n) : std::string()); };
    const QString trouble = problemOf([&] { looksWhole(named(saved), lines); });
    QVERIFY2(trouble.isEmpty(), qPrintable(QString("kill %1: %2").arg(i).arg(trouble)));
    if (QTest::currentTestFailed()) qFatal("kill %d", i);
    // Under the new name everything is there, or nothing.
    if (saving > saved && std::filesystem::exists(named(saving))) looksWhole(named(saving), lines);
    if (QTest::currentTestFailed()) qFatal("kill %d, in the copy", i);
    saves_ += saved;
  }
  qInfo("%d kills; %d strokes, %d proofs, %d finals and %d saves under other names were there", kills, strokes_,
        proofs_, finals_, saves_);
  QVERIFY(strokes_ > kills);
}

/// What was said to be done is in the study, and it can be worked on.
void KillsTest::looksWhole(const std::filesystem::path& path, const QList<QByteArray>& lines) {
  {
    const auto file = StudyFile::open(path);
    QVERIFY(file.mended().empty());
    const StudyState state = file.readState();
    WorkStore store([&](const std::string& id) { return file.work(id); });
    const auto layer = store.layer(state.guides.at(0).work.in(retouchSlot));
    // Whoever is killed between undoing and doing again has undone.
    const bool undone = lines.lastIndexOf("undoing 0") > lines.lastIndexOf("redone 0");
    std::set<int> seeds;
    int lastDone = -1;
    for (int n = 0; n < lines.size(); ++n)
      if (lines[n].startsWith("stroke ") || lines[n].startsWith("seed ")) lastDone = n;
    for (int n = 0; n < lines.size(); ++n) {
      const QByteArray& line = lines[n];
      const int number = line.mid(line.indexOf(' ') + 1).toInt();
      const bool maybe = undone && n == lastDone;
      if (line.startsWith("stroke ") && !maybe) {
        QVERIFY2(layer != nullptr, "all strokes are lost");
        const QPointF at = placeOf(number);
        QVERIFY2(layer->at(static_cast<int>(at.x()) + 2, static_cast<int>(at.y())).cover > 0,
                 qPrintable(QString("%1 is lost").arg(QString(line))));
        ++strokes_;
      } else if (line.startsWith("proof ")) {
        QVERIFY2(file.proofs().size() >= static_cast<std::size_t>(number), "a proof is lost");
        ++proofs_;
      } else if (line.startsWith("trying ")) {
        seeds.insert(number);
      } else if (line.startsWith("seed ")) {
        if (!maybe) seeds.clear();
        seeds.insert(number);
      }
    }
    QVERIFY2(seeds.empty() || undone || seeds.contains(static_cast<int>(state.brief.seed)), "a seed is lost");
    // Of a final all parts that are named can be read.
    for (const Final& final : state.finals) {
      auto parts = final.tiles;
      if (final.whole()) parts.push_back(final.picture);
      for (const std::string& part : parts) QVERIFY2(!file.picture(part).empty(), "a part of a final is lost");
      finals_ += parts.empty() ? 0 : 1;
    }
    StudyFile::open(path).writeState(state);
  }
}

static const fixtures::Registered killedWindow("killed_window.cpp", [](int argc, char** argv) {
  KilledWindow test;
  return QTest::qExec(&test, argc, argv);
});
HSCAFFOLD_TEST(KillsTest)
#include "kills_test.moc"
