// The pencilled page made a finished picture: lettering dropped, then line art strictly, and loose lines since the
// drawing is weak; both pulled as sheets and seen side by side: two series to choose from.
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>

#include "app/sheet/sheet_view.h"
#include "app/sheet/strip_panel.h"
#include "app/window_fixture.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "drawn_pages.h"

using namespace hscaffold;
using namespace hscaffold::app;

class PencilMadeFinishedTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void twoSeriesToChooseFrom();

 protected:
  void prepare() override {
    for (const auto& page : fixtures::drawnPages())
      if (page.name.contains("pencil")) {
        writeFileAtomically(fixtures::in(*folder_, "page.png"), encodePng(toSrgb8(page.picture.view()).view()));
        document().change("Frame", [&](StudyState& s) { s.frame = {480, 320}; });
        dropFiles({path("page.png")});
        settle();
        return;
      }
    QFAIL("there is no pencilled page");
  }

 private:
  [[nodiscard]] SheetView& sheet() const { return *window_->findChild<SheetView*>(); }
  void turn(const std::string& kind) const {
    document().change("One guide", [&](StudyState& s) {
      for (Guide& guide : s.guides) guide.on = guide.kind == kind;
    });
    settle();
  }
  /// So many seeds, by the panel.
  std::int64_t pullSeeds(int count) const {
    pressInWindow(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    auto& panel = part<StripPanel>("strip panel");
    typeInto(part<QWidget>("seeds", &panel), QString::number(count));
    QTest::mouseClick(&part<QPushButton>("pull sheet now", &panel), Qt::LeftButton);
    settle();
    activate();
    return desk().proofs.sheets().back().number;
  }
};

void PencilMadeFinishedTest::twoSeriesToChooseFrom() {
  document().change("Brief",
                    [](StudyState& s) { s.brief.prompt = "a sail cart on a tidal flat, ink, bright morning"; });
  add("lines");
  add("loose");
  // What is not wanted is dropped by a loop, from both.
  for (const char* kind : {"lines", "loose"}) {
    document().look([&](Looking& looking) {
      for (const Guide& guide : state().guides)
        if (guide.kind == kind) looking.guide = guide.id;
    });
    settle();
    const auto sum = [&] {
      double all = 0;
      for (int y = 0; y < 110; ++y)
        for (int x = 0; x < 160; ++x) all += map()(x, y);
      return all;
    };
    const double before = sum();
    press(Qt::Key_X);
    drag({{2, 2}, {158, 2}, {158, 108}, {2, 108}, {2, 4}});
    settle();
    QVERIFY2(sum() < 0.2 * before + 1, kind);
  }
  turn("lines");
  const std::int64_t strict = pullSeeds(2);
  turn("loose");
  const std::int64_t loose = pullSeeds(2);
  QCOMPARE(desk().proofs.all().size(), std::size_t{4});
  std::map<std::int64_t, double> holds;
  std::map<std::int64_t, std::vector<std::int64_t>> numbers;
  for (const ProofInfo& proof : desk().proofs.all()) {
    QCOMPARE(proof.recipe.guides.size(), std::size_t{1});
    holds[proof.sheet] += *meanHold(proof) / 2;
    // Two are made at a time: which is there first is chance.
    if (proof.cell == 0) numbers[proof.sheet].push_back(proof.number);
  }
  QVERIFY2(holds[strict] > 60, qPrintable(QString::number(holds[strict])));
  // One of each side by side, with what differs: which guide, and nothing else.
  document().look([](Looking& looking) { looking.sheet = allProofs; });
  sheet().grid().selectProofs({numbers[strict][0], numbers[loose][0]});
  QTest::keyClick(&sheet().grid(), Qt::Key_C);
  QVERIFY(sheet().comparing());
  QCOMPARE(sheet().compared().tiles(), (std::vector<std::int64_t>{numbers[strict][0], numbers[loose][0]}));
  QCOMPARE(desk().proofs.proof(numbers[strict][0])->recipe.brief.seed,
           desk().proofs.proof(numbers[loose][0])->recipe.brief.seed);
  QVERIFY(desk().proofs.image(numbers[strict][0]) != desk().proofs.image(numbers[loose][0]));
  QTest::keyClick(&sheet().compared(), Qt::Key_K);
  QCOMPARE(state().kept.size(), std::size_t{2});
}

HSCAFFOLD_APP_TEST_MAIN(PencilMadeFinishedTest)
#include "pencil_made_finished_test.moc"
