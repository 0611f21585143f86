#include "core/pose/skeleton.h"

#include <fmt/format.h>

#include <cmath>

#include "core/guides/json_fields.h"

namespace hscaffold::pose {
namespace {

constexpr std::size_t mostPoints = 500;

const nlohmann::json& listOf(JsonFields& fields, const std::string& key, const std::string& where) {
  const auto& list = fields.child(key);
  if (!list.is_array() || list.size() > mostPoints)
    throw badInput(fmt::format("{}: \"{}\" is not a list of at most {}.", where, key, mostPoints));
  return list;
}

Vec3 placeOf(JsonFields& fields, const std::string& key, const std::string& where) {
  const auto v = numbersFromJson(fields.child(key), where + ", \"" + key + "\"", 3);
  return {v[0], v[1], v[2]};
}

Vec3 axisOf(const std::string& word, const std::string& where) {
  const double sign = word.starts_with('-') ? -1 : 1;
  const std::string axis = word.starts_with('-') ? word.substr(1) : word;
  if (axis == "x") return {sign, 0, 0};
  if (axis == "y") return {0, sign, 0};
  if (axis == "z") return {0, 0, sign};
  throw badInput(where + ": an axis is x, y or z, or one of them with a minus.");
}

double distance(const Vec3& a, const Vec3& b) { return std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]); }

std::size_t pointNamed(const Skeleton& skeleton, const std::string& id, const std::string& where) {
  const auto found = skeleton.find(id);
  if (!found) throw badInput(where + ": there is no point \"" + id + "\".");
  return *found;
}

std::vector<std::size_t> pointsNamed(const Skeleton& skeleton, JsonFields& fields, const std::string& key,
                                     const std::string& where) {
  std::vector<std::size_t> out;
  for (const auto& id : listOf(fields, key, where)) {
    if (!id.is_string()) throw badInput(where + ": \"" + key + "\" is a list of points.");
    out.push_back(pointNamed(skeleton, id.get<std::string>(), where));
  }
  return out;
}

void readJoints(Skeleton& skeleton, JsonFields& fields, const std::string& where) {
  for (const auto& entry : listOf(fields, "joints", where)) {
    const std::string here = fmt::format("{}, joint {}", where, skeleton.joints.size() + 1);
    JsonFields one(entry, here);
    Joint joint;
    joint.id = one.text("id");
    joint.rest = placeOf(one, "at", here);
    if (const std::string parent = one.text("parent", ""); !parent.empty()) {
      const auto found = std::find_if(skeleton.joints.begin(), skeleton.joints.end(),
                                      [&](const Joint& other) { return other.id == parent; });
      if (found == skeleton.joints.end()) throw badInput(here + ": there is no joint \"" + parent + "\" before it.");
      joint.parent = static_cast<int>(found - skeleton.joints.begin());
    } else if (!skeleton.joints.empty()) {
      throw badInput(here + ": only the first joint has no parent.");
    }
    joint.firstTurn = skeleton.turns.size();
    for (const auto& turnEntry : listOf(one, "turns", here)) {
      JsonFields turnFields(turnEntry, here + ", turn");
      Turn turn;
      turn.id = joint.id + "." + turnFields.text("id");
      turn.axis = axisOf(turnFields.text("axis"), here);
      const auto range = numbersFromJson(turnFields.child("range"), here + ", \"range\"", 2);
      turn.least = range[0];
      turn.most = range[1];
      if (!(turn.least <= 0 && turn.most >= 0)) throw badInput(here + ": a turn's range holds 0, its rest.");
      turnFields.refuseOthers();
      skeleton.turns.push_back(std::move(turn));
    }
    joint.turns = skeleton.turns.size() - joint.firstTurn;
    one.refuseOthers();
    skeleton.joints.push_back(std::move(joint));
  }
  if (skeleton.joints.empty()) throw badInput(where + ": there are no joints.");
}

void readPoints(Skeleton& skeleton, JsonFields& fields, const std::string& where) {
  std::vector<std::string> mirrors;
  for (const auto& entry : listOf(fields, "points", where)) {
    const std::string here = fmt::format("{}, point {}", where, skeleton.points.size() + 1);
    JsonFields one(entry, here);
    SkeletonPoint point;
    point.id = one.text("id");
    if (skeleton.find(point.id)) throw badInput(here + ": there are two points \"" + point.id + "\".");
    point.name = one.text("name", point.id);
    point.rest = placeOf(one, "rest", here);
    point.part = one.text("part", "body");
    const auto part = std::find_if(skeleton.parts.begin(), skeleton.parts.end(),
                                   [&](const Skeleton::Part& p) { return p.id == point.part; });
    if (part == skeleton.parts.end()) throw badInput(here + ": there is no part \"" + point.part + "\".");
    const std::string rides = one.text("rides");
    const auto joint =
        std::find_if(skeleton.joints.begin(), skeleton.joints.end(), [&](const Joint& j) { return j.id == rides; });
    if (joint == skeleton.joints.end()) throw badInput(here + ": there is no joint \"" + rides + "\".");
    point.joint = static_cast<std::size_t>(joint - skeleton.joints.begin());
    mirrors.push_back(one.text("mirror", point.id));
    point.anchor = one.flag("anchor", false);
    point.turnsChildren = one.flag("turns-children", false);
    point.handle = one.flag("handle", false);
    one.refuseOthers();
    skeleton.points.push_back(std::move(point));
  }
  for (std::size_t i = 0; i < mirrors.size(); ++i) {
    const std::string here = where + ", point \"" + skeleton.points[i].id + "\", mirror";
    skeleton.points[i].mirror = pointNamed(skeleton, mirrors[i], here);
  }
  for (std::size_t i = 0; i < mirrors.size(); ++i)
    if (skeleton.points[skeleton.points[i].mirror].mirror != i)
      throw badInput(where + ": the mirror of \"" + skeleton.points[i].id + "\" has another mirror.");
}

void readBones(Skeleton& skeleton, JsonFields& fields, const std::string& where) {
  for (const auto& entry : listOf(fields, "bones", where)) {
    const std::string here = fmt::format("{}, bone {}", where, skeleton.bones.size() + 1);
    JsonFields one(entry, here);
    Bone bone;
    bone.from = pointNamed(skeleton, one.text("from"), here);
    bone.to = pointNamed(skeleton, one.text("to"), here);
    if (bone.from == bone.to) throw badInput(here + ": it leads from a point to itself.");
    const std::string side = one.text("side", "middle");
    bone.side = side == "left" ? Side::left : side == "right" ? Side::right : Side::middle;
    bone.reach = one.number("reach", 1, 10, 1.0);
    const auto range = numbersFromJson(one.child("range"), here + ", \"range\"", 2);
    bone.least = range[0];
    bone.most = range[1];
    if (!(bone.least > 0 && bone.least <= 1 && bone.most >= 1))
      throw badInput(here + ": its range holds 1, the natural length.");
    one.refuseOthers();
    bone.length = distance(skeleton.points[bone.from].rest, skeleton.points[bone.to].rest);
    if (bone.length <= 0) throw badInput(here + ": it has no length.");
    if (skeleton.points[bone.to].bone < 0) skeleton.points[bone.to].bone = static_cast<int>(skeleton.bones.size());
    skeleton.bones.push_back(bone);
  }
}

void readSolids(Skeleton& skeleton, JsonFields& fields, const std::string& where) {
  static constexpr std::array<const char*, 5> names = {"torso", "arm", "leg", "hand", "head"};
  for (const auto& entry : listOf(fields, "solids", where)) {
    const std::string here = fmt::format("{}, solid {}", where, skeleton.solids.size() + 1);
    JsonFields one(entry, here);
    Solid solid;
    solid.from = pointsNamed(skeleton, one, "from", here);
    solid.to = pointsNamed(skeleton, one, "to", here);
    const auto radii = numbersFromJson(one.child("radii"), here + ", \"radii\"", 2);
    solid.radiusFrom = radii[0];
    solid.radiusTo = radii[1];
    const auto name = std::find(names.begin(), names.end(), one.text("of"));
    if (name == names.end() || solid.from.empty() || solid.to.empty())
      throw badInput(here + ": it is of torso, arm, leg, hand or head, and has points.");
    solid.of = static_cast<Solid::Of>(name - names.begin());
    if (one.has("name")) solid.name = one.text("name");
    one.refuseOthers();
    skeleton.solids.push_back(std::move(solid));
  }
}

}  // namespace

std::optional<std::size_t> Skeleton::find(std::string_view point) const {
  for (std::size_t i = 0; i < points.size(); ++i)
    if (points[i].id == point) return i;
  return {};
}

std::optional<std::size_t> Skeleton::findTurn(std::string_view turn) const {
  for (std::size_t i = 0; i < turns.size(); ++i)
    if (turns[i].id == turn) return i;
  return {};
}

std::optional<std::size_t> Skeleton::parentOf(std::size_t point) const {
  const int bone = points[point].bone;
  return bone < 0 ? std::nullopt : std::optional(bones[static_cast<std::size_t>(bone)].from);
}

Skeleton skeletonFromJson(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  Skeleton skeleton;
  if (fields.integer("skeleton", 1, 1) != 1) throw badInput(where + " is of another version.");
  skeleton.id = fields.text("id");
  skeleton.name = fields.text("name", skeleton.id);
  skeleton.category = fields.text("category", skeleton.id);
  for (const auto& entry : listOf(fields, "parts", where)) {
    JsonFields one(entry, where + ", part");
    skeleton.parts.push_back({one.text("id"), one.text("name")});
    one.refuseOthers();
  }
  if (skeleton.parts.empty()) throw badInput(where + ": there are no parts.");
  readJoints(skeleton, fields, where);
  readPoints(skeleton, fields, where);
  readBones(skeleton, fields, where);
  JsonFields carry(fields.child("carry"), where + ", carry");
  skeleton.carried = pointsNamed(skeleton, carry, "points", where + ", carry");
  skeleton.planted = pointsNamed(skeleton, carry, "plant", where + ", carry");
  JsonFields swing(fields.child("swing"), where + ", swing");
  skeleton.swung = pointsNamed(skeleton, swing, "points", where + ", swing");
  skeleton.swungAbout = pointsNamed(skeleton, swing, "about", where + ", swing");
  skeleton.staying = pointsNamed(skeleton, swing, "staying", where + ", swing");
  JsonFields head(fields.child("head"), where + ", head");
  skeleton.head = pointsNamed(skeleton, head, "points", where + ", head");
  skeleton.headAbout = pointsNamed(skeleton, head, "about", where + ", head");
  readSolids(skeleton, fields, where);
  fields.refuseOthers();
  // Each point hangs on one other; a ring of bones would have no trunk to hang on.
  skeleton.below_.resize(skeleton.points.size());
  for (std::size_t i = 0; i < skeleton.points.size(); ++i) {
    std::size_t steps = 0;
    for (std::optional<std::size_t> up = i; up; up = skeleton.parentOf(*up)) {
      skeleton.below_[*up].push_back(i);
      if (++steps > skeleton.points.size())
        throw badInput(where + ": the bones of \"" + skeleton.points[i].id + "\" go round in a ring.");
    }
  }
  return skeleton;
}

std::span<const Skeleton> skeletons() {
  static const std::vector<Skeleton> all = {
      skeletonFromJson(std::string(poseData("human.json")), "The human skeleton"),
      skeletonFromJson(std::string(poseData("four-legged.json")), "The four-legged skeleton")};
  return all;
}

const Skeleton& skeletonOf(const std::string& id, const std::string& where) {
  for (const Skeleton& skeleton : skeletons())
    if (skeleton.id == id) return skeleton;
  std::string known;
  for (const Skeleton& skeleton : skeletons()) known += (known.empty() ? "" : ", ") + skeleton.id;
  throw badInput((where.empty() ? "There" : where + ": there") + " is no skeleton \"" + id + "\"; there are " + known +
                 ".");
}

}  // namespace hscaffold::pose
