// What holds for every kind of guide there is, whatever it is.
#include <QTest>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>
#include <random>
#include <set>

#include "core/engine/standin/standin.h"
#include "core/guide_map.h"
#include "core/guides/json_fields.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/kinds.h"
#include "core/measure/proof_seen.h"
#include "core/pose/figure.h"
#include "core/pose/library.h"
#include "core/retouch/painter.h"
#include "core/study/study_file.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

constexpr Size frame{240, 160};

const Image<Rgb>& picture() {
  static const Image<Rgb> all = [] {
    const auto& scene = fixtures::scene(0);
    Image<Rgb> out(frame);
    for (int y = 0; y < frame.height; ++y)
      for (int x = 0; x < frame.width; ++x) out(x, y) = scene(2 * x, 2 * y);
    return out;
  }();
  return all;
}

Layer painted(double x, double y, double size) {
  Layer empty;
  empty.frame = frame;
  BrushStroke stroke(empty, {PaintMode::draw, size, 1, 1}, {});
  stroke.to({x, y});
  return stroke.layer();
}

/// A guide of the kind with something to stand on: the picture if it is extracted, hand work if not.
Guide guideOf(const Kind& kind, WorkStore& store) {
  Guide guide;
  guide.id = "g1";
  guide.kind = kind.id;
  guide.name = kind.name;
  if (kind.extract)
    guide.reference = "r1";
  else if (kind.hasSlot(pose::figuresSlot)) {
    const auto& named = pose::housePoses().front();
    auto figure = pose::fittedInto(pose::figureFrom(pose::skeletonOf(named.skeleton), named.pose, {}),
                                   pose::Bounds{60, 10, 180, 150});
    guide.work.put(pose::figuresSlot,
                   store.keep(pose::figuresForm(),
                              pose::Figures{frame, {}, {std::make_shared<const pose::Figure>(std::move(figure))}}));
  }
  return guide;
}

GuideMap mapOf(const Guide& guide, WorkStore& store) {
  ExtractionCache cache;
  return makeGuideMap(guide, guide.reference.empty() ? View<Rgb>() : picture().view(), {frame, {}},
                      takenWork(guide, store), cache);
}

std::int64_t sumIn(View<std::uint16_t> map, int left, int right) {
  std::int64_t sum = 0;
  for (int y = 0; y < map.height(); ++y)
    for (int x = left; x < right; ++x) sum += map(x, y);
  return sum;
}

}  // namespace

class KindsTest : public QObject {
  Q_OBJECT
 private slots:
  void idsLettersAndColoursAreUnique();
  void fieldsAreComplete_data();
  void fieldsAreComplete();
  void mapsHaveTheFramesSizeAndAreTheSameTwice_data();
  void mapsHaveTheFramesSizeAndAreTheSameTwice();
  void pixelsGiveTheSameMap_data();
  void pixelsGiveTheSameMap();
  void regionsAreRespected_data();
  void regionsAreRespected();
  void copiesHoldAndStrangersDoNot_data();
  void copiesHoldAndStrangersDoNot();
  void guidesRoundTripThroughRecipeAndFile_data();
  void guidesRoundTripThroughRecipeAndFile();
  void exportsAreWritten_data();
  void exportsAreWritten();
  void enginesAcceptThem_data();
  void enginesAcceptThem();
  void missingHandWorkIsLeftOutAndSaid_data();
  void missingHandWorkIsLeftOutAndSaid();

 private:
  static void everyKind() {
    QTest::addColumn<QString>("id");
    for (const Kind& kind : kinds()) QTest::addRow("%s", kind.id.c_str()) << QString::fromStdString(kind.id);
  }
};

#define KIND()         \
  QFETCH(QString, id); \
  const Kind& kind = kindOf(id.toStdString())

void KindsTest::idsLettersAndColoursAreUnique() {
  std::set<std::string> ids, names;
  std::set<char> letters;
  std::set<std::uint32_t> colours;
  for (const Kind& kind : kinds()) {
    QVERIFY(!kind.id.empty() && !kind.name.empty() && !kind.help.empty());
    QVERIFY(ids.insert(kind.id).second && names.insert(kind.name).second);
    QVERIFY(letters.insert(kind.letter).second && colours.insert(kind.colour).second);
    QVERIFY(kind.colour <= 0xffffff);
    QVERIFY2(kind.extract || kind.make, kind.id.c_str());
  }
  QVERIFY(fixtures::problemOf([] { kindOf("horoscope"); }).contains("edges"));
}

void KindsTest::fieldsAreComplete_data() { everyKind(); }
void KindsTest::fieldsAreComplete() {
  KIND();
  std::set<std::string> ids;
  for (const TuningField& field : *kind.fields) {
    QVERIFY(ids.insert(field.id).second);
    QVERIFY(!field.help.empty() && !field.label.empty());
    QVERIFY(field.defaultValue >= field.minimum && field.defaultValue <= field.maximum && field.step > 0);
    if (!field.choices.empty()) QCOMPARE(field.maximum, static_cast<double>(field.choices.size() - 1));
    for (const auto& condition : field.shownWhen) static_cast<void>(fieldNamed(*kind.fields, condition.field));
  }
  std::set<std::string> slotNames{retouchSlot, regionSlot};
  for (const WorkSlot& slot : kind.workSlots) QVERIFY(slot.form != nullptr && slotNames.insert(slot.name).second);
  if (!kind.besideEnding.empty()) QVERIFY(exportFor(kind, "x" + kind.besideEnding) != nullptr && kind.readBeside);
}

void KindsTest::mapsHaveTheFramesSizeAndAreTheSameTwice_data() { everyKind(); }
void KindsTest::mapsHaveTheFramesSizeAndAreTheSameTwice() {
  KIND();
  WorkStore store;
  const Guide guide = guideOf(kind, store);
  const auto made = mapOf(guide, store);
  QCOMPARE(made.input.map.size(), frame);
  QVERIFY(sumIn(made.input.map, 0, frame.width) > 0);
  QVERIFY(mapOf(guide, store).input.map == made.input.map);
  if (kind.onSettings) return;
  // Nothing to stand on gives an empty map, not a fall.
  Guide bare = guide;
  bare.reference.clear();
  bare.work = {};
  QCOMPARE(sumIn(mapOf(bare, store).input.map, 0, frame.width), std::int64_t{0});
}

void KindsTest::pixelsGiveTheSameMap_data() { everyKind(); }
void KindsTest::pixelsGiveTheSameMap() {
  QFETCH(QString, id);
  const Kind& kind = kindOf(id.toStdString());
  if (!kind.extractPixels) return;
  auto pixels = toSrgb16(fixtures::scene(1).view());
  pixels(3, 4).a = 0;
  pixels(30, 14).a = 20'000;
  Placement placement;
  const auto seen = pixelsSeen(pixels, placement, pixels.size());
  QVERIFY(seen.has_value());
  // Through every choice that the kind offers.
  for (const TuningField& field : *kind.fields)
    for (std::size_t choice = 0; choice < std::max<std::size_t>(1, field.choices.size()); ++choice) {
      Tuning tuning;
      if (!field.choices.empty()) tuning[field.id] = static_cast<double>(choice);
      ExtractionCache one, other;
      const auto direct = kind.extractPixels(*seen, tuning, one, {});
      QVERIFY(direct.map == kind.extract(place(pixels, placement, pixels.size()), tuning, other, {}).map);
    }
  // A frame that shows anything but the pixels themselves has none.
  placement.turn = 3;
  QVERIFY(!pixelsSeen(pixels, placement, pixels.size()).has_value());
}

void KindsTest::regionsAreRespected_data() { everyKind(); }
void KindsTest::regionsAreRespected() {
  KIND();
  WorkStore store;
  Guide guide = guideOf(kind, store);
  guide.work.put(regionSlot, store.keep(painted(40, 80, 100)));
  const auto made = mapOf(guide, store);
  QCOMPARE(made.input.region.size(), frame);
  QVERIFY(made.input.region(40, 80) == 65535 && made.input.region(200, 80) == 0);
  if (isOnNothing(kind.nature)) QCOMPARE(sumIn(made.input.map, 100, frame.width), std::int64_t{0});
  ExtractionCache cache;
  const auto facts = factsOf(kind, made.input, made.details, cache);
  QVERIFY(std::abs(*facts.number("acts") - 3.14159 * 50 * 50 / static_cast<double>(frame.area())) < 0.08);
}

void KindsTest::copiesHoldAndStrangersDoNot_data() { everyKind(); }
void KindsTest::copiesHoldAndStrangersDoNot() {
  KIND();
  if (!kind.measure) QSKIP("proofs cannot be measured for this kind");
  if (!kind.extract) QSKIP("not made from pictures: its own test measures it");
  // The kind's own map of one scene, measured in that scene and in another one.
  for (int i = 0; i < fixtures::scenes; ++i) {
    ExtractionCache cache;
    GuideInput input;
    input.map = kind.extract(fixtures::scene(i), {}, cache, {}).map;
    const auto own = *holdingOf(kind, input, toSrgb8(fixtures::scene(i)));
    const auto other = *holdingOf(kind, input, toSrgb8(fixtures::noise(480, 320, 5)));
    QVERIFY2(own.hold > 80, qPrintable(QString::number(own.hold)));
    QVERIFY2(other.hold < 15, qPrintable(QString::number(other.hold)));
    if (own.misses.empty()) continue;
    // Noise has an edge near every line; another scene does not.
    const auto elsewhere = *holdingOf(kind, input, toSrgb8(fixtures::scene((i + 1) % fixtures::scenes)));
    QVERIFY(sumIn(own.misses, 0, own.misses.width()) < sumIn(elsewhere.misses, 0, elsewhere.misses.width()) / 4);
  }
}

void KindsTest::guidesRoundTripThroughRecipeAndFile_data() { everyKind(); }
void KindsTest::guidesRoundTripThroughRecipeAndFile() {
  KIND();
  WorkStore store;
  Guide guide = guideOf(kind, store);
  guide.weight = 0.35;
  guide.range = {5, 60, 10, 20};
  guide.region = {true, 3.5};
  guide.retouchHidden = true;
  for (const TuningField& field : *kind.fields)
    guide.tuning[field.id] = field.text              ? TuningValue(std::string("words"))
                             : field.choices.empty() ? TuningValue((field.minimum + field.maximum) / 2)
                                                     : TuningValue(static_cast<double>(field.choices.size() - 1));
  // A name in every slot there is.
  for (const WorkSlot& slot : kind.workSlots)
    if (!guide.work.has(slot.name)) guide.work.put(slot.name, "0123456789abcdef0123456789abcdef");
  guide.work.put(retouchSlot, store.keep(painted(20, 20, 9)));
  guide.work.put(regionSlot, store.keep(painted(90, 20, 30)));
  Recipe recipe;
  recipe.references.push_back({"r1", "dune.png", {}});
  recipe.guides.push_back({guide, "00ff", {}, {}, {}, {}});
  const auto text = recipeToJson(recipe).dump();
  QVERIFY(recipeFromJson(parseJson(text, "x")) == recipe);
  auto json = recipeToJson(recipe);
  json["guides"][0]["work"]["incense"] = "00";
  QVERIFY(fixtures::problemOf([&] { recipeFromJson(json); }).contains("incense"));

  QTemporaryDir folder;
  const auto path = fixtures::in(folder, "kind.scaffold");
  StudyState state;
  state.guides.push_back(guide);
  auto file = StudyFile::create(path, state);
  file.writeState(state, store.unsaved(workNamedIn(guide)));
  const auto back = StudyFile::open(path).readState();
  QVERIFY(back.guides.front() == guide);
  // A slot of a newer version is carried along in studies.
  auto newer = stateToJson(state);
  newer["guides"][0]["work"]["incense"] = "00";
  QCOMPARE(stateFromJson(newer).guides.front().work.in("incense"), std::string("00"));
}

void KindsTest::exportsAreWritten_data() { everyKind(); }
void KindsTest::exportsAreWritten() {
  KIND();
  WorkStore store;
  const Guide guide = guideOf(kind, store);
  const auto made = mapOf(guide, store);
  // What is written shows the map: the same values, or to 8 bits where the kind is written with so many.
  const auto shown = decodePng(encodeMap(kind, made.input.map, made.input.colour));
  QCOMPARE(shown.picture.size(), frame);
  QCOMPARE(shown.coloured, !made.input.colour.empty());
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x)
      if (made.input.colour.empty())
        QVERIFY(std::abs(shown.picture(x, y).g - made.input.map(x, y)) <= (isOfValues(kind.nature) ? 0 : 128));
      else
        QCOMPARE(shown.picture(x, y).g, made.input.colour(x, y).g * 257);
  for (const MapExport& format : kind.exports) {
    QVERIFY(format.ending.starts_with('.') && !format.name.empty());
    const std::string text = format.write({guide, made.input, frame, "a <title>"});
    if (format.ending == ".svg") {
      pugi::xml_document svg;
      QVERIFY(svg.load_string(text.c_str()));
      QCOMPARE(svg.child("svg").attribute("width").as_int(), frame.width);
      QCOMPARE(svg.child("svg").attribute("height").as_int(), frame.height);
      QVERIFY(text.find("a &lt;title&gt;") != std::string::npos);
    } else {
      QVERIFY(nlohmann::json::parse(text).is_object());
    }
    if (format.ending != kind.besideEnding) continue;
    const auto bytes = bytesOf(text);
    const auto read = kind.readBeside(bytes, "beside", frame, guide.tuning);
    QVERIFY(read.map == made.input.map);
  }
}

void KindsTest::enginesAcceptThem_data() { everyKind(); }
void KindsTest::enginesAcceptThem() {
  KIND();
  WorkStore store;
  EngineJob job;
  job.recipe.frame = frame;
  job.recipe.brief.prompt = "a field, gouache";
  job.recipe.brief.steps = 6;
  StandinEngine engine;
  QVERIFY(std::ranges::count(engine.info().kinds, kind.id) == 1);
  const auto alone = engine.generate(job, {}, {});
  const Guide guide = guideOf(kind, store);
  job.recipe.guides.push_back({guide, {}, {}, {}, {}, {}});
  job.inputs.push_back(mapOf(guide, store).input);
  const auto guided = engine.generate(job, {}, {});
  QVERIFY(!(guided == alone));
  QVERIFY(engine.generate(job, {}, {}) == guided);
}

void KindsTest::missingHandWorkIsLeftOutAndSaid_data() { everyKind(); }
void KindsTest::missingHandWorkIsLeftOutAndSaid() {
  KIND();
  WorkStore store;
  Guide guide = guideOf(kind, store);
  const auto before = mapOf(guide, store);
  guide.work.put(retouchSlot, "feedfeedfeedfeedfeedfeedfeedfeed");
  const auto taken = takenWork(guide, store);
  QCOMPARE(taken.missing.size(), std::size_t{1});
  QVERIFY(QString::fromStdString(taken.missing.front()).contains(QString::fromStdString(guide.name)));
  QVERIFY(mapOf(guide, store).input.map == before.input.map);
}

HSCAFFOLD_TEST(KindsTest)
#include "kinds_test.moc"
