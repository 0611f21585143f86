// Moods: colours brought from one picture to another, palettes, and what engines make of both.
#include <QTest>
#include <algorithm>
#include <cmath>

#include "core/engine/standin/standin.h"
#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/resample.h"
#include "core/job/prepare.h"
#include "core/measure/hold.h"
#include "core/mood/mood.h"
#include "core/mood/transport.h"
#include "core/retouch/work_store.h"
#include "core/study/checks.h"
#include "core/study/study.h"
#include "core/tone/light_table.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::mood;

namespace {

/// A picture of other colours than any scene: rust below, teal above, a little white.
Image<Rgb> rust(Size size = {240, 160}) {
  Image<Rgb> out(size);
  const auto noise = fixtures::noise(size.width, size.height, 5, 0.15f);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const Rgb base = y > 0.4 * size.height ? Rgb{0.35f, 0.09f, 0.03f} : Rgb{0.05f, 0.22f, 0.24f};
      const float by = 0.6f + noise(x, y).g * 2;
      out(x, y) = {base.r * by, base.g * by, base.b * by};
      if (x > 200 * size.width / 240 && y < size.height / 5) out(x, y) = {0.9f, 0.88f, 0.8f};
    }
  return out;
}

/// How well light and dark lie alike, whatever their values: correlation of ranks.
double lightCorrelation(View<Rgb> a, View<Rgb> b) {
  const auto ranksOf = [](View<Rgb> picture) {
    const auto small = luminanceOf(resampled(picture, {60, 40}, Resampling::area));
    std::vector<float> sorted;
    for (int y = 0; y < 40; ++y) sorted.insert(sorted.end(), small.row(y), small.row(y) + 60);
    std::sort(sorted.begin(), sorted.end());
    Image<float> out(small.size());
    for (int y = 0; y < 40; ++y)
      for (int x = 0; x < 60; ++x)
        out(x, y) = static_cast<float>(std::lower_bound(sorted.begin(), sorted.end(), small(x, y)) - sorted.begin());
    return out;
  };
  return correlation(ranksOf(a), ranksOf(b));
}

constexpr Size moodFrame{240, 160};

Recipe moodRecipe(Sorting sorting, double change = 0.2) {
  Recipe recipe;
  recipe.frame = moodFrame;
  recipe.brief.prompt = "a tea house by the water, gouache";
  recipe.brief.seed = 7;
  recipe.brief.steps = 12;
  recipe.references = {{"r1", "rust", {}, "rust"}, {"r2", "scene", {}, "scene"}};
  RecipeGuide edges;
  edges.guide.id = "g1";
  edges.guide.kind = "edges";
  edges.guide.name = "Edges";
  edges.guide.reference = "r2";
  edges.guide.weight = 0.9;
  recipe.guides = {edges};
  StartPicture& start = recipe.brief.start;
  start.from = StartPicture::From::reference;
  start.reference = "r1";
  start.moodOnly = true;
  start.change = change;
  start.mood = {4, sorting};
  return recipe;
}

JobSources sources() {
  static WorkStore store;
  return {[](const RecipeReference& reference) {
            const auto& picture = reference.source() == "rust" ? rust() : fixtures::scene(1).clone();
            return std::make_shared<const Image<Rgba16>>(toSrgb16(picture.view()));
          },
          [](std::int64_t) -> Bytes { throw badInput("no proofs"); },
          [](const Guide& guide) { return takenWork(guide, store); }};
}

}  // namespace

class MoodTest : public QObject {
  Q_OBJECT
 private slots:
  void theSameColoursAreNoDistance();
  void monotoneKeepsTheOrderOfLight();
  void slicedReachesTheDistribution();
  void greysHaveNothingToStretch();
  void asItLiesHasNoLayout();
  void sortedHasTheLayoutAndTheColours_data();
  void sortedHasTheLayoutAndTheColours();
  void depthGoesFromTopToBottom();
  void withoutALayoutItLiesAsItDoes();
  void palettesStandForThePicture();
  void lockedColoursStay();
  void jobsSortIntoTheFirstOtherReference();
  void proofsTakeTheMoodAndKeepTheLayout();
  void wantedColoursAreTaken();
  void wordsThatNameAColourGoFirst();
  void guidesAreStartPictures();
  void checksSayWhatIsMissing();
};

void MoodTest::theSameColoursAreNoDistance() {
  const auto a = coloursOf(rust()), b = coloursOf(fixtures::scene(1));
  QCOMPARE(colourDistance(a, a), 0.0);
  QVERIFY(colourDistance(a, b) > 3);
  QCOMPARE(colourDistance(a, b), colourDistance(b, a));
  // Where they are does not count.
  auto shuffled = a;
  std::reverse(shuffled.begin(), shuffled.end());
  QVERIFY(colourDistance(a, shuffled) < 1e-6);
}

void MoodTest::monotoneKeepsTheOrderOfLight() {
  const auto from = coloursOf(fixtures::scene(1)), to = coloursOf(rust());
  const MonotoneTransport transport(from, to);
  float last = -1;
  for (int i = 0; i <= 100; ++i) {
    const float now = transport({static_cast<float>(i) / 100, 0, 0}).l;
    QVERIFY(now >= last);
    last = now;
  }
  std::vector<OkLab> moved;
  for (const OkLab& c : from) moved.push_back(transport(c));
  QVERIFY(colourDistance(moved, to) < 0.5 * colourDistance(from, to));
}

void MoodTest::slicedReachesTheDistribution() {
  const auto from = coloursOf(fixtures::scene(0)), to = coloursOf(rust());
  const auto moved = slicedTransport(from, to);
  QCOMPARE(moved.size(), from.size());
  const double before = colourDistance(from, to), after = colourDistance(moved, to);
  QVERIFY2(after < 0.1 * before, qPrintable(QString("%1 %2").arg(before).arg(after)));
  QVERIFY(slicedTransport({}, to).empty());
}

void MoodTest::greysHaveNothingToStretch() {
  std::vector<OkLab> grey;
  for (int i = 0; i < 500; ++i) grey.push_back({static_cast<float>(i) / 500, 0, 0});
  const auto to = coloursOf(rust());
  const MonotoneTransport transport(grey, to);
  for (const OkLab& c : grey) {
    const OkLab moved = transport(c);
    QVERIFY(std::hypot(moved.a, moved.b) < 0.3f && moved.l >= 0 && moved.l <= 1);
  }
}

void MoodTest::asItLiesHasNoLayout() {
  const auto scene = resampled(fixtures::scene(1).view(), moodFrame);
  const auto mood = moodOf(scene, {12, Sorting::asItLies});
  QCOMPARE(mood.size(), moodFrame);
  // What is fine is gone, what is broad is there.
  const auto light = luminanceOf(mood);
  double steepest = 0;
  for (int y = 0; y < moodFrame.height; ++y)
    for (int x = 1; x < moodFrame.width; ++x)
      steepest = std::max(steepest, std::abs(static_cast<double>(light(x, y) - light(x - 1, y))));
  QVERIFY(steepest < 0.02);
  QVERIFY(colourDistance(moodOf(scene, {0, Sorting::asItLies}).view(), scene.view()) < 1.5);
}

void MoodTest::sortedHasTheLayoutAndTheColours_data() {
  QTest::addColumn<int>("sorting");
  QTest::addRow("by light") << static_cast<int>(Sorting::byLight);
  QTest::addRow("by colour") << static_cast<int>(Sorting::byColour);
}
void MoodTest::sortedHasTheLayoutAndTheColours() {
  QFETCH(int, sorting);
  for (int number = 0; number < fixtures::scenes; ++number) {
    const auto& layout = fixtures::scene(number);
    const auto mood = moodOf(rust(), {2, static_cast<Sorting>(sorting)}, {layout.view(), {}});
    QCOMPARE(mood.size(), moodFrame);
    const double lies = lightCorrelation(mood, layout), before = colourDistance(layout.view(), rust().view()),
                 after = colourDistance(mood.view(), rust().view());
    QVERIFY2(lies > 0.9 && after < 0.4 * before,
             qPrintable(QString("scene %1: lies %2, %3 of %4").arg(number).arg(lies).arg(after).arg(before)));
  }
}

void MoodTest::depthGoesFromTopToBottom() {
  Image<std::uint16_t> near(moodFrame.width, moodFrame.height);
  for (int y = 0; y < moodFrame.height; ++y)
    for (int x = 0; x < moodFrame.width; ++x) near(x, y) = static_cast<std::uint16_t>(x * 273);
  const auto mood = moodOf(rust(), {0, Sorting::byDepth}, {{}, near.view()});
  // Far, on the left, is teal as the mood is above; near, on the right, is rust.
  QVERIFY(mood(10, 80).b > 2 * mood(10, 80).r);
  QVERIFY(mood(230, 80).r > 3 * mood(230, 80).b);
}

void MoodTest::withoutALayoutItLiesAsItDoes() {
  for (const Sorting sorting : {Sorting::byLight, Sorting::byColour, Sorting::byDepth}) {
    QVERIFY(!canSort(sorting, {}));
    QVERIFY(moodOf(rust(), {8, sorting}) == moodOf(rust(), {8, Sorting::asItLies}));
    QVERIFY(sortingNamed(idOf(sorting)) == sorting);
  }
  QVERIFY(!sortingNamed("by-luck"));
}

void MoodTest::palettesStandForThePicture() {
  for (std::size_t count = 1; count <= mostColours; ++count) QCOMPARE(paletteOf(rust(), count).size(), count);
  QVERIFY(paletteOf(rust(), 5) == paletteOf(rust(), 5));
  // The most common first; what is small and yet apart is there.
  Image<Rgb> flat(100, 100, Rgb{0.4f, 0.1f, 0.05f});
  for (int y = 0; y < 30; ++y)
    for (auto& c : flat.line(y)) c = {0.05f, 0.2f, 0.3f};
  for (int y = 90; y < 100; ++y)
    for (int x = 0; x < 40; ++x) flat(x, y) = {0.9f, 0.9f, 0.8f};
  const auto palette = paletteOf(flat, 3);
  const auto near = [](const Rgb& a, const Rgb& b) {
    return std::abs(a.r - b.r) + std::abs(a.g - b.g) + std::abs(a.b - b.b) < 0.05f;
  };
  QVERIFY(near(palette[0].colour, {0.4f, 0.1f, 0.05f}) && near(palette[1].colour, {0.05f, 0.2f, 0.3f}) &&
          near(palette[2].colour, {0.9f, 0.9f, 0.8f}));
}

void MoodTest::lockedColoursStay() {
  auto before = paletteOf(rust(), 5);
  before[2] = {{0.9f, 0.1f, 0.6f}, true};
  const auto after = paletteOf(fixtures::scene(0), 5, before);
  QVERIFY(after[2] == before[2]);
  for (std::size_t i = 0; i < after.size(); ++i)
    if (i != 2) QVERIFY(!after[i].locked && !(after[i] == before[i]));
  // What is cut off by a smaller count is gone, locked or not.
  QCOMPARE(paletteOf(rust(), 2, before).size(), std::size_t{2});
}

void MoodTest::jobsSortIntoTheFirstOtherReference() {
  const auto plain = jobFrom(moodRecipe(Sorting::asItLies), sources()),
             sorted = jobFrom(moodRecipe(Sorting::byLight), sources());
  const auto scene = resampled(fixtures::scene(1).view(), moodFrame);
  QVERIFY(lightCorrelation(sorted.job.start, scene) > 0.85);
  QVERIFY(lightCorrelation(plain.job.start, scene) < 0.7);
  // Without a mood the picture comes as it is.
  auto whole = moodRecipe(Sorting::byLight);
  whole.brief.start.moodOnly = false;
  QVERIFY(colourDistance(jobFrom(whole, sources()).job.start.view(), rust().view()) < 0.5);
}

void MoodTest::proofsTakeTheMoodAndKeepTheLayout() {
  auto none = moodRecipe(Sorting::byLight);
  none.brief.start = {};
  StandinEngine engine;
  const auto proofOf = [&](const Recipe& recipe) {
    const auto made = jobFrom(recipe, sources());
    const auto proof = engine.generate(made.job, {}, {});
    const double hold = holdingOf(kindOf("edges"), made.job.inputs[0], proof)->hold;
    return std::pair(colourDistance(toLinear(proof).view(), rust().view()), hold);
  };
  const auto [far, held] = proofOf(none);
  for (const Sorting sorting : {Sorting::asItLies, Sorting::byLight, Sorting::byColour}) {
    const auto [near, now] = proofOf(moodRecipe(sorting));
    QVERIFY2(near < 0.5 * far, qPrintable(QString("%1: %2 of %3").arg(idOf(sorting)).arg(near).arg(far)));
    QVERIFY2(now > held - 12, qPrintable(QString("%1: hold %2 of %3").arg(idOf(sorting)).arg(now).arg(held)));
  }
  // The more may be left of it, the less it says.
  QVERIFY(proofOf(moodRecipe(Sorting::byLight, 0.9)).first > proofOf(moodRecipe(Sorting::byLight, 0.2)).first);
}

namespace {

Image<Rgb8> proofWith(const std::string& prompt, std::vector<WantedColour> colours) {
  EngineJob job;
  job.recipe.frame = moodFrame;
  job.recipe.brief.prompt = prompt;
  job.recipe.brief.seed = 11;
  job.recipe.brief.steps = 12;
  job.recipe.brief.colours = std::move(colours);
  return StandinEngine().generate(job, {}, {});
}

}  // namespace

void MoodTest::wantedColoursAreTaken() {
  const std::vector<WantedColour> wanted = paletteOf(rust(), 6);
  const auto plain = proofWith("a tea house by the water, gouache", {}),
             with = proofWith("a tea house by the water, gouache", wanted);
  const auto goal = rust();
  QVERIFY(colourDistance(toLinear(with).view(), goal.view()) <
          0.75 * colourDistance(toLinear(plain).view(), goal.view()));
  QVERIFY(lightCorrelation(toLinear(with), toLinear(plain)) > 0.6);
}

void MoodTest::wordsThatNameAColourGoFirst() {
  // All is to be green, but the prompt says red.
  const std::vector<WantedColour> green = {{{0.02f, 0.3f, 0.05f}, false}, {{0.1f, 0.6f, 0.15f}, false}};
  const auto redness = [](const Image<Rgb8>& picture) {
    double sum = 0;
    for (int y = 0; y < picture.height(); ++y)
      for (const Rgb8& c : picture.line(y)) sum += c.r > c.g + 25 ? 1 : 0;
    return sum / static_cast<double>(picture.size().area());
  };
  QVERIFY(redness(proofWith("a red boat on the sea, gouache", green)) >
          redness(proofWith("a boat on the sea, gouache", green)) + 0.01);
}

void MoodTest::guidesAreStartPictures() {
  WorkStore store;
  Recipe recipe;
  recipe.frame = moodFrame;
  recipe.brief.prompt = "a field";
  recipe.brief.steps = 8;
  RecipeGuide tone;
  tone.guide.id = "g9";
  tone.guide.kind = "tone";
  tone.guide.name = "Light";
  light::LightTable table;
  table.frame = moodFrame;
  light::Light area;
  area.form = light::Light::Form::flat;
  area.spots = {{0, 0}, {120, 0}, {120, 160}, {0, 160}};
  area.softness = 0;
  area.hue = light::Hue{0.15, 30};
  table.lights = {area};
  tone.guide.work.put(light::lightSlot, store.keep(light::lightForm(), table));
  recipe.guides = {tone};
  recipe.brief.start.from = StartPicture::From::guide;
  recipe.brief.start.guide = "g9";
  JobSources from = sources();
  from.work = [&](const Guide& guide) { return takenWork(guide, store); };
  const auto made = jobFrom(recipe, from);
  QCOMPARE(made.job.start.size(), moodFrame);
  QVERIFY(made.job.start(60, 80).r > 1.5f * made.job.start(60, 80).b);
  QVERIFY(std::abs(made.job.start(200, 80).r - made.job.start(200, 80).b) < 0.01f);
  recipe.brief.start.guide = "g1";
  QVERIFY(fixtures::problemOf([&] { jobFrom(recipe, from); }).contains("not on"));
}

void MoodTest::checksSayWhatIsMissing() {
  StudyState state;
  state.references.push_back({});
  state.references.back().id = "r1";
  state.brief.start.from = StartPicture::From::reference;
  state.brief.start.reference = "r1";
  state.brief.start.moodOnly = true;
  state.brief.start.mood.sorting = Sorting::byLight;
  const auto has = [&](const char* id) {
    const auto all = checksOf(state, {});
    const auto found = std::find_if(all.begin(), all.end(), [&](const Check& c) { return c.id == id; });
    if (found != all.end() && found->fix) {
      StudyState mended = state;
      found->fix(mended);
      const auto after = checksOf(mended, {});
      if (std::any_of(after.begin(), after.end(), [&](const Check& c) { return c.id == id; })) qFatal("not mended");
    }
    return found != all.end();
  };
  QVERIFY(has("mood-no-layout"));
  state.brief.start.mood.sorting = Sorting::asItLies;
  QVERIFY(!has("mood-no-layout"));
  state.brief.start.from = StartPicture::From::guide;
  state.brief.start.guide = "g4";
  QVERIFY(has("start-gone"));
}

HSCAFFOLD_TEST(MoodTest)
#include "mood_test.moc"
