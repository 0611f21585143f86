// Depth guessed by a network of the artist's own, hints from figures, and maps going out, in the real window.
#include <QAction>
#include <QComboBox>
#include <QLabel>
#include <QSettings>

#include "app/bench/map_file_dialog.h"
#include "app/document/study_edits.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/depth/estimate.h"
#include "core/networks/tiny_networks.h"
#include "core/pose/pose_fixtures.h"
#include "files/picture_reader.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

std::string description(const std::string& means) {
  return R"({"width": 32, "height": 24, "means": ")" + means + "\"}";
}

}  // namespace

class DepthGuessTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void aNetworkGuessesAndIsTakenBack();
  void aBadNetworkIsSaidAndChangesNothing();
  void theGuessIsKeptInTheStudy();
  void figuresGiveHints();
  void mapsGoOutAsAsked();

 protected:
  void prepare() override {
    SceneWindowTest::prepare();
    add("depth");
    settle();
  }

 private:
  /// Chosen before, so that a menu entry offers it.
  void choose(const onnx::ModelProto& model, const std::string& means = "nearness") {
    const auto file = fixtures::writeNetwork(folder_->path().toStdString(), "mine", model, description(means));
    QSettings().setValue("depth network", QString::fromStdString(file.string()));
  }
  void guessWithMine() {
    QAction* entry = menuAction("Guess depth with mine.onnx");
    QVERIFY(entry != nullptr);
    entry->trigger();
    settle();
  }
};

void DepthGuessTest::aNetworkGuessesAndIsTakenBack() {
  QVERIFY(menuAction("Guess depth with mine") == nullptr);
  QVERIFY(!menuAction("Drop the network's guess")->isEnabled());
  const Map before = map().clone();
  // Dark is near.
  choose(fixtures::weighing(32, 24, {{-0.3f, -0.6f, -0.1f}}));
  guessWithMine();
  QVERIFY(guide().work.has(depth::estimateSlot));
  QVERIFY(map() != before);
  const Map guessed = map().clone();
  menuAction("Drop the network's guess")->trigger();
  settle();
  QCOMPARE(map(), before);
  undo();
  settle();
  QCOMPARE(map(), guessed);
  undo();
  settle();
  QCOMPARE(map(), before);
}

void DepthGuessTest::aBadNetworkIsSaidAndChangesNothing() {
  QStringList said;
  connect(&desk(), &Desk::notice, this, [&](const QString& sentence) { said << sentence; });
  const Map before = map().clone();
  choose(fixtures::layer(32, 24, "Whatever"));
  guessWithMine();
  QVERIFY2(said.join(' ').contains("mine.onnx cannot be computed here"), qPrintable(said.join(' ')));
  choose(fixtures::weighing(32, 24, {{1, 0, 0}}), "colour");
  guessWithMine();
  QVERIFY2(said.join(' ').contains("nearness"), qPrintable(said.join(' ')));
  QVERIFY(!guide().work.has(depth::estimateSlot));
  QCOMPARE(map(), before);
}

void DepthGuessTest::theGuessIsKeptInTheStudy() {
  choose(fixtures::weighing(32, 24, {{-0.3f, -0.6f, -0.1f}}));
  guessWithMine();
  const Map guessed = map().clone();
  document().saveAs(path("kept.scaffold").toStdString());
  settle();
  std::filesystem::remove(path("mine.onnx").toStdString());
  document().open(path("kept.scaffold").toStdString());
  settle();
  QVERIFY(guide().work.has(depth::estimateSlot));
  QCOMPARE(map(), guessed);
}

void DepthGuessTest::figuresGiveHints() {
  QVERIFY(!menuAction("Hints from figures")->isEnabled());
  const std::string depth = guide().id;
  const auto frame = state().frame;
  pose::Figures figures;
  figures.frame = frame;
  figures.figures = {std::make_shared<const pose::Figure>(
      fixtures::posedAs("Standing straight", frame.height * 0.6, {frame.width * 0.5, frame.height * 0.6}))};
  addPoseGuide(document(), "Pose", std::move(figures));
  document().look([&](Looking& looking) { looking.guide = depth; });
  settle();
  menuAction("Hints from figures")->trigger();
  settle();
  const auto hints = desk().workbench.depth.hints();
  QVERIFY(hints && hints->hints.size() == 1 && hints->hints[0].form == depth::Hint::Form::level);
  activate();
  undo();
  settle();
  QVERIFY(!desk().workbench.depth.hints());
}

void DepthGuessTest::mapsGoOutAsAsked() {
  MapFileDialog dialog(state().frame);
  dialog.show();
  const Size frame = state().frame;
  QVERIFY(part<QLabel>("map size", &dialog).text().contains("as the frame"));
  part<QComboBox>("map format", &dialog).setCurrentIndex(1);
  typeInto(part<ScrubField>("short side", &dialog), QString::number(std::min(frame.width, frame.height) / 2));
  QVERIFY(!part<QLabel>("map size", &dialog).text().contains("as the frame"));
  QCOMPARE(dialog.ending(), QString(".png"));
  desk().maps.writer(guide().id, path("map.png").toStdString(), dialog.form())();
  const auto read = readPicture(path("map.png").toStdString());
  QCOMPARE(read.picture.size(), withShortSide(frame, std::min(frame.width, frame.height) / 2));
  for (int x = 0; x < read.picture.width(); ++x) QCOMPARE(read.picture(x, 5).r % 257, 0);
}

HSCAFFOLD_TEST(DepthGuessTest)
#include "depth_guess_test.moc"
