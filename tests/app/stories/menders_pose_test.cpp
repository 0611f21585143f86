// The sail mender's pose given to a carved ship's figurehead, then to a scarecrow of rope: found once, then only words
// change, and the pose is the same.
#include <QLineEdit>
#include <QTextEdit>
#include <QToolButton>

#include "app/document/study_edits.h"
#include "app/points.h"
#include "app/stories/cartoon_people.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

class MendersPoseTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void byMouse();
  void byKeyboard();

 protected:
  void prepare() override {
    truth_ = fixtures::skeletonsOf({{"Hands on hips", 230, {190, 170}}});
    document().change("Frame", [](StudyState& s) { s.frame = {384, 320}; });
    QVERIFY(fixtures::cartoonOf(truth_, {384, 320}).save(path("mender.png")));
    dropFiles({path("mender.png")});
    settle();
    for (const Guide& each : std::vector<Guide>(state().guides))
      document().change("Off", [id = each.id](StudyState& s) { s.guide(id)->on = false; });
    addPoseGuide(document(), "Pose");
    settle();
  }

 private:
  [[nodiscard]] PoseWork& pose() const { return desk().workbench.pose; }
  void untilFound() const {
    QTRY_VERIFY_WITH_TIMEOUT(!desk().workbench.search.finding(), 120'000);
    settle();
    QVERIFY2(pose().figures(), qPrintable(window_->shownSentence()));
    activate();
    QCOMPARE(pose().figures()->figures.size(), std::size_t{1});
    const double right = fixtures::shareRight(truth_[0], *pose().figures()->figures[0]);
    QVERIFY2(right > 0.7, qPrintable(QString::number(right)));
  }
  /// Another being in the same words of pose. @return the proof
  [[nodiscard]] std::int64_t proofOf(const QString& being, const std::function<void()>& pull) const {
    auto& prompt = part<QTextEdit>("prompt");
    const QString words = prompt.toPlainText().section(',', 1);
    prompt.setFocus();
    QTest::keyClick(&prompt, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(&prompt, being + "," + words);
    settle();
    pull();
    settle();
    activate();
    return desk().proofs.all().back().number;
  }
  void walk(const std::function<void(const char*)>& push, const std::function<void()>& pull) {
    push("find figures");
    untilFound();
    auto& prompt = part<QTextEdit>("prompt");
    prompt.setFocus();
    QTest::keyClicks(&prompt, "a sail mender on a pier");
    settle();
    // What the figure does stands in the prompt.
    push("pose words");
    settle();
    QVERIFY2(prompt.toPlainText().contains(','), qPrintable(prompt.toPlainText()));
    const pose::Figure before = *pose().figures()->figures[0];
    const auto carved = proofOf("a carved wooden figurehead of a ship, oil painting", pull),
               rope = proofOf("a scarecrow of rope in a field, ink", pull);
    // The same pose, another being.
    QCOMPARE(pose().figures()->figures.size(), std::size_t{1});
    QVERIFY(*pose().figures()->figures[0] == before);
    QVERIFY(desk().proofs.image(carved) != desk().proofs.image(rope));
    for (const std::int64_t number : {carved, rope}) {
      desk().proofs.image(number).save(QString("/tmp/look/mp%1.png").arg(number));
      const auto hold = meanHold(*desk().proofs.proof(number));
      QVERIFY2(hold && *hold > 60, qPrintable(QString::number(hold.value_or(-1))));
    }
  }
  std::vector<pose::Figure> truth_;
};

void MendersPoseTest::byMouse() {
  walk([&](const char* name) { click(name); }, [&] { click("pull"); });
}

void MendersPoseTest::byKeyboard() {
  walk(
      [&](const char* name) {
        auto& button = part<QAbstractButton>(name);
        button.setFocus(Qt::TabFocusReason);
        QTest::keyClick(&button, Qt::Key_Space);
      },
      [&] { pressInWindow(Qt::Key_Return, Qt::ControlModifier); });
}

HSCAFFOLD_TEST(MendersPoseTest)
#include "menders_pose_test.moc"
