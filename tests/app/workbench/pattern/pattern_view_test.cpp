// Patterns in the real window: a code laid by hand, pulled, and read; what is wrong with it is said and mended.
#include <QLabel>

#include "app/bench/scan_strip.h"
#include "app/window_fixture.h"
#include "app/workbench/pattern/pattern_tools.h"
#include "core/pattern/pattern.h"

using namespace hscaffold;
using namespace hscaffold::app;

class PatternViewTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void aNewPatternBeginsAsItNeeds();
  void itIsLaidByHand();
  void escPutsItBack();
  void itsCornersArePulledAlone();
  void itLiesOnTheGroundOfADepthGuide();
  void textsAreTypedLetterByLetter();
  void proofsSayWhetherTheyScan();
  void moreCodeIsGivenWhereItFails();
  void squintSeesFromAfar();
  void aPictureBecomesAPattern();

 protected:
  void prepare() override {
    SceneWindowTest::prepare();
    document().change("Frame", [](StudyState& s) { s.frame = {320, 320}; });
    add("pattern");
    settle();
  }

 private:
  [[nodiscard]] pattern::PatternTuning tuning() const { return pattern::patternTuningFrom(guide().tuning); }
  void tune(const char* field, TuningValue value) {
    document().change("Tune", [&](StudyState& s) { s.guide(s.looking.guide)->tuning[field] = value; });
    settle();
  }
  [[nodiscard]] Quad outline() const { return *pattern::outlineOf(tuning(), state().frame); }
};

void PatternViewTest::aNewPatternBeginsAsItNeeds() {
  QVERIFY(guide().weight > 1 && guide().range.from == 15 && guide().reference.empty());
  QVERIFY(desk().workbench.tool() == ToolName::layPattern);
  QVERIFY(map()(160, 160) == 0 || map()(160, 160) == 65535);
}

void PatternViewTest::itIsLaidByHand() {
  tune("module", 8);
  const Guide before = guide();
  drag({{160, 160}, {170, 150}, {192, 136}});
  settle();
  QVERIFY(tuning().x > 55 && tuning().y < 45);
  const Quad lies = outline();
  // A corner makes modules larger, on whole steps.
  drag({{lies[2].x, lies[2].y}, {lies[2].x + 60, lies[2].y + 60}, {lies[2].x + 84, lies[2].y + 84}});
  settle();
  QCOMPARE(tuning().module, 16);
  // The bar leans it away; each drag is one step back.
  tune("module", 8);
  const Quad now = outline();
  drag({{(now[0].x + now[1].x) / 2, now[0].y},
        {(now[0].x + now[1].x) / 2, now[0].y + 20},
        {(now[0].x + now[1].x) / 2, now[0].y + 40}});
  settle();
  QVERIFY(tuning().lean > 20);
  undo();
  QCOMPARE(tuning().lean, 0.0);
  undo();
  undo();
  undo();
  settle();
  QVERIFY(guide() == before);
  press(Qt::Key_Right);
  settle();
  QCOMPARE(tuning().x, 50 + 100.0 * 8 / 320);
}

void PatternViewTest::escPutsItBack() {
  tune("module", 8);
  const Map before = map().clone();
  drag({{160, 160}, {190, 190}}, {}, false);
  QVERIFY(tuning().x > 50);
  press(Qt::Key_Escape);
  settle();
  QCOMPARE(tuning().x, 50.0);
  QVERIFY(map() == before);
}

void PatternViewTest::itsCornersArePulledAlone() {
  tune("module", 8);
  const Guide before = guide();
  const Quad lies = outline();
  drag({{lies[2].x, lies[2].y}, {lies[2].x + 10, lies[2].y + 10}, {lies[2].x + 40, lies[2].y + 24}}, Qt::ControlModifier);
  settle();
  const Quad pulled = outline();
  QVERIFY2(std::abs(pulled[2].x - lies[2].x - 40) < 2 && std::abs(pulled[2].y - lies[2].y - 24) < 2,
           qPrintable(QString("%1 %2").arg(pulled[2].x - lies[2].x).arg(pulled[2].y - lies[2].y)));
  for (const std::size_t other : {0, 1, 3})
    QVERIFY(std::abs(pulled[other].x - lies[other].x) < 0.5 && std::abs(pulled[other].y - lies[other].y) < 0.5);
  // From then on without Ctrl, all of it, and by keys; corners never cross.
  drag({{pulled[0].x, pulled[0].y}, {pulled[0].x - 8, pulled[0].y}, {pulled[0].x - 20, pulled[0].y}});
  drag({{160, 160}, {150, 160}, {140, 160}});
  settle();
  const Quad moved = outline();
  QVERIFY(std::abs(moved[1].x - pulled[1].x + 20) < 2 && std::abs(moved[0].x - pulled[0].x + 40) < 3);
  press(Qt::Key_Down);
  settle();
  QVERIFY(std::abs(outline()[1].y - moved[1].y - 1) < 0.1);
  const Quad now = outline();
  drag({{now[0].x, now[0].y}, {now[2].x + 20, now[2].y + 20}, {now[2].x + 40, now[2].y + 40}});
  settle();
  QVERIFY(pattern::outlineOf(tuning(), state().frame).has_value());
  drag({{outline()[1].x, outline()[1].y}, {outline()[1].x + 30, outline()[1].y}}, {}, false);
  press(Qt::Key_Escape);
  QAction* back = menuAction("Back to the middle");
  back->trigger();
  settle();
  QVERIFY(!tuning().corners);
  QCOMPARE(tuning().x, 50.0);
  while (!(guide() == before)) undo();
}

void PatternViewTest::itLiesOnTheGroundOfADepthGuide() {
  QVERIFY(!part("lay on the ground").isEnabled());
  const std::string code = guide().id;
  add("depth");
  settle();
  document().look([&](Looking& looking) { looking.guide = code; });
  settle();
  tune("module", 8);
  tune("y", 78.0);
  const Quad flat = outline();
  const auto before = guide();
  click("lay on the ground");
  settle();
  // The scene's ground goes away from the eye: its far edge is the shorter one.
  QVERIFY(tuning().corners.has_value());
  const Quad lies = outline();
  QVERIFY(lies[2].x - lies[3].x > lies[1].x - lies[0].x);
  QVERIFY(lies[3].y - lies[0].y < 0.9 * (flat[3].y - flat[0].y));
  undo();
  settle();
  QVERIFY(guide() == before);
}

void PatternViewTest::textsAreTypedLetterByLetter() {
  tune("says", TuningValue(std::string()));
  QCOMPARE(map()(160, 160), std::uint16_t{32768});
  const auto& checks = desk().checks.all();
  QVERIFY(
      std::any_of(checks.begin(), checks.end(), [](const auto& check) { return check.id.starts_with("no-pattern"); }));
  tune("says", TuningValue(std::string("Hi")));
  QVERIFY(map()(160, 160) != 32768);
  tune("says", TuningValue(std::string(3000, 'x')));
  QCOMPARE(map()(160, 160), std::uint16_t{32768});
}

void PatternViewTest::proofsSayWhetherTheyScan() {
  document().change("Brief", [](StudyState& s) {
    s.brief.prompt = "a cobbled square, noon, gouache";
    std::erase_if(s.guides, [](const Guide& g) { return g.kind != "pattern"; });
    s.brief.steps = 16;
    s.frame = {384, 384};
  });
  tune("says", TuningValue(std::string("Hi")));
  QVERIFY(bench().scan().isHidden());
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QVERIFY(!bench().scan().isHidden());
  QVERIFY(bench().scan().scan() != nullptr);
  QVERIFY2(bench().scan().scan()->margin >= 30, qPrintable(QString::number(bench().scan().scan()->margin)));
  QVERIFY(part<QLabel>("scan margin").text().contains("margin"));
  // A faint one does not, and the strip follows the proof that is shown.
  document().change("Weight", [](StudyState& s) { s.guides[0].weight = 0.3; });
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QVERIFY(bench().scan().scan() != nullptr && bench().scan().scan()->margin == 0);
  const auto faint = desk().proofs.current()->number;
  document().look([&](Looking& looking) { looking.proof = faint - 1; });
  settle();
  QVERIFY(bench().scan().scan()->margin >= 30);
}

void PatternViewTest::moreCodeIsGivenWhereItFails() {
  document().change("Brief", [](StudyState& s) {
    s.brief.prompt = "a cobbled square, noon, gouache";
    std::erase_if(s.guides, [](const Guide& g) { return g.kind != "pattern"; });
    s.brief.steps = 16;
    s.frame = {384, 384};
    s.guides[0].weight = 0.6;
  });
  tune("says", TuningValue(std::string("Hi")));
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  const double before = bench().scan().scan()->wrong;
  QVERIFY(before > 0);
  click("more code");
  settle();
  QCOMPARE(state().guides.size(), std::size_t{2});
  QVERIFY(state().guides[1].limited() && state().guides[1].weight > state().guides[0].weight);
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  QVERIFY2(bench().scan().scan()->wrong < 0.6 * before,
           qPrintable(QString("%1 of %2").arg(bench().scan().scan()->wrong).arg(before)));
  undo();
  QCOMPARE(state().guides.size(), std::size_t{1});
}

void PatternViewTest::squintSeesFromAfar() {
  document().change("Brief", [](StudyState& s) { s.brief.prompt = "a cobbled square, gouache"; });
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  const auto grain = [&] {
    const QImage shown = bench().proof().grab().toImage().convertToFormat(QImage::Format_Grayscale8);
    double sum = 0;
    for (int y = shown.height() / 3; y < shown.height() * 2 / 3; ++y)
      for (int x = shown.width() / 3; x < shown.width() * 2 / 3; ++x)
        sum += std::pow(shown.constScanLine(y)[x] - shown.constScanLine(y)[x - 1], 2);
    return sum;
  };
  const double near = grain();
  click("squint", &bench());
  QVERIFY(grain() < 0.5 * near);
  click("squint", &bench());
  QCOMPARE(grain(), near);
}

void PatternViewTest::aPictureBecomesAPattern() {
  QAction* make = menuAction("Make it from the picture");
  QVERIFY(make != nullptr && make->isEnabled());
  make->trigger();
  settle();
  QVERIFY(tuning().what == pattern::What::picture);
  QCOMPARE(guide().reference, state().references.front().id);
  double clear = 0;
  for (int y = 0; y < 320; ++y)
    for (int x = 0; x < 320; ++x) clear += map()(x, y) < 6000 || map()(x, y) > 59000 ? 1 : 0;
  QVERIFY(clear > 0.5 * 320 * 320);
}

HSCAFFOLD_TEST(PatternViewTest)
#include "pattern_view_test.moc"
