// The almanac's own painting program made the engine: a script that wants dark lines on white and takes no depth. A
// strip by it and one by the stand-in lie side by side; it is stopped in the middle, and fails in the end.
#include <QCheckBox>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSignalSpy>
#include <QToolButton>

#include "app/window_fixture.h"
#include "core/image/png.h"
#include "core/measure/hold.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

constexpr auto paint = R"(import json, pathlib, sys, time
import numpy as np
from PIL import Image

job, out = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2])
recipe = json.loads((job / "recipe.json").read_text())
size = recipe["frame"]["width"], recipe["frame"]["height"]
steps = recipe["brief"]["steps"]
if (pathlib.Path(sys.argv[0]).parent / "dry").exists():
    sys.exit("the pots are dry")
paper = np.full((size[1], size[0], 3), 0.86) * np.array([1.0, 0.95, 0.85])
paper *= np.linspace(1.0, 0.7, size[1])[:, None, None]
for step in range(1, steps + 1):
    if (pathlib.Path(sys.argv[0]).parent / "slow").exists():
        time.sleep(0.3)
    print(f"step {step}/{steps}", flush=True)
for guide in recipe["guides"]:
    assert guide["called"] == "ink lines", guide
    lines = np.asarray(Image.open(job / guide["map"]).convert("L").resize(size), float) / 255
    # Dark on white, as it was asked for: what is dark takes the paper's light away.
    paper *= 1 - min(1, guide["weight"]) * (1 - lines[..., None])
Image.fromarray((255 * np.clip(paper, 0, 1)).astype(np.uint8)).save(out / "page.png")
)";

}  // namespace

class PaintingProgramTest : public fixtures::QuickWindowTest {
  Q_OBJECT
 private slots:
  void theSameLayoutByTwoHands();

 private:
  void put(const char* name, const QByteArray& content) const {
    QFile file(path(name));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(content);
  }
  std::int64_t strip() const {
    SheetPlan plan;
    plan.base = recipeOf(state());
    plan.axes = {{Setting::weight, state().guides[0].id, {0.2, 0.6, 1.0}, {}}};
    plan.seeds = {5};
    return desk().queue.pullSheet(plan);
  }
  [[nodiscard]] const ProofInfo* cell(std::int64_t sheet, int number) const {
    for (const ProofInfo& proof : desk().proofs.all())
      if (proof.sheet == sheet && proof.cell == number) return &proof;
    return nullptr;
  }
};

void PaintingProgramTest::theSameLayoutByTwoHands() {
  put("paint.py", paint);
  // Added: what it wants and takes is said in the panel.
  click("engine chip");
  click("add own program");
  auto& panel = part<QWidget>("program panel");
  part<QLineEdit>("program name", &panel).setText("almanac brush");
  part<QLineEdit>("program command", &panel).setText("/usr/bin/python3 \"" + path("paint.py") + "\" {job} {out}");
  part<QCheckBox>("takes depth", &panel).setChecked(false);
  part<QCheckBox>("maps dark lines", &panel).setChecked(true);
  part<QLineEdit>("called edges", &panel).setText("ink lines");
  QTest::mouseClick(&part<QPushButton>("add program", &panel), Qt::LeftButton);
  QCOMPARE(state().engine, std::string("almanac brush"));
  activate();
  // A guide of a kind that it does not take is said, with a way out.
  add("depth");
  settle();
  const std::string depth = state().guides.back().id;
  const auto& checks = desk().checks.all();
  const auto unknown =
      std::find_if(checks.begin(), checks.end(), [&](const Check& c) { return c.id == "not-known:" + depth; });
  QVERIFY(unknown != checks.end() && unknown->sentence.find("almanac brush") != std::string::npos);
  document().change("As the check offers", [fix = unknown->fix](StudyState& s) { fix(s); });
  QVERIFY(!state().guide(depth)->on);
  // Its strip, and the stand-in's beside it.
  QSignalSpy problems(&desk(), &Desk::problem);
  const std::int64_t own = strip();
  settle();
  QVERIFY2(problems.empty(), qPrintable(problems.value(0).value(0).toString()));
  document().change("Engine", [](StudyState& s) { s.engine = "stand-in"; });
  const std::int64_t other = strip();
  settle();
  for (int number = 0; number < 3; ++number) {
    QVERIFY(cell(own, number) != nullptr && cell(other, number) != nullptr);
    QCOMPARE(cell(own, number)->recipe.engine, std::string("almanac brush"));
    QVERIFY(cell(other, number)->recipe.engine.starts_with("stand-in"));
  }
  // The same layout by two hands: at full weight both hold it. On plain paper the faintest line is seen; the stand-in
  // obeys the more the more weight a guide has.
  for (const std::int64_t sheet : {own, other}) {
    const double weak = *meanHold(*cell(sheet, 0)), strong = *meanHold(*cell(sheet, 2));
    QVERIFY2(strong > 60 && (sheet == own ? strong >= weak : strong > weak),
             qPrintable(QString("%1, %2").arg(weak).arg(strong)));
  }
  // Dark lines, on paper that is light where the map has nothing.
  const auto page = decodePngRgb8(desk().proofs.png(cell(own, 2)->number));
  double light = 0;
  for (int x = 0; x < page.width(); ++x) light = std::max(light, static_cast<double>(page(x, 2).r));
  QVERIFY(light > 150);
  // Stopped in the middle: what is there stays, the rest is given up, the program ends.
  put("slow", "1");
  document().change("Engine", [](StudyState& s) { s.engine = "almanac brush"; });
  const std::size_t before = desk().proofs.all().size();
  const std::int64_t stopped = strip();
  QTRY_VERIFY_WITH_TIMEOUT(desk().proofs.all().size() == before + 1, 30'000);
  pressInWindow(Qt::Key_Period, Qt::ControlModifier);
  settle();
  QCOMPARE(desk().proofs.all().size(), before + 1);
  QVERIFY(cell(stopped, 0) != nullptr && cell(stopped, 1) == nullptr);
  QVERIFY(QFile::remove(path("slow")));
  // It fails: one sentence with its last words for the whole strip, and nothing is lost.
  put("dry", "1");
  problems.clear();
  QVERIFY(strip() > 0);
  settle();
  int said = 0;
  for (const auto& problem : problems) said += problem[0].toString().contains("pots are dry") ? 1 : 0;
  QCOMPARE(said, 1);
  QCOMPARE(desk().proofs.all().size(), before + 1);
}

HSCAFFOLD_TEST(PaintingProgramTest)
#include "painting_program_test.moc"
