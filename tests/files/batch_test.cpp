// Nights of frames: every picture once, whoever takes part, is killed, stopped or cut off.
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <csignal>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <thread>

#include "core/engine/standin/standin.h"
#include "core/image/png.h"
#include "core/job/pull.h"
#include "files/batch.h"
#include "files/study_job.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
namespace fs = std::filesystem;

class BatchTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void whatCannotBePlannedLeavesNothing();
  void everyPictureIsPulledAsIfAlone();
  void killedWorkersLoseNothing();
  void stoppedWorkersGiveBack();
  void whoLostAnItemDoesNotFinishIt();
  void enginesThatFailAreSaid();
  void whatCannotBeWrittenIsSaid();
  void oneItemAlone();
  void namesOfAnyBytes();
  void figuresAreFoundInEachPicture();

 private:
  /// Small pictures, each another.
  std::vector<fs::path> pictures(int count) const {
    std::vector<fs::path> out;
    for (int i = 0; i < count; ++i) {
      Image<Rgb8> picture(96, 64);
      for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 96; ++x)
          picture(x, y) = x > 20 + 3 * i && x < 60 && y > 15 && y < 50 ? Rgb8{200, 120, 40} : Rgb8{30, 60, 90};
      out.push_back(root_ / ("frame " + std::to_string(i) + ".png"));
      writeFileAtomically(out.back(), encodePng(picture.view()));
    }
    return out;
  }
  int command(const QStringList& arguments, QString* said = nullptr) const {
    QProcess process;
    process.start(HSCAFFOLD_PROGRAM, arguments);
    process.waitForFinished(120'000);
    if (said != nullptr) *said = QString::fromUtf8(process.readAllStandardOutput() + process.readAllStandardError());
    return process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1;
  }
  [[nodiscard]] QString q(const fs::path& path) const { return QString::fromStdString(path.string()); }
  void plan(int count) const {
    BatchPlan plan;
    plan.study = study_;
    plan.references = pictures(count);
    QVERIFY(planBatch(plan, night_).empty());
  }
  /// How often an item's log says so.
  [[nodiscard]] int logged(int number, const std::string& event) const {
    const auto path = night_ / "log" / (QString("%1").arg(number, 5, 10, QChar('0')).toStdString() + ".jsonl");
    if (!fs::exists(path)) return 0;
    std::istringstream lines(textOf(readWholeFile(path)));
    int count = 0;
    for (std::string line; std::getline(lines, line);)
      count += nlohmann::json::parse(line).at("event").get<std::string>() == event;
    return count;
  }
  [[nodiscard]] int count(BatchItem::State state) const {
    const auto items = batchItems(night_);
    return static_cast<int>(
        std::count_if(items.begin(), items.end(), [state](const BatchItem& item) { return item.state == state; }));
  }
  static bool troubled(const BatchPlan& plan, const fs::path& folder) {
    try {
      planBatch(plan, folder);
    } catch (const Problem&) {
      return true;
    }
    return false;
  }

  std::unique_ptr<QTemporaryDir> folder_;
  fs::path root_, study_, night_;
};

void BatchTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  root_ = folder_->path().toStdString();
  study_ = root_ / "pattern.scaffold";
  night_ = root_ / "night";
  const auto first = pictures(1).front();
  QCOMPARE(command({"study", "new", q(study_), "--size", "96x64", "--reference", q(first), "--guide", "edges=0.9",
                    "--prompt", "a harbour, flat colours", "--seed", "9"}),
           0);
}

void BatchTest::whatCannotBePlannedLeavesNothing() {
  BatchPlan plan;
  plan.study = study_;
  QVERIFY(troubled(plan, night_));
  plan.references = pictures(2);
  plan.replaced = 2;
  QVERIFY(troubled(plan, night_));
  plan.replaced = 1;
  plan.references.push_back(root_ / "no picture.png");
  QVERIFY(troubled(plan, night_));
  std::ofstream(root_ / "no picture.png") << "words";
  QVERIFY(troubled(plan, night_));
  plan.references.pop_back();
  plan.study = root_ / "missing.scaffold";
  QVERIFY(troubled(plan, night_));
  QVERIFY(!fs::exists(night_) && !fs::exists(night_.string() + ".making"));
  plan.study = study_;
  fs::create_directory(night_);
  QVERIFY(troubled(plan, night_));
  QVERIFY(fs::is_empty(night_));
  QVERIFY_THROWS_EXCEPTION(Problem, batchItems(night_));
}

void BatchTest::everyPictureIsPulledAsIfAlone() {
  plan(3);
  QString said;
  QCOMPARE(command({"batch", "run", q(night_), "--jobs", "2"}, &said), 0);
  QCOMPARE(count(BatchItem::State::done), 3);
  const auto items = batchItems(night_);
  for (const BatchItem& item : items) {
    QVERIFY(item.hold && item.shift && item.engine.starts_with("stand-in") && item.retries == 0);
    const auto proof = readWholeFile(night_ / "proofs" / ("0000" + std::to_string(item.number) + ".png"));
    // The same as a study of its own gives.
    const auto alone = root_ / "alone.scaffold";
    fs::remove(alone);
    QCOMPARE(command({"study", "new", q(alone), "--size", "96x64", "--reference", q(root_ / item.name), "--guide",
                      "edges=0.9", "--prompt", "a harbour, flat colours", "--seed", "9"}),
             0);
    QCOMPARE(command({"pull", q(alone), "-o", q(root_ / "alone"), "--force"}), 0);
    QVERIFY(decodePngRgb8(proof) == decodePngRgb8(readWholeFile(root_ / "alone" / "seed9.png")));
    QVERIFY(textOf(proof).find(item.name) != std::string::npos || readPngTexts(proof).size() > 0);
  }
  // The table and the page tell of all.
  const std::string table = textOf(readWholeFile(night_ / "table.csv")),
                    page = textOf(readWholeFile(night_ / "index.html"));
  QCOMPARE(std::count(table.begin(), table.end(), '\n'), 4);
  for (const BatchItem& item : items)
    QVERIFY(table.find(item.name) != std::string::npos && page.find(item.name) != std::string::npos);
  // Run again, nothing is done twice.
  QCOMPARE(command({"batch", "run", q(night_)}), 0);
  for (int i = 1; i <= 3; ++i) QCOMPARE(logged(i, "begun"), 1);
  QCOMPARE(command({"batch", "status", q(night_)}, &said), 0);
  QVERIFY2(said.contains("3 done"), qPrintable(said));
}

void BatchTest::killedWorkersLoseNothing() {
  plan(10);
  const QStringList run{"batch", "run", q(night_), "--patience", "2"};
  std::vector<std::unique_ptr<QProcess>> workers;
  const auto begin = [&] {
    workers.push_back(std::make_unique<QProcess>());
    workers.back()->start(HSCAFFOLD_PROGRAM, run);
  };
  for (int i = 0; i < 3; ++i) begin();
  // One is killed as soon as it has something, and its successor too.
  for (int i = 0; i < 2; ++i) {
    QTRY_VERIFY_WITH_TIMEOUT(count(BatchItem::State::doing) > 0 || count(BatchItem::State::done) == 10, 20'000);
    workers.back()->kill();
    workers.back()->waitForFinished(5000);
    if (i == 0) begin();
  }
  for (const auto& worker : workers)
    QVERIFY(worker->state() == QProcess::NotRunning || worker->waitForFinished(60'000));
  QCOMPARE(count(BatchItem::State::done), 10);
  for (int i = 1; i <= 10; ++i) {
    QCOMPARE(logged(i, "done"), 1);
    QVERIFY(fs::exists(night_ / "results" / (QString("%1").arg(i, 5, 10, QChar('0')).toStdString() + ".json")));
  }
  QVERIFY(fs::is_empty(night_ / "doing") && fs::is_empty(night_ / "todo"));
  QVERIFY(fs::exists(night_ / "index.html"));
}

void BatchTest::stoppedWorkersGiveBack() {
  plan(2);
  QProcess worker;
  worker.start(HSCAFFOLD_PROGRAM, {"batch", "run", q(night_), "--program", "sh -c \"sleep 30\" {job} {out}"});
  QTRY_VERIFY_WITH_TIMEOUT(count(BatchItem::State::doing) == 1, 20'000);
  worker.terminate();
  QVERIFY(worker.waitForFinished(10'000));
  QCOMPARE(worker.exitCode(), 3);
  QCOMPARE(count(BatchItem::State::todo), 2);
  QCOMPARE(logged(1, "given back"), 1);
}

void BatchTest::whoLostAnItemDoesNotFinishIt() {
  plan(1);
  /// Takes its own item away while it works on it.
  class Robbed final : public Engine {
   public:
    explicit Robbed(fs::path folder) : folder_(std::move(folder)) {}
    [[nodiscard]] EngineInfo info() const override {
      EngineInfo info = StandinEngine().info();
      info.name = info.id = "robbed";
      return info;
    }
    Image<Rgb8> generate(const EngineJob& job, const EngineSink&, StopToken stop) override {
      if (!robbed) {
        robbed = true;
        for (const auto& entry : fs::directory_iterator(folder_ / "doing"))
          fs::rename(entry.path(), folder_ / "todo" / "00001.json");
        for (int i = 0; i < 100 && !stop.stop_requested(); ++i)
          std::this_thread::sleep_for(std::chrono::milliseconds(50));
        felt = stop.stop_requested();
        throwIfStopped(stop);
      }
      return Image<Rgb8>(job.recipe.frame);
    }
    [[nodiscard]] double estimate(const Recipe&) const override { return 1; }
    bool robbed = false, felt = false;

   private:
    fs::path folder_;
  } engine(night_);
  BatchRun run;
  run.patience = 2;
  runBatch(night_, engine, run, {}, [](const std::string&) {});
  QVERIFY(engine.felt);
  QCOMPARE(logged(1, "begun"), 2);
  QCOMPARE(logged(1, "done"), 1);
  QCOMPARE(count(BatchItem::State::done), 1);
}

void BatchTest::enginesThatFailAreSaid() {
  plan(2);
  QString said;
  QCOMPARE(command({"batch", "run", q(night_), "--program", "sh -c \"echo no paint >&2; exit 7\" {job} {out}"}, &said),
           3);
  QCOMPARE(count(BatchItem::State::failed), 2);
  const auto items = batchItems(night_);
  QVERIFY2(items[0].trouble.find("no paint") != std::string::npos, items[0].trouble.c_str());
  QVERIFY(textOf(readWholeFile(night_ / "table.csv")).find("no paint") != std::string::npos);
  QVERIFY(command({"batch", "run", q(root_ / "nowhere")}, &said) == 1 && said.contains("no batch"));
}

void BatchTest::whatCannotBeWrittenIsSaid() {
  plan(1);
  // There is no place for what came of it: it must not be held, nor begun for ever.
  fs::remove_all(night_ / "results");
  QCOMPARE(command({"batch", "run", q(night_), "--patience", "2"}), 3);
  QCOMPARE(count(BatchItem::State::failed), 1);
  QCOMPARE(logged(1, "begun"), 1);
  QVERIFY(fs::is_empty(night_ / "doing"));
}

void BatchTest::oneItemAlone() {
  plan(3);
  QCOMPARE(command({"batch", "run", q(night_), "--item", "2"}), 0);
  QCOMPARE(count(BatchItem::State::done), 1);
  QVERIFY(batchItems(night_)[1].state == BatchItem::State::done);
  QCOMPARE(command({"batch", "run", q(night_), "--item", "2"}), 0);
  QCOMPARE(logged(2, "begun"), 1);
  QCOMPARE(command({"batch", "run", q(night_), "--item", "9"}), 1);
}

void BatchTest::namesOfAnyBytes() {
  // Not UTF-8: from an old disk, say.
  BatchPlan plan;
  plan.study = study_;
  plan.references = {root_ / "for\xeat.png", root_ / "dawn.p\xf1g"};
  for (const fs::path& path : plan.references) fs::copy_file(pictures(1).front(), path);
  QVERIFY(planBatch(plan, night_).empty());
  QString said;
  QCOMPARE(command({"batch", "run", q(night_)}, &said), 0);
  QVERIFY2(!said.contains("json"), qPrintable(said));
  QCOMPARE(count(BatchItem::State::done), 2);
  QCOMPARE(QString::fromStdString(batchItems(night_)[0].name), QString("for\ufffdt.png"));
}

void BatchTest::figuresAreFoundInEachPicture() {
  const fs::path almanac = fs::path(HSCAFFOLD_SOURCE) / "almanac" / "pictures";
  const auto pattern = root_ / "walkers.scaffold";
  QCOMPARE(command({"study", "new", q(pattern), "--size", "480x320", "--reference", q(almanac / "dune-walk.jpg"),
                    "--guide", "edges@1=0.5", "--prompt", "a kite flyer on a dune, gouache", "--seed", "3"}),
           0);
  // The pattern has figures of its own; what counts is that it has some.
  QCOMPARE(command({"study", "pose", q(pattern), "--figures", q(almanac / "dune-walk.json"), "--reference", "1",
                    "--name", "Figures"}),
           0);
  BatchPlan plan;
  plan.study = pattern;
  plan.references = {almanac / "dune-walk.jpg", almanac / "sailcloth.jpg"};
  const auto notes = planBatch(plan, night_);
  QCOMPARE(notes.size(), std::size_t{1});
  QVERIFY(notes[0].find("found anew") != std::string::npos);
  QCOMPARE(command({"batch", "run", q(night_)}), 0);
  QCOMPARE(count(BatchItem::State::done), 2);
  const auto people = [&](int number) {
    const auto path = night_ / "proofs" / ("0000" + std::to_string(number) + ".figures.json");
    return nlohmann::json::parse(textOf(readWholeFile(path))).at("annotations").size();
  };
  QVERIFY2(people(1) >= 1 && people(1) <= 5, qPrintable(QString::number(people(1))));
  QCOMPARE(people(2), std::size_t{0});
  QCOMPARE(logged(1, "figures found"), 1);
  // They are what the picture shows, and hold like it: nobody was drawn where nobody is.
  const auto proofs = [&](int number) {
    return readWholeFile(night_ / "proofs" / ("0000" + std::to_string(number) + ".png"));
  };
  QVERIFY(batchItems(night_)[0].holds.contains("Figures"));
  QVERIFY(!(decodePngRgb8(proofs(1)) == decodePngRgb8(proofs(2))));
}

HSCAFFOLD_TEST(BatchTest)
#include "batch_test.moc"
