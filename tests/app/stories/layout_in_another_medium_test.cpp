// The kite flyer's layout in another medium: from a dropped photograph to a proof that holds the layout and looks new,
// compared with its reference at the same place. Once by mouse, once by keyboard.
#include <QLabel>
#include <QTableWidget>

#include "app/sheet/sheet_view.h"
#include "app/widgets/threshold_histogram.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

class LayoutInAnotherMediumTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void byMouse();
  void byKeyboard();

 protected:
  void prepare() override {
    // A study that nobody has touched.
    document().createUntitled();
    fixtures::writeScene(fixtures::in(*folder_, "kite.png"), 0);
    dropFiles({path("kite.png")});
    settle();
  }

 private:
  [[nodiscard]] SheetView& sheet() const { return *window_->findChild<SheetView*>(); }
  void checkFrameAndEdges() const {
    // The frame has taken the picture's ratio, and edges are there.
    const Size frame = state().frame, picture = state().references[0].size;
    QVERIFY(std::abs(static_cast<double>(frame.width) / frame.height /
                         (static_cast<double>(picture.width) / picture.height) -
                     1) < 0.02);
    QCOMPARE(state().guides.size(), std::size_t{1});
    QVERIFY(*desk().maps.mapOf(guide().id)->facts.number("share") > 0.002);
  }
  void say(const QString& prompt) const {
    auto& edit = bench().brief().prompt();
    edit.setFocus();
    edit.selectAll();
    QTest::keyClicks(&edit, prompt);
  }
  void checkProof() const {
    const ProofInfo& proof = desk().proofs.all().back();
    QVERIFY2(*meanHold(proof) > 85, qPrintable(QString::number(*meanHold(proof))));
    QVERIFY2(proof.shift.value_or(0) > 30, qPrintable(QString::number(proof.shift.value_or(0))));
    // Both are said where the proof is looked at.
    const QString tip = sheet().model().data(sheet().model().indexOf(proof.number), Qt::ToolTipRole).toString();
    QVERIFY2(tip.contains("hold") && tip.contains("shift"), qPrintable(tip));
    QCOMPARE(sheet().compared().tiles(), (std::vector<std::int64_t>{0, proof.number}));
  }
};

void LayoutInAnotherMediumTest::byMouse() {
  checkFrameAndEdges();
  // Thresholds by the histogram: fewer edges than at first.
  const double before = *desk().maps.mapOf(guide().id)->facts.number("share");
  auto& histogram = *window_->findChild<ThresholdHistogram*>();
  const QPoint high = histogram.handleAt(true);
  dragOn(histogram, high, high + QPoint(histogram.width() / 8, 0));
  settle();
  QVERIFY(*desk().maps.mapOf(guide().id)->facts.number("share") != before);
  undo();
  settle();
  const std::string id = guide().id;
  auto& chart = bench().board().chart();
  const QPoint top = chart.gripAt(id, BarGrip::weight).toPoint();
  dragOn(chart, top, top - QPoint(0, 6));
  QVERIFY(guide().weight > 0.8);
  QTest::mouseDClick(&chart, Qt::LeftButton, {}, chart.gripAt(id, BarGrip::weight).toPoint());
  QCOMPARE(guide().weight, 1.0);
  say("a kite flyer on a dune by the sea, gouache");
  click("pull");
  settle();
  click("view sheet");
  auto& grid = sheet().grid();
  QTest::mouseClick(grid.viewport(), Qt::LeftButton, {}, grid.visualRect(sheet().model().index(0, 0)).center());
  QTest::mouseDClick(grid.viewport(), Qt::LeftButton, {}, grid.visualRect(sheet().model().index(0, 0)).center());
  QVERIFY(sheet().comparing());
  click("with reference");
  checkProof();
}

void LayoutInAnotherMediumTest::byKeyboard() {
  checkFrameAndEdges();
  auto& chart = bench().board().chart();
  chart.setFocus();
  for (int i = 0; i < 6; ++i) QTest::keyClick(&chart, Qt::Key_Up, Qt::ShiftModifier);
  QVERIFY(std::abs(guide().weight - 1) < 1e-9);
  say("a kite flyer on a dune by the sea, gouache");
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  bench().source().setFocus();
  pressInWindow(Qt::Key_2);
  QVERIFY(sheet().isVisible());
  auto& grid = sheet().grid();
  grid.setFocus();
  QTest::keyClick(&grid, Qt::Key_Home, Qt::ControlModifier);
  QTest::keyClick(&grid, Qt::Key_Return);
  QVERIFY(sheet().comparing());
  QTest::keyClick(&sheet().compared(), Qt::Key_R);
  checkProof();
}

HSCAFFOLD_TEST(LayoutInAnotherMediumTest)
#include "layout_in_another_medium_test.moc"
