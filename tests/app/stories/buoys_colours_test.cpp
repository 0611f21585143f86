// The colours of a rusted buoy on a tea house's layout: mood from one picture, depth from another, light painted over a
// ghost of the reference.
#include <QComboBox>
#include <QSlider>
#include <QToolButton>

#include "app/images.h"
#include "app/widgets/scrub_field.h"
#include "app/window_fixture.h"
#include "app/workbench/light/light_tools.h"
#include "core/mood/transport.h"

using namespace hscaffold;
using namespace hscaffold::app;

class BuoysColoursTest : public fixtures::SceneWindowTest {
  Q_OBJECT
 private slots:
  void moodOnALayoutWithPaintedLight();
  void aMoodPaintedFromNothing();
  void aPaletteIsTakenKeptAndWanted();

 private:
  [[nodiscard]] Image<Rgb> proof() const {
    const QImage image = desk().proofs.image(desk().proofs.current()->number).convertToFormat(QImage::Format_RGB888);
    Image<Rgb8> out(image.width(), image.height());
    for (int y = 0; y < out.height(); ++y) {
      const uchar* line = image.constScanLine(y);
      for (int x = 0; x < out.width(); ++x) out(x, y) = {line[3 * x], line[3 * x + 1], line[3 * x + 2]};
    }
    return toLinear(out);
  }
  void pull() const {
    pressInWindow(Qt::Key_Return, Qt::ControlModifier);
    settle();
  }
  [[nodiscard]] static double lightIn(const Image<Rgb>& picture, const QRect& where) {
    double sum = 0;
    for (int y = where.top(); y <= where.bottom(); ++y)
      for (int x = where.left(); x <= where.right(); ++x) sum += static_cast<double>(linearToOkLab(picture(x, y)).l);
    return sum / (where.width() * where.height());
  }
  /// Rust over teal.
  [[nodiscard]] QString buoyFile() const {
    QImage image(240, 160, QImage::Format_RGB32);
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) {
        const int grain = (x * 7 + y * 13) % 23;
        image.setPixelColor(x, y, y < 70 ? QColor(40 + grain, 110 + grain, 112) : QColor(150 + grain, 70 + grain, 30));
      }
    image.save(path("buoy.png"));
    return path("buoy.png");
  }
  [[nodiscard]] std::shared_ptr<const Image<Rgb>> buoy() const {
    return desk().maps.placedPicture(state().references.back().id);
  }
};

void BuoysColoursTest::moodOnALayoutWithPaintedLight() {
  add("depth");
  settle();
  const std::string edges = state().guides[0].id;
  document().change("Say", [](StudyState& s) { s.brief.prompt = "a tea house by the water, gouache"; });
  pull();
  const auto plain = proof();
  const double held = desk().proofs.current()->holds.at(edges);
  dropFiles({buoyFile()});
  settle();
  // The new picture's own guide is not wanted: its mood is.
  document().change("Off", [](StudyState& s) { s.guides.back().on = false; });
  click("leaf start");
  click("start from reference");
  click("mood only");
  auto& sorting = part<QComboBox>("mood sorting");
  sorting.setCurrentIndex(2);
  emit sorting.activated(2);
  QVERIFY(state().brief.start.moodOnly && state().brief.start.mood.sorting == mood::Sorting::byColour);
  QVERIFY(state().brief.start.mood.blur > 0 && state().brief.start.change < 0.5);
  pull();
  const auto moody = proof();
  const double before = mood::colourDistance(plain.view(), buoy()->view()),
               after = mood::colourDistance(moody.view(), buoy()->view());
  QVERIFY2(after < 0.5 * before, qPrintable(QString("%1 of %2").arg(after).arg(before)));
  QVERIFY2(desk().proofs.current()->holds.at(edges) > held - 12,
           qPrintable(QString("hold %1 of %2").arg(desk().proofs.current()->holds.at(edges)).arg(held)));

  // Light over a ghost of the reference: a shadow on the left, a lamp on the right; warm against cool.
  document().look([&](Looking& looking) { looking.reference = state().references[0].id; });
  add("tone");
  settle();
  QVERIFY(guide().kind == "tone" && guide().reference == state().references[0].id);
  QVERIFY(guide().range.rampOut > 0);  // it fades out
  press(Qt::Key_S);
  for (auto* field : window_->findChildren<ScrubField*>("strength"))
    if (field->isVisible()) typeInto(*field, "100");
  for (auto* field : window_->findChildren<ScrubField*>("size"))
    if (field->isVisible()) typeInto(*field, "140");
  const int wide = state().frame.width, high = state().frame.height;
  for (const double y : {0.2, 0.45, 0.7})
    drag({{0.05 * wide, y * high}, {0.15 * wide, y * high}, {0.3 * wide, y * high}});
  press(Qt::Key_O);
  drag({{0.8 * wide, 0.4 * high}, {0.98 * wide, 0.4 * high}});
  document().change("Heavier", [](StudyState& s) { s.guide(s.looking.guide)->weight = 1; });
  settle();
  pull();
  const auto lit = proof();
  const QRect left(wide / 20, high / 5, wide / 5, high / 2), right(wide * 7 / 10, high / 4, wide / 5, high / 3);
  QVERIFY2(lightIn(lit, left) < lightIn(moody, left) - 0.03,
           qPrintable(QString("%1 %2").arg(lightIn(lit, left)).arg(lightIn(moody, left))));
  QVERIFY(lightIn(lit, right) - lightIn(lit, left) > lightIn(moody, right) - lightIn(moody, left) + 0.08);
  // All of it comes back with the proof.
  const auto table = desk().workbench.light.table();
  desk().workbench.light.clear();
  QVERIFY(desk().workbench.light.table().lights.empty());
  click("adopt");
  settle();
  QVERIFY(desk().workbench.light.table() == table);
  QVERIFY(state().brief.start.mood.sorting == mood::Sorting::byColour);
}

void BuoysColoursTest::aMoodPaintedFromNothing() {
  document().change("No reference", [](StudyState& s) {
    s.guides.clear();
    s.references.clear();
    s.looking = {};
    s.brief.prompt = "a harbour, gouache";
  });
  add("tone");
  settle();
  // Warm on the left, teal on the right: two areas.
  const int wide = state().frame.width, high = state().frame.height;
  const std::vector<QPointF> leftHalf = {{2, 2}, {0.45 * wide, 2}, {0.45 * wide, high - 2.0}, {2, high - 2.0}, {2, 4}},
                             rightHalf = {{0.55 * wide, 2},
                                          {wide - 2.0, 2},
                                          {wide - 2.0, high - 2.0},
                                          {0.55 * wide, high - 2.0},
                                          {0.55 * wide, 4}};
  press(Qt::Key_A);
  desk().workbench.light.next.hue = light::Hue{0.14, 50};
  drag(leftHalf);
  desk().workbench.light.next.hue = light::Hue{0.12, 200};
  drag(rightHalf);
  settle();
  QCOMPARE(desk().workbench.light.table().lights.size(), std::size_t{2});
  click("leaf start");
  click("start from guide");
  QVERIFY(state().brief.start.from == StartPicture::From::guide && state().brief.start.guide == guide().id);
  pull();
  const auto made = proof();
  const auto hueOf = [&](int x) {
    OkLab sum{};
    for (int y = 0; y < high; ++y) {
      const OkLab c = linearToOkLab(made(x, y));
      sum = {sum.l + c.l, sum.a + c.a, sum.b + c.b};
    }
    return sum;
  };
  QVERIFY(hueOf(wide / 5).a > hueOf(wide * 4 / 5).a && hueOf(wide / 5).b > hueOf(wide * 4 / 5).b);
  // A guide that is turned off shows nothing: that is said, and a pull begins without it.
  document().change("Off", [](StudyState& s) { s.guides[0].on = false; });
  settle();
  const auto& all = desk().checks.all();
  QVERIFY(std::any_of(all.begin(), all.end(), [](const Check& c) { return c.id == "start-gone"; }));
  pull();
  QVERIFY(!desk().proofs.current()->recipe.brief.start.given());
}

void BuoysColoursTest::aPaletteIsTakenKeptAndWanted() {
  dropFiles({buoyFile()});
  settle();
  click("leaf colours");
  click("colours from reference");
  QCOMPARE(state().brief.colours.size(), mood::usualColours);
  const auto rust = state().brief.colours;
  click("lock colour 1");
  QVERIFY(state().brief.colours[0].locked);
  document().look([&](Looking& looking) { looking.reference = state().references[0].id; });
  click("colours from reference");
  QVERIFY(state().brief.colours[0].colour == rust[0].colour && !(state().brief.colours[1] == rust[1]));
  undo();
  QVERIFY(state().brief.colours[1] == rust[1]);
  // It is written, read back, and goes with the proof.
  document().saveAs(path("rust.scaffold").toStdString());
  document().open(path("rust.scaffold").toStdString());
  settle();
  QCOMPARE(state().brief.colours.size(), mood::usualColours);
  pull();
  QVERIFY(desk().proofs.current()->recipe.brief.colours == state().brief.colours);
  click("clear colours");
  QVERIFY(state().brief.colours.empty());
  click("adopt");
  QCOMPARE(state().brief.colours.size(), mood::usualColours);
}

HSCAFFOLD_TEST(BuoysColoursTest)
#include "buoys_colours_test.moc"
