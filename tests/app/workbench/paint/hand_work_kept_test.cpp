// What of hand work survives: proofs, and programs that are killed in the middle of a stroke.
#include <QProcess>
#include <cstdio>
#include <random>

#include "app/window_fixture.h"
#include "app/workbench/paint/scribble.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;
using namespace fixtures;

namespace {

/// Paints until it is killed, and says which stroke it has finished.
int paintForEver(const QString& path, int from) {
  Desk desk;
  MainWindow window(desk);
  desk.document.open(path.toStdString());
  window.show();
  fixtures::settle(desk);
  HandWork& work = desk.workbench.work;
  for (int i = from;; ++i) {
    const auto places = placesOf(i);
    if (!work.begin(Surface::retouch, brushOf(i), places[0], 1)) return 2;
    for (const QPointF p : places) {
      work.strokeTo(p, 1);
      QCoreApplication::processEvents();
    }
    work.end();
    std::printf("%d\n", i);
    std::fflush(stdout);
  }
}

}  // namespace

class HandWorkKeptTest : public SceneWindowTest {
  Q_OBJECT
 private slots:
  void pulledProofsKeepTheirHandWork();
  void killedWhilePainting();
};

void HandWorkKeptTest::pulledProofsKeepTheirHandWork() {
  press(Qt::Key_D);
  drag({{60, 40}, {300, 250}});
  settle();
  const std::string name = guide().work.in("retouch");
  document().change("Few steps", [](StudyState& s) { s.brief.steps = 4; });
  desk_->queue.pull();
  settle();
  const auto number = state().looking.proof;
  QVERIFY(number > 0);
  QCOMPARE(desk_->proofs.proof(number)->recipe.guides[0].guide.work.in("retouch"), name);
  desk_->workbench.work.clearRetouch();
  const auto path = document().path();
  document().createUntitled();  // closes and tidies
  document().open(path);
  settle();
  QVERIFY(!state().guides[0].work.has("retouch"));
  // Adopting brings the strokes back.
  document().change("Adopt", [&](StudyState& s) { adoptRecipe(s, desk_->proofs.proof(number)->recipe); });
  settle();
  QCOMPARE(state().guides[0].work.in("retouch"), name);
  QCOMPARE(desk_->maps.mapOf(state().guides[0].id)->map->view()(180, 145), std::uint16_t{65535});
}

void HandWorkKeptTest::killedWhilePainting() {
  const auto study = fixtures::in(*folder_, "killed.scaffold");
  document().saveAs(study);
  const auto below = desk_->maps.mapOf(guide().id)->below;
  const auto placing = document().placeOf(guide()).placing;
  const std::string id = guide().id;
  closeWindow();
  // What the layer is after so many strokes.
  Layer expected;
  expected.frame = {480, 320};
  expected.placing = placing;
  int replayed = 0;
  std::mt19937 random(3);
  for (int round = 0; round < 20; ++round) {
    QProcess painter;
    painter.start(QCoreApplication::applicationFilePath(),
                  {"paint-for-ever", QString::fromStdString(study.string()), QString::number(replayed)});
    QVERIFY(painter.waitForReadyRead(20'000));
    QTest::qSleep(static_cast<int>(random() % 60));
    painter.kill();
    painter.waitForFinished();
    const auto lines = QString::fromUtf8(painter.readAllStandardOutput()).split('\n', Qt::SkipEmptyParts);
    QVERIFY(!lines.isEmpty());
    const int said = lines.last().toInt() + 1;  // strokes that it had finished
    const auto file = StudyFile::open(study);
    WorkStore store([&](const std::string& name) { return file.work(name); });
    const auto layer = store.layer(file.readState().guide(id)->work.in("retouch"));
    QVERIFY(layer != nullptr);
    const auto paintTo = [&](int count) {
      for (; replayed < count; ++replayed) {
        BrushStroke stroke(expected, brushOf(replayed), *below);
        const auto places = placesOf(replayed);
        stroke.to({places[0].x(), places[0].y()});
        for (const QPointF p : places) stroke.to({p.x(), p.y()});
        expected = stroke.layer();
      }
    };
    const auto same = [&] {
      for (int y = 0; y < 320; ++y)
        for (int x = 0; x < 480; ++x)
          if (layer->at(x, y) != expected.at(x, y)) return false;
      return true;
    };
    // All that it had said, or the one that it was just finishing as well: never less, never half of one.
    paintTo(said);
    bool kept = same();
    if (!kept) {
      paintTo(said + 1);
      kept = same();
    }
    QVERIFY2(kept, qPrintable(QString("round %1, %2 strokes").arg(round).arg(said)));
  }
  qInfo("killed 20 times, %d strokes kept", replayed);
}

HSCAFFOLD_TEST(HandWorkKeptTest)
// Started by the test as a program of its own: study, number of its first stroke.
static const fixtures::Registered paintingForEver("paint-for-ever", [](int argc, char** argv) {
  return argc == 3 ? paintForEver(QString::fromLocal8Bit(argv[1]), std::atoi(argv[2])) : 2;
});
#include "hand_work_kept_test.moc"
