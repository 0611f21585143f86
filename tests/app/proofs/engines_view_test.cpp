// Several engines side by side: lanes of their own, one that is missing, one that fails for now, and what the window
// asks of the chosen one.
#include <QCheckBox>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalSpy>
#include <QTextBlock>
#include <QTextLayout>

#include "app/brief/prompt_edit.h"
#include "app/proofs/far_engine.h"
#include "app/window_fixture.h"
#include "core/image/png.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class EnginesViewTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void enginesHaveLanesOfTheirOwn();
  void waitingTakesNoComputingThread();
  void whatPassesIsOfferedAgain();
  void aMissingEngineIsSaidNotReplaced();
  void theWindowAsksTheChosenEngine();
  void aProgramBecomesAnEngine();

 private:
  SheetPlan stripOf(int cells) const {
    SheetPlan plan;
    plan.base = recipeOf(state());
    plan.axes = {axisOver(Setting::steps, {}, 4, 4 + cells - 1, cells)};
    plan.seeds = {1};
    return plan;
  }
  std::shared_ptr<FarEngine> addFar(int lanes) const {
    auto far = std::make_shared<FarEngine>(lanes);
    desk().addEngine(far);
    use("far");
    return far;
  }
  void use(const std::string& name) const {
    document().change("Engine", [&](StudyState& s) { s.engine = name; });
  }
  static std::int64_t running(const PullQueue& queue) {
    return std::count_if(queue.all().begin(), queue.all().end(), [](const Pull& pull) { return pull.running; });
  }
};

void EnginesViewTest::enginesHaveLanesOfTheirOwn() {
  const auto far = addFar(1);
  QVERIFY(desk().queue.pullSheet(stripOf(3)) > 0);
  QCOMPARE(running(desk().queue), 1);
  // The other engine does not wait for it.
  use(builtInEngine);
  desk().queue.pull();
  QVERIFY(QTest::qWaitFor([&] { return desk().proofs.all().size() == 1; }, 60'000));
  QVERIFY(desk().proofs.all()[0].recipe.engine.starts_with("stand-in"));
  QCOMPARE(desk().queue.all().size(), std::size_t{3});
  far->letGo();
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{4});
  for (std::size_t i = 1; i < 4; ++i) QCOMPARE(desk().proofs.all()[i].recipe.engine, std::string("far 3"));
}

void EnginesViewTest::waitingTakesNoComputingThread() {
  const auto far = addFar(8);
  QVERIFY(desk().queue.pullSheet(stripOf(8)) > 0);
  QVERIFY(QTest::qWaitFor([&] { return far->asked == 8; }, 30'000));
  bool computed = false;
  desk().tasks.run(
      window_.get(), "computes", Priority::maps, [](const StopToken&) { return 7; }, [&](int) { computed = true; });
  QVERIFY(QTest::qWaitFor([&] { return computed; }, 10'000));
  // What waits elsewhere is stopped as well.
  desk().queue.stopAll();
  QVERIFY(QTest::qWaitFor([&] { return desk().queue.all().empty(); }, 10'000));
  QVERIFY(desk().proofs.all().empty());
}

void EnginesViewTest::whatPassesIsOfferedAgain() {
  const auto far = addFar(2);
  far->failing = {5};
  far->letGo();
  QSignalSpy problems(&desk().queue, &PullQueue::problem);
  const std::int64_t sheet = desk().queue.pullSheet(stripOf(3));
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{2});
  QCOMPARE(desk().proofs.sheet(sheet)->waiting, std::vector<int>{1});
  QVERIFY(problems.at(0).at(0).toString().contains("busy") && problems.at(0).at(0).toString().contains("again"));
  // Also after the study was closed in between; the engine that it was begun with goes on.
  far->failing.clear();
  use(builtInEngine);
  desk().document.open(document().path());
  settle();
  desk().queue.resume(sheet);
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{3});
  QCOMPARE(desk().proofs.all().back().recipe.engine, std::string("far 3"));
  QVERIFY(desk().proofs.sheet(sheet)->waiting.empty());
}

void EnginesViewTest::aMissingEngineIsSaidNotReplaced() {
  use("attic");
  settle();
  QSignalSpy problems(&desk().queue, &PullQueue::problem);
  desk().queue.pull();
  QCOMPARE(problems.size(), 1);
  QVERIFY(problems.at(0).at(0).toString().contains("attic"));
  QVERIFY(desk().queue.all().empty());
  QCOMPARE(desk().checks.all().front().id, std::string("engine-missing"));
  auto& chip = part<QPushButton>("engine chip");
  QVERIFY2(chip.text().contains("attic"), qPrintable(chip.text()));
  // Cells whose engine goes while they wait are not lost either.
  {
    const auto gone = addFar(1);
    const std::int64_t sheet = desk().queue.pullSheet(stripOf(3));
    desk().removeEngine("far");
    gone->letGo();
    QVERIFY(QTest::qWaitFor([&] { return desk().queue.all().empty(); }, 30'000));
    QCOMPARE(desk().proofs.all().size(), std::size_t{1});
    QCOMPARE(desk().proofs.sheet(sheet)->waiting, (std::vector<int>{1, 2}));
  }
  // It may be connected later.
  const auto far = addFar(1);
  use("far");
  desk().removeEngine("far");
  QVERIFY(chip.text().contains("far") && !chip.text().contains("Far engine"));
  desk().addEngine(far);
  QVERIFY(chip.text().contains("Far engine"));
  // And changed for another by a press.
  QTest::mouseClick(&chip, Qt::LeftButton);
  QTest::mouseClick(&part<QPushButton>("use engine stand-in", QApplication::activePopupWidget()), Qt::LeftButton);
  QCOMPARE(state().engine, std::string(builtInEngine));
  undo();
  QCOMPARE(state().engine, std::string("far"));
}

void EnginesViewTest::theWindowAsksTheChosenEngine() {
  const auto underlined = [&] {
    auto& prompt = window_->findChild<PromptEdit*>("prompt")[0];
    QStringList words;
    for (const auto& range : prompt.document()->firstBlock().layout()->formats())
      if (range.format.underlineStyle() == QTextCharFormat::DotLine)
        words << prompt.toPlainText().mid(range.start, range.length);
    return words;
  };
  document().change("Prompt", [](StudyState& s) { s.brief.prompt = "a gramophone on a dune"; });
  QCOMPARE(underlined(), QStringList{"dune"});
  addFar(1);
  QCOMPARE(underlined(), QStringList{"gramophone"});
  // And checks say what it does not take.
  document().change("Depth", [](StudyState& s) { s.guides[0].kind = "depth", s.guides[0].tuning.clear(); });
  const auto& checks = desk().checks.all();
  QVERIFY(std::any_of(checks.begin(), checks.end(), [](const Check& check) {
    return check.sentence.find("Far engine does not know") != std::string::npos;
  }));
}

void EnginesViewTest::aProgramBecomesAnEngine() {
  const QString program = path("paint.sh");
  {
    QFile file(program);
    QVERIFY(file.open(QIODevice::WriteOnly));
    // It hands the map back as its picture, and fails where it is told to.
    file.write(
        "#!/bin/sh\necho step 1/2\nif [ -f \"$0.broken\" ]; then echo out of paint >&2; exit 4; fi\n"
        "cp \"$1\"/map-1-edges.png \"$2\"/picture.png\necho step 2/2\n");
    file.setPermissions(QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner);
  }
  // By keys and fields: what is missing is said, and nothing is added before.
  click("engine chip");
  click("add own program");
  auto& panel = part<QWidget>("program panel");
  auto& add = part<QPushButton>("add program", &panel);
  QVERIFY(!add.isEnabled());
  part<QLineEdit>("program name", &panel).setText("brush");
  part<QLineEdit>("program command", &panel).setText("\"" + program + "\" {job}");
  QVERIFY(!add.isEnabled());
  QVERIFY(part<QLabel>("program doubt", &panel).text().contains("{out}"));
  part<QLineEdit>("program command", &panel).setText("\"" + program + "\" {job} {out}");
  part<QCheckBox>("program dark lines", &panel).setChecked(true);
  QTest::keyClick(&panel, Qt::Key_Return);
  QCOMPARE(state().engine, std::string("brush"));
  // A strip by it, and one by the stand-in beside it.
  QVERIFY(desk().queue.pullSheet(stripOf(3)) > 0);
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{3});
  QCOMPARE(desk().proofs.all()[0].recipe.engine, std::string("brush"));
  const auto picture = decodePngRgb8(desk().proofs.png(1));
  QCOMPARE(int{picture(0, 0).r}, 255);  // dark lines on white, as it was asked for
  use(builtInEngine);
  QVERIFY(desk().queue.pullSheet(stripOf(2)) > 0);
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{5});
  // One that fails says its last words, once for a sheet, and nothing is lost.
  use("brush");
  { QVERIFY(QFile(program + ".broken").open(QIODevice::WriteOnly)); }
  QSignalSpy problems(&desk(), &Desk::problem);
  QVERIFY(desk().queue.pullSheet(stripOf(3)) > 0);
  settle();
  QCOMPARE(problems.size(), 2);  // the first, and how many there were
  QVERIFY2(problems[0][0].toString().contains("out of paint"), qPrintable(problems[0][0].toString()));
  QCOMPARE(desk().proofs.all().size(), std::size_t{5});
  // There again in another window, until it is taken away.
  beginAgain();
  QVERIFY(desk().engines.find("brush") != nullptr);
  use("brush");
  click("engine chip");
  click("forget program");
  QVERIFY(desk().engines.find("brush") == nullptr);
  QVERIFY(desk().queue.engineInfo()->missing);
}

HSCAFFOLD_TEST(EnginesViewTest)
#include "engines_view_test.moc"
