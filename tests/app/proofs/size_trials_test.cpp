// What small proofs of an engine are worth is told by one pair, once.
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>

#include "app/sheet/sheet_view.h"
#include "app/sheet/strip_panel.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

/// Composes anew at each size: small pictures are dark on the left, large ones on the right.
class ShiftyEngine final : public Engine {
 public:
  [[nodiscard]] EngineInfo info() const override {
    EngineInfo info;
    info.name = "shifty";
    info.id = "shifty 1";
    info.title = "Shifty engine";
    info.kinds = {"edges"};
    return info;
  }
  Image<Rgb8> generate(const EngineJob& job, const EngineSink&, StopToken) override {
    const Size frame = job.recipe.frame;
    Image<Rgb8> picture(frame);
    const bool small = frame.width < 192;
    for (int y = 0; y < frame.height; ++y)
      for (int x = 0; x < frame.width; ++x) {
        const auto level = static_cast<std::uint8_t>(255 * x / frame.width);
        picture(x, y) = small ? Rgb8{level, level, 0} : Rgb8{0, static_cast<std::uint8_t>(255 - level), 200};
      }
    return picture;
  }
  [[nodiscard]] double estimate(const Recipe&) const override { return 10; }
};

}  // namespace

class SizeTrialsTest : public fixtures::QuickWindowTest {
  Q_OBJECT
 private slots:
  void onePairIsPulledTheFirstTime();
  void theStandInNeedsNone();
  void aStoppedTrialTellsNothing();

 private:
  void takeShifty() {
    desk().addEngine(std::make_shared<ShiftyEngine>());
    document().change("Engine", [](StudyState& s) { s.engine = "shifty"; });
  }
  [[nodiscard]] std::int64_t smallSheet() const {
    SheetPlan plan;
    plan.base = atSize(recipeOf(state()), {96, 64});
    plan.axes = {axisOver(Setting::weight, state().guides[0].id, 0.2, 1, 3)};
    plan.seeds = {1};
    const std::int64_t made = desk().queue.pullSheet(plan);
    document().look([&](Looking& looking) { looking.sheet = made; });
    return made;
  }
  [[nodiscard]] QLabel& worth() const { return part<QLabel>("what small proofs are worth"); }
};

void SizeTrialsTest::onePairIsPulledTheFirstTime() {
  takeShifty();
  QVERIFY(desk().sizeTrials.wanted());
  pressInWindow(Qt::Key_2);
  const std::int64_t sheet = smallSheet();
  settle();
  auto& button = part<QPushButton>("try full size");
  QVERIFY(button.isVisible() && !worth().isVisible());
  activate();
  QTest::mouseClick(&button, Qt::LeftButton);
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{4});
  QVERIFY(desk().proofs.all().back().recipe.frame == state().frame);
  // Another picture that measures alike: it is said, and not asked again.
  QVERIFY2(worth().text().contains("another picture"), qPrintable(worth().text()));
  QVERIFY(worth().isVisible() && !button.isVisible());
  QVERIFY(!desk().sizeTrials.wanted() && !desk().sizeTrials.wantedFor(sheet));
  // The next time it is known, in another window too.
  beginAgain();
  takeShifty();
  QVERIFY(!desk().sizeTrials.wanted());
}

void SizeTrialsTest::theStandInNeedsNone() {
  QVERIFY(!desk().sizeTrials.wanted());
  const std::int64_t sheet = smallSheet();
  settle();
  QVERIFY(!desk().sizeTrials.wantedFor(sheet) && desk().sizeTrials.about(sheet).isEmpty());
}

void SizeTrialsTest::aStoppedTrialTellsNothing() {
  takeShifty();
  QSettings().remove("small proofs/shifty 1");
  const std::int64_t sheet = smallSheet();
  settle();
  desk().sizeTrials.begin(sheet);
  desk().queue.stop();
  settle();
  QVERIFY(desk().sizeTrials.wantedFor(sheet) || !desk().sizeTrials.about(sheet).isEmpty());
}

HSCAFFOLD_TEST(SizeTrialsTest)
#include "size_trials_test.moc"
