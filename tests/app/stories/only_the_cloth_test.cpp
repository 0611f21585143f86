// The same picture faithful, only the sail's cloth changed: a detail guide for surfaces, edges lightly, words to words.
#include <QLineEdit>

#include "app/bench/tuning_panel.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/threshold_histogram.h"
#include "app/window_fixture.h"
#include "core/detail/detail.h"

using namespace hscaffold;
using namespace hscaffold::app;

class OnlyTheClothTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void surfacesAreHeld();
  void scalesAreDragged();

 protected:
  void prepare() override {
    SceneWindowTest::prepare();
    document().change("Say", [](StudyState& s) {
      s.brief.prompt = "a tea house by the water, gouache";
      s.guides[0].weight = 0.3;
    });
    add("detail");
    document().change("Whole", [](StudyState& s) { s.guide(s.looking.guide)->weight = 1; });
    settle();
  }

 private:
  void pull() const {
    pressInWindow(Qt::Key_Return, Qt::ControlModifier);
    settle();
  }
};

void OnlyTheClothTest::surfacesAreHeld() {
  pull();
  const auto& proof = *desk().proofs.current();
  QVERIFY2(proof.holds.at(guide().id) > 90, qPrintable(QString::number(proof.holds.at(guide().id))));
  QVERIFY(proof.shift && *proof.shift < 25);
  document().change("Lightly", [](StudyState& s) { s.guide(s.looking.guide)->weight = 0.3; });
  settle();
  pull();
  QVERIFY(desk().proofs.current()->holds.at(guide().id) < 60);
  // What is large alone leaves surfaces to the words.
  document().change("Large", [](StudyState& s) {
    s.guide(s.looking.guide)->weight = 1;
    s.guide(s.looking.guide)->tuning["finest"] = 6.0;
  });
  settle();
  pull();
  QVERIFY(desk().proofs.current()->holds.at(guide().id) > 80);
}

void OnlyTheClothTest::scalesAreDragged() {
  TuningPanel* panel = nullptr;
  for (auto* each : bench().findChildren<TuningPanel*>())
    if (each->isVisible()) panel = each;
  QVERIFY(panel != nullptr && panel->histogram() != nullptr);
  auto& histogram = *panel->histogram();
  const Map all = map().clone();
  const QPoint low = histogram.handleAt(false);
  dragOn(histogram, low, QPoint(histogram.width() * 3 / 5, low.y()));
  settle();
  const auto tuning = detail::detailTuningFrom(guide().tuning);
  QVERIFY2(tuning.finest > 2 && tuning.finest < 20 && tuning.coarsest == 100,
           qPrintable(QString::number(tuning.finest)));
  QVERIFY(!(map() == all));
  undo();
  settle();
  QVERIFY(map() == all);
}

HSCAFFOLD_TEST(OnlyTheClothTest)
#include "only_the_cloth_test.moc"
