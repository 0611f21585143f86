// The two tables in the real window: placing, zoom, ghost, proofs and what is laid over them.
#include <QListView>
#include <QPushButton>

#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class TablesViewTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void placingByHand();
  void placementToolsWork();
  void tablesZoomAndPanTogether();
  void pointerIsMirrored();
  void ghostFadesToTheMap();
  void pullCompareAdopt();
  void wipeIsDragged();
  void tablesKeepTheirWidths();
};

void TablesViewTest::placingByHand() {
  auto& table = bench().source();
  QTest::mouseDClick(&table, Qt::LeftButton, {}, table.rect().center());
  QVERIFY(desk_->workbench.placing());
  const double scale = desk_->workbench.view.scale(table.size());
  const QPoint middle = table.frameOnTable().center().toPoint();
  dragOn(table, middle, middle + QPoint(48, 0));
  const auto& placement = state().references[0].placement;
  QCOMPARE(placement.fit, Fit::free);
  QVERIFY2(std::abs(placement.x - 0.5 - 48 / scale / 480) < 0.005, qPrintable(QString::number(placement.x)));
  const double before = placement.scaleX;
  const QPoint corner = table.handles()[0].toPoint(), centre = middle + QPoint(48, 0);
  dragOn(table, corner, (corner + centre) / 2);
  QVERIFY(std::abs(state().references[0].placement.scaleX - before / 2) < 0.03);
  const QPoint knob = table.handles()[4].toPoint();
  dragOn(table, knob, centre + QPoint(knob.y() < centre.y() ? 90 : -90, 0), Qt::ShiftModifier);
  QCOMPARE(std::remainder(state().references[0].placement.turn, 15.0), 0.0);
  QVERIFY(state().references[0].placement.turn != 0);
  QTest::keyClick(&table, Qt::Key_Right);
  QTest::keyClick(&table, Qt::Key_Escape);
  QVERIFY(!desk_->workbench.placing());
  for (int i = 0; i < 4; ++i) undo();
  QCOMPARE(state().references[0].placement, Placement{});
}

void TablesViewTest::placementToolsWork() {
  click("place");
  click("contain");
  QCOMPARE(state().references[0].placement.fit, Fit::contain);
  click("turn");
  QCOMPARE(state().references[0].placement.turn, 90.0);
  click("reset placement");
  QCOMPARE(state().references[0].placement, Placement{});
}

void TablesViewTest::tablesZoomAndPanTogether() {
  auto& source = bench().source();
  auto& proof = bench().proof();
  QVERIFY(std::abs(source.frameOnTable().width() - proof.frameOnTable().width()) < 0.01);
  QVERIFY(std::abs(source.frameOnTable().top() - proof.frameOnTable().top()) < 0.01);
  const QPointF at(150, 140), held = source.toFrame(at);
  QWheelEvent wheel(at, source.mapToGlobal(at), {}, {0, 240}, {}, {}, Qt::NoScrollPhase, false);
  QApplication::sendEvent(&source, &wheel);
  QVERIFY(std::hypot((source.toFrame(at) - held).x(), (source.toFrame(at) - held).y()) < 0.01);
  QVERIFY(std::abs(source.frameOnTable().width() - proof.frameOnTable().width()) < 0.01);
  const QPointF before = proof.frameOnTable().topLeft();
  QTest::mousePress(&source, Qt::MiddleButton, {}, {100, 100});
  QMouseEvent move(QEvent::MouseMove, QPointF(130, 90), source.mapToGlobal(QPointF(130, 90)), Qt::NoButton,
                   Qt::MiddleButton, {});
  QApplication::sendEvent(&source, &move);
  QTest::mouseRelease(&source, Qt::MiddleButton, {}, {130, 90});
  QVERIFY(std::abs(proof.frameOnTable().left() - before.x() - 30) < 0.01);
  pressInWindow(Qt::Key_0, Qt::ControlModifier);
  QVERIFY(desk_->workbench.view.fitting());
}

void TablesViewTest::pointerIsMirrored() {
  auto& source = bench().source();
  auto& proof = bench().proof();
  const QImage before = proof.grab().toImage();
  const QPointF at = source.toTable({120, 80});
  QMouseEvent move(QEvent::MouseMove, at, source.mapToGlobal(at), Qt::NoButton, Qt::NoButton, {});
  QApplication::sendEvent(&source, &move);
  const QImage after = proof.grab().toImage();
  const QPoint there = proof.toTable({120, 80}).toPoint();
  QVERIFY(before.copy(QRect(there - QPoint(10, 10), QSize(21, 21))) !=
          after.copy(QRect(there - QPoint(10, 10), QSize(21, 21))));
}

void TablesViewTest::ghostFadesToTheMap() {
  auto& table = bench().source();
  table.setGhost(1);
  const QImage map = table.grab().toImage();
  table.setGhost(0);
  const QImage picture = table.grab().toImage();
  int black = 0, count = 0;
  const QRect frame = table.frameOnTable().toRect().adjusted(4, 4, -4, -4);
  for (int y = frame.top(); y < frame.bottom(); y += 5)
    for (int x = frame.left(); x < frame.right(); x += 5, ++count) black += qGray(map.pixel(x, y)) < 20;
  QVERIFY(black > count * 3 / 5);
  QVERIFY(qGray(picture.pixel(frame.left() + 10, frame.top() + 10)) > 60);
}

void TablesViewTest::pullCompareAdopt() {
  document().change("Weight", [](StudyState& s) { s.guides[0].weight = 1; });
  click("pull");
  QCOMPARE(part<QPushButton>("pull").text(), QString("Stop"));
  settle();
  click("opening only");
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QCOMPARE(desk_->proofs.all().size(), std::size_t{2});
  // Show the first by its thumbnail, then adopt it.
  auto* strip = window_->findChild<QListView*>("proofs");
  const QModelIndex first = strip->model()->index(1, 0);  // the newest comes first
  QCOMPARE(first.data(Qt::AccessibleTextRole).toString(), QString("Proof 1"));
  QTest::mouseClick(strip->viewport(), Qt::LeftButton, {}, strip->visualRect(first).center());
  QCOMPARE(state().looking.proof, std::int64_t{1});
  click("adopt");
  QCOMPARE(state().guides[0].range, Range{});
  // Marks and misses paint something over the proof.
  auto& table = bench().proof();
  const QImage plain = table.grab().toImage();
  click("marks");
  QVERIFY(table.grab().toImage() != plain);
  click("marks");
  document().look([](Looking& looking) { looking.proof = 2; });
  const QImage second = table.grab().toImage();
  click("misses");
  table.grab();
  settle();
  QVERIFY(table.grab().toImage() != second);
}

void TablesViewTest::wipeIsDragged() {
  desk_->queue.pull();
  settle();
  auto& table = bench().proof();
  click("wipe");
  const QPoint middle = table.frameOnTable().center().toPoint();
  dragOn(table, middle, middle + QPoint(60, 0));
  QVERIFY(std::abs(table.wipeAt() - 0.5 - 60 / table.frameOnTable().width()) < 0.01);
}

void TablesViewTest::tablesKeepTheirWidths() {
  const int source = bench().source().width(), proof = bench().proof().width();
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QCoreApplication::processEvents();
  QCOMPARE(desk_->proofs.all().size(), std::size_t{1});
  QCOMPARE(bench().source().width(), source);
  QCOMPARE(bench().proof().width(), proof);
  QCOMPARE(bench().source().frameOnTable().top() + bench().source().mapTo(window_.get(), QPoint()).y(),
           bench().proof().frameOnTable().top() + bench().proof().mapTo(window_.get(), QPoint()).y());
}

HSCAFFOLD_TEST(TablesViewTest)
#include "tables_view_test.moc"
