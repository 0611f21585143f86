// A first depth hangs little on how the picture was taken, and true hints hardly ever make it worse.
#include <QTest>
#include <cmath>
#include <numeric>

#include "core/engine/standin/noise.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "depth_fixtures.h"
#include "test_program.h"

using namespace depth_fixtures;

namespace {

constexpr Size shown{300, 200};

struct Known {
  Image<Rgb> picture;
  Image<float> nearness;
};

/// A scene of each family, textured ones among them, that nothing was set on.
const std::vector<Known>& known() {
  static const auto all = [] {
    std::vector<Known> out;
    for (const auto family : almanac::depthFamilies) {
      auto scene = almanac::depthScene(family, 5001, shown);
      out.push_back({std::move(scene.picture), std::move(scene.nearness)});
    }
    return out;
  }();
  return all;
}

/// What part of the scene a picture shows.
struct ScenePart {
  double left = 0, top = 0, width = 1, height = 1;
};

std::vector<float> depthOf(const Image<Rgb>& picture, const ScenePart& part = {}) {
  const auto reading = depth::readingOf(picture);
  const auto map = depth::overPixels(reading.seen, depth::guessed(reading, depth::Scene::automatic).near);
  std::vector<float> out;
  for (int j = 1; j < 15; ++j)
    for (int i = 1; i < 20; ++i)
      out.push_back(map(static_cast<int>((i / 20.0 - part.left) / part.width * map.width()),
                        static_cast<int>((j / 15.0 - part.top) / part.height * map.height())));
  return out;
}

/// Share of pairs, apart in the first, that the second has in another order.
double turned(const std::vector<float>& a, const std::vector<float>& b) { return almanac::turned(a, b, 0.03f); }

Image<Rgb> cropped(const Image<Rgb>& picture, int left, int top) {
  Image<Rgb> out(picture.width() - left, picture.height() - top);
  for (int y = 0; y < out.height(); ++y) std::copy_n(picture.row(y + top) + left, out.width(), out.row(y));
  return out;
}

/// Lighter or darker, in eight bits, with a camera's grain.
Image<Rgb> exposed(const Image<Rgb>& picture, float stops, float grain) {
  auto encoded = toSrgb8(picture);
  for (int y = 0; y < encoded.height(); ++y)
    for (int x = 0; x < encoded.width(); ++x) {
      const auto place = static_cast<std::uint64_t>(y * encoded.width() + x);
      const float more = std::exp2(stops) * (1 + grain * standin::signedUnit(standin::mixed(place, 77)));
      const auto shade = [more](float v) { return linearToSrgb8(std::min(1.0f, v * more)); };
      const Rgb c = picture(x, y);
      encoded(x, y) = {shade(c.r), shade(c.g), shade(c.b)};
    }
  return toLinear(encoded);
}

}  // namespace

class DepthSteadyTest : public QObject {
  Q_OBJECT
 private slots:
  void howAPictureWasTakenChangesItsDepthLittle();
  void trueHintsHardlyEverMakeItWorse();
  void aHintTurnsOverNoMoreThanItsShare();
};

void DepthSteadyTest::howAPictureWasTakenChangesItsDepthLittle() {
  std::vector<double> changes;
  for (const Known& scene : known()) {
    const auto& picture = scene.picture;
    const auto plain = depthOf(picture);
    const double left = 6.0 / shown.width, top = 4.0 / shown.height;
    changes.push_back(turned(plain, depthOf(cropped(picture, 6, 0), {left, 0, 1 - left, 1})));
    changes.push_back(turned(plain, depthOf(cropped(picture, 0, 4), {0, top, 1, 1 - top})));
    changes.push_back(turned(plain, depthOf(exposed(picture, -1.0f / 3, 0.02f))));
    changes.push_back(turned(plain, depthOf(exposed(picture, 1.0f / 3, 0.02f))));
    changes.push_back(turned(plain, depthOf(resampled(picture.view(), {270, 180}, Resampling::area))));
  }
  std::sort(changes.begin(), changes.end());
  const double mean = std::accumulate(changes.begin(), changes.end(), 0.0) / static_cast<double>(changes.size());
  const auto told = QString("mean %1, nine of ten below %2, worst %3")
                        .arg(mean)
                        .arg(changes[changes.size() * 9 / 10])
                        .arg(changes.back());
  qInfo().noquote() << told;
  QVERIFY2(mean < 0.01 && changes[changes.size() * 9 / 10] < 0.02 && changes.back() < 0.06, qPrintable(told));
}

void DepthSteadyTest::trueHintsHardlyEverMakeItWorse() {
  int dabs = 0, costly = 0;
  double worst = 0, before = 0, after = 0;
  std::uint64_t number = 0;
  for (const Known& scene : known()) {
    const auto ground = depth::groundOf(scene.picture);
    const auto first = depth::guessed(*ground, depth::Scene::automatic);
    const auto truth = almanac::trueNear(ground->seen, scene.nearness);
    const auto pairs = almanac::truePairs(truth, 4000, ++number);
    for (const bool wherever : {false, true}) {
      depth::Constraints hints;
      auto near = first.near;
      double order = almanac::inOrder(pairs, near);
      if (!wherever) before += order;
      for (std::uint64_t h = 0; h < 6; ++h) {
        const int cell = wherever ? static_cast<int>(standin::mixed(number, h) % truth.size())
                                  : almanac::worstPlace(ground->seen, truth, near);
        hints.levels.push_back({cell, truth[static_cast<std::size_t>(cell)]});
        near = depth::withHints(ground->seen, first, hints).near;
        const double now = almanac::inOrder(pairs, near);
        worst = std::max(worst, order - now);
        costly += order - now > 0.01 ? 1 : 0;
        ++dabs;
        order = now;
      }
      if (!wherever) after += order;
    }
  }
  const auto scenes = static_cast<double>(known().size());
  const auto told = QString("%1 of %2 true dabs cost more than 0.01, the worst %3; order %4, after six %5")
                        .arg(costly)
                        .arg(dabs)
                        .arg(worst)
                        .arg(before / scenes)
                        .arg(after / scenes);
  qInfo().noquote() << told;
  QVERIFY2(costly * 50 <= dabs && worst < 0.03, qPrintable(told));
  QVERIFY2(after > before + 0.03 * scenes, qPrintable(told));
}

void DepthSteadyTest::aHintTurnsOverNoMoreThanItsShare() {
  // A plain field that comes evenly nearer: nothing says that what is far up belongs before all that is below.
  const auto ground = depth::groundOf(drawn([](float, float y) {
    return y < 0.2f ? Rgb{0.5f, 0.6f, 0.8f} : Rgb{0.3f, 0.3f, 0.2f};
  }));
  const auto first = depth::guessed(*ground, depth::Scene::automatic);
  const int far = cellAt(ground->seen, 0.5f, 0.4f);
  depth::Constraints dab;
  dab.levels.push_back({far, 1.0f});
  const auto turnedBy = [&](const depth::Constraints& hints) {
    return turned(first.near, depth::withHints(ground->seen, first, hints).near);
  };
  const double one = turnedBy(dab);
  QVERIFY2(one > 0 && one < 0.05, qPrintable(QString::number(one)));
  // Whoever means more of it says so of more of it.
  depth::Constraints stroke;
  for (std::size_t i = 0; i < ground->seen.x.size(); ++i)
    if (ground->seen.y[i] > 0.35f && ground->seen.y[i] < 0.45f) stroke.levels.push_back({static_cast<int>(i), 1.0f});
  double share = 0;
  for (const auto& level : stroke.levels)
    share += ground->seen.patches.cells[static_cast<std::size_t>(level.cell)].area /
             static_cast<double>(ground->seen.size.area());
  QVERIFY2(turnedBy(stroke) < 0.03 + 2 * share, qPrintable(QString::number(turnedBy(stroke))));
}

HSCAFFOLD_TEST(DepthSteadyTest)
#include "depth_steady_test.moc"
