// Drives the real window with mouse, keys and drops, as an artist does.
#include <QAbstractButton>
#include <QClipboard>
#include <QComboBox>
#include <QDropEvent>
#include <QLineEdit>
#include <QListView>
#include <QMimeData>
#include <QPushButton>
#include <QToolButton>

#include "app/bench/bench_view.h"
#include "app/bench/checks_panel.h"
#include "app/bench/frame_panel.h"
#include "app/bench/tuning_panel.h"
#include "app/document/study_edits.h"
#include "app/main_window.h"
#include "app/theme/theme.h"
#include "app/widgets/room.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/threshold_histogram.h"
#include "app/window_fixture.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/pose/pose_tools.h"

using namespace hscaffold;
using namespace hscaffold::app;

class BenchViewTest : public QObject {
  Q_OBJECT
 private slots:
  void init();
  void cleanup();
  void droppingAPictureMakesItsMap();
  void droppingRubbishSaysSo();
  void pastingAPicture();
  void thresholdsAreDraggedLive();
  void thresholdKeysAreExact();
  void weightIsScrubbedTypedAndReset();
  void spanBarIsDragged();
  void spanBarObeysKeys();
  void keepTotalRebalances();
  void shapesSetRanges();
  void switchTurnsOffAndChecksFollow();
  void checkIsFixedByItsButton();
  void placingByHand();
  void placementToolsWork();
  void tablesZoomAndPanTogether();
  void pointerIsMirrored();
  void ghostFadesToTheMap();
  void pullCompareAdopt();
  void themesRestyleInPlace();
  void onlyWhatIsConcernedIsPainted();
  void roomsAreEnteredInTheOrderOfWork();
  void foldingGivesThePictureRoom();
  void tablesKeepTheirWidths();
  void wipeIsDragged();
  void promptIsTypedAndUndone();
  void frameCalculator();
  void planksReorderByKeys();
  void bothThemesAndSizesFit_data();
  void bothThemesAndSizesFit();
  void everythingHasAName();

 private:
  void drop(const QStringList& files);
  void dragOn(QWidget* widget, QPoint from, QPoint to, Qt::KeyboardModifiers keys = {});
  QPushButton* button(const QString& text) const;
  std::string guide() const { return desk_->document.state().guides.front().id; }
  QString path(const char* name) const { return folder_->filePath(name); }

  std::unique_ptr<QTemporaryDir> folder_;
  std::unique_ptr<Desk> desk_;
  BenchView& bench() { return *window_->findChild<BenchView*>(); }
  std::unique_ptr<MainWindow> window_;
};

void BenchViewTest::init() {
  folder_ = std::make_unique<QTemporaryDir>();
  desk_ = std::make_unique<Desk>();
  window_ = std::make_unique<MainWindow>(*desk_);
  desk_->document.createUntitled();
  desk_->document.change("Small", [](StudyState& s) {
    s.frame = {480, 320};
    s.brief.seed = 4;
  });
  window_->show();
  QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
  fixtures::writeScene(fixtures::in(*folder_, "tea.png"));
  const QString test = QTest::currentTestFunction();
  if (!test.startsWith("dropping") && !test.startsWith("pasting")) {
    drop({path("tea.png")});
    QVERIFY(fixtures::settle(*desk_));
  }
}

void BenchViewTest::cleanup() {
  window_.reset();
  desk_.reset();
}

void BenchViewTest::drop(const QStringList& files) {
  QMimeData parcel;
  QList<QUrl> urls;
  for (const QString& file : files) urls << QUrl::fromLocalFile(file);
  parcel.setUrls(urls);
  QDragEnterEvent enter({400, 300}, Qt::CopyAction, &parcel, Qt::LeftButton, {});
  QApplication::sendEvent(window_.get(), &enter);
  QVERIFY(enter.isAccepted());
  QDropEvent event({400, 300}, Qt::CopyAction, &parcel, Qt::LeftButton, {});
  QApplication::sendEvent(window_.get(), &event);
}

void BenchViewTest::dragOn(QWidget* widget, QPoint from, QPoint to, Qt::KeyboardModifiers keys) {
  QTest::mousePress(widget, Qt::LeftButton, keys, from);
  for (int i = 1; i <= 6; ++i) {
    const QPoint at = from + (to - from) * i / 6;
    QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, keys);
    QApplication::sendEvent(widget, &move);
  }
  QTest::mouseRelease(widget, Qt::LeftButton, keys, to);
}

QPushButton* BenchViewTest::button(const QString& text) const {
  for (QPushButton* one : window_->findChildren<QPushButton*>())
    if (one->text() == text) return one;
  return nullptr;
}

void BenchViewTest::droppingAPictureMakesItsMap() {
  drop({path("tea.png")});
  QVERIFY(fixtures::settle(*desk_));
  QCOMPARE(desk_->document.state().references.size(), std::size_t{1});
  QVERIFY(*desk_->maps.mapOf(guide())->facts.number("share") > 0.005);
  QVERIFY(bench().left().plankOf(guide()) != nullptr);
  QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
  QVERIFY(desk_->document.state().references.empty());
  QVERIFY(bench().left().plankOf("g2") == nullptr);
}

void BenchViewTest::droppingRubbishSaysSo() {
  fixtures::writeFile(fixtures::in(*folder_, "notes.png"), "just words");
  drop({path("notes.png")});
  QVERIFY(window_->shownSentence().contains("notes.png"));
  QVERIFY(desk_->document.state().references.empty());
  fixtures::writeFile(fixtures::in(*folder_, "x.scaffold"), "just words");
  drop({path("x.scaffold")});
  QVERIFY(window_->shownSentence().contains("not a study"));
}

void BenchViewTest::pastingAPicture() {
  QImage image(80, 60, QImage::Format_RGB32);
  image.fill(Qt::darkCyan);
  QApplication::clipboard()->setImage(image);
  QTest::keyClick(window_.get(), Qt::Key_V, Qt::ControlModifier);
  QCOMPARE(desk_->document.state().references.size(), std::size_t{1});
  QCOMPARE(desk_->document.state().references[0].size, (Size{80, 60}));
}

void BenchViewTest::thresholdsAreDraggedLive() {
  auto* histogram = bench().left().plankOf(guide())->tuning().histogram();
  QVERIFY(histogram->isVisible());
  const double before = *desk_->maps.mapOf(guide())->facts.number("share");
  const QPoint high = histogram->handleAt(true);
  dragOn(histogram, high, {histogram->width() - 20, high.y()});
  QVERIFY(fixtures::settle(*desk_));
  QVERIFY(*desk_->maps.mapOf(guide())->facts.number("share") < 0.7 * before);
  QCOMPARE(desk_->document.state().guides[0].tuning.at("thresholds"), 1.0);
  // One drag is one step back.
  desk_->document.undo();
  QVERIFY(desk_->document.state().guides[0].tuning.empty());
}

void BenchViewTest::thresholdKeysAreExact() {
  auto* histogram = bench().left().plankOf(guide())->tuning().histogram();
  histogram->setFocus();
  const double before = desk_->maps.mapOf(guide())->thresholds.high;
  QTest::keyClick(histogram, Qt::Key_Right);
  QVERIFY(desk_->document.state().guides[0].tuning.at("high") > before);
  QTest::keyClick(histogram, Qt::Key_Space);
  const double low = desk_->document.state().guides[0].tuning.at("low");
  QTest::keyClick(histogram, Qt::Key_Left);
  QVERIFY(desk_->document.state().guides[0].tuning.at("low") < low);
}

void BenchViewTest::weightIsScrubbedTypedAndReset() {
  auto* plank = bench().left().plankOf(guide());
  ScrubField* weight = nullptr;
  for (auto* field : plank->findChildren<ScrubField*>())
    if (field->accessibleName() == "Weight") weight = field;
  QVERIFY(weight != nullptr);
  auto* line = weight->findChild<QLineEdit*>();
  const QPoint middle = line->rect().center();
  dragOn(line, middle, middle + QPoint(60, 0));
  QVERIFY2(std::abs(desk_->document.state().guides[0].weight - 0.9) < 0.011,
           qPrintable(QString::number(desk_->document.state().guides[0].weight)));
  line->setFocus();
  line->selectAll();
  QTest::keyClicks(line, "0.35");
  QTest::keyClick(line, Qt::Key_Return);
  QCOMPARE(desk_->document.state().guides[0].weight, 0.35);
  QTest::mouseDClick(line, Qt::LeftButton, {}, middle);
  QCOMPARE(desk_->document.state().guides[0].weight, 1.0);
  desk_->document.undo();
  QCOMPARE(desk_->document.state().guides[0].weight, 0.35);
}

void BenchViewTest::spanBarIsDragged() {
  auto& chart = bench().board().chart();
  const auto at = [&](BarGrip grip) { return chart.gripAt(guide(), grip).toPoint(); };
  const int wide = at(BarGrip::to).x() - at(BarGrip::from).x();
  dragOn(&chart, at(BarGrip::to), at(BarGrip::to) - QPoint(wide * 40 / 100, 0));
  QVERIFY(std::abs(desk_->document.state().guides[0].range.to - 60) < 1);
  dragOn(&chart, at(BarGrip::from), at(BarGrip::from) + QPoint(wide * 20 / 100, 0));
  QVERIFY(std::abs(desk_->document.state().guides[0].range.from - 20) < 1);
  dragOn(&chart, at(BarGrip::rampOut), at(BarGrip::rampOut) - QPoint(wide * 15 / 100, 0));
  const double ramp = desk_->document.state().guides[0].range.rampOut;
  QVERIFY2(ramp > 10 && ramp < 20, qPrintable(QString::number(ramp)));
  const double weight = desk_->document.state().guides[0].weight;
  dragOn(&chart, at(BarGrip::weight), at(BarGrip::weight) - QPoint(0, 8));
  QVERIFY(desk_->document.state().guides[0].weight > weight + 0.1);
  for (int i = 0; i < 4; ++i) desk_->document.undo();
  QCOMPARE(desk_->document.state().guides[0].range, Range{});
  QCOMPARE(desk_->document.state().guides[0].weight, weight);
}

void BenchViewTest::spanBarObeysKeys() {
  auto& chart = bench().board().chart();
  chart.setFocus();
  QTest::keyClick(&chart, Qt::Key_Left);
  QCOMPARE(desk_->document.state().guides[0].range.to, 99.0);
  QTest::keyClick(&chart, Qt::Key_Left, Qt::ShiftModifier);
  QCOMPARE(desk_->document.state().guides[0].range.to, 94.0);
  const double weight = desk_->document.state().guides[0].weight;
  QTest::keyClick(&chart, Qt::Key_Up);
  QVERIFY(std::abs(desk_->document.state().guides[0].weight - weight - 0.01) < 1e-9);
  QTest::keyClick(&chart, Qt::Key_Space);  // to the start
  QTest::keyClick(&chart, Qt::Key_Right);
  QCOMPARE(desk_->document.state().guides[0].range.from, 1.0);
}

void BenchViewTest::keepTotalRebalances() {
  addGuide(desk_->document, "tone");
  button("Keep total")->click();
  auto& chart = bench().board().chart();
  chart.setFocus();
  const double before = desk_->document.state().guides[0].weight + desk_->document.state().guides[1].weight;
  for (int i = 0; i < 4; ++i) QTest::keyClick(&chart, Qt::Key_Up, Qt::ShiftModifier);
  QVERIFY(desk_->document.state().guides[1].weight > 0.8);
  QVERIFY(desk_->document.state().guides[0].weight < 0.6);
  QVERIFY(std::abs(desk_->document.state().guides[0].weight + desk_->document.state().guides[1].weight - before) <
          0.01);
}

void BenchViewTest::shapesSetRanges() {
  QTest::mouseClick(button("Late entry"), Qt::LeftButton);
  QCOMPARE(desk_->document.state().guides[0].range.from, 40.0);
  QTest::mouseClick(button("Whole way"), Qt::LeftButton);
  QCOMPARE(desk_->document.state().guides[0].range, Range{});
  QVERIFY(QString::fromStdString(desk_->document.history().undoName()).contains("Whole way"));
}

void BenchViewTest::switchTurnsOffAndChecksFollow() {
  auto* plank = bench().left().plankOf(guide());
  for (auto* one : plank->findChildren<QAbstractButton*>())
    if (one->accessibleName() == "On") QTest::mouseClick(one, Qt::LeftButton);
  QVERIFY(!desk_->document.state().guides[0].on);
  QCOMPARE(desk_->checks.all().front().id, std::string("no-guide"));
  bool shown = false;
  for (QPushButton* one : window_->findChildren<QPushButton*>()) shown |= one->text().contains("no guide on");
  QVERIFY(shown);
}

void BenchViewTest::checkIsFixedByItsButton() {
  desk_->document.change("Range", [](StudyState& s) { s.guides[0].range = {51, 52, 0, 0}; });
  auto* plank = bench().left().plankOf(guide());
  QToolButton* fix = nullptr;
  for (auto* one : plank->findChildren<QToolButton*>())
    if (one->text() == "Whole way") fix = one;
  QVERIFY(fix != nullptr && fix->isVisible());
  QTest::mouseClick(fix, Qt::LeftButton);
  QCOMPARE(desk_->document.state().guides[0].range, Range{});
  ChecksPanel panel(*desk_);
  desk_->document.change("Frame", [](StudyState& s) { s.frame = {320, 480}; });
  for (auto* one : panel.findChildren<QPushButton*>())
    if (one->text() == "Swap sides") {
      QTest::mouseClick(one, Qt::LeftButton);
      break;
    }
  QCOMPARE(desk_->document.state().frame, (Size{480, 320}));
}

void BenchViewTest::placingByHand() {
  auto& table = bench().source();
  QTest::mouseDClick(&table, Qt::LeftButton, {}, table.rect().center());
  QVERIFY(desk_->workbench.placing());
  const double scale = desk_->workbench.view.scale(table.size());
  const QPoint middle = table.frameOnTable().center().toPoint();
  dragOn(&table, middle, middle + QPoint(48, 0));
  const auto& placement = desk_->document.state().references[0].placement;
  QCOMPARE(placement.fit, Fit::free);
  QVERIFY2(std::abs(placement.x - 0.5 - 48 / scale / 480) < 0.005, qPrintable(QString::number(placement.x)));
  const double before = placement.scaleX;
  const QPoint corner = table.handles()[0].toPoint(), centre = middle + QPoint(48, 0);
  dragOn(&table, corner, (corner + centre) / 2);
  QVERIFY(std::abs(desk_->document.state().references[0].placement.scaleX - before / 2) < 0.03);
  const QPoint knob = table.handles()[4].toPoint();
  dragOn(&table, knob, centre + QPoint(knob.y() < centre.y() ? 90 : -90, 0), Qt::ShiftModifier);
  QCOMPARE(std::remainder(desk_->document.state().references[0].placement.turn, 15.0), 0.0);
  QVERIFY(desk_->document.state().references[0].placement.turn != 0);
  QTest::keyClick(&table, Qt::Key_Right);
  QTest::keyClick(&table, Qt::Key_Escape);
  QVERIFY(!desk_->workbench.placing());
  for (int i = 0; i < 4; ++i) desk_->document.undo();
  QCOMPARE(desk_->document.state().references[0].placement, Placement{});
}

void BenchViewTest::placementToolsWork() {
  QTest::mouseClick(button("Place"), Qt::LeftButton);
  QTest::mouseClick(button("Contain"), Qt::LeftButton);
  QCOMPARE(desk_->document.state().references[0].placement.fit, Fit::contain);
  for (auto* one : window_->findChildren<QToolButton*>())
    if (one->accessibleName() == "Turn by 90 degrees") QTest::mouseClick(one, Qt::LeftButton);
  QCOMPARE(desk_->document.state().references[0].placement.turn, 90.0);
  QTest::mouseClick(button("Reset"), Qt::LeftButton);
  QCOMPARE(desk_->document.state().references[0].placement, Placement{});
}

void BenchViewTest::tablesZoomAndPanTogether() {
  auto& source = bench().source();
  auto& proof = bench().proof();
  QVERIFY(std::abs(source.frameOnTable().width() - proof.frameOnTable().width()) < 0.01);
  QVERIFY(std::abs(source.frameOnTable().top() - proof.frameOnTable().top()) < 0.01);
  const QPointF at(150, 140), held = source.toFrame(at);
  QWheelEvent wheel(at, source.mapToGlobal(at), {}, {0, 240}, {}, {}, Qt::NoScrollPhase, false);
  QApplication::sendEvent(&source, &wheel);
  QVERIFY(std::hypot((source.toFrame(at) - held).x(), (source.toFrame(at) - held).y()) < 0.01);
  QVERIFY(std::abs(source.frameOnTable().width() - proof.frameOnTable().width()) < 0.01);
  const QPointF before = proof.frameOnTable().topLeft();
  QTest::mousePress(&source, Qt::MiddleButton, {}, {100, 100});
  QMouseEvent move(QEvent::MouseMove, QPointF(130, 90), source.mapToGlobal(QPointF(130, 90)), Qt::NoButton,
                   Qt::MiddleButton, {});
  QApplication::sendEvent(&source, &move);
  QTest::mouseRelease(&source, Qt::MiddleButton, {}, {130, 90});
  QVERIFY(std::abs(proof.frameOnTable().left() - before.x() - 30) < 0.01);
  QTest::keyClick(window_.get(), Qt::Key_0, Qt::ControlModifier);
  QVERIFY(desk_->workbench.view.fitting());
}

void BenchViewTest::pointerIsMirrored() {
  auto& source = bench().source();
  auto& proof = bench().proof();
  const QImage before = proof.grab().toImage();
  const QPointF at = source.toTable({120, 80});
  QMouseEvent move(QEvent::MouseMove, at, source.mapToGlobal(at), Qt::NoButton, Qt::NoButton, {});
  QApplication::sendEvent(&source, &move);
  const QImage after = proof.grab().toImage();
  const QPoint there = proof.toTable({120, 80}).toPoint();
  QVERIFY(before.copy(QRect(there - QPoint(10, 10), QSize(21, 21))) !=
          after.copy(QRect(there - QPoint(10, 10), QSize(21, 21))));
}

void BenchViewTest::ghostFadesToTheMap() {
  auto& table = bench().source();
  table.setGhost(1);
  const QImage map = table.grab().toImage();
  table.setGhost(0);
  const QImage picture = table.grab().toImage();
  int black = 0, count = 0;
  const QRect frame = table.frameOnTable().toRect().adjusted(4, 4, -4, -4);
  for (int y = frame.top(); y < frame.bottom(); y += 5)
    for (int x = frame.left(); x < frame.right(); x += 5, ++count) black += qGray(map.pixel(x, y)) < 20;
  QVERIFY(black > count * 3 / 5);
  QVERIFY(qGray(picture.pixel(frame.left() + 10, frame.top() + 10)) > 60);
}

void BenchViewTest::pullCompareAdopt() {
  desk_->document.change("Weight", [](StudyState& s) { s.guides[0].weight = 1; });
  QTest::mouseClick(button("Pull one"), Qt::LeftButton);
  QVERIFY(button("Stop") != nullptr);
  QVERIFY(fixtures::settle(*desk_));
  QTest::mouseClick(button("Opening only"), Qt::LeftButton);
  QTest::keyClick(window_.get(), Qt::Key_Return, Qt::ControlModifier);
  QVERIFY(fixtures::settle(*desk_));
  QCOMPARE(desk_->proofs.all().size(), std::size_t{2});
  // Show the first by its thumbnail, then adopt it.
  auto* strip = window_->findChild<QListView*>("proofs");
  const QModelIndex first = strip->model()->index(1, 0);  // the newest comes first
  QCOMPARE(first.data(Qt::AccessibleTextRole).toString(), QString("Proof 1"));
  QTest::mouseClick(strip->viewport(), Qt::LeftButton, {}, strip->visualRect(first).center());
  QCOMPARE(desk_->document.state().looking.proof, std::int64_t{1});
  QTest::mouseClick(button("Adopt settings"), Qt::LeftButton);
  QCOMPARE(desk_->document.state().guides[0].range, Range{});
  // Marks and misses paint something over the proof.
  auto& table = bench().proof();
  const QImage plain = table.grab().toImage();
  button("Marks")->click();
  QVERIFY(table.grab().toImage() != plain);
  button("Marks")->click();
  desk_->document.look([](Looking& looking) { looking.proof = 2; });
  const QImage second = table.grab().toImage();
  button("Misses")->click();
  table.grab();
  QVERIFY(fixtures::settle(*desk_));
  QVERIFY(table.grab().toImage() != second);
}

void BenchViewTest::wipeIsDragged() {
  desk_->queue.pull();
  QVERIFY(fixtures::settle(*desk_));
  auto& table = bench().proof();
  button("Wipe")->click();
  const QPoint middle = table.frameOnTable().center().toPoint();
  dragOn(&table, middle, middle + QPoint(60, 0));
  QVERIFY(std::abs(table.wipeAt() - 0.5 - 60 / table.frameOnTable().width()) < 0.01);
}

void BenchViewTest::promptIsTypedAndUndone() {
  auto& prompt = bench().brief().prompt();
  prompt.setFocus();
  QTest::keyClicks(&prompt, "red dune");
  QCOMPARE(desk_->document.state().brief.prompt, std::string("red dune"));
  prompt.clearFocus();
  desk_->document.seal();
  desk_->document.undo();
  QCOMPARE(desk_->document.state().brief.prompt, std::string());
  QCOMPARE(prompt.toPlainText(), QString());
}

void BenchViewTest::frameCalculator() {
  FramePanel panel(*desk_);
  panel.show();
  const auto field = [&](const QString& name) {
    for (auto* one : panel.findChildren<ScrubField*>())
      if (one->accessibleName() == name) return one;
    return static_cast<ScrubField*>(nullptr);
  };
  const auto type = [&](const QString& name, const QString& text) {
    auto* line = field(name)->findChild<QLineEdit*>();
    line->setFocus();
    line->selectAll();
    QTest::keyClicks(line, text);
    QTest::keyClick(line, Qt::Key_Return);
  };
  type("Width", "960");
  QCOMPARE(desk_->document.state().frame, (Size{960, 640}));
  type("Height", "320");
  QCOMPARE(desk_->document.state().frame, (Size{480, 320}));
  type("Megapixels", "0.61");
  QTest::qWait(30);  // offers are laid out
  bool offered = false;
  for (auto* one : panel.findChildren<QPushButton*>())
    if (one->text().startsWith("960 x 640") && !one->isHidden()) {
      offered = true;
      QTest::mouseClick(one, Qt::LeftButton);
      break;
    }
  QVERIFY(offered);
  QCOMPARE(desk_->document.state().frame, (Size{960, 640}));
  for (auto* one : panel.findChildren<QPushButton*>())
    if (one->text() == "Swap sides") QTest::mouseClick(one, Qt::LeftButton);
  QCOMPARE(desk_->document.state().frame, (Size{640, 960}));
}

void BenchViewTest::planksReorderByKeys() {
  addGuide(desk_->document, "tone");
  const auto first = desk_->document.state().guides[0].id, second = desk_->document.state().guides[1].id;
  auto* plank = bench().left().plankOf(second);
  plank->setFocus();
  QTest::keyClick(plank, Qt::Key_Up, Qt::AltModifier);
  QCOMPARE(desk_->document.state().guides[0].id, second);
  plank = bench().left().plankOf(second);
  QTest::keyClick(plank, Qt::Key_Delete);
  QCOMPARE(desk_->document.state().guides.size(), std::size_t{1});
  QCOMPARE(desk_->document.state().guides[0].id, first);
}

void BenchViewTest::bothThemesAndSizesFit_data() {
  QTest::addColumn<int>("width");
  QTest::addColumn<int>("height");
  QTest::addColumn<bool>("day");
  for (const bool day : {false, true})
    for (const auto& [w, h] : {std::pair{1280, 800}, {1920, 1080}, {1040, 640}})
      QTest::addRow("%d x %d %d", w, h, day) << w << h << day;
}

void BenchViewTest::bothThemesAndSizesFit() {
  QFETCH(int, width);
  QFETCH(int, height);
  QFETCH(bool, day);
  if (day) QTest::keyClick(window_.get(), Qt::Key_F8);
  window_->resize(width, height);
  QTest::qWait(50);
  QCOMPARE(window_->size(), QSize(width, height));
  // No button, label or field is cut off by its parent.
  for (auto* one : window_->findChildren<QPushButton*>()) {
    if (!one->isVisible() || one->visibleRegion().isEmpty()) continue;
    QVERIFY2(one->width() >= one->fontMetrics().horizontalAdvance(one->text()) + 4,
             qPrintable(one->text() + one->accessibleName()));
  }
  QVERIFY(bench().source().width() >= 220 && bench().source().height() >= 150);
  const QColor ground = window_->grab().toImage().pixelColor(2, 2);
  QCOMPARE(ground.lightness() > 128, day);
  if (day) QTest::keyClick(window_.get(), Qt::Key_F8);
}

void BenchViewTest::everythingHasAName() {
  for (auto* one : window_->findChildren<QToolButton*>())
    if (one->isVisible())
      QVERIFY2(!one->accessibleName().isEmpty() || !one->text().isEmpty(), qPrintable(one->toolTip()));
  for (auto* one : window_->findChildren<ScrubField*>()) QVERIFY(!one->accessibleName().isEmpty());
  for (auto* one : window_->findChildren<QComboBox*>()) QVERIFY(!one->accessibleName().isEmpty());
}

void BenchViewTest::themesRestyleInPlace() {
  auto& workbench = desk_->workbench;
  workbench.view.zoom(2.3, {120, 90}, bench().source().size());
  const double scale = workbench.view.scale(bench().source().size());
  QTest::keyClick(&bench().source(), Qt::Key_D);
  button("Marks")->click();
  const auto* before = &bench();
  const QPoint from = bench().source().toTable({100, 100}).toPoint();
  QTest::mousePress(&bench().source(), Qt::LeftButton, {}, from);
  QVERIFY(workbench.work.active());
  const QColor ground = window_->palette().color(QPalette::Window);
  QTest::keyClick(window_.get(), Qt::Key_F8);
  // The same window in other colours: zoom, tool, marks and the stroke in the middle of which it came are as they were.
  QVERIFY(window_->palette().color(QPalette::Window) != ground);
  QCOMPARE(&bench(), before);
  QCOMPARE(workbench.view.scale(bench().source().size()), scale);
  QCOMPARE(workbench.tool(), ToolName::draw);
  QVERIFY(button("Marks")->isChecked());
  QVERIFY(workbench.work.active());
  QTest::mouseRelease(&bench().source(), Qt::LeftButton, {}, from + QPoint(40, 0));
  QVERIFY(desk_->document.state().guides[0].work.has("retouch"));
  QTest::keyClick(window_.get(), Qt::Key_F8);
  QCOMPARE(window_->palette().color(QPalette::Window), ground);
}

void BenchViewTest::onlyWhatIsConcernedIsPainted() {
  for (int i = 0; i < 11; ++i) addGuide(desk_->document, i % 2 == 0 ? "edges" : "tone");
  const std::string first = guide();
  desk_->document.look([&](Looking& looking) { looking.guide = first; });
  QVERIFY(fixtures::settle(*desk_));
  QCOMPARE(desk_->document.state().guides.size(), std::size_t{12});
  std::map<std::string, int> painted;
  for (const Guide& g : desk_->document.state().guides) painted[g.id] = bench().left().plankOf(g.id)->painted();
  const auto copies = desk_->document.history().copies();
  auto* weight = bench().left().plankOf(first)->findChild<ScrubField*>("weight");
  for (int i = 0; i < 30; ++i) {
    weight->setValue(0.31 + 0.01 * i);
    QCoreApplication::processEvents();
  }
  emit weight->finished();
  QCOMPARE(desk_->document.history().copies(), copies + 1);
  QVERIFY(bench().left().plankOf(first)->painted() > painted[first]);
  for (const Guide& g : desk_->document.state().guides)
    if (g.id != first) QCOMPARE(bench().left().plankOf(g.id)->painted(), painted[g.id]);
}

void BenchViewTest::roomsAreEnteredInTheOrderOfWork() {
  const auto where = [] {
    for (const QWidget* up = QApplication::focusWidget(); up != nullptr; up = up->parentWidget())
      if (qobject_cast<const Room*>(up) != nullptr) return up->accessibleName();
    return QString();
  };
  window_->activateWindow();
  bench().left().references()->enter();
  QStringList seen{where()};
  for (int i = 0; i < 6; ++i) {
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab, Qt::ControlModifier);
    seen << where();
  }
  QCOMPARE(seen, (QStringList{"References", "Guides", "Source", "Proof", "Span board", "Brief", "References"}));
  // Tab stays inside and comes round.
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Backtab, Qt::ControlModifier | Qt::ShiftModifier);
  QCOMPARE(where(), QString("Brief"));
  const QWidget* start = QApplication::focusWidget();
  int steps = 0;
  do {
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    QCOMPARE(where(), QString("Brief"));
  } while (QApplication::focusWidget() != start && ++steps < 40);
  QVERIFY(steps > 2 && steps < 20);
}

void BenchViewTest::foldingGivesThePictureRoom() {
  const auto size = [&] { return bench().source().frameOnTable().width(); };
  const double both = size();
  const auto board = [&] { return bench().board().isVisible(); };
  QTest::keyClick(window_.get(), Qt::Key_F6);
  QCoreApplication::processEvents();
  QVERIFY(!board() && !bench().proof().isVisible());
  QVERIFY2(size() > 1.3 * both, qPrintable(QString("%1 from %2").arg(size()).arg(both)));
  QTest::keyClick(window_.get(), Qt::Key_F6);
  QCoreApplication::processEvents();
  QVERIFY(board() && bench().proof().isVisible());
  QVERIFY(std::abs(size() - both) < 1.5);
  QTest::keyClick(window_.get(), Qt::Key_F9);
  QCoreApplication::processEvents();
  QVERIFY(!board() && !bench().left().isVisible() && bench().proof().isVisible());
  QTest::keyClick(window_.get(), Qt::Key_F9);
  QCoreApplication::processEvents();
  QVERIFY(board() && bench().left().isVisible());
  QVERIFY(std::abs(size() - both) < 1.5);
}

void BenchViewTest::tablesKeepTheirWidths() {
  const int source = bench().source().width(), proof = bench().proof().width();
  QTest::keyClick(window_.get(), Qt::Key_Return, Qt::ControlModifier);
  QVERIFY(fixtures::settle(*desk_));
  QCoreApplication::processEvents();
  QCOMPARE(desk_->proofs.all().size(), std::size_t{1});
  QCOMPARE(bench().source().width(), source);
  QCOMPARE(bench().proof().width(), proof);
  QCOMPARE(bench().source().frameOnTable().top() + bench().source().mapTo(window_.get(), QPoint()).y(),
           bench().proof().frameOnTable().top() + bench().proof().mapTo(window_.get(), QPoint()).y());
}

HSCAFFOLD_APP_TEST_MAIN(BenchViewTest)
#include "bench_view_test.moc"
