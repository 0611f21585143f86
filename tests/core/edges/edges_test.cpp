#include <QTest>
#include <cmath>
#include <queue>

#include "core/edge_finding/edges.h"
#include "core/image/colour.h"
#include "core/measure/hold.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;

namespace {

/// Canny as in textbooks, in plain double arithmetic: whole-picture convolutions, suppression, flood. Slow and simple.
Image<std::uint8_t> plainCanny(const Image<Rgb>& picture, double sigma, double low, double high, int shortest) {
  const int w = picture.width(), h = picture.height(), radius = static_cast<int>(std::ceil(3 * sigma));
  std::vector<double> g, d;
  double sumG = 0, sumD = 0;
  for (int k = -radius; k <= radius; ++k) {
    g.push_back(std::exp(-0.5 * k * k / (sigma * sigma)));
    d.push_back(k * g.back());
    sumG += g.back();
    sumD += std::abs(d.back());
  }
  const auto light = [&](int x, int y) {
    return static_cast<double>(linearToSrgb(luminance(picture(std::clamp(x, 0, w - 1), std::clamp(y, 0, h - 1)))));
  };
  std::vector<double> gx(static_cast<std::size_t>(w * h)), gy(gx.size()), m(gx.size()), acrossG(gx.size()),
      acrossD(gx.size());
  const auto at = [&](int x, int y) {
    return static_cast<std::size_t>(std::clamp(y, 0, h - 1) * w + std::clamp(x, 0, w - 1));
  };
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x)
      for (int k = -radius; k <= radius; ++k) {
        const auto i = static_cast<std::size_t>(k + radius);
        acrossG[at(x, y)] += g[i] / sumG * light(x + k, y);
        acrossD[at(x, y)] += d[i] / sumD * 2 * light(x + k, y);
      }
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) {
      for (int k = -radius; k <= radius; ++k) {
        const auto i = static_cast<std::size_t>(k + radius);
        gx[at(x, y)] += g[i] / sumG * acrossD[at(x, y + k)];
        gy[at(x, y)] += d[i] / sumD * 2 * acrossG[at(x, y + k)];
      }
      m[at(x, y)] = std::hypot(gx[at(x, y)], gy[at(x, y)]);
    }
  Image<std::uint8_t> state(w, h);
  std::queue<std::pair<int, int>> open;
  for (int y = 1; y + 1 < h; ++y)
    for (int x = 1; x + 1 < w; ++x) {
      const double here = m[at(x, y)];
      if (here < low) continue;
      const double ux = gx[at(x, y)] / here, uy = gy[at(x, y)] / here, scale = 1 / std::max(std::abs(ux), std::abs(uy));
      const auto along = [&](double side) {
        const double px = x + side * ux * scale, py = y + side * uy * scale;
        const int ix = static_cast<int>(std::floor(px)), iy = static_cast<int>(std::floor(py));
        const double u = px - ix, v = py - iy;
        return (m[at(ix, iy)] * (1 - u) + m[at(ix + 1, iy)] * u) * (1 - v) +
               (m[at(ix, iy + 1)] * (1 - u) + m[at(ix + 1, iy + 1)] * u) * v;
      };
      if (here <= along(1) || here < along(-1)) continue;
      state(x, y) = here >= high ? 255 : 1;
      if (here >= high) open.emplace(x, y);
    }
  while (!open.empty()) {
    const auto [x, y] = open.front();
    open.pop();
    for (int dy = -1; dy <= 1; ++dy)
      for (int dx = -1; dx <= 1; ++dx)
        if (x + dx >= 0 && y + dy >= 0 && x + dx < w && y + dy < h && state(x + dx, y + dy) == 1) {
          state(x + dx, y + dy) = 255;
          open.emplace(x + dx, y + dy);
        }
  }
  // Short pieces are dropped by flooding each.
  Image<std::uint8_t> out(w, h);
  for (int y = 0; y < h; ++y)
    for (int x = 0; x < w; ++x) {
      if (state(x, y) != 255) continue;
      std::vector<std::pair<int, int>> piece{{x, y}};
      state(x, y) = 2;
      for (std::size_t i = 0; i < piece.size(); ++i)
        for (int dy = -1; dy <= 1; ++dy)
          for (int dx = -1; dx <= 1; ++dx) {
            const int px = piece[i].first + dx, py = piece[i].second + dy;
            if (px < 0 || py < 0 || px >= w || py >= h || state(px, py) != 255) continue;
            state(px, py) = 2;
            piece.emplace_back(px, py);
          }
      if (static_cast<int>(piece.size()) >= shortest)
        for (const auto& [px, py] : piece) out(px, py) = 255;
    }
  return out;
}

/// A test picture and where its edges are: pixels that touch a border between two areas.
struct KnownBorders {
  Image<Rgb> picture;
  Image<std::uint8_t> edges;
};

template <typename Area>
KnownBorders knownEdges(int size, Area&& area) {
  static constexpr float values[] = {0.03f, 0.25f, 0.6f, 0.95f};
  KnownBorders known{Image<Rgb>(size, size), Image<std::uint8_t>(size, size)};
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x) {
      // Areas are sampled finely, so that borders lie between pixels where they are.
      float sum = 0;
      for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i) sum += values[area(x + (i + 0.5) / 4, y + (j + 0.5) / 4)];
      const float v = sum / 16;
      known.picture(x, y) = {v, v, v};
      const int here = area(x + 0.5, y + 0.5);
      for (const auto& [dx, dy] : {std::pair{1, 0}, {0, 1}})
        if (x + dx < size && y + dy < size && area(x + dx + 0.5, y + dy + 0.5) != here) known.edges(x, y) = 255;
    }
  return known;
}

}  // namespace

class EdgesTest : public QObject {
  Q_OBJECT
 private slots:
  void findsKnownEdges_data();
  void findsKnownEdges();
  void turningThePictureTurnsTheMap_data();
  void turningThePictureTurnsTheMap();
  void agreesWithTheTextbook_data();
  void agreesWithTheTextbook();
  void movingThresholdsOnlyRerunsHysteresis();
  void higherThresholdsGiveSubsets();
  void colourFindsWhatLuminanceCannot();
  void shortPiecesGo();
  void gapsClose();
  void wideLinesAreWideAndSoft();
  void subPixelPlacesAreRight();
  void flatAndTinyPicturesGiveNothing();
  void quantilesOfTheHistogram();
  void stops();
};

void EdgesTest::findsKnownEdges_data() {
  QTest::addColumn<int>("which");
  for (const auto& [name, which] :
       {std::pair{"step", 0}, {"slanted step", 1}, {"corner", 2}, {"junction", 3}, {"disc", 4}})
    QTest::addRow("%s", name) << which;
}

void EdgesTest::findsKnownEdges() {
  QFETCH(int, which);
  const auto area = [which](double x, double y) {
    switch (which) {
      case 0:
        return x < 61.3 ? 0 : 2;
      case 1:
        return x + 0.37 * y < 80 ? 1 : 3;
      case 2:
        return x > 48 && y > 40 ? 3 : 0;
      case 3:
        return y < 60 ? (x < 64 ? 0 : 2) : 3;
      default:
        return std::hypot(x - 64, y - 64) < 37.5 ? 3 : 0;
    }
  };
  const auto known = knownEdges(128, area);
  EdgeTuning tuning;
  tuning.shortest = 4;
  const auto found = extractEdges(known.picture, tuning);
  // The outermost pixels cannot be told to be edges; they are not counted.
  auto inner = known.edges.clone();
  for (int i = 0; i < 128; ++i)
    for (int j = 0; j < 3; ++j) inner(i, j) = inner(j, i) = inner(i, 127 - j) = inner(127 - j, i) = 0;
  const double f = boundaryF(inner, found, 1.5);
  QVERIFY2(f >= 0.98, qPrintable(QString::number(f)));
}

void EdgesTest::turningThePictureTurnsTheMap_data() {
  QTest::addColumn<int>("scene");
  QTest::addColumn<bool>("colour");
  for (const bool colour : {false, true}) {
    for (int i = 0; i < fixtures::scenes; ++i) QTest::addRow("scene %d %d", i, colour) << i << colour;
    QTest::addRow("shapes %d", colour) << -1 << colour;
    QTest::addRow("noise %d", colour) << -2 << colour;
  }
}

void EdgesTest::turningThePictureTurnsTheMap() {
  QFETCH(int, scene);
  QFETCH(bool, colour);
  const auto picture = scene >= 0    ? fixtures::scene(scene).clone()
                       : scene == -1 ? fixtures::overlappingShapes(96, 64)
                                     : fixtures::noise(120, 77, 4);
  EdgeTuning tuning;
  tuning.gradient = colour ? EdgeGradient::colour : EdgeGradient::luminance;
  QVERIFY(extractEdges(fixtures::turned90(picture), tuning) == fixtures::turned90(extractEdges(picture, tuning)));
}

void EdgesTest::agreesWithTheTextbook_data() {
  QTest::addColumn<int>("scene");
  QTest::addColumn<double>("sigma");
  for (int i = 0; i < fixtures::scenes; ++i)
    for (const double sigma : {1.0, 1.4, 2.5}) QTest::addRow("scene %d at %g", i, sigma) << i << sigma;
}

void EdgesTest::agreesWithTheTextbook() {
  QFETCH(int, scene);
  QFETCH(double, sigma);
  EdgeTuning tuning;
  tuning.sigma = sigma;
  tuning.thresholds = EdgeThresholds::magnitude;
  tuning.low = 0.04;
  tuning.high = 0.10;
  const auto ours = extractEdges(fixtures::scene(scene), tuning);
  const auto plain = plainCanny(fixtures::scene(scene), sigma, 0.04, 0.10, tuning.shortest);
  QVERIFY(edgeShare(plain) > 0.003);
  const double f = boundaryF(plain, ours, 1.0);
  QVERIFY2(f >= 0.95, qPrintable(QString::number(f)));
}

void EdgesTest::movingThresholdsOnlyRerunsHysteresis() {
  const auto& picture = fixtures::scene(1);
  EdgeTuning tuning;
  tuning.thresholds = EdgeThresholds::magnitude;
  const auto field = edgeField(picture, tuning.gradient, tuning.sigma);
  for (const double high : {0.03, 0.08, 0.2}) {
    tuning.high = high;
    tuning.low = high / 3;
    QVERIFY(drawEdges(field, tuning) == extractEdges(picture, tuning));
    QVERIFY(drawEdges(field, tuning) == extractEdges(encodedLuminance(picture).view(), tuning));
  }
}

void EdgesTest::higherThresholdsGiveSubsets() {
  const auto field = edgeField(fixtures::scene(0), EdgeGradient::luminance, 1.4);
  EdgeTuning tuning;
  tuning.thresholds = EdgeThresholds::magnitude;
  tuning.shortest = 1;
  Image<std::uint8_t> before;
  for (const double high : {0.02, 0.05, 0.1, 0.2, 0.5}) {
    tuning.high = high;
    tuning.low = 0.4 * high;
    const auto now = drawEdges(field, tuning);
    if (!before.empty())
      for (int y = 0; y < now.height(); ++y)
        for (int x = 0; x < now.width(); ++x) QVERIFY(now(x, y) <= before(x, y));
    before = now.clone();
  }
}

void EdgesTest::colourFindsWhatLuminanceCannot() {
  // Red and green of one luminance.
  Image<Rgb> picture(64, 64);
  for (int y = 0; y < 64; ++y)
    for (int x = 0; x < 64; ++x)
      picture(x, y) = x < 32 ? Rgb{0.5f, 0.0f, 0.1f} : Rgb{0.0f, 0.5f * 0.2126f / 0.7152f, 0.1f};
  EdgeTuning tuning;
  tuning.thresholds = EdgeThresholds::magnitude;
  tuning.low = 0.05;
  tuning.high = 0.1;
  QCOMPARE(edgeShare(extractEdges(picture, tuning)), 0.0);
  tuning.gradient = EdgeGradient::colour;
  const auto map = extractEdges(picture, tuning);
  for (int y = 3; y < 61; ++y) QVERIFY(map(31, y) == 255 || map(32, y) == 255);
}

void EdgesTest::shortPiecesGo() {
  Image<Rgb> picture(100, 60, Rgb{0.1f, 0.1f, 0.1f});
  for (int y = 10; y < 16; ++y)
    for (int x = 10; x < 16; ++x) picture(x, y) = {0.9f, 0.9f, 0.9f};
  for (int y = 20; y < 50; ++y)
    for (int x = 40; x < 90; ++x) picture(x, y) = {0.9f, 0.9f, 0.9f};
  EdgeTuning tuning;
  tuning.shortest = 60;
  const auto map = extractEdges(picture, tuning);
  for (int y = 5; y < 20; ++y)
    for (int x = 5; x < 22; ++x) QCOMPARE(static_cast<int>(map(x, y)), 0);
  QVERIFY(edgeShare(map) > 0.01);
}

void EdgesTest::gapsClose() {
  // A step that fades out towards the middle.
  Image<Rgb> picture(80, 60);
  for (int y = 0; y < 60; ++y)
    for (int x = 0; x < 80; ++x) {
      const float fade = std::min(1.0f, std::abs(static_cast<float>(x) - 40) / 8);
      const float v = y < 30 ? 0.2f : 0.2f + 0.6f * fade;
      picture(x, y) = {v, v, v};
    }
  EdgeTuning tuning;
  tuning.sigma = 1;
  tuning.shortest = 3;
  tuning.thresholds = EdgeThresholds::magnitude;
  tuning.low = tuning.high = 0.3;
  const auto columnsMet = [](const Image<std::uint8_t>& map) {
    int met = 0;
    for (int x = 34; x < 47; ++x)
      for (int y = 26; y < 34; ++y)
        if (map(x, y) == 255) {
          ++met;
          break;
        }
    return met;
  };
  const int open = columnsMet(extractEdges(picture, tuning));
  tuning.gap = 14;
  const int closed = columnsMet(extractEdges(picture, tuning));
  QVERIFY2(open < 13 && closed == 13, qPrintable(QString("%1 %2").arg(open).arg(closed)));
}

void EdgesTest::wideLinesAreWideAndSoft() {
  const auto known = knownEdges(64, [](double x, double) { return x < 30.3 ? 0 : 3; });
  EdgeTuning tuning;
  tuning.width = 4;
  const auto map = extractEdges(known.picture, tuning);
  double sum = 0;
  bool soft = false;
  for (int x = 0; x < 64; ++x) {
    sum += map(x, 32) / 255.0;
    soft |= map(x, 32) > 0 && map(x, 32) < 255;
  }
  QVERIFY(std::abs(sum - 4) < 0.4);
  tuning.width = 1;
  tuning.smooth = false;
  const auto hard = extractEdges(known.picture, tuning);
  for (const std::uint8_t v : hard.line(32)) QVERIFY(v == 0 || v == 255);
  QVERIFY(soft);
}

void EdgesTest::subPixelPlacesAreRight() {
  for (const double at : {30.0, 30.25, 30.5, 30.8}) {
    const auto known = knownEdges(64, [at](double x, double) { return x < at ? 0 : 3; });
    const auto field = edgeField(known.picture, EdgeGradient::luminance, 1.6);
    bool found = false;
    for (const auto& point : field.row(32)) {
      if (point.strength < 0.2f) continue;
      found = true;
      // Partly covered pixels are mixed in linear light but seen encoded, which moves the border a little.
      QVERIFY(std::abs(static_cast<double>(point.x) + 0.5 + static_cast<double>(point.shiftX) - at) < 0.3);
    }
    QVERIFY(found);
  }
}

void EdgesTest::flatAndTinyPicturesGiveNothing() {
  QVERIFY(extractEdges(View<Rgb>(), {}).empty());
  QCOMPARE(edgeShare(extractEdges(Image<Rgb>(50, 40, Rgb{0.4f, 0.4f, 0.4f}), {})), 0.0);
  for (const Size size : {Size{1, 1}, Size{2, 7}, Size{2000, 3}, Size{3, 3}}) {
    const auto map = extractEdges(fixtures::noise(size.width, size.height, 3), {});
    QCOMPARE(map.size(), size);
  }
}

void EdgesTest::quantilesOfTheHistogram() {
  const auto field = edgeField(fixtures::scene(0), EdgeGradient::luminance, 1.4);
  double last = 0;
  for (const double share : {0.1, 0.5, 0.9, 0.99}) {
    const double magnitude = magnitudeAtShare(field, share);
    QVERIFY(magnitude >= last);
    last = magnitude;
  }
  EdgeTuning tuning;
  tuning.low = 0.9;
  tuning.high = 0.5;  // the wrong way round is put right
  tuning.thresholds = EdgeThresholds::percentile;
  const auto pair = thresholdsFor(field, tuning);
  QVERIFY(pair.low <= pair.high);
}

void EdgesTest::stops() {
  QVERIFY_EXCEPTION_THROWN(extractEdges(fixtures::noise(64, 64, 1), {}, fixtures::stopped()), Cancelled);
}

HSCAFFOLD_TEST(EdgesTest)
#include "edges_test.moc"
