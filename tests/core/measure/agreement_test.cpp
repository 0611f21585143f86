// Whether maps can be obeyed at once: of one scene they can, of two they contradict each other.
#include <QTest>

#include "core/kinds.h"
#include "core/measure/agreement.h"
#include "core/pose/body.h"
#include "core/pose/library.h"
#include "core/pose/solids.h"
#include "core/retouch/layer.h"
#include "core/study/checks.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

GuideInput inputOf(const char* kind, int scene) {
  ExtractionCache cache;
  GuideInput input;
  input.map = kindOf(kind).extract(fixtures::scene(scene), {}, cache, {}).map;
  return input;
}

MapSketch sketch(const char* kind, const GuideInput& input) { return sketchOf(kindOf(kind), input); }
MapSketch sketch(const char* kind, int scene) { return sketch(kind, inputOf(kind, scene)); }

/// A standing figure, two thirds as tall as the frame, about a place across.
GuideInput bodyAt(Size size, double across) {
  const auto& poses = pose::housePoses();
  const auto standing = std::find_if(poses.begin(), poses.end(),
                                     [](const pose::NamedPose& each) { return each.name == "Standing straight"; });
  pose::Figures figures;
  figures.frame = size;
  figures.figures.push_back(std::make_shared<const pose::Figure>(
      pose::fittedInto(pose::figureFrom(pose::skeletonOf(standing->skeleton), standing->pose, {}),
                       {across - 60, 0.15 * size.height, across + 60, 0.85 * size.height})));
  GuideInput input;
  input.map = Map(size);
  input.work.put(pose::figuresSlot, std::any(std::make_shared<const pose::Figures>(std::move(figures))));
  return input;
}

/// Lines along that body, a little beside it, as clothes have them.
GuideInput linesAbout(Size size, double across) {
  const auto body = bodyAt(size, across);
  GuideInput out;
  out.map = Map(size);
  pose::drawOutline(out.map, *body.work.get<pose::Figures>(pose::figuresSlot)->figures[0]);
  return out;
}

/// The left half of the frame, or the right one.
Map halfOf(Size size, bool left) {
  Map out(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) out(x, y) = (x < size.width / 2) == left ? 65535 : 0;
  return out;
}

}  // namespace

class AgreementTest : public QObject {
  Q_OBJECT
 private slots:
  void mapsOfOneSceneAgree();
  void linesOfTwoScenesContradict();
  void bodiesAgreeWithTheirOwnPictures();
  void halvesHaveNothingToDoWithOneAnother();
  void lightAgainstDarkIsToldByPlace();
  void pairsAreRemembered();
  void theCheckSaysSoAndMendsIt();
};

void AgreementTest::mapsOfOneSceneAgree() {
  for (int scene = 0; scene < fixtures::scenes; ++scene) {
    std::vector<MapSketch> sketches;
    for (const char* kind : {"edges", "lines", "loose", "depth", "tone"}) sketches.push_back(sketch(kind, scene));
    for (const MapSketch& a : sketches)
      for (const MapSketch& b : sketches) {
        const auto found = contradictionBetween(a, b);
        QVERIFY2(!found, qPrintable(QString("%1 and %2 of scene %3: %4")
                                        .arg(QString::fromStdString(a.kind), QString::fromStdString(b.kind))
                                        .arg(scene)
                                        .arg(found ? found->share : 0)));
      }
  }
}

void AgreementTest::linesOfTwoScenesContradict() {
  int told = 0, pairs = 0;
  for (int scene = 0; scene < fixtures::scenes; ++scene)
    for (const char* kind : {"edges", "lines"}) {
      const auto found = contradictionBetween(sketch("edges", scene), sketch(kind, (scene + 1) % fixtures::scenes));
      ++pairs;
      if (!found) continue;
      ++told;
      QVERIFY(found->ofBorders && found->share > 0.3 && !found->place.name.empty());
      QVERIFY(found->place.x > 0 && found->place.x < 480 && found->place.y > 0 && found->place.y < 320);
    }
  QVERIFY2(told >= pairs - 1, qPrintable(QString("%1 of %2").arg(told).arg(pairs)));
}

void AgreementTest::bodiesAgreeWithTheirOwnPictures() {
  constexpr Size size{480, 320};
  const auto body = sketch("pose", bodyAt(size, 160));
  QVERIFY(!body.borders.empty() && body.stray > 1);
  QVERIFY(!contradictionBetween(body, sketch("edges", linesAbout(size, 162))));
  // Who stands half a body beside it is somebody else.
  const auto found = contradictionBetween(body, sketch("edges", linesAbout(size, 190)));
  QVERIFY(found && found->ofBorders);
  QCOMPARE(found->place.name, std::string("middle"));
  // Who stands far off is no contradiction, and neither is open land.
  QVERIFY(!contradictionBetween(body, sketch("edges", linesAbout(size, 380))));
  GuideInput horizon;
  horizon.map = Map(size);
  for (int x = 0; x < size.width; ++x) horizon.map(x, 200) = 65535;
  QVERIFY(!contradictionBetween(body, sketch("edges", horizon)));
}

void AgreementTest::halvesHaveNothingToDoWithOneAnother() {
  auto left = inputOf("edges", 0), right = inputOf("edges", 1);
  limitTo(left.map.view(), halfOf(left.map.size(), true));
  limitTo(right.map.view(), halfOf(right.map.size(), false));
  QVERIFY(!contradictionBetween(sketch("edges", left), sketch("edges", right)));
  QVERIFY(!contradictionBetween(sketch("edges", 0), MapSketch{}));
  GuideInput nothing;
  QVERIFY(!contradictionBetween(sketch("edges", 0), sketch("edges", nothing)));
}

void AgreementTest::lightAgainstDarkIsToldByPlace() {
  auto plain = inputOf("tone", 0);
  GuideInput turned = plain.clone();
  // Light and dark exchanged.
  for (int y = 0; y < turned.map.height(); ++y)
    for (int x = 0; x < turned.map.width(); ++x)
      turned.map(x, y) = static_cast<std::uint16_t>(65535 - turned.map(x, y));
  const auto found = contradictionBetween(sketch("tone", plain), sketch("tone", turned));
  QVERIFY(found && !found->ofBorders && found->share > 0.9);
  // Where only one of them acts there is nothing to disagree about.
  plain.region = halfOf(plain.map.size(), true);
  turned.region = halfOf(turned.map.size(), false);
  QVERIFY(!contradictionBetween(sketch("tone", plain), sketch("tone", turned)));
  // Two flat ones say nothing.
  GuideInput flat;
  flat.map = Map(plain.map.size());
  QVERIFY(!contradictionBetween(sketch("tone", flat), sketch("tone", turned)));
}

void AgreementTest::pairsAreRemembered() {
  MapPairs pairs;
  const auto a = std::make_shared<const MapSketch>(sketch("edges", 0)),
             b = std::make_shared<const MapSketch>(sketch("edges", 1));
  const auto* first = &pairs.between(a, b);
  QCOMPARE(first, &pairs.between(a, b));
  QVERIFY(first->has_value());
  auto other = std::make_shared<const MapSketch>(sketch("edges", 0));
  QVERIFY(!pairs.between(a, other));
}

void AgreementTest::theCheckSaysSoAndMendsIt() {
  StudyState state;
  std::map<std::string, MapFacts> facts;
  int scene = 0;
  for (const char* id : {"g1", "g2"}) {
    Reference reference;
    reference.id = std::string("r") + id;
    reference.size = {480, 320};
    state.references.push_back(reference);
    Guide guide;
    guide.id = id;
    guide.kind = "edges";
    guide.name = std::string("Edges ") + id;
    guide.reference = reference.id;
    guide.weight = scene == 0 ? 0.5 : 0.9;
    state.guides.push_back(guide);
    facts[id].sketch = std::make_shared<const MapSketch>(sketch("edges", scene++));
  }
  const auto about = [&]() -> std::optional<Check> {
    for (const Check& check : checksOf(state, facts))
      if (check.id == "against:g1:g2") return check;
    return {};
  };
  const auto check = about();
  QVERIFY(check && check->place && check->fix && check->other);
  QVERIFY(QString::fromStdString(check->sentence).contains(QString::fromStdString(check->place->name)));
  // Taking turns: the stronger one first.
  auto before = state;
  check->fix(state);
  QCOMPARE(state.guides[1].range.to, 40.0);
  QCOMPARE(state.guides[0].range.from, 40.0);
  QVERIFY(!about());
  state = before;
  check->other(state);
  QVERIFY(!state.guides[0].on && state.guides[1].on);
  QVERIFY(!about());
  state = before;
  state.leftBe.insert("against:g1:g2");
  QVERIFY(!about());
}

HSCAFFOLD_TEST(AgreementTest)
#include "agreement_test.moc"
