#include "scene.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <limits>

#include "core/image/colour.h"
#include "core/pose/find/maps.h"
#include "people.h"
#include "places.h"
#include "style.h"

namespace hscaffold::training {
namespace {

using stage::Mesh;
using stage::Vec3;

constexpr std::uint16_t firstPerson = 100, firstAnimal = 200, firstThing = 1;

/// A body in the scene, before it is seen.
struct Actor {
  std::uint16_t object = 0;
  std::vector<Vec3> points;
  std::vector<float> radius;
  float size = 1;
  std::size_t bodyPoints = 0;  ///< the first so many points are of the body itself
};

struct Set {
  std::vector<Mesh> meshes;
  std::vector<Actor> people, animals;
  stage::Lighting lighting;
  stage::Camera camera;
};

/// A body comes into the set, under the number of its object.
template <typename MadeBody>
void add(Set& set, std::vector<Actor>& to, std::uint16_t first, MadeBody body, float size, const char* skeleton,
         const stage::Material& material) {
  Actor actor;
  actor.object = static_cast<std::uint16_t>(first + to.size());
  actor.points = std::move(body.points);
  actor.radius = std::move(body.radius);
  actor.size = size;
  actor.bodyPoints = pose::bodyPointsOf(pose::skeletonOf(skeleton));
  body.mesh.object = actor.object;
  body.mesh.material = material;
  set.meshes.push_back(std::move(body.mesh));
  to.push_back(std::move(actor));
}

void addPerson(Dice& dice, Set& set, const Vec3& at, int around) {
  auto spec = anyone(dice, around);
  spec.at = at;
  stage::Material material;
  material.grain = dice.chance(0.5f) ? dice.between(0, 0.5f) : 0;
  material.grainSize = dice.ratio(0.02f, 0.2f);
  material.shine = dice.chance(0.2f) ? dice.even() : 0;
  add(set, set.people, firstPerson, stage::bodyOf(spec), spec.size, "human", material);
}

void addAnimal(Dice& dice, Set& set, const Vec3& at, int around) {
  auto spec = anyAnimal(dice, around + 3);
  spec.at = at;
  stage::Material material;
  material.grain = dice.chance(0.6f) ? dice.between(0.1f, 0.7f) : 0;
  material.grainSize = dice.ratio(0.01f, 0.3f);
  auto body = stage::animalOf(spec);
  // Patches of the coat.
  for (int i = dice.chance(0.4f) ? dice.whole(1, 9) : 0; i > 0; --i) {
    const Vec3 about = body.mesh.at[static_cast<std::size_t>(dice.whole(0, static_cast<int>(body.mesh.at.size()) - 1))];
    const float reach = spec.size * dice.ratio(0.04f, 0.2f);
    for (std::size_t v = 0; v < body.mesh.at.size(); ++v)
      if ((body.mesh.at[v] - about).norm() < reach) body.mesh.colour[v] = spec.patch;
  }
  add(set, set.animals, firstAnimal, std::move(body), spec.size, "four-legged", material);
}

/// What hides parts of figures: posts, tables and stalks before them.
void addOccluders(Dice& dice, Set& set, const Vec3& about, const Vec3& eye) {
  for (int i = dice.whole(1, 3); i > 0; --i) {
    const Vec3 toEye = (eye - about).normalized();
    const Vec3 at = about + toEye * dice.between(0.4f, 1.2f) + Vec3(dice.between(-0.8f, 0.8f), 0, 0);
    std::vector<Mesh> things;
    scatter(dice, things, {at.x(), 0, at.z()}, 0.1f, 1, true);
    for (Mesh& mesh : things) set.meshes.push_back(std::move(mesh));
  }
}

/// Looks at `target` so that what is `height` metres tall there takes up `share` of the frame's height.
stage::Camera cameraAt(Dice& dice, const Vec3& target, float height, float share, Size size,
                       const Surroundings& place) {
  const float mm = dice.ratio(22, 90);
  const float frameHigh = 36 / mm * static_cast<float>(size.height) / static_cast<float>(size.width);
  float away = std::clamp(height / (share * frameHigh), 0.5f, 60.0f);
  const float turn = dice.between(-0.7f, 0.7f);
  const float rise = dice.chance(0.7f) ? dice.between(-0.12f, 0.25f) : dice.between(-0.35f, 0.9f);
  Vec3 from = Vec3(std::sin(turn) * std::cos(rise), std::sin(rise), std::cos(turn) * std::cos(rise)) * away;
  Vec3 eye = target + from;
  eye.y() = std::max(eye.y(), 0.12f);
  float usedMm = mm;
  if (place.closed) {
    // Stays inside; what is lost in distance is won in width.
    const Vec3 before = eye;
    eye.x() = std::clamp(eye.x(), -0.47f * place.inside.x(), 0.47f * place.inside.x());
    eye.y() = std::min(eye.y(), 0.94f * place.inside.y());
    eye.z() = std::min(eye.z(), 0.49f * place.inside.z());
    usedMm = std::clamp(mm * (eye - target).norm() / std::max(0.1f, (before - target).norm()), 14.0f, 90.0f);
  }
  const float roll = dice.chance(0.06f) ? dice.between(-100, 100) : dice.chance(0.3f) ? 8 * dice.normal() : 0;
  return stage::lookingAt(eye, target, usedMm, size, roll);
}

void buildFigures(Dice& dice, Set& set, Theme theme, Size size) {
  const bool inside = theme == Theme::indoors || (theme == Theme::portrait && dice.chance(0.5f)) ||
                      (theme == Theme::animals && dice.chance(0.25f));
  auto place = inside ? indoors(dice) : openLand(dice);
  // Most pictures of people are of one or two.
  const int people = theme == Theme::crowd      ? dice.whole(5, 10)
                     : theme == Theme::portrait ? 1
                     : theme == Theme::animals  ? dice.whole(0, 2)
                                                : dice.of({1, 1, 1, 1, 1, 2, 2, 2, 3, 4});
  const int animals = theme == Theme::animals ? dice.whole(1, 3) : dice.chance(0.08f) ? 1 : 0;
  const int around = theme == Theme::crowd ? 6 : 9;
  const float spread =
      theme == Theme::crowd ? std::min(place.reach, 4.0f) : std::min(place.reach, dice.between(0.4f, 1.6f));
  Vec3 middle = Vec3::Zero();
  for (int i = 0; i < people + animals; ++i) {
    Vec3 at(dice.between(-1, 1) * spread, 0, dice.between(-1.4f, 0.6f) * spread);
    if (people + animals == 1) at = {0, 0, 0};
    // People mostly leave each other room.
    if (theme != Theme::crowd && dice.chance(0.6f))
      at.x() = 0.75f * (static_cast<float>(i) - 0.5f * static_cast<float>(people + animals - 1));
    if (dice.chance(0.05f)) at.y() = dice.between(0.2f, 1.2f);
    if (i < people)
      addPerson(dice, set, at, around);
    else
      addAnimal(dice, set, at, around);
  }
  // The eye is on one of them.
  const bool onAnimal = set.people.empty() || (!set.animals.empty() && dice.chance(0.5f));
  const Actor& star =
      onAnimal ? set.animals[static_cast<std::size_t>(dice.whole(0, static_cast<int>(set.animals.size()) - 1))]
               : set.people[static_cast<std::size_t>(dice.whole(0, static_cast<int>(set.people.size()) - 1))];
  Vec3 low = star.points[0], high = low;
  for (std::size_t p = 0; p < star.bodyPoints; ++p)
    low = low.cwiseMin(star.points[p]), high = high.cwiseMax(star.points[p]);
  middle = (low + high) / 2;
  const float tall =
      std::max({high.y() - low.y(), 0.6f * (high.x() - low.x()), 0.6f * (high.z() - low.z()), 0.3f * star.size});
  // Whole, with some room about them, in most pictures; cut by the frame in the others.
  const bool whole = dice.chance(0.7f);
  float share = theme == Theme::crowd ? dice.ratio(0.22f, 0.6f) : dice.ratio(0.42f, whole ? 0.92f : 1.3f);
  if (theme == Theme::portrait) {
    share = dice.ratio(1.2f, 2.6f);
    middle = star.points[*pose::skeletonOf("human").find("neck")];
  }
  if (theme == Theme::animals && onAnimal && dice.chance(0.2f)) {
    share = dice.ratio(1, 2.2f);
    middle = star.points[*pose::skeletonOf("four-legged").find("poll")];
  }
  const float off = whole ? 0.5f : 1.0f;
  middle += Vec3(dice.normal() * 0.12f, dice.normal() * 0.08f, 0) * (off * tall / share);
  set.camera = cameraAt(dice, middle, tall, share, size, place);
  if (dice.chance(whole ? 0.08f : 0.3f)) addOccluders(dice, set, middle, set.camera.eye);
  if (dice.chance(0.3f)) clutter(dice, place.meshes, middle - Vec3(0, 0, 1.5f), 1.6f, dice.whole(2, 8));
  // Shadows: on everything, or flat on the ground as many draw them.
  if (dice.chance(0.5f)) {
    place.lighting.shadows = true;
    place.lighting.soft = dice.chance(0.5f) ? 0 : dice.ratio(0.01f, 0.3f);
  } else if (!place.lighting.lights.empty() && dice.chance(0.5f)) {
    const Rgb dark = place.meshes.front().colour.front() * luminance(place.lighting.above) * dice.between(0.3f, 0.8f);
    std::vector<Mesh> bodies;
    for (const Mesh& mesh : set.meshes)
      if (mesh.object >= firstPerson) bodies.push_back(mesh);
    set.meshes.push_back(stage::shadowOn(0, bodies, place.lighting.lights.front(), dark, 0));
  }
  set.lighting = place.lighting;
  for (Mesh& mesh : place.meshes) set.meshes.push_back(std::move(mesh));
}

void buildThings(Dice& dice, Set& set, Theme theme, Size size) {
  auto place = theme == Theme::land   ? openLand(dice)
               : theme == Theme::room ? indoors(dice)
               : dice.chance(0.5f)    ? indoors(dice)
                                      : openLand(dice);
  Vec3 target{0, 1, 0};
  float height = 2, share = dice.ratio(0.3f, 1);
  if (theme == Theme::land) {
    scatter(dice, place.meshes, {0, 0, -20}, 25, dice.whole(2, 12), true);
    target = {dice.between(-4, 4), dice.between(0.5f, 4), -dice.between(5, 25)};
    height = dice.between(3, 14);
  } else if (theme == Theme::room) {
    target = {dice.between(-0.25f, 0.25f) * place.inside.x(), dice.between(0.4f, 1.8f), -0.4f * place.inside.z()};
    height = place.inside.y();
    share = dice.between(0.4f, 0.9f);
  } else {
    const bool table = theme == Theme::heap ? dice.chance(0.3f) : dice.chance(0.7f);
    pile(dice, place.meshes, theme == Theme::heap ? dice.whole(12, 30) : dice.whole(1, 7), table);
    target = {0.1f * dice.normal(), table ? 0.85f : 0.12f, 0.1f * dice.normal()};
    height = dice.ratio(0.2f, 0.6f);
  }
  set.camera = cameraAt(dice, target, height, share, size, place);
  if (theme == Theme::room) {
    // From the open side, anywhere in its breadth: corners are seen as often as walls.
    Vec3 eye{dice.between(-0.4f, 0.4f) * place.inside.x(), dice.between(0.8f, 2.0f),
             dice.between(0.2f, 0.48f) * place.inside.z()};
    set.camera = stage::lookingAt(eye, target + Vec3(dice.between(-0.4f, 0.4f) * place.inside.x(), 0, 0),
                                  dice.ratio(16, 40), size, 0);
  }
  if (theme == Theme::closeUp && dice.chance(0.35f)) {
    // Faces and creatures close to the eye count among what is seen closely.
    if (dice.chance(0.6f)) {
      addPerson(dice, set, {0, 0, 0}, 12);
      const Vec3 nose = set.people.front().points[0];
      set.camera = cameraAt(dice, nose, 0.35f, dice.ratio(0.4f, 1.1f), size, place);
    } else {
      addAnimal(dice, set, {0, 0, 0}, 12);
      set.camera = cameraAt(dice, set.animals.front().points[0], 0.5f, dice.ratio(0.4f, 1.2f), size, place);
    }
  }
  if (dice.chance(0.3f)) {
    // Something close that the frame cuts: a bough, a post, a leaf.
    std::vector<Mesh> things;
    const Vec3 look = -set.camera.look.row(2).transpose();
    const Vec3 before = set.camera.eye + look * dice.between(0.5f, 1.4f) +
                        Vec3(dice.between(-0.4f, 0.4f), dice.between(-0.6f, 0.6f), 0);
    clutter(dice, things, before - Vec3(0, 1, 0), 0.2f, dice.whole(1, 4));
    for (Mesh& mesh : things) set.meshes.push_back(std::move(mesh));
  }
  set.lighting = place.lighting;
  for (Mesh& mesh : place.meshes) set.meshes.push_back(std::move(mesh));
}

TrueFigure truthOf(const Actor& actor, const Set& set, const stage::Rendered& seen) {
  TrueFigure out;
  const Size size = seen.colour.size();
  float left = std::numeric_limits<float>::max(), top = left, right = -left, bottom = -left;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      if (seen.object(x, y) == actor.object) {
        left = std::min(left, static_cast<float>(x));
        top = std::min(top, static_cast<float>(y));
        right = std::max(right, static_cast<float>(x + 1));
        bottom = std::max(bottom, static_cast<float>(y + 1));
      }
  if (left > right) return out;
  out.left = left, out.top = top, out.right = right, out.bottom = bottom;
  float far = 0;
  for (std::size_t p = 0; p < actor.bodyPoints; ++p) {
    const auto at = set.camera.seen(actor.points[p]);
    TruePoint point{at.x, at.y, Visibility::outside};
    far += at.far / static_cast<float>(actor.bodyPoints);
    const int x = static_cast<int>(std::floor(at.x)), y = static_cast<int>(std::floor(at.y));
    if (at.far > 0 && x >= 0 && y >= 0 && x < size.width && y < size.height) {
      const float near = seen.near(x, y), surface = near > 0 ? 1 / near : 1e6f;
      const bool own = seen.object(x, y) == actor.object;
      if (own && at.far - surface < 1.8f * actor.radius[p])
        point.visibility = Visibility::seen;
      else if (!own && surface < at.far)
        point.visibility = Visibility::hiddenByOther;
      else
        // Beside its own outline by less than a pixel, or behind the body.
        point.visibility = own ? Visibility::hiddenByItself : Visibility::seen;
    }
    out.points.push_back(point);
  }
  out.size = actor.size * set.camera.millimetres / 36 * static_cast<float>(size.width) / std::max(0.1f, far);
  return out;
}

}  // namespace

const char* nameOf(Theme theme) {
  switch (theme) {
    case Theme::figures:
      return "figures";
    case Theme::crowd:
      return "crowd";
    case Theme::portrait:
      return "portrait";
    case Theme::indoors:
      return "indoors";
    case Theme::animals:
      return "animals";
    case Theme::land:
      return "land";
    case Theme::room:
      return "room";
    case Theme::closeUp:
      return "close-up";
    default:
      return "heap";
  }
}

Theme themeFor(std::uint64_t seed, Use use) {
  Dice dice(seed ^ 0x5851f42d4c957f2dull);
  if (use == Use::figures)
    return dice.of({Theme::figures, Theme::figures, Theme::figures, Theme::figures, Theme::figures, Theme::indoors,
                    Theme::indoors, Theme::indoors, Theme::portrait,
                    dice.of({Theme::crowd, Theme::animals, Theme::land, Theme::room, Theme::heap})});
  if (use == Use::animals)
    return dice.of({Theme::animals, Theme::animals, Theme::animals, Theme::animals, Theme::animals, Theme::animals,
                    Theme::animals, Theme::animals, Theme::figures,
                    dice.of({Theme::indoors, Theme::crowd, Theme::land, Theme::room, Theme::heap})});
  if (use == Use::depth)
    return dice.of({Theme::figures, Theme::indoors, Theme::portrait, Theme::animals, Theme::land, Theme::land,
                    Theme::room, Theme::room, Theme::closeUp, Theme::closeUp, Theme::closeUp, Theme::heap,
                    Theme::heap});
  return dice.of({Theme::figures, Theme::crowd, Theme::portrait, Theme::indoors, Theme::animals, Theme::land,
                  Theme::room, Theme::closeUp, Theme::heap});
}

Scene sceneOf(std::uint64_t seed, Size size, Use use) {
  Dice dice(seed);
  Set set;
  const Theme theme = themeFor(seed, use);
  const bool withFigures = theme == Theme::figures || theme == Theme::crowd || theme == Theme::portrait ||
                           theme == Theme::indoors || theme == Theme::animals;
  if (withFigures)
    buildFigures(dice, set, theme, size);
  else
    buildThings(dice, set, theme, size);
  std::uint16_t next = firstThing;
  for (Mesh& mesh : set.meshes)
    if (mesh.object < firstPerson) mesh.object = next < firstPerson - 1 ? next++ : next;
  auto seen = stage::rendered(set.meshes, set.camera, set.lighting, {}, {.normal = true});
  Scene out;
  out.picture = inStyle(dice, seen, anyStyle(dice));
  out.figure = Image<std::uint8_t>(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      out.figure(x, y) = seen.object(x, y) >= firstAnimal ? 128 : seen.object(x, y) >= firstPerson ? 255 : 0;
  for (const Actor& actor : set.people) {
    auto truth = truthOf(actor, set, seen);
    if (!truth.points.empty()) out.people.push_back(std::move(truth));
  }
  for (const Actor& actor : set.animals) {
    auto truth = truthOf(actor, set, seen);
    if (!truth.points.empty()) out.animals.push_back(std::move(truth));
  }
  out.near = std::move(seen.near);
  return out;
}

}  // namespace hscaffold::training
