// Free shapes on the span board, by mouse and by keyboard.
#include "app/bench/span_board.h"
#include "app/window_fixture.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;

class SpanShapeViewTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void shapesAreDrawnByMouse();
  void shapesAreSetByKeys();
  void theMenuOffersThem();
  void aPlaceIsShown();

 private:
  void prepare() override { bringInScene(); }
  [[nodiscard]] SpanChart& chart() const { return bench().board().chart(); }
  [[nodiscard]] const Range& range() const { return state().guides[0].range; }
  [[nodiscard]] QPoint pointAt(std::size_t point) const { return chart().pointOf(guide().id, point).toPoint(); }
};

void SpanShapeViewTest::shapesAreDrawnByMouse() {
  chart().setFocus();
  QTest::keyClick(&chart(), Qt::Key_F);
  QCOMPARE(range().shape.size(), std::size_t{2});
  // Beside the tab of the weight, which is in the middle of the bar's top.
  const QPoint middle((pointAt(0).x() + pointAt(1).x()) / 2 + 2, pointAt(0).y() + 12);
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, middle);
  QCOMPARE(range().shape.size(), std::size_t{3});
  QVERIFY(std::abs(range().shape[1].at - 0.5) < 0.03);
  QCOMPARE(range().shape[1].share, 1.0);
  // The end falls to nothing, the middle goes to the left.
  const double weight = state().guides[0].weight;
  dragOn(chart(), pointAt(2), pointAt(2) + QPoint(0, 60));
  QCOMPARE(range().shape[2].share, 0.0);
  QCOMPARE(range().shape[2].at, 1.0);
  const int wide = pointAt(2).x() - pointAt(0).x();
  dragOn(chart(), pointAt(1), pointAt(1) - QPoint(wide / 4, 0));
  QVERIFY2(std::abs(range().shape[1].at - 0.25) < 0.02, qPrintable(QString::number(range().shape[1].at)));
  QCOMPARE(state().guides[0].weight, weight);
  QVERIFY(std::abs(rampAt(range(), 62.5) - 0.5) < 0.03);
  // Its ends are dragged as those of any bar: the shape stretches.
  const QPoint end = pointAt(2);
  const double at = range().shape[1].at;
  dragOn(chart(), end, end - QPoint(wide / 2, 0));
  QVERIFY(std::abs(range().to - 50) < 1.5);
  QCOMPARE(range().shape[1].at, at);
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, pointAt(1));
  QCOMPARE(range().shape.size(), std::size_t{2});
  for (int i = 0; i < 6; ++i) undo();
  QCOMPARE(range(), Range{});
}

void SpanShapeViewTest::shapesAreSetByKeys() {
  document().change("Ramp", [](StudyState& s) { s.guides[0].range = {0, 80, 0, 40}; });
  chart().setFocus();
  QTest::keyClick(&chart(), Qt::Key_F);
  QCOMPARE(range().shape.size(), std::size_t{3});
  QTest::keyClick(&chart(), Qt::Key_Space);  // from the end to the start
  QTest::keyClick(&chart(), Qt::Key_Space);  // the first point
  QTest::keyClick(&chart(), Qt::Key_Down, Qt::ShiftModifier);
  QVERIFY(std::abs(range().shape[0].share - 0.95) < 1e-9);
  QTest::keyClick(&chart(), Qt::Key_Insert);
  QCOMPARE(range().shape.size(), std::size_t{4});
  const double before = range().shape[1].at;
  QTest::keyClick(&chart(), Qt::Key_Right);
  QVERIFY(std::abs(range().shape[1].at - before - 1.0 / 80) < 1e-9);
  QTest::keyClick(&chart(), Qt::Key_Delete);
  QCOMPARE(range().shape.size(), std::size_t{3});
  QCOMPARE(state().guides.size(), std::size_t{1});  // only the point went
  QTest::keyClick(&chart(), Qt::Key_F);
  QCOMPARE(range(), (Range{0, 80, 0, 40}));
  // The shape is in the file.
  undo();
  QVERIFY(document().flush());
  const auto kept = StudyFile::open(document().path(), StudyFile::Access::read).readState();
  QCOMPARE(kept.guides[0].range, range());
}

void SpanShapeViewTest::theMenuOffersThem() {
  const auto choose = [&](QPoint at, const QString& name) { return chooseFromMenu(chart(), at, name); };
  const QPoint body = chart().gripAt(guide().id, BarGrip::body).toPoint();
  QVERIFY(choose(body, "Free shape of points"));
  QCOMPARE(range().shape.size(), std::size_t{2});
  QVERIFY(choose(body, "Add a point here"));
  QCOMPARE(range().shape.size(), std::size_t{3});
  QVERIFY(choose(pointAt(1), "Take this point away"));
  QCOMPARE(range().shape.size(), std::size_t{2});
}

void SpanShapeViewTest::aPlaceIsShown() {
  const double before = table().toFrame(QPointF(0, 0)).x();
  emit desk().placeAsked({40, 40}, 30);
  QVERIFY(table().toFrame(QPointF(0, 0)).x() > before - 1e-9);
  const QPointF middle = table().toFrame(QPointF(table().width() / 2.0, table().height() / 2.0));
  QVERIFY(std::hypot(middle.x() - 40, middle.y() - 40) < 25);
}

HSCAFFOLD_TEST(SpanShapeViewTest)
#include "span_shape_view_test.moc"
