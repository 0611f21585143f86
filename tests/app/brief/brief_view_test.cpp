// The brief's leaves, by mouse and by keys.
#include <QClipboard>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QScrollBar>
#include <QSlider>
#include <QTextCursor>

#include "app/brief/brief_panel.h"
#include "app/brief/start_placer.h"
#include "app/brief/styles_leaf.h"
#include "app/images.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "core/engine/standin/look_words.h"
#include "core/study/study_file.h"

using namespace hscaffold;
using namespace hscaffold::app;

class BriefViewTest : public fixtures::WindowTest {
  Q_OBJECT
 private slots:
  void emphasisIsDragged();
  void emphasisByKeysAndWheel();
  void emphasisFollowsTyping();
  void hugeAndOddPromptsAreBounded();
  void undoInThePromptIsTheStudys();
  void theSeedIsNotWrittenBack();
  void leavesNameWhatActs();
  void cardsAreTakenByMouse();
  void cardsAreTakenByKeys();
  void cardsOfOnesOwn();
  void cardsTakeTheColoursOfProofs();
  void twoHundredCards();
  void startPicturesAreGivenAndTakenAway();
  void variationsAreThrown();
  void briefsAreKept();
  void allLeavesAtOnce();

 private:
  [[nodiscard]] const Brief& brief() const { return state().brief; }
  [[nodiscard]] PromptEdit& prompt() const { return bench().brief().prompt(); }
  [[nodiscard]] StyleList& cards() const { return part<StyleList>("styles"); }
  void type(const QString& text) const {
    prompt().setFocus();
    QTest::keyClicks(&prompt(), text);
  }
  /// Selects a phrase of the prompt.
  void select(const QString& phrase) const {
    QTextCursor cursor = prompt().textCursor();
    const auto at = static_cast<int>(prompt().toPlainText().indexOf(phrase));
    QVERIFY(at >= 0);
    cursor.setPosition(at);
    cursor.setPosition(at + static_cast<int>(phrase.size()), QTextCursor::KeepAnchor);
    prompt().setTextCursor(cursor);
  }
  /// Does `work`, in which a dialog asks for a name.
  void naming(const QString& name, const std::function<void()>& work) const {
    bool asked = false;
    QTimer look;
    connect(&look, &QTimer::timeout, [&] {
      auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
      if (dialog == nullptr) return;
      look.stop();
      asked = true;
      typeInto(*dialog->findChild<QLineEdit*>(), name);
    });
    look.start(5);
    work();
    QVERIFY(asked);
  }
  [[nodiscard]] QPoint onCard(const QModelIndex& index) const {
    cards().scrollTo(index);
    return cards().visualRect(index).center() - QPoint(0, 20);
  }
};

void BriefViewTest::emphasisIsDragged() {
  type("a kite over a red dune");
  select("red dune");
  auto& knob = part<QWidget>("emphasis knob");
  QVERIFY(knob.isVisible());
  dragOn(knob, {20, 10}, {20, -25});
  QCOMPARE(brief().emphasis, (std::vector<Emphasis>{{14, 8, 1.35}}));
  QVERIFY(prompt().toPlainText() == "a kite over a red dune");
  undo();
  QVERIFY(brief().emphasis.empty());
  redo();
  QCOMPARE(brief().emphasis.size(), std::size_t{1});
  select("red dune");
  QTest::mouseDClick(&part<QWidget>("emphasis knob"), Qt::LeftButton);
  QVERIFY(brief().emphasis.empty());
}

void BriefViewTest::emphasisByKeysAndWheel() {
  type("a kite over a red dune");
  select("kite");
  for (int i = 0; i < 4; ++i) QTest::keyClick(&prompt(), Qt::Key_Down, Qt::ControlModifier);
  QCOMPARE(brief().emphasis, (std::vector<Emphasis>{{2, 4, 0.8}}));
  // Without a selection, the word at the cursor.
  QTextCursor cursor = prompt().textCursor();
  cursor.setPosition(20);
  prompt().setTextCursor(cursor);
  QTest::keyClick(&prompt(), Qt::Key_Up, Qt::ControlModifier);
  QCOMPARE(brief().emphasis.size(), std::size_t{2});
  QCOMPARE(brief().emphasis[1], (Emphasis{18, 4, 1.05}));
  QWheelEvent wheel({20, 20}, prompt().viewport()->mapToGlobal(QPointF(20, 20)), {}, {0, 120}, Qt::NoButton,
                    Qt::ControlModifier, Qt::NoScrollPhase, false);
  QApplication::sendEvent(prompt().viewport(), &wheel);
  QCOMPARE(brief().emphasis[1].weight, 1.1);
  // It has ends.
  for (int i = 0; i < 100; ++i) QTest::keyClick(&prompt(), Qt::Key_Up, Qt::ControlModifier);
  QCOMPARE(brief().emphasis[1].weight, limits::emphasis.most);
}

void BriefViewTest::emphasisFollowsTyping() {
  type("a red dune");
  select("red dune");
  QTest::keyClick(&prompt(), Qt::Key_Up, Qt::ControlModifier);
  QTextCursor cursor = prompt().textCursor();
  cursor.setPosition(0);
  prompt().setTextCursor(cursor);
  QTest::keyClicks(&prompt(), "by night ");
  QCOMPARE(brief().prompt, std::string("by night a red dune"));
  QCOMPARE(brief().emphasis, (std::vector<Emphasis>{{11, 8, 1.05}}));
  settle();
  // It is in the file, and comes back with it.
  const auto file = document().path();
  closeWindow();
  QCOMPARE(StudyFile::open(file).readState().brief.emphasis, (std::vector<Emphasis>{{11, 8, 1.05}}));
}

void BriefViewTest::hugeAndOddPromptsAreBounded() {
  prompt().setFocus();
  for (const QString& text : {QString(100'000, 'x'), QString::fromUtf8("\u05e1\u05d9\u05e8\u05d4 \u05d1\u05d9\u05dd"),
                              QString::fromUtf8("\U0001F9ED\U0001F32C a dune"), QString("!?,.;:-").repeated(30)}) {
    QApplication::clipboard()->setText(text);
    prompt().selectAll();
    prompt().paste();
    QVERIFY(charactersIn(brief().prompt) <= longestPrompt);
    QVERIFY(!brief().prompt.empty());
    prompt().selectAll();
    QTest::keyClick(&prompt(), Qt::Key_Up, Qt::ControlModifier);
    QVERIFY(brief().emphasis.size() == 1);
    QCOMPARE(brief().emphasis[0].length, static_cast<int>(charactersIn(brief().prompt)));
    QVERIFY(prompt().toPlainText().toStdString() == brief().prompt);
  }
  settle();
  QVERIFY(document().unwritten().isEmpty());
}

void BriefViewTest::undoInThePromptIsTheStudys() {
  type("a dune at noon");
  prompt().setFocus();
  QTextCursor cursor = prompt().textCursor();
  cursor.setPosition(2);
  cursor.setPosition(6, QTextCursor::KeepAnchor);
  prompt().setTextCursor(cursor);
  QTest::keyClick(&prompt(), Qt::Key_Up, Qt::ControlModifier);
  QVERIFY(!brief().emphasis.empty());
  // The emphasis goes, not the last words that were typed before it.
  QTest::keyClick(&prompt(), Qt::Key_Z, Qt::ControlModifier);
  QVERIFY(brief().emphasis.empty());
  QCOMPARE(brief().prompt, std::string("a dune at noon"));
  QTest::keyClick(&prompt(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  QVERIFY(!brief().emphasis.empty());
}

void BriefViewTest::theSeedIsNotWrittenBack() {
  auto& seed = part<QLineEdit>("seed");
  seed.setFocus();
  const auto before = brief().seed;
  pressInWindow(Qt::Key_D, Qt::ControlModifier);
  QTRY_VERIFY(brief().seed != before);
  const auto thrown = brief().seed;
  prompt().setFocus();
  QCOMPARE(brief().seed, thrown);
  typeInto(seed, "4294967295");
  QCOMPARE(brief().seed, 4294967295U);
  QVERIFY(seed.width() >= seed.fontMetrics().horizontalAdvance("4294967295"));
}

void BriefViewTest::leavesNameWhatActs() {
  QCOMPARE(part<QToolButton>("leaf styles").text(), QString("Styles"));
  document().change("Much", [](StudyState& s) {
    s.brief.prompt = "a dune";
    s.brief.emphasis = {{0, 1, 2}};
    s.brief.styles = {{"a", "A", "ink", 1}, {"b", "B", "oil", 1}};
    s.brief.start.from = StartPicture::From::colour;
    s.brief.start.change = 0.45;
    s.brief.vary = 0.2;
  });
  QCOMPARE(part<QToolButton>("leaf words").text(), QString("Words 1"));
  QCOMPARE(part<QToolButton>("leaf styles").text(), QString("Styles 2"));
  QCOMPARE(part<QToolButton>("leaf start").text(), QString("Start 0.45"));
  QCOMPARE(part<QToolButton>("leaf steps").text(), QString("Steps 0.20"));
  QVERIFY(part<QLineEdit>("wanted").isVisible());
  click("leaf start");
  QVERIFY(part<ScrubField>("change amount").isVisible() && !prompt().isVisible());
  click("leaf words");
  QVERIFY(prompt().isVisible());
}

void BriefViewTest::cardsAreTakenByMouse() {
  click("leaf styles");
  settle();
  const QModelIndex first = cards().model()->index(0, 0), third = cards().model()->index(2, 0);
  // Its picture was made, and not of one colour.
  const QImage image = third.data(Qt::DecorationRole).value<QImage>();
  QVERIFY(!image.isNull() && image.pixel(10, 10) != image.pixel(100, 100));
  const QString id = third.data(StyleModel::idRole).toString();
  QTest::mouseClick(cards().viewport(), Qt::LeftButton, {}, onCard(third));
  QCOMPARE(brief().styles.size(), std::size_t{1});
  QCOMPARE(QString::fromStdString(brief().styles[0].id), id);
  QCOMPARE(brief().styles[0].strength, 0.8);
  // It comes first now; its bar is dragged to the right end, in one step of undo.
  QCOMPARE(first.data(StyleModel::idRole).toString(), id);
  const QRect card = cards().visualRect(cards().model()->index(0, 0));
  dragOn(*cards().viewport(), {card.left() + 20, card.bottom() - 13}, {card.left() + 120, card.bottom() - 13});
  QCOMPARE(brief().styles[0].strength, limits::strength.most);
  undo();
  QCOMPARE(brief().styles[0].strength, 0.8);
  QTest::mouseClick(cards().viewport(), Qt::LeftButton, {}, onCard(cards().model()->index(0, 0)));
  QVERIFY(brief().styles.empty());
}

void BriefViewTest::cardsAreTakenByKeys() {
  click("leaf styles");
  typeInto(part<QLineEdit>("search styles"), "lamp");
  QCOMPARE(cards().model()->rowCount(), 2);
  cards().setFocus();
  cards().setCurrentIndex(cards().model()->index(0, 0));
  QTest::keyClick(&cards(), Qt::Key_Space);
  QCOMPARE(brief().styles.size(), std::size_t{1});
  QTest::keyClick(&cards(), Qt::Key_Plus);
  QTest::keyClick(&cards(), Qt::Key_Plus);
  QCOMPARE(brief().styles[0].strength, 0.9);
  QTest::keyClick(&cards(), Qt::Key_Right);
  QTest::keyClick(&cards(), Qt::Key_Return);
  QCOMPARE(brief().styles.size(), std::size_t{2});
  // What is in use is shown whatever is searched for.
  typeInto(part<QLineEdit>("search styles"), "nothing like it");
  QCOMPARE(cards().model()->rowCount(), 2);
}

void BriefViewTest::cardsOfOnesOwn() {
  type("a boat at dusk, watercolour, calm");
  click("leaf styles");
  naming("Evening", [&] { click("style from words"); });
  const QModelIndex own = cards().model()->index(0, 0);
  QCOMPARE(own.data().toString(), QString("Evening"));
  QVERIFY(own.data(StyleModel::ownRole).toBool());
  // What it says is how, not what.
  QVERIFY(own.data(Qt::ToolTipRole).toString().contains("dusk, watercolour, calm"));
  QVERIFY(!own.data(Qt::ToolTipRole).toString().contains("boat"));
  QTest::mouseClick(cards().viewport(), Qt::LeftButton, {}, onCard(own));
  QCOMPARE(brief().styles[0].words, std::string("dusk, watercolour, calm"));
  // Another window of another study has it; deleting it takes it from the shelf, not from the brief that uses it.
  Desk other;
  const StyleModel elsewhere(other);
  QCOMPARE(elsewhere.index(0).data().toString(), QString("Evening"));
  cards().setFocus();
  cards().setCurrentIndex(cards().model()->index(0, 0));
  QTest::keyClick(&cards(), Qt::Key_Delete);
  QCOMPARE(brief().styles.size(), std::size_t{1});
  QVERIFY(!cards().model()->index(0, 0).data(StyleModel::ownRole).toBool());
  Desk third;
  QVERIFY(StyleModel(third).index(0).data().toString() != "Evening");
}

void BriefViewTest::cardsTakeTheColoursOfProofs() {
  type("a navy boat on a navy sea under a navy sky, woodcut");
  pressInWindow(Qt::Key_Return, Qt::ControlModifier);
  settle();
  click("leaf styles");
  naming("Deep", [&] {
    click("style from proof");
    settle();
    QTest::qWait(50);  // the question comes once it is known what to ask
  });
  const QString words = cards().model()->index(0, 0).data(Qt::ToolTipRole).toString();
  QVERIFY2(words.contains("woodcut"), qPrintable(words));
  const auto seen = standin::lookInWords(fromQImage(desk().proofs.image(desk().proofs.current()->number)));
  QVERIFY(!seen.empty());
  for (const auto& word : seen) QVERIFY2(words.contains(QString::fromStdString(word)), qPrintable(words));
  cards().setFocus();
  cards().setCurrentIndex(cards().model()->index(0, 0));
  QTest::keyClick(&cards(), Qt::Key_Delete);
}

void BriefViewTest::twoHundredCards() {
  Desk other;
  StyleModel model(other);
  for (int i = 0; i < 200; ++i) model.add({"", "Card " + std::to_string(i), "ink, " + std::to_string(i), true});
  QCOMPARE(model.rowCount(), 200 + static_cast<int>(houseStyles().size()));
  for (int i = 0; i < 30; ++i) model.use(model.indexOf(QString("own-%1").arg(i + 1)), 1, false);
  QCOMPARE(other.document.file() == nullptr, true);
  // A window that finds them opens, and searches among them.
  beginAgain();
  click("leaf styles");
  typeInto(part<QLineEdit>("search styles"), "Card 17");
  QCOMPARE(cards().model()->rowCount(), 11);
  for (int i = 200; i > 0; --i) model.remove(QString("own-%1").arg(i));
}

void BriefViewTest::startPicturesAreGivenAndTakenAway() {
  click("leaf start");
  QVERIFY(!part("start from reference").isEnabled() && !part("start from proof").isEnabled());
  bringInScene();
  click("start from reference");
  QVERIFY(brief().start.from == StartPicture::From::reference);
  auto& placer = part<StartPlacer>("start picture");
  QVERIFY(placer.hasPicture());
  // It is moved, scaled and turned in the frame by hand; each is one step back.
  const Placement lay = brief().start.placement;
  const QPoint middle = placer.rect().center();
  dragOn(placer, middle, middle + QPoint(20, 0));
  QVERIFY(brief().start.placement.fit == Fit::free);
  QVERIFY2(std::abs(brief().start.placement.x - 0.5 - 20.0 / 136) < 0.03,
           qPrintable(QString::number(brief().start.placement.x)));
  const Placement moved = brief().start.placement;
  QTest::keyClick(&placer, Qt::Key_Plus);
  QVERIFY(brief().start.placement.scaleX > moved.scaleX);
  QTest::keyClick(&placer, Qt::Key_Period);
  QCOMPARE(brief().start.placement.turn, 1.0);
  QTest::keyClick(&placer, Qt::Key_Left);
  QVERIFY(brief().start.placement.x < moved.x);
  QCOMPARE(part<QComboBox>("start fit").currentText(), QString("by hand"));
  while (!(brief().start.placement == lay)) undo();
  QVERIFY(brief().start.given());
  typeInto(part<ScrubField>("change amount"), "0,45");
  QCOMPARE(brief().start.change, 0.45);
  click("mood only");
  QVERIFY(brief().start.moodOnly);
  // Taken out of the study, it is said, and nothing breaks.
  document().change("Out", [](StudyState& s) {
    s.references.clear();
    s.guides.clear();
  });
  settle();
  QVERIFY(!recipeOf(state()).brief.start.given());
  click("take start away");
  QVERIFY(!brief().start.given());
  QVERIFY(part("start from reference").isVisible());
}

void BriefViewTest::variationsAreThrown() {
  click("leaf steps");
  click("next variation");
  QCOMPARE(brief().variation, 1U);
  QCOMPARE(brief().vary, 0.15);
  typeInto(part<ScrubField>("vary"), "0.4");
  typeInto(part<QLineEdit>("variation"), "77");
  QCOMPARE(brief().vary, 0.4);
  QCOMPARE(brief().variation, 77U);
}

void BriefViewTest::briefsAreKept() {
  type("a lighthouse in fog, ink");
  click("leaf steps");
  QVERIFY(!part("kept briefs").isEnabled());
  naming("March page", [&] { click("keep brief"); });
  QVERIFY(part("kept briefs").isEnabled());
  document().change("Else", [](StudyState& s) { s.brief.prompt = "something else"; });
  // Another window has it, too.
  beginAgain();
  QVERIFY(brief().prompt.empty());
  click("leaf steps");
  QTimer choose;
  connect(&choose, &QTimer::timeout, [&] {
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    if (menu == nullptr) return;
    choose.stop();
    QTest::keyClick(menu, Qt::Key_Down);
    QTest::keyClick(menu, Qt::Key_Return);
  });
  choose.start(5);
  click("kept briefs");
  QTRY_COMPARE(brief().prompt, std::string("a lighthouse in fog, ink"));
  activate();
  undo();
  QVERIFY(brief().prompt.empty());
}

void BriefViewTest::allLeavesAtOnce() {
  window_->resize(1280, 800);
  type("a dune");
  QVERIFY(!bench().brief().pulledUp());
  click("pull up brief");
  QVERIFY(bench().briefIsUp() && bench().brief().pulledUp());
  QVERIFY(prompt().isVisible() && cards().isVisible() && part("start from colour").isVisible());
  QCOMPARE(prompt().toPlainText(), QString("a dune"));
  type(" at noon");
  QCOMPARE(brief().prompt, std::string("a dune at noon"));
  pressInWindow(Qt::Key_F4);
  QVERIFY(!bench().briefIsUp() && !bench().brief().pulledUp());
  QVERIFY(prompt().isVisible() && !cards().isVisible());
  QVERIFY(bench().left().isVisible());
}

HSCAFFOLD_TEST(BriefViewTest)
#include "brief_view_test.moc"
