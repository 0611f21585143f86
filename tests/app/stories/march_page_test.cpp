// The calendar's March page, final size: nine cheap proofs, the best one made twice as large, three places touched up
// with words and change amounts of their own; sharp where touched, unchanged elsewhere, every step undoable.
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>

#include "app/document/study_edits.h"
#include "app/finish/finish_view.h"
#include "app/finish/touch_list.h"
#include "app/images.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/image/png.h"
#include "core/sheet/sheet.h"
#include "files/final_files.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

/// How much fine detail a part has: mean squared difference of neighbours.
double sharpness(const QImage& image, const Box& box) {
  double sum = 0;
  for (int y = box.top; y < box.bottom; ++y)
    for (int x = box.left + 1; x < box.right; ++x) {
      const int d = qGray(image.pixel(x, y)) - qGray(image.pixel(x - 1, y));
      sum += d * d;
    }
  return sum / static_cast<double>(box.size().area());
}

}  // namespace

class MarchPageTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void threePlacesPutRight();

 private:
  [[nodiscard]] FinishView& view() const { return *window_->findChild<FinishView*>(); }
  [[nodiscard]] const Final& final() const { return *state().shownFinal(); }
  void touchUp(const char* name, const char* words, double change, double left, double top, double right,
               double bottom) const {
    view().table().setFocus();
    QTest::keyClick(&view().table(), Qt::Key_N);
    QTest::keyClick(&view().table(), Qt::Key_O);
    FinalTable& table = view().table();
    const auto at = [&](double x, double y) { return table.onTable({x, y}).toPoint(); };
    QTest::mousePress(&table, Qt::LeftButton, {}, at(left, top));
    QTest::mouseMove(&table, at(right, top));
    QTest::mouseMove(&table, at(right, bottom));
    QTest::mouseMove(&table, at(left, bottom));
    QTest::mouseRelease(&table, Qt::LeftButton, {}, at(left, bottom));
    auto& title = part<QLineEdit>("touch-up name");
    title.setFocus();
    title.selectAll();
    QTest::keyClicks(&title, name);
    auto& text = part<QPlainTextEdit>("touch-up words");
    text.setFocus();
    QTest::keyClicks(&text, words);
    typeInto(part<ScrubField>("touch-up change"), QString::number(change));
    typeInto(part<ScrubField>("tries at once"), "2");
    click("pull tries");
    settle();
  }
};

void MarchPageTest::threePlacesPutRight() {
  document().change("March", [](StudyState& s) {
    s.brief.prompt = "a tea house by the water at dusk, watercolour";
    s.guides[0].weight = 0.9;
  });
  // Nine cheap proofs, the best two starred, the first of them made large.
  SheetPlan plan;
  plan.base = atSize(recipeOf(state()), {240, 160});
  for (std::uint32_t seed = 1; seed <= 9; ++seed) plan.seeds.push_back(seed);
  QVERIFY(desk().queue.pullSheet(plan) > 0);
  settle();
  QCOMPARE(static_cast<int>(desk().proofs.all().size()), 9);
  const ProofInfo* best = desk().proofs.proof(1);
  for (const ProofInfo& proof : desk().proofs.all())
    if (meanHold(proof).value_or(0) > meanHold(*best).value_or(0)) best = &proof;
  turnStars(document(), {best->number});
  window_->showView(2);
  emit desk().finalAsked(best->number);
  auto* dialog = window_->findChild<QDialog*>("final dialog");
  QVERIFY(dialog != nullptr);
  click("times 2", dialog);
  click("pull final", dialog);
  settle();
  QVERIFY(final().whole());
  QCOMPARE(final().size.width, 2 * state().frame.width);
  QCOMPARE(final().size.height, 2 * state().frame.height);
  activate();
  QTRY_VERIFY(!desk().finals.picture().isNull());
  const QImage untouched = desk().finals.picture();

  const std::size_t stepsBefore = state().finals.size();
  touchUp("Lantern", "a paper lantern, glowing, ink", 0.7, 0.60, 0.45, 0.68, 0.58);
  touchUp("Name board", "a carved name board, woodcut", 0.8, 0.40, 0.38, 0.50, 0.46);
  touchUp("Hand", "a hand on the rail, pencil", 0.5, 0.48, 0.60, 0.54, 0.68);
  QTRY_VERIFY(desk().finals.pictured() == final());
  QCOMPARE(static_cast<int>(final().touchUps.size()), 3);
  QCOMPARE(state().finals.size(), stepsBefore);
  const QImage touched = desk().finals.picture();
  std::vector<Image<float>> masks;
  for (const TouchUp& touchUp : final().touchUps) {
    QCOMPARE(static_cast<int>(touchUp.tries.size()), 2);
    QVERIFY(touchUp.usedTry() != nullptr);
    masks.push_back(maskOf(touchUp.region, final().size, boxOf(final().size), touchUp.feather));
  }
  QCOMPARE(final().touchUps[0].name, std::string("Lantern"));
  QCOMPARE(final().touchUps[1].words, std::string("a carved name board, woodcut"));
  QCOMPARE(final().touchUps[2].change, 0.5);
  // Unchanged elsewhere, to the last bit; something else where touched.
  for (int y = 0; y < touched.height(); ++y)
    for (int x = 0; x < touched.width(); ++x) {
      const bool within = std::any_of(masks.begin(), masks.end(), [&](const auto& mask) { return mask(x, y) > 0; });
      if (!within) QVERIFY(touched.pixel(x, y) == untouched.pixel(x, y));
    }
  int sharper = 0;
  for (const TouchUp& touchUp : final().touchUps) {
    const Box box = boundsOf(touchUp.region, final().size);
    if (sharpness(touched, box) > sharpness(untouched, box)) ++sharper;
  }
  QVERIFY2(sharper >= 2, qPrintable(QString::number(sharper)));

  // What was written is what is seen, and tells what it is made of.
  const auto bytes = finalFile(final(), desk().finals.shownPictures(), document().pictureReader(), "march.png");
  QVERIFY(toQImage(decodePngRgb8(bytes).view()) == touched);
  const auto texts = readPngTexts(bytes);
  QVERIFY(texts.contains(recipeKeyword) && texts.contains(finalKeyword));
  QVERIFY(QString::fromStdString(texts.at(finalKeyword)).contains("a carved name board, woodcut"));

  // Every step can be taken back: in the end there is no final at all.
  for (int steps = 0; !final().touchUps.empty() && steps < 60; ++steps) {
    window_->setFocus();
    document().undo();
  }
  QVERIFY(final().touchUps.empty());
  settle();
  QTRY_VERIFY(desk().finals.picture() == untouched);
  for (int steps = 0; steps < 60 && document().history().canRedo(); ++steps) document().redo();
  settle();
  QTRY_VERIFY(desk().finals.picture() == touched);
}

HSCAFFOLD_TEST(MarchPageTest)
#include "march_page_test.moc"
