// Things that go along and come back: copies, panels with pictures, what is built once and kept; and where things run
// into each other.
#include <QTest>
#include <cmath>
#include <functional>

#include "core/base64.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/stage/contacts.h"
#include "core/stage/copies.h"
#include "core/stage/lift.h"
#include "core/stage/scene_maps.h"
#include "core/stage/stand.h"
#include "core/stage/triangles.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace hscaffold::stage;

namespace {

constexpr Size smallFrame{240, 160};

Thing propAt(const char* id, Prop::Form form, const Vec3& at, float turn = 0) {
  Thing out;
  out.id = id;
  out.place = {at, turn};
  out.is = usualProp(form);
  return out;
}

/// Left half red, right half blue, its upper quarter white.
std::shared_ptr<const PanelPicture> flag(int width, int height) {
  Image<Rgba16> picture(width, height);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      picture(x, y) = y < height / 4  ? Rgba16{65535, 65535, 65535, 65535}
                      : x < width / 2 ? Rgba16{65535, 0, 0, 65535}
                                      : Rgba16{0, 0, 65535, 65535};
  return PanelPicture::of(picture.view());
}

Scene withPanel(std::shared_ptr<const PanelPicture> picture) {
  Scene scene;
  scene.things.push_back(propAt("p", Prop::Form::panel, {0, 0, 0}));
  auto& prop = std::get<Prop>(scene.things[0].is);
  prop.picture = std::move(picture);
  prop.shows = "flag.png";
  scene.eye = lookingFrom({0, 0.6f, 3}, {0, 0.6f, 0}, 50);
  return scene;
}

double distanceTo(const Mesh& mesh, const Vec3& p) {
  double best = 1e9;
  for (const auto& f : mesh.faces) {
    const Vec3 &a = mesh.at[f[0]], &b = mesh.at[f[1]], &c = mesh.at[f[2]];
    const Vec3 n = (b - a).cross(c - a).normalized();
    const Vec3 q = p - n * n.dot(p - a);
    const auto beside = [&](const Vec3& u, const Vec3& v) { return (v - u).cross(q - u).dot(n) < -1e-5f; };
    if (beside(a, b) || beside(b, c) || beside(c, a)) continue;
    best = std::min(best, static_cast<double>(std::abs(n.dot(p - a))));
  }
  return best;
}

bool sameMesh(const Mesh& a, const Mesh& b) {
  return a.at == b.at && a.normal == b.normal && a.colour == b.colour && a.faces == b.faces && a.object == b.object;
}

}  // namespace

class ThingsTest : public QObject {
  Q_OBJECT
 private slots:
  void copiesKeepWhatHoldsThemTogether();
  void thereIsRoomForSoMany();
  void newFiguresHideNobody();
  void panelsShowTheirPicture();
  void picturesOfPanelsAreKeptInTheScene();
  void pictureFilesOfOthersAreRefused();
  void onlyWhatChangedIsBuiltAnew();
  void linesLieWhereThingsMeet();
  void neighboursCoverEverySampleOnce();
  void whoIsSeenFromAboveStandsUpright();
  void ofACrowdThoseInFrontAreDescribed();
};

void ThingsTest::copiesKeepWhatHoldsThemTogether() {
  Scene scene;
  Thing walker = propAt("a", Prop::Form::box, {0, 0, 0});
  walker.is = Person{};
  walker.group = "with b";
  walker.pins = {{"left_wrist", "b", {0, 1, 0}}, {"right_wrist", "c", {0, 1, 0}}, {"left_ankle", "", {0.5f, 0, 0}}};
  walker.gaze = {true, "c"};
  scene.things = {walker, propAt("b", Prop::Form::post, {1, 0, 0}), propAt("c", Prop::Form::tree, {3, 0, 0})};
  scene.things[1].group = "with b";
  scene.shots.push_back({"Shot", scene.eye});
  QCOMPARE(takenWith(scene, "a"), (std::vector<std::string>{"a", "b"}));
  QCOMPARE(takenWith(scene, "c"), std::vector<std::string>{"c"});
  QVERIFY(takenWith(scene, "nobody").empty());

  const Scene copy = copyOf(scene, takenWith(scene, "a"));
  QCOMPARE(copy.things.size(), std::size_t{2});
  QVERIFY(copy.shots.empty());
  QCOMPARE(copy.things[0].pins.size(), std::size_t{2});  // the tree is not there to be held
  QVERIFY(!copy.things[0].gaze.on);

  const Scene read = sceneFromText(sceneToText(copy), "The clipboard");
  const auto ids = putInto(scene, read, {2, 0, 0});
  QCOMPARE(ids.size(), std::size_t{2});
  QCOMPARE(scene.things.size(), std::size_t{5});
  const Thing *again = scene.thing(ids[0]), *post = scene.thing(ids[1]);
  QVERIFY(again != nullptr && post != nullptr && ids[0] != "a" && ids[1] != "b");
  QCOMPARE(again->pins[0].on, ids[1]);
  QVERIFY(again->pins[0].at == Vec3(0, 1, 0));
  QVERIFY(again->pins[1].on.empty() && (again->pins[1].at - Vec3(2.5f, 0, 0)).norm() < 1e-5f);
  QVERIFY(!again->group.empty() && again->group == post->group && again->group != "with b");
  QVERIFY((post->place.at - Vec3(3, 0, 0)).norm() < 1e-5f);
  QVERIFY(scene.things[0] == walker);
}

void ThingsTest::newFiguresHideNobody() {
  Scene scene;
  const auto put = [&](const char* id, const Vec3& at) { scene.things.push_back({id, id, {at, 0}, false, Person{}}); };
  const auto seenOf = [&](std::uint16_t object) {
    const auto look = lookAt(scene, smallFrame);
    int count = 0;
    for (int y = 0; y < smallFrame.height; ++y)
      for (int x = 0; x < smallFrame.width; ++x) count += look.seen.object(x, y) == object ? 1 : 0;
    return count;
  };
  const Vec3 middle{0, 0, 0};
  QVERIFY(placeBeside(scene, middle, 0.25f) == middle);
  put("behind", {0, 0, -0.8f});
  const int alone = seenOf(1);
  QVERIFY2(alone > 100, qPrintable(QString::number(alone)));
  for (const char* id : {"b", "c", "d"}) put(id, placeBeside(scene, middle, 0.25f));
  // To both sides, as near as may be, and the one behind is seen as before.
  QVERIFY(scene.things[1].place.at.x() * scene.things[2].place.at.x() < 0);
  QVERIFY(std::abs(scene.things[3].place.at.x()) < 2);
  QVERIFY2(seenOf(1) > 0.8 * alone, qPrintable(QString("%1 of %2").arg(seenOf(1)).arg(alone)));
  // Before a table one stands; in it, not.
  Scene table;
  table.things = {propAt("t", Prop::Form::table, {0, 0, -1})};
  QVERIFY(placeBeside(table, {0, 0, 0.5f}, 0.25f) == Vec3(0, 0, 0.5f));
  const Thing box = propAt("b", Prop::Form::box, {0, 0, 0});
  const float broad = halfBreadthOf(box), room = broad + halfBreadthOf(table.things[0]);
  QVERIFY(broad > 0.2f && room > 0.8f);
  QVERIFY((placeBeside(table, {0, 0, -1}, broad) - Vec3(0, 0, -1)).norm() >= room);
}

void ThingsTest::thereIsRoomForSoMany() {
  Scene scene, more;
  for (std::size_t i = 0; i < mostThings - 2; ++i)
    scene.things.push_back(propAt(("t" + std::to_string(i)).c_str(), Prop::Form::box, {0, 0, 0}));
  for (const char* id : {"x", "y", "z"}) more.things.push_back(propAt(id, Prop::Form::ball, {0, 0, 0}));
  QCOMPARE(putInto(scene, more).size(), std::size_t{2});
  QCOMPARE(scene.things.size(), mostThings);
  QVERIFY(putInto(scene, more).empty());
}

void ThingsTest::panelsShowTheirPicture() {
  const auto look = lookAt(withPanel(flag(180, 120)), smallFrame);
  // The panel is 1.8 by 1.2 metres, its middle in the picture's.
  const auto seenAt = [&](float across, float high) {
    const auto place = look.camera.seen({across * 0.9f, 0.6f + high * 0.6f, 0.02f});
    return look.seen.colour(static_cast<int>(place.x), static_cast<int>(place.y));
  };
  const auto is = [](Rgb c, bool r, bool g, bool b) {
    const float most = std::max({c.r, c.g, c.b});
    return most > 0.05f && (c.r > 0.6f * most) == r && (c.g > 0.6f * most) == g && (c.b > 0.6f * most) == b;
  };
  QVERIFY(is(seenAt(-0.6f, -0.5f), true, false, false));
  QVERIFY(is(seenAt(0.6f, -0.5f), false, false, true));
  QVERIFY(is(seenAt(-0.6f, 0.8f), true, true, true));
  QVERIFY(is(seenAt(0.6f, 0.8f), true, true, true));
  // From behind it is a board.
  Scene behind = withPanel(flag(180, 120));
  behind.eye = lookingFrom({0, 0.6f, -3}, {0, 0.6f, 0}, 50);
  const auto back = lookAt(behind, smallFrame);
  const Rgb board = back.seen.colour(smallFrame.width / 2, smallFrame.height / 2);
  QVERIFY(back.seen.object(smallFrame.width / 2, smallFrame.height / 2) == 1 && std::abs(board.r - board.b) < 0.1f);
  // Far away it is the mean of what it shows, not one pixel of it or another.
  const auto fine = flag(256, 2);
  const Rgb mean = fine->at(0.5f, 0.5f, 1);
  QVERIFY(std::abs(mean.r - fine->at(0.1f, 0.5f, 1).r) < 0.02f && mean.r > 0.1f && mean.b > 0.1f);
}

void ThingsTest::picturesOfPanelsAreKeptInTheScene() {
  const Scene scene = withPanel(flag(2000, 900));
  const auto& kept = std::get<Prop>(scene.things[0].is);
  QCOMPARE(kept.picture->pixels().size(), (Size{256, 115}));
  const Scene read = sceneFromText(sceneToText(scene), "here");
  const auto& back = std::get<Prop>(read.things[0].is);
  QVERIFY(back.picture != nullptr && back.picture->pixels() == kept.picture->pixels());
  QCOMPARE(back.shows, std::string("flag.png"));
  QCOMPARE(sceneToText(read), sceneToText(scene));
  // Read once more it is the very same: nothing is built anew for it.
  const Scene again = sceneFromText(sceneToText(scene), "here");
  QVERIFY(again.things[0] == read.things[0]);
}

void ThingsTest::pictureFilesOfOthersAreRefused() {
  const std::string text = sceneToText(withPanel(flag(40, 30)));
  const std::string picture = std::get<Prop>(withPanel(flag(40, 30)).things[0].is).picture->text();
  const auto saidOf = [&](const std::string& instead) {
    std::string other = text;
    other.replace(other.find(picture), picture.size(), instead);
    return fixtures::problemOf([&] { (void)sceneFromText(other, "here"); });
  };
  QVERIFY(!saidOf("no base64!").isEmpty());
  QVERIFY(!saidOf("AAAA").isEmpty());
  QVERIFY(!saidOf(picture.substr(0, picture.size() / 2 / 4 * 4)).isEmpty());
  // A head that says 60,000 by 60,000 is not believed.
  const Scene small = withPanel(flag(4, 4));
  auto bytes = encodePng(std::get<Prop>(small.things[0].is).picture->pixels().view());
  bytes[18] = bytes[22] = std::byte{0xea};
  QVERIFY(!saidOf(base64(bytes)).isEmpty());
  // With mending, the rest of the scene is there.
  std::string broken = text;
  broken.replace(broken.find(picture), picture.size(), "AAAA");
  Mended mended;
  const Scene rest = sceneFromText(broken, "here", &mended);
  QVERIFY(rest.things.empty() && !mended.sentences().empty());
}

void ThingsTest::onlyWhatChangedIsBuiltAnew() {
  Scene scene = houseScenes()[2].make();
  const auto first = standOf(scene);
  scene.eye.turn += 5;
  scene.things[0].name = "Somebody";
  QVERIFY(standOf(scene, first)->set.meshes.size() == first->set.meshes.size());
  scene.things[0].name = first->things[0].name;
  QVERIFY(standOf(scene, first) == first);  // the eye alone builds nothing
  // Moved, hidden, taken away, put among the others, lit from elsewhere: as if it had all been built anew.
  std::shared_ptr<const Stand> kept = first;
  const std::vector<std::function<void()>> changes = {
      [&] { scene.things[1].place.at.x() += 0.3f; },
      [&] { scene.things[2].hidden = true; },
      [&] { scene.things.erase(scene.things.begin()); },
      [&] {
        Thing more = propAt("more", Prop::Form::stair, {1, 0, 1});
        scene.things.insert(scene.things.begin(), more);
      },
      [&] { std::rotate(scene.things.begin(), scene.things.begin() + 1, scene.things.end()); },
      [&] { scene.things.back().id = "other"; },
      [&] { scene.light.from += 90; },
      [&] { scene.ground = !scene.ground; }};
  for (const auto& change : changes) {
    change();
    kept = standOf(scene, kept);
    const Set fresh = setOf(scene);
    QCOMPARE(kept->set.meshes.size(), fresh.meshes.size());
    for (std::size_t i = 0; i < fresh.meshes.size(); ++i) QVERIFY(sameMesh(kept->set.meshes[i], fresh.meshes[i]));
    QCOMPARE(kept->set.actors.size(), fresh.actors.size());
    for (std::size_t i = 0; i < fresh.actors.size(); ++i)
      QVERIFY(kept->set.actors[i].thing == fresh.actors[i].thing &&
              kept->set.actors[i].points == fresh.actors[i].points);
    const auto a = rendered(*kept, cameraOf(scene.eye, smallFrame)), b = lookAt(scene, smallFrame).seen;
    QVERIFY(a.colour == b.colour && a.near == b.near && a.object == b.object);
  }
}

void ThingsTest::linesLieWhereThingsMeet() {
  // A post in a hill, and a hill in the ground.
  Scene scene;
  scene.things = {propAt("hill", Prop::Form::lump, {0, -0.3f, 0}), propAt("post", Prop::Form::post, {0.1f, 0, 0.1f}),
                  propAt("apart", Prop::Form::box, {5, 0, 0})};
  std::get<Prop>(scene.things[0].is).size = {2, 1, 2};
  scene.eye = lookingFrom({0, 1.8f, 4}, {0, 0.4f, 0}, 40);
  const Set set = setOf(scene);
  std::vector<const Mesh*> things;
  for (const Mesh& mesh : set.meshes)
    if (mesh.object != groundObject) things.push_back(&mesh);
  const float ground = 0;
  const auto contacts = contactsOf(things, &ground);
  std::size_t inHill = 0, inGround = 0;
  for (const Contact& contact : contacts)
    for (const Vec3& p : {contact.from, contact.to}) {
      QVERIFY(distanceTo(*things[0], p) < 1e-4);
      const bool level = std::abs(p.y()) < 1e-5f;
      if (level)
        ++inGround;
      else
        QVERIFY(distanceTo(*things[1], p) < 1e-4);
      inHill += level ? 0 : 1;
    }
  QVERIFY(inHill >= 16 && inGround >= 16);
  // Seen, they are lines; without them there are none of that kind.
  const auto camera = cameraOf(scene.eye, smallFrame);
  const auto seen = [&](const LineAsk& ask) {
    double length = 0;
    for (const auto& line : linesOf(set.meshes, camera, ask))
      if (line.of == SeenLine::Of::contact)
        for (std::size_t i = 1; i < line.points.size(); ++i)
          length += std::hypot(line.points[i].x - line.points[i - 1].x, line.points[i].y - line.points[i - 1].y);
    return length;
  };
  QVERIFY(seen({}) > 40);
  LineAsk none;
  none.contacts = false;
  QVERIFY(seen(none) == 0);
  // What stands on the ground, or beside another, has no such line.
  scene.things.erase(scene.things.begin(), scene.things.begin() + 2);
  const Set alone = setOf(scene);
  const std::vector<const Mesh*> box = {&alone.meshes[0]};
  QVERIFY(contactsOf(box, &ground).empty());
}

void ThingsTest::neighboursCoverEverySampleOnce() {
  // A fan of slivers across the picture: no sample between them is missed, whatever their sides' slopes.
  Mesh fan;
  constexpr int parts = 977;
  fan.at.emplace_back(0.0137f, 0.0071f, 0.0f);
  for (int i = 0; i < parts; ++i) {
    const float angle = 2 * pi * static_cast<float>(i) / parts;
    fan.at.emplace_back(9 * std::cos(angle), 9 * std::sin(angle), 0.0f);
    fan.faces.push_back({0, static_cast<std::uint32_t>(1 + i), static_cast<std::uint32_t>(1 + (i + 1) % parts)});
  }
  fan.colour.assign(fan.at.size(), {1, 1, 1});
  fan.object = 1;
  computeNormals(fan);
  const std::vector<Mesh> meshes = {fan};
  const Camera camera = lookingAt({0, 0, 3}, {0, 0, 0}, 50, {333, 217});
  const Triangles triangles(meshes, camera, false, patchOf(boxOf(camera.size)));
  std::size_t count = 0;
  for (std::size_t strip = 0; strip < triangles.strips(); ++strip) {
    Samples samples;
    triangles.nearestIn(strip, samples);
    const auto size = static_cast<std::size_t>(samples.width) * static_cast<std::size_t>(samples.end - samples.first);
    for (std::size_t i = 0; i < size; ++i, ++count) {
      QVERIFY(samples.winner[i] != nobody);
      QVERIFY(std::abs(samples.over[i] - 1.0f / 3) < 1e-4f);
      const auto x = static_cast<float>(i % static_cast<std::size_t>(samples.width)) + 0.5f,
                 y = static_cast<float>(samples.first + static_cast<int>(i / static_cast<std::size_t>(samples.width))) +
                     0.5f;
      // The winner is really there: its corners' shares are all at least nothing.
      const auto shares = triangles.sharesAt(triangles[samples.winner[i]], x, y);
      for (const float share : shares) QVERIFY(share > -0.01f && share < 1.01f);
    }
  }
  QCOMPARE(count, std::size_t{4 * 333 * 217});
}

void ThingsTest::whoIsSeenFromAboveStandsUpright() {
  // Seen by an eye that looks down, figures lean in its picture; lifted onto a stage they stand as they stood.
  double error = 0, lean = 0, count = 0;
  const auto& skeleton = pose::skeletonOf("human");
  const auto trunk = [&](const Scene& scene, std::size_t which) {
    const auto set = setOf(scene);
    const auto& at = set.actors[which].points;
    const Vec3 hips = 0.5f * (at[*skeleton.find("left_hip")] + at[*skeleton.find("right_hip")]);
    return Vec3((at[*skeleton.find("neck")] - hips).normalized());
  };
  for (const float high : {1.6f, 2.6f, 3.6f, 4.6f})
    for (const std::size_t pose : {std::size_t{0}, std::size_t{2}, std::size_t{3}}) {
      Scene scene;
      int number = 0;
      for (const auto& [x, z, turn] : {std::tuple{-1.1f, 0.9f, 25.0f}, {0.2f, -1.6f, -40.0f}, {1.3f, 0.4f, 60.0f}}) {
        Person person;
        person.angles = anglesAhead(pose::housePoses()[pose]);
        scene.things.push_back({"f" + std::to_string(number++), "", {{x, 0, z}, turn}, false, person});
        scene.things.back().name = scene.things.back().id;
      }
      scene.eye = lookingFrom({0, high, 6.5f}, {0, 0.9f, 0}, 38);
      const auto figures = figuresIn(scene, lookAt(scene, {768, 576}));
      const Scene lifted = stagedFrom(figures, {});
      const auto again = figuresIn(lifted, lookAt(lifted, {768, 576}));
      for (std::size_t i = 0; i < lifted.things.size(); ++i) {
        const auto named = [&](const auto& each) { return each->name == lifted.things[i].name; };
        const auto there = std::find_if(figures.figures.begin(), figures.figures.end(), named);
        const auto back = std::find_if(again.figures.begin(), again.figures.end(), named);
        QVERIFY(there != figures.figures.end() && back != again.figures.end());
        double sum = 0, points = 0;
        for (std::size_t p = 0; p < (*there)->points.size(); ++p)
          if ((*there)->kind().isBody(p) && (*there)->points[p].there() && (*back)->points[p].there()) {
            const Point by = (*back)->points[p].at - (*there)->points[p].at;
            sum += std::hypot(by.x, by.y);
            ++points;
          }
        error += sum / points / pose::sizeOf(**there);
        const auto which = static_cast<std::size_t>(lifted.things[i].name[1] - '0');
        lean += std::acos(std::clamp(static_cast<double>(trunk(lifted, i).dot(trunk(scene, which))), -1.0, 1.0));
        ++count;
      }
    }
  qInfo("off by %.4f of their height, trunks by %.2f degrees", error / count, lean / count * 180 / M_PI);
  QVERIFY(error / count < 0.06 && lean / count * 180 / M_PI < 7);
}

void ThingsTest::ofACrowdThoseInFrontAreDescribed() {
  Scene scene;
  for (int i = 0; i < 15; ++i)
    scene.things.push_back({"f" + std::to_string(i),
                            "",
                            {{1.0f * static_cast<float>(i % 5 - 2), 0, -1.5f * static_cast<float>(i / 5)}, 0},
                            false,
                            Person{}});
  scene.eye = lookingFrom({0, 2.2f, 6}, {0, 0.8f, -1}, 30);
  const auto words = QString::fromStdString(wordsFor(scene, lookAt(scene, smallFrame)));
  QVERIFY2(words.count("standing") == 6 && words.contains("9 others further back"), qPrintable(words));
}

HSCAFFOLD_TEST(ThingsTest)
#include "things_test.moc"
