// Scenes: kept in files, seen exactly, without hidden lines, and lifted from figures of a picture.
#include <QTest>
#include <cmath>
#include <random>

#include "core/edge_finding/edges.h"
#include "core/image/encoded_light.h"
#include "core/pose/library.h"
#include "core/stage/lift.h"
#include "core/stage/rays.h"
#include "core/stage/scene_maps.h"
#include "core/strokes/stroke.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

namespace {

constexpr Size frame{384, 288};

Person inPose(const char* name) {
  Person out;
  for (const auto& each : pose::housePoses())
    if (each.name == name && each.skeleton == "human") out.angles = anglesAhead(each);
  return out;
}

double even(std::mt19937& dice) { return static_cast<double>(dice()) / 4294967296.0; }

/// A few figures and things about the middle, seen from somewhere.
Scene anyScene(std::uint32_t seed, bool people) {
  std::mt19937 dice(seed);
  Scene scene;
  const int count = 3 + static_cast<int>(dice() % 4);
  for (int i = 0; i < count; ++i) {
    Thing thing;
    thing.id = newThingId(scene);
    thing.place.at = {static_cast<float>(4 * even(dice) - 2), 0, static_cast<float>(4 * even(dice) - 2)};
    thing.place.turn = static_cast<float>(360 * even(dice));
    if (people && i % 2 == 0) {
      Person person;
      const auto poses = pose::housePoses();
      const auto& pose = poses[dice() % poses.size()];
      if (pose.skeleton == "human") person.angles = pose.pose.angles;
      thing.is = std::move(person);
    } else {
      thing.is = usualProp(static_cast<Prop::Form>(dice() % 15));
    }
    scene.things.push_back(std::move(thing));
  }
  const double round = 6.28 * even(dice), far = 4 + 5 * even(dice);
  scene.eye = lookingFrom({static_cast<float>(far * std::sin(round)), static_cast<float>(0.3 + 3 * even(dice)),
                           static_cast<float>(far * std::cos(round))},
                          {0, 0.8f, 0}, static_cast<float>(20 + 60 * even(dice)));
  return scene;
}

Vec3 rayThrough(const Camera& camera, double x, double y) {
  const float focal = camera.millimetres / 36 * static_cast<float>(camera.size.width);
  return camera.look.transpose() * Vec3(static_cast<float>(x - 0.5 * camera.size.width) / focal,
                                        static_cast<float>(0.5 * camera.size.height - y) / focal, -1);
}

}  // namespace

class SceneTest : public QObject {
  Q_OBJECT
 private slots:
  void filesComeBackAsTheyWere();
  void wrongFilesAreSaidOrMended_data();
  void wrongFilesAreSaidOrMended();
  void everyPropStandsOnTheGround();
  void depthIsWhatRaysMeet();
  void joinedPlacesAreWhereTheyAreSeen();
  void whatIsBehindIsHidden();
  void noHiddenLineIsDrawn();
  void linesAreWhereThePictureHasEdges();
  void linesFollowOutlines();
  void whatIsOutsideIsNamedAndFittedIn();
  void figuresComeBackFromTheirPicture();
  void wordsSayWhatIsSeen();
  void depthOfFiguresAlone();
};

void SceneTest::filesComeBackAsTheyWere() {
  for (const NamedScene& house : houseScenes()) {
    const Scene scene = house.make();
    const std::string text = sceneToText(scene);
    const Scene back = sceneFromText(text, house.id);
    QCOMPARE(sceneToText(back), text);
    QCOMPARE(back.things.size(), scene.things.size());
    const auto before = lookAt(scene, {160, 120}), after = lookAt(back, {160, 120});
    int other = 0;
    for (int y = 0; y < 120; ++y)
      for (int x = 0; x < 160; ++x) other += before.seen.object(x, y) != after.seen.object(x, y) ? 1 : 0;
    QVERIFY2(other < 4, house.id);
  }
  Scene scene;
  Thing fox;
  fox.id = "f";
  Beast beast;
  beast.kind = Animal::fox;
  beast.build.tail = 1.4f;
  fox.is = beast;
  scene.things.push_back(fox);
  scene.shots.push_back({"Low", scene.eye});
  scene.light = {120, 20, 0.4f};
  scene.ground = false;
  const Scene back = sceneFromText(sceneToText(scene), "fox");
  QVERIFY(std::get<Beast>(back.things[0].is).kind == Animal::fox && back.shots.size() == 1 && !back.ground);
  QCOMPARE(sceneToText(back), sceneToText(scene));
  // Whatever was moved however far is read again.
  scene.things[0].place.at = {4000, -2, 0};
  scene.eye.at = {0, 5000, 0};
  QCOMPARE(sceneFromText(sceneToText(scene), "far").things.size(), std::size_t{1});
}

void SceneTest::wrongFilesAreSaidOrMended_data() {
  QTest::addColumn<QString>("text");
  QTest::addColumn<QString>("says");
  QTest::addColumn<int>("left");  // things that are left when it is mended; -1: refused
  const auto with = [](const QString& things) {
    return QString(QStringLiteral("{\"scene\": 1, \"things\": [{\"id\": \"a\", \"prop\": {\"form\": \"box\"}}, %1]}"))
        .arg(things);
  };
  QTest::newRow("no scene") << "{}"
                            << "scene" << -1;
  QTest::newRow("no JSON") << "scene"
                           << "" << -1;
  QTest::newRow("newer") << "{\"scene\": 2, \"things\": []}"
                         << "scene" << 0;
  QTest::newRow("unknown prop") << with("{\"id\": \"b\", \"prop\": {\"form\": \"castle\"}}") << "castle" << 1;
  QTest::newRow("two kinds") << with("{\"id\": \"b\", \"prop\": {\"form\": \"box\"}, \"person\": {}}")
                             << "one of person" << 1;
  QTest::newRow("twice") << with("{\"id\": \"a\", \"person\": {}}") << "two \"a\"" << 1;
  QTest::newRow("no size") << with("{\"id\": \"b\", \"prop\": {\"form\": \"box\", \"size\": [0, 1, 1]}}") << "size"
                           << 1;
  QTest::newRow("not finite") << with("{\"id\": \"b\", \"at\": [1e300, 0, 0], \"person\": {}}") << "at goes" << 1;
  QTest::newRow("null") << with("{\"id\": \"b\", \"at\": [null, 0, 0], \"person\": {}}") << "at" << 1;
  QTest::newRow("no such turn") << with("{\"id\": \"b\", \"person\": {\"angles\": {\"left_wing.flap\": 3}}}")
                                << "left_wing" << 1;
  QTest::newRow("giant") << with("{\"id\": \"b\", \"person\": {\"size\": 40}}") << "size" << 1;
  QTest::newRow("field of nobody") << with("{\"id\": \"b\", \"person\": {}, \"wings\": 2}") << "wings" << 1;
}

void SceneTest::wrongFilesAreSaidOrMended() {
  QFETCH(QString, text);
  QFETCH(QString, says);
  QFETCH(int, left);
  const QString problem = fixtures::problemOf([&] { sceneFromText(text.toStdString(), "a scene"); });
  QVERIFY2(!problem.isEmpty() && problem.contains(says), qPrintable(problem));
  if (left < 0) return;
  Mended mended;
  const Scene scene = sceneFromText(text.toStdString(), "a scene", &mended);
  QCOMPARE(static_cast<int>(scene.things.size()), left);
  QVERIFY(!mended.sentences().empty());
}

void SceneTest::everyPropStandsOnTheGround() {
  for (int form = 0; form < 15; ++form) {
    Scene scene;
    scene.ground = false;
    Thing thing;
    thing.id = "p";
    thing.place = {{1, 0, 2}, 30};
    thing.is = usualProp(static_cast<Prop::Form>(form));
    scene.things.push_back(thing);
    const Set set = setOf(scene);
    QCOMPARE(set.meshes.size(), std::size_t{1});
    float low = 9, high = -9;
    for (const Vec3& p : set.meshes[0].at) {
      QVERIFY(p.allFinite());
      low = std::min(low, p.y());
      high = std::max(high, p.y());
    }
    const float tall = std::get<Prop>(thing.is).size.y();
    QVERIFY2(std::abs(low) < 0.16f * tall + 0.02f, idOf(static_cast<Prop::Form>(form)));
    QVERIFY2(high > 0.6f * tall && high < 1.5f * tall, idOf(static_cast<Prop::Form>(form)));
    QVERIFY(set.meshes[0].normal.size() == set.meshes[0].at.size());
  }
  // What is round is lit from outside.
  for (const Prop::Form form : {Prop::Form::ball, Prop::Form::lump, Prop::Form::cylinder, Prop::Form::box}) {
    Scene scene;
    scene.ground = false;
    scene.things.push_back({"p", "", {}, false, usualProp(form)});
    const Mesh mesh = setOf(scene).meshes[0];
    Vec3 middle = Vec3::Zero();
    for (const Vec3& p : mesh.at) middle += p / static_cast<float>(mesh.at.size());
    long outwards = 0;
    for (std::size_t i = 0; i < mesh.at.size(); ++i) outwards += mesh.normal[i].dot(mesh.at[i] - middle) > 0 ? 1 : -1;
    QVERIFY2(outwards > static_cast<long>(mesh.at.size()) * 9 / 10, idOf(form));
  }
}

void SceneTest::depthIsWhatRaysMeet() {
  long all = 0, wrong = 0;
  for (std::uint32_t seed = 1; seed <= 6; ++seed) {
    const Scene scene = anyScene(seed, true);
    const auto look = lookAt(scene, frame);
    const Rays rays(look.set.meshes);
    for (int y = 0; y < frame.height; ++y)
      for (int x = 0; x < frame.width; ++x) {
        const auto met = rays.first(look.camera.eye, rayThrough(look.camera, x + 0.5, y + 0.5), 1000);
        const float far = met.object != 0 ? met.along : 0, near = look.seen.near(x, y);
        if (far > 300 || (far == 0 && near < 1.0f / 300)) continue;  // where the ground ends
        ++all;
        const bool same = far == 0 ? near == 0 : std::abs(near * far - 1) <= 0.01f;
        if (same) continue;
        // On a border either side is right: what rays through the pixel elsewhere meet.
        bool border = false;
        for (const auto& [u, v] : {std::pair{0.05, 0.05},
                                   {0.95, 0.05},
                                   {0.05, 0.95},
                                   {0.95, 0.95},
                                   {0.25, 0.25},
                                   {0.75, 0.25},
                                   {0.25, 0.75},
                                   {0.75, 0.75}}) {
          const auto corner = rays.first(look.camera.eye, rayThrough(look.camera, x + u, y + v), 1000);
          border = border || (corner.object != 0 ? std::abs(near * corner.along - 1) <= 0.02f : near == 0);
        }
        wrong += border ? 0 : 1;
      }
  }
  QVERIFY2(wrong <= all / 1000, qPrintable(QString("%1 of %2").arg(wrong).arg(all)));
}

void SceneTest::joinedPlacesAreWhereTheyAreSeen() {
  Scene scene = houseScenes()[2].make();
  const auto look = lookAt(scene, frame);
  const auto figures = figuresIn(scene, look);
  QCOMPARE(figures.figures.size(), std::size_t{1});
  const auto& figure = *figures.figures[0];
  QCOMPARE(figure.name, std::string("Walker"));
  const auto& points = look.set.actors[0].points;
  for (std::size_t i = 0; i < figure.points.size(); ++i) {
    if (!figure.kind().isBody(i)) continue;
    // Seen by sines and cosines of the eye, not by its matrix.
    const double turn = scene.eye.turn * std::numbers::pi / 180, tilt = scene.eye.tilt * std::numbers::pi / 180;
    const Vec3 off = points[i] - scene.eye.at;
    const double side = off.x() * std::cos(turn) - off.z() * std::sin(turn);
    const double along = -off.x() * std::sin(turn) - off.z() * std::cos(turn);
    const double far = along * std::cos(tilt) + off.y() * std::sin(tilt),
                 up = off.y() * std::cos(tilt) - along * std::sin(tilt);
    const double focal = scene.eye.millimetres / 36.0 * frame.width;
    const Point there{0.5 * frame.width + focal * side / far, 0.5 * frame.height - focal * up / far};
    QVERIFY2(std::hypot(there.x - figure.points[i].at.x, there.y - figure.points[i].at.y) < 0.5,
             qPrintable(QString("%1: %2 %3").arg(figure.kind().points[i].id.c_str()).arg(there.x).arg(there.y)));
  }
}

void SceneTest::whatIsBehindIsHidden() {
  Scene scene = houseScenes()[1].make();
  scene.eye = lookingFrom({0, 1.2f, 5}, {0, 0.9f, 0}, 38);
  const auto presenceOf = [&](const char* id) {
    const auto figures = figuresIn(scene, lookAt(scene, frame));
    const auto& figure = *figures.figures[0];
    return figure.points[*figure.kind().find(id)].presence;
  };
  for (const char* id : {"nose", "left_wrist", "right_ankle", "left_knee"})
    QVERIFY2(presenceOf(id) == pose::Presence::seen, id);
  // A wall up to the hips hides legs and no more; from behind the face is hidden by the head.
  Thing wall;
  wall.id = "w";
  wall.place.at = {0, 0, 1};
  Prop prop = usualProp(Prop::Form::wall);
  prop.size = {2, 0.7f, 0.1f};
  wall.is = prop;
  scene.things.push_back(wall);
  QVERIFY(presenceOf("left_knee") == pose::Presence::hidden && presenceOf("right_ankle") == pose::Presence::hidden);
  QVERIFY(presenceOf("nose") == pose::Presence::seen);
  scene.things.back().hidden = true;
  QVERIFY(presenceOf("left_knee") == pose::Presence::seen);
  scene.eye = lookingFrom({0, 1.2f, -5}, {0, 0.9f, 0}, 38);
  QVERIFY(presenceOf("nose") == pose::Presence::hidden);
  scene.eye = lookingFrom({0, 1.2f, -5}, {0, 0.9f, -9}, 38);  // looking away
  QVERIFY(figuresIn(scene, lookAt(scene, frame)).figures.empty());
}

void SceneTest::noHiddenLineIsDrawn() {
  long places = 0, hidden = 0;
  // A thousand of them are drawn where somebody asks for that.
  const auto scenes = static_cast<std::uint32_t>(std::max(60, qEnvironmentVariableIntValue("HSCAFFOLD_SCENES")));
  for (std::uint32_t seed = 1; seed <= scenes; ++seed) {
    const Scene scene = anyScene(seed, seed % 3 == 0);
    const Set set = setOf(scene);
    const Camera camera = cameraOf(scene.eye, frame);
    const Rays rays(set.meshes);
    for (const SeenLine& line : linesOf(set.meshes, camera)) {
      QVERIFY(line.points.size() >= 2);
      for (std::size_t i = 1; i < line.points.size(); ++i) {
        const Point p = (line.points[i] + line.points[i - 1]) * 0.5;
        if (p.x < 0 || p.y < 0 || p.x >= frame.width || p.y >= frame.height) continue;
        // Its own thing has to be among what rays about that place meet.
        bool seen = false;
        for (int dy = -1; dy <= 1 && !seen; ++dy)
          for (int dx = -1; dx <= 1 && !seen; ++dx)
            seen =
                rays.first(camera.eye, rayThrough(camera, p.x + 1.2 * dx, p.y + 1.2 * dy), 1000).object == line.object;
        ++places;
        hidden += seen ? 0 : 1;
      }
    }
  }
  QVERIFY(places > 3000);
  QVERIFY2(hidden * 1000 <= places, qPrintable(QString("%1 of %2").arg(hidden).arg(places)));
}

/// Lines of a scene against the edges of its shaded picture, where light and dark differ across a line: F of precision
/// and recall, two pixels near.
void SceneTest::linesAreWhereThePictureHasEdges() {
  long lines = 0, found = 0, edges = 0, right = 0;
  for (std::uint32_t seed = 101; seed <= 112; ++seed) {
    Scene scene = anyScene(seed, seed % 2 == 0);
    scene.ground = false;
    const Set set = setOf(scene);
    const Size size{480, 320};
    const Camera camera = cameraOf(scene.eye, size);
    Lighting light = lightingOf(scene.light);
    light.shadows = false;
    light.skyTop = light.skyRim = {0.9f, 0.9f, 0.9f};
    const auto seen = rendered(set.meshes, camera, light);
    const auto encoded = encodedLightOf(seen.colour.view());
    EdgeTuning tuning;
    const auto map = extractEdges(seen.colour.view(), tuning);
    const auto drawn = drawnStrokes(strokesOf(linesOf(set.meshes, camera)), size);
    constexpr int rim = 5, near = 2;
    const auto any = [&](const auto& image, int x, int y, auto least) {
      for (int dy = -near; dy <= near; ++dy)
        for (int dx = -near; dx <= near; ++dx)
          if (image(x + dx, y + dy) > least) return true;
      return false;
    };
    for (int y = rim; y < size.height - rim; ++y)
      for (int x = rim; x < size.width - rim; ++x) {
        float low = 1, high = 0;
        for (int dy = -3; dy <= 3; ++dy)
          for (int dx = -3; dx <= 3; ++dx) {
            low = std::min(low, encoded(x + dx, y + dy));
            high = std::max(high, encoded(x + dx, y + dy));
          }
        if (high - low < 0.12f) continue;
        if (drawn(x, y) > 40000) {
          ++lines;
          found += any(map, x, y, 127) ? 1 : 0;
        }
        if (map(x, y) > 127) {
          ++edges;
          right += any(drawn, x, y, 20000) ? 1 : 0;
        }
      }
  }
  const double recall = static_cast<double>(found) / static_cast<double>(lines),
               precision = static_cast<double>(right) / static_cast<double>(edges),
               f = 2 * recall * precision / (recall + precision);
  qInfo("recall %.3f of %ld, precision %.3f of %ld, F %.3f", recall, lines, precision, edges, f);
  QVERIFY(lines > 3000 && edges > 3000);
  QVERIFY2(f >= 0.95, qPrintable(QString::number(f)));
}

void SceneTest::linesFollowOutlines() {
  // A box alone: nine edges are seen from before and above, in straight lines between its corners.
  Scene scene;
  scene.ground = false;
  Thing box;
  box.id = "b";
  box.place.turn = 30;
  box.is = usualProp(Prop::Form::box);
  scene.things.push_back(box);
  scene.eye = lookingFrom({0.5f, 1.6f, 3}, {0, 0.3f, 0}, 50);
  const Set set = setOf(scene);
  const Camera camera = cameraOf(scene.eye, frame);
  LineAsk ask;
  const auto lines = linesOf(set.meshes, camera, ask);
  double length = 0;
  std::set<std::pair<long, long>> ends;
  for (const SeenLine& line : lines)
    for (std::size_t i = 0; i < line.points.size(); ++i) {
      ends.insert({std::lround(line.points[i].x), std::lround(line.points[i].y)});
      if (i > 0) length += std::hypot(line.points[i].x - line.points[i - 1].x, line.points[i].y - line.points[i - 1].y);
    }
  QVERIFY2(ends.size() == 7, qPrintable(QString::number(ends.size())));  // seven corners of eight
  ask.creases = false;
  double outline = 0;
  for (const SeenLine& line : linesOf(set.meshes, camera, ask)) {
    QVERIFY(line.of == SeenLine::Of::outline);
    for (std::size_t i = 1; i < line.points.size(); ++i)
      outline += std::hypot(line.points[i].x - line.points[i - 1].x, line.points[i].y - line.points[i - 1].y);
  }
  QVERIFY(outline < 0.8 * length && outline > 0.4 * length);
  const auto strokes = strokesOf(lines, {});
  QVERIFY(!strokes.empty() && strokes[0]->points.size() % 3 == 1 &&
          strokes[0]->widths.size() == strokes[0]->curves() + 1);
}

void SceneTest::whatIsOutsideIsNamedAndFittedIn() {
  Scene scene = houseScenes()[1].make();
  scene.eye = lookingFrom({0, 1.2f, 4}, {0, 0.9f, 0}, 38);
  QVERIFY(whatIsOutside(scene, frame).empty());
  scene.eye = lookingFrom({0, 1.5f, 1.6f}, {0, 1.3f, 0}, 38);
  const auto outside = whatIsOutside(scene, frame);
  QCOMPARE(outside.size(), std::size_t{1});
  QVERIFY2(outside[0].find("Figure") != std::string::npos, outside[0].c_str());
  scene.eye = fittedEye(scene, frame);
  QVERIFY(whatIsOutside(scene, frame).empty());
  // It fills what it can: nothing is farther than it has to be.
  const auto look = lookAt(scene, frame);
  int top = frame.height, bottom = 0;
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x)
      if (look.seen.object(x, y) == 1) top = std::min(top, y), bottom = std::max(bottom, y);
  QVERIFY2(bottom - top > 0.85 * frame.height && top > 0 && bottom < frame.height - 1,
           qPrintable(QString("%1 %2").arg(top).arg(bottom)));
  scene.eye = lookingFrom({0, 1.2f, -4}, {0, 0.9f, -9}, 38);
  QCOMPARE(whatIsOutside(scene, frame), std::vector<std::string>{"Figure is outside"});
  scene.eye = fittedEye(scene, frame);
  QVERIFY(whatIsOutside(scene, frame).empty());
}

void SceneTest::figuresComeBackFromTheirPicture() {
  // Three people on a ground seen from a little above: put onto a stage from their key points alone.
  Scene scene;
  for (const auto& [x, z, turn] : {std::tuple{-0.9f, 0.5f, 20.0f}, {0.6f, -0.8f, -30.0f}, {1.2f, 1.0f, 70.0f}}) {
    Thing thing;
    thing.id = newThingId(scene);
    thing.name = thing.id;
    thing.place = {{x, 0, z}, turn};
    thing.is = inPose("Walking");
    scene.things.push_back(std::move(thing));
  }
  scene.eye = lookingFrom({0, 2.1f, 6.5f}, {0, 0.8f, 0}, 38);
  const auto figures = figuresIn(scene, lookAt(scene, {768, 576}));
  LiftAsk ask;
  const Scene lifted = stagedFrom(figures, ask);
  QCOMPARE(lifted.things.size(), std::size_t{3});
  QVERIFY2(lifted.eye.at.y() > 1.2f && lifted.eye.at.y() < 3.2f, qPrintable(QString::number(lifted.eye.at.y())));
  QVERIFY2(lifted.eye.tilt < 0 && lifted.eye.tilt > -25, qPrintable(QString::number(lifted.eye.tilt)));
  for (const Thing& thing : lifted.things) {
    const auto& person = std::get<Person>(thing.is);
    QVERIFY2(thing.place.at.y() == 0 && person.size > 1.3f && person.size < 2.2f,
             qPrintable(QString::number(person.size)));
  }
  // Seen again by the eye that was found, they lie where they lay.
  const auto again = figuresIn(lifted, lookAt(lifted, {768, 576}));
  for (const auto& figure : figures.figures) {
    const auto found = std::find_if(again.figures.begin(), again.figures.end(),
                                    [&](const auto& each) { return each->name == figure->name; });
    QVERIFY(found != again.figures.end());
    double sum = 0, count = 0;
    for (std::size_t i = 0; i < figure->points.size(); ++i)
      if (figure->kind().isBody(i) && figure->points[i].there() && (*found)->points[i].there()) {
        const Point by = (*found)->points[i].at - figure->points[i].at;
        sum += std::hypot(by.x, by.y);
        ++count;
      }
    QVERIFY2(sum / count < 0.09 * pose::sizeOf(*figure),
             qPrintable(QString("%1: %2 of %3").arg(figure->name.c_str()).arg(sum / count).arg(pose::sizeOf(*figure))));
  }
  QVERIFY(!fixtures::problemOf([] { stagedFrom({{64, 64}, {}, {}}); }).isEmpty());
}

void SceneTest::wordsSayWhatIsSeen() {
  Scene scene = houseScenes()[2].make();
  const auto words = [&] { return QString::fromStdString(wordsFor(scene, lookAt(scene, frame))); };
  QVERIFY2(words().contains("walking") && words().contains("in front of a rail"), qPrintable(words()));
  scene.things[0].place.turn = 0;
  scene.eye = lookingFrom({-0.4f, 1.3f, 5}, {-0.4f, 0.9f, 0}, 38);
  QVERIFY2(words().contains("seen from the front"), qPrintable(words()));
  scene.eye = lookingFrom({-0.4f, 1.3f, -5}, {-0.4f, 0.9f, 0}, 38);
  QVERIFY2(words().contains("behind"), qPrintable(words()));
  scene.eye = lookingFrom({-0.4f, 6, 3}, {-0.4f, 0.9f, 0}, 38);
  QVERIFY2(words().contains("from above"), qPrintable(words()));
  // Of whom nothing is seen nothing is said.
  scene.eye = lookingFrom({-0.4f, 1.3f, 5}, {-0.4f, 1.3f, 9}, 38);
  QVERIFY2(!words().contains("walking"), qPrintable(words()));
}

void SceneTest::depthOfFiguresAlone() {
  const Scene scene = houseScenes()[2].make();
  const auto look = lookAt(scene, frame);
  DepthAsk ask;
  const auto whole = depthMap(look, ask);
  ask.figuresOnly = true;
  const auto alone = depthMap(look, ask);
  long both = 0;
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x) {
      const bool figure = look.seen.object(x, y) == 1;
      QCOMPARE(alone(x, y) > 0, figure);
      both += figure ? 1 : 0;
      if (look.seen.near(x, y) > 0) QVERIFY(whole(x, y) > 0 || look.seen.near(x, y) < 0.002f);
    }
  QVERIFY(both > 1000);
  ask = {};
  ask.near = 2.0f;
  ask.far = 8.0f;
  const auto chosen = depthMap(look, ask);
  for (int y = 0; y < frame.height; ++y)
    for (int x = 0; x < frame.width; ++x) {
      const double over = static_cast<double>(look.seen.near(x, y));
      const double wanted = std::clamp((over - 0.125) / (0.5 - 0.125), 0.0, 1.0) * 65535;
      QVERIFY(std::abs(chosen(x, y) - wanted) <= 2 || over == 0);
    }
  const auto mask = maskOf(look, 0);
  QCOMPARE(mask(0, 0), std::uint16_t{0});
}

HSCAFFOLD_TEST(SceneTest)
#include "scene_test.moc"
