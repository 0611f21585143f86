// Everyone on a crowded pier posed: figures found, the far and faint ones too, doubtful joints mended one by one in few
// drags, and somebody far looked at closely in a box of their own.
#include <QLineF>
#include <QToolButton>

#include "app/document/study_edits.h"
#include "app/points.h"
#include "app/stories/cartoon_people.h"
#include "app/window_fixture.h"
#include "core/pose/finder.h"

using namespace hscaffold;
using namespace hscaffold::app;

class CrowdedPierTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void byMouse();
  void byKeyboard();

 protected:
  void prepare() override {
    truth_ = fixtures::skeletonsOf({{"Standing at ease", 92, {250, 190}},
                                    {"Walking", 96, {420, 190}},
                                    {"Reaching up", 150, {560, 230}},
                                    {"Standing straight", 260, {120, 290}},
                                    {"Hands on hips", 270, {330, 320}}});
    document().change("Frame", [](StudyState& s) { s.frame = {672, 512}; });
    QVERIFY(fixtures::cartoonOf(truth_, {672, 512}).save(path("pier.png")));
    dropFiles({path("pier.png")});
    settle();
    addPoseGuide(document(), "Pose");
    settle();
  }

 private:
  [[nodiscard]] PoseWork& pose() const { return desk().workbench.pose; }
  [[nodiscard]] std::vector<pose::Figure> figures() const {
    std::vector<pose::Figure> out;
    for (const auto& figure : pose().figures()->figures) out.push_back(*figure);
    return out;
  }
  void untilFound() const {
    QTRY_VERIFY_WITH_TIMEOUT(!desk().workbench.search.finding(), 120'000);
    settle();
    QVERIFY2(pose().figures(), qPrintable(window_->shownSentence()));
  }
  /// Everybody is listed, most joints lie right, and the doubtful ones are counted.
  void checkFound() const {
    const auto found = figures();
    const auto match = fixtures::matched(truth_, found);
    int listed = 0;
    double right = 0;
    for (std::size_t i = 0; i < truth_.size(); ++i)
      if (match[i] >= 0) {
        ++listed;
        right += fixtures::shareRight(truth_[i], found[static_cast<std::size_t>(match[i])]);
      }
    QVERIFY2(listed >= 4, qPrintable(QString::number(listed)));
    QVERIFY2(right / listed > 0.7, qPrintable(QString::number(right / listed)));
    QVERIFY2(found.size() <= truth_.size() + 2, qPrintable(QString::number(found.size())));
  }
  /// The truth of the selected figure; null if nobody is there.
  [[nodiscard]] const pose::Figure* truthOfSelected() const {
    const auto selected = pose().selected();
    if (!selected) return nullptr;
    const auto match = fixtures::matched(truth_, figures());
    for (std::size_t i = 0; i < truth_.size(); ++i)
      if (match[i] == static_cast<int>(*selected)) return &truth_[i];
    return nullptr;
  }
  [[nodiscard]] std::size_t doubts() const {
    std::size_t count = 0;
    for (const auto& figure : figures()) count += pose::doubtfulPoints(figure).size();
    return count;
  }
  std::vector<pose::Figure> truth_;
};

void CrowdedPierTest::byMouse() {
  click("find figures");
  untilFound();
  checkFound();
  // The doubtful joints one after the other: dragged where they belong, the joint alone.
  const std::size_t before = doubts();
  int drags = 0;
  for (std::size_t i = 0; i < before && doubts() > 0; ++i) {
    part<QToolButton>("check joints").click();
    const auto* truth = truthOfSelected();
    const std::size_t point = *pose().points().begin();
    const QPointF now = toQt(figures()[*pose().selected()].points[point].at);
    const QPointF wanted = truth != nullptr ? toQt(truth->points[point].at) : now;
    // What is right after all only needs saying so.
    if (QLineF(now, wanted).length() < 0.06 * (truth != nullptr ? pose::sizeOf(*truth) : 1)) {
      press(Qt::Key_Return);
      continue;
    }
    drag({now, (now + wanted) / 2, wanted + QPointF(1, 0)}, Qt::ControlModifier);
    ++drags;
  }
  settle();
  QVERIFY2(doubts() < before || before == 0, qPrintable(QString("%1 of %2").arg(doubts()).arg(before)));
  QVERIFY2(drags <= 2 * static_cast<int>(truth_.size()), qPrintable(QString::number(drags)));
  // Somebody far, looked at closely: a box about them finds one figure there.
  const std::size_t all = figures().size();
  const auto box = *pose::boundsOf(truth_[2]);
  press(Qt::Key_S);
  drag({{box.left - 8, box.top - 8}, toQt(box.middle()), {box.right + 8, box.bottom + 8}});
  untilFound();
  QCOMPARE(figures().size(), all + 1);
  const auto again = figures();
  double best = 0;
  for (const auto& figure : again) best = std::max(best, fixtures::shareRight(truth_[2], figure));
  QVERIFY2(best > 0.6, qPrintable(QString::number(best)));
  undo();
  settle();
  QCOMPARE(figures().size(), all);
}

void CrowdedPierTest::byKeyboard() {
  // From field to field to the button, as Tab goes.
  auto& find = part<QToolButton>("find figures");
  find.setFocus(Qt::TabFocusReason);
  QTest::keyClick(&find, Qt::Key_Space);
  untilFound();
  activate();
  checkFound();
  // N goes from one figure to the next: all of them come by.
  table().setFocus(Qt::TabFocusReason);
  std::set<std::size_t> seen;
  for (std::size_t i = 0; i < figures().size(); ++i) {
    press(Qt::Key_N);
    if (pose().selected()) seen.insert(*pose().selected());
  }
  QCOMPARE(seen.size(), figures().size());
  // K to a doubtful joint, arrows move it, Return says that it is right.
  const std::size_t before = doubts();
  if (before > 0) {
    press(Qt::Key_K);
    const std::size_t point = *pose().points().begin(), of = *pose().selected();
    const Point was = figures()[of].points[point].at;
    for (int i = 0; i < 3; ++i) press(Qt::Key_Right);
    settle();
    QVERIFY(figures()[of].points[point].at.x > was.x);
    press(Qt::Key_Return);
    settle();
    QVERIFY(doubts() < before);
  }
  undo();
}

HSCAFFOLD_TEST(CrowdedPierTest)
#include "crowded_pier_test.moc"
