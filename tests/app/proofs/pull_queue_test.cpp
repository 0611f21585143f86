// Pulls and what becomes of them: the order, pausing and dropping, sheets that end or are left, what cannot be pulled,
// and the lists that show it.
#include <QSignalSpy>
#include <algorithm>

#include "app/document/study_edits.h"
#include "app/maps/reference_model.h"
#include "app/proofs/proof_model.h"
#include "app/window_fixture.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;

class PullQueueTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void cleanup();
  void whatIsPulledAloneGoesBeforeCellsThatWait();
  void pausedSheetsWaitAndSinglePullsDoNot();
  void cellsCanBePutFirstAndDropped();
  void leavingASheetKeepsWhatIsThere();
  void sheetsLeftHalfWayAreOfferedAndFinished();
  void aStudyThatChangesTakesItsPullsAlong();
  void whatCannotBePulledIsSaidOnce();
  void estimatesFollowWhatIsAsked();
  void theListOfProofsIsNewestFirst();
  void referencesComeInTheirOrderWithSmallPictures();

 private:
  /// A strip over the steps: cells that differ and cost little.
  [[nodiscard]] SheetPlan stripOf(int cells) const {
    SheetPlan plan;
    plan.base = recipeOf(desk_->document.state());
    plan.axes = {axisOver(Setting::steps, {}, 4, 4 + cells - 1, cells)};
    plan.seeds = {plan.base.brief.seed};
    return plan;
  }
  [[nodiscard]] std::vector<std::int64_t> order() const {
    std::vector<std::int64_t> ids;
    for (const Pull& pull : desk_->queue.all()) ids.push_back(pull.id);
    return ids;
  }
  [[nodiscard]] PullQueue& queue() const { return desk_->queue; }
  [[nodiscard]] ProofShelf& shelf() const { return desk_->proofs; }
  void settle() const { QVERIFY(fixtures::settle(*desk_)); }

  std::unique_ptr<QTemporaryDir> folder_;
  std::unique_ptr<Desk> desk_;
};

void PullQueueTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  desk_ = std::make_unique<Desk>();
  desk_->document.createUntitled();
  desk_->document.change("Small frame", [](StudyState& s) {
    s.frame = {192, 128};
    s.brief.prompt = "a sail cart on a tidal flat, ink";
    s.brief.seed = 12;
    s.brief.seedLocked = true;
    s.brief.steps = 6;
  });
}

void PullQueueTest::cleanup() { desk_.reset(); }

void PullQueueTest::whatIsPulledAloneGoesBeforeCellsThatWait() {
  QVERIFY(queue().pullSheet(stripOf(8)) > 0);
  QCOMPARE(queue().all().size(), std::size_t{8});
  QCOMPARE(std::count_if(queue().all().begin(), queue().all().end(), [](const Pull& p) { return p.running; }), 2);
  queue().pull();
  QVERIFY(queue().pulling());
  // After the two that run, before the six that wait.
  QCOMPARE(queue().all()[2].sheet, std::int64_t{0});
  // A second one is not taken while the first is on its way.
  queue().pull();
  QCOMPARE(queue().all().size(), std::size_t{9});
  settle();
  QVERIFY(queue().all().empty());
  QCOMPARE(shelf().all().size(), std::size_t{9});
  // It was there before the last cells were.
  const auto alone =
      std::find_if(shelf().all().begin(), shelf().all().end(), [](const ProofInfo& p) { return p.sheet == 0; });
  QVERIFY(alone != shelf().all().end());
  QVERIFY(shelf().all().end() - alone > 3);
}

void PullQueueTest::pausedSheetsWaitAndSinglePullsDoNot() {
  queue().setPaused(true);
  const std::int64_t sheet = queue().pullSheet(stripOf(4));
  settle();
  QCOMPARE(queue().waiting(sheet), 4);
  QVERIFY(shelf().all().empty());
  QVERIFY(queue().remaining() > 0);
  queue().pull();
  QVERIFY(QTest::qWaitFor([&] { return !queue().pulling() && desk_->tasks.idle(); }, 60'000));
  QCOMPARE(shelf().all().size(), std::size_t{1});
  QCOMPARE(queue().waiting(sheet), 4);
  queue().setPaused(false);
  settle();
  QCOMPARE(queue().waiting(sheet), 0);
  QCOMPARE(shelf().all().size(), std::size_t{5});
  QVERIFY(shelf().sheet(sheet)->waiting.empty());
}

void PullQueueTest::cellsCanBePutFirstAndDropped() {
  queue().setPaused(true);
  const std::int64_t sheet = queue().pullSheet(stripOf(5));
  const auto before = order();
  queue().putFirst(before[3]);
  QCOMPARE(order(), (std::vector<std::int64_t>{before[3], before[0], before[1], before[2], before[4]}));
  queue().putFirst(12345);  // nobody
  QCOMPARE(order().front(), before[3]);
  const QSignalSpy changed(&queue(), &PullQueue::changed);
  queue().drop(before[1]);
  QCOMPARE(changed.size(), 1);
  QVERIFY(queue().find(before[1]) == nullptr);
  queue().drop(before[1]);
  QCOMPARE(queue().waiting(sheet), 4);
  queue().setPaused(false);
  settle();
  // What was dropped is not offered again.
  QCOMPARE(shelf().all().size(), std::size_t{4});
  QVERIFY(shelf().sheet(sheet)->waiting.empty());
  QVERIFY(std::none_of(shelf().all().begin(), shelf().all().end(), [](const ProofInfo& p) { return p.cell == 1; }));
}

void PullQueueTest::leavingASheetKeepsWhatIsThere() {
  const std::int64_t sheet = queue().pullSheet(stripOf(12));
  QVERIFY(QTest::qWaitFor([&] { return shelf().all().size() >= 2; }, 60'000));
  queue().leave(sheet);
  settle();
  QVERIFY(queue().all().empty());
  const std::size_t there = shelf().all().size();
  QVERIFY(there >= 2 && there < 12);
  QVERIFY(shelf().sheet(sheet)->waiting.empty());
  // Nothing of it comes back with the study.
  const auto path = fixtures::in(*folder_, "left.scaffold");
  desk_->document.saveAs(path);
  desk_ = std::make_unique<Desk>();
  desk_->document.open(path);
  settle();
  QCOMPARE(shelf().all().size(), there);
  QVERIFY(shelf().sheet(sheet)->waiting.empty());
}

void PullQueueTest::sheetsLeftHalfWayAreOfferedAndFinished() {
  const auto path = fixtures::in(*folder_, "half.scaffold");
  desk_->document.saveAs(path);
  const std::int64_t sheet = queue().pullSheet(stripOf(10));
  QVERIFY(QTest::qWaitFor([&] { return shelf().all().size() >= 3; }, 60'000));
  desk_.reset();  // the window is closed in the middle of it
  desk_ = std::make_unique<Desk>();
  const QSignalSpy notices(&queue(), &PullQueue::notice);
  desk_->document.open(path);
  settle();
  const auto there = static_cast<int>(shelf().all().size());
  QVERIFY(there >= 3);
  QCOMPARE(static_cast<int>(shelf().sheet(sheet)->waiting.size()), 10 - there);
  QCOMPARE(notices.size(), 1);
  QVERIFY(notices[0][0].toString().contains(QString::number(10 - there)));
  queue().resume(sheet);
  QCOMPARE(queue().waiting(sheet), 10 - there);
  settle();
  QCOMPARE(shelf().all().size(), std::size_t{10});
  // Every cell once.
  std::vector<int> cells;
  for (const ProofInfo& proof : shelf().all()) cells.push_back(proof.cell);
  std::sort(cells.begin(), cells.end());
  for (int i = 0; i < 10; ++i) QCOMPARE(cells[static_cast<std::size_t>(i)], i);
}

void PullQueueTest::aStudyThatChangesTakesItsPullsAlong() {
  const QSignalSpy ended(&queue(), &PullQueue::ended);
  queue().pullSheet(stripOf(6));
  queue().pull();
  desk_->document.createUntitled();
  QVERIFY(queue().all().empty());
  QCOMPARE(ended.size(), 1);
  settle();
  QVERIFY(shelf().all().empty());
  QVERIFY(shelf().sheets().empty());
}

void PullQueueTest::whatCannotBePulledIsSaidOnce() {
  // The start picture is a proof that nobody has.
  desk_->document.change("Start", [](StudyState& s) {
    s.brief.start.from = StartPicture::From::proof;
    s.brief.start.proof = 77;
    s.brief.start.change = 0.5;
  });
  const QSignalSpy problems(&queue(), &PullQueue::problem);
  queue().pull();
  settle();
  QCOMPARE(problems.size(), 1);
  QVERIFY(problems[0][0].toString().contains("start picture"));
  // Of a sheet, the first is told and the rest are counted.
  const std::int64_t sheet = queue().pullSheet(stripOf(4));
  settle();
  QCOMPARE(problems.size(), 3);
  QVERIFY(problems[2][0].toString().startsWith("4 proofs"));
  QCOMPARE(queue().waiting(sheet), 0);
  QVERIFY(shelf().all().empty());
  // A plan that makes no sense is refused before anything is begun.
  QCOMPARE(queue().pullSheet(SheetPlan{recipeOf(desk_->document.state()), {}, {}}), std::int64_t{0});
  QCOMPARE(problems.size(), 4);
  QCOMPARE(shelf().sheets().size(), std::size_t{1});
}

void PullQueueTest::estimatesFollowWhatIsAsked() {
  const double small = queue().estimate();
  QVERIFY(small > 0);
  desk_->document.change("Large frame", [](StudyState& s) { s.frame = {1536, 1024}; });
  QVERIFY(queue().estimate() > 4 * small);
  SheetPlan plan = stripOf(4);
  const double four = queue().estimate(plan);
  plan.seeds = {1, 2, 3};
  QVERIFY(std::abs(queue().estimate(plan) - 3 * four) < 1e-6 * four);
}

void PullQueueTest::theListOfProofsIsNewestFirst() {
  auto list = std::make_unique<ProofModel>(desk_->document, shelf());
  QCOMPARE(list->rowCount(), 0);
  for (int i = 0; i < 3; ++i) {
    queue().pull();
    settle();
  }
  QCOMPARE(list->rowCount(), 3);
  for (int row = 1; row < 3; ++row)
    QVERIFY(list->index(row - 1).data(ProofModel::numberRole).toLongLong() >
            list->index(row).data(ProofModel::numberRole).toLongLong());
  QCOMPARE(list->indexOf(list->index(2).data(ProofModel::numberRole).toLongLong()).row(), 2);
  QVERIFY(!list->indexOf(999).isValid());
  // In a study that was opened, small pictures are brought behind the scenes and then told.
  const auto path = fixtures::in(*folder_, "list.scaffold");
  desk_->document.saveAs(path);
  list.reset();
  desk_ = std::make_unique<Desk>();
  desk_->document.open(path);
  list = std::make_unique<ProofModel>(desk_->document, shelf());
  const QSignalSpy told(list.get(), &QAbstractItemModel::dataChanged);
  QVERIFY(QTest::qWaitFor([&] { return !list->index(0).data(Qt::DecorationRole).value<QImage>().isNull(); }, 60'000));
  settle();
  QVERIFY(!told.empty());
  const auto picture = list->index(0).data(Qt::DecorationRole).value<QImage>();
  QVERIFY(std::abs(static_cast<double>(picture.width()) / picture.height() - 1.5) < 0.05);
}

void PullQueueTest::referencesComeInTheirOrderWithSmallPictures() {
  fixtures::writeScene(fixtures::in(*folder_, "kite.png"), 0);
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"), 1);
  ReferenceModel model(desk_->document, desk_->maps, desk_->tasks, {40, 30});
  bringIn(*desk_, {fixtures::in(*folder_, "kite.png"), fixtures::in(*folder_, "tea.png")});
  settle();
  QCOMPARE(model.rowCount(), 2);
  QVERIFY(model.index(0).data(Qt::AccessibleTextRole).toString().contains("kite"));
  QVERIFY(model.index(1).data(Qt::AccessibleTextRole).toString().contains("tea"));
  for (int row = 0; row < 2; ++row) {
    QVERIFY(
        QTest::qWaitFor([&] { return !model.index(row).data(Qt::DecorationRole).value<QImage>().isNull(); }, 60'000));
    QCOMPARE(model.index(row).data(Qt::DecorationRole).value<QImage>().size(), QSize(40, 30));
  }
  const auto second = model.index(1).data(ReferenceModel::idRole).toString().toStdString();
  QCOMPARE(model.indexOf(second).row(), 1);
  desk_->document.undo();
  settle();
  QCOMPARE(model.rowCount(), static_cast<int>(desk_->document.state().references.size()));
}

HSCAFFOLD_TEST(PullQueueTest)
#include "pull_queue_test.moc"
