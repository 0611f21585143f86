// Several engines side by side: lanes of their own, one that is missing, one that fails for now, and what the window
// asks of the chosen one.
#include <QAction>
#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSignalSpy>
#include <QTextBlock>
#include <QTextLayout>
#include <QToolButton>
#include <set>

#include "app/brief/prompt_edit.h"
#include "app/proofs/far_engine.h"
#include "app/proofs/own_programs.h"
#include "app/window_fixture.h"
#include "core/image/png.h"
#include "core/study/pull_sets.h"

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
  void severalShareASheet();
  void oneThatFailsIsLeftOut();
  void theListSaysHowEnginesAre();
  void roughAndFinalAreOnePressApart();
  void mapsAreShownAsTheyGoOut();
  void familiesAreChosen();

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
  /// Of the menu of an engine in the list.
  void chooseOf(const char* engine, const QString& entry) const {
    auto& more = part<QToolButton>(("more of " + std::string(engine)).c_str());
    for (QAction* action : more.menu()->actions())
      if (action->text() == entry) return action->trigger();
    QFAIL(qPrintable(entry));
  }
  /// A sheet of so many seeds, which two engines share.
  [[nodiscard]] SheetPlan shared(int cells) const {
    SheetPlan plan;
    plan.base = recipeOf(state());
    for (int i = 0; i < cells; ++i) plan.seeds.push_back(static_cast<std::uint32_t>(100 + i));
    plan.engines = desk().queue.sharers();
    return plan;
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
  part<QCheckBox>("maps dark lines", &panel).setChecked(true);
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
  chooseOf("brush", "Take it away");
  QVERIFY(desk().engines.find("brush") == nullptr);
  QVERIFY(desk().queue.engineInfo()->missing);
}

void EnginesViewTest::severalShareASheet() {
  const auto loft = std::make_shared<FarEngine>(2, "loft", "Loft"),
             attic = std::make_shared<FarEngine>(1, "attic", "Attic");
  desk().addEngine(loft);
  desk().addEngine(attic);
  use("loft");
  // The built-in one makes other pictures: it is not offered.
  QCOMPARE(desk().queue.sharers(), std::vector<std::string>{"attic"});
  const std::int64_t sheet = desk().queue.pullSheet(shared(9));
  QCOMPARE(running(desk().queue), 3);
  loft->letGo();
  attic->letGo();
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{9});
  QVERIFY(desk().proofs.sheet(sheet)->waiting.empty());
  // Each cell once, by one of them.
  std::multiset<std::uint32_t> made(loft->seeds.begin(), loft->seeds.end());
  made.insert(attic->seeds.begin(), attic->seeds.end());
  QCOMPARE(made.size(), std::size_t{9});
  QCOMPARE(std::set<std::uint32_t>(made.begin(), made.end()).size(), std::size_t{9});
  QVERIFY(!attic->seeds.empty() && !loft->seeds.empty());
  // Kept with the sheet, and offered where a sheet is asked for.
  QCOMPARE(desk().proofs.sheet(sheet)->plan.engines, std::vector<std::string>{"attic"});
  pressInWindow(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
  auto& box = part<QCheckBox>("shared");
  QVERIFY(box.isChecked() && box.text().contains("Attic"));
}

void EnginesViewTest::oneThatFailsIsLeftOut() {
  const auto loft = std::make_shared<FarEngine>(1, "loft", "Loft"),
             attic = std::make_shared<FarEngine>(1, "attic", "Attic");
  desk().addEngine(loft);
  desk().addEngine(attic);
  use("loft");
  loft->broken = true;
  QSignalSpy notices(&desk(), &Desk::notice), problems(&desk(), &Desk::problem);
  const std::int64_t sheet = desk().queue.pullSheet(shared(6));
  // The other one does not make all of it before this one is asked.
  QTRY_VERIFY_WITH_TIMEOUT(loft->asked > 0, 60'000 * patience);
  attic->letGo();
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{6});
  QVERIFY(desk().proofs.sheet(sheet)->waiting.empty());
  QCOMPARE(loft->seeds.size(), std::size_t{1});
  QCOMPARE(problems.size(), 0);
  int said = 0;
  for (const auto& notice : notices)
    said += notice[0].toString().contains("Loft is left out") && notice[0].toString().contains("roof") ? 1 : 0;
  QCOMPARE(said, 1);
  // It shows at the engine and among the checks, until it makes something again.
  QVERIFY(desk().engines.info("loft")->trouble.find("roof") != std::string::npos);
  QCOMPARE(desk().checks.all().front().id, std::string("engine-trouble"));
  QVERIFY(desk().queue.sharers() == std::vector<std::string>{"attic"});
  loft->broken = false;
  loft->letGo();
  desk().queue.pull();
  settle();
  QVERIFY(desk().engines.info("loft")->trouble.empty());
  // Where all fail, each cell was tried once by each, and one sentence says so.
  loft->broken = attic->broken = true;
  loft->seeds.clear();
  attic->seeds.clear();
  problems.clear();
  QVERIFY(desk().queue.pullSheet(shared(3)) > 0);
  settle();
  for (const auto& engine : {loft, attic}) {
    const std::set<std::uint32_t> once(engine->seeds.begin(), engine->seeds.end());
    QCOMPARE(once.size(), engine->seeds.size());
  }
  QVERIFY(loft->seeds.size() + attic->seeds.size() >= 3);
  QCOMPARE(problems.size(), 2);  // the first, and how many there were
  QCOMPARE(desk().proofs.all().size(), std::size_t{7});
}

void EnginesViewTest::theListSaysHowEnginesAre() {
  const auto far = addFar(2);
  far->letGo();
  desk().queue.forgetPace("far");
  click("engine chip");
  QCOMPARE(part<QLabel>("pace of far").text(), QString("not timed yet"));
  QApplication::activePopupWidget()->close();
  desk().queue.pull();
  settle();
  click("engine chip");
  QVERIFY2(part<QLabel>("pace of far").text().endsWith(" s a proof"), qPrintable(part<QLabel>("pace of far").text()));
  // What fails says so while the list is open.
  far->broken = true;
  desk().queue.pull();
  settle();
  auto& trouble = part<QLabel>("trouble of far");
  QVERIFY(trouble.isVisible() && trouble.text().contains("roof"));
  QVERIFY(part<QPushButton>("engine chip").text().startsWith(QString::fromUtf8("\xE2\x9C\x95")));
  // Measured is remembered in another window.
  QApplication::activePopupWidget()->close();
  beginAgain();
  QVERIFY(desk().queue.isMeasured("far"));
}

void EnginesViewTest::roughAndFinalAreOnePressApart() {
  document().change("Frame", [](StudyState& s) {
    s.frame = {768, 512};
    s.brief.steps = 9;
  });
  auto& set = part<QPushButton>("pull set");
  QCOMPARE(set.text(), QString("Final"));
  QTest::mouseClick(&set, Qt::LeftButton);
  QCOMPARE(set.text(), QString("Rough"));
  click("engine chip");
  typeInto(part<QWidget>("longer side of rough"), "192");
  typeInto(part<QWidget>("steps of rough"), "4");
  QCOMPARE(state().brief.steps, 4);
  QCOMPARE(pullSet(state(), false).steps, 9);
  QApplication::activePopupWidget()->close();
  activate();
  desk().queue.pull();
  settle();
  const ProofInfo* small = desk().proofs.current();
  QVERIFY(small != nullptr && small->recipe.frame.width == 192);
  QCOMPARE(small->recipe.mapsSize(), state().frame);
  QCOMPARE(small->recipe.brief.steps, 4);
  // Back by the keyboard; one step, which undo takes back.
  pressInWindow(Qt::Key_J, Qt::ControlModifier);
  QVERIFY(!state().rough);
  QCOMPARE(state().brief.steps, 9);
  QCOMPARE(state().longest, 0);
  undo();
  QVERIFY(state().rough && state().longest == 192);
  // And with the study.
  const auto kept = state();
  const auto path = document().path();
  document().open(path);
  settle();
  QVERIFY(state().rough && state().otherSet == kept.otherSet && state().longest == 192);
}

void EnginesViewTest::mapsAreShownAsTheyGoOut() {
  ProgramSetup brush;
  brush.name = "brush";
  brush.command = "sh -c true {job} {out}";
  rememberProgram(desk(), brush);
  settle();
  click("engine chip");
  chooseOf("brush", "Maps as it wants them...");
  auto& panel = part<QFrame>("maps panel");
  const auto corner = [&] {
    const auto shown = panel.findChildren<QLabel*>("map going out");
    return shown.isEmpty() ? -1 : qGray(shown[0]->pixmap().toImage().pixel(1, 1));
  };
  QTRY_VERIFY(corner() >= 0 && corner() < 60);
  part<QCheckBox>("maps dark lines", &panel).setChecked(true);
  QTRY_VERIFY(corner() > 200);
  part<QLineEdit>("called edges", &panel).setText("outline");
  QTest::mouseClick(&part<QPushButton>("keep maps", &panel), Qt::LeftButton);
  const MapsWanted maps = desk().engines.info("brush")->maps;
  QVERIFY(maps.darkLines && maps.called.at("edges") == "outline");
  // Remembered, and the study's own map is as it was.
  beginAgain();
  QVERIFY(desk().engines.info("brush")->maps == maps);
  forgetProgram(desk(), "brush");
}

void EnginesViewTest::familiesAreChosen() {
  const auto far = std::make_shared<FarEngine>(1);
  far->families = {{"slate", {}}, {"chalk", {"depth"}}};
  desk().addEngine(far);
  use("far");
  far->letGo();
  click("engine chip");
  auto& families = part<QComboBox>("family");
  QCOMPARE(families.count(), 2);
  families.setCurrentIndex(1);
  emit families.activated(1);
  QCOMPARE(state().family, std::string("chalk"));
  const auto& checks = desk().checks.all();
  QVERIFY(std::any_of(checks.begin(), checks.end(), [](const Check& check) {
    return check.sentence.find("in this family of models") != std::string::npos;
  }));
  // It goes into the recipe; another engine without it is not asked for it.
  QCOMPARE(recipeOf(state()).family, std::string("chalk"));
  QTest::mouseClick(&part<QPushButton>("use engine stand-in"), Qt::LeftButton);
  QVERIFY(state().family.empty());
}

HSCAFFOLD_TEST(EnginesViewTest)
#include "engines_view_test.moc"
