// What an empty study looks like and offers, where messages lie, and how the bench makes room for upright frames.
#include <QLabel>
#include <QListView>
#include <QPushButton>

#include "app/bench/proof_strip.h"
#include "app/document/ready_studies.h"
#include "app/window_fixture.h"

using namespace hscaffold;
using namespace hscaffold::app;

class EmptyStudyViewTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void bothTablesBeginAtOneHeight();
  void readyStudiesAreOneStepAndCanBePulled_data();
  void readyStudiesAreOneStepAndCanBePulled();
  void aReadyStudyWaitsForNoOneElse();
  void messagesLieOnThePictureAlone();
  void uprightFramesHaveTheWholeHeight();

 private:
  [[nodiscard]] int topOf(const QWidget& widget) const { return widget.mapTo(window_.get(), QPoint()).y(); }
  [[nodiscard]] QRect inWindow(const QWidget& widget) const {
    return {widget.mapTo(window_.get(), QPoint()), widget.size()};
  }
};

void EmptyStudyViewTest::bothTablesBeginAtOneHeight() {
  QCOMPARE(topOf(table()), topOf(bench().proof()));
  bringInScene();
  QCOMPARE(topOf(table()), topOf(bench().proof()));
}

void EmptyStudyViewTest::readyStudiesAreOneStepAndCanBePulled_data() {
  QTest::addColumn<QString>("button");
  QTest::addColumn<QString>("kind");
  for (const auto& [ready, kind] :
       {std::pair{"ready photograph", "edges"}, {"ready drawing", "lines"}, {"ready pose", "pose"}})
    QTest::addRow("%s", ready) << ready << kind;
}

void EmptyStudyViewTest::readyStudiesAreOneStepAndCanBePulled() {
  QFETCH(QString, button);
  QFETCH(QString, kind);
  auto& offered = part<QPushButton>(qPrintable(button));
  QVERIFY(offered.isVisible());
  click(qPrintable(button));
  settle();
  QCOMPARE(QString::fromStdString(guide().kind), kind);
  QVERIFY(!state().brief.prompt.empty());
  QVERIFY(!offered.isVisible());
  QVERIFY(!desk().maps.mapOf(guide().id)->map->view().empty());
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  const auto* proof = desk().proofs.current();
  QVERIFY(proof != nullptr);
  QVERIFY(!proof->recipe.guides.empty());
  // One step back, and all of it is as before.
  undo();
  QVERIFY(state().guides.empty() && state().references.empty() && state().brief.prompt.empty());
  QVERIFY(offered.isVisible());
}

void EmptyStudyViewTest::aReadyStudyWaitsForNoOneElse() {
  // A picture that was dropped meanwhile is not lost by it.
  click("ready photograph");
  bringInScene();
  settle();
  QCOMPARE(state().references.size(), std::size_t{2});
  QVERIFY(!part<QPushButton>("ready photograph").isVisible());
}

void EmptyStudyViewTest::messagesLieOnThePictureAlone() {
  emit desk().notice("Something that is said in a whole sentence, so that it is as long as sentences are.");
  const QLabel* message = nullptr;
  for (const QLabel* label : window_->findChildren<QLabel*>())
    if (label->isVisible() && label->text() == window_->shownSentence()) message = label;
  QVERIFY(message != nullptr);
  QVERIFY(inWindow(table()).contains(inWindow(*message)));
  pressInWindow(Qt::Key_2);
  emit desk().notice("Said on the Sheet.");
  QVERIFY(message->isVisible());
  QVERIFY(!inWindow(*message).intersects(inWindow(part<QPushButton>("view sheet"))));
  QVERIFY(inWindow(*message).bottom() < window_->height());
}

void EmptyStudyViewTest::uprightFramesHaveTheWholeHeight() {
  const auto frame = [this](Size size) {
    document().change("Frame", [&](StudyState& s) { s.frame = size; });
    QTest::qWait(50);
  };
  auto& list = bench().proofs().list();
  frame({768, 512});
  QVERIFY(list.mapTo(window_.get(), QPoint()).y() > inWindow(bench().proof()).bottom());
  const double level = bench().proof().frameOnTable().height();
  frame({512, 768});
  QVERIFY(list.mapTo(window_.get(), QPoint()).x() > inWindow(bench().proof()).right());
  QCOMPARE(list.flow(), QListView::TopToBottom);
  const double upright = bench().proof().frameOnTable().height();
  // All of the lower table but for a margin.
  const int room = std::min(table().height(), bench().proof().height());
  QVERIFY2(upright > level && upright >= room - 17, qPrintable(QString("%1 of %2").arg(upright).arg(room)));
  frame({768, 512});
  QCOMPARE(list.flow(), QListView::LeftToRight);
  QTRY_COMPARE(bench().proof().frameOnTable().height(), level);
}

HSCAFFOLD_TEST(EmptyStudyViewTest)
#include "empty_study_view_test.moc"
