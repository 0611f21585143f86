// How was last year's page made? Its picture is dropped on the window, and gives its settings back; what is not here is
// named and looked for.
#include <QClipboard>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QTimer>
#include <QUrl>

#include "app/window_fixture.h"
#include "core/image/png.h"

using namespace hscaffold;
using namespace hscaffold::app;

class LastYearsPageTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void settingsComeBackByMouse();
  void settingsComeBackByKeyboard();
  void missingPicturesAreNamedAndLocated();
  void itMayBeAReferenceOrAStart();
  void newerRecipesAndOtherPicturesAreJustPictures();

 private:
  /// A proof as it left the program, with settings that no one would guess.
  QString exported() const {
    document().change("Last year's", [](StudyState& s) {
      s.brief.prompt = "a tea house at high tide, woodcut";
      s.brief.steps = 9;
      s.guides[0].weight = 0.83;
      s.guides[0].range = {10, 70, 5, 15};
    });
    settle();
    pressInWindow(Qt::Key_Return, Qt::ControlModifier);
    settle();
    const QString file = keep_.filePath("last-year.png");
    writeFileAtomically(file.toStdString(), desk().proofs.png(desk().proofs.all().back().number));
    return file;
  }
  void change() const {
    document().change("This year's", [](StudyState& s) {
      s.brief.prompt = "something else";
      s.brief.steps = 20;
      s.guides[0].weight = 0.2;
      s.guides[0].range = {};
    });
  }
  void comesBack(const std::function<void(const QString&)>& bringIn, const std::function<void()>& pull);
  QTemporaryDir keep_;
};

void LastYearsPageTest::settingsComeBackByMouse() {
  comesBack([&](const QString& file) { answering("take settings", [&] { dropFiles({file}); }); },
            [&] { click("pull"); });
}

void LastYearsPageTest::settingsComeBackByKeyboard() {
  const auto bringIn = [&](const QString& file) {
    // Copied in a file manager, pasted here, and the answer reached by Tab.
    auto* clip = new QMimeData;
    clip->setUrls({QUrl::fromLocalFile(file)});
    QApplication::clipboard()->setMimeData(clip);
    bool reached = false;
    QTimer look;
    connect(&look, &QTimer::timeout, this, [&] {
      auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
      if (box == nullptr) return;
      look.stop();
      box->activateWindow();
      QCoreApplication::processEvents();
      auto* take = box->findChild<QPushButton*>("take settings");
      for (int i = 0; i < 8 && box->focusWidget() != take; ++i) QTest::keyClick(box, Qt::Key_Tab);
      reached = box->focusWidget() == take;
      QTest::keyClick(reached ? static_cast<QWidget*>(take) : box, reached ? Qt::Key_Space : Qt::Key_Escape);
    });
    look.start(5);
    pressInWindow(Qt::Key_V, Qt::ControlModifier);
    QVERIFY(reached);
    activate();
  };
  comesBack(bringIn, [&] { pressInWindow(Qt::Key_Return, Qt::ControlModifier); });
}

void LastYearsPageTest::comesBack(const std::function<void(const QString&)>& bringIn,
                                  const std::function<void()>& pull) {
  const QString file = exported();
  const Recipe then = desk().proofs.all().back().recipe;
  const QByteArray bytes = QByteArray::fromStdString(fixtures::readFile(file.toStdString()));
  change();
  bringIn(file);
  settle();
  QCOMPARE(state().brief.prompt, then.brief.prompt);
  QCOMPARE(state().guides[0].weight, 0.83);
  QVERIFY(state().guides[0].range == (Range{10, 70, 5, 15}));
  // What differs from before is said.
  QVERIFY2(window_->shownSentence().contains("range end") && window_->shownSentence().contains("weight"),
           qPrintable(window_->shownSentence()));
  QCOMPARE(state().references.size(), std::size_t{1});
  activate();
  // The same settings pulled again are the same picture, byte for byte.
  pull();
  settle();
  QCOMPARE(desk().proofs.all().size(), std::size_t{2});
  const Bytes again = desk().proofs.png(desk().proofs.all().back().number);
  QVERIFY(QByteArray(reinterpret_cast<const char*>(again.data()), static_cast<qsizetype>(again.size())) == bytes);
  undo();
  QCOMPARE(state().brief.prompt, std::string("something else"));
}

void LastYearsPageTest::missingPicturesAreNamedAndLocated() {
  const QString file = exported();
  document().createUntitled();
  // On another machine: nothing is here. Going on without says what is missing.
  int asked = 0;
  QTimer look;
  connect(&look, &QTimer::timeout, this, [&] {
    auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
    if (box == nullptr) return;
    ++asked;
    if (auto* take = box->findChild<QPushButton*>("take settings")) return QTest::mouseClick(take, Qt::LeftButton);
    QVERIFY2(box->text().contains("tea.png"), qPrintable(box->text()));
    QTest::mouseClick(box->findChild<QPushButton*>("without"), Qt::LeftButton);
  });
  look.start(5);
  dropFiles({file});
  look.stop();
  settle();
  QCOMPARE(asked, 2);
  QCOMPARE(state().brief.steps, 9);
  QVERIFY(state().guides.empty());
  QVERIFY2(window_->shownSentence().contains("could not be brought back"), qPrintable(window_->shownSentence()));
  // With a picture of that name brought in first, it is found by itself, whatever its id is here.
  fixtures::writeScene(fixtures::in(*folder_, "other.png"), 0);
  dropFiles({path("other.png")});
  settle();
  bringInScene();
  answering("take settings", [&] { dropFiles({file}); });
  settle();
  const auto found = std::find_if(state().guides.begin(), state().guides.end(),
                                  [](const Guide& guide) { return guide.weight == 0.83; });
  QVERIFY(found != state().guides.end());
  QCOMPARE(state().reference(found->reference)->name, std::string("tea.png"));
}

void LastYearsPageTest::itMayBeAReferenceOrAStart() {
  const QString file = exported();
  change();
  answering("as reference", [&] { dropFiles({file}); });
  settle();
  QCOMPARE(state().references.size(), std::size_t{2});
  QCOMPARE(state().brief.prompt, std::string("something else"));
  answering("as start picture", [&] { dropFiles({file}); });
  settle();
  QVERIFY(state().brief.start.from == StartPicture::From::reference);
  QCOMPARE(state().reference(state().brief.start.reference)->name, std::string("last-year.png"));
  // Esc is neither.
  const auto before = state();
  answering("", [&] { dropFiles({file}); });
  settle();
  QVERIFY(state() == before);
}

void LastYearsPageTest::newerRecipesAndOtherPicturesAreJustPictures() {
  Image<Rgb8> picture(64, 48);
  for (const char* text : {"{\"recipe\": 99, \"frame\": 7}", "no JSON", "{}"}) {
    writeFileAtomically(fixtures::in(*folder_, "odd.png"), encodePng(picture.view(), PngTexts{{recipeKeyword, text}}));
    const auto count = state().references.size();
    dropFiles({path("odd.png")});
    settle();
    QCOMPARE(state().references.size(), count + 1);
  }
}

HSCAFFOLD_TEST(LastYearsPageTest)
#include "last_years_page_test.moc"
