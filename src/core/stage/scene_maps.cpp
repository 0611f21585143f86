#include "core/stage/scene_maps.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <mutex>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/image/widen.h"
#include "core/pose/library.h"
#include "core/pose/pose_words.h"

namespace hscaffold::stage {
namespace {

/// Of a share, rounded; what lies beyond [0, 1] is cut.
std::uint16_t sixteenBits(float share) {
  return static_cast<std::uint16_t>(std::clamp(share, 0.0f, 1.0f) * 65535 + 0.5f);
}

std::optional<std::size_t> rootTurn(const pose::Skeleton& skeleton) {
  return skeleton.findTurn(skeleton.joints.front().id + ".turn");
}

/// Degrees by which an eye sees a thing turned.
double turnSeen(const Thing& thing, const Eye& eye) {
  const Vec3 to = eye.at - thing.place.at;
  return static_cast<double>(thing.place.turn - std::atan2(to.x(), to.z()) * 180 / pi);
}

struct Extent {
  float left = std::numeric_limits<float>::max(), right = -left, top = left, bottom = -left, far = 0;
  bool behind = false;
};
Extent extentOf(std::span<const Vec3> points, const Camera& camera) {
  Extent out;
  for (const Vec3& p : points) {
    const auto seen = camera.seen(p);
    if (!seen.ahead()) {
      out.behind = true;
      continue;
    }
    out.left = std::min(out.left, seen.x);
    out.right = std::max(out.right, seen.x);
    out.top = std::min(out.top, seen.y);
    out.bottom = std::max(out.bottom, seen.y);
    out.far += seen.far / static_cast<float>(points.size());
  }
  return out;
}

}  // namespace

std::optional<pose::BodyPose> poseSeen(const Thing& thing, const Eye& eye) {
  if (!isFigure(thing)) return {};
  const auto& skeleton = skeletonOf(thing);
  pose::BodyPose out;
  out.angles = anglesOf(thing);
  // What the pose is turned itself comes on top.
  if (const auto turn = rootTurn(skeleton))
    out.angles[*turn] = std::remainder(out.angles[*turn] + turnSeen(thing, eye), 360.0);
  return out;
}

const std::string& calledOf(const Thing& thing) { return thing.name.empty() ? thing.id : thing.name; }

Look lookAt(const Scene& scene, Size size, StopToken stop, Keep keep) {
  return lookThrough(scene, setOf(scene), cameraOf(scene.eye, size), stop, keep);
}

Look lookThrough(const Scene& scene, Set set, const Camera& camera, StopToken stop, Keep keep) {
  Look out{std::move(set), camera, {}};
  throwIfStopped(stop);
  out.seen = rendered(out.set.meshes, out.camera, lightingOf(scene.light), stop, keep);
  return out;
}

std::vector<SeenLine> linesOf(const Look& look, const LineAsk& ask, StopToken stop) {
  return linesOf(look.set.meshes, look.camera, ask, stop, &look.seen.fine);
}

Image<std::uint16_t> depthMap(const Look& look, const DepthAsk& ask) {
  const auto& near = look.seen.near;
  std::vector<bool> shown(static_cast<std::size_t>(std::numeric_limits<std::uint16_t>::max()) + 1, !ask.figuresOnly);
  for (const auto& actor : look.set.actors) shown[actor.thing + 1] = true;
  float nearest = 0, farthest = std::numeric_limits<float>::max();
  std::mutex whole;
  parallelRows(near.height(), [&](int first, int end) {
    float most = 0, least = std::numeric_limits<float>::max();
    for (int y = first; y < end; ++y)
      for (int x = 0; x < near.width(); ++x) {
        if (near(x, y) <= 0 || !shown[look.seen.object(x, y)]) continue;
        most = std::max(most, near(x, y));
        least = std::min(least, near(x, y));
      }
    const std::lock_guard hold(whole);
    nearest = std::max(nearest, most);
    farthest = std::min(farthest, least);
  });
  const float top = ask.near ? 1 / std::max(1e-3f, *ask.near) : nearest;
  // Figures alone are told from what is nothing: the farthest of them is not quite far.
  float bottom = ask.far ? 1 / std::max(1e-3f, *ask.far) : 0;
  if (!ask.far && ask.figuresOnly && nearest > 0)
    bottom = std::max(0.0f, farthest - 0.25f * (nearest - farthest) - 0.02f * nearest);
  Image<std::uint16_t> out(near.size());
  const float span = std::max(1e-6f, top - bottom);
  parallelRows(near.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < near.width(); ++x)
        if (near(x, y) > 0 && shown[look.seen.object(x, y)]) out(x, y) = sixteenBits((near(x, y) - bottom) / span);
  });
  return out;
}

Image<std::uint16_t> toneMap(const Look& look) {
  return widened(look.seen.colour, [](const Rgb& colour) { return sixteenBits(tabledSrgb(luminance(colour))); });
}

Image<std::uint16_t> maskOf(const Look& look, std::size_t thing) {
  const auto& object = look.seen.object;
  Image<std::uint16_t> out(object.size());
  for (int y = 0; y < object.height(); ++y)
    for (int x = 0; x < object.width(); ++x) out(x, y) = object(x, y) == thing + 1 ? 65535 : 0;
  return out;
}

pose::Figures figuresIn(const Scene& scene, const Look& look) {
  pose::Figures out;
  out.frame = look.camera.size;
  std::vector<std::pair<float, std::shared_ptr<const pose::Figure>>> made;
  const auto& near = look.seen.near;
  const float focal = look.camera.millimetres / 36 * static_cast<float>(look.camera.size.width);
  for (const Set::Actor& actor : look.set.actors) {
    const Thing& thing = scene.things[actor.thing];
    const auto& skeleton = skeletonOf(thing);
    pose::Figure figure;
    figure.name = thing.name;
    figure.skeleton = skeleton.id;
    figure.points.resize(skeleton.points.size());
    float far = 0, count = 0;
    for (std::size_t i = 0; i < skeleton.points.size() && i < actor.points.size(); ++i) {
      if (!skeleton.isBody(i)) continue;
      const auto seen = look.camera.seen(actor.points[i]);
      if (!seen.ahead()) continue;
      pose::KeyPoint& point = figure.points[i];
      point.at = {static_cast<double>(seen.x), static_cast<double>(seen.y)};
      point.presence = pose::Presence::seen;
      far += seen.far;
      ++count;
      // It lies under its own surface: what is nearer than that is before it.
      const int x = static_cast<int>(std::floor(seen.x)), y = static_cast<int>(std::floor(seen.y));
      if (x < 0 || y < 0 || x >= near.width() || y >= near.height()) continue;
      const float under = 1.25f * actor.radius[i] + 0.01f;
      if (near(x, y) > 0 && seen.far - 1 / near(x, y) > under) point.presence = pose::Presence::hidden;
    }
    if (count == 0) continue;
    // As long as bones are where the figure stands.
    for (const pose::Bone& bone : skeleton.bones) {
      const double length = static_cast<double>((actor.points[bone.from] - actor.points[bone.to]).norm());
      const double there = static_cast<double>(focal * count / far) * length;
      const Point a = figure.points[bone.from].at, b = figure.points[bone.to].at;
      const bool both = figure.points[bone.from].there() && figure.points[bone.to].there();
      figure.natural.push_back(std::max(there, both ? std::hypot(b.x - a.x, b.y - a.y) : 0.0));
    }
    made.emplace_back(far / count, std::make_shared<const pose::Figure>(std::move(figure)));
  }
  std::stable_sort(made.begin(), made.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  for (auto& each : made) out.figures.push_back(std::move(each.second));
  return out;
}

std::string wordsFor(const Scene& scene, const Look& look) {
  std::string out;
  struct Actor {
    const Thing* thing;
    Extent extent;
  };
  std::vector<Actor> actors, things;
  // Only what is seen is spoken of.
  std::vector<bool> seen(static_cast<std::size_t>(groundObject) + 1, false);
  for (int y = 0; y < look.seen.object.height(); ++y)
    for (const auto object : look.seen.object.line(y)) seen[object] = true;
  for (const auto& actor : look.set.actors) {
    if (!seen[actor.thing + 1]) continue;
    const Thing& thing = scene.things[actor.thing];
    const Extent extent = extentOf(actor.points, look.camera);
    if (extent.far > 0) actors.push_back({&thing, extent});
  }
  for (const Mesh& mesh : look.set.meshes) {
    if (mesh.object == groundObject || !seen[mesh.object]) continue;
    const Thing& thing = scene.things[mesh.object - 1u];
    if (isFigure(thing)) continue;
    const Extent extent = extentOf(mesh.at, look.camera);
    if (extent.far > 0) things.push_back({&thing, extent});
  }
  std::sort(actors.begin(), actors.end(), [](const Actor& a, const Actor& b) { return a.extent.far < b.extent.far; });
  const auto add = [&](const std::string& words) {
    if (!words.empty()) out += (out.empty() ? "" : "; ") + words;
  };
  // Of a crowd, those in front are described.
  constexpr std::size_t described = 6;
  for (const Actor& actor : std::span(actors).first(std::min(described, actors.size()))) {
    const auto words = pose::wordsFor(skeletonOf(*actor.thing), *poseSeen(*actor.thing, scene.eye)).text();
    const char* animals[] = {"dog", "fox", "horse", "cow", "cat"};
    const auto* beast = std::get_if<Beast>(&actor.thing->is);
    add(beast != nullptr
            ? fmt::format("{}{}{}", animals[static_cast<std::size_t>(beast->kind)], words.empty() ? "" : ", ", words)
            : words);
  }
  if (actors.size() > described) add(fmt::format("{} others further back", actors.size() - described));
  // What stands before what, where they overlap in the picture.
  std::size_t said = 0;
  constexpr std::size_t most = 3;
  for (const Actor& actor : actors)
    for (const Actor& thing : things) {
      const bool overlap = actor.extent.left < thing.extent.right && thing.extent.left < actor.extent.right &&
                           actor.extent.top < thing.extent.bottom && thing.extent.top < actor.extent.bottom;
      if (!overlap || said >= most) continue;
      const char* how = actor.extent.far < thing.extent.far ? "in front of" : "behind";
      // As it is called: a lump may be a dune.
      std::string name = thing.thing->name.empty() ? idOf(std::get<Prop>(thing.thing->is).form) : thing.thing->name;
      if (name[0] >= 'A' && name[0] <= 'Z') name[0] = static_cast<char>(name[0] - 'A' + 'a');
      add(fmt::format("{} a {}", how, name));
      ++said;
    }
  const double tilt = static_cast<double>(scene.eye.tilt);
  if (tilt < -25) add("seen from above");
  if (tilt > 12 || (scene.eye.at.y() < 0.6f && tilt > 3)) add("seen from below");
  return out;
}

std::vector<std::string> whatIsOutside(const Scene& scene, Size frame) {
  return whatIsOutside(scene, setOf(scene), frame);
}

std::vector<std::string> whatIsOutside(const Scene& scene, const Set& set, Size frame) {
  std::vector<std::string> out;
  const Camera camera = cameraOf(scene.eye, frame);
  const auto outside = [&](const Vec3& p) {
    const auto seen = camera.seen(p);
    return !seen.ahead() || seen.x < 0 || seen.y < 0 || seen.x > static_cast<float>(frame.width) ||
           seen.y > static_cast<float>(frame.height);
  };
  for (const auto& actor : set.actors) {
    const Thing& thing = scene.things[actor.thing];
    const auto& skeleton = skeletonOf(thing);
    std::vector<std::string> parts;
    std::size_t all = 0;
    for (std::size_t i = 0; i < skeleton.points.size() && i < actor.points.size(); ++i) {
      if (!skeleton.isBody(i)) continue;
      ++all;
      if (outside(actor.points[i])) parts.push_back(skeleton.points[i].name);
    }
    const std::string& name = calledOf(thing);
    if (parts.size() == all)
      out.push_back(name + " is outside");
    else if (parts.size() > 2)
      out.push_back(fmt::format("{} is cut off", name));
    else if (!parts.empty())
      out.push_back(
          fmt::format("the {} of {} {} outside", fmt::join(parts, " and the "), name, parts.size() > 1 ? "are" : "is"));
  }
  for (const Mesh& mesh : set.meshes) {
    if (mesh.object == groundObject) continue;
    const Thing& thing = scene.things[mesh.object - 1u];
    if (isFigure(thing)) continue;
    if (std::all_of(mesh.at.begin(), mesh.at.end(), outside)) out.push_back(calledOf(thing) + " is outside");
  }
  return out;
}

Eye fittedEye(const Scene& scene, Size frame) {
  Eye out = scene.eye;
  const Set set = setOf(scene);
  std::vector<Vec3> all;
  for (const Mesh& mesh : set.meshes)
    if (mesh.object != groundObject) all.insert(all.end(), mesh.at.begin(), mesh.at.end());
  if (all.empty()) return out;
  // In the eye's own axes: how far back it has to go so that each place lies within the frame, and how far aside.
  const Camera camera = cameraOf(out, frame);
  constexpr float room = 0.94f;
  const float across = room * 18 / out.millimetres,
              down = across * static_cast<float>(frame.height) / static_cast<float>(frame.width);
  // A frustum that holds all: its four planes touch, so its tip follows from the farthest places towards each.
  float left = std::numeric_limits<float>::max(), right = -left, low = left, high = -left, nearest = -left;
  for (const Vec3& p : all) {
    const Vec3 q = camera.look * (p - out.at);  // z: back
    left = std::min(left, q.x() - across * q.z());
    right = std::max(right, q.x() + across * q.z());
    low = std::min(low, q.y() - down * q.z());
    high = std::max(high, q.y() + down * q.z());
    nearest = std::max(nearest, q.z());
  }
  // The tip at (x, y, z): left >= x - across z, right <= x + across z, and so on.
  const float x = 0.5f * (left + right), y = 0.5f * (low + high);
  const float z = std::max({(right - left) / (2 * across), (high - low) / (2 * down), nearest + 0.2f});
  out.at += camera.look.transpose() * Vec3(x, y, z);
  return out;
}

}  // namespace hscaffold::stage
