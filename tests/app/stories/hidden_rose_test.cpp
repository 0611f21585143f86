// A wind rose hidden in a field of drying kites: a ready shape, a strip over weight, near by and from afar.
#include <QComboBox>
#include <QLineEdit>

#include "app/sheet/sheet_view.h"
#include "app/window_fixture.h"
#include "core/measure/proof_seen.h"
#include "core/measure/scan.h"
#include "core/pattern/pattern.h"

using namespace hscaffold;
using namespace hscaffold::app;

class HiddenRoseTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void kitesNearByTheRoseFromAfar();
  void lettersAreHiddenToo();

 protected:
  void prepare() override {
    document().change("Small", [](StudyState& s) {
      s.frame = {480, 320};
      s.brief.prompt = "a field of drying kites, gouache";
      s.brief.steps = 12;
    });
    add("pattern");
    settle();
  }

 private:
  void choose(const QString& what) {
    for (auto* choice : bench().findChildren<QComboBox*>())
      if (choice->accessibleName() == "Pattern" && choice->isVisible()) {
        const int index = choice->findText(what);
        QVERIFY(index >= 0);
        choice->setCurrentIndex(index);
        emit choice->activated(index);
      }
    settle();
  }
  [[nodiscard]] Squint squint(std::int64_t number) const {
    const QImage image = desk().proofs.image(number).convertToFormat(QImage::Format_RGB888);
    Image<Rgb8> out(image.width(), image.height());
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x) {
        const uchar* at = image.constScanLine(y) + 3 * x;
        out(x, y) = {at[0], at[1], at[2]};
      }
    return squintOf(map().view(), out);
  }
};

void HiddenRoseTest::kitesNearByTheRoseFromAfar() {
  choose("rose");
  QVERIFY(pattern::patternTuningFrom(guide().tuning).what == pattern::What::rose);
  const std::string rose = guide().id;
  window_->showView(1);
  emit desk().stripAsked(axisFromText("weight:" + rose + "=0.2,0.7,1.15", recipeOf(state())));
  click("pull sheet now");
  settle();
  std::vector<const ProofInfo*> strip;
  for (const ProofInfo& proof : desk().proofs.all()) strip.push_back(&proof);
  std::sort(strip.begin(), strip.end(), [](const auto* a, const auto* b) { return a->cell < b->cell; });
  QCOMPARE(strip.size(), std::size_t{3});
  QVERIFY(strip[0]->holds.at(rose) < 25 && strip[1]->holds.at(rose) < strip[2]->holds.at(rose));
  const Squint seen = squint(strip[2]->number);
  QVERIFY2(seen.afar >= 55 && seen.near <= 40, qPrintable(QString("%1 near %2").arg(seen.afar).arg(seen.near)));
  // The view of it small and blurred is one press away, and the same again.
  window_->showView(0);
  document().look([&](Looking& looking) { looking.proof = strip[2]->number; });
  settle();
  const QImage plain = bench().proof().grab().toImage();
  click("squint", &bench());
  QVERIFY(bench().proof().grab().toImage() != plain);
  click("squint", &bench());
  QVERIFY(bench().proof().grab().toImage() == plain);
}

void HiddenRoseTest::lettersAreHiddenToo() {
  choose("letters");
  for (auto* says : bench().findChildren<QLineEdit*>())
    if (says->accessibleName() == "Says" && says->isVisible()) typeInto(*says, "NW");
  settle();
  QCOMPARE(pattern::patternTuningFrom(guide().tuning).says, std::string("NW"));
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  const Squint seen = squint(desk().proofs.current()->number);
  QVERIFY2(seen.afar >= 45 && seen.near <= 40, qPrintable(QString("%1 near %2").arg(seen.afar).arg(seen.near)));
}

HSCAFFOLD_TEST(HiddenRoseTest)
#include "hidden_rose_test.moc"
