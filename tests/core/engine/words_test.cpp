// What the stand-in understands: phrases, emphasis, styles, and what they do to pictures.
#include <QTest>
#include <set>

#include "core/brief/styles.h"
#include "core/engine/standin/lexicon.h"
#include "core/engine/standin/look_words.h"
#include "core/engine/standin/plan.h"
#include "core/engine/standin/subjects.h"
#include "core/image/colour.h"
#include "guided_jobs.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::standin;

namespace {

constexpr float tau = 6.2831853f;

Wishes wishesOf(const std::string& prompt) { return wishesFrom(prompt, "", 6.5); }
float hueAway(OkLch colour, float degrees) { return std::abs(std::remainder(colour.h - degrees * tau / 360, tau)); }
const WishedColour& colourOf(const Wishes& wishes, Part part) { return wishes.colours[static_cast<std::size_t>(part)]; }

/// Share of a picture whose hue lies within 40 degrees of this one and is a colour at all, weighed by chroma.
double colourShare(const Image<Rgb8>& picture, float degrees) {
  double sum = 0;
  const auto linear = toLinear(picture.view());
  for (int y = 0; y < linear.height(); ++y)
    for (int x = 0; x < linear.width(); ++x) {
      const OkLch c = okLabToOkLch(linearToOkLab(linear(x, y)));
      if (hueAway(c, degrees) < 40 * tau / 360) sum += static_cast<double>(c.c);
    }
  return sum / static_cast<double>(picture.size().area());
}

EngineJob freeJob(const std::string& prompt, std::uint32_t seed = 3) {
  EngineJob job;
  job.recipe.frame = {192, 128};
  job.recipe.brief.prompt = prompt;
  job.recipe.brief.seed = seed;
  job.recipe.brief.steps = 6;
  return job;
}

SubjectPlan planned(const std::string& prompt, std::uint64_t seed = 5) {
  return planSubject(wishesOf(prompt), seed, 1.5f, 0.5f, 0.7f);
}
const Standing* companion(const SubjectPlan& plan, SubjectKind kind) {
  for (const Standing& c : plan.others)
    if (c.kind == kind) return &c;
  return nullptr;
}

}  // namespace

class WordsTest : public QObject {
  Q_OBJECT
 private slots:
  void coloursGoToTheNounBehindThem();
  void colouredThingsThatNobodyKnowsAreASpot();
  void clothesColourWhoWearsThem();
  void partsBelongToTheirThing();
  void lightWordsMakeItDay();
  void numbersCount();
  void placesAreKept();
  void whatFliesIsInTheSky();
  void denialIsIgnored();
  void emphasisActsByDegree();
  void negativeEmphasisKeepsAway();
  void stylesMixInAnyOrder();
  void styleStrengthActsByDegree();
  void stylesKeepTheComposition();
  void mediaAreEight();
  void everyCardLooksDifferent();
  void oddTextsAreBounded_data();
  void oddTextsAreBounded();
  void variationsGoFurtherByDegree();
  void looksAreToldInKnownWords();
};

void WordsTest::coloursGoToTheNounBehindThem() {
  auto w = wishesOf("a red kite flying over a wide blue sea, green sky");
  QVERIFY(hueAway(colourOf(w, Part::subject).colour, 27) < 0.05f);
  QVERIFY(hueAway(colourOf(w, Part::middle).colour, 258) < 0.05f);
  QVERIFY(colourOf(w, Part::ground).strength == 0);
  w = wishesOf("a yellow wooden boat");
  QVERIFY(hueAway(colourOf(w, Part::subject).colour, 100) < 0.05f);
  w = wishesOf("a red and white tower");
  QVERIFY(hueAway(colourOf(w, Part::subject).colour, 27) < 0.05f);
  QVERIFY(w.accent.strength > 0 && w.accent.colour.l > 0.9f);
  // Alone it is meant for everything.
  w = wishesOf("a boat on the sea, blue");
  QVERIFY(hueAway(w.general.colour, 258) < 0.05f && w.general.strength > 0);
  QVERIFY(colourOf(w, Part::subject).strength == 0);
}

void WordsTest::colouredThingsThatNobodyKnowsAreASpot() {
  const auto w = wishesOf("a dune under a clear sky, a yellow zeppelin");
  QVERIFY(hueAway(w.accent.colour, 100) < 0.05f && w.accent.strength > 0);
  QVERIFY(w.general.strength == 0);
  for (const auto& part : w.colours) QVERIFY(part.strength == 0);
  const auto with = paletteFrom(w, 4), without = paletteFrom(wishesOf("a dune under a clear sky, a zeppelin"), 4);
  QVERIFY(hueAway(with.accent, 100) < 0.35f);
  for (std::size_t p = 0; p < partCount; ++p) QVERIFY(std::abs(with.parts[p].h - without.parts[p].h) < 0.01f);
}

void WordsTest::clothesColourWhoWearsThem() {
  QVERIFY(hueAway(colourOf(wishesOf("a woman in a yellow raincoat by the sea"), Part::subject).colour, 100) < 0.05f);
  QVERIFY(hueAway(colourOf(wishesOf("a yellow raincoat on a girl"), Part::subject).colour, 100) < 0.05f);
  const auto left = wishesOf("a lighthouse, a yellow raincoat on the sand");
  QVERIFY(colourOf(left, Part::subject).strength == 0);
  QVERIFY(hueAway(left.accent.colour, 100) < 0.05f);
}

void WordsTest::partsBelongToTheirThing() {
  const auto house = standin::wishesFrom("a tea house with a red roof", "", 6.5);
  const auto top = static_cast<std::size_t>(standin::Band::top),
             bottom = static_cast<std::size_t>(standin::Band::bottom);
  QVERIFY(house.bands[top].strength > 0.5f);
  QCOMPARE(house[standin::Trait::town], 0.0f);
  for (const auto& colour : house.colours) QCOMPARE(colour.strength, 0.0f);
  QVERIFY(standin::wishesFrom("a boat with a blue hull", "", 6.5).bands[bottom].strength > 0.5f);
  // What is too small to be placed changes nothing; roofs without a house are a town's.
  const auto door = standin::wishesFrom("a house with a red door", "", 6.5);
  for (const auto& band : door.bands) QCOMPARE(band.strength, 0.0f);
  QCOMPARE(door[standin::Trait::arch], 0.0f);
  QCOMPARE(door.left, std::vector<std::string>{"door"});
  QVERIFY(house.left.empty() && standin::wishesFrom("a house with a door", "", 6.5).left.empty());
  QVERIFY(standin::wishesFrom("red roofs at noon", "", 6.5)[standin::Trait::town] > 0);
}

void WordsTest::lightWordsMakeItDay() {
  // Whatever hour the seed would have chosen.
  for (std::uint64_t seed = 1; seed < 40; ++seed) {
    const auto day = standin::paletteFrom(standin::wishesFrom("a garden in spring sunlight", "", 6.5), seed);
    QVERIFY2(day.parts[0].l > 0.6f, qPrintable(QString::number(seed)));
  }
}

void WordsTest::numbersCount() {
  for (const auto& [prompt, count] :
       {std::pair{"three boats on the sea", 3}, {"a boat", 1}, {"two boats", 2}, {"5 boats", 5}}) {
    int boats = 0;
    const auto plan = planned(prompt);
    if (plan.kind == SubjectKind::boat) ++boats;
    for (const Standing& c : plan.others)
      if (c.kind == SubjectKind::boat) ++boats;
    // A row may run out of the frame.
    QVERIFY2(boats <= count && boats >= std::min(count, 3), prompt);
  }
  QVERIFY(!planned("boats").others.empty());
}

void WordsTest::placesAreKept() {
  for (std::uint64_t seed = 0; seed < 12; ++seed) {
    auto plan = planned("a fox beside a house", seed);
    const Standing* other = companion(plan, SubjectKind::house);
    QVERIFY(plan.kind == SubjectKind::animal && other != nullptr);
    QVERIFY(std::abs(other->footY - plan.footY) < 0.05f && other->height > plan.height);
    plan = planned("a house behind a fox", seed);
    QVERIFY(plan.kind == SubjectKind::house);
    other = companion(plan, SubjectKind::animal);
    QVERIFY(other != nullptr && other->inFront && other->footY > plan.footY);
    plan = planned("a tree, a lighthouse behind", seed);
    other = companion(plan, SubjectKind::tower);
    QVERIFY(other != nullptr && !other->inFront && other->footY < plan.footY);
    plan = planned("a kite over a tower", seed);
    other = companion(plan, SubjectKind::kite);
    QVERIFY(plan.kind == SubjectKind::tower && other != nullptr);
    QVERIFY(other->footY <= std::max(plan.footY - plan.height, 0.06f + other->height));
    plan = planned("a boat under an arch", seed);
    other = companion(plan, SubjectKind::arch);
    QVERIFY(other != nullptr && other->height > plan.height && std::abs(other->x - plan.x) < 0.01f);
  }
}

void WordsTest::whatFliesIsInTheSky() {
  for (std::uint64_t seed = 1; seed <= 6; ++seed) {
    const auto birds = planned("three birds over a calm sea", seed);
    QVERIFY(birds.kind == SubjectKind::bird);
    QCOMPARE(birds.others.size(), std::size_t{2});
    const auto balloon = planned("a balloon", seed);
    QVERIFY(balloon.kind == SubjectKind::balloon);
    // All of it is seen, and nothing of it falls on the ground.
    QVERIFY(balloon.footY - balloon.height >= 0);
    for (float y = 0.5f; y < 1; y += 0.05f) QCOMPARE(sampleShadow(balloon, balloon.x, y, 0.8f, 0.005f), 0.0f);
    // Who stands comes first, whatever flies about.
    const auto both = planned("gulls, a horse", seed);
    QVERIFY(both.kind == SubjectKind::horse && companion(both, SubjectKind::bird) != nullptr);
  }
}

void WordsTest::denialIsIgnored() {
  QVERIFY(wishesOf("no boat, a dune")[Trait::boat] > 0.5f);
  QCOMPARE(wishesOf("without fog").unknown, wishesOf("fog").unknown);
  QVERIFY(wishesFrom("a boat on a dune", "boat", 6.5)[Trait::boat] < 0.1f);
}

void WordsTest::emphasisActsByDegree() {
  double before = -1;
  float fogBefore = -9;
  for (const double weight : {0.0, 0.5, 1.0, 1.5, 2.0}) {
    auto job = freeJob("a red dune under a grey sky, fog, gouache");
    job.recipe.brief.emphasis = inOrder({{2, 8, weight}, {29, 3, weight}}, 45);
    const float fog = wishesFrom(job.recipe.brief)[Trait::fog];
    QVERIFY2(fog > fogBefore, qPrintable(QString::number(weight)));
    fogBefore = fog;
    job.recipe.brief.emphasis = inOrder({{2, 8, weight}}, 45);
    const double share = colourShare(fixtures::made(job), 27);
    QVERIFY2(share >= before - 1e-6, qPrintable(QString("%1: %2 after %3").arg(weight).arg(share).arg(before)));
    before = share;
  }
  auto plain = freeJob("a red dune"), heavy = freeJob("a red dune");
  heavy.recipe.brief.emphasis = {{2, 8, 2}};
  plain.recipe.brief.emphasis = {{2, 8, 0}};
  QVERIFY(colourShare(fixtures::made(heavy), 27) > 1.5 * colourShare(fixtures::made(plain), 27));
}

void WordsTest::negativeEmphasisKeepsAway() {
  Brief brief;
  brief.prompt = "a boat on a red dune in fog";
  brief.emphasis = {{2, 4, -1}, {12, 3, -1}, {24, 3, -1}};
  const auto w = wishesFrom(brief);
  QVERIFY(w[Trait::boat] < 0 && w[Trait::fog] < 0 && w[Trait::dune] > 0.5f);
  QVERIFY(colourOf(w, Part::ground).strength <= 0);
  QVERIFY(std::none_of(w.things.begin(), w.things.end(), [](const Thing& t) { return t.trait == Trait::boat; }));
}

void WordsTest::stylesMixInAnyOrder() {
  auto job = freeJob("a tower by the sea");
  const auto& cards = houseStyles();
  for (const std::size_t i : {0, 4, 9}) useStyle(job.recipe.brief, cards[i], 0.4 + 0.1 * static_cast<double>(i));
  const auto one = fixtures::made(job);
  std::reverse(job.recipe.brief.styles.begin(), job.recipe.brief.styles.end());
  const auto other = fixtures::made(job);
  int differing = 0;
  for (int y = 0; y < one.height(); ++y)
    for (int x = 0; x < one.width(); ++x)
      if (std::abs(one(x, y).r - other(x, y).r) > 2) ++differing;
  QVERIFY(differing < one.size().area() / 200);
}

void WordsTest::styleStrengthActsByDegree() {
  Brief brief;
  brief.prompt = "a dune, gouache";
  float darkBefore = -1, inkBefore = -1;
  for (const double strength : {0.0, 0.3, 0.6, 0.9, 1.2, 1.5}) {
    brief.styles = {{"soot", "Soot", "ink, dark", strength}};
    const auto w = wishesFrom(brief);
    QVERIFY(w[Trait::dark] > darkBefore && w[Trait::ink] > inkBefore);
    darkBefore = w[Trait::dark];
    inkBefore = w[Trait::ink];
    QCOMPARE(w.medium() == Medium::ink, strength > 0.5);
  }
  // How dark the picture is, measured.
  double before = 2;
  for (const double strength : {0.0, 0.5, 1.0, 1.5}) {
    auto job = freeJob("a dune, gouache");
    job.recipe.brief.styles = {{"d", "Dim", "dark, sombre", strength}};
    const auto picture = toLinear(fixtures::made(job).view());
    double mean = 0;
    for (int y = 0; y < picture.height(); ++y)
      for (int x = 0; x < picture.width(); ++x) mean += static_cast<double>(linearToOkLab(picture(x, y)).l);
    QVERIFY(mean / static_cast<double>(picture.size().area()) < before);
    before = mean / static_cast<double>(picture.size().area());
  }
}

void WordsTest::stylesKeepTheComposition() {
  const auto plain = compose(wishesOf("a tower by the sea"), 8, {96, 64});
  Brief brief;
  brief.prompt = "a tower by the sea";
  // A card's own things and unknown words do not come into the picture.
  brief.styles = {{"x", "X", "oil, warm, a boat, zymurgic", 1}};
  const auto styled = compose(wishesFrom(brief), 8, {96, 64});
  QCOMPARE(styled.subject.kind, plain.subject.kind);
  QCOMPARE(styled.subject.others.size(), plain.subject.others.size());
  for (int y = 0; y < 64; ++y)
    for (int x = 0; x < 96; ++x) QVERIFY(std::abs(styled.fields.part(3)(x, y) - plain.fields.part(3)(x, y)) < 1e-4f);
}

void WordsTest::mediaAreEight() {
  std::set<Medium> media;
  for (const char* word : {"gouache", "oil", "watercolour", "ink", "woodcut", "pencil", "screenprint", "photograph"})
    media.insert(wishesOf(std::string("a dune, ") + word).medium());
  QCOMPARE(media.size(), std::size_t{8});
  QCOMPARE(wishesOf("a dune in flat colours").medium(), Medium::flat);
  QCOMPARE(wishesOf("a tidal flat, ink").medium(), Medium::ink);
}

void WordsTest::everyCardLooksDifferent() {
  // Small pictures of one layout, compared in colour and in texture.
  std::vector<std::vector<float>> looks;
  for (const StyleCard& card : houseStyles()) {
    auto job = freeJob("a lighthouse on a dune by the sea", 11);
    useStyle(job.recipe.brief, card, 1);
    const auto picture = toLinear(fixtures::made(job).view());
    std::vector<float> look;
    for (int by = 0; by < 4; ++by)
      for (int bx = 0; bx < 6; ++bx) {
        OkLab mean{};
        float rough = 0;
        for (int y = 0; y < 32; ++y)
          for (int x = 0; x < 32; ++x) {
            const OkLab c = linearToOkLab(picture(bx * 32 + x, by * 32 + y));
            mean = {mean.l + c.l / 1024, mean.a + c.a / 1024, mean.b + c.b / 1024};
            if (x > 0) rough += std::abs(c.l - linearToOkLab(picture(bx * 32 + x - 1, by * 32 + y)).l) / 992;
          }
        for (const float v : {mean.l, 2 * mean.a, 2 * mean.b, 3 * rough}) look.push_back(v);
      }
    for (const auto& other : looks) {
      double away = 0;
      for (std::size_t i = 0; i < look.size(); ++i)
        away += static_cast<double>((look[i] - other[i]) * (look[i] - other[i]));
      QVERIFY2(std::sqrt(away / 24) > 0.03, card.name.c_str());
    }
    looks.push_back(std::move(look));
  }
}

void WordsTest::oddTextsAreBounded_data() {
  QTest::addColumn<QString>("prompt");
  QTest::newRow("empty") << "";
  QTest::newRow("punctuation") << QString("...,,,;;--''!?").repeated(40);
  QTest::newRow("long") << QString("red boat behind nine towers ").repeated(142).left(4000);
  QTest::newRow("right to left") << QString::fromUtf8("\u05e1\u05d9\u05e8\u05d4 \u05d1\u05d9\u05dd");
  QTest::newRow("emoji") << QString::fromUtf8("\U0001F9ED\U0001F32C a dune \U0001F32C");
  QTest::newRow("colours only") << "red green blue white";
  QTest::newRow("relations only") << "behind under over beside before";
}

void WordsTest::oddTextsAreBounded() {
  QFETCH(QString, prompt);
  auto job = freeJob(prompt.toStdString());
  job.recipe.brief.emphasis = inOrder({{0, 9999, 2}}, charactersIn(job.recipe.brief.prompt));
  const auto once = fixtures::made(job);
  QVERIFY(once == fixtures::made(job));
  QVERIFY(planned(prompt.toStdString()).others.size() <= 40);
}

void WordsTest::variationsGoFurtherByDegree() {
  auto job = freeJob("a lighthouse on a dune by the sea");
  const auto plain = fixtures::made(job);
  double before = 0;
  job.recipe.brief.variation = 4;
  QVERIFY(fixtures::made(job) == plain);
  for (const double amount : {0.1, 0.3, 0.9}) {
    job.recipe.brief.vary = amount;
    const auto varied = fixtures::made(job);
    double away = 0;
    for (int y = 0; y < plain.height(); ++y)
      for (int x = 0; x < plain.width(); ++x) away += std::abs(plain(x, y).g - varied(x, y).g);
    QVERIFY(away > before);
    before = away;
  }
  // Another variation of the same amount is another picture, and another seed is farther away than a small one.
  const auto one = fixtures::made(job);
  job.recipe.brief.variation = 5;
  QVERIFY(!(fixtures::made(job) == one));
}

void WordsTest::looksAreToldInKnownWords() {
  // Bands of colours, each as the lexicon has it, with a little grain.
  const auto banded = [](const std::vector<std::pair<std::string, int>>& bands) {
    Image<Rgb8> out(80, 100);
    int y = 0;
    for (const auto& [word, rows] : bands) {
      const OkLab lab = okLchToOkLab(*meaningOf(word).meaning->colour);
      for (const int end = y + rows; y < end; ++y)
        for (int x = 0; x < out.width(); ++x) {
          OkLab here = lab;
          here.l += (x % 3 == 0 ? 0.01f : -0.005f);
          const Rgb c = okLabToLinearInGamut(here);
          const auto byte = [](float v) {
            return static_cast<std::uint8_t>(std::lround(255 * linearToSrgb(std::clamp(v, 0.0f, 1.0f))));
          };
          out(x, y) = {byte(c.r), byte(c.g), byte(c.b)};
        }
    }
    return out;
  };
  using Words = std::vector<std::string>;
  QCOMPARE(lookInWords(banded({{"ochre", 30}, {"navy", 60}, {"white", 10}})), (Words{"navy", "ochre"}));
  QCOMPARE(lookInWords(banded({{"black", 100}})), (Words{"black", "dark", "muted"}));
  QCOMPARE(lookInWords(banded({{"orange", 60}, {"red", 40}})), (Words{"orange", "red", "vivid", "warm"}));
  QVERIFY(lookInWords(Image<Rgb8>()).empty());
  // What is told acts: pictures painted after the words have more of the colours.
  const auto plain = fixtures::made(freeJob("dunes by the sea, gouache")),
             told = fixtures::made(freeJob("dunes by the sea, gouache, teal"));
  QVERIFY(colourShare(told, 190) > 1.2 * colourShare(plain, 190));
}

HSCAFFOLD_TEST(WordsTest)
#include "words_test.moc"
