// Touch-ups: regions, what an engine sees of them, how they are laid over a final.
#include <QTest>
#include <map>
#include <nlohmann/json.hpp>

#include "core/engine/standin/standin.h"
#include "core/finish/touch_up.h"
#include "core/guides/json_fields.h"
#include "core/image/colour.h"
#include "core/study/study_file.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

TouchShape loop(double left, double top, double right, double bottom, bool takes = false) {
  TouchShape shape;
  shape.takes = takes;
  shape.lines = {{{left, top}, {right, top}, {right, bottom}, {left, bottom}}};
  return shape;
}

TouchShape stroke(double width, std::vector<Point> places) {
  TouchShape shape;
  shape.brush = true;
  shape.width = width;
  shape.lines = {std::move(places)};
  return shape;
}

double areaOf(const Image<float>& mask) {
  double sum = 0;
  for (int y = 0; y < mask.height(); ++y)
    for (const float v : mask.line(y)) sum += static_cast<double>(v);
  return sum;
}

Recipe recipeOf(Size frame) {
  Recipe recipe;
  recipe.frame = frame;
  recipe.brief.prompt = "a tea house by the sea, gouache";
  recipe.brief.avoid = "crowd";
  recipe.brief.styles = {{"bold", "Bold", "vivid", 1}};
  return recipe;
}

/// Pictures by content, as a study keeps them.
struct Kept {
  std::map<std::string, std::shared_ptr<const Bytes>> all;
  std::string put(Bytes bytes) {
    const PictureFile file = pictureFile(std::move(bytes));
    all[file.content] = file.bytes;
    return file.content;
  }
  [[nodiscard]] ShownPictures source() const {
    return shownFrom([this](const std::string& content) {
      const auto found = all.find(content);
      if (found == all.end()) throw badInput("The picture is not there.");
      return found->second;
    });
  }
};

}  // namespace

class TouchUpTest : public QObject {
  Q_OBJECT
 private slots:
  void regionsCoverWhatWasDrawn();
  void featherEndsWhereItIsSaid();
  void outlinesOfAMaskAreThatMask();
  void colourSpreadsToItsBorder();
  void regionsAreReadAsWritten();
  void theEngineSeesRegionAndRim_data();
  void theEngineSeesRegionAndRim();
  void outsideNothingChanges();
  void theStackIsLaidInOrder();
  void wordsAndGuidesOfItsOwn();
  void aTryShowsItsPart();
  void anotherSizeBringsThemAlong();
  void aFinalIsReadAsWritten();
  void studiesKeepFinals();
  void wrongFieldsAreMended();
};

void TouchUpTest::regionsCoverWhatWasDrawn() {
  const Size whole{400, 200};
  QVERIFY(std::abs(areaOf(maskOf({loop(0.25, 0.25, 0.75, 0.75)}, whole, boxOf(whole))) - 200 * 100) < 1);
  // A line within another makes a hole; what takes away takes away.
  TouchShape ring = loop(0.25, 0.25, 0.75, 0.75);
  ring.lines.push_back({{0.4, 0.4}, {0.6, 0.4}, {0.6, 0.6}, {0.4, 0.6}});
  QVERIFY(std::abs(areaOf(maskOf({ring}, whole, boxOf(whole))) - (200 * 100 - 80 * 40)) < 1);
  const TouchRegion halved{loop(0.25, 0.25, 0.75, 0.75), loop(0, 0, 0.5, 1, true)};
  QVERIFY(std::abs(areaOf(maskOf(halved, whole, boxOf(whole))) - 100 * 100) < 1);
  QVERIFY(boundsOf(halved, whole) == (Box{200, 50, 300, 150}));
  // A dot of the brush is a disc, as wide as was said, in shares of the longer side.
  const double disc = areaOf(maskOf({stroke(0.1, {{0.5, 0.5}})}, whole, boxOf(whole)));
  QVERIFY2(std::abs(disc - 3.14159 * 20 * 20) < 12, qPrintable(QString::number(disc)));
  // A part shows what the whole has there.
  const Box part{180, 60, 320, 140};
  const auto all = maskOf(halved, whole, boxOf(whole), 10), seen = maskOf(halved, whole, part, 10);
  for (int y = 0; y < seen.height(); ++y)
    for (int x = 0; x < seen.width(); ++x) QVERIFY(std::abs(seen(x, y) - all(part.left + x, part.top + y)) < 1e-5f);
  QVERIFY(boundsOf({}, whole).empty());
  QVERIFY(boundsOf({loop(0.2, 0.2, 0.4, 0.4), loop(0, 0, 1, 1, true)}, whole).empty());
}

void TouchUpTest::featherEndsWhereItIsSaid() {
  const Size whole{300, 300};
  const TouchRegion region{loop(1.0 / 3, 1.0 / 3, 2.0 / 3, 2.0 / 3)};
  const auto mask = maskOf(region, whole, boxOf(whole), 20);
  QVERIFY(mask(150, 150) > 0.999f);
  QVERIFY(mask(150, 90) > 0 && mask(150, 90) < 0.5f);
  for (int x = 0; x < 300; ++x) QVERIFY(mask(x, 79) == 0);
  QVERIFY(boundsOf(region, whole, 20) == (Box{80, 80, 220, 220}));
}

void TouchUpTest::outlinesOfAMaskAreThatMask() {
  Image<std::uint8_t> mask(64, 48);
  for (int y = 0; y < 48; ++y)
    for (int x = 0; x < 64; ++x) {
      const int fromMiddle = (x - 30) * (x - 30) + (y - 24) * (y - 24);
      mask(x, y) = (fromMiddle < 18 * 18 && fromMiddle > 7 * 7) || (x > 55 && y > 40) ? 255 : 0;
    }
  const TouchShape shape = shapeFrom(mask.view());
  QCOMPARE(static_cast<int>(shape.lines.size()), 3);
  const auto back = maskOf({shape}, mask.size(), boxOf(mask.size()));
  int wrong = 0;
  for (int y = 0; y < 48; ++y)
    for (int x = 0; x < 64; ++x) wrong += (back(x, y) > 0.5f) != (mask(x, y) > 0) ? 1 : 0;
  QVERIFY2(wrong < 30, qPrintable(QString::number(wrong)));
}

void TouchUpTest::colourSpreadsToItsBorder() {
  Image<Rgb8> picture(40, 30, Rgb8{200, 180, 40});
  for (int y = 0; y < 30; ++y)
    for (int x = 20; x < 24; ++x) picture(x, y) = {20, 40, 160};
  const auto mask = ofOneColour(picture.view(), 5, 5, 0.1);
  QVERIFY(mask(0, 0) == 255 && mask(19, 29) == 255);
  QVERIFY(mask(21, 5) == 0 && mask(30, 5) == 0);
  QVERIFY(ofOneColour(picture.view(), 5, 5, 1.5)(30, 5) == 255);
  QVERIFY(ofOneColour(picture.view(), -1, 99, 0.1)(0, 0) == 0);
}

void TouchUpTest::regionsAreReadAsWritten() {
  const TouchRegion region{loop(0.25, 0.125, 0.75, 0.5), stroke(0.0625, {{0.5, 0.5}, {0.25, 0.75}}),
                           loop(0, 0, 0.5, 0.5, true)};
  QVERIFY(regionFromJson(regionToJson(region), "region") == region);
  auto json = regionToJson(region);
  json[1]["lines"][0].push_back(0.5);
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(regionFromJson(json, "region")); }).isEmpty());
  Mended mended;
  QCOMPARE(static_cast<int>(regionFromJson(json, "region", &mended).size()), 2);
  QCOMPARE(static_cast<int>(mended.sentences().size()), 1);
}

void TouchUpTest::theEngineSeesRegionAndRim_data() {
  QTest::addColumn<double>("left");
  QTest::addColumn<double>("size");
  QTest::addColumn<double>("detail");
  QTest::addRow("middle") << 0.45 << 0.1 << 2.0;
  QTest::addRow("corner") << 0.0 << 0.05 << 4.0;
  QTest::addRow("as the engine likes it") << 0.3 << 0.2 << 0.0;
  QTest::addRow("all of it") << 0.0 << 1.0 << 1.0;
  QTest::addRow("a spot") << 0.9 << 0.005 << 1.0;
}

void TouchUpTest::theEngineSeesRegionAndRim() {
  QFETCH(double, left);
  QFETCH(double, size);
  QFETCH(double, detail);
  TouchUp touchUp;
  touchUp.region = {loop(left, left, left + size, left + size)};
  if (detail > 0) touchUp.detail = detail;
  const EngineInfo info = StandinEngine().info();
  const Size whole{1536, 1024};
  const TouchView view = viewOf(touchUp, whole, info);
  QVERIFY(view.box == cut(view.box, whole));
  const Box region = boundsOf(touchUp.region, whole, touchUp.feather);
  QVERIFY(joined(region, view.box) == view.box);
  QVERIFY(view.job.width % info.sizeStep == 0 && view.job.height % info.sizeStep == 0);
  QVERIFY(std::min(view.job.width, view.job.height) >= 64);
  const double across = static_cast<double>(view.job.width) / view.box.width(),
               down = static_cast<double>(view.job.height) / view.box.height();
  QVERIFY2(std::abs(across / down - 1) < 0.05, qPrintable(QString("%1 %2").arg(across).arg(down)));
  QVERIFY(across > 0.99);
  TouchUp none;
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(viewOf(none, whole, info)); }).isEmpty());
}

void TouchUpTest::outsideNothingChanges() {
  const auto below = toSrgb8(fixtures::noise(240, 160, 4).view());
  TouchUp touchUp;
  touchUp.region = {loop(0.4, 0.4, 0.6, 0.6)};
  touchUp.feather = 10;
  const Box box{60, 30, 180, 130};
  const Image<Rgb8> shown(240, 200, Rgb8{255, 0, 0});
  auto laid = below.clone();
  layOver(laid.view(), touchUp, shown.view(), box);
  const auto mask = maskOf(touchUp.region, below.size(), boxOf(below.size()), touchUp.feather);
  int changed = 0;
  for (int y = 0; y < 160; ++y)
    for (int x = 0; x < 240; ++x) {
      if (mask(x, y) == 0)
        QVERIFY(laid(x, y) == below(x, y));
      else
        changed += laid(x, y) == below(x, y) ? 0 : 1;
    }
  QVERIFY(changed > 48 * 32);
  QVERIFY(laid(120, 80) == (Rgb8{255, 0, 0}));
  // In 16 bits the same.
  const auto png = decodePng(encodePng(below.view())).picture;
  auto fine = png.clone();
  layOver(fine.view(), touchUp, shown.view(), box);
  for (int y = 0; y < 160; ++y)
    for (int x = 0; x < 240; ++x)
      if (mask(x, y) == 0) QVERIFY(fine(x, y) == png(x, y));
}

void TouchUpTest::theStackIsLaidInOrder() {
  Kept kept;
  Final final;
  final.size = {120, 80};
  final.picture = kept.put(encodePng(Image<Rgb8>(120, 80, Rgb8{10, 20, 30}).view()));
  const auto add = [&](const char* id, Rgb8 colour) {
    TouchUp touchUp;
    touchUp.id = id;
    touchUp.feather = 0;
    touchUp.region = {loop(0.25, 0.25, 0.75, 0.75)};
    touchUp.tries = {{kept.put(encodePng(Image<Rgb8>(64, 64, colour).view())), {20, 10, 100, 70}, 1, 0.6, 5, ""}};
    touchUp.used = 0;
    final.touchUps.push_back(touchUp);
  };
  add("t1", {200, 0, 0});
  add("t2", {0, 200, 0});
  QVERIFY(composedFinal(final, kept.source())(60, 40) == (Rgb8{0, 200, 0}));
  QVERIFY(composedFinal(final, kept.source(), 1)(60, 40) == (Rgb8{200, 0, 0}));
  QVERIFY(composedFinal(final, kept.source(), 0)(60, 40) == (Rgb8{10, 20, 30}));
  final.touchUps[1].on = false;
  QVERIFY(composedFinal(final, kept.source())(60, 40) == (Rgb8{200, 0, 0}));
  final.touchUps[0].used = -1;
  QVERIFY(composedFinal(final, kept.source())(60, 40) == (Rgb8{10, 20, 30}));
  std::swap(final.touchUps[0], final.touchUps[1]);
  final.touchUps[0].on = true;
  QVERIFY(composedFinal(final, kept.source())(5, 5) == (Rgb8{10, 20, 30}));
  kept.all.erase(final.touchUps[0].tries[0].picture);
  QVERIFY(!fixtures::problemOf([&] { static_cast<void>(composedFinal(final, kept.source())); }).isEmpty());
}

void TouchUpTest::wordsAndGuidesOfItsOwn() {
  Recipe final = recipeOf({1536, 1024});
  RecipeGuide edges, depth;
  edges.guide.id = "g1", edges.guide.kind = "edges", edges.guide.weight = 0.6;
  depth.guide.id = "g2", depth.guide.kind = "depth";
  final.guides = {edges, depth};
  TouchUp touchUp;
  touchUp.words = "a carved name board";
  touchUp.guides["g2"].on = false;
  touchUp.guides["g1"].weight = 0.9;
  touchUp.start = TouchStart::colours;
  const TouchView view{{100, 100, 356, 356}, {512, 512}};
  const Recipe own = touchRecipe(final, touchUp, final.frame, view, 9);
  QCOMPARE(own.brief.prompt, std::string("a carved name board"));
  QCOMPARE(static_cast<int>(own.brief.styles.size()), 1);
  QCOMPARE(own.brief.seed, 9U);
  QVERIFY(own.brief.start.moodOnly);
  QCOMPARE(static_cast<int>(own.guides.size()), 1);
  QCOMPARE(own.guides[0].guide.weight, 0.9);
  touchUp.words.clear();
  touchUp.withBrief = false;
  touchUp.start = TouchStart::noise;
  const Recipe bare = touchRecipe(final, touchUp, final.frame, view, 9);
  QCOMPARE(bare.brief.prompt, final.brief.prompt);
  QVERIFY(bare.brief.styles.empty() && bare.brief.avoid.empty() && !bare.brief.start.given());
}

void TouchUpTest::aTryShowsItsPart() {
  StandinEngine engine;
  Recipe recipe = recipeOf({480, 320});
  const auto below = engine.generate({recipe, {}, {}}, {}, {});
  TouchUp touchUp;
  touchUp.region = {loop(0.3, 0.3, 0.6, 0.7)};
  touchUp.words = "a red kite, gouache";
  touchUp.change = 0.2;
  const auto near = pullTry(engine, recipe, touchUp, below.view(), 3, {}, nullptr, {}, {});
  touchUp.change = 1;
  const auto far = pullTry(engine, recipe, touchUp, below.view(), 3, {}, nullptr, {}, {});
  QVERIFY(near.info.box == far.info.box);
  QVERIFY(recipeFromTexts(readPngTexts(near.png)).part->box == near.info.box);
  // Little change leaves more of what was there than all of it.
  const auto moved = [&](const FinishedTry& one) {
    auto laid = below.clone();
    layOver(laid.view(), touchUp, one.picture.view(), one.info.box);
    double sum = 0;
    for (int y = 0; y < laid.height(); ++y)
      for (int x = 0; x < laid.width(); ++x) sum += std::abs(laid(x, y).g - below(x, y).g);
    return sum;
  };
  QVERIFY2(moved(near) < 0.7 * moved(far), qPrintable(QString("%1 %2").arg(moved(near)).arg(moved(far))));
  // The same recipe is the same picture.
  QVERIFY(pullTry(engine, recipe, touchUp, below.view(), 3, {}, nullptr, {}, {}).picture == far.picture);
}

void TouchUpTest::anotherSizeBringsThemAlong() {
  TouchUp touchUp;
  touchUp.region = {loop(0.25, 0.25, 0.5, 0.5)};
  touchUp.tries = {{"p", {100, 50, 300, 250}, 1, 0.5, 1, ""}};
  const TouchUp larger = atSize(touchUp, {800, 400}, {1600, 800});
  QVERIFY(larger.tries[0].box == (Box{200, 100, 600, 500}));
  QCOMPARE(larger.feather, 2 * touchUp.feather);
  QVERIFY(larger.region == touchUp.region);
}

void TouchUpTest::aFinalIsReadAsWritten() {
  Final final;
  final.id = "f3", final.name = "March", final.proof = 31;
  final.size = {1536, 1024};
  final.picture = "abc", final.engine = "stand-in 16";
  final.columns = 3, final.rows = 2;
  final.joins = 1.01, final.worstJoin = 1.04;
  final.holds["g1"] = 93, final.held["g1"] = 94;
  TouchUp touchUp;
  touchUp.id = "t4", touchUp.name = "Lantern", touchUp.detail = 1.9;
  touchUp.region = {loop(0.25, 0.25, 0.5, 0.5)};
  touchUp.guides["g1"] = {false, 0.5};
  touchUp.start = TouchStart::colours;
  touchUp.tries = {{"p", {100, 50, 300, 250}, 7, 0.5, 12, "a lantern"}};
  touchUp.used = 0;
  final.touchUps = {touchUp};
  QVERIFY(finalFromJson(finalToJson(final), "final") == final);
  QVERIFY(final.pictures() == (std::set<std::string>{"abc", "p"}));
  final.picture.clear();
  final.tiles = {"x", "y"};
  QVERIFY(finalFromJson(finalToJson(final), "final") == final);
}

void TouchUpTest::studiesKeepFinals() {
  QTemporaryDir folder;
  StudyState state;
  Final final;
  final.id = newId(state, "f");
  final.size = {768, 512};
  TouchUp touchUp;
  touchUp.id = newId(state, "t");
  final.touchUps = {touchUp};
  state.finals = {final};
  state.looking.final = final.id;
  state.looking.touchUp = touchUp.id;
  const auto path = fixtures::in(folder, "finals.scaffold");
  StudyFile::create(path, state);
  const StudyState read = StudyFile::open(path).readState();
  QVERIFY(read.finals == state.finals);
  QCOMPARE(read.looking.touchUp, touchUp.id);
  QVERIFY(changesBetween(StudyState{}, read).finals);
}

void TouchUpTest::wrongFieldsAreMended() {
  StudyState state;
  Final final;
  final.id = "f1";
  final.size = {768, 512};
  TouchUp touchUp;
  touchUp.id = "t2";
  touchUp.tries = {{"p", {0, 0, 10, 10}, 1, 0.5, 1, ""}};
  final.touchUps = {touchUp};
  state.finals = {final};
  auto json = stateToJson(state);
  json["finals"][0]["touch-ups"][0]["feather"] = -5;
  json["finals"][0]["touch-ups"][0]["tries"][0]["box"] = {5, 5, 1, 1};
  json["finals"][0]["touch-ups"][0]["used"] = 0;
  json["finals"].push_back({{"id", "f9"}});
  Mended mended;
  const StudyState read = stateFromJson(json, &mended);
  QCOMPARE(static_cast<int>(read.finals.size()), 1);
  QCOMPARE(read.finals[0].touchUps[0].feather, 0.0);
  QCOMPARE(read.finals[0].touchUps[0].used, -1);
  QVERIFY(mended.sentences().size() >= 3);
}

HSCAFFOLD_TEST(TouchUpTest)
#include "touch_up_test.moc"
