#include "core/stage/scene.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>

#include "core/image/parallel.h"

namespace hscaffold::stage {
namespace {

constexpr float sceneDegree = pi / 180;

constexpr std::array<const char*, 17> formIds = {"box",   "ball", "cylinder", "stair", "table", "chair",
                                                 "bench", "post", "rail",     "arch",  "wall",  "sheet",
                                                 "boat",  "tree", "lump",     "panel", "model"};

/// Brought from a body's own axes to where it stands.
void put(Mesh& mesh, const Place& place) {
  for (Vec3& p : mesh.at) p = place.map(p);
  for (Vec3& n : mesh.normal) n = place.direction(n);
}

Mesh meshOf(const Prop& prop, const Place& place) {
  using Form = Prop::Form;
  const Vec3& s = prop.size;
  switch (prop.form) {
    case Form::box:
      return box(place, s, prop.colour);
    case Form::ball:
      return ball(place, s.y() / 2, prop.colour);
    case Form::cylinder:
      return cylinder(place, s, prop.colour);
    case Form::stair:
      return stair(place, std::clamp(static_cast<int>(std::lround(s.y() / 0.17f)), 1, 120), s.x(), prop.colour);
    case Form::table:
      return table(place, s, prop.colour);
    case Form::chair:
      return chair(place, s.y() / 0.92f, prop.colour);
    case Form::bench:
      return bench(place, s, prop.colour);
    case Form::post:
      return post(place, s.y(), s.x() / 2, prop.colour);
    case Form::rail:
      return rail(place, s.x(), s.y(), prop.colour);
    case Form::arch:
      return arch(place, s.x(), s.y(), s.z(), prop.colour);
    case Form::wall:
      return box(place, s, prop.colour);
    case Form::sheet:
      return sheet(place, s.x(), s.y(), prop.wind, prop.colour);
    case Form::boat:
      return boat(place, s, prop.colour);
    case Form::tree:
      return tree(place, s.y(), prop.seed, {0.16f, 0.10f, 0.06f}, prop.colour, false);
    case Form::panel:
      return panel(place, s, prop.colour, prop.picture);
    case Form::model: {
      if (prop.model == nullptr) return box(place, s, prop.colour);
      Mesh out = meshOf(*prop.model, s, prop.colour);
      put(out, place);
      return out;
    }
    case Form::lump: {
      Place raised = place;
      raised.at.y() += s.y() / 2;
      return lump(raised, s / 2, 0.35f, prop.seed, prop.colour, 16);
    }
  }
  return {};
}

/// Angles as long as the skeleton has turns.
std::vector<double> anglesFor(const char* skeleton, std::vector<double> angles) {
  angles.resize(pose::skeletonOf(skeleton).turns.size(), 0);
  return angles;
}

}  // namespace

const char* idOf(Prop::Form form) { return formIds[static_cast<std::size_t>(form)]; }

std::optional<Prop::Form> formNamed(const std::string& id) {
  const auto found = std::find(formIds.begin(), formIds.end(), id);
  if (found == formIds.end()) return {};
  return static_cast<Prop::Form>(found - formIds.begin());
}

Prop usualProp(Prop::Form form) {
  static const std::array<Vec3, formIds.size()> sizes = {Vec3{0.8f, 0.6f, 0.6f},
                                                         {0.4f, 0.4f, 0.4f},
                                                         {0.5f, 0.8f, 0.5f},
                                                         {1.2f, 1.36f, 2.24f},
                                                         {1.4f, 0.74f, 0.8f},
                                                         {0.44f, 0.92f, 0.42f},
                                                         {1.4f, 0.45f, 0.4f},
                                                         {0.16f, 2.2f, 0.16f},
                                                         {3.0f, 1.0f, 0.06f},
                                                         {1.2f, 2.4f, 0.5f},
                                                         {3.0f, 2.4f, 0.2f},
                                                         {1.8f, 1.9f, 0.1f},
                                                         {1.3f, 0.6f, 3.6f},
                                                         {3.0f, 4.5f, 3.0f},
                                                         {1.2f, 0.8f, 1.0f},
                                                         {1.8f, 1.2f, 0.04f},
                                                         {1, 1, 1}};
  Prop out;
  out.form = form;
  out.size = sizes[static_cast<std::size_t>(form)];
  if (form == Prop::Form::tree) out.colour = {0.12f, 0.22f, 0.07f};
  if (form == Prop::Form::sheet) out.colour = {0.75f, 0.72f, 0.66f};
  if (form == Prop::Form::panel) out.colour = {0.55f, 0.53f, 0.5f};
  if (form == Prop::Form::boat) out.colour = {0.15f, 0.28f, 0.30f};
  return out;
}

Prop propOf(const ReadModel& read) {
  Prop out = usualProp(Prop::Form::model);
  out.model = read.model;
  out.size = read.size;
  if (read.colour) out.colour = *read.colour;
  return out;
}

Camera cameraOf(const Eye& eye, Size size) {
  const float turn = eye.turn * sceneDegree, tilt = eye.tilt * sceneDegree;
  const Vec3 ahead(-std::sin(turn) * std::cos(tilt), std::sin(tilt), -std::cos(turn) * std::cos(tilt));
  return lookingAt(eye.at, eye.at + ahead, eye.millimetres, size, eye.roll);
}

Eye lookingFrom(const Vec3& at, const Vec3& target, float millimetres) {
  const Vec3 way = target - at;
  Eye out;
  out.at = at;
  out.turn = std::atan2(-way.x(), -way.z()) / sceneDegree;
  out.tilt = std::atan2(way.y(), std::hypot(way.x(), way.z())) / sceneDegree;
  out.millimetres = millimetres;
  return out;
}

bool isFigure(const Thing& thing) { return !std::holds_alternative<Prop>(thing.is); }

const pose::Skeleton& skeletonOf(const Thing& thing) {
  return pose::skeletonOf(std::holds_alternative<Person>(thing.is) ? "human" : "four-legged");
}

std::vector<double> anglesAhead(const pose::NamedPose& pose) {
  return pose::seenFrom(pose::skeletonOf(pose.skeleton), pose.pose, 0).angles;
}

const Thing* Scene::thing(const std::string& id) const {
  const auto found = std::find_if(things.begin(), things.end(), [&](const Thing& each) { return each.id == id; });
  return found != things.end() ? &*found : nullptr;
}

std::string newThingId(const Scene& scene) {
  for (std::size_t number = scene.things.size() + 1;; ++number)
    if (std::string id = "t" + std::to_string(number); scene.thing(id) == nullptr) return id;
}

namespace {

struct Built {
  Mesh mesh;
  std::optional<Set::Actor> actor;
};

Built builtFrom(const Thing& thing, std::size_t number) {
  Built out;
  const auto addActor = [&](auto body) {
    put(body.mesh, thing.place);
    for (Vec3& p : body.points) p = thing.place.map(p);
    out.actor = {number, std::move(body.points), std::move(body.radius)};
    out.mesh = std::move(body.mesh);
  };
  if (const auto* person = std::get_if<Person>(&thing.is)) {
    addActor(bodyOf(specOf(*person)));
  } else if (const auto* beast = std::get_if<Beast>(&thing.is)) {
    addActor(animalOf(specOf(*beast)));
  } else {
    out.mesh = meshOf(std::get<Prop>(thing.is), thing.place);
  }
  out.mesh.object = static_cast<std::uint16_t>(number + 1);
  out.mesh.material.grown = isFigure(thing);
  return out;
}

}  // namespace

BodySpec specOf(const Person& person) {
  BodySpec out;
  out.angles = anglesFor("human", person.angles);
  out.size = person.size;
  out.build = person.build;
  out.clothes = person.clothes;
  out.around = 14;
  out.level = true;
  out.left = person.left;
  out.right = person.right;
  return out;
}

AnimalSpec specOf(const Beast& beast) {
  AnimalSpec out;
  out.kind = beast.kind;
  out.build = beast.build;
  out.angles = anglesFor("four-legged", beast.angles);
  out.size = beast.size;
  out.coat = beast.coat;
  out.around = 12;
  return out;
}

std::vector<double> anglesOf(const Thing& thing) {
  if (const auto* person = std::get_if<Person>(&thing.is)) return anglesFor("human", person->angles);
  return anglesFor("four-legged", std::get<Beast>(thing.is).angles);
}

void setAngles(Thing& thing, std::vector<double> angles) {
  if (auto* person = std::get_if<Person>(&thing.is))
    person->angles = std::move(angles);
  else
    std::get<Beast>(thing.is).angles = std::move(angles);
}

Set setOf(const Thing& thing) {
  Set out;
  Built built = builtFrom(thing, 0);
  out.meshes.push_back(std::move(built.mesh));
  if (built.actor) out.actors.push_back(std::move(*built.actor));
  return out;
}

bool looksAlike(const Thing& a, const Thing& b) { return a.place == b.place && a.hidden == b.hidden && a.is == b.is; }

namespace {
/// Where the meshes and actors of things are in their set.
struct InSet {
  std::map<std::string, std::size_t> thing;
  std::vector<const Mesh*> mesh;
  std::vector<const Set::Actor*> actor;

  InSet(std::span<const Thing> things, const Set& set) : mesh(things.size()), actor(things.size()) {
    for (std::size_t i = 0; i < things.size(); ++i) thing[things[i].id] = i;
    for (const Mesh& each : set.meshes)
      if (each.object != groundObject && each.object <= mesh.size()) mesh[each.object - 1u] = &each;
    for (const auto& each : set.actors)
      if (each.thing < actor.size()) actor[each.thing] = &each;
  }
};
}  // namespace

Set setOf(const Scene& scene) { return setOf(scene, {}, {}); }

Set setOf(const Scene& scene, std::span<const Thing> things, const Set& before) {
  const InSet known(things, before);
  std::vector<Built> built(scene.things.size());
  parallelItems(built.size(), [&](std::size_t i) {
    const Thing& thing = scene.things[i];
    if (thing.hidden) return;
    const auto found = known.thing.find(thing.id);
    if (found == known.thing.end() || known.mesh[found->second] == nullptr ||
        !looksAlike(things[found->second], thing)) {
      built[i] = builtFrom(thing, i);
      return;
    }
    built[i].mesh = *known.mesh[found->second];
    built[i].mesh.object = static_cast<std::uint16_t>(i + 1);
    if (const auto* actor = known.actor[found->second]) {
      built[i].actor = *actor;
      built[i].actor->thing = i;
    }
  });
  Set out;
  for (std::size_t i = 0; i < built.size(); ++i) {
    if (scene.things[i].hidden) continue;
    out.meshes.push_back(std::move(built[i].mesh));
    if (built[i].actor) out.actors.push_back(std::move(*built[i].actor));
  }
  if (scene.ground) {
    // So far that its end is the horizon.
    constexpr float reach = 4000;
    Mesh ground = land({}, reach, 0, 1, {0.42f, 0.40f, 0.36f}, {0.46f, 0.45f, 0.43f});
    ground.object = groundObject;
    ground.material.throws = false;
    out.meshes.push_back(std::move(ground));
  }
  return out;
}

Lighting lightingOf(const SceneLight& light) {
  const float turn = light.from * sceneDegree, high = light.height * sceneDegree;
  Lighting out;
  const float around = 0.55f * (1.15f - light.strength), beam = 1.15f * light.strength;
  out.lights.push_back(
      {Vec3(std::sin(turn) * std::cos(high), std::sin(high), std::cos(turn) * std::cos(high)), Rgb{beam, beam, beam}});
  out.above = Rgb{1, 1, 1} * around;
  out.below = Rgb{1, 1, 1} * (light.bounce * around);
  out.shadows = true;
  constexpr float softest = 0.25f;  // metres
  out.soft = softest * light.soft;
  out.skyTop = {0.52f, 0.55f, 0.60f};
  out.skyRim = {0.68f, 0.69f, 0.70f};
  return out;
}

namespace {

void put(Scene& scene, const char* name, const Vec3& at, float turn, std::variant<Person, Beast, Prop> is) {
  scene.things.push_back({newThingId(scene), name, {at, turn}, false, std::move(is)});
}

Person posed(const char* name) {
  Person out;
  for (const auto& each : pose::housePoses())
    if (each.name == name && each.skeleton == "human") out.angles = anglesAhead(each);
  return out;
}

Prop sized(Prop::Form form, const Vec3& size) {
  Prop out = usualProp(form);
  out.size = size;
  return out;
}

Scene emptyGround() { return {}; }

Scene oneStanding() {
  Scene scene;
  put(scene, "Figure", {0, 0, 0}, 0, Person{});
  scene.eye = lookingFrom({0.6f, 1.5f, 4.6f}, {0, 0.9f, 0}, 38);
  return scene;
}

Scene duneRail() {
  Scene scene;
  put(scene, "Walker", {-0.4f, 0, 0.2f}, 35, posed("Walking"));
  put(scene, "Rail", {0.6f, 0, -0.6f}, -8, sized(Prop::Form::rail, {5, 1, 0.06f}));
  put(scene, "Dune", {3.5f, -0.5f, -6}, 0, sized(Prop::Form::lump, {9, 2.6f, 6}));
  put(scene, "Grass rise", {-5, -0.3f, -8}, 0, sized(Prop::Form::lump, {8, 1.6f, 5}));
  scene.eye = lookingFrom({-1.2f, 1.3f, 5.2f}, {0, 0.9f, 0}, 38);
  return scene;
}

Scene pier() {
  Scene scene;
  put(scene, "Deck", {0, 0, -4}, 0, sized(Prop::Form::box, {2.4f, 0.3f, 14}));
  for (int i = 0; i < 4; ++i) {
    const float z = 2.0f - 3.2f * static_cast<float>(i);
    for (const float x : {-1.15f, 1.15f}) put(scene, "Post", {x, 0, z}, 0, sized(Prop::Form::post, {0.2f, 1.3f, 0.2f}));
  }
  put(scene, "Boat", {2.6f, 0, -1}, 12, usualProp(Prop::Form::boat));
  put(scene, "Figure", {0.2f, 0.3f, -0.4f}, -20, Person{});
  scene.eye = lookingFrom({-1.8f, 1.9f, 5.4f}, {0.3f, 0.9f, -1}, 35);
  return scene;
}

Scene towerStair() {
  Scene scene;
  put(scene, "Stair", {0, 0, 0}, 0, sized(Prop::Form::stair, {1.6f, 2.04f, 3.4f}));
  put(scene, "Wall", {-1.4f, 0, -1.6f}, 90, sized(Prop::Form::wall, {5, 4, 0.3f}));
  put(scene, "Arch", {0, 2.04f, -3.6f}, 0, sized(Prop::Form::arch, {1.2f, 2.3f, 0.5f}));
  put(scene, "Figure", {0.5f, 0, 0.9f}, 160, Person{});
  scene.eye = lookingFrom({2.6f, 0.9f, 4.2f}, {0, 1.5f, -1}, 28);
  return scene;
}

Scene workshop() {
  Scene scene;
  put(scene, "Table", {0, 0, 0}, 0, usualProp(Prop::Form::table));
  put(scene, "Chair", {0.1f, 0, 0.75f}, 190, usualProp(Prop::Form::chair));
  put(scene, "Bench", {-1.6f, 0, -0.3f}, 90, usualProp(Prop::Form::bench));
  put(scene, "Bowl", {0.4f, 0.74f, 0.1f}, 0, sized(Prop::Form::ball, {0.18f, 0.18f, 0.18f}));
  put(scene, "Figure", {-0.3f, 0, -0.75f}, 10, Person{});
  scene.eye = lookingFrom({1.9f, 1.7f, 3.4f}, {0, 0.8f, 0}, 35);
  return scene;
}

}  // namespace

std::span<const NamedScene> houseScenes() {
  static constexpr std::array<NamedScene, 6> all = {{{"empty", "Empty ground", emptyGround},
                                                     {"figure", "One figure", oneStanding},
                                                     {"dune", "Dune with a rail", duneRail},
                                                     {"pier", "Pier", pier},
                                                     {"stair", "Tower stair", towerStair},
                                                     {"workshop", "Workshop table", workshop}}};
  return all;
}

}  // namespace hscaffold::stage
