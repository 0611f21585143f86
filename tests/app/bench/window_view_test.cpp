// The window as a whole: themes, sizes, rooms, folding, and painting only what is concerned.
#include <QComboBox>
#include <QPushButton>
#include <QToolButton>

#include "app/document/study_edits.h"
#include "app/sheet/sheet_view.h"
#include "app/widgets/room.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "app/workbench/paint/paint_tools.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class WindowViewTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void themesRestyleInPlace();
  void onlyWhatIsConcernedIsPainted();
  void roomsAreEnteredInTheOrderOfWork();
  void aViewThatIsGoneToHasTheKeys();
  void numbersGiveTheFocusBack();
  void keysInAPlankAreNotForTheGuide();
  void foldingGivesThePictureRoom();
  void bothThemesAndSizesFit_data();
  void bothThemesAndSizesFit();
  void everythingHasAName();
};

void WindowViewTest::themesRestyleInPlace() {
  auto& workbench = desk_->workbench;
  workbench.view.zoom(2.3, {120, 90}, bench().source().size());
  const double scale = workbench.view.scale(bench().source().size());
  press(Qt::Key_D);
  click("marks");
  const auto* before = &bench();
  const QPoint from = bench().source().toTable({100, 100}).toPoint();
  QTest::mousePress(&bench().source(), Qt::LeftButton, {}, from);
  QVERIFY(workbench.work.active());
  const QColor ground = window_->palette().color(QPalette::Window);
  pressInWindow(Qt::Key_F8);
  // The same window in other colours: zoom, tool, marks and the stroke in the middle of which it came are as they were.
  QVERIFY(window_->palette().color(QPalette::Window) != ground);
  QCOMPARE(&bench(), before);
  QCOMPARE(workbench.view.scale(bench().source().size()), scale);
  QCOMPARE(workbench.tool(), ToolName::draw);
  QVERIFY(part("marks").isChecked());
  QVERIFY(workbench.work.active());
  QTest::mouseRelease(&bench().source(), Qt::LeftButton, {}, from + QPoint(40, 0));
  QVERIFY(state().guides[0].work.has("retouch"));
  pressInWindow(Qt::Key_F8);
  QCOMPARE(window_->palette().color(QPalette::Window), ground);
}

void WindowViewTest::onlyWhatIsConcernedIsPainted() {
  for (int i = 0; i < 11; ++i) addGuide(document(), i % 2 == 0 ? "edges" : "tone");
  const std::string first = state().guides.front().id;
  document().look([&](Looking& looking) { looking.guide = first; });
  settle();
  QCOMPARE(state().guides.size(), std::size_t{12});
  std::map<std::string, int> painted;
  for (const Guide& g : state().guides) painted[g.id] = bench().left().plankOf(g.id)->painted();
  const auto copies = document().history().copies();
  auto* weight = bench().left().plankOf(first)->findChild<ScrubField*>("weight");
  for (int i = 0; i < 30; ++i) {
    weight->setValue(0.31 + 0.01 * i);
    QCoreApplication::processEvents();
  }
  emit weight->finished();
  QCOMPARE(document().history().copies(), copies + 1);
  QVERIFY(bench().left().plankOf(first)->painted() > painted[first]);
  for (const Guide& g : state().guides)
    if (g.id != first) QCOMPARE(bench().left().plankOf(g.id)->painted(), painted[g.id]);
}

void WindowViewTest::roomsAreEnteredInTheOrderOfWork() {
  const auto where = [] {
    for (const QWidget* up = QApplication::focusWidget(); up != nullptr; up = up->parentWidget())
      if (qobject_cast<const Room*>(up) != nullptr) return up->accessibleName();
    return QString();
  };
  window_->activateWindow();
  bench().left().references()->enter();
  QStringList seen{where()};
  for (int i = 0; i < 7; ++i) {
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab, Qt::ControlModifier);
    seen << where();
  }
  const QStringList order{"References", "Guides", "Source", "Proof", "Span board", "Brief", "Top strip"};
  QCOMPARE(seen, order + QStringList{"References"});
  // Tab goes through a room and on to the next one, and so through all of the window.
  const QWidget* start = QApplication::focusWidget();
  QStringList passed{where()};
  int steps = 0;
  do {
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    if (passed.last() != where()) passed << where();
  } while (QApplication::focusWidget() != start && ++steps < 200);
  QCOMPARE(passed, order + QStringList{"References"});
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Backtab, Qt::ShiftModifier);
  QCOMPARE(where(), QString("Top strip"));
}

void WindowViewTest::aViewThatIsGoneToHasTheKeys() {
  window_->activateWindow();
  click("view sheet");
  QVERIFY(window_->focusWidget() != nullptr);
  auto* sheet = window_->findChild<SheetView*>();
  QCOMPARE(window_->focusWidget(), static_cast<QWidget*>(&sheet->grid()));
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_1);
  QVERIFY(bench().isVisible() && bench().isAncestorOf(window_->focusWidget()));
}

void WindowViewTest::numbersGiveTheFocusBack() {
  // A number that was scrubbed does not keep the keys: 2 is the Sheet, not a weight of 2.
  window_->activateWindow();
  bench().source().setFocus();
  auto& weight = part<ScrubField>("weight", bench().left().plankOf(state().guides[0].id));
  QWidget* line = weight.findChild<QLineEdit*>();
  const QPoint at = line->rect().center();
  QTest::mousePress(line, Qt::LeftButton, {}, at);
  for (int x = 0; x <= 60; x += 10) QTest::mouseMove(line, at + QPoint(x, 0));
  QTest::mouseRelease(line, Qt::LeftButton, {}, at + QPoint(60, 0));
  const double scrubbed = state().guides[0].weight;
  QVERIFY(scrubbed != 0.7);
  QCOMPARE(QApplication::focusWidget(), static_cast<QWidget*>(&bench().source()));
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_2);
  QCOMPARE(state().guides[0].weight, scrubbed);
  QVERIFY(window_->findChild<SheetView*>()->isVisible());
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_1);
  // One that was clicked is typed into, and gives the keys back when that is done.
  bench().source().setFocus();
  QTest::mouseClick(line, Qt::LeftButton, {}, at);
  QTest::keyClicks(QApplication::focusWidget(), "1.2");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  QCOMPARE(state().guides[0].weight, 1.2);
  QCOMPARE(QApplication::focusWidget(), static_cast<QWidget*>(&bench().source()));
  // Undo with the focus in a number is the study's.
  QTest::mouseClick(line, Qt::LeftButton, {}, at);
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Z, Qt::ControlModifier);
  QCOMPARE(state().guides[0].weight, scrubbed);
}

void WindowViewTest::keysInAPlankAreNotForTheGuide() {
  window_->activateWindow();
  const auto guides = state().guides.size();
  auto* slider = bench().left().findChild<QSlider*>();
  QVERIFY(slider != nullptr);
  slider->setFocus();
  QTest::keyClick(slider, Qt::Key_Delete);
  QTest::keyClick(slider, Qt::Key_Space);
  QCOMPARE(state().guides.size(), guides);
  QVERIFY(state().guides[0].on);
}

void WindowViewTest::foldingGivesThePictureRoom() {
  const auto size = [&] { return bench().source().frameOnTable().width(); };
  const double both = size();
  const auto board = [&] { return bench().board().isVisible(); };
  pressInWindow(Qt::Key_F6);
  QCoreApplication::processEvents();
  QVERIFY(!board() && !bench().proof().isVisible());
  QVERIFY2(size() > 1.3 * both, qPrintable(QString("%1 from %2").arg(size()).arg(both)));
  pressInWindow(Qt::Key_F6);
  QCoreApplication::processEvents();
  QVERIFY(board() && bench().proof().isVisible());
  QVERIFY(std::abs(size() - both) < 1.5);
  pressInWindow(Qt::Key_F9);
  QCoreApplication::processEvents();
  QVERIFY(!board() && !bench().left().isVisible() && bench().proof().isVisible());
  pressInWindow(Qt::Key_F9);
  QCoreApplication::processEvents();
  QVERIFY(board() && bench().left().isVisible());
  QVERIFY(std::abs(size() - both) < 1.5);
}

void WindowViewTest::bothThemesAndSizesFit_data() {
  QTest::addColumn<int>("width");
  QTest::addColumn<int>("height");
  QTest::addColumn<bool>("day");
  for (const bool day : {false, true})
    for (const auto& [w, h] : {std::pair{1280, 800}, {1920, 1080}, {1240, 680}})
      QTest::addRow("%d x %d %d", w, h, day) << w << h << day;
}

void WindowViewTest::bothThemesAndSizesFit() {
  QFETCH(int, width);
  QFETCH(int, height);
  QFETCH(bool, day);
  if (day) pressInWindow(Qt::Key_F8);
  window_->resize(width, height);
  QTRY_COMPARE(window_->size(), QSize(width, height));
  settle();
  // No button, label or field is cut off by its parent.
  for (auto* one : window_->findChildren<QPushButton*>()) {
    if (!one->isVisible() || one->visibleRegion().isEmpty()) continue;
    QVERIFY2(one->width() >= one->fontMetrics().horizontalAdvance(one->text()) + 4,
             qPrintable(one->text() + one->accessibleName()));
  }
  QVERIFY(bench().source().width() >= 220 && bench().source().height() >= 150);
  const QColor ground = window_->grab().toImage().pixelColor(2, 2);
  QCOMPARE(ground.lightness() > 128, day);
  if (day) pressInWindow(Qt::Key_F8);
}

void WindowViewTest::everythingHasAName() {
  for (auto* one : window_->findChildren<QToolButton*>())
    if (one->isVisible())
      QVERIFY2(!one->accessibleName().isEmpty() || !one->text().isEmpty(), qPrintable(one->toolTip()));
  for (auto* one : window_->findChildren<ScrubField*>()) QVERIFY(!one->accessibleName().isEmpty());
  for (auto* one : window_->findChildren<QComboBox*>()) QVERIFY(!one->accessibleName().isEmpty());
}

HSCAFFOLD_TEST(WindowViewTest)
#include "window_view_test.moc"
