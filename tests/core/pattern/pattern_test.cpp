#define ZX_USE_UTF8 1
// Codes and shapes as maps, what of them scans, and how plain they are from afar.
#include <ZXing/ReadBarcode.h>

#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

#include "core/engine/standin/standin.h"
#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/png.h"
#include "core/image/resample.h"
#include "core/image/widen.h"
#include "core/kinds.h"
#include "core/measure/proof_seen.h"
#include "core/measure/scan.h"
#include "core/pattern/pattern.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pattern;

namespace {

constexpr Size patternCanvas{480, 480};
const std::string almanac = "pellamere.example/o";

Map mapFor(const PatternTuning& tuning, Size size = patternCanvas) {
  return widened(patternMap(tuning, size, {}),
                 [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535)); });
}

PatternTuning codeSaying(const std::string& text) {
  PatternTuning tuning;
  tuning.says = text;
  return tuning;
}

Image<Rgb8> pictureOf(View<std::uint16_t> map) {
  Image<Rgb8> out(map.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const auto v = static_cast<std::uint8_t>(map(x, y) / 257);
      out(x, y) = {v, v, v};
    }
  return out;
}

/// What the second reader makes of it.
QString readElsewhere(View<Rgb8> picture) {
  QTemporaryDir folder;
  const auto file = fixtures::in(folder, "code.png");
  writeFileAtomically(file, encodePng(picture));
  QProcess reader;
  reader.start("zbarimg", {"-q", "--raw", "--nodbus", QString::fromStdString(file.string())});
  if (!reader.waitForFinished(30'000)) return "zbarimg did not answer";
  return QString::fromUtf8(reader.readAllStandardOutput()).trimmed();
}

/// Share of decoder set-ups, other ones than the margin's, that read it: five sizes, three ways to part dark from
/// light, and the second reader.
double readingShare(View<Rgb8> picture, const std::string& text) {
  int read = 0, all = 0;
  const auto light = luminanceOf(toLinear(picture).view());
  for (const double size : {0.92, 0.75, 0.6, 0.45, 0.3}) {
    const auto small = resampled(light.view(), scaledTo(light.size(), size * light.width()), Resampling::area);
    Image<std::uint8_t> grey(small.size());
    for (int y = 0; y < grey.height(); ++y)
      std::transform(small.row(y), small.row(y) + grey.width(), grey.row(y), linearToSrgb8);
    for (const auto binarizer :
         {ZXing::Binarizer::LocalAverage, ZXing::Binarizer::GlobalHistogram, ZXing::Binarizer::FixedThreshold}) {
      ZXing::DecodeHints hints;
      hints.setFormats(ZXing::BarcodeFormat::QRCode);
      hints.setBinarizer(binarizer);
      hints.setTryHarder(true);
      const ZXing::ImageView view(grey.row(0), grey.width(), grey.height(), ZXing::ImageFormat::Lum,
                                  static_cast<int>(grey.stride()));
      const auto result = ZXing::ReadBarcode(view, hints);
      read += result.isValid() && result.text() == text ? 1 : 0;
      ++all;
    }
  }
  read += readElsewhere(picture) == QString::fromStdString(text) ? 1 : 0;
  return static_cast<double>(read) / (all + 1);
}

/// Ranks of values, ties in the middle.
std::vector<double> ranksOf(const std::vector<double>& values) {
  std::vector<double> ranks;
  for (const double v : values) {
    double below = 0, alike = 0;
    for (const double other : values) {
      below += other < v ? 1 : 0;
      alike += other == v ? 1 : 0;
    }
    ranks.push_back(below + (alike - 1) / 2);
  }
  return ranks;
}

double spearman(const std::vector<double>& a, const std::vector<double>& b) {
  const auto x = ranksOf(a), y = ranksOf(b);
  const double mean = (static_cast<double>(a.size()) - 1) / 2;
  double xx = 0, yy = 0, xy = 0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    xx += (x[i] - mean) * (x[i] - mean);
    yy += (y[i] - mean) * (y[i] - mean);
    xy += (x[i] - mean) * (y[i] - mean);
  }
  return xy / std::sqrt(xx * yy);
}

/// A code that is damaged in one of several ways, the more the farther `degree` goes to 1.
Image<Rgb8> damaged(int way, double degree) {
  auto light = toLinear(pictureOf(mapFor(codeSaying(almanac)).view()).view());
  const auto noise = fixtures::noise(patternCanvas.width, patternCanvas.height, 77);
  const auto d = static_cast<float>(degree);
  if (way == 1) light = gaussianBlur(light.view(), 1 + 11 * d);
  for (int y = 0; y < patternCanvas.height; ++y)
    for (int x = 0; x < patternCanvas.width; ++x) {
      Rgb& c = light(x, y);
      if (way == 0) {
        const float n = 2.4f * d * (noise(x, y).g - 0.5f);
        c = {std::clamp(c.r + n, 0.0f, 1.0f), std::clamp(c.g + n, 0.0f, 1.0f), std::clamp(c.b + n, 0.0f, 1.0f)};
      } else if (way == 2) {
        if (std::hypot(x - 240, y - 262) < 30 + 120 * d) c = {0.2f, 0.3f, 0.2f};
      } else if (way == 3) {
        // A shadow and a tint that leave less and less between dark and light.
        const float keep = 1 - 0.985f * d;
        c = {0.32f + keep * (c.r - 0.32f), 0.25f + keep * (c.g - 0.25f), 0.2f + keep * (c.b - 0.2f)};
      }
    }
  return toSrgb8(light.view());
}

}  // namespace

class PatternTest : public QObject {
  Q_OBJECT
 private slots:
  void everyCodeScans_data();
  void everyCodeScans();
  void modulesLieOnSizeSteps();
  void leaningCodesScan();
  void whatCannotBeACodeIsSaid();
  void unusualTextsAreKept_data();
  void unusualTextsAreKept();
  void marginOrdersDamage();
  void wrongModulesAreMarked();
  void nothingIsReadInNoise();
  void shapesHaveLightAndDark_data();
  void shapesHaveLightAndDark();
  void picturesPartInTwo();
  void plainFromAfar();
  void proofsScanAtTheUsualSettingOnly();
  void checksSayWhatIsWrong();
  void perspectiveGoesBackAndForth();
};

void PatternTest::everyCodeScans_data() {
  QTest::addColumn<int>("correction");
  QTest::addColumn<int>("form");
  for (int correction = 0; correction < 4; ++correction)
    for (int form = 0; form < 3; ++form)
      QTest::addRow("correction %d, form %d", correction, form) << correction << form;
}

void PatternTest::everyCodeScans() {
  QFETCH(int, correction);
  QFETCH(int, form);
  auto tuning = codeSaying(almanac);
  tuning.correction = static_cast<Correction>(correction);
  tuning.form = static_cast<ModuleForm>(form);
  const auto map = mapFor(tuning);
  const auto found = codeIn(map);
  QVERIFY(found.has_value());
  QCOMPARE(found->text, almanac);
  QCOMPARE(static_cast<int>(found->correction), correction);
  const auto picture = pictureOf(map);
  const Scan scan = scanned(picture, &*found);
  QVERIFY2(scan.margin > 80, qPrintable(QString::number(scan.margin)));
  QCOMPARE(scan.wrong, 0);
  QCOMPARE(readElsewhere(picture), QString::fromStdString(almanac));
}

void PatternTest::modulesLieOnSizeSteps() {
  const auto tuning = codeSaying(almanac);
  for (const Size size : {Size{768, 512}, Size{512, 768}, Size{1024, 1024}}) {
    const CodePlace placed = codePlaced(tuning, size);
    QCOMPARE(placed.module % 8, 0);
    const Point corner = placed.fromCode({0, 0});
    QCOMPARE(std::fmod(corner.x, 8), 0.0);
    QCOMPARE(std::fmod(corner.y, 8), 0.0);
    QCOMPARE(placed.outside, 0.0);
    // Without a grey between dark and light.
    const auto map = mapFor(tuning, size);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) QVERIFY(map(x, y) == 0 || map(x, y) == 65535 || map(x, y) == 32768);
  }
}

void PatternTest::leaningCodesScan() {
  auto tuning = codeSaying("Hi");
  tuning.module = 14;
  tuning.turn = 20;
  tuning.lean = 40;
  const auto picture = pictureOf(mapFor(tuning));
  QCOMPARE(scanned(picture, nullptr).text, std::string("Hi"));
  const auto placed = codePlaced(tuning, patternCanvas);
  // What leans away is smaller.
  const double above = distanceBetween(placed.fromCode({0, 0}), placed.fromCode({1, 0})),
               below = distanceBetween(placed.fromCode({0, 20}), placed.fromCode({1, 20}));
  QVERIFY(above < 0.9 * below);
}

void PatternTest::whatCannotBeACodeIsSaid() {
  const auto said = [](const std::string& text) {
    return fixtures::problemOf([&] { static_cast<void>(codeOf(text, Correction::highest)); });
  };
  QVERIFY(said("").contains("nothing to say"));
  QVERIFY2(said(std::string(1300, 'a')).contains("27 letters too long"), qPrintable(said(std::string(1300, 'a'))));
  QVERIFY(said("a\x01"
               "b")
              .contains("cannot be seen"));
  QVERIFY(said("\xff\xfe").contains("UTF-8"));
  QVERIFY(said(std::string(1273, 'a')).isEmpty());
  // In a guide it asks for nothing, and says why.
  const Kind& kind = kindOf("pattern");
  Tuning tuning{{"says", TuningValue(std::string(3000, 'x'))}};
  GuideWork none;
  ExtractionCache cache;
  const auto made = kind.make({{}, {patternCanvas, {}}, tuning, none}, cache, {});
  QVERIFY(QString::fromStdString(made.note).contains("too long"));
  for (int y = 0; y < patternCanvas.height; y += 7) QCOMPARE(made.map(y, y), std::uint16_t{32768});
}

void PatternTest::unusualTextsAreKept_data() {
  QTest::addColumn<QString>("text");
  QTest::addRow("right to left") << QString::fromUtf8("\u05e8\u05d5\u05d7");
  QTest::addRow("emoji") << QString::fromUtf8("\U0001fa81 kite");
  QTest::addRow("digits") << "20270314";
  QTest::addRow("lines") << "one\ntwo";
}

void PatternTest::unusualTextsAreKept() {
  QFETCH(QString, text);
  auto tuning = codeSaying(text.toStdString());
  const auto map = mapFor(tuning);
  QCOMPARE(QString::fromStdString(scanned(pictureOf(map), nullptr).text), text);
  QVERIFY(codeIn(map).has_value() && !codeIn(map)->dark.empty());
}

void PatternTest::marginOrdersDamage() {
  // Against set-ups that the margin does not use: other sizes, each with the decoder's own way of looking.
  std::vector<double> margins, shares;
  const auto map = mapFor(codeSaying(almanac));
  const auto asked = codeIn(map);
  for (int way = 0; way < 4; ++way)
    for (int i = 0; i < 15; ++i) {
      const auto picture = damaged(way, i / 14.0);
      margins.push_back(scanned(picture, &*asked).margin);
      shares.push_back(readingShare(picture, almanac));
    }
  const double order = spearman(margins, shares);
  qInfo() << "Spearman" << order;
  QVERIFY2(order >= 0.9, qPrintable(QString::number(order)));
  QVERIFY(*std::max_element(margins.begin(), margins.end()) > 90 &&
          *std::min_element(margins.begin(), margins.end()) < 5);
}

void PatternTest::wrongModulesAreMarked() {
  const auto map = mapFor(codeSaying(almanac));
  const auto placed = codePlaced(codeSaying(almanac), patternCanvas);
  auto picture = pictureOf(map);
  // One dark module made light, away from what readers find it by.
  int x = 14, y = 14;
  while (placed.code.dark(x, y) == 0 || placed.code.carries(x, y) == 0) ++x;
  const Point at = placed.fromCode({x + 0.5, y + 0.5});
  for (int v = -placed.module / 2; v < placed.module / 2; ++v)
    for (int u = -placed.module / 2; u < placed.module / 2; ++u)
      picture(static_cast<int>(at.x) + u, static_cast<int>(at.y) + v) = {255, 255, 255};
  const auto asked = codeIn(map);
  const Scan scan = scanned(picture, &*asked);
  QCOMPARE(scan.wrong, 1);
  QVERIFY(scan.wrongAt(x, y) == 1);
  QVERIFY(scan.used > 0 && scan.used < 0.2);
  const auto holding = patternHolding(map, picture);
  QVERIFY(QString::fromStdString(holding.means).contains("scan margin"));
  const double times = static_cast<double>(holding.misses.width()) / patternCanvas.width;
  QCOMPARE(holding.misses(static_cast<int>(at.x * times), static_cast<int>(at.y * times)), std::uint16_t{65535});
  QCOMPARE(holding.misses(2, 2), std::uint16_t{0});
}

void PatternTest::nothingIsReadInNoise() {
  const auto noise = toSrgb8(fixtures::noise(640, 480, 3).view());
  const Scan scan = scanned(noise, nullptr);
  QVERIFY(scan.text.empty() && scan.margin == 0 && scan.readings() == 0);
  QVERIFY(scanned(Image<Rgb8>(), nullptr).text.empty());
  QVERIFY(scanned(Image<Rgb8>(1, 1), nullptr).text.empty());
  const auto map = mapFor(codeSaying(almanac));
  QVERIFY(patternHolding(map, noise).hold < 1);
}

void PatternTest::shapesHaveLightAndDark_data() {
  QTest::addColumn<int>("what");
  for (int what = 1; what <= 6; ++what)
    QTest::addRow("%s", patternTuningFields().front().choices[static_cast<std::size_t>(what)].c_str()) << what;
}

void PatternTest::shapesHaveLightAndDark() {
  QFETCH(int, what);
  PatternTuning tuning;
  tuning.what = static_cast<What>(what);
  const auto map = patternMap(tuning, patternCanvas, {});
  double dark = 0, light = 0;
  for (int y = 0; y < patternCanvas.height; ++y)
    for (int x = 0; x < patternCanvas.width; ++x) {
      dark += map(x, y) < 0.1f ? 1 : 0;
      light += map(x, y) > 0.9f ? 1 : 0;
    }
  QVERIFY(dark > 0.05 * patternCanvas.width * patternCanvas.height &&
          light > 0.05 * patternCanvas.width * patternCanvas.height);
  QCOMPARE(map(0, 0), 0.5f);
  // Swapped is the same the other way round; another size shows the same thing.
  tuning.swapped = true;
  const auto swapped = patternMap(tuning, patternCanvas, {});
  for (int i = 0; i < patternCanvas.width; ++i) QVERIFY(std::abs(map(i, i) + swapped(i, i) - 1) < 1e-5f);
  tuning.swapped = false;
  const auto larger = patternMap(tuning, {960, 960}, {});
  double apart = 0;
  for (int y = 0; y < patternCanvas.height; ++y)
    for (int x = 0; x < patternCanvas.width; ++x)
      apart += std::abs(map(x, y) - 0.25f * (larger(2 * x, 2 * y) + larger(2 * x + 1, 2 * y) +
                                             larger(2 * x, 2 * y + 1) + larger(2 * x + 1, 2 * y + 1)));
  QVERIFY(apart / (patternCanvas.width * patternCanvas.height) < 0.01);
}

void PatternTest::picturesPartInTwo() {
  PatternTuning tuning;
  tuning.what = What::picture;
  const auto& scene = fixtures::scene(1);
  const auto map = patternMap(tuning, scene.size(), scene.view());
  double clear = 0, mean = 0;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      clear += map(x, y) < 0.1f || map(x, y) > 0.9f ? 1 : 0;
      mean += static_cast<double>(map(x, y));
    }
  const auto all = static_cast<double>(map.size().area());
  QVERIFY(clear / all > 0.6 && mean / all > 0.15 && mean / all < 0.85);
  // A picture without any contrast asks for nothing.
  const Image<Rgb> flat(64, 64, Rgb{0.3f, 0.3f, 0.3f});
  const auto none = patternMap(tuning, {64, 64}, flat.view());
  QVERIFY(std::abs(none(30, 30) - 0.5f) < 1e-5f);
}

void PatternTest::plainFromAfar() {
  PatternTuning tuning;
  tuning.what = What::rings;
  tuning.count = 3;
  const auto map = mapFor(tuning);
  const auto copy = pictureOf(map);
  const Squint same = squintOf(map, copy);
  QVERIFY2(same.afar > 95 && same.near > 80, qPrintable(QString("%1 %2").arg(same.afar).arg(same.near)));
  // The same under strokes that hide its borders: plain from afar, hidden near by.
  auto hidden = gaussianBlur(toLinear(copy.view()), 14.0f);
  const auto noise = fixtures::noise(patternCanvas.width, patternCanvas.height, 9);
  for (int y = 0; y < patternCanvas.height; ++y)
    for (int x = 0; x < patternCanvas.width; ++x) {
      Rgb& c = hidden(x, y);
      const float n = 0.5f * (noise(x, y).g - 0.5f);
      c = {c.r * 0.5f + 0.25f + n, c.g * 0.5f + 0.25f + n, c.b * 0.5f + 0.25f + n};
    }
  const Squint veiled = squintOf(map, toSrgb8(hidden.view()));
  QVERIFY2(veiled.afar > 60 && veiled.near < 40, qPrintable(QString("%1 %2").arg(veiled.afar).arg(veiled.near)));
  for (int scene = 0; scene < fixtures::scenes; ++scene) {
    const Squint stranger = squintOf(map, toSrgb8(fixtures::scene(scene).view()));
    QVERIFY2(stranger.afar <= 15, qPrintable(QString::number(stranger.afar)));
  }
}

void PatternTest::proofsScanAtTheUsualSettingOnly() {
  const Kind& kind = kindOf("pattern");
  const auto proof = [&](double weight, double from, const char* prompt) {
    EngineJob job;
    job.recipe.frame = {512, 512};
    job.recipe.brief.prompt = prompt;
    job.recipe.brief.seed = 8;
    Guide guide;
    guide.id = "g1";
    guide.kind = "pattern";
    guide.weight = weight;
    guide.range.from = from;
    job.recipe.guides.push_back({guide, {}, {}, {}, {}, {}});
    GuideInput input;
    input.map = mapFor(codeSaying(almanac), {512, 512});
    job.inputs.push_back(std::move(input));
    const Map map = job.inputs[0].map.clone();
    StandinEngine engine;
    return patternHolding(map, engine.generate(job, {}, {})).hold;
  };
  for (const char* prompt : {"a cobbled square, gouache", "roofs of a harbour, photograph", "a meadow, woodcut"}) {
    const double usual = proof(*kind.startWeight, kind.startRange.from, prompt);
    QVERIFY2(usual >= 30, qPrintable(QString("%1: %2").arg(prompt).arg(usual)));
    QVERIFY(proof(0.4, kind.startRange.from, prompt) < 5);
    QVERIFY(proof(*kind.startWeight, 62, prompt) < 5);
  }
}

void PatternTest::checksSayWhatIsWrong() {
  const Kind& kind = kindOf("pattern");
  const auto checksOf = [&](const Guide& guide) {
    ExtractionCache cache, told;
    GuideWork none;
    const auto made = kind.make({{}, {{768, 512}, {}}, guide.tuning, none}, cache, {});
    MapFacts facts;
    kind.tell({}, made, facts, told, {});
    QStringList out;
    for (const KindCheck& check : kind.check(guide, facts, "")) {
      out << QString::fromStdString(check.id);
      // What is offered mends it.
      if (!check.fix) continue;
      Guide mended = guide;
      std::string prompt;
      check.fix(mended, prompt);
      if (mended == guide) out << "does nothing";
    }
    return out;
  };
  Guide guide;
  guide.kind = "pattern";
  guide.name = "Code";
  guide.weight = *kind.startWeight;
  guide.range = kind.startRange;
  guide.tuning["says"] = TuningValue(almanac);
  QCOMPARE(checksOf(guide), QStringList());
  guide.weight = 0.5;
  guide.range.from = 60;
  QCOMPARE(checksOf(guide), QStringList({"late-pattern", "faint-code"}));
  guide.weight = 1.2;
  guide.range = kind.startRange;
  guide.tuning["x"] = 95;
  QCOMPARE(checksOf(guide), QStringList({"code-outside"}));
  guide.tuning.erase("x");
  guide.tuning["centre-free"] = 15;
  QCOMPARE(checksOf(guide), QStringList({"centre-wide"}));
  guide.tuning.erase("centre-free");
  guide.tuning["says"] = TuningValue(std::string(300, 'w'));
  QCOMPARE(checksOf(guide), QStringList({"fine-code"}));
  guide.tuning["says"] = TuningValue(std::string());
  QCOMPARE(checksOf(guide), QStringList({"no-pattern"}));
}

void PatternTest::perspectiveGoesBackAndForth() {
  const Quad corners{Point{10, 12}, Point{90, 4}, Point{110, 95}, Point{3, 70}};
  const Homography onto = Homography::ontoQuad(corners);
  const std::array<Point, 4> unit{Point{0, 0}, Point{1, 0}, Point{1, 1}, Point{0, 1}};
  for (std::size_t i = 0; i < 4; ++i) QVERIFY(distanceBetween(onto(unit[i]), corners[i]) < 1e-9);
  const Homography back = onto.inverted(), none = back.after(onto);
  for (const Point p : {Point{0.2, 0.7}, Point{0.9, 0.1}}) {
    QVERIFY(distanceBetween(back(onto(p)), p) < 1e-9);
    QVERIFY(distanceBetween(none(p), p) < 1e-9);
    QVERIFY(back.weight(onto(p)) > 0);
  }
}

HSCAFFOLD_TEST(PatternTest)
#include "pattern_test.moc"
