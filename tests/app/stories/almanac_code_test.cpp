// A code for the almanac's page as a cobbled square: made, put in, a strip over entry and weight, the cell where it
// stops, and a word in Avoid that breaks it.
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListView>

#include "app/bench/scan_dialog.h"
#include "app/bench/scan_strip.h"
#include "app/sheet/sheet_view.h"
#include "app/window_fixture.h"
#include "core/pattern/pattern.h"

using namespace hscaffold;
using namespace hscaffold::app;

class AlmanacCodeTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void aSquareThatScansAndTheCellWhereItStops();
  void aWordThatBreaksItIsFound();
  void aPictureFromElsewhereIsLookedAt();

 protected:
  void prepare() override {
    document().change("Small", [](StudyState& s) {
      s.frame = {384, 384};
      s.brief.prompt = "a cobbled square from above, gouache";
      s.brief.steps = 12;
    });
    add("pattern");
    settle();
    for (auto* says : bench().findChildren<QLineEdit*>())
      if (says->accessibleName() == "Says" && says->isVisible()) typeInto(*says, "pellamere.example/o");
    settle();
  }

 private:
  void pullStrip(const char* across, const QString& values) {
    window_->showView(1);
    emit desk().stripAsked(axisFromText(std::string(across) + "=" + values.toStdString(), recipeOf(state())));
    click("pull sheet now");
    settle();
  }
  [[nodiscard]] bool lookForACodeInTheLastOne() const {
    auto& tray = part<QListView>("references");
    const QModelIndex last = tray.model()->index(tray.model()->rowCount() - 1, 0);
    tray.scrollTo(last);
    return chooseFromMenu(*tray.viewport(), tray.visualRect(last).center(), "Does it scan?");
  }
  [[nodiscard]] std::vector<const ProofInfo*> cells() const {
    std::vector<const ProofInfo*> out;
    for (const ProofInfo& proof : desk().proofs.all())
      if (proof.sheet > 0) out.push_back(&proof);
    std::sort(out.begin(), out.end(), [](const auto* a, const auto* b) { return a->cell < b->cell; });
    return out;
  }
};

void AlmanacCodeTest::aSquareThatScansAndTheCellWhereItStops() {
  const auto tuning = pattern::patternTuningFrom(guide().tuning);
  QVERIFY(tuning.says == "pellamere.example/o" && tuning.correction == pattern::Correction::highest &&
          tuning.quiet == 4);
  const auto placed = pattern::codePlaced(tuning, state().frame);
  QVERIFY(placed.module % 8 == 0 && placed.module >= 8);
  QVERIFY(guide().weight > 1 && guide().range.from == 15);
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  const double margin = bench().scan().scan()->margin;
  QVERIFY2(margin >= 30, qPrintable(QString::number(margin)));
  // Over weight it stops somewhere, and the sheet says so by its holds.
  const std::string code = guide().id;
  pullStrip(("weight:" + code).c_str(), "0.3,0.7,1.15");
  const auto strip = cells();
  QCOMPARE(strip.size(), std::size_t{3});
  QVERIFY(strip[0]->holds.at(code) < 5 && strip[2]->holds.at(code) >= 30);
  QVERIFY(strip[0]->holds.at(code) <= strip[1]->holds.at(code) && strip[1]->holds.at(code) <= strip[2]->holds.at(code));
}

void AlmanacCodeTest::aWordThatBreaksItIsFound() {
  typeInto(part<QLineEdit>("avoid"), "crowd, contrast, shadows");
  settle();
  QCOMPARE(state().brief.avoid, std::string("crowd, contrast, shadows"));
  const auto doubted = [&] {
    const auto& checks = desk().checks.all();
    return std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.id == "avoid-breaks-code"; });
  };
  QVERIFY(!doubted());  // nothing shows it yet
  pullStrip("avoid", "crowd, contrast, shadows | crowd | -");
  QCOMPARE(cells().size(), std::size_t{3});
  QCOMPARE(cells()[2]->recipe.brief.avoid, std::string());
  QVERIFY2(cells()[0]->holds.begin()->second < cells()[1]->holds.begin()->second - 12,
           qPrintable(QString("%1 %2").arg(cells()[0]->holds.begin()->second).arg(cells()[1]->holds.begin()->second)));
  QVERIFY(doubted());
  for (const Check& check : desk().checks.all())
    if (check.id == "avoid-breaks-code") {
      const auto fix = check.fix;
      document().change("Mend", fix);
      break;
    }
  QCOMPARE(state().brief.avoid, std::string("crowd"));
  QVERIFY(!doubted());
}

void AlmanacCodeTest::aPictureFromElsewhereIsLookedAt() {
  // A code that came from somewhere, printed on sand, and a picture without one.
  pattern::PatternTuning tuning;
  tuning.says = "Hi";
  const auto light = pattern::patternMap(tuning, {300, 300}, {});
  QImage image(300, 300, QImage::Format_RGB32);
  for (int y = 0; y < 300; ++y)
    for (int x = 0; x < 300; ++x) {
      const int v = 40 + static_cast<int>(light(x, y) * 170);
      image.setPixelColor(x, y, QColor(v, v - 10, v - 30));
    }
  image.save(path("elsewhere.png"));
  dropFiles({path("elsewhere.png")});
  settle();
  QVERIFY(lookForACodeInTheLastOne());
  auto* dialog = window_->findChild<ScanDialog*>();
  QVERIFY(dialog != nullptr);
  settle();
  QVERIFY(dialog->scan() != nullptr && dialog->scan()->text == "Hi" && dialog->scan()->margin > 60);
  QVERIFY(part<QLabel>("what the code says", dialog).text().contains("\"Hi\""));
  dialog->close();
  QTRY_VERIFY(window_->findChild<ScanDialog*>() == nullptr);
  image.fill(QColor(200, 190, 170));
  image.save(path("sand.png"));
  dropFiles({path("sand.png")});
  settle();
  QVERIFY(lookForACodeInTheLastOne());
  dialog = window_->findChild<ScanDialog*>();
  settle();
  QVERIFY(dialog->scan() != nullptr && dialog->scan()->text.empty() && dialog->scan()->margin == 0);
  QVERIFY(part<QLabel>("margin of a picture", dialog).text() == "Does not scan");
}

HSCAFFOLD_TEST(AlmanacCodeTest)
#include "almanac_code_test.moc"
