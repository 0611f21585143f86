// Keys that close the list of a choice, as they come from a keyboard: through the window's system, not to one widget.
#include <QAbstractItemView>
#include <QApplication>
#include <QComboBox>
#include <QKeyEvent>
#include <QPointer>
#include <QTest>
#include <QWindow>

#include "app/sheet/strip_panel.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

class ListKeysTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void returnChoosesAndDoesNothingElse();
  void escapeClosesTheListAlone();

 private:
  [[nodiscard]] StripPanel& panel() const { return *window_->findChild<StripPanel*>(); }
  /// Of the panel in which a sheet is planned, with its first choice's list open.
  QComboBox& openList() {
    activate();
    pressInWindow(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    auto& across = part<QComboBox>("across", &panel());
    across.setFocus();
    across.showPopup();
    return across;
  }
  static void type(Qt::Key key) { QTest::keyClick(QApplication::activePopupWidget()->windowHandle(), key); }
  static bool listIsOpen(const QComboBox& choice) { return choice.view()->isVisible(); }
};

void ListKeysTest::returnChoosesAndDoesNothingElse() {
  QComboBox& across = openList();
  const QPointer<StripPanel> open = &panel();
  QVERIFY(QTest::qWaitFor([&] { return listIsOpen(across); }));
  type(Qt::Key_Down);
  type(Qt::Key_Return);
  QVERIFY(QTest::qWaitFor([&] { return !open || !listIsOpen(across); }));
  QVERIFY(desk().proofs.sheets().empty());
  QVERIFY(open && open->isVisible());
  QCOMPARE(across.currentIndex(), 1);
  // Nor while the key is still held down.
  QKeyEvent again(QEvent::KeyPress, Qt::Key_Return, Qt::NoModifier, {}, true);
  QApplication::sendEvent(open, &again);
  QVERIFY(desk().proofs.sheets().empty());
  // In the panel itself it pulls, as it says.
  type(Qt::Key_Return);
  QCOMPARE(desk().proofs.sheets().size(), std::size_t{1});
  settle();
}

void ListKeysTest::escapeClosesTheListAlone() {
  QComboBox& across = openList();
  const QPointer<StripPanel> open = &panel();
  QVERIFY(QTest::qWaitFor([&] { return listIsOpen(across); }));
  type(Qt::Key_Down);
  type(Qt::Key_Escape);
  QVERIFY(QTest::qWaitFor([&] { return !open || !listIsOpen(across); }));
  QVERIFY(open && open->isVisible());
  QCOMPARE(across.currentIndex(), 0);
  type(Qt::Key_Escape);
  QVERIFY(!open || !open->isVisible());
}

HSCAFFOLD_TEST(ListKeysTest)
#include "list_keys_test.moc"
