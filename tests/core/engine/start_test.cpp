// Start pictures: how far they are left, and going from words to words.
#include <QTest>

#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/resample.h"
#include "guided_jobs.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

constexpr Size startFrame{288, 192};

EngineJob startJob(const Image<Rgb>& start, double change,
                   const std::string& prompt = "a lighthouse by the sea, gouache") {
  EngineJob job;
  job.recipe.frame = startFrame;
  job.recipe.brief.prompt = prompt;
  job.recipe.brief.seed = 21;
  job.recipe.brief.steps = 10;
  job.recipe.brief.start.from = StartPicture::From::colour;
  job.recipe.brief.start.change = change;
  job.start = start.clone();
  return job;
}

Image<Rgb> sceneStart(int number) { return resampled(fixtures::scene(number).view(), startFrame); }

/// A proof of the prompt, as a picture to start from.
Image<Rgb> proofStart(const std::string& prompt) {
  auto job = startJob({}, 0, prompt);
  job.recipe.brief.start = {};
  return toLinear(fixtures::made(job).view());
}

std::array<Image<float>, 3> blurredLab(View<Rgb> picture, float sigma) {
  std::array<Image<float>, 3> out;
  for (auto& channel : out) channel = Image<float>(picture.size());
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) {
      const OkLab c = linearToOkLab(picture(x, y));
      out[0](x, y) = c.l;
      out[1](x, y) = c.a;
      out[2](x, y) = c.b;
    }
  for (auto& channel : out) channel = gaussianBlur(channel.view(), sigma);
  return out;
}

double correlation(const Image<float>& a, const Image<float>& b) {
  double sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0;
  const auto n = static_cast<double>(a.size().area());
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) {
      const auto u = static_cast<double>(a(x, y)), v = static_cast<double>(b(x, y));
      sa += u;
      sb += v;
      saa += u * u;
      sbb += v * v;
      sab += u * v;
    }
  return (sab - sa * sb / n) / std::sqrt(std::max(1e-12, (saa - sa * sa / n) * (sbb - sb * sb / n)));
}

/// How much of the start picture is left: its coarse light, its colour, its fine detail.
struct Likeness {
  double layout, colour, texture;
};

Likeness likenessOf(const Image<Rgb8>& made, const Image<Rgb>& start) {
  const auto linear = toLinear(made.view());
  const auto a = blurredLab(linear.view(), 5), b = blurredLab(start.view(), 5);
  const auto fineA = blurredLab(linear.view(), 0.5f), fineB = blurredLab(start.view(), 0.5f),
             lessA = blurredLab(linear.view(), 1.5f), lessB = blurredLab(start.view(), 1.5f);
  Image<float> detailA(startFrame), detailB(startFrame);
  double away = 0, plain = 0;
  for (int y = 0; y < startFrame.height; ++y)
    for (int x = 0; x < startFrame.width; ++x) {
      detailA(x, y) = fineA[0](x, y) - lessA[0](x, y);
      detailB(x, y) = fineB[0](x, y) - lessB[0](x, y);
      away += static_cast<double>(std::hypot(a[1](x, y) - b[1](x, y), a[2](x, y) - b[2](x, y)));
      plain += static_cast<double>(std::hypot(b[1](x, y), b[2](x, y)));
    }
  return {correlation(a[0], b[0]), 1 - away / std::max(1e-9, plain), correlation(detailA, detailB)};
}

/// Share of pixels, outside a mask, within a just noticeable difference. CIE76 is stricter here than CIEDE2000.
double sameShare(const Image<Rgb8>& made, const Image<Rgb>& start) {
  const auto linear = toLinear(made.view());
  int same = 0;
  for (int y = 0; y < startFrame.height; ++y)
    for (int x = 0; x < startFrame.width; ++x) {
      const CieLab a = linearToCieLab(linear(x, y)), b = linearToCieLab(start(x, y));
      if (std::hypot(a.l - b.l, a.a - b.a, a.b - b.b) <= 3) ++same;
    }
  return static_cast<double>(same) / static_cast<double>(startFrame.area());
}

Image<Rgb8> inWords(const Image<Rgb>& start, const std::string& shows, const std::string& wanted,
                    const std::string& prompt = "a figure with a kite on a dune by the sea, gouache",
                    double change = 0.5) {
  auto job = startJob(start, change, prompt);
  job.recipe.brief.start.shows = shows;
  job.recipe.brief.start.wanted = wanted;
  return fixtures::made(job);
}

}  // namespace

class StartTest : public QObject {
  Q_OBJECT
 private slots:
  void bothEndsAreExact();
  void likenessFallsLayoutLast();
  void moodTakesColoursOnly();
  void blankColoursAreAStart();
  void previewsShowTheState();
  void theSameWordsGiveThePictureBack();
  void onlyTheDifferenceActs();
  void highTideCoversTheSand();
  void foreignPicturesStayThemselves();
  void whatIsThereAlreadyIsNotMadeTwice();
  void changeDecidesHowFarWordsAct();
  void aRegionCalledByNameBoundsTheChange();
  void startsThatDoNotFitAreRefused();
};

void StartTest::bothEndsAreExact() {
  const auto start = sceneStart(1);
  QVERIFY(fixtures::made(startJob(start, 0)) == toSrgb8(start.view()));
  auto plain = startJob({}, 0);
  plain.recipe.brief.start = {};
  QVERIFY(fixtures::made(startJob(start, 1)) == fixtures::made(plain));
}

void StartTest::likenessFallsLayoutLast() {
  for (int number = 0; number < fixtures::scenes; ++number) {
    const auto start = sceneStart(number);
    Likeness before{1, 1, 1};
    for (const double change : {0.2, 0.4, 0.6, 0.8}) {
      const auto now = likenessOf(fixtures::made(startJob(start, change)), start);
      const auto said = QString("scene %1, change %2: layout %3, colour %4, texture %5")
                            .arg(number)
                            .arg(change)
                            .arg(now.layout)
                            .arg(now.colour)
                            .arg(now.texture);
      qInfo("%s", qPrintable(said));
      QVERIFY2(now.layout < before.layout + 0.004 && now.colour < before.colour + 0.004 &&
                   now.texture < before.texture + 0.03,
               qPrintable(said));
      if (change >= 0.4 && change <= 0.6)
        QVERIFY2(now.layout > now.colour && now.layout > now.texture, qPrintable(said));
      before = now;
    }
    QVERIFY(before.layout < 0.985 && before.colour < 0.8 && before.texture < 0.3);
  }
}

void StartTest::moodTakesColoursOnly() {
  const auto start = sceneStart(1);
  auto job = startJob(start, 0.1);
  job.recipe.brief.start.moodOnly = true;
  const auto mood = fixtures::made(job);
  job.recipe.brief.start = {};
  job.start = {};
  const auto plain = fixtures::made(job);
  // The layout is the prompt's own, and the colours have come closer.
  const auto a = blurredLab(toLinear(mood.view()).view(), 12), b = blurredLab(toLinear(plain.view()).view(), 12),
             s = blurredLab(start.view(), 12);
  QVERIFY(correlation(a[0], b[0]) > 0.6);
  double moodAway = 0, plainAway = 0;
  for (int y = 0; y < startFrame.height; ++y)
    for (int x = 0; x < startFrame.width; ++x) {
      moodAway += static_cast<double>(std::hypot(a[1](x, y) - s[1](x, y), a[2](x, y) - s[2](x, y)));
      plainAway += static_cast<double>(std::hypot(b[1](x, y) - s[1](x, y), b[2](x, y) - s[2](x, y)));
    }
  QVERIFY(moodAway < 0.8 * plainAway);
}

void StartTest::blankColoursAreAStart() {
  Image<Rgb> blank(startFrame);
  for (int y = 0; y < startFrame.height; ++y) std::fill_n(blank.row(y), startFrame.width, Rgb{0.7f, 0.1f, 0.05f});
  const auto little = toLinear(fixtures::made(startJob(blank, 0.3)).view());
  double red = 0;
  for (int y = 0; y < startFrame.height; ++y)
    for (int x = 0; x < startFrame.width; ++x) red += static_cast<double>(little(x, y).r - little(x, y).b);
  QVERIFY(red / static_cast<double>(startFrame.area()) > 0.3);
}

void StartTest::previewsShowTheState() {
  const auto start = sceneStart(0);
  StandinEngine engine;
  int previews = 0;
  double first = 0;
  engine.generate(startJob(start, 0.3),
                  [&](EngineProgress progress) {
                    if (!progress.preview) return;
                    ++previews;
                    const auto preview = toLinear(progress.preview().view());
                    const auto small = resampled(start.view(), preview.size());
                    if (progress.step == 1)
                      first = correlation(blurredLab(preview.view(), 4)[0], blurredLab(small.view(), 4)[0]);
                  },
                  {});
  QCOMPARE(previews, 9);
  QVERIFY(first > 0.8);
}

void StartTest::theSameWordsGiveThePictureBack() {
  for (int number = 0; number < fixtures::scenes; ++number) {
    const auto start = sceneStart(number);
    QCOMPARE(sameShare(inWords(start, "a scarf", "a scarf"), start), 1.0);
    QCOMPARE(sameShare(inWords(start, "low tide", "low tide", "a dune"), start), 1.0);
  }
}

void StartTest::onlyTheDifferenceActs() {
  const std::string prompt = "a figure with a kite on a dune by the sea, gouache";
  const auto start = proofStart(prompt);
  const auto satchel = sameShare(inWords(start, "a scarf", "a satchel"), start);
  QVERIFY2(satchel > 0.95 && satchel < 0.998, qPrintable(QString::number(satchel)));
  const auto boat = sameShare(inWords(start, "", "a boat"), start);
  QVERIFY2(boat > 0.90 && boat < 0.99, qPrintable(QString::number(boat)));
  // The dune is a third of the picture; nothing else moves.
  const auto blue = inWords(start, "red dune", "blue dune");
  int above = 0, aboveSame = 0;
  const auto linear = toLinear(blue.view());
  for (int y = 0; y < startFrame.height / 2; ++y)
    for (int x = 0; x < startFrame.width; ++x) {
      ++above;
      const CieLab a = linearToCieLab(linear(x, y)), b = linearToCieLab(start(x, y));
      if (std::hypot(a.l - b.l, a.a - b.a, a.b - b.b) <= 3) ++aboveSame;
    }
  QVERIFY(aboveSame > 0.95 * above);
  QVERIFY(sameShare(blue, start) < 0.85);
}

void StartTest::highTideCoversTheSand() {
  const std::string prompt = "a tower and a dune by the sea, gouache";
  const auto start = proofStart(prompt);
  const auto high = inWords(start, "low tide", "high tide", prompt);
  const double same = sameShare(high, start);
  QVERIFY2(same > 0.5 && same < 0.97, qPrintable(QString::number(same)));
  // The sky is untouched.
  const auto linear = toLinear(high.view());
  for (int y = 0; y < startFrame.height / 5; ++y)
    for (int x = 0; x < startFrame.width; ++x) QVERIFY(std::abs(linear(x, y).r - start(x, y).r) < 0.02f);
}

void StartTest::foreignPicturesStayThemselves() {
  for (int number = 0; number < fixtures::scenes; ++number) {
    const auto start = sceneStart(number);
    const auto night = inWords(start, "day", "night", "a dune");
    // Darker, and still the same picture.
    const auto a = blurredLab(toLinear(night.view()).view(), 1), b = blurredLab(start.view(), 1);
    double darker = 0;
    for (int y = 0; y < startFrame.height; ++y)
      for (int x = 0; x < startFrame.width; ++x) darker += static_cast<double>(b[0](x, y) - a[0](x, y));
    QVERIFY(darker / static_cast<double>(startFrame.area()) > 0.1);
    // A bright sky becomes a dark one; what is drawn in it and below stays where it is.
    const auto c = blurredLab(toLinear(night.view()).view(), 6), d = blurredLab(start.view(), 6);
    Image<float> formsA(startFrame), formsB(startFrame);
    for (int y = 0; y < startFrame.height; ++y)
      for (int x = 0; x < startFrame.width; ++x) {
        formsA(x, y) = a[0](x, y) - c[0](x, y);
        formsB(x, y) = b[0](x, y) - d[0](x, y);
      }
    const double like = correlation(formsA, formsB);
    QVERIFY2(like > 0.55, qPrintable(QString("scene %1: %2").arg(number).arg(like)));
  }
}

void StartTest::whatIsThereAlreadyIsNotMadeTwice() {
  const std::string prompt = "a tower and a dune by the sea, gouache";
  const auto meanOf = [](View<Rgb> picture) {
    double sum = 0;
    for (int y = 0; y < picture.height(); ++y)
      for (int x = 0; x < picture.width(); ++x) sum += static_cast<double>(linearToOkLab(picture(x, y)).l);
    return sum / static_cast<double>(picture.size().area());
  };
  const auto darkened = [&](const char* hour) {
    const auto start = proofStart(prompt + ", " + hour);
    return meanOf(start.view()) - meanOf(toLinear(inWords(start, "day", "night", prompt).view()).view());
  };
  const double day = darkened("day"), night = darkened("night");
  QVERIFY2(day > 0.15, qPrintable(QString::number(day)));
  QVERIFY2(std::abs(night) < 0.25 * day, qPrintable(QString("%1 of %2").arg(night).arg(day)));
}

void StartTest::aRegionCalledByNameBoundsTheChange() {
  const auto start = sceneStart(0);
  auto job = startJob(start, 0.5, "a dune");
  job.recipe.brief.start.shows = "day";
  RecipeGuide entry;
  entry.guide.kind = "edges";
  entry.guide.name = "Left side";
  entry.guide.weight = 0;
  entry.guide.work.put(regionSlot, "a mask");
  job.recipe.guides = {entry};
  job.inputs.resize(1);
  job.inputs[0].map = Map(startFrame);
  job.inputs[0].region = Map(startFrame);
  for (int y = 0; y < startFrame.height; ++y)
    std::fill_n(job.inputs[0].region.row(y), startFrame.width / 2, std::uint16_t{65535});
  const auto darker = [&](const std::string& wanted) {
    job.recipe.brief.start.wanted = wanted;
    const auto a = blurredLab(toLinear(fixtures::made(job).view()).view(), 0.5f), b = blurredLab(start.view(), 0.5f);
    std::array<double, 2> sides{};
    for (int y = 0; y < startFrame.height; ++y)
      for (int x = 0; x < startFrame.width; ++x)
        sides[x < startFrame.width / 2 ? 0 : 1] += static_cast<double>(b[0](x, y) - a[0](x, y));
    for (double& side : sides) side *= 2 / static_cast<double>(startFrame.area());
    return sides;
  };
  const auto everywhere = darker("night"), bounded = darker("night on the left-side"),
             other = darker("night, leftside");
  QVERIFY(everywhere[0] > 0.1 && everywhere[1] > 0.1);
  QVERIFY(bounded[0] > 0.1);
  QVERIFY2(std::abs(bounded[1]) < 0.004, qPrintable(QString::number(bounded[1])));
  QVERIFY(other[1] > 0.1);
  // A guide without a region, or one that is off, bounds nothing.
  job.recipe.guides[0].guide.clearRegion();
  QVERIFY(darker("night on the left side")[1] > 0.1);
}

void StartTest::changeDecidesHowFarWordsAct() {
  const auto start = proofStart("a dune, gouache");
  double before = 0;
  for (const double change : {0.1, 0.25, 0.5}) {
    const auto changed = toLinear(inWords(start, "day", "night", "a dune, gouache", change).view());
    double away = 0;
    for (int y = 0; y < startFrame.height; ++y)
      for (int x = 0; x < startFrame.width; ++x)
        away += static_cast<double>(std::abs(linearToOkLab(changed(x, y)).l - linearToOkLab(start(x, y)).l));
    QVERIFY(away > before);
    before = away;
  }
}

void StartTest::startsThatDoNotFitAreRefused() {
  auto job = startJob(sceneStart(0), 0.5);
  job.start = Image<Rgb>(8, 8);
  QVERIFY(fixtures::problemOf([&] { fixtures::made(job); }).contains("start picture"));
  job.start = {};
  QVERIFY(fixtures::problemOf([&] { fixtures::made(job); }).contains("start picture"));
}

HSCAFFOLD_TEST(StartTest)
#include "start_test.moc"
