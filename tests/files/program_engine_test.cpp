// A program as an engine: what it is given, how it says how far it is, and every way in which it can go wrong.
#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <fstream>
#include <nlohmann/json.hpp>
#include <thread>

#include "core/engine/guided_jobs.h"
#include "core/image/png.h"
#include "core/job/job_folder.h"
#include "core/job/maps_wanted.h"
#include "core/measure/hold.h"
#include "files/program_engine.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

class ProgramEngineTest : public QObject {
  Q_OBJECT
 private slots:
  void init() { folder_ = std::make_unique<QTemporaryDir>(); }
  void setupsSayWhatIsWrong();
  void aScriptGetsTheJobAndLeavesAPicture();
  void mapsComeAsTheyAreWanted();
  void failuresAreSentences();
  void stoppingIsFeltAtOnce();
  void whatItStartedEndsWithIt();
  void whatItLeavesBehindEndsToo();
  void onlyItsOwnFolderIsRead();
  void floodsAreLetGo();
  void theExamplePulls();

 private:
  /// An engine that runs this shell script; $1 is the job's folder, $2 the one for what it leaves.
  [[nodiscard]] ProgramSetup script(const std::string& text) const {
    const auto path = folder_->filePath("engine.sh").toStdString();
    std::ofstream(path) << "#!/bin/sh\n" << text << "\n";
    std::filesystem::permissions(path, std::filesystem::perms::owner_all);
    ProgramSetup setup;
    setup.name = "script";
    setup.command = path + " {job} {out}";
    return setup;
  }
  [[nodiscard]] static EngineJob job() {
    Map map(Size{96, 64});
    fixtures::box(map, 20, 15, 60, 45);
    return fixtures::guidedJob("edges", map, 7, 0.8, "a tea house");
  }
  /// A picture for the script to leave. @return its path
  [[nodiscard]] std::string pictureOf(Size size) const {
    const auto path = folder_->filePath("ready.png").toStdString();
    Image<Rgb8> picture(size);
    picture(3, 2) = {10, 200, 30};
    writeFileAtomically(path, encodePng(picture.view()));
    return path;
  }
  static std::string troubleOf(const ProgramSetup& setup, StopToken stop = {}) {
    try {
      ProgramEngine(setup).generate(job(), {}, stop);
    } catch (const Problem& problem) {
      return problem.what();
    }
    return {};
  }

  /// Whether a process is there that is no zombie.
  static bool runs(int process) {
    const std::filesystem::path of = "/proc/" + std::to_string(process) + "/cmdline";
    std::error_code error;
    if (!std::filesystem::exists(of, error)) return false;
    std::ifstream file(of);
    return file.peek() != std::ifstream::traits_type::eof();
  }

  std::unique_ptr<QTemporaryDir> folder_;
};

void ProgramEngineTest::setupsSayWhatIsWrong() {
  ProgramSetup good;
  good.name = "mine";
  good.command = "paint \"{job}\" {out}";
  checkSetup(good);
  const auto wrong = [&](auto&& change) {
    ProgramSetup setup = good;
    change(setup);
    try {
      checkSetup(setup);
    } catch (const Problem&) {
      return true;
    }
    return false;
  };
  QVERIFY(wrong([](ProgramSetup& s) { s.name.clear(); }));
  QVERIFY(wrong([](ProgramSetup& s) { s.name = "stand-in"; }));
  QVERIFY(wrong([](ProgramSetup& s) { s.command = "  "; }));
  QVERIFY(wrong([](ProgramSetup& s) { s.command = "paint {job}"; }));
  QVERIFY(wrong([](ProgramSetup& s) { s.command = "paint {out}"; }));
  QVERIFY(wrong([](ProgramSetup& s) { s.lanes = 0; }));
  QVERIFY(wrong([](ProgramSetup& s) { s.mostSeconds = 0; }));
  QVERIFY(wrong([](ProgramSetup& s) { s.sizeStep = 0; }));
}

void ProgramEngineTest::aScriptGetsTheJobAndLeavesAPicture() {
  const auto ready = pictureOf({96, 64});
  const auto copy = folder_->filePath("copy").toStdString();
  ProgramEngine engine(
      script("cp -r \"$1\" " + copy + "\necho step 1/4\ncp " + ready +
             " \"$2\"/look.png\necho preview look.png\necho words that say nothing\necho step 4/4\ncp " + ready +
             " \"$2\"/picture.png"));
  std::vector<int> steps;
  int previews = 0;
  const auto picture = engine.generate(job(),
                                       [&](const EngineProgress& progress) {
                                         steps.push_back(progress.step);
                                         if (progress.preview)
                                           previews += progress.preview().size() == Size{96, 64} ? 1 : 0;
                                       },
                                       {});
  QVERIFY((picture.size() == Size{96, 64}));
  QCOMPARE(int{picture(3, 2).g}, 200);
  QCOMPARE(steps, (std::vector<int>{1, 1, 4}));
  QCOMPARE(previews, 1);
  // What it got is the job.
  const auto recipe = recipeFromJson(nlohmann::json::parse(textOf(readWholeFile(copy + "/recipe.json"))));
  const auto read = readJob(recipe, copy);
  QVERIFY(read.notes.empty());
  QVERIFY(read.job.inputs[0].map == job().inputs[0].map);
  QCOMPARE(read.job.recipe.brief.prompt, std::string("a tea house"));
}

void ProgramEngineTest::mapsComeAsTheyAreWanted() {
  auto two = job();
  RecipeGuide depth;
  depth.guide.kind = "depth";
  two.recipe.guides.push_back(depth);
  two.inputs.emplace_back();
  two.inputs[1].map = Map(96, 64, std::uint16_t{1000});
  const auto same = asWanted(two, {});
  QVERIFY(same.inputs[0].map == two.inputs[0].map && same.inputs[1].map == two.inputs[1].map);
  const auto dark = asWanted(two, {true, false, false});
  QCOMPARE(int{dark.inputs[0].map(20, 15)}, 0);
  QCOMPARE(int{dark.inputs[0].map(1, 1)}, 65535);
  QCOMPARE(int{dark.inputs[1].map(5, 5)}, 1000);
  const auto near = asWanted(two, {false, true, false});
  QCOMPARE(int{near.inputs[1].map(5, 5)}, 64535);
  QCOMPARE(int{near.inputs[0].map(20, 15)}, 65535);
  const auto eight = asWanted(two, {false, false, true});
  QCOMPARE(int{eight.inputs[1].map(5, 5)} % 257, 0);
  QVERIFY(std::abs(int{eight.inputs[1].map(5, 5)} - 1000) <= 129);
}

void ProgramEngineTest::failuresAreSentences() {
  const auto has = [](const std::string& text, const char* part) { return text.find(part) != std::string::npos; };
  std::string said = troubleOf(script("echo one >&2\necho the paint is dry >&2\nexit 3"));
  QVERIFY2(has(said, "(3)") && has(said, "the paint is dry"), said.c_str());
  said = troubleOf(script("kill -SEGV $$"));
  QVERIFY2(has(said, "crashed"), said.c_str());
  said = troubleOf(script("exit 0"));
  QVERIFY2(has(said, "no picture"), said.c_str());
  said = troubleOf(script("cp " + pictureOf({64, 64}) + " \"$2\"/a.png"));
  QVERIFY2(has(said, "64 x 64") && has(said, "96 x 64"), said.c_str());
  said = troubleOf(script("echo no picture > \"$2\"/a.png"));
  QVERIFY2(!said.empty(), said.c_str());
  ProgramSetup missing;
  missing.name = "gone";
  missing.command = "/no/such/program {job} {out}";
  said = troubleOf(missing);
  QVERIFY2(has(said, "could not be started"), said.c_str());
  auto slow = script("sleep 30");
  slow.mostSeconds = 1;
  said = troubleOf(slow);
  QVERIFY2(has(said, "longer than 1 s"), said.c_str());
}

void ProgramEngineTest::stoppingIsFeltAtOnce() {
  std::stop_source source;
  std::jthread later([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(200));
    source.request_stop();
  });
  // One that does not want to end.
  const auto setup = script("trap '' TERM\nwhile true; do sleep 1; done");
  QElapsedTimer time;
  time.start();
  QVERIFY_THROWS_EXCEPTION(Cancelled, ProgramEngine(setup).generate(job(), {}, source.get_token()));
  QVERIFY2(time.elapsed() < 5000, qPrintable(QString::number(time.elapsed())));
}

void ProgramEngineTest::whatItStartedEndsWithIt() {
  const auto pid = folder_->filePath("pid").toStdString();
  auto setup = script("sleep 60 &\necho $! > " + pid + "\nwait");
  setup.mostSeconds = 1;
  QVERIFY(!troubleOf(setup).empty());
  QTRY_VERIFY(!runs(std::stoi(textOf(readWholeFile(pid)))));
}

void ProgramEngineTest::onlyItsOwnFolderIsRead() {
  const auto ready = pictureOf({96, 64});
  for (const std::string& leave :
       std::vector<std::string>{"ln -s " + ready + " \"$2\"/a.png",
                                "mkdir \"$2\"/sub\ncp " + ready + " \"$2\"/sub/a.png", "mkfifo \"$2\"/a.png"}) {
    const std::string said = troubleOf(script(leave));
    QVERIFY2(said.find("no picture") != std::string::npos, said.c_str());
  }
  // Previews from elsewhere are none, nor are broken ones.
  ProgramEngine engine(
      script("echo preview ../job/recipe.json\necho half > \"$2\"/b.png\necho preview b.png\necho preview " + ready +
             "\ncp " + ready + " \"$2\"/a.png"));
  int previews = 0;
  engine.generate(job(), [&](const EngineProgress& progress) { previews += progress.preview ? 1 : 0; }, {});
  QCOMPARE(previews, 0);
}

void ProgramEngineTest::whatItLeavesBehindEndsToo() {
  const auto ready = pictureOf({96, 64}), pid = folder_->filePath("pid").toStdString();
  // Ends well, and leaves a child that would go on.
  ProgramEngine engine(script("sleep 60 >/dev/null 2>&1 &\necho $! > " + pid + "\ncp " + ready + " \"$2\"/a.png"));
  QCOMPARE(int{engine.generate(job(), {}, {})(3, 2).g}, 200);
  QTRY_VERIFY(!runs(std::stoi(textOf(readWholeFile(pid)))));
}

void ProgramEngineTest::floodsAreLetGo() {
  const auto ready = pictureOf({96, 64});
  ProgramEngine engine(
      script("head -c 60000000 /dev/zero | tr '\\0' 'x'\nyes step 2/9 | head -n 20000\ncp " + ready + " \"$2\"/a.png"));
  const auto picture = engine.generate(job(), {}, {});
  QCOMPARE(int{picture(3, 2).g}, 200);
}

void ProgramEngineTest::theExamplePulls() {
  ProgramSetup setup;
  setup.name = "painter";
  setup.command = "/usr/bin/python3 " HSCAFFOLD_SOURCE "/examples/adapter/paint.py {job} {out}";
  ProgramEngine engine(setup);
  // A strip: the more weight, the more of the lines is there.
  double last = -1;
  for (const double weight : {0.0, 0.3, 1.0}) {
    auto one = job();
    one.recipe.guides[0].guide.weight = weight;
    int steps = 0;
    const auto picture = engine.generate(one, [&](const EngineProgress& progress) { steps = progress.step; }, {});
    QCOMPARE(steps, one.recipe.brief.steps);
    double dark = 0;
    for (int x = 22; x < 58; ++x) dark += 255 - picture(x, 15).g;
    QVERIFY2(dark > last + (last < 0 ? 0 : 200), qPrintable(QString("%1 after %2").arg(dark).arg(last)));
    last = dark;
  }
}

HSCAFFOLD_TEST(ProgramEngineTest)
#include "program_engine_test.moc"
