#include "core/stage/leading.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "core/pose/posed_body.h"
#include "core/stage/rays.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::stage {
namespace {

constexpr double inRadians = std::numbers::pi / 180;

/// How many joints hang below one another from this one on.
int deepBelow(const pose::Skeleton& skeleton, std::size_t joint) {
  int out = 0;
  for (std::size_t j = joint + 1; j < skeleton.joints.size(); ++j)
    if (skeleton.joints[j].parent == static_cast<int>(joint)) out = std::max(out, 1 + deepBelow(skeleton, j));
  return out;
}

constexpr double limbStiffness = 0.05;

/// How much a turn by one radian counts against a miss by the whole size: trunks are slow, limbs follow.
double stiffness(const pose::Skeleton& skeleton, std::size_t joint) {
  constexpr double root = 0.7, trunk = 0.35;
  if (skeleton.joints[joint].parent < 0) return root;
  return deepBelow(skeleton, joint) > 1 ? trunk : limbStiffness;
}

/// A figure's skeleton in its own axes, as far as leading needs it.
struct Led {
  const pose::Skeleton& skeleton;
  pose::BodyPlace place;
  double head = 1;            ///< how much larger the head is
  std::vector<double> stiff;  ///< of each turn

  [[nodiscard]] pose::PosedBody at(const std::vector<double>& angles) const {
    auto out = pose::posed(skeleton, angles, place);
    if (head == 1 || skeleton.head.empty()) return out;
    const Eigen::Vector3d neck = out.origins[skeleton.points[skeleton.head.front()].joint];
    for (const std::size_t p : skeleton.head) out.points[p] = neck + (out.points[p] - neck) * head;
    return out;
  }
};

Led ledOf(const Thing& thing) {
  const auto& skeleton = skeletonOf(thing);
  std::vector<double> stiff;
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j)
    stiff.insert(stiff.end(), skeleton.joints[j].turns, stiffness(skeleton, j));
  if (const auto* person = std::get_if<Person>(&thing.is))
    return {skeleton, placeFor(specOf(*person)), static_cast<double>(grownAs(person->build).head), std::move(stiff)};
  return {skeleton, placeFor(specOf(std::get<Beast>(thing.is))), 1, std::move(stiff)};
}

bool isOneOf(const std::vector<std::size_t>& points, std::size_t point) {
  return std::find(points.begin(), points.end(), point) != points.end();
}

struct Aim {
  std::size_t point;
  Eigen::Vector3d to;  ///< in the figure's own axes
  double weight;
};

/// One course of damped least squares from `angles` (radians from `around` count) and a shift of the whole.
void descend(const Led& led, const std::vector<Aim>& aims, bool carried, const std::vector<double>& around,
             std::vector<double>& angles, Eigen::Vector3d& shift) {
  const auto& skeleton = led.skeleton;
  const auto turns = static_cast<Eigen::Index>(skeleton.turns.size()), unknowns = turns + (carried ? 3 : 0);
  const double size = led.place.size;
  double damping = 1e-3;
  const auto costOf = [&](const pose::PosedBody& body, const std::vector<double>& at, const Eigen::Vector3d& by) {
    double sum = 0;
    for (const Aim& aim : aims)
      sum += aim.weight * aim.weight * (body.points[aim.point] + by - aim.to).squaredNorm() / (size * size);
    for (std::size_t t = 0; t < at.size(); ++t) sum += std::pow(led.stiff[t] * (at[t] - around[t]) * inRadians, 2);
    return sum + 0.01 * by.squaredNorm() / (size * size);
  };
  auto body = led.at(angles);
  double cost = costOf(body, angles, shift);
  constexpr int rounds = 14;
  for (int round = 0; round < rounds; ++round) {
    Eigen::MatrixXd normal = Eigen::MatrixXd::Zero(unknowns, unknowns);
    Eigen::VectorXd right = Eigen::VectorXd::Zero(unknowns);
    Eigen::MatrixXd slopes = Eigen::MatrixXd::Zero(3, unknowns);
    for (const Aim& aim : aims) {
      slopes.setZero();
      for (int j = static_cast<int>(skeleton.points[aim.point].joint); j >= 0;
           j = skeleton.joints[static_cast<std::size_t>(j)].parent) {
        const auto& joint = skeleton.joints[static_cast<std::size_t>(j)];
        const Eigen::Vector3d arm = body.points[aim.point] - body.origins[static_cast<std::size_t>(j)];
        for (std::size_t t = joint.firstTurn; t < joint.firstTurn + joint.turns; ++t)
          slopes.col(static_cast<Eigen::Index>(t)) = body.axes[t].cross(arm) / size;
      }
      if (carried) slopes.rightCols(3) = Eigen::Matrix3d::Identity() / size;
      slopes *= aim.weight;
      const Eigen::Vector3d miss = aim.weight * (aim.to - body.points[aim.point] - shift) / size;
      normal += slopes.transpose() * slopes;
      right += slopes.transpose() * miss;
    }
    for (std::size_t t = 0; t < angles.size(); ++t) {
      const auto i = static_cast<Eigen::Index>(t);
      const double stiff = led.stiff[t] * led.stiff[t];
      normal(i, i) += stiff;
      right(i) -= stiff * (angles[t] - around[t]) * inRadians;
    }
    if (carried) {
      normal.bottomRightCorner(3, 3) += 0.01 / (size * size) * Eigen::Matrix3d::Identity();
      right.tail(3) -= 0.01 / (size * size) * shift;
    }
    // A turn at its limit that would go on outwards takes no part.
    for (Eigen::Index i = 0; i < turns; ++i) {
      const auto& turn = skeleton.turns[static_cast<std::size_t>(i)];
      const double at = angles[static_cast<std::size_t>(i)];
      if ((at <= turn.least && right(i) < 0) || (at >= turn.most && right(i) > 0)) {
        normal.row(i).setZero();
        normal.col(i).setZero();
        normal(i, i) = 1;
        right(i) = 0;
      }
    }
    bool better = false;
    for (int tries = 0; tries < 6 && !better; ++tries) {
      Eigen::MatrixXd damped = normal;
      damped.diagonal().array() += damping;
      const Eigen::VectorXd step = damped.ldlt().solve(right);
      auto next = angles;
      for (std::size_t t = 0; t < next.size(); ++t) {
        const auto& turn = skeleton.turns[t];
        next[t] = std::clamp(next[t] + step(static_cast<Eigen::Index>(t)) / inRadians, turn.least, turn.most);
      }
      const Eigen::Vector3d by = carried ? Eigen::Vector3d(shift + step.tail(3)) : shift;
      auto there = led.at(next);
      const double nextCost = costOf(there, next, by);
      better = nextCost < cost;
      if (better) {
        const bool still = cost - nextCost < 1e-9;
        angles = std::move(next);
        shift = by;
        body = std::move(there);
        cost = nextCost;
        damping = std::max(1e-6, damping * 0.3);
        if (still) return;
      } else {
        damping *= 8;
      }
    }
    if (!better) return;
  }
}

Eigen::Vector3d ownAxes(const Place& place, const Vec3& at) {
  // `direction` only turns about the upright axis, and is undone by the other way round.
  return Place{Vec3::Zero(), -place.turn}.direction(at - place.at).cast<double>();
}

void leadOnce(Thing& thing, std::span<const Lead> leads, std::span<const Lead> pins) {
  const Led led = ledOf(thing);
  const auto& skeleton = led.skeleton;
  const auto seen = pointsOf(thing);
  std::vector<double> angles = anglesOf(thing);
  // The body is raised so that what is lowest of it touches its place.
  const Eigen::Vector3d raised = ownAxes(thing.place, seen[0]) - led.at(angles).points[0];
  std::vector<Aim> aims;
  bool carried = false;
  const auto add = [&](const Lead& each, double weight) {
    aims.push_back({each.point, ownAxes(thing.place, each.to) - raised, weight});
  };
  for (const Lead& each : leads) {
    add(each, static_cast<double>(each.weight));
    carried = carried || isOneOf(skeleton.carried, each.point);
  }
  for (const Lead& each : pins) add(each, 2);
  if (carried)
    for (const std::size_t planted : skeleton.planted) {
      const auto held = [&](std::span<const Lead> by) {
        return std::any_of(by.begin(), by.end(), [&](const Lead& each) { return each.point == planted; });
      };
      if (!held(leads) && !held(pins)) add({planted, seen[planted], 1}, 1.5);
    }
  // A straight limb does not know which way to bend.
  for (std::size_t t = 0; t < skeleton.turns.size(); ++t)
    if (skeleton.turns[t].least == 0 && angles[t] < 1) angles[t] = 1;
  Eigen::Vector3d shift = Eigen::Vector3d::Zero();
  // Limbs go first and from where they came to; the trunk follows only where they cannot reach.
  constexpr int courses = 10, limbsFirst = 4;
  constexpr double enough = 0.003;  // metres
  const auto worstOf = [&] {
    double worst = 0;
    const auto body = led.at(angles);
    for (const Aim& aim : aims) worst = std::max(worst, (body.points[aim.point] + shift - aim.to).norm());
    return worst;
  };
  auto around = angles;
  for (int course = 0; course < courses; ++course) {
    descend(led, aims, carried, around, angles, shift);
    if (worstOf() < enough) break;
    for (std::size_t t = 0; t < angles.size(); ++t)
      if (carried || course >= limbsFirst || led.stiff[t] <= limbStiffness) around[t] = angles[t];
  }
  setAngles(thing, std::move(angles));
  const Vec3 by = thing.place.direction(shift.cast<float>());
  thing.place.at += Vec3(by.x(), 0, by.z());
}

}  // namespace

std::vector<Vec3> pointsOf(const Thing& thing) {
  if (!isFigure(thing)) return {};
  return setOf(thing).actors.front().points;
}

Standing standingOf(const Thing& figure) {
  Standing out;
  if (!isFigure(figure)) return out;
  const Led led = ledOf(figure);
  const auto body = led.at(anglesOf(figure));
  out.points = pointsOf(figure);
  const Vec3 raised = out.points[0] - figure.place.map(body.points[0].cast<float>());
  for (const auto& origin : body.origins) out.joints.push_back(figure.place.map(origin.cast<float>()) + raised);
  for (const auto& axis : body.axes) out.axes.push_back(figure.place.direction(axis.cast<float>()));
  return out;
}

float lead(Thing& thing, std::span<const Lead> leads, std::span<const Lead> pins) {
  if (!isFigure(thing) || (leads.empty() && pins.empty())) return 0;
  // How far feet lift the body is known only once it stands: what that moved is led again.
  constexpr int rounds = 3;
  constexpr float enough = 0.008f;
  float worst = 0;
  for (int round = 0; round < rounds; ++round) {
    leadOnce(thing, leads, pins);
    const auto points = pointsOf(thing);
    worst = 0;
    for (const auto& all : {leads, pins})
      for (const Lead& each : all) worst = std::max(worst, (points[each.point] - each.to).norm());
    if (worst < enough) break;
  }
  return worst;
}

std::vector<Vec3> restingPoints(const Thing& figure) {
  std::vector<Vec3> out;
  if (!isFigure(figure)) return out;
  for (const auto& point : ledOf(figure).at(anglesOf(figure)).points) out.push_back(point.cast<float>());
  return out;
}

std::vector<double> fittedAngles(const Thing& figure, std::span<const Lead> places) {
  const Led led = ledOf(figure);
  std::vector<Aim> aims;
  for (const Lead& each : places)
    aims.push_back({each.point, each.to.cast<double>(), static_cast<double>(each.weight)});
  std::vector<double> angles = anglesOf(figure);
  Eigen::Vector3d shift = Eigen::Vector3d::Zero();
  constexpr int courses = 8;
  for (int course = 0; course < courses; ++course) {
    const auto around = angles;
    descend(led, aims, true, around, angles, shift);
  }
  return angles;
}

std::optional<Vec3> placeOfPin(const Scene& scene, const Pin& pin) {
  if (pin.on.empty()) return pin.at;
  const Thing* on = scene.thing(pin.on);
  if (on == nullptr) return {};
  return on->place.map(pin.at);
}

Pin pinAt(const Scene& scene, const Thing& figure, std::size_t point, const std::string& on) {
  Pin out{skeletonOf(figure).points[point].id, {}, pointsOf(figure)[point]};
  const Thing* thing = scene.thing(on);
  if (thing == nullptr) return out;
  out.on = on;
  out.at = ownAxes(thing->place, out.at).cast<float>();
  return out;
}

void lookTo(Thing& thing, const Vec3& place) {
  if (!isFigure(thing)) return;
  const auto& skeleton = skeletonOf(thing);
  if (skeleton.id != "human") {
    // An animal turns its neck: the nose goes to the line from the poll.
    const auto points = pointsOf(thing);
    const auto nose = skeleton.find("nose"), poll = skeleton.find("poll");
    if (!nose || !poll) return;
    const Vec3 way = (place - points[*poll]).normalized() * (points[*nose] - points[*poll]).norm();
    const std::array leads = {Lead{*nose, points[*poll] + way, 1}, Lead{*poll, points[*poll], 1}};
    lead(thing, leads);
    return;
  }
  std::vector<double> angles = anglesOf(thing);
  const auto turn = *skeleton.findTurn("head.turn"), nod = *skeleton.findTurn("head.nod"),
             tilt = *skeleton.findTurn("head.tilt"), twist = *skeleton.findTurn("waist.twist");
  const auto headJoint = skeleton.points[*skeleton.find("nose")].joint;
  const auto waist = static_cast<std::size_t>(skeleton.joints[headJoint].parent);
  const Led led = ledOf(thing);
  const Eigen::Vector3d raised = ownAxes(thing.place, pointsOf(thing)[0]) - led.at(angles).points[0];
  angles[tilt] = 0;
  // Once more after the waist has helped, since that moves the neck.
  for (int round = 0; round < 3; ++round) {
    const auto body = led.at(angles);
    const Eigen::Vector3d eyes = body.origins[headJoint] + Eigen::Vector3d(0, 0.1 * led.place.size, 0);
    const Eigen::Vector3d way =
        (body.turned[waist].transpose() * (ownAxes(thing.place, place) - raised - eyes)).normalized();
    const double wanted = std::atan2(way.x(), way.z()) / inRadians;
    angles[nod] = std::clamp(-std::asin(std::clamp(way.y(), -1.0, 1.0)) / inRadians, skeleton.turns[nod].least,
                             skeleton.turns[nod].most);
    angles[turn] = std::clamp(wanted, skeleton.turns[turn].least, skeleton.turns[turn].most);
    const double left = wanted - angles[turn];
    angles[twist] = std::clamp(angles[twist] + left, skeleton.turns[twist].least, skeleton.turns[twist].most);
  }
  setAngles(thing, std::move(angles));
}

void settle(Scene& scene) {
  for (Thing& thing : scene.things) {
    if (!isFigure(thing)) continue;
    std::erase_if(thing.pins, [&](const Pin& pin) {
      return (!pin.on.empty() && scene.thing(pin.on) == nullptr) || !skeletonOf(thing).find(pin.point);
    });
    if (!thing.pins.empty()) {
      const auto points = pointsOf(thing);
      std::vector<Lead> pins;
      bool off = false;
      constexpr float enough = 0.002f;  // metres
      for (const Pin& pin : thing.pins) {
        const auto point = *skeletonOf(thing).find(pin.point);
        const Vec3 to = *placeOfPin(scene, pin);
        off = off || (points[point] - to).norm() > enough;
        pins.push_back({point, to, 1});
      }
      if (off) lead(thing, {}, pins);
    }
    if (thing.gaze.on) {
      const Thing* at = scene.thing(thing.gaze.thing);
      if (at == nullptr && !thing.gaze.thing.empty()) {
        thing.gaze = {};
        continue;
      }
      Vec3 place = scene.eye.at;
      if (at != nullptr) {
        const auto points = pointsOf(*at);
        const auto nose = points.empty() ? std::nullopt : skeletonOf(*at).find("nose");
        place = nose ? points[*nose] : Vec3(at->place.at + Vec3(0, 0.5f * std::get<Prop>(at->is).size.y(), 0));
      }
      lookTo(thing, place);
    }
  }
}

float letDown(Scene& scene, const std::string& id) {
  const Thing* found = scene.thing(id);
  if (found == nullptr) return 0;
  const Mesh mesh = std::move(setOf(*found).meshes.front());
  Scene others = scene;
  others.ground = false;
  std::erase_if(others.things, [&](const Thing& thing) { return thing.id == id || thing.hidden; });
  const auto around = setOf(others);
  const Rays rays(around.meshes);
  constexpr float step = 0.5f;  // what is sunk in so far comes up
  float gap = std::numeric_limits<float>::max();
  for (const Vec3& p : mesh.at) {
    const float high = p.y() + step;
    const auto met = rays.first({p.x(), high, p.z()}, {0, -1, 0}, high + 1000);
    float under = scene.ground ? 0.0f : -1000.0f;
    if (met.object != 0) under = std::max(under, high - met.along);
    if (under > -1000) gap = std::min(gap, p.y() - under);
  }
  if (gap == std::numeric_limits<float>::max()) return 0;
  for (Thing& thing : scene.things)
    if (thing.id == id) thing.place.at.y() -= gap;
  return -gap;
}

void mirror(Thing& thing) {
  if (!isFigure(thing)) return;
  pose::BodyPose pose;
  pose.angles = anglesOf(thing);
  setAngles(thing, pose::mirroredPose(skeletonOf(thing), pose).angles);
  if (auto* person = std::get_if<Person>(&thing.is)) {
    std::swap(person->left, person->right);
    std::swap(person->clothes.left, person->clothes.right);
  }
  const auto& points = skeletonOf(thing).points;
  for (Pin& pin : thing.pins)
    if (const auto point = skeletonOf(thing).find(pin.point)) pin.point = points[points[*point].mirror].id;
}

void blendInto(Thing& thing, const std::vector<double>& angles, double share) {
  if (!isFigure(thing)) return;
  pose::BodyPose from, to;
  from.angles = anglesOf(thing);
  to.angles = angles;
  to.angles.resize(from.angles.size(), 0);
  setAngles(thing, pose::blended(skeletonOf(thing), from, to, std::clamp(share, 0.0, 1.0)).angles);
}

void relax(Thing& thing, double share) {
  if (!isFigure(thing)) return;
  blendInto(thing, std::vector<double>(skeletonOf(thing).turns.size(), 0), share);
}

std::vector<std::string> whatSinksIn(const Scene& scene, const Set& set) {
  using Form = Prop::Form;
  std::vector<std::string> out;
  const auto meshOf = [&](std::size_t thing) -> const Mesh* {
    for (const Mesh& mesh : set.meshes)
      if (mesh.object == thing + 1) return &mesh;
    return nullptr;
  };
  for (const auto& actor : set.actors) {
    const Mesh* body = meshOf(actor.thing);
    if (body == nullptr) continue;
    Vec3 low = body->at.front(), high = low;
    for (const Vec3& p : body->at) low = low.cwiseMin(p), high = high.cwiseMax(p);
    for (std::size_t i = 0; i < scene.things.size(); ++i) {
      const auto* prop = std::get_if<Prop>(&scene.things[i].is);
      // Only what is closed has an inside.
      if (prop == nullptr || prop->form == Form::boat || prop->form == Form::sheet || prop->form == Form::model ||
          prop->form == Form::tree)
        continue;
      const Mesh* mesh = meshOf(i);
      if (mesh == nullptr) continue;
      Vec3 least = mesh->at.front(), most = least;
      for (const Vec3& p : mesh->at) least = least.cwiseMin(p), most = most.cwiseMax(p);
      if ((least.array() > high.array()).any() || (most.array() < low.array()).any()) continue;
      const Rays rays(std::span(mesh, 1));
      float deepest = 0;
      const std::size_t every = std::max<std::size_t>(1, body->at.size() / 600);
      for (std::size_t v = 0; v < body->at.size(); v += every) {
        const Vec3& p = body->at[v];
        if ((p.array() < least.array()).any() || (p.array() > most.array()).any()) continue;
        // Inside is what no way leads out of without meeting a face.
        float shallow = std::numeric_limits<float>::max();
        for (const Vec3& way : {Vec3(0, 1, 0), Vec3(1, 0, 0), Vec3(-1, 0, 0), Vec3(0, 0, 1), Vec3(0, 0, -1)}) {
          const auto met = rays.first(p, way, 1000);
          shallow = std::min(shallow, met.object != 0 ? met.along : 0.0f);
        }
        deepest = std::max(deepest, shallow);
      }
      if (deepest > 0.02f)
        out.push_back(fmt::format("{} sinks {:.0f} cm into {}", calledOf(scene.things[actor.thing]), deepest * 100,
                                  calledOf(scene.things[i])));
    }
  }
  return out;
}

}  // namespace hscaffold::stage
