// The third view: a proof made large, regions drawn on it, tries pulled, laid over, taken back, exported.
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QPlainTextEdit>

#include "app/finish/finish_view.h"
#include "app/finish/touch_list.h"
#include "full_disk.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/study/study_file.h"
#include "files/final_files.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace {

/// An engine that takes a quarter of a picture at most, and stops for ever after some parts.
class Slow final : public Engine {
 public:
  [[nodiscard]] EngineInfo info() const override {
    EngineInfo info;
    info.name = info.id = info.title = "slow";
    info.mostPixels = 70'000;
    for (const Kind& kind : kinds()) info.kinds.push_back(kind.id);
    return info;
  }
  Image<Rgb8> generate(const EngineJob& job, const EngineSink& sink, StopToken stop) override {
    while (parts >= most && !stop.stop_requested()) QThread::msleep(2);
    throwIfStopped(stop);
    ++parts;
    if (sink) sink({1, 1, {}});
    return Image<Rgb8>(job.recipe.frame.width, job.recipe.frame.height,
                       Rgb8{90, 120, static_cast<std::uint8_t>(60 + job.recipe.brief.seed)});
  }
  [[nodiscard]] double estimate(const Recipe&) const override { return 5; }
  std::atomic<int> parts = 0, most = 2;
};

}  // namespace

class FinishViewTest : public fixtures::QuickWindowTest {
  Q_OBJECT
 private slots:
  void nothingIsThereBeforeTheFirstFinal();
  void aProofIsMadeLargeByItsDialog();
  void aRegionIsBrushedLoopedAndTakenBack();
  void triesLieOverAndComeOffAgain();
  void outsideTheRegionEveryBitStays();
  void theOrderIsTheirOrder();
  void anotherSizeBringsTouchUpsAlong();
  void stoppedFinalsGoOn();
  void whatIsMadeMeanwhileStays();
  void whatWasTakenAwayIsNotMade();
  void finalsAreThereWhenItIsOpenedAgain();
  void aFullDiskLosesNoPart();
  void aThingIsTakenFromAMap();
  void aWrittenFinalComesBackAsAStack();
  void mapsGoOutAtItsSize();
  void keysReachEverything();

 private:
  [[nodiscard]] FinishView& view() const { return *window_->findChild<FinishView*>(); }
  [[nodiscard]] const Final& final() const { return *state().shownFinal(); }
  [[nodiscard]] const TouchUp& chosen() const { return *final().touchUp(state().looking.touchUp); }
  void show() const {
    window_->showView(2);
    QTRY_VERIFY(view().isVisible());
  }
  /// A proof, and a final of it twice as large.
  void makeFinal() const {
    desk().queue.pull();
    settle();
    show();
    QVERIFY(!desk().finals.begin({desk().proofs.current()->number, times(2)}).empty());
    settle();
    QTRY_VERIFY(!desk().finals.picture().isNull());
  }
  [[nodiscard]] Size times(int by) const { return {by * state().frame.width, by * state().frame.height}; }
  /// With the pointer, in shares of the picture.
  void drawLine(const std::vector<QPointF>& shares, Qt::KeyboardModifiers keys = {}) const {
    FinalTable& table = view().table();
    const auto at = [&](QPointF share) { return table.onTable(share).toPoint(); };
    QTest::mousePress(&table, Qt::LeftButton, keys, at(shares.front()));
    for (const QPointF share : shares) QTest::mouseMove(&table, at(share));
    // Qt's move has no modifiers or buttons that the table asks for.
    QTest::mouseRelease(&table, Qt::LeftButton, keys, at(shares.back()));
  }
  void loopAround(double left, double top, double right, double bottom) const {
    click("tool loop");
    drawLine({{left, top}, {right, top}, {right, bottom}, {left, bottom}});
  }
  void pullTries(int count) const {
    part<ScrubField>("tries at once").setValue(count);
    emit part<ScrubField>("tries at once").edited(count);
    click("pull tries");
    settle();
    QTRY_VERIFY(desk().finals.pictured() == final());
  }
};

void FinishViewTest::nothingIsThereBeforeTheFirstFinal() {
  show();
  QVERIFY(!part("begin final").isEnabled());
  QVERIFY(!part("export final").isEnabled());
  QVERIFY(!part("tool brush").isEnabled());
  QVERIFY(view().exportShown());  // says that there is none
  QVERIFY(!window_->shownSentence().isEmpty());
  desk().queue.pull();
  settle();
  QVERIFY(part("begin final").isEnabled());
}

void FinishViewTest::aProofIsMadeLargeByItsDialog() {
  desk().queue.pull();
  settle();
  show();
  click("begin final");
  auto* dialog = window_->findChild<QDialog*>("final dialog");
  QVERIFY(dialog != nullptr);
  click("times 3", dialog);
  QVERIFY(part<QLabel>("final size", dialog).text().startsWith(QString::number(3 * state().frame.width)));
  QVERIFY(part<QLabel>("final needs", dialog).text().contains("GB"));
  click("pull final", dialog);
  settle();
  QCOMPARE(static_cast<int>(state().finals.size()), 1);
  QVERIFY(final().whole());
  QCOMPARE(final().size.width, 3 * state().frame.width);
  QTRY_COMPARE(desk().finals.picture().width(), final().size.width);
  QVERIFY(final().milliseconds > 0);
  QVERIFY(!final().holds.empty());
  // Taken back, and there again, whole.
  activate();
  undo();
  QVERIFY(state().finals.empty());
  redo();
  QVERIFY(final().whole());
}

void FinishViewTest::aRegionIsBrushedLoopedAndTakenBack() {
  makeFinal();
  click("tool brush");
  view().table().setBrush(20);
  drawLine({{0.3, 0.4}, {0.5, 0.4}});
  QCOMPARE(static_cast<int>(final().touchUps.size()), 1);
  const Box brushed = boundsOf(chosen().region, final().size);
  QVERIFY(!brushed.empty());
  QVERIFY(std::abs(brushed.height() - 22) <= 4);
  loopAround(0.6, 0.6, 0.8, 0.8);
  QCOMPARE(static_cast<int>(chosen().region.size()), 2);
  click("tool brush");
  drawLine({{0.3, 0.4}, {0.5, 0.4}}, Qt::AltModifier);
  QVERIFY(chosen().region.back().takes);
  QVERIFY(boundsOf(chosen().region, final().size).left > brushed.left + 40);
  undo();
  undo();
  QCOMPARE(static_cast<int>(chosen().region.size()), 1);
  undo();
  QVERIFY(final().touchUps.empty());
}

void FinishViewTest::triesLieOverAndComeOffAgain() {
  makeFinal();
  loopAround(0.4, 0.4, 0.7, 0.7);
  const QImage before = desk().finals.picture();
  part<QPlainTextEdit>("touch-up words").setPlainText("a red lantern");
  QCOMPARE(chosen().words, std::string("a red lantern"));
  pullTries(3);
  QCOMPARE(static_cast<int>(chosen().tries.size()), 3);
  QCOMPARE(chosen().used, 0);
  QVERIFY(desk().finals.picture() != before);
  std::set<std::uint32_t> seeds;
  for (const TouchTry& one : chosen().tries) seeds.insert(one.seed);
  QCOMPARE(static_cast<int>(seeds.size()), 3);
  const QImage first = desk().finals.picture();
  auto& tries = part<QListWidget>("tries");
  QTest::mouseClick(tries.viewport(), Qt::LeftButton, {}, tries.visualItemRect(tries.item(1)).center());
  QCOMPARE(chosen().used, 1);
  settle();
  QTRY_VERIFY(desk().finals.picture() != first);
  click("as it was");
  settle();
  QTRY_VERIFY(desk().finals.picture() == before);
  QCOMPARE(static_cast<int>(chosen().tries.size()), 3);
  undo();
  QCOMPARE(chosen().used, 1);
  undo();
  QCOMPARE(chosen().used, 0);
  settle();
  QTRY_VERIFY(desk().finals.picture() == first);
  // All three came by one step.
  undo();
  QVERIFY(chosen().tries.empty());
}

void FinishViewTest::outsideTheRegionEveryBitStays() {
  makeFinal();
  const QImage before = desk().finals.picture();
  loopAround(0.4, 0.4, 0.6, 0.6);
  pullTries(1);
  const QImage after = desk().finals.picture();
  const auto mask = maskOf(chosen().region, final().size, boxOf(final().size), chosen().feather);
  int changed = 0;
  for (int y = 0; y < after.height(); ++y)
    for (int x = 0; x < after.width(); ++x)
      if (mask(x, y) == 0)
        QVERIFY(after.pixel(x, y) == before.pixel(x, y));
      else
        changed += after.pixel(x, y) != before.pixel(x, y) ? 1 : 0;
  QVERIFY(changed > 100);
}

void FinishViewTest::theOrderIsTheirOrder() {
  makeFinal();
  loopAround(0.3, 0.3, 0.6, 0.6);
  pullTries(1);
  click("new touch-up");
  loopAround(0.4, 0.4, 0.7, 0.7);
  part<QPlainTextEdit>("touch-up words").setPlainText("a black rock, ink");
  pullTries(1);
  const QImage over = desk().finals.picture();
  TouchList& list = view().touchUps();
  QCOMPARE(list.count(), 2);
  const std::string upper = final().touchUps[1].id;
  list.setFocus();
  list.setCurrentRow(1);
  QTest::keyClick(&list, Qt::Key_Up, Qt::AltModifier);
  QCOMPARE(final().touchUps[0].id, upper);
  settle();
  QTRY_VERIFY(desk().finals.picture() != over);
  undo();
  settle();
  QTRY_VERIFY(desk().finals.picture() == over);
  // Off and on by its switch.
  QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.switchAt(1).center());
  QVERIFY(!final().touchUps[1].on);
  settle();
  QTRY_VERIFY(desk().finals.picture() != over);
  QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.switchAt(1).center());
  QVERIFY(final().touchUps[1].on);
  list.setCurrentRow(1);
  QTest::keyClick(&list, Qt::Key_Delete);
  QCOMPARE(static_cast<int>(final().touchUps.size()), 1);
}

void FinishViewTest::anotherSizeBringsTouchUpsAlong() {
  makeFinal();
  loopAround(0.4, 0.4, 0.6, 0.6);
  pullTries(1);
  const Final first = final();
  const auto id = desk().finals.begin({first.proof, times(3), 0.3, true, first.id});
  QVERIFY(!id.empty());
  settle();
  QCOMPARE(final().id, id);
  QVERIFY(final().enlarged && final().whole());
  QCOMPARE(static_cast<int>(final().touchUps.size()), 1);
  QVERIFY(final().touchUps[0].id != first.touchUps[0].id);
  QVERIFY(std::abs(final().touchUps[0].usedTry()->box.left - first.touchUps[0].usedTry()->box.left * 1.5) <= 1);
  QVERIFY(*state().final(first.id) == first);
}

void FinishViewTest::stoppedFinalsGoOn() {
  desk().queue.pull();
  settle();
  auto slow = std::make_shared<Slow>();
  desk().addEngine(slow);
  document().change("Engine", [](StudyState& s) { s.engine = "slow"; });
  show();
  QVERIFY(!desk().finals.begin({desk().proofs.current()->number, times(3)}).empty());
  QTRY_COMPARE(static_cast<int>(final().tiles.size()), 2);
  click("final again");  // is Stop now
  settle();
  QVERIFY(!final().whole());
  QCOMPARE(static_cast<int>(final().tiles.size()), 2);
  const int all = final().columns * final().rows;
  QVERIFY(all > 2);
  // In another file, too.
  document().saveAs(path("kept.scaffold").toStdString());
  slow->most = 1000;
  slow->parts = 0;
  click("final again");  // goes on
  settle();
  QVERIFY(final().whole());
  QCOMPARE(slow->parts.load(), all - 2);
  QVERIFY(final().tiles.empty());
}

void FinishViewTest::whatIsMadeMeanwhileStays() {
  desk().queue.pull();
  settle();
  auto slow = std::make_shared<Slow>();
  slow->most = 1;
  desk().addEngine(slow);
  document().change("Engine", [](StudyState& s) { s.engine = "slow"; });
  show();
  QVERIFY(!desk().finals.begin({desk().proofs.current()->number, times(3)}).empty());
  QTRY_COMPARE(static_cast<int>(final().tiles.size()), 1);
  document().change("Title", [](StudyState& s) { s.title = "April"; });
  slow->most = 1000;
  settle();
  QVERIFY(final().whole());
  // Taking back what was done while it was made does not take it away.
  undo();
  QVERIFY(state().title != "April");
  QVERIFY(final().whole());
  // Tries that were asked for together are one step, what is done in between another.
  QTRY_VERIFY(!desk().finals.picture().isNull());
  loopAround(0.4, 0.4, 0.6, 0.6);
  slow->most = slow->parts + 1;
  part<ScrubField>("tries at once").setValue(2);
  emit part<ScrubField>("tries at once").edited(2);
  click("pull tries");
  QTRY_COMPARE(static_cast<int>(chosen().tries.size()), 1);
  document().change("Title", [](StudyState& s) { s.title = "May"; });
  slow->most = 1000;
  settle();
  QCOMPARE(static_cast<int>(chosen().tries.size()), 2);
  undo();
  QVERIFY(state().title != "May");
  QCOMPARE(static_cast<int>(chosen().tries.size()), 2);
  undo();
  QVERIFY(chosen().tries.empty());
}

void FinishViewTest::whatWasTakenAwayIsNotMade() {
  desk().queue.pull();
  settle();
  auto slow = std::make_shared<Slow>();
  slow->most = 0;
  desk().addEngine(slow);
  document().change("Engine", [](StudyState& s) { s.engine = "slow"; });
  show();
  desk().finals.begin({desk().proofs.current()->number, times(3)});
  QVERIFY(!desk().finals.works().empty());
  undo();
  QVERIFY(state().finals.empty());
  settle();
  QVERIFY(desk().finals.works().empty());
}

void FinishViewTest::finalsAreThereWhenItIsOpenedAgain() {
  makeFinal();
  loopAround(0.4, 0.4, 0.6, 0.6);
  pullTries(2);
  const Final before = final();
  const QImage picture = desk().finals.picture();
  QTemporaryDir other;
  const std::string file = other.filePath("finals.scaffold").toStdString();
  document().saveAs(file);
  beginAgain();
  document().open(file);
  settle();
  QVERIFY(final() == before);
  QTRY_VERIFY(desk().finals.picture() == picture);
}

void FinishViewTest::aFullDiskLosesNoPart() {
  // An engine that makes it in parts; the disk fills up between two of them, and while they are joined.
  const auto slow = std::make_shared<Slow>();
  desk().addEngine(slow);
  desk().queue.pull();
  settle();
  show();
  document().change("Engine", [](StudyState& s) { s.engine = "slow"; });
  const std::string id = desk().finals.begin({desk().proofs.current()->number, times(3)});
  QVERIFY(!id.empty());
  QTRY_COMPARE(slow->parts.load(), 2);
  {
    const fixtures::FullDisk full;
    slow->most = 1000;
    settle();
    // It is whole, shown, and one may work on it; that the file has not got it is said.
    QVERIFY(state().final(id)->whole());
    QTRY_VERIFY(!desk().finals.picture().isNull());
    QTRY_VERIFY(!document().unwritten().isEmpty());
  }
  // There is room again: all of it is written without being asked for, and there for another window.
  QVERIFY(QTest::qWaitFor([&] { return document().unwritten().isEmpty(); }, 20'000));
  const QImage picture = desk().finals.picture();
  const auto path = document().path();
  document().open(path);
  settle();
  QVERIFY(state().final(id)->whole());
  QTRY_VERIFY(desk().finals.picture() == picture);
}

void FinishViewTest::aThingIsTakenFromAMap() {
  document().change("Depth", [](StudyState& s) {
    Guide depth;
    depth.id = newId(s, "g");
    depth.kind = "depth";
    depth.name = "Depth";
    depth.reference = s.references.front().id;
    s.guides.push_back(depth);
  });
  settle();
  makeFinal();
  click("tool thing");
  QTest::mouseClick(&view().table(), Qt::LeftButton, {}, view().table().onTable({0.5, 0.45}).toPoint());
  QCOMPARE(static_cast<int>(final().touchUps.size()), 1);
  const double share = static_cast<double>(boundsOf(chosen().region, final().size).size().area()) /
                       static_cast<double>(final().size.area());
  QVERIFY2(share > 0.002, qPrintable(QString::number(share)));
  QVERIFY(chosen().name == "Surface" || chosen().name == "Area");
  click("tool colour");
  QTest::mouseClick(&view().table(), Qt::LeftButton, {}, view().table().onTable({0.1, 0.05}).toPoint());
  QCOMPARE(static_cast<int>(chosen().region.size()), 2);
}

void FinishViewTest::aWrittenFinalComesBackAsAStack() {
  makeFinal();
  loopAround(0.4, 0.4, 0.6, 0.6);
  pullTries(2);
  const Final before = final();
  const QImage picture = desk().finals.picture();
  const QString file = path("march.png");
  writeFileAtomically(file.toStdString(),
                      finalFile(before, desk().finals.shownPictures(), document().pictureReader(), file.toStdString()));
  document().change("Put away", [](StudyState& s) { s.finals.clear(); });
  settle();
  answering("as final", [&] { dropFiles({file}); });
  settle();
  QCOMPARE(static_cast<int>(final().touchUps.size()), 1);
  QVERIFY(final().touchUps[0].tries == before.touchUps[0].tries);
  QVERIFY(final().touchUps[0].region == before.touchUps[0].region);
  QCOMPARE(final().touchUps[0].used, before.touchUps[0].used);
  QTRY_VERIFY(desk().finals.picture() == picture);
  // Where its parts are not, it is the picture itself.
  QTemporaryDir other;
  QFile::copy(file, other.filePath("march.png"));
  beginAgain();
  answering("as final", [&] { dropFiles({other.filePath("march.png")}); });
  settle();
  QVERIFY(final().whole() && final().touchUps.empty());
  QTRY_VERIFY(desk().finals.picture() == picture);
}

void FinishViewTest::mapsGoOutAtItsSize() {
  makeFinal();
  naming(path("maps"), [&] { pressInWindow(Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier); });
  settle();
  const QStringList names = QDir(path("maps")).entryList(QDir::Files, QDir::Name);
  QVERIFY2(names.size() == 1 && names[0].startsWith("01-"), qPrintable(names.join(" ")));
  const QImage map(path("maps") + "/" + names[0]);
  QCOMPARE(map.size(), QSize(final().size.width, final().size.height));
  // Made anew: not what the study's own map is when enlarged.
  const Guide& guide = document().state().guides[0];
  const QImage small = desk().maps.mapOf(guide.id)->grey;
  const QImage large = small.scaled(map.size(), Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
  QVERIFY(large.size() == map.size() &&
          large.convertedTo(QImage::Format_Grayscale8) != map.convertedTo(QImage::Format_Grayscale8));
  activate();
  naming(path("layers.ora"), [&] { pressInWindow(Qt::Key_E, Qt::ControlModifier); });
  settle();
  QVERIFY(QFile(path("layers.ora")).size() > QFile(path("maps") + "/" + names[0]).size());
  // A name that is taken stays what it is.
  QFile taken(path("taken"));
  QVERIFY(taken.open(QFile::WriteOnly) && taken.write("mine") == 4);
  taken.close();
  naming(path("taken"), [&] { QTest::mouseClick(&part<QPushButton>("export maps of final"), Qt::LeftButton); });
  settle();
  QCOMPARE(QFile(path("taken")).size(), 4);
}

void FinishViewTest::keysReachEverything() {
  makeFinal();
  view().table().setFocus();
  QTest::keyClick(&view().table(), Qt::Key_N);
  QCOMPARE(static_cast<int>(final().touchUps.size()), 1);
  QVERIFY(view().table().tool() == RegionTool::brush);
  const double width = view().table().brush();
  QTest::keyClick(&view().table(), Qt::Key_BracketRight);
  QVERIFY(view().table().brush() > width);
  drawLine({{0.5, 0.5}, {0.55, 0.5}});
  QTest::keyClick(&view().table(), Qt::Key_P);
  settle();
  QVERIFY(!chosen().tries.empty());
  QTest::keyClick(&view().table(), Qt::Key_Right, Qt::ControlModifier);
  QCOMPARE(chosen().used, 1);
  QTest::keyClick(&view().table(), Qt::Key_Escape);
  QVERIFY(view().table().tool() == RegionTool::look);
  QTest::keyClick(&view().table(), Qt::Key_W);
  QVERIFY(view().table().wiping());
  pressInWindow(Qt::Key_1);
  QVERIFY(!view().isVisible());
  pressInWindow(Qt::Key_3);
  QVERIFY(view().isVisible());
}

HSCAFFOLD_TEST(FinishViewTest)
#include "finish_view_test.moc"
