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
  void byMouse();
  void byKeyboard();

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
  void choose(const std::string& kind) const {
    for (const Guide& guide : state().guides)
      if (guide.kind == kind) document().look([&](Looking& looking) { looking.guide = guide.id; });
    settle();
  }
  void briefAndGuides() const {
    document().change("Brief",
                      [](StudyState& s) { s.brief.prompt = "a sail cart on a tidal flat, ink, bright morning"; });
    add("lines");
    add("loose");
  }
  /// What lies in the upper left of the map in hand.
  [[nodiscard]] double lettering() const {
    double all = 0;
    for (int y = 0; y < 110; ++y)
      for (int x = 0; x < 160; ++x) all += map()(x, y);
    return all;
  }
  [[nodiscard]] std::int64_t newestSheet() const {
    settle();
    activate();
    return desk().proofs.sheets().back().number;
  }
  /// The first proofs of two sheets: two are made at a time, so which is there first is chance.
  [[nodiscard]] std::vector<std::int64_t> firstCells(std::int64_t strict, std::int64_t loose) const {
    std::map<std::int64_t, std::int64_t> numbers;
    for (const ProofInfo& proof : desk().proofs.all())
      if (proof.cell == 0) numbers[proof.sheet] = proof.number;
    return {numbers[strict], numbers[loose]};
  }
  void checkSeries(std::int64_t strict) const {
    QCOMPARE(desk().proofs.all().size(), std::size_t{4});
    double hold = 0;
    for (const ProofInfo& proof : desk().proofs.all()) {
      QCOMPARE(proof.recipe.guides.size(), std::size_t{1});
      if (proof.sheet == strict) hold += *meanHold(proof) / 2;
    }
    QVERIFY2(hold > 60, qPrintable(QString::number(hold)));
  }
  /// Both series pulled, one guide after the other. @return the first proof of each
  [[nodiscard]] std::vector<std::int64_t> bothSeries(const std::function<void(const std::string&)>& only,
                                                     const std::function<std::int64_t()>& pullTwo) const {
    only("lines");
    const std::int64_t strict = pullTwo();
    only("loose");
    const std::int64_t loose = pullTwo();
    checkSeries(strict);
    document().look([](Looking& looking) { looking.sheet = allProofs; });
    return firstCells(strict, loose);
  }
  void checkSideBySide(const std::vector<std::int64_t>& pair) const {
    QVERIFY(sheet().comparing());
    auto tiles = sheet().compared().tiles();
    std::sort(tiles.begin(), tiles.end());
    QCOMPARE(tiles, (std::vector<std::int64_t>{std::min(pair[0], pair[1]), std::max(pair[0], pair[1])}));
    // What differs is which guide, and nothing else.
    QCOMPARE(desk().proofs.proof(pair[0])->recipe.brief.seed, desk().proofs.proof(pair[1])->recipe.brief.seed);
    QVERIFY(desk().proofs.image(pair[0]) != desk().proofs.image(pair[1]));
  }
  /// Leads the pen to a place of the frame by the arrows alone.
  void leadPen(QPointF to) const {
    for (int i = 0; i < 200; ++i) {
      const QPointF now = bench().source().penAt().value_or(QPointF(-1, -1));
      const QPointF way = to - now;
      if (now.x() >= 0 && std::abs(way.x()) < 4 && std::abs(way.y()) < 4) return;
      const bool across = now.x() < 0 || std::abs(way.x()) >= 4;
      const double left = across ? way.x() : way.y();
      const auto key = across ? (left < 0 ? Qt::Key_Left : Qt::Key_Right) : (left < 0 ? Qt::Key_Up : Qt::Key_Down);
      QTest::keyClick(&bench().source(), key, std::abs(left) >= 24 ? Qt::ShiftModifier : Qt::NoModifier);
    }
    QFAIL("the pen did not get there");
  }
};

void PencilMadeFinishedTest::byMouse() {
  briefAndGuides();
  // What is not wanted is dropped by a loop, from both.
  for (const char* kind : {"lines", "loose"}) {
    choose(kind);
    const double before = lettering();
    press(Qt::Key_X);
    drag({{2, 2}, {158, 2}, {158, 108}, {2, 108}, {2, 4}});
    settle();
    QVERIFY2(lettering() < 0.2 * before + 1, kind);
  }
  const auto only = [&](const std::string& kind) {
    for (const Guide& guide : state().guides)
      if (guide.on != (guide.kind == kind)) click("on", bench().left().plankOf(guide.id));
    settle();
  };
  const auto pullTwo = [&] {
    click("pull sheet");
    auto& panel = part<StripPanel>("strip panel");
    auto* seeds = part<QWidget>("seeds", &panel).findChild<QLineEdit*>();
    seeds->setFocus();
    seeds->selectAll();
    QTest::keyClicks(seeds, "2");
    QTest::mouseClick(&part<QPushButton>("pull sheet now", &panel), Qt::LeftButton);
    return newestSheet();
  };
  const auto pair = bothSeries(only, pullTwo);
  auto& grid = sheet().grid();
  for (const std::int64_t number : pair)
    QTest::mouseClick(grid.viewport(), Qt::LeftButton, number == pair[0] ? Qt::NoModifier : Qt::ControlModifier,
                      grid.visualRect(sheet().model().indexOf(number)).center());
  QVERIFY(
      chooseFromMenu(*grid.viewport(), grid.visualRect(sheet().model().indexOf(pair[1])).center(), "Compare large"));
  checkSideBySide(pair);
}

void PencilMadeFinishedTest::byKeyboard() {
  briefAndGuides();
  for (const char* kind : {"lines", "loose"}) {
    choose(kind);
    const double before = lettering();
    bench().source().setFocus();
    QTest::keyClick(&bench().source(), Qt::Key_X);
    leadPen({4, 4});
    QTest::keyClick(&bench().source(), Qt::Key_Space);
    for (const QPointF& corner : {QPointF(156, 4), QPointF(156, 108), QPointF(4, 108), QPointF(4, 6)}) leadPen(corner);
    QTest::keyClick(&bench().source(), Qt::Key_Space);
    settle();
    QVERIFY2(lettering() < 0.2 * before + 1, kind);
    QTest::keyClick(&bench().source(), Qt::Key_L);
  }
  const auto only = [&](const std::string& kind) {
    for (const Guide& guide : state().guides) {
      if (guide.on == (guide.kind == kind)) continue;
      auto* plank = bench().left().plankOf(guide.id);
      plank->setFocus();
      QTest::keyClick(plank, Qt::Key_Space);
    }
    settle();
  };
  const auto pullTwo = [&] {
    pressInWindow(Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier);
    auto& panel = part<StripPanel>("strip panel");
    typeInto(part<QWidget>("seeds", &panel), "2");
    return newestSheet();  // Return in the field has pulled it
  };
  const auto pair = bothSeries(only, pullTwo);
  auto& grid = sheet().grid();
  grid.setFocus();
  grid.selectProofs(pair);
  QTest::keyClick(&grid, Qt::Key_C);
  checkSideBySide(pair);
  QTest::keyClick(&sheet().compared(), Qt::Key_K);
  QCOMPARE(state().kept.size(), std::size_t{2});
}

HSCAFFOLD_TEST(PencilMadeFinishedTest)
#include "pencil_made_finished_test.moc"
