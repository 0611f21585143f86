// One thing changed in a picture that is otherwise right: low tide into high tide, a scarf into a satchel.
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QRgb>

#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

class OneThingChangedTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void lowTideIntoHighTide();
  void theSameAgainThenSmallSteps();
  void onlyInTheRegionThatTheWordsName();
  void wrongTurnsLoseNothing();

 private:
  QImage pulled() const {
    pressInWindow(Qt::Key_Return, Qt::ControlModifier);
    settle();
    return desk().proofs.image(desk().proofs.current()->number);
  }
  void say(const QString& prompt) const {
    auto& edit = bench().brief().prompt();
    edit.setFocus();
    edit.selectAll();
    QTest::keyClicks(&edit, prompt);
  }
  void startFromTheProof() const {
    click("leaf start");
    click("start from proof");
    click("leaf words");
  }
  void change(const QString& shows, const QString& wanted) const {
    typeInto(part<QLineEdit>("shows"), shows);
    typeInto(part<QLineEdit>("wanted"), wanted);
  }
  /// Share of pixels that are the same to within what is hardly seen.
  static double same(const QImage& a, const QImage& b, int fromRow, int toRow) {
    int alike = 0, all = 0;
    for (int y = fromRow; y < toRow; ++y)
      for (int x = 0; x < a.width(); ++x, ++all) {
        const QRgb p = a.pixel(x, y), q = b.pixel(x, y);
        if (std::abs(qRed(p) - qRed(q)) + std::abs(qGreen(p) - qGreen(q)) + std::abs(qBlue(p) - qBlue(q)) <= 6) ++alike;
      }
    return static_cast<double>(alike) / all;
  }
};

void OneThingChangedTest::lowTideIntoHighTide() {
  say("a figure with a kite on a dune by the sea, gouache");
  const QImage right = pulled();
  startFromTheProof();
  change("low tide", "high tide");
  typeInto(part<ScrubField>("change amount"), "0.5");
  const QImage high = pulled();
  QCOMPARE(high.size(), right.size());
  QVERIFY(same(right, high, 0, right.height() / 4) > 0.99);
  const double whole = same(right, high, 0, right.height());
  QVERIFY2(whole > 0.5 && whole < 0.98, qPrintable(QString::number(whole)));
  // The recipe knows how it was made, and the proof can be adopted.
  const Brief& made = desk().proofs.current()->recipe.brief;
  QVERIFY(made.start.from == StartPicture::From::proof && made.start.wanted == "high tide");
  document().change("Away", [](StudyState& s) { s.brief.start = {}; });
  click("adopt");
  QCOMPARE(state().brief.start.wanted, std::string("high tide"));
  QVERIFY(pulled() == high);
}

void OneThingChangedTest::theSameAgainThenSmallSteps() {
  say("a tower by the sea, gouache");
  const QImage right = pulled();
  startFromTheProof();
  change("a scarf", "a scarf");
  QVERIFY(same(right, pulled(), 0, right.height()) > 0.999);
  double before = 1;
  change("day", "night");
  for (const char* amount : {"0.1", "0.3", "0.5"}) {
    typeInto(part<ScrubField>("change amount"), amount);
    const QImage now = pulled();
    double away = 0;
    for (int x = 0; x < now.width(); x += 3) away += qGray(right.pixel(x, 20)) - qGray(now.pixel(x, 20));
    QVERIFY(away > before);
    before = away;
  }
}

void OneThingChangedTest::onlyInTheRegionThatTheWordsName() {
  bringInScene();
  const auto pulledByMouse = [&] {
    click("pull");
    settle();
    return desk().proofs.image(desk().proofs.current()->number);
  };
  say("a tea house on piles by the sea at noon, gouache");
  press(Qt::Key_G);
  desk().workbench.settings.size = 160;
  drag({{240, 160}, {250, 160}});
  press(Qt::Key_G);
  settle();
  const QImage right = pulledByMouse();
  startFromTheProof();
  typeInto(part<ScrubField>("change amount"), "0.5");
  const auto& note = part<QLabel>("bounds of the change");
  change("noon", "night");
  QVERIFY(!note.isVisible());
  const QImage everywhere = pulledByMouse();
  const double kept = same(right, everywhere, 0, right.height() / 8);
  QVERIFY2(kept < 0.5, qPrintable(QString::number(kept)));
  change("noon", "night in " + QString::fromStdString(state().guides[0].name));
  QVERIFY(note.isVisible() && note.text().contains(QString::fromStdString(state().guides[0].name)));
  const QImage bounded = pulledByMouse();
  QCOMPARE(same(right, bounded, 0, right.height() / 8), 1.0);
  QCOMPARE(same(right, bounded, right.height() * 7 / 8, right.height()), 1.0);
  double darker = 0;
  for (int x = 200; x < 290; ++x) darker += (qGray(right.pixel(x, 160)) - qGray(bounded.pixel(x, 160))) / 90.0;
  QVERIFY2(darker > 10, qPrintable(QString::number(darker)));
  // The guide is switched off: the change acts everywhere again, and the note is gone.
  document().change("Off", [](StudyState& s) { s.guides[0].on = false; });
  QVERIFY(!note.isVisible());
}

void OneThingChangedTest::wrongTurnsLoseNothing() {
  say("a tower by the sea");
  pulled();
  startFromTheProof();
  change("a scarf", "a satchel");
  // The start picture is taken away again: the words stay where they are seen, and a check says that they do nothing.
  click("leaf start");
  click("take start away");
  QVERIFY(!state().brief.start.given());
  undo();
  QCOMPARE(state().brief.start.wanted, std::string("a satchel"));
  // Its proof is put away: the start picture is still there.
  document().change("Put away", [](StudyState& s) { s.discarded.push_back(s.brief.start.proof); });
  QVERIFY(!pulled().isNull());
  QVERIFY(desk().proofs.current()->number > state().brief.start.proof);
  // Stopped in the middle, nothing half done is kept.
  const auto count = desk().proofs.all().size();
  desk().queue.pull();
  desk().queue.stop();
  settle();
  QVERIFY(desk().proofs.all().size() <= count + 1);
  QVERIFY(document().unwritten().isEmpty());
}

HSCAFFOLD_TEST(OneThingChangedTest)
#include "one_thing_changed_test.moc"
