// The same page in pencil, watercolour and flat colour: style cards, one at a time and mixed, over one layout.
#include <QLineEdit>
#include <QRgb>

#include "app/brief/styles_leaf.h"
#include "app/window_fixture.h"
#include "core/image/filter.h"

using namespace hscaffold;
using namespace hscaffold::app;

class PageInStylesTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void oneAtATimeAndMixedByKeyboard();
  void oneAtATimeAndMixedByMouse();
  void strengthGoesByDegree();

 private:
  [[nodiscard]] StyleList& cards() const { return part<StyleList>("styles"); }
  QImage pulled() const {
    pressInWindow(Qt::Key_Return, Qt::ControlModifier);
    settle();
    return desk().proofs.image(desk().proofs.current()->number);
  }
  void find(const QString& name) const {
    typeInto(part<QLineEdit>("search styles"), name);
    auto* model = cards().model();
    for (int i = 0; i < model->rowCount(); ++i)
      if (model->index(i, 0).data().toString() == name) cards().setCurrentIndex(model->index(i, 0));
  }
  /// Finds a card by typing, and takes it in or out by the keyboard.
  void take(const QString& name) const {
    click("leaf styles");
    find(name);
    cards().setFocus();
    QTest::keyClick(&cards(), Qt::Key_Space);
  }
  /// The same by a click on the card.
  void takeByMouse(const QString& name) const {
    click("leaf styles");
    find(name);
    cards().scrollTo(cards().currentIndex());
    const QRect card = cards().visualRect(cards().currentIndex());
    QTest::mouseClick(cards().viewport(), Qt::LeftButton, {},
                      QPoint(card.center().x(), card.top() + card.height() / 3));
  }
  QImage pulledByMouse() const {
    click("pull");
    settle();
    return desk().proofs.image(desk().proofs.current()->number);
  }
  void walk(const std::function<void(const QString&)>& turn, const std::function<QImage()>& pull);
  static double saturation(const QImage& image) {
    double sum = 0;
    for (int y = 0; y < image.height(); y += 2)
      for (int x = 0; x < image.width(); x += 2) sum += QColor(image.pixel(x, y)).saturationF();
    return sum / (image.width() * image.height() / 4.0);
  }
  /// Share of neighbouring pixels that are exactly alike: flat colour has many, grain has few.
  static double flatness(const QImage& image) {
    int alike = 0, all = 0;
    for (int y = 0; y < image.height(); y += 2)
      for (int x = 1; x < image.width(); x += 2, ++all)
        if (std::abs(qGray(image.pixel(x, y)) - qGray(image.pixel(x - 1, y))) <= 1) ++alike;
    return static_cast<double>(alike) / all;
  }
};

void PageInStylesTest::walk(const std::function<void(const QString&)>& turn, const std::function<QImage()>& pull) {
  document().change("Layout", [](StudyState& s) {
    s.brief.prompt = "a dune by the sea";
    s.guides[0].weight = 1;
  });
  std::vector<QImage> row;
  for (const char* name : {"Slate pencil", "Salt paper", "Signal flags"}) {
    turn(name);
    QCOMPARE(state().brief.styles.size(), std::size_t{1});
    row.push_back(pull());
    // One layout holds through all of them.
    const auto& holds = desk().proofs.current()->holds;
    QVERIFY2(!holds.empty() && holds.begin()->second > 75,
             qPrintable(QString("%1: %2").arg(name).arg(holds.empty() ? 0 : holds.begin()->second)));
    turn(name);
    QVERIFY(state().brief.styles.empty());
  }
  QVERIFY(saturation(row[0]) < 0.4 * saturation(row[1]) || saturation(row[0]) < 0.08);
  QVERIFY(saturation(row[2]) > saturation(row[1]));
  QVERIFY(flatness(row[2]) > flatness(row[0]) + 0.1);
  // Mixed: the medium of the stronger, colours of both.
  turn("Signal flags");
  turn("Plum wash");
  QCOMPARE(state().brief.styles.size(), std::size_t{2});
  const QImage mixed = pull();
  QVERIFY(mixed != row[2]);
  QCOMPARE(desk().proofs.current()->recipe.brief.styles.size(), std::size_t{2});
  // A row of styles: all proofs are there to look at.
  QCOMPARE(desk().proofs.shown().size(), std::size_t{4});
}

void PageInStylesTest::oneAtATimeAndMixedByKeyboard() {
  walk([&](const QString& name) { take(name); }, [&] { return pulled(); });
}

void PageInStylesTest::oneAtATimeAndMixedByMouse() {
  walk([&](const QString& name) { takeByMouse(name); }, [&] { return pulledByMouse(); });
}

void PageInStylesTest::strengthGoesByDegree() {
  document().change("Layout", [](StudyState& s) { s.brief.prompt = "a dune by the sea, gouache"; });
  take("Buoy red");
  const auto redness = [](const QImage& image) {
    double sum = 0;
    for (int y = 0; y < image.height(); y += 2)
      for (int x = 0; x < image.width(); x += 2) {
        const QRgb c = image.pixel(x, y);
        sum += std::max(0, qRed(c) - std::max(qGreen(c), qBlue(c)));
      }
    return sum;
  };
  const double strong = redness(pulled());
  for (int i = 0; i < 13; ++i) QTest::keyClick(&cards(), Qt::Key_Minus);
  QVERIFY(std::abs(state().brief.styles[0].strength - 0.15) < 1e-9);
  const double weak = redness(pulled());
  take("Buoy red");
  const double none = redness(pulled());
  QVERIFY2(strong > weak && weak > none, qPrintable(QString("%1 %2 %3").arg(strong).arg(weak).arg(none)));
}

HSCAFFOLD_TEST(PageInStylesTest)
#include "page_in_styles_test.moc"
