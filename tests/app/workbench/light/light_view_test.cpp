// The light table in the real window: painted, moved, coloured, relit, hidden, taken away, and read back.
#include <QCheckBox>
#include <QListWidget>
#include <QSlider>
#include <QToolButton>

#include "app/bench/light_panel.h"
#include "app/widgets/hue_wheel.h"
#include "app/widgets/light_dial.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "app/workbench/light/light_tools.h"

using namespace hscaffold;
using namespace hscaffold::app;
using light::Light;

class LightViewTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void shadowAndLightArePainted();
  void strokesOfOneKindGoTogether();
  void escLeavesNothing();
  void gradientsLampsAndRaysStayObjects();
  void theListHidesNamesAndOrders();
  void whatIsTakenAwayComesBackByUndo();
  void coloursGoIntoTheMapAndTheProof();
  void lightIsTurnedByTheReliefOfADepthGuide();
  void hoursAreOneStep();
  void itIsReadBackFromItsFile();
  void anEmptyFrameIsPaintedOn();

 protected:
  void prepare() override {
    SceneWindowTest::prepare();
    add("tone");
    settle();
  }

 private:
  [[nodiscard]] LightWork& work() const { return desk().workbench.light; }
  [[nodiscard]] light::LightTable lightTable() const { return work().table(); }
  [[nodiscard]] std::size_t lights() const { return lightTable().lights.size(); }
  [[nodiscard]] QListWidget& list() const {
    for (LightPanel* panel : window_->findChildren<LightPanel*>())
      if (panel->isVisible()) return part<QListWidget>("lights", panel);
    qFatal("there is no light panel");
  }
  template <class Widget>
  [[nodiscard]] Widget& inPanel(const char* name) const {
    return part<Widget>(name, list().parentWidget());
  }
  [[nodiscard]] double brightness(int x, int y) const { return map()(x, y) / 65535.0; }
  void row(const char* field, double value) const {
    QCoreApplication::processEvents();
    for (auto* each : window_->findChildren<ScrubField*>(field))
      if (each->isVisible()) return typeInto(*each, QString::number(value));
    qFatal("there is no field \"%s\"", field);
  }
};

void LightViewTest::shadowAndLightArePainted() {
  const double before = brightness(150, 150), other = brightness(150, 300);
  press(Qt::Key_S);
  row("size", 60);
  row("strength", 100);
  drag({{80, 150}, {150, 150}, {240, 150}}, {}, false);
  // The map follows while the brush is down, and nothing is kept yet.
  settle();
  QVERIFY(brightness(150, 150) < 0.7 * before);
  QCOMPARE(lights(), std::size_t{0});
  QTest::mouseRelease(&table(), Qt::LeftButton);
  settle();
  QCOMPARE(lights(), std::size_t{1});
  QVERIFY(brightness(150, 150) < 0.7 * before);
  QCOMPARE(brightness(150, 300), other);
  press(Qt::Key_H);
  drag({{80, 300}, {240, 300}});
  settle();
  QCOMPARE(lights(), std::size_t{2});
  QVERIFY(brightness(150, 300) > other + 0.1);
  undo();
  undo();
  settle();
  QCOMPARE(brightness(150, 150), before);
  redo();
  settle();
  QVERIFY(brightness(150, 150) < 0.7 * before);
}

void LightViewTest::strokesOfOneKindGoTogether() {
  press(Qt::Key_S);
  drag({{80, 150}, {140, 150}});
  drag({{80, 250}, {140, 250}});
  QCOMPARE(lights(), std::size_t{1});
  QCOMPARE(lightTable().lights[0].strokes.size(), std::size_t{2});
  // What takes away goes into the same light.
  press(Qt::Key_E);
  drag({{80, 150}, {140, 150}});
  QCOMPARE(lights(), std::size_t{1});
  QVERIFY(lightTable().lights[0].strokes.back().away);
  press(Qt::Key_H);
  drag({{80, 250}, {140, 250}});
  QCOMPARE(lights(), std::size_t{2});
}

void LightViewTest::escLeavesNothing() {
  const Map before = map().clone();
  for (const auto key : {Qt::Key_S, Qt::Key_F, Qt::Key_O, Qt::Key_Y, Qt::Key_A}) {
    press(key);
    drag({{80, 150}, {200, 150}, {200, 250}}, {}, false);
    settle();
    press(Qt::Key_Escape);
    settle();
    QCOMPARE(lights(), std::size_t{0});
    QVERIFY(map() == before);
    QTest::mouseRelease(&table(), Qt::LeftButton);
  }
}

void LightViewTest::gradientsLampsAndRaysStayObjects() {
  press(Qt::Key_F);
  drag({{200, 20}, {200, 300}});
  press(Qt::Key_O);
  drag({{120, 200}, {170, 200}});
  press(Qt::Key_Y);
  drag({{400, 20}, {100, 300}});
  settle();
  QCOMPARE(lights(), std::size_t{3});
  QVERIFY(lightTable().lights[0].form == Light::Form::straight && lightTable().lights[2].form == Light::Form::rays);
  // A lamp is moved by its middle with its rim, and by its rim alone.
  press(Qt::Key_V);
  drag({{120, 180}, {130, 190}, {160, 180}});
  const Light moved = lightTable().lights[1];
  QVERIFY(std::abs(moved.spots[0].x - 160) < 2 && std::abs(moved.spots[1].x - 210) < 2);
  drag({{moved.spots[1].x, moved.spots[1].y}, {moved.spots[1].x + 20, moved.spots[1].y}, {250, moved.spots[1].y}});
  QVERIFY(lightTable().lights[1].spots[0] == moved.spots[0] && lightTable().lights[1].spots[1].x > 240);
  const double before = lightTable().lights[1].spots[0].x;
  press(Qt::Key_Right);
  QVERIFY(lightTable().lights[1].spots[0].x > before);
  // Its numbers stand in the row.
  row("light", -0.5);
  QCOMPARE(lightTable().lights[1].light, -0.5);
  // The next one by J; rays have their own numbers.
  press(Qt::Key_J);
  row("rays", 11);
  QCOMPARE(lightTable().lights[2].count, 11);
}

void LightViewTest::theListHidesNamesAndOrders() {
  press(Qt::Key_O);
  drag({{120, 200}, {190, 200}});
  drag({{300, 200}, {340, 200}});
  settle();
  QCOMPARE(list().count(), 2);
  const double lit = brightness(120, 200);
  // The uppermost stands first: the first lamp is the second row.
  list().item(1)->setCheckState(Qt::Unchecked);
  settle();
  QVERIFY(lightTable().lights[0].hidden && brightness(120, 200) < lit - 0.1);
  list().item(1)->setText("Over the door");
  QCOMPARE(lightTable().lights[0].name, std::string("Over the door"));
  list().setCurrentRow(1);
  QCOMPARE(work().selected(), std::optional<std::size_t>(0));
  list().setFocus();
  QTest::keyClick(&list(), Qt::Key_PageUp);
  QCOMPARE(lightTable().lights[1].name, std::string("Over the door"));
  QCOMPARE(list().currentRow(), 0);
  auto& amount = inPanel<ScrubField>("light amount");
  typeInto(amount, "40");
  QCOMPARE(lightTable().lights[1].opacity, 0.4);
}

void LightViewTest::whatIsTakenAwayComesBackByUndo() {
  press(Qt::Key_O);
  drag({{120, 200}, {190, 200}});
  settle();
  const Map lit = map().clone();
  list().setFocus();
  QTest::keyClick(&list(), Qt::Key_Delete);
  settle();
  QCOMPARE(lights(), std::size_t{0});
  QVERIFY(!guide().work.has(light::lightSlot));
  undo();
  settle();
  QVERIFY(map() == lit);
}

void LightViewTest::coloursGoIntoTheMapAndTheProof() {
  QVERIFY(desk().maps.mapOf(guide().id)->colour == nullptr);
  auto& wheel = inPanel<HueWheel>("hue wheel");
  QCOMPARE(wheel.hues().size(), std::size_t{2});
  // A hue dragged out is meant to be seen; with Shift the other goes opposite.
  const QPoint to = wheel.placeOf({0.25, 40}).toPoint();
  QTest::mousePress(&wheel, Qt::LeftButton, Qt::ShiftModifier, wheel.placeOf(wheel.hues()[0]).toPoint());
  QTest::mouseMove(&wheel, to);
  QTest::mouseRelease(&wheel, Qt::LeftButton, Qt::ShiftModifier, to);
  settle();
  QVERIFY(lightTable().tint > 0);
  QVERIFY(std::abs(lightTable().inLight.angle - 40) < 8 && lightTable().inLight.chroma > 0.2);
  const auto* shown = desk().maps.mapOf(guide().id);
  QVERIFY(shown->colour && shown->colour->size() == map().size() && shown->tinted.isNull());
  // A lamp with a colour of its own.
  press(Qt::Key_O);
  drag({{200, 200}, {280, 200}});
  inPanel<QCheckBox>("hued").click();
  settle();
  QVERIFY(lightTable().lights[0].hue.has_value());
  QCOMPARE(wheel.hues().size(), std::size_t{1});
  undo();
  settle();
  QVERIFY(!lightTable().lights[0].hue);
}

void LightViewTest::lightIsTurnedByTheReliefOfADepthGuide() {
  const std::string tone = guide().id;
  QVERIFY(!inPanel<QSlider>("relight").isEnabled());
  add("depth");
  settle();
  document().look([&](Looking& looking) { looking.guide = tone; });
  settle();
  const Map before = map().clone();
  inPanel<QToolButton>("take relief").click();
  settle();
  QVERIFY(guide().work.has(light::reliefSlot) && map() == before);
  QCOMPARE(work().reliefName(), QString("Depth"));
  auto& dial = inPanel<LightDial>("light dial");
  const double radius = dial.width() / 2.0;
  QTest::mouseClick(&dial, Qt::LeftButton, {}, QPointF(radius * 0.3, radius).toPoint());
  settle();
  QVERIFY(lightTable().relight > 0 && std::abs(std::abs(lightTable().from) - 180) < 5);
  const Map left = map().clone();
  QTest::mouseClick(&dial, Qt::LeftButton, {}, QPointF(radius * 1.7, radius).toPoint());
  settle();
  QVERIFY(!(left == before) && !(map() == left));
  // The depth guide may go: what was taken stays.
  document().change("Remove",
                    [](StudyState& s) { std::erase_if(s.guides, [](const Guide& g) { return g.kind == "depth"; }); });
  settle();
  QVERIFY(!(map() == before));
  inPanel<QToolButton>("take relief").click();
  settle();
  QVERIFY(map() == before);
}

void LightViewTest::hoursAreOneStep() {
  press(Qt::Key_S);
  drag({{80, 150}, {140, 150}});
  settle();
  const Map before = map().clone();
  work().setHour(light::hours()[3]);
  settle();
  QVERIFY(!(map() == before));
  QVERIFY(lights() > 1 && lightTable().lights.back().strokes.size() == 1);
  undo();
  settle();
  QVERIFY(map() == before);
}

void LightViewTest::itIsReadBackFromItsFile() {
  press(Qt::Key_Y);
  drag({{400, 20}, {100, 300}});
  work().setHour(light::hours()[2]);
  settle();
  const auto kept = lightTable();
  const Map before = map().clone();
  document().saveAs(path("lit.scaffold").toStdString());
  document().open(path("lit.scaffold").toStdString());
  settle();
  QVERIFY(lightTable() == kept && map() == before);
}

void LightViewTest::anEmptyFrameIsPaintedOn() {
  document().change("Without a reference", [](StudyState& s) { s.guide(s.looking.guide)->reference.clear(); });
  settle();
  QCOMPARE(map()(100, 100), std::uint16_t{32768});
  press(Qt::Key_O);
  drag({{200, 200}, {300, 200}});
  settle();
  QVERIFY(brightness(200, 200) > 0.7);
  QVERIFY(guide().reference.empty());
}

HSCAFFOLD_TEST(LightViewTest)
#include "light_view_test.moc"
