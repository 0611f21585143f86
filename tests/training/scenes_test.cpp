// Scenes for learning: the same for the same seed, true to themselves, of every kind.
#include "scene.h"

#include <QTest>
#include <cmath>
#include <set>

#include "people.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::training;

class ScenesTest : public QObject {
  Q_OBJECT
 private slots:
  void chanceIsTheSameEverywhere();
  void aSeedIsAScene();
  void seenJointsLieOnFigures();
  void themesComeUp();
  void depthIsThere();
  void posesKeepToLimits();
};

void ScenesTest::chanceIsTheSameEverywhere() {
  Dice dice(7);
  // By the standard's engine alone: these must never change, or weights and scenes part.
  const float first = dice.even(), second = dice.even();
  Dice again(7);
  QCOMPARE(again.even(), first);
  QCOMPARE(again.even(), second);
  double sum = 0, squares = 0, normals = 0;
  for (int i = 0; i < 20000; ++i) {
    const double v = static_cast<double>(dice.even());
    QVERIFY(v >= 0 && v < 1);
    sum += v;
    const double n = static_cast<double>(dice.normal());
    normals += n;
    squares += n * n;
    const int whole = dice.whole(3, 5);
    QVERIFY(whole >= 3 && whole <= 5);
  }
  QVERIFY(std::abs(sum / 20000 - 0.5) < 0.01);
  QVERIFY(std::abs(normals / 20000) < 0.03 && std::abs(squares / 20000 - 1) < 0.05);
}

void ScenesTest::aSeedIsAScene() {
  for (const std::uint64_t seed : {3u, 40u, 500u}) {
    const auto a = sceneOf(seed, {96, 96}, Use::figures), b = sceneOf(seed, {96, 96}, Use::figures);
    QVERIFY(a.picture == b.picture && a.near == b.near && a.figure == b.figure);
    QVERIFY(!(sceneOf(seed + 1, {96, 96}, Use::figures).picture == a.picture));
  }
}

void ScenesTest::seenJointsLieOnFigures() {
  int people = 0, seen = 0, hidden = 0;
  for (std::uint64_t seed = 0; seed < 60; ++seed) {
    const auto scene = sceneOf(seed, {128, 128}, Use::figures);
    for (const auto& person : scene.people) {
      ++people;
      QVERIFY(person.right > person.left && person.bottom > person.top && person.size > 0);
      for (const auto& point : person.points) {
        if (point.visibility == Visibility::outside) continue;
        QVERIFY(point.x >= 0 && point.y >= 0 && point.x < 128 && point.y < 128);
        hidden += point.visibility == Visibility::hiddenByOther ? 1 : 0;
        if (point.visibility != Visibility::seen) continue;
        ++seen;
        bool on = false;
        for (int dy = -2; dy <= 2; ++dy)
          for (int dx = -2; dx <= 2; ++dx)
            on |= scene.figure.view().clamped(static_cast<int>(point.x) + dx, static_cast<int>(point.y) + dy) == 255;
        QVERIFY2(on, qPrintable(QString("scene %1").arg(seed)));
      }
    }
  }
  QVERIFY2(people > 60 && seen > 500 && hidden > 50, qPrintable(QString("%1 %2 %3").arg(people).arg(seen).arg(hidden)));
}

void ScenesTest::themesComeUp() {
  std::set<Theme> figures, depth;
  for (std::uint64_t seed = 0; seed < 200; ++seed) {
    figures.insert(themeFor(seed, Use::figures));
    depth.insert(themeFor(seed, Use::depth));
  }
  for (const Theme theme : {Theme::figures, Theme::crowd, Theme::portrait, Theme::indoors, Theme::animals})
    QVERIFY(figures.contains(theme));
  for (const Theme theme : {Theme::figures, Theme::land, Theme::room, Theme::closeUp, Theme::heap})
    QVERIFY(depth.contains(theme));
  std::set<std::string> names;
  for (const Theme theme : depth) names.insert(nameOf(theme));
  QCOMPARE(names.size(), depth.size());
}

void ScenesTest::depthIsThere() {
  int filled = 0;
  for (std::uint64_t seed = 0; seed < 30; ++seed) {
    const auto scene = sceneOf(seed, {96, 72}, Use::depth);
    std::set<float> values;
    for (int y = 0; y < 72; ++y)
      for (const float v : scene.near.line(y)) {
        QVERIFY(std::isfinite(v) && v >= 0);
        values.insert(v);
      }
    filled += values.size() > 200 ? 1 : 0;
  }
  QVERIFY2(filled > 25, qPrintable(QString::number(filled)));
}

void ScenesTest::posesKeepToLimits() {
  const auto& skeleton = pose::skeletonOf("human");
  Dice dice(11);
  for (int i = 0; i < 200; ++i) {
    const auto spec = anyone(dice, 8);
    QCOMPARE(spec.angles.size(), skeleton.turns.size());
    for (std::size_t t = 0; t < skeleton.turns.size(); ++t)
      QVERIFY(spec.angles[t] >= skeleton.turns[t].least - 1e-6 && spec.angles[t] <= skeleton.turns[t].most + 1e-6);
    QVERIFY(spec.size > 0.7f && spec.size < 2.0f);
  }
}

HSCAFFOLD_TEST(ScenesTest)
#include "scenes_test.moc"
