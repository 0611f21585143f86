// The Sheet view by mouse and keys: strips pulled, cells chosen and compared, what a strip says taken over.
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QProcess>
#include <QPushButton>
#include <QSignalSpy>
#include <QTableWidget>
#include <csignal>

#include "app/sheet/sheet_view.h"
#include "app/sheet/strip_panel.h"
#include "app/sheet/trade_chart.h"
#include "app/window_fixture.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;

class SheetViewTest : public fixtures::QuickWindowTest {
  Q_OBJECT
 private slots:
  void stripIsPulledFromThePanel();
  void panelSaysWhatIsWrong();
  void panelBeginsWhereTheArtistIs();
  void cellsAreChosenAndCompared();
  void chartAndSheetChooseTogether();
  void starsAndPuttingAwayAreUndone();
  void adviceIsTakenOver();
  void orderAndLeastHold();
  void stoppingKeepsWhatIsThere();
  void pausingHoldsTheRest();
  void onePulledAloneComesBeforeTheSheet();
  void whatWasLeftIsOfferedAgain();
  void killedSheetsGoOn();
  void cellsThatFailDoNotStopTheSheet();
  void fullSizeIsOneKeyAway();
  void manyCellsAreAskedAbout();
  void longStripsGoOnInTheNextRow();
  void oneStepComparesAndAdopts();
  void seedsKnownElsewhereAreToldOf();

 private:
  [[nodiscard]] SheetView& sheet() const { return *window_->findChild<SheetView*>(); }
  [[nodiscard]] StripPanel& panel() const { return part<StripPanel>("strip panel"); }
  void openPanel() const { pressInWindow(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier); }
  void choose(const char* box, const QString& text) const {
    auto& combo = part<QComboBox>(box, &panel());
    const int index = combo.findText(text);
    QVERIFY2(index >= 0, qPrintable(text));
    combo.setCurrentIndex(index);
  }
  /// A strip over the weight of the edges, pulled to the end.
  void pullStrip(const QString& values = "0.1, 0.6, 1") const {
    openPanel();
    choose("across", QString::fromStdString(state().guides[0].name) + ", weight");
    typeInto(part<QLineEdit>("across values", &panel()), values);
    settle();
    activate();
  }
  /// A plan with so many seeds, begun.
  std::int64_t begin(int seeds) const {
    SheetPlan plan;
    plan.base = recipeOf(state());
    for (int i = 0; i < seeds; ++i) plan.seeds.push_back(static_cast<std::uint32_t>(i + 1));
    return desk().queue.pullSheet(plan);
  }
  void clickCell(int row, int column, Qt::KeyboardModifiers keys = {}) const {
    auto& grid = sheet().grid();
    QTest::mouseClick(grid.viewport(), Qt::LeftButton, keys,
                      grid.visualRect(sheet().model().index(row, column)).center());
  }
};

void SheetViewTest::stripIsPulledFromThePanel() {
  pullStrip();
  QVERIFY(sheet().isVisible());
  QCOMPARE(desk().proofs.sheets().size(), std::size_t{1});
  QCOMPARE(desk().proofs.all().size(), std::size_t{3});
  QVERIFY(desk().proofs.sheets()[0].waiting.empty());
  // One seed, weights in order, holds rise.
  auto& model = sheet().model();
  QCOMPARE(model.columnCount(), 3);
  QCOMPARE(model.rowCount(), 1);
  QCOMPARE(model.headerData(1, Qt::Horizontal, Qt::DisplayRole).toString(), QString("0.60"));
  double last = -1;
  for (int c = 0; c < 3; ++c) {
    const ProofInfo* proof = desk().proofs.proof(model.numberAt(model.index(0, c)));
    QVERIFY(proof != nullptr && proof->shift.has_value());
    QCOMPARE(proof->recipe.brief.seed, desk().proofs.all()[0].recipe.brief.seed);
    QVERIFY(*meanHold(*proof) > last);
    last = *meanHold(*proof);
  }
  // The study itself is as it was.
  QCOMPARE(state().guides[0].weight, 0.7);
  // And all of it is in the file.
  const auto file = StudyFile::open(document().path(), StudyFile::Access::read);
  QCOMPARE(file.sheets().size(), std::size_t{1});
  QVERIFY(file.sheets()[0].plan == desk().proofs.sheets()[0].plan);
  QCOMPARE(file.proofs()[2].sheet, file.sheets()[0].number);
}

void SheetViewTest::panelSaysWhatIsWrong() {
  openPanel();
  choose("across", QString::fromStdString(state().guides[0].name) + ", weight");
  auto& values = part<QLineEdit>("across values", &panel());
  auto& pull = part<QPushButton>("pull sheet now", &panel());
  for (const char* wrong : {"abc", "", "0..9/3", "0.2..1/0", "0.2..1/100000"}) {
    values.setText(wrong);
    QVERIFY2(!pull.isEnabled(), wrong);
    QVERIFY(!part<QLabel>("doubt", &panel()).text().isEmpty());
  }
  values.setText("0.2..1/5");
  QVERIFY(pull.isEnabled());
  QVERIFY(part<QLabel>("cost", &panel()).text().startsWith("5 proofs"));
  // Cells that come to the same are said, and may still be pulled.
  choose("down", QString::fromStdString(state().guides[0].name) + ", range end");
  part<QLineEdit>("down values", &panel()).setText("97, 100");
  QVERIFY(part<QLabel>("doubt", &panel()).text().contains("same picture"));
  // The same setting both ways is none.
  choose("down", QString::fromStdString(state().guides[0].name) + ", weight");
  QVERIFY(!pull.isEnabled());
}

void SheetViewTest::panelBeginsWhereTheArtistIs() {
  auto& chart = bench().board().chart();
  chart.setFocus();
  QTest::keyClick(&chart, Qt::Key_Space);
  QTest::keyClick(&chart, Qt::Key_T);
  QVERIFY(!part<QComboBox>("across", &panel()).currentText().isEmpty());
  panel().close();
  QCoreApplication::processEvents();
  // Alt and a drag of a bar's end span the values, and change nothing.
  const Range before = state().guides[0].range;
  const QPoint begin = chart.gripAt(state().guides[0].id, BarGrip::from).toPoint(),
               end = chart.gripAt(state().guides[0].id, BarGrip::to).toPoint();
  dragOn(chart, end, QPoint(end.x() - (end.x() - begin.x()) * 2 / 5, end.y()), Qt::AltModifier);
  QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  QVERIFY(state().guides[0].range == before);
  QVERIFY(part<QComboBox>("across", &panel()).currentText().endsWith("range end"));
  const QString values = part<QLineEdit>("across values", &panel()).text();
  QVERIFY2(values.contains("100") && values.contains("/5"), qPrintable(values));
}

void SheetViewTest::cellsAreChosenAndCompared() {
  pullStrip();
  clickCell(0, 0);
  clickCell(0, 2, Qt::ControlModifier);
  const auto chosen = sheet().details().proofs();
  QCOMPARE(chosen.size(), std::size_t{2});
  // The one clicked last is looked at, here and on the Bench.
  QCOMPARE(state().looking.proof, chosen[0]);
  auto& list = part<QTableWidget>("differences");
  QCOMPARE(list.rowCount(), 1);
  QVERIFY(list.item(0, 0)->text().endsWith("weight"));
  QCOMPARE(list.item(0, 1)->text(), QString("1.00"));
  QCOMPARE(list.item(0, 2)->text(), QString("0.10"));
  // Large, by key; the same place in both.
  QTest::keyClick(&sheet().grid(), Qt::Key_Return);
  QVERIFY(sheet().comparing());
  auto& table = sheet().compared();
  QCOMPARE(table.tiles(), chosen);
  QTest::keyClick(&table, Qt::Key_R);
  QCOMPARE(table.tiles().size(), std::size_t{3});
  QTest::keyClick(&table, Qt::Key_R);
  QTest::keyClick(&table, Qt::Key_B);
  const auto first = table.tiles();
  QCOMPARE(first.size(), std::size_t{1});
  QVERIFY(QTest::qWaitFor([&] { return table.tiles() != first; }, 3000));
  QTest::keyClick(&table, Qt::Key_W);
  QCOMPARE(table.tiles().size(), std::size_t{2});
  QTest::keyClick(&table, Qt::Key_Right);
  QVERIFY(table.wipeAt() > 0.5);
  const QImage plain = table.grab().toImage();
  QTest::keyClick(&table, Qt::Key_Q);
  QVERIFY(table.grab().toImage() != plain);
  QTest::keyClick(&table, Qt::Key_Q);
  QTest::keyClick(&table, Qt::Key_Plus);
  QVERIFY(!table.view().fitting());
  QTest::keyClick(&table, Qt::Key_Escape);
  QVERIFY(!sheet().comparing());
}

void SheetViewTest::chartAndSheetChooseTogether() {
  pullStrip();
  auto& chart = sheet().details().chart();
  QCOMPARE(chart.points().size(), std::size_t{3});
  const TradePoint point = chart.points()[1];
  QTest::mouseClick(chart.viewport(), Qt::LeftButton, {}, chart.placeOf(point).toPoint());
  QCOMPARE(sheet().grid().selectedProofs(), std::vector<std::int64_t>{point.number});
  QTest::keyClick(&chart, Qt::Key_Left);
  QTest::keyClick(&chart, Qt::Key_Left);
  QTest::keyClick(&chart, Qt::Key_Left);
  const auto least = std::min_element(chart.points().begin(), chart.points().end(),
                                      [](const TradePoint& a, const TradePoint& b) { return a.shift < b.shift; });
  QCOMPARE(sheet().grid().selectedProofs().front(), least->number);
  // A box round everything.
  dragOn(*chart.viewport(), QPoint(2, 2), QPoint(chart.width() - 4, chart.height() - 4));
  QCOMPARE(sheet().grid().selectedProofs().size(), std::size_t{3});
}

void SheetViewTest::starsAndPuttingAwayAreUndone() {
  pullStrip();
  clickCell(0, 1);
  const std::int64_t number = sheet().details().proofs().front();
  QTest::keyClick(&sheet().grid(), Qt::Key_K);
  QCOMPARE(state().kept, std::vector<std::int64_t>{number});
  document().look([](Looking& looking) { looking.sheet = keptProofs; });
  QCOMPARE(sheet().model().proofs().size(), std::size_t{1});
  undo();
  QVERIFY(sheet().model().proofs().empty());
  document().look([](Looking& looking) { looking.sheet = allProofs; });
  sheet().grid().selectProofs({number});
  QTest::keyClick(&sheet().grid(), Qt::Key_Delete);
  QCOMPARE(sheet().model().proofs().size(), std::size_t{2});
  undo();
  QCOMPARE(sheet().model().proofs().size(), std::size_t{3});
}

void SheetViewTest::adviceIsTakenOver() {
  pullStrip("0.1, 0.5, 0.9, 1.1");
  const SheetReading& reading = sheet().reading();
  QVERIFY2(reading.advised.has_value(), reading.sentence.c_str());
  QVERIFY(!sheet().grid().evidence().empty());
  click("set advised");
  const double wanted = desk().proofs.sheets()[0].plan.axes[0].values[static_cast<std::size_t>(*reading.advised)];
  QCOMPARE(state().guides[0].weight, wanted);
  undo();
  QCOMPARE(state().guides[0].weight, 0.7);
  // Over more seeds, what it says rests on more.
  click("over seeds");
  settle();
  QCOMPARE(desk().proofs.sheets().size(), std::size_t{2});
  QCOMPARE(sheet().model().rowCount(), 3);
  QVERIFY(part<QLabel>("reading doubt").text().contains("Seeds differ"));
  // Adopting a cell brings all of its settings back.
  clickCell(2, 0);
  click("adopt from sheet");
  QCOMPARE(state().guides[0].weight, 0.1);
}

void SheetViewTest::orderAndLeastHold() {
  pullStrip();
  document().look([](Looking& looking) { looking.sheet = allProofs; });
  part<QComboBox>("order").setCurrentIndex(static_cast<int>(ProofOrder::hold));
  auto& model = sheet().model();
  const auto all = model.proofs();
  QCOMPARE(all.size(), std::size_t{3});
  for (std::size_t i = 1; i < all.size(); ++i) QVERIFY(*meanHold(*all[i - 1]) >= *meanHold(*all[i]));
  const int least = static_cast<int>(*meanHold(*all[1]));
  typeInto(part<QWidget>("least hold"), QString::number(least));
  QCOMPARE(model.proofs().size(), std::size_t{2});
  QVERIFY(!model.indexOf(all[2]->number).isValid());
  typeInto(part<QWidget>("least hold"), "0");
  double most = 0;
  for (const ProofInfo* proof : all) most = std::max(most, proof->shift.value_or(0));
  typeInto(part<QWidget>("least shift"), QString::number(std::ceil(most)));
  QVERIFY(model.proofs().empty());
  typeInto(part<QWidget>("least shift"), "0");
  QCOMPARE(model.proofs().size(), std::size_t{3});
}

void SheetViewTest::stoppingKeepsWhatIsThere() {
  const std::int64_t number = begin(40);
  QVERIFY(QTest::qWaitFor([&] { return desk().proofs.all().size() >= 2; }, 60'000));
  pressInWindow(Qt::Key_Period, Qt::ControlModifier);
  settle();
  const auto count = desk().proofs.all().size();
  QVERIFY(count >= 2 && count < 40);
  QCOMPARE(desk().queue.waiting(number), 0);
  QVERIFY(desk().proofs.sheet(number)->waiting.empty());
  QCOMPARE(StudyFile::open(document().path(), StudyFile::Access::read).proofs().size(), count);
}

void SheetViewTest::pausingHoldsTheRest() {
  const std::int64_t number = begin(8);
  desk().queue.setPaused(true);
  settle();
  const int left = desk().queue.waiting(number);
  QVERIFY(left >= 5);
  const std::int64_t last = desk().queue.all().back().id;
  desk().queue.putFirst(last);
  QCOMPARE(desk().queue.all().front().id, last);
  desk().queue.drop(desk().queue.all()[1].id);
  desk().queue.setPaused(false);
  settle();
  QCOMPARE(desk().queue.waiting(number), 0);
  QCOMPARE(static_cast<int>(desk().proofs.all().size()), 7);
}

void SheetViewTest::onePulledAloneComesBeforeTheSheet() {
  const std::int64_t number = begin(12);
  desk().queue.pull();
  QVERIFY(QTest::qWaitFor([&] { return !desk().queue.pulling(); }, 60'000));
  QVERIFY(desk().queue.waiting(number) >= 6);
  QCOMPARE(desk().proofs.current()->sheet, std::int64_t{0});
  const std::int64_t alone = state().looking.proof;
  settle();
  // What comes of the sheet does not take the place of what is looked at.
  QCOMPARE(state().looking.proof, alone);
  QCOMPARE(desk().proofs.all().size(), std::size_t{13});
}

void SheetViewTest::whatWasLeftIsOfferedAgain() {
  const std::int64_t number = begin(10);
  QVERIFY(QTest::qWaitFor([&] { return desk().proofs.all().size() >= 2; }, 60'000));
  const QTemporaryDir place;  // outlives the window
  const QString study = place.filePath("left.scaffold");
  document().saveAs(study.toStdString());
  answering("leave waiting", [&] { window_->close(); });
  beginAgain();
  document().open(study.toStdString());
  const auto there = desk().proofs.all().size();
  QVERIFY(there >= 2 && there < 10);
  QCOMPARE(desk().proofs.sheet(number)->waiting.size(), 10 - there);
  window_->showView(1);
  settle();
  click("resume");
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{10});
  std::set<int> cells;
  for (const ProofInfo& proof : desk().proofs.all()) cells.insert(proof.cell);
  QCOMPARE(cells.size(), std::size_t{10});
  QVERIFY(desk().proofs.sheet(number)->waiting.empty());
}

void SheetViewTest::killedSheetsGoOn() {
  const QTemporaryDir place;  // outlives the window
  const QString study = place.filePath("killed.scaffold");
  document().saveAs(study.toStdString());
  closeWindow();
  // HSCAFFOLD_KILLS asks for more of them.
  const int rounds = std::max(4, qEnvironmentVariableIntValue("HSCAFFOLD_KILLS"));
  std::size_t expected = 0;
  for (int round = 0; round < rounds; ++round) {
    QProcess pulling;
    pulling.start(HSCAFFOLD_PROGRAM, {"pull", study, "-o", place.filePath("out"), "--keep", "--force", "--count", "30",
                                      "--longest", "96"});
    QVERIFY(pulling.waitForStarted());
    // Before it has begun, or while it is at it: then after some of the proofs.
    QByteArray words;
    if (round % 4 != 0)
      QVERIFY(QTest::qWaitFor(
          [&] {
            words += pulling.readAllStandardError();
            return words.count(" ms\n") >= round % 4;
          },
          60'000 * fixtures::patience));
    QTest::qWait(53 * round % 400);
    pulling.kill();
    pulling.waitForFinished();
    // What it said was finished is there.
    words += pulling.readAllStandardError();
    const auto said = static_cast<std::size_t>(words.count(" ms\n"));
    const auto file = StudyFile::open(study.toStdString());
    const auto proofs = file.proofs();
    QVERIFY2(proofs.size() >= expected + said && proofs.size() <= expected + said + 1,
             qPrintable(QString("%1 of %2 + %3").arg(proofs.size()).arg(expected).arg(said)));
    expected = proofs.size();
  }
  beginAgain();
  document().open(study.toStdString());
  settle();
  const auto sheets = desk().proofs.sheets().size();
  for (const SheetInfo& info : desk().proofs.sheets()) {
    std::size_t there = 0;
    for (const ProofInfo& proof : desk().proofs.all()) there += proof.sheet == info.number ? 1 : 0;
    QCOMPARE(there + info.waiting.size(), std::size_t{30});
  }
  QVERIFY(sheets > 0 && expected > 0);
  const std::int64_t last = desk().proofs.sheets().back().number;
  desk().queue.resume(last);
  settle();
  std::size_t there = 0;
  for (const ProofInfo& proof : desk().proofs.all()) there += proof.sheet == last ? 1 : 0;
  QCOMPARE(there, std::size_t{30});
}

void SheetViewTest::cellsThatFailDoNotStopTheSheet() {
  SheetPlan plan;
  plan.base = recipeOf(state());
  plan.axes = {{Setting::on, state().guides[0].id, {0, 1}, {}}};
  plan.seeds = {1, 2};
  // With the guide on, its map cannot be made: what it was extracted from is not there.
  plan.base.guides[0].guide.reference = "gone";
  plan.base.references.clear();
  const QSignalSpy problems(&desk(), &Desk::problem);
  const std::int64_t number = desk().queue.pullSheet(plan);
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{2});
  for (const ProofInfo& proof : desk().proofs.all()) QCOMPARE(placeOf(plan, proof.cell).across, 0);
  QCOMPARE(problems.size(), 2);  // the first, and how many
  QVERIFY(problems[0][0].toString().contains("no reference"));
  QCOMPARE(desk().queue.waiting(number), 0);
}

void SheetViewTest::fullSizeIsOneKeyAway() {
  document().change("Larger", [](StudyState& s) { s.frame = {768, 512}; });
  settle();
  openPanel();
  choose("across", "guidance");
  typeInto(part<QLineEdit>("across values", &panel()), "4, 8");
  settle();
  activate();
  const ProofInfo small = desk().proofs.all()[1];
  QCOMPARE(small.recipe.frame, (Size{504, 336}));
  clickCell(0, 1);
  QCOMPARE(part<QTableWidget>("differences").rowCount(), 2);  // the frame and the guidance
  QTest::keyClick(&sheet().grid(), Qt::Key_L);
  settle();
  const ProofInfo& large = desk().proofs.all().back();
  QCOMPARE(large.recipe.frame, (Size{768, 512}));
  QCOMPARE(large.recipe.brief.guidance, 8.0);
  QCOMPARE(large.recipe.brief.seed, small.recipe.brief.seed);
  // Hand and tuning came along: at its size the recipe is what the study would pull.
  document().change("Guidance", [](StudyState& s) { s.brief.guidance = 8; });
  Recipe now = recipeOf(state());
  now.guides[0].mapDigest = large.recipe.guides[0].mapDigest;
  now.engine = large.recipe.engine;
  now.brief.seed = large.recipe.brief.seed;
  QVERIFY(now == large.recipe);
}

void SheetViewTest::manyCellsAreAskedAbout() {
  openPanel();
  choose("across", QString::fromStdString(state().guides[0].name) + ", weight");
  part<QLineEdit>("across values", &panel()).setText("0..2/120");
  auto& pull = part<QPushButton>("pull sheet now", &panel());
  QTest::mouseClick(&pull, Qt::LeftButton);
  QVERIFY(desk().proofs.sheets().empty());
  // Nothing is closed or lost by the question; other values ask anew.
  QVERIFY(panel().isVisible());
  QCOMPARE(pull.text(), QString("Pull all 120"));
  part<QLineEdit>("across values", &panel()).setText("0..2/119");
  QTest::mouseClick(&pull, Qt::LeftButton);
  QVERIFY(desk().proofs.sheets().empty());
  QTest::mouseClick(&pull, Qt::LeftButton);
  QCOMPARE(desk().proofs.sheets().size(), std::size_t{1});
  desk().queue.stopAll();
}

void SheetViewTest::longStripsGoOnInTheNextRow() {
  window_->resize(1280, 800);
  pullStrip("0.1, 0.3, 0.5, 0.7, 0.9, 1.1, 1.3");
  auto& model = sheet().model();
  auto& grid = sheet().grid();
  // Seven in one row would be small: they stand in rows, in order, with their values over them.
  QVERIFY(!model.matrix() && model.placed());
  QVERIFY(model.rowCount() > 1 && model.columnCount() < 7);
  const QModelIndex fifth = model.index(4 / model.columnCount(), 4 % model.columnCount());
  QCOMPARE(fifth.data(SheetModel::captionRole).toString(), QString("0.90"));
  QCOMPARE(desk().proofs.proof(model.numberAt(fifth))->cell, 4);
  QVERIFY(grid.captionHeight() > 0);
  QVERIFY2(grid.cellWidth() > 150, qPrintable(QString::number(grid.cellWidth())));
  // All of them are seen at once, whatever the window's shape.
  for (const QSize size : {QSize(1280, 800), QSize(1900, 1000), QSize(1000, 1000)}) {
    window_->resize(size);
    QCoreApplication::processEvents();
    QVERIFY2(grid.verticalHeader()->length() <= grid.viewport()->height() + 2,
             qPrintable(QString("%1 of %2").arg(grid.verticalHeader()->length()).arg(grid.viewport()->height())));
  }
  window_->resize(1280, 800);
  QCoreApplication::processEvents();
  // Small enough for one row, they are a matrix again; the width is the sheet's, and is in the file.
  grid.setCellWidth(60);
  QVERIFY(model.matrix());
  QCOMPARE(model.columnCount(), 7);
  const std::int64_t number = desk().proofs.sheets()[0].number;
  QCOMPARE(state().looking.cellWidths.at(number), 60);
  const auto path = document().path();
  document().open(path);
  settle();
  QCOMPARE(grid.cellWidth(), 60);
  QVERIFY(model.matrix());
  // Strips over two settings keep their rows.
  SheetPlan plan = desk().proofs.sheets()[0].plan;
  plan.axes.push_back(axisOver(Setting::end, plan.axes[0].of, 20, 100, 2));
  const std::int64_t two = desk().queue.pullSheet(plan);
  document().look([&](Looking& looking) { looking.sheet = two; });
  grid.setCellWidth(400);
  QVERIFY(model.matrix());
  QCOMPARE(model.columnCount(), 7);
}

void SheetViewTest::oneStepComparesAndAdopts() {
  window_->resize(1280, 800);
  pullStrip();
  auto& grid = sheet().grid();
  auto& model = sheet().model();
  const auto markOf = [&](int column, SheetGrid::Mark mark) {
    const QRectF place = grid.markPlace(model.index(0, column), mark);
    return place.center().toPoint();
  };
  QVERIFY(!grid.markPlace(model.index(0, 1), SheetGrid::Mark::adopt).isEmpty());
  clickCell(0, 0);
  // The marks are pressed where the pointer is; what is chosen stays until then.
  QTest::mouseMove(grid.viewport(), markOf(2, SheetGrid::Mark::adopt));
  QTest::mouseClick(grid.viewport(), Qt::LeftButton, {}, markOf(2, SheetGrid::Mark::adopt));
  QCOMPARE(state().guides[0].weight, 1.0);
  QCOMPARE(grid.selectedProofs(), std::vector<std::int64_t>{model.numberAt(model.index(0, 0))});
  undo();
  QCOMPARE(state().guides[0].weight, 0.7);
  activate();
  QTest::mouseClick(grid.viewport(), Qt::LeftButton, {}, markOf(2, SheetGrid::Mark::compare));
  QVERIFY(sheet().comparing());
  QCOMPARE(sheet().compared().tiles().size(), std::size_t{2});
  QTest::keyClick(&sheet().compared(), Qt::Key_Escape);
  // The same by keys: Ctrl and an arrow walk without choosing, C compares, A adopts.
  clickCell(0, 0);
  QTest::keyClick(&grid, Qt::Key_Right, Qt::ControlModifier);
  QCOMPARE(grid.selectedProofs().size(), std::size_t{1});
  QTest::keyClick(&grid, Qt::Key_C);
  QVERIFY(sheet().comparing());
  QCOMPARE(sheet().compared().tiles().size(), std::size_t{2});
  QTest::keyClick(&sheet().compared(), Qt::Key_Escape);
  clickCell(0, 2);
  QTest::keyClick(&grid, Qt::Key_A);
  QCOMPARE(state().guides[0].weight, 1.0);
}

void SheetViewTest::seedsKnownElsewhereAreToldOf() {
  begin(4);
  settle();
  pullStrip();
  QVERIFY2(part<QLabel>("reading doubt").text().contains("One seed only; in Sheet"),
           qPrintable(part<QLabel>("reading doubt").text()));
}

HSCAFFOLD_TEST(SheetViewTest)
#include "sheet_view_test.moc"
