#include "core/stage/copies.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace hscaffold::stage {
namespace {

/// Calls things by other names. Whatever has none is let go of.
void renamed(Thing& thing, const std::map<std::string, std::string>& names) {
  std::erase_if(thing.pins, [&](Pin& pin) {
    if (pin.on.empty()) return false;
    const auto found = names.find(pin.on);
    if (found == names.end()) return true;
    pin.on = found->second;
    return false;
  });
  if (!thing.gaze.on || thing.gaze.thing.empty()) return;
  const auto found = names.find(thing.gaze.thing);
  if (found != names.end())
    thing.gaze.thing = found->second;
  else
    thing.gaze = {};
}

bool hasGroup(const Scene& scene, const std::string& group) {
  return std::any_of(scene.things.begin(), scene.things.end(), [&](const Thing& each) { return each.group == group; });
}

std::string newGroup(const Scene& scene, const std::string& like) {
  if (!hasGroup(scene, like)) return like;
  for (int number = 2;; ++number)
    if (std::string name = "group " + std::to_string(number); !hasGroup(scene, name)) return name;
}

}  // namespace

std::vector<std::string> takenWith(const Scene& scene, const std::string& id) {
  std::vector<std::string> out;
  const Thing* chosen = scene.thing(id);
  if (chosen == nullptr) return out;
  for (const Thing& thing : scene.things)
    if (thing.id == id || (!chosen->group.empty() && thing.group == chosen->group)) out.push_back(thing.id);
  return out;
}

Scene copyOf(const Scene& scene, const std::vector<std::string>& things) {
  Scene out = scene;
  out.shots.clear();
  std::erase_if(out.things,
                [&](const Thing& thing) { return std::find(things.begin(), things.end(), thing.id) == things.end(); });
  std::map<std::string, std::string> names;
  for (const Thing& thing : out.things) names[thing.id] = thing.id;
  for (Thing& thing : out.things) renamed(thing, names);
  return out;
}

std::vector<std::string> putInto(Scene& scene, const Scene& things, const Vec3& by) {
  const std::size_t room = mostThings - std::min(mostThings, scene.things.size());
  const std::size_t count = std::min(room, things.things.size());
  std::map<std::string, std::string> names, groups;
  Scene grown = scene;
  std::vector<std::string> out;
  for (std::size_t i = 0; i < count; ++i) {
    Thing thing = things.things[i];
    const std::string id = newThingId(grown);
    names[thing.id] = id;
    thing.id = id;
    if (!thing.group.empty()) {
      if (!groups.contains(thing.group)) groups[thing.group] = newGroup(scene, thing.group);
      thing.group = groups[thing.group];
    }
    thing.place.at += by;
    for (Pin& pin : thing.pins)
      if (pin.on.empty()) pin.at += by;
    grown.things.push_back(std::move(thing));
    out.push_back(id);
  }
  for (std::size_t i = scene.things.size(); i < grown.things.size(); ++i) renamed(grown.things[i], names);
  scene = std::move(grown);
  return out;
}

float halfBreadthOf(const Thing& thing) {
  constexpr float ofPerson = 0.25f, most = 1;
  if (const auto* beast = std::get_if<Beast>(&thing.is)) return std::min(most, 0.5f * static_cast<float>(beast->size));
  if (const auto* prop = std::get_if<Prop>(&thing.is))
    return std::min(most, 0.5f * std::max(prop->size.x(), prop->size.z()));
  return ofPerson;
}

Vec3 placeBeside(const Scene& scene, const Vec3& at, float broad) {
  constexpr float deep = 2.5f, step = 0.35f;  // metres
  constexpr int most = 40;
  const auto level = [](Vec3 v) -> Vec3 {
    v.y() = 0;
    return v.norm() > 1e-3f ? v.normalized() : Vec3::UnitX();
  };
  const auto taken = [&](const Vec3& place) {
    const Vec3 sight = level(place - scene.eye.at);
    return std::any_of(scene.things.begin(), scene.things.end(), [&](const Thing& each) {
      Vec3 off = each.place.at - place;
      off.y() = 0;
      const float room = broad + halfBreadthOf(each);
      if (off.norm() < room) return true;
      const float along = off.dot(sight);
      return isFigure(each) && std::abs(along) < deep && (off - along * sight).norm() < room;
    });
  };
  const Vec3 right = level(cameraOf(scene.eye, {64, 64}).look.row(0).transpose());
  for (int tries = 0; tries < most; ++tries) {
    // One to the right, one to the left, and further out.
    const float out = static_cast<float>((tries + 1) / 2) * step * (tries % 2 == 1 ? 1.0f : -1.0f);
    if (const Vec3 place = at + out * right; !taken(place)) return place;
  }
  return at;
}

}  // namespace hscaffold::stage
