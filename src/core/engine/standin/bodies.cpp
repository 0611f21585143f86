#include "core/engine/standin/bodies.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/engine/standin/noise.h"
#include "core/image/parallel.h"
#include "core/pose/solids.h"

namespace hscaffold::standin {
namespace {

using pose::Solid;

/// A tapered limb in layout pixels.
struct Limb {
  Point a, b;
  float radiusA = 0, radiusB = 0;
  Solid::Of of = Solid::Of::torso;
};

struct BuiltBody {
  std::vector<Limb> limbs;  ///< far ones first
  pose::Bounds bounds;
  Point faceTo;  ///< from the head's middle to where it looks, in head radii; {0, 0} to the camera
  Point head;
  float headRadius = 0;
  std::vector<Point> eyes;  ///< that are seen
  bool away = false;        ///< the face is not seen
  bool clothed = true;
  float size = 0;
  Point foot;
};

struct At {
  float distance = 1e6f;
  int limb = -1;
};

float distanceTo(const Limb& limb, Point p) {
  const Point way = limb.b - limb.a, off = p - limb.a;
  const double square = dot(way, way);
  const double t = square > 0 ? std::clamp(dot(off, way) / square, 0.0, 1.0) : 0;
  return static_cast<float>(lengthOf(off - way * t)) -
         (limb.radiusA + static_cast<float>(t) * (limb.radiusB - limb.radiusA));
}

/// The nearest outline of the body, and the limb that lies on top there.
At at(const BuiltBody& body, Point p) {
  At out;
  for (std::size_t i = 0; i < body.limbs.size(); ++i) {
    const float d = distanceTo(body.limbs[i], p);
    if (d < 0 || out.limb < 0 || (d < out.distance && out.distance > 0)) out.limb = static_cast<int>(i);
    out.distance = std::min(out.distance, d);
  }
  return out;
}

/// Shoes at what a body stands on, pointing where it looks.
void addFeet(std::vector<Limb>& limbs, const pose::Figure& figure, const BuiltBody& body, double scale) {
  const pose::Skeleton& skeleton = figure.kind();
  const double size = static_cast<double>(body.size), looks = std::clamp(body.faceTo.x, -1.0, 1.0);
  for (const pose::Bone& bone : skeleton.bones) {
    if (std::find(skeleton.planted.begin(), skeleton.planted.end(), bone.to) == skeleton.planted.end()) continue;
    if (!figure.points[bone.from].there() || !figure.points[bone.to].there()) continue;
    const Point ankle = figure.points[bone.to].at * scale;
    const Point shin = normalised(ankle - figure.points[bone.from].at * scale);
    Point across{-shin.y, shin.x};
    const bool sideways = std::abs(looks) > 0.2;
    const double to = sideways ? looks : ankle.x - body.bounds.middle().x;
    if (across.x * to < 0) across = across * -1;
    const Point way = sideways ? across * 0.075 + shin * 0.022 : across * 0.016 + shin * 0.042;
    limbs.push_back({ankle, ankle + way * size, static_cast<float>(0.023 * size), static_cast<float>(0.016 * size),
                     Solid::Of::leg});
  }
}

BuiltBody builtOn(const pose::Figure& figure, double scale) {
  const pose::Skeleton& skeleton = figure.kind();
  BuiltBody out;
  const double size = pose::sizeOf(figure) * scale;
  out.size = static_cast<float>(size);
  out.clothed = skeleton.id == "human";
  std::vector<Limb> near;
  if (const auto bounds = pose::boundsOf(figure))
    out.bounds = {bounds->left * scale, bounds->top * scale, bounds->right * scale, bounds->bottom * scale};
  out.foot = {out.bounds.middle().x, out.bounds.bottom};
  const auto head = pose::middleOf(figure, skeleton.headAbout);
  if (head) out.head = *head * scale;
  out.headRadius = static_cast<float>(0.055 * size);
  const auto& nose = figure.points[skeleton.head.front()];
  out.away = nose.presence != pose::Presence::seen;
  if (head && nose.there()) out.faceTo = (nose.at * scale - out.head) * (1 / (0.055 * size));
  if (out.clothed) {
    for (const char* eye : {"left_eye", "right_eye"})
      if (const auto at = skeleton.find(eye); at && figure.points[*at].presence == pose::Presence::seen)
        out.eyes.push_back(figure.points[*at].at * scale);
    addFeet(near, figure, out, scale);
  }
  for (const auto& solid : pose::solidsOf(figure)) {
    const Limb limb{solid.a * scale, solid.b * scale, static_cast<float>(solid.radiusA * scale),
                    static_cast<float>(solid.radiusB * scale), solid.solid->of};
    (solid.hidden && limb.of != Solid::Of::torso ? out.limbs : near).push_back(limb);
  }
  out.limbs.insert(out.limbs.end(), near.begin(), near.end());
  return out;
}

constexpr float skin = 0.14f;  ///< a touch of the accent, and lighter

float accentOf(const BuiltBody& body, const Limb& limb, Point p) {
  switch (limb.of) {
    case Solid::Of::torso:
    case Solid::Of::arm:
      return 0;
    case Solid::Of::leg:
      return body.clothed ? -0.8f : 0.0f;
    case Solid::Of::hand:
      return body.clothed ? skin : -0.6f;
    case Solid::Of::head:
      break;
  }
  if (!body.clothed) return 0.15f;
  for (const Point eye : body.eyes)
    if (body.headRadius > 6 && lengthOf(p - eye) < 0.13 * static_cast<double>(body.headRadius)) return -0.95f;
  // Hair above and behind, face where it looks.
  const Point off = (p - body.head) * (1 / static_cast<double>(std::max(0.5f, body.headRadius)));
  const double towards = off.x * body.faceTo.x * 1.4 + (off.y + 0.25) * 1.1;
  return !body.away && towards > -0.1 ? skin : -0.9f;
}

/// How strokes run there: folds of cloth along the limb, skin round it, hair down from the crown, fur in short ones.
Handling handlingOf(const BuiltBody& body, const Limb& limb, float accent, Point p) {
  constexpr float firm = 0.6f;
  Point along = normalised(limb.b - limb.a);
  if (limb.of == Solid::Of::head)
    along = normalised(p - (body.head - Point{0, 1.2 * static_cast<double>(body.headRadius)}));
  if (accent == skin) along = {-along.y, along.x};
  return {firm * static_cast<float>(along.x * along.x - along.y * along.y),
          firm * static_cast<float>(2 * along.x * along.y), body.clothed ? 0.0f : 0.45f};
}

/// The figure as it is obeyed at this load: about there, each of its limbs turned its own way, the ones it stands on
/// less; what hangs on a limb goes along, so that bodies stay bodies.
pose::Figure strayed(pose::Figure figure, double load, std::uint64_t seed) {
  constexpr double limb = 48, standing = 22, middle = 9;  // degrees at most, where nothing is held
  const double slack = 1 - std::min(load, 1.0);
  if (slack <= 0) return figure;
  const pose::Skeleton& kind = figure.kind();
  const double aside = 0.06 * pose::sizeOf(figure) * slack, turn = std::pow(slack, 1.2);
  const auto drawn = [&](std::uint64_t what) { return static_cast<double>(signedUnit(mixed(seed, what))); };
  const Point all{aside * drawn(1), 0.4 * aside * drawn(2)};
  for (pose::KeyPoint& p : figure.points) p.at = p.at + all;
  for (std::size_t b = 0; b < kind.bones.size(); ++b) {
    const pose::Bone& bone = kind.bones[b];
    if (!kind.isBody(bone.to)) continue;
    const auto& hanging = kind.below(bone.to);
    const bool stands = std::any_of(kind.planted.begin(), kind.planted.end(), [&](std::size_t p) {
      return std::find(hanging.begin(), hanging.end(), p) != hanging.end();
    });
    const double most = bone.side == pose::Side::middle ? middle : stands ? standing : limb;
    const double angle = turn * most * drawn(10 + b) * std::numbers::pi / 180, c = std::cos(angle), s = std::sin(angle);
    const Point about = figure.points[bone.from].at;
    for (const std::size_t p : hanging) figure.points[p].at = about + rotatedBy(figure.points[p].at - about, c, s);
  }
  return figure;
}

}  // namespace

Wanted wantedByPose(const Composition& place, const pose::Figures& figures, const LoadCurve& loads,
                    std::uint64_t seed) {
  const Size size = place.fields.size();
  Wanted out;
  if (figures.frame.width <= 0) return out;
  const double scale = static_cast<double>(size.width) / figures.frame.width;
  Decided decided;
  decided.fields = Fields::ofSize(size);
  decided.where = Image<float>(size);
  decided.lines = Image<float>(size);
  decided.shade = Image<float>(size);
  bool any = false;
  std::uint64_t number = 0;
  for (const auto& figure : figures.figures) {
    ++number;
    if (!figure->on) continue;
    const double share = std::clamp(pose::sizeOf(*figure) / (0.55 * figures.frame.height), 0.0, 1.0);
    const double load = loads.at(settlingTime(0.85 * (1 - share)));
    // Below this nothing of a body is meant.
    if (load < 0.12) continue;
    any = true;
    const float burn = burnOf(load), lineBurn = lineBurnOf(load);
    const BuiltBody body = builtOn(strayed(*figure, load, mixed(seed, number)), scale);
    if (body.limbs.empty()) continue;
    const float reach = 0.14f * body.size + 4;
    const int left = std::max(0, static_cast<int>(body.bounds.left - 3 * static_cast<double>(reach))),
              right = std::min(size.width, static_cast<int>(body.bounds.right + 3 * static_cast<double>(reach)) + 1),
              top = std::max(0, static_cast<int>(body.bounds.top - static_cast<double>(reach))),
              bottom = std::min(size.height, static_cast<int>(body.bounds.bottom + static_cast<double>(reach)) + 1);
    const float nearness = std::clamp(0.45f + 0.5f * body.size / static_cast<float>(size.height), 0.3f, 0.98f);
    const float round = std::max(1.5f, 0.035f * body.size), line = std::max(0.7f, 0.006f * body.size);
    parallelRows(std::max(0, bottom - top), [&](int first, int end) {
      for (int y = top + first; y < top + end; ++y)
        for (int x = left; x < right; ++x) {
          const Point p{x + 0.5, y + 0.5};
          // The shadow on the ground, away from the light.
          const double sx = (p.x - body.foot.x +
                             static_cast<double>(place.lightX) * 0.12 * static_cast<double>(body.size)) /
                            (0.30 * static_cast<double>(body.size)),
                       sy = (p.y - body.foot.y) / (0.045 * static_cast<double>(body.size) + 1);
          const float shadow = 0.55f * smoothStep(1.0f, 0.3f, static_cast<float>(std::hypot(sx, sy)));
          decided.shade(x, y) = std::max(decided.shade(x, y), shadow);
          const At here = at(body, p);
          const float cover = 1 - smoothStep(-0.8f, 0.8f, here.distance);
          if (here.distance < 2.5f * line) {
            // Outlines, and the borders of limbs that lie over others.
            const Limb& limb = body.limbs[static_cast<std::size_t>(here.limb)];
            const float own = std::abs(distanceTo(limb, p));
            const float edge = std::max(0.8f * (1 - smoothStep(0.5f * line, 1.8f * line, std::abs(here.distance))),
                                        0.4f * (1 - smoothStep(0.4f * line, 1.3f * line, own)));
            decided.lines(x, y) = std::max(decided.lines(x, y) * (1 - cover), edge * lineBurn);
          }
          if (cover <= 0) continue;
          const Limb& limb = body.limbs[static_cast<std::size_t>(here.limb)];
          const float depth = -distanceTo(limb, p);
          const float gx = distanceTo(limb, p + Point{1, 0}) - distanceTo(limb, p - Point{1, 0}),
                      gy = distanceTo(limb, p + Point{0, 1}) - distanceTo(limb, p - Point{0, 1});
          const float rim = std::clamp(1 - depth / round, 0.0f, 1.0f);
          const float shade = 0.55f * rim * 0.5f * (gx * place.lightX + gy * place.lightY) + 0.12f * (1 - rim);
          // Nearer figures over farther ones; where they only touch a place, their values count by their cover.
          const float before = decided.where(x, y), now = before + cover * (1 - before);
          const auto over = [&](Image<float>& field, float value) {
            field(x, y) = blend(field(x, y), value, cover / now);
          };
          decided.where(x, y) = now;
          for (std::size_t part = 0; part < partCount; ++part) over(decided.fields.part(part), part == 4 ? 1.0f : 0.0f);
          const float accent = accentOf(body, limb, p);
          over(decided.fields.tone(), burn * shade + (accent == skin ? 0.75f : 0.0f));
          over(decided.fields.depth(), nearness);
          over(decided.fields.accent(), accent);
          const Handling strokes = handlingOf(body, limb, accent, p);
          over(decided.fields.all[Fields::courseX], strokes.courseX);
          over(decided.fields.all[Fields::courseY], strokes.courseY);
          over(decided.fields.dab(), strokes.dab);
        }
    });
  }
  if (any) out.decided = std::move(decided);
  out.bodies = any;
  return out;
}

}  // namespace hscaffold::standin
