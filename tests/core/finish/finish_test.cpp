// Finals: enlarging, tiles and their joins, parts that agree with the whole.
#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/engine/guided_jobs.h"
#include "core/engine/standin/standin.h"
#include "core/finish/enlarge.h"
#include "core/finish/pull_final.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

/// Peak signal to noise of what is shown, dB.
double psnr(const Image<Rgb8>& a, const Image<Rgb8>& b) {
  double sum = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) {
      const Rgb8 p = a(x, y), q = b(x, y);
      for (const int d : {p.r - q.r, p.g - q.g, p.b - q.b}) sum += d * d;
    }
  return 10 * std::log10(255.0 * 255.0 / std::max(1e-9, sum / (3.0 * static_cast<double>(a.size().area()))));
}

Image<Rgb> sceneAs(int scene, Size size) { return resampled(fixtures::scene(scene).view(), size, Resampling::area); }

FinalPlan planOf(const Recipe& proof, Size size, double change = 0.3) { return {proof, 1, size, change}; }

/// An engine that takes parts for pictures of their own: each is its start picture, a little brighter or darker.
class Piecemeal final : public Engine {
 public:
  explicit Piecemeal(std::int64_t mostPixels) : most_(mostPixels) {}
  [[nodiscard]] EngineInfo info() const override {
    EngineInfo info;
    info.name = info.id = info.title = "piecemeal";
    info.mostPixels = most_;
    for (const Kind& kind : kinds()) info.kinds.push_back(kind.id);
    return info;
  }
  Image<Rgb8> generate(const EngineJob& job, const EngineSink&, StopToken stop) override {
    throwIfStopped(stop);
    checkJob(job, info());
    jobs.push_back(job.recipe);
    maps.push_back(job.inputs.empty() ? Map() : job.inputs.front().map.clone());
    if (stopAfter >= 0 && std::ssize(jobs) > stopAfter) throw Cancelled();
    auto picture = job.start.clone();
    const float by = jobs.size() % 2 == 0 ? 1.06f : 1.0f;
    for (int y = 0; y < picture.height(); ++y)
      for (Rgb& c : picture.line(y)) c = c * by;
    return toSrgb8(picture.view());
  }
  [[nodiscard]] double estimate(const Recipe&) const override { return 1; }
  std::vector<Recipe> jobs;
  std::vector<Map> maps;
  int stopAfter = -1;

 private:
  std::int64_t most_;
};

Recipe plainRecipe(Size frame, const std::string& prompt) {
  Recipe recipe;
  recipe.frame = frame;
  recipe.brief.prompt = prompt;
  recipe.brief.seed = 5;
  return recipe;
}

}  // namespace

class FinishTest : public QObject {
  Q_OBJECT
 private slots:
  void enlargingBeatsLanczos_data();
  void enlargingBeatsLanczos();
  void aPartIsEnlargedAsTheWhole();
  void tilesCoverTheWhole_data();
  void tilesCoverTheWhole();
  void joinedTilesOfOnePictureAreThatPicture();
  void aBorderIsSeenWhereTilesDiffer();
  void partsAgreeWithTheWhole_data();
  void partsAgreeWithTheWhole();
  void aFinalIsItsProofLarger();
  void anotherEngineIsToldOfItsPart();
  void whatWasDoneIsNotDoneAgain();
  void finalsKeepTheirRatio();
};

void FinishTest::enlargingBeatsLanczos_data() {
  QTest::addColumn<int>("scene");
  QTest::addColumn<int>("times");
  for (int scene = 0; scene < fixtures::scenes; ++scene)
    for (const int times : {2, 3, 4}) QTest::addRow("scene %d, %d times", scene, times) << scene << times;
}

void FinishTest::enlargingBeatsLanczos() {
  QFETCH(int, scene);
  QFETCH(int, times);
  const Size small{96, 64}, large{96 * times, 64 * times};
  const auto truth = sceneAs(scene, large);
  const auto seen = resampled(truth.view(), small, Resampling::area);
  const auto ours = toSrgb8(enlargedAlongEdges(seen.view(), large).view()),
             plain = toSrgb8(resampled(seen.view(), large).view()), whole = toSrgb8(truth.view());
  QVERIFY2(psnr(ours, whole) > psnr(plain, whole) + 0.2,
           qPrintable(QString("%1 against %2 dB").arg(psnr(ours, whole)).arg(psnr(plain, whole))));
}

void FinishTest::aPartIsEnlargedAsTheWhole() {
  const auto small = sceneAs(1, {120, 80});
  // Sizes that are no multiples, too.
  for (const Size whole : {Size{360, 240}, Size{216, 144}}) {
    const auto all = toSrgb8(enlargedAlongEdges(small.view(), whole).view());
    const Box box{whole.width / 3 + 1, 17, whole.width / 3 + 90, 101};
    const auto part = toSrgb8(enlargedPart(small.view(), whole, box).view());
    const auto cutOut = copied(partOf(all.view(), box));
    QVERIFY2(psnr(part, cutOut) > 55, qPrintable(QString::number(psnr(part, cutOut))));
  }
}

void FinishTest::tilesCoverTheWhole_data() {
  QTest::addColumn<int>("width");
  QTest::addColumn<int>("height");
  QTest::addColumn<int>("most");
  QTest::addRow("one") << 768 << 512 << 1'000'000;
  QTest::addRow("six") << 1536 << 1024 << 512 * 512;
  QTest::addRow("tall") << 512 << 4096 << 640 * 640;
  QTest::addRow("large") << 6144 << 4096 << 7'000'000;
  QTest::addRow("odd") << 1000 << 744 << 400 * 400;
}

void FinishTest::tilesCoverTheWhole() {
  QFETCH(int, width);
  QFETCH(int, height);
  QFETCH(int, most);
  const TilePlan plan = tilesFor({width, height}, most, 8);
  QCOMPARE(static_cast<int>(plan.tiles.size()), plan.count());
  Image<std::uint8_t> covered(width, height);
  for (std::size_t i = 0; i < plan.tiles.size(); ++i) {
    const Box& tile = plan.tiles[i];
    QVERIFY(tile == cut(tile, plan.whole));
    QVERIFY(tile.size() == plan.tiles.front().size());
    QVERIFY(tile.width() % 8 == 0 && tile.height() % 8 == 0);
    QVERIFY(tile.size().area() <= most);
    for (int y = tile.top; y < tile.bottom; ++y)
      for (int x = tile.left; x < tile.right; ++x) covered(x, y) = 1;
    if (i % static_cast<std::size_t>(plan.columns) > 0) QVERIFY(plan.tiles[i - 1].right - tile.left >= leastOverlap);
  }
  for (int y = 0; y < height; ++y)
    for (const std::uint8_t here : covered.line(y)) QVERIFY(here == 1);
  QVERIFY(!fixtures::problemOf([] { static_cast<void>(tilesFor({1024, 1024}, 100 * 100, 8)); }).isEmpty());
}

void FinishTest::joinedTilesOfOnePictureAreThatPicture() {
  const auto picture = toSrgb8(sceneAs(0, {600, 400}).view());
  const TilePlan plan = tilesFor(picture.size(), 256 * 256, 8);
  QVERIFY(plan.count() >= 6);
  TileJoiner joiner(plan);
  for (const Box& tile : plan.tiles) joiner.lay(partOf(picture.view(), tile));
  QVERIFY(joiner.picture() == picture);
  QVERIFY2(joiner.joins().energy <= 1.05, qPrintable(QString::number(joiner.joins().energy)));
}

void FinishTest::aBorderIsSeenWhereTilesDiffer() {
  // Noise under it, so that there is something beside the joins to compare with.
  auto picture = toSrgb8(fixtures::noise(600, 400, 3, 0.05f).view());
  const TilePlan plan = tilesFor(picture.size(), 256 * 256, 8);
  const auto laid = [&](int by) {
    TileJoiner joiner(plan);
    for (std::size_t i = 0; i < plan.tiles.size(); ++i) {
      auto tile = copied(partOf(std::as_const(picture).view(), plan.tiles[i]));
      for (int y = 0; y < tile.height(); ++y)
        for (Rgb8& c : tile.line(y)) c.g = static_cast<std::uint8_t>(std::min(255, c.g + (i % 2 == 0 ? 0 : by)));
      joiner.lay(tile.view());
    }
    return joiner.joins().energy;
  };
  QVERIFY(laid(0) < 1.1);
  QVERIFY2(laid(120) > 1.5, qPrintable(QString::number(laid(120))));
}

void FinishTest::partsAgreeWithTheWhole_data() {
  QTest::addColumn<QString>("medium");
  for (const char* medium : {"gouache", "oil", "watercolour", "ink", "woodcut", "pencil", "flat colour", "photograph"})
    QTest::newRow(medium) << QString(medium);
}

void FinishTest::partsAgreeWithTheWhole() {
  QFETCH(QString, medium);
  StandinEngine engine;
  const Recipe recipe = plainRecipe({480, 320}, "a tea house by the sea, " + medium.toStdString());
  const auto proof = engine.generate({recipe, {}, {}}, {}, {});
  const FinalPlan plan = planOf(recipe, {960, 640});
  Recipe small = recipe;
  small.brief.start.from = StartPicture::From::proof;
  small.brief.start.change = plan.change;
  const EngineJob job{small, {}, toLinear(proof)};
  const auto composed = engine.compose(job, plan.size, {}, {});
  QVERIFY(composed != nullptr);
  const auto painted = [&](const Box& box) {
    const auto start = enlargedPart(job.start.view(), plan.size, composed->seenFor(box));
    return composed->paint(box, start.view(), {});
  };
  const auto whole = painted(boxOf(plan.size));
  const Box box{330, 200, 700, 500};
  const auto part = painted(box), there = copied(partOf(whole.view(), box));
  // Strokes begin from further away than a part looks: theirs may differ here and there.
  QVERIFY2(psnr(part, there) > 38, qPrintable(QString::number(psnr(part, there))));
}

void FinishTest::aFinalIsItsProofLarger() {
  StandinEngine engine;
  const EngineJob job = fixtures::guidedJob("edges", fixtures::mapOf("edges", 1), 7, 0.9, "a tea house, gouache", {});
  Recipe recipe = job.recipe;
  recipe.guides.clear();
  const auto proof = engine.generate({recipe, {}, {}}, {}, {});
  const Size size{recipe.frame.width * 2, recipe.frame.height * 2};
  int told = 0;
  FinalSink sink;
  sink.tile = [&](int, View<Rgb8>) { ++told; };
  const auto made = pullFinal(engine, planOf(recipe, size), proof.view(), {}, nullptr, sink, {});
  QCOMPARE(made.picture.width(), size.width);
  QCOMPARE(told, made.plan.count());
  QCOMPARE(made.recipe.frame.width, size.width);
  QVERIFY(recipeFromTexts(readPngTexts(made.png)) == made.recipe);
  QVERIFY(decodePngRgb8(made.png) == made.picture);
  const auto back = toSrgb8(resampled(toLinear(made.picture.view()).view(), recipe.frame, Resampling::area).view());
  QVERIFY2(psnr(back, proof) > 26, qPrintable(QString::number(psnr(back, proof))));
  // Without an engine it is nearer still, and says that it left nothing.
  const auto plain = enlargeToFinal(planOf(recipe, size), proof.view(), {}, nullptr, {});
  const auto plainBack =
      toSrgb8(resampled(toLinear(plain.picture.view()).view(), recipe.frame, Resampling::area).view());
  QVERIFY2(psnr(plainBack, proof) > 40, qPrintable(QString::number(psnr(plainBack, proof))));
  QCOMPARE(plain.recipe.brief.start.change, 0.0);
}

void FinishTest::anotherEngineIsToldOfItsPart() {
  Piecemeal engine(320 * 320);
  Recipe recipe = plainRecipe({384, 256}, "a pier");
  const auto proof = toSrgb8(sceneAs(0, recipe.frame).view());
  const FinalPlan plan = planOf(recipe, {768, 512});
  const auto made = pullFinal(engine, plan, proof.view(), {}, nullptr, {}, {});
  QVERIFY(made.plan.count() > 1);
  QCOMPARE(static_cast<int>(engine.jobs.size()), made.plan.count());
  for (std::size_t i = 0; i < engine.jobs.size(); ++i) {
    const Recipe& job = engine.jobs[i];
    QVERIFY(job.part && job.part->whole == plan.size && job.part->box == made.plan.tiles[i]);
    QCOMPARE(job.brief.prompt, recipe.brief.prompt);
    QCOMPARE(job.brief.seed, recipe.brief.seed);
    QVERIFY(recipeFromJson(recipeToJson(job)) == job);
  }
  // Tiles that differ are joined where it shows least, and what is left is said.
  QVERIFY2(made.joins.energy > 0, qPrintable(QString::number(made.joins.energy)));
}

void FinishTest::whatWasDoneIsNotDoneAgain() {
  Piecemeal engine(320 * 320);
  const Recipe recipe = plainRecipe({384, 256}, "a pier");
  const auto proof = toSrgb8(sceneAs(0, recipe.frame).view());
  const FinalPlan plan = planOf(recipe, {768, 512});
  std::map<int, Image<Rgb8>> kept;
  FinalSink sink;
  sink.tile = [&](int number, View<Rgb8> tile) { kept[number] = copied(tile); };
  sink.kept = [&](int number) { return kept.contains(number) ? kept[number].clone() : Image<Rgb8>(); };
  engine.stopAfter = 2;
  QVERIFY_THROWS_EXCEPTION(Cancelled, pullFinal(engine, plan, proof.view(), {}, nullptr, sink, {}));
  QCOMPARE(static_cast<int>(kept.size()), 2);
  engine.stopAfter = -1;
  engine.jobs.clear();
  const auto made = pullFinal(engine, plan, proof.view(), {}, nullptr, sink, {});
  QCOMPARE(static_cast<int>(engine.jobs.size()), made.plan.count() - 2);
}

void FinishTest::finalsKeepTheirRatio() {
  StandinEngine engine;
  const Recipe recipe = plainRecipe({480, 320}, "a pier");
  const Image<Rgb8> proof(480, 320);
  for (const Size size : {Size{960, 720}, Size{240, 160}})
    QVERIFY(!fixtures::problemOf([&] {
               static_cast<void>(pullFinal(engine, planOf(recipe, size), proof.view(), {}, nullptr, {}, {}));
             }).isEmpty());
}

HSCAFFOLD_TEST(FinishTest)
#include "finish_test.moc"
