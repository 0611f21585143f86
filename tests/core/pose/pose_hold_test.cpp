// Hold of poses: bodies of the set before painted scenes, against the figures that they were made from.
#include <QTest>

#include "core/image/colour.h"
#include "core/pose/pose_hold.h"
#include "core/stage/body.h"
#include "core/stage/raster.h"
#include "pose_fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::pose;

namespace {

constexpr Size frame{480, 320};

struct Made {
  Image<Rgb8> picture;
  Figures figures;
};

/// A body in a pose of the library, dressed by number, before a scene; and the figure where its joints are seen.
Made madeOf(const NamedPose& pose, int number) {
  stage::BodySpec spec;
  spec.angles = pose.pose.angles;
  spec.clothes.top = number % 2 == 0 ? Rgb{0.4f, 0.06f, 0.05f} : Rgb{0.6f, 0.55f, 0.3f};
  spec.clothes.legs = number % 3 == 0 ? Rgb{0.02f, 0.03f, 0.08f} : Rgb{0.3f, 0.2f, 0.1f};
  spec.clothes.loose = 0.2f * static_cast<float>(number % 3);
  const auto body = stage::bodyOf(spec);
  const auto camera = stage::lookingAt({number % 2 == 0 ? -0.4f : 0.5f, 1.3f, 5}, {0, 0.85f, 0}, 70, frame);
  stage::Lighting lighting;
  lighting.lights.push_back({});
  const auto seen = stage::rendered(std::span(&body.mesh, 1), camera, lighting);
  auto picture = fixtures::scene(number % fixtures::scenes).clone();
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x)
      if (seen.near(x, y) > 0) picture(x, y) = seen.colour(x, y);
  Made made{toSrgb8(picture), {frame, {}, {}}};
  Figure figure = fixtures::posedAs(pose.name);
  for (std::size_t i = 0; i < figure.points.size(); ++i) {
    auto& point = figure.points[i];
    if (i >= body.points.size()) {
      point.presence = Presence::absent;
      continue;
    }
    const auto at = camera.seen(body.points[i]);
    point = {{static_cast<double>(at.x), static_cast<double>(at.y)}, Presence::seen, 1, false};
  }
  figure.body.reset();
  figure.natural = naturalFor(figure);
  made.figures.figures.push_back(std::make_shared<const Figure>(std::move(figure)));
  return made;
}

std::vector<Made> some(std::size_t every) {
  std::vector<Made> out;
  std::size_t number = 0;
  for (const auto& pose : housePoses())
    if (pose.skeleton == "human" && number++ % every == 0) out.push_back(madeOf(pose, static_cast<int>(number)));
  return out;
}

Figures changed(const Figures& figures, const std::function<Figure(const Figure&)>& change) {
  Figures out{figures.frame, {}, {}};
  for (const auto& figure : figures.figures) out.figures.push_back(std::make_shared<const Figure>(change(*figure)));
  return out;
}

}  // namespace

class PoseHoldTest : public QObject {
  Q_OBJECT
 private slots:
  void bodiesInTheirPlacesHold();
  void strangersDoNot();
  void holdFallsAsFiguresStray();
  void lostLimbsAreNamed();
  void nothingToMeasureIsNothing();
};

void PoseHoldTest::bodiesInTheirPlacesHold() {
  double sum = 0, least = 101, count = 0;
  for (const Made& made : some(4)) {
    const double hold = poseHolding(made.figures, made.picture).hold;
    sum += hold;
    least = std::min(least, hold);
    ++count;
  }
  QVERIFY(count > 8);
  QVERIFY2(sum / count > 80, qPrintable(QString::number(sum / count)));
  QVERIFY2(least > 20, qPrintable(QString::number(least)));
}

void PoseHoldTest::strangersDoNot() {
  // The same figures in scenes without a body, in noise, and over a body that stands elsewhere in another pose.
  const auto all = some(4);
  double scenes = 0, noise = 0, others = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const Figures& figures = all[i].figures;
    scenes += poseHolding(figures, toSrgb8(fixtures::scene(static_cast<int>(i) % fixtures::scenes))).hold;
    noise += poseHolding(figures, toSrgb8(fixtures::noise(frame.width, frame.height, static_cast<unsigned>(i)))).hold;
    const auto aside = changed(figures, [](const Figure& f) { return moved(f, {130, 0}); });
    others += poseHolding(aside, all[(i + 3) % all.size()].picture).hold;
  }
  const auto count = static_cast<double>(all.size());
  QVERIFY2(scenes / count < 15, qPrintable(QString::number(scenes / count)));
  QVERIFY2(noise / count < 10, qPrintable(QString::number(noise / count)));
  QVERIFY2(others / count < 15, qPrintable(QString::number(others / count)));
}

void PoseHoldTest::holdFallsAsFiguresStray() {
  // Moved aside by shares of their size.
  std::vector<double> holds;
  const auto all = some(5);
  for (const double share : {0.0, 0.04, 0.08, 0.16}) {
    double sum = 0;
    for (const Made& made : all) {
      const auto strayed = changed(made.figures, [&](const Figure& f) {
        return moved(f, {share * sizeOf(f), 0.3 * share * sizeOf(f)});
      });
      sum += poseHolding(strayed, made.picture).hold;
    }
    holds.push_back(sum / static_cast<double>(all.size()));
  }
  const auto said = QString("%1 %2 %3 %4").arg(holds[0]).arg(holds[1]).arg(holds[2]).arg(holds[3]);
  QVERIFY2(holds[0] > holds[1] + 5 && holds[1] > holds[2] + 8 && holds[2] > holds[3], qPrintable(said));
  QVERIFY2(holds[3] < 25, qPrintable(said));
}

void PoseHoldTest::lostLimbsAreNamed() {
  // Its left arm raised in the figure, but hanging in the picture.
  const auto all = some(3);
  int right = 0, tried = 0;
  for (const Made& made : all) {
    const std::size_t shoulder = fixtures::at("left_shoulder"), elbow = fixtures::at("left_elbow"),
                      wrist = fixtures::at("left_wrist");
    const auto bent = changed(made.figures, [&](const Figure& f) {
      Figure out = f;
      const Point from = f.points[shoulder].at;
      const double length = 0.17 * sizeOf(f), away = f.points[elbow].at.y < from.y ? 1 : -1;
      out.points[elbow].at = from + Point{0.5 * length, away * 0.85 * length};
      out.points[wrist].at = from + Point{0.9 * length, away * 1.75 * length};
      return out;
    });
    const auto before = poseHolding(made.figures, made.picture), after = poseHolding(bent, made.picture);
    const auto names = [](const Holding& holding) {
      QStringList out;
      for (const MissedPlace& place : holding.lost) out << QString::fromStdString(place.name);
      return out;
    };
    ++tried;
    if (after.hold < before.hold && names(after).filter("left").filter("arm").size() > 0) ++right;
  }
  QVERIFY2(right * 3 >= tried * 2, qPrintable(QString("%1 of %2").arg(right).arg(tried)));
}

void PoseHoldTest::nothingToMeasureIsNothing() {
  const Image<Rgb8> picture(64, 48, Rgb8{90, 90, 90});
  QCOMPARE(poseHolding({{64, 48}, {}, {}}, picture).hold, 0.0);
  auto made = madeOf(housePoses().front(), 1);
  const auto off = changed(made.figures, [](const Figure& f) {
    Figure out = f;
    out.on = false;
    return out;
  });
  QCOMPARE(poseHolding(off, made.picture).hold, 0.0);
  // Wholly outside the frame.
  const auto away = changed(made.figures, [](const Figure& f) { return moved(f, {5000, 0}); });
  QCOMPARE(poseHolding(away, made.picture).hold, 0.0);
  QVERIFY_THROWS_EXCEPTION(Cancelled, poseHolding(made.figures, made.picture, fixtures::stopped()));
}

HSCAFFOLD_TEST(PoseHoldTest)
#include "pose_hold_test.moc"
