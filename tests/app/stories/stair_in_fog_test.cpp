// The lighthouse stair in fog: depth is doubtful far away, and says so; a far hint and a ramp, depth and edges
// together.
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/depth/hints.h"

using namespace hscaffold;
using namespace hscaffold::app;

class StairInFogTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void theFarStairIsBehindTheNearOne();

 private:
  [[nodiscard]] double nearAt(double x, double y) const {
    return map()(static_cast<int>(x * map().width()), static_cast<int>(y * map().height())) / 65535.0;
  }
};

void StairInFogTest::theFarStairIsBehindTheNearOne() {
  fixtures::writeScene(fixtures::in(*folder_, "stair.png"), fixtures::stairInFog);
  dropFiles({path("stair.png")});
  settle();
  add("depth");
  settle();
  // Not sure everywhere, and it says where it is least so.
  const MapPicture* shown = desk().maps.mapOf(guide().id);
  QVERIFY(shown->facts.number("sure").value_or(1) < 0.9);
  QVERIFY(!shown->doubtful.empty());
  const double w = state().frame.width, h = state().frame.height;
  // The opening above is farthest; from it to the rim everything comes nearer.
  typeInto(part<ScrubField>("near"), "0.02");
  const QPointF opening(0.487 * w, 0.45 * h);
  drag({opening, opening + QPointF(6, 0)});
  settle();
  typeInto(part<ScrubField>("near"), "0.95");
  press(Qt::Key_M);
  drag({opening + QPointF(0, 0.1 * h), {0.5 * w, 0.97 * h}});
  settle();
  press(Qt::Key_M);
  drag({opening + QPointF(0, -0.1 * h), {0.5 * w, 0.03 * h}});
  settle();
  QVERIFY2(nearAt(0.487, 0.45) < 0.15, qPrintable(QString::number(nearAt(0.487, 0.45))));
  QVERIFY(nearAt(0.5, 0.95) > 0.8 && nearAt(0.5, 0.05) > 0.6);
  QVERIFY(nearAt(0.5, 0.95) > nearAt(0.5, 0.7) && nearAt(0.5, 0.7) > nearAt(0.487, 0.45));
  // Both guides together keep their total when one is changed.
  document().change("Keep total", [](StudyState& s) { s.keepTotal = true; });
  const auto total = [&] {
    double sum = 0;
    for (const Guide& g : state().guides) sum += g.on ? g.weight : 0;
    return sum;
  };
  const double before = total();
  typeInto(part<ScrubField>("weight"), "0.9");
  QVERIFY(std::abs(total() - before) < 0.02);
  click("pull");
  settle();
  // The proof has both, and the depth is measured in it.
  const ProofInfo* proof = desk().proofs.current();
  QVERIFY(proof != nullptr && proof->recipe.guides.size() == 2);
  // Undone step by step, the first map is back.
  for (int i = 0; i < 12 && document().state().selectedGuide() != nullptr && guide().work.has(depth::hintsSlot); ++i)
    undo();
  settle();
  QVERIFY(!guide().work.has(depth::hintsSlot));
}

HSCAFFOLD_TEST(StairInFogTest)
#include "stair_in_fog_test.moc"
