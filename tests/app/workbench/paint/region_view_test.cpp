// Regions by hand in the real window, with real events.

#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "app/workbench/paint/paint_tools.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

class RegionViewTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void regionsArePaintedInvertedFeatheredAndCleared();
  void regionsGrowFromColour();
};

void RegionViewTest::regionsArePaintedInvertedFeatheredAndCleared() {
  const Map before = map().clone();
  press(Qt::Key_G);
  QVERIFY(desk_->workbench.regionShown());
  QCOMPARE(desk_->workbench.tool(), ToolName::paint);
  desk_->workbench.settings.size = 160;
  drag({{240, 160}, {250, 160}});
  settle();
  QVERIFY(guide().limited());
  QCOMPARE(document().history().undoName(), std::string("Paint region"));
  QCOMPARE(map()(20, 20), std::uint16_t{0});
  for (int x = 200; x < 280; ++x) QCOMPARE(map()(x, 160), before(x, 160));
  const auto sum = [](const Map& m) {
    double s = 0;
    for (int y = 0; y < m.height(); ++y)
      for (const auto v : m.line(y)) s += v;
    return s;
  };
  const double inside = sum(map());
  click("invert region");
  settle();
  QVERIFY(guide().region.inverted);
  QVERIFY(std::abs(sum(map()) + inside - sum(before)) < 0.02 * sum(before));
  typeInto(part<ScrubField>("feather", &bench().tools()), "20");
  settle();
  QCOMPARE(guide().region.feather, 20.0);
  click("clear region");
  settle();
  QVERIFY(map() == before);
  press(Qt::Key_G);
  QVERIFY(!desk_->workbench.regionShown());
}

void RegionViewTest::regionsGrowFromColour() {
  press(Qt::Key_G);
  press(Qt::Key_C);
  QCOMPARE(desk_->workbench.tool(), ToolName::colour);
  drag({{20, 20}});
  settle();
  QVERIFY(guide().limited());
  const auto region = desk_->maps.mapOf(guide().id)->region;
  QVERIFY(region != nullptr);
  QVERIFY((*region)(20, 20) > 60000);
}

HSCAFFOLD_TEST(RegionViewTest)
#include "region_view_test.moc"
