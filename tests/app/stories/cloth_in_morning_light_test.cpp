// Sailcloth drying in soft morning light, where edges find almost nothing: depth holds the layout.
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/depth/hints.h"

using namespace hscaffold;
using namespace hscaffold::app;

class ClothInMorningLightTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void byMouse();
  void byKeyboard();
  void wrongTurnsLoseNothing();

 private:
  [[nodiscard]] double nearAt(double x, double y) const {
    return map()(static_cast<int>(x * map().width()), static_cast<int>(y * map().height())) / 65535.0;
  }
  [[nodiscard]] const Check* fewEdges() const {
    for (const Check& check : desk().checks.all())
      if (check.id.starts_with("few-edges")) return &check;
    return nullptr;
  }
  void addDepth() {
    const std::string button = "other " + fewEdges()->id;
    pressInWindow(Qt::Key_K, Qt::ControlModifier);
    click(button.c_str());
    while (auto* popup = QApplication::activePopupWidget()) popup->close();
    settle();
    activate();
  }
  void dropTheCloth() {
    fixtures::writeScene(fixtures::in(*folder_, "cloth.png"), fixtures::sailcloth);
    dropFiles({path("cloth.png")});
    settle();
  }
  /// A stroke over a part of the picture, in shares of it.
  void stroke(double x0, double y0, double x1, double y1, const char* near) {
    typeInto(part<ScrubField>("near"), near);
    const double w = state().frame.width, h = state().frame.height;
    drag({{x0 * w, y0 * h}, {(x0 + x1) / 2 * w, (y0 + y1) / 2 * h}, {x1 * w, y1 * h}});
    settle();
  }
  /// The near cloth before the far one, both before the sky, the near ground before all.
  void verifyOrder() {
    const double nearCloth = nearAt(0.35, 0.45), farCloth = nearAt(0.58, 0.48), sky = nearAt(0.5, 0.08),
                 ground = nearAt(0.5, 0.96);
    const auto told = QString("near %1, far %2, sky %3, ground %4").arg(nearCloth).arg(farCloth).arg(sky).arg(ground);
    QVERIFY2(nearCloth > farCloth + 0.05 && farCloth > sky + 0.1 && ground > nearCloth, qPrintable(told));
  }
};

void ClothInMorningLightTest::byMouse() {
  dropTheCloth();
  // A check says that edges find little, and offers depth.
  QVERIFY(fewEdges() != nullptr);
  QCOMPARE(fewEdges()->otherName, std::string("Add depth"));
  addDepth();
  QCOMPARE(guide().kind, std::string("depth"));
  QVERIFY(fewEdges() == nullptr || fewEdges()->otherName.empty());
  QVERIFY(desk().maps.mapOf(guide().id)->found.contains("sure of"));
  // Two hints correct the cloth.
  stroke(0.26, 0.45, 0.43, 0.45, "0.60");
  stroke(0.49, 0.47, 0.64, 0.48, "0.35");
  verifyOrder();
  // Looked at as a relief, then pulled.
  const QImage flat = bench().source().grab().toImage();
  click("depth depth");
  QVERIFY(bench().depth().isVisible());
  const QImage relief = bench().depth().grab().toImage();
  std::set<QRgb> colours;
  for (int y = 0; y < relief.height(); y += 3)
    for (int x = 0; x < relief.width(); x += 3) colours.insert(relief.pixel(x, y));
  QVERIFY2(colours.size() > 50 && relief != flat, qPrintable(QString::number(colours.size())));
  click("depth depth");
  click("pull");
  settle();
  QVERIFY(desk().proofs.current() != nullptr);
}

void ClothInMorningLightTest::byKeyboard() {
  dropTheCloth();
  addDepth();
  table().setFocus();
  press(Qt::Key_N);  // where it is least sure
  QVERIFY(desk().workbench.depth.doubt().has_value());
  press(Qt::Key_Escape);
  pressInWindow(Qt::Key_5, Qt::ControlModifier);
  QTRY_VERIFY(bench().depth().isVisible());
  QTest::keyClick(&bench().depth(), Qt::Key_Left);
  pressInWindow(Qt::Key_5, Qt::ControlModifier);
  QTRY_VERIFY(!bench().depth().isVisible());
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QVERIFY(desk().proofs.current() != nullptr);
}

void ClothInMorningLightTest::wrongTurnsLoseNothing() {
  dropTheCloth();
  addDepth();
  const double before = nearAt(0.35, 0.45);
  stroke(0.26, 0.45, 0.43, 0.45, "0.95");
  QVERIFY(nearAt(0.35, 0.45) > 0.9);
  // Hints that contradict each other are said, not hidden.
  stroke(0.26, 0.45, 0.43, 0.45, "0.10");
  bool said = false;
  for (const Check& check : desk().checks.all()) said |= check.id.starts_with("hints-against");
  QVERIFY(said);
  undo();
  undo();
  settle();
  QCOMPARE(nearAt(0.35, 0.45), before);
  redo();
  settle();
}

HSCAFFOLD_TEST(ClothInMorningLightTest)
#include "cloth_in_morning_light_test.moc"
