#include "core/pose/posing.h"
#include "core/pose/solids.h"

#include <algorithm>
#include <cmath>

namespace hscaffold::pose {
namespace {

constexpr int mostRounds = 400;
constexpr double closeEnough = 1e-4;  ///< share of a length
constexpr double limbLength = 0.1;    ///< share of the size; shorter bones are of head and hands

/// Cosine and sine of the angle from one direction to another; no turn where one has no length.
Point turnBetween(Point from, Point to) {
  const double a = lengthOf(from), b = lengthOf(to);
  if (a < 1e-9 || b < 1e-9) return {1, 0};
  return {dot(from, to) / (a * b), (from.x * to.y - from.y * to.x) / (a * b)};
}

/// From an anchor (first) to the dragged point (last), along the bones. Ends early at a pinned point, which holds
/// everything that hangs on it.
std::vector<std::size_t> limbTo(const Figure& figure, const Skeleton& skeleton, std::size_t point) {
  std::vector<std::size_t> limb{point};
  for (auto up = skeleton.parentOf(point); up && figure.points[*up].there(); up = skeleton.parentOf(*up)) {
    limb.push_back(*up);
    if (skeleton.points[*up].anchor || figure.points[*up].pinned) break;
  }
  std::reverse(limb.begin(), limb.end());
  return limb;
}

/// FABRIK on a chain whose first place is fixed: forward and backward reaching in turn.
void reach(std::vector<Point>& chain, std::vector<double> lengths, const std::vector<double>& natural, Point target) {
  const Point base = chain.front();
  const double wanted = distanceBetween(base, target);
  double now = 0, most = 0;
  for (std::size_t i = 0; i < lengths.size(); ++i) {
    now += lengths[i];
    most += natural[i];
  }
  const auto put = [](Point from, Point towards, double length) {
    const Point way = towards - from;
    const double distance = lengthOf(way);
    return distance > 1e-12 ? from + way * (length / distance) : from + Point{0, length};
  };
  if (wanted >= now) {
    // Straight towards it; foreshortened limbs come out of their foreshortening as far as is needed.
    const double share = most > now ? std::min(1.0, (wanted - now) / (most - now)) : 0;
    for (std::size_t i = 0; i + 1 < chain.size(); ++i)
      chain[i + 1] = put(chain[i], target, lengths[i] + share * (natural[i] - lengths[i]));
    return;
  }
  // A limb that is straight and must get shorter needs a side to bend to.
  if (chain.size() == 3) {
    const Point along = normalised(chain[2] - chain[0]);
    const double aside = along.x * (chain[1] - chain[0]).y - along.y * (chain[1] - chain[0]).x;
    if (std::abs(aside) < 1e-3 * lengths[0]) chain[1] = chain[1] + Point{-along.y, along.x} * (0.02 * lengths[0]);
  }
  for (int round = 0; round < 60; ++round) {
    chain.back() = target;
    for (std::size_t i = chain.size() - 1; i-- > 0;) chain[i] = put(chain[i + 1], chain[i], lengths[i]);
    chain.front() = base;
    for (std::size_t i = 0; i + 1 < chain.size(); ++i) chain[i + 1] = put(chain[i], chain[i + 1], lengths[i]);
    if (distanceBetween(chain.back(), target) < 0.01) break;
  }
}

/// Everything that hangs on `point` (but not itself) goes along when it moves.
void bringAlong(Figure& figure, const Figure& before, const Skeleton& skeleton, std::size_t point, Point turn,
                const std::set<std::size_t>& done) {
  const bool turns = skeleton.points[point].turnsChildren;
  const Point from = before.points[point].at, to = figure.points[point].at;
  for (const std::size_t i : skeleton.below(point)) {
    if (i == point || done.contains(i) || figure.points[i].pinned || !figure.points[i].placed()) continue;
    const Point off = before.points[i].at - from;
    figure.points[i].at = to + (turns ? rotatedBy(off, turn.x, turn.y) : off);
  }
}

/// Puts a limb's end at `target` as far as it goes, and brings along what hangs on its points.
void reachWith(Figure& figure, const Skeleton& skeleton, const std::vector<std::size_t>& limb, Point target) {
  if (limb.size() < 2) return;
  const Figure before = figure;
  std::vector<Point> chain;
  std::vector<double> lengths, natural;
  for (std::size_t i = 0; i < limb.size(); ++i) {
    chain.push_back(figure.points[limb[i]].at);
    if (i == 0) continue;
    lengths.push_back(distanceBetween(chain[i - 1], chain[i]));
    natural.push_back(figure.natural[static_cast<std::size_t>(skeleton.points[limb[i]].bone)]);
  }
  reach(chain, std::move(lengths), natural, target);
  const std::set<std::size_t> members(limb.begin(), limb.end());
  for (std::size_t i = 1; i < limb.size(); ++i) figure.points[limb[i]].at = chain[i];
  for (std::size_t i = 1; i < limb.size(); ++i)
    bringAlong(figure, before, skeleton, limb[i],
               turnBetween(before.points[limb[i]].at - before.points[limb[i - 1]].at, chain[i] - chain[i - 1]),
               members);
}

bool contains(const std::vector<std::size_t>& list, std::size_t point) {
  return std::find(list.begin(), list.end(), point) != list.end();
}

/// The whole figure goes along; feet and pins are put back to where they were, as far as the legs reach.
Figure carried(const Figure& start, const Skeleton& skeleton, Point by) {
  Figure out = moved(start, by);
  for (std::size_t i = 0; i < out.points.size(); ++i) {
    const bool planted = contains(skeleton.planted, i);
    if (!(planted || start.points[i].pinned) || !start.points[i].there()) continue;
    reachWith(out, skeleton, limbTo(out, skeleton, i), start.points[i].at);
  }
  return out;
}

/// The upper part turns about the middle of the hips with `point`, and goes along as that comes nearer or farther.
Figure swung(const Figure& start, const Skeleton& skeleton, std::size_t point, Point to) {
  const Point pivot = middleOf(start, skeleton.swungAbout).value_or(Point{});
  const Point turn = turnBetween(start.points[point].at - pivot, to - pivot);
  std::set<std::size_t> staying;
  for (const auto* list : {&skeleton.swungAbout, &skeleton.staying})
    for (const std::size_t i : *list) {
      staying.insert(i);
      // What hangs on it stays too, unless that is what is dragged.
      if (!contains(skeleton.below(i), point)) staying.insert(skeleton.below(i).begin(), skeleton.below(i).end());
    }
  Figure out = start;
  for (std::size_t i = 0; i < out.points.size(); ++i)
    if (!staying.contains(i) && start.points[i].placed())
      out.points[i].at = to + rotatedBy(start.points[i].at - start.points[point].at, turn.x, turn.y);
  return out;
}

Figure turned(const Figure& start, const Skeleton& skeleton, std::size_t point, Point to) {
  const auto hinge = skeleton.parentOf(point);
  if (!hinge || !start.points[*hinge].there()) return start;
  const Point about = start.points[*hinge].at;
  const Point turn = turnBetween(start.points[point].at - about, to - about);
  Figure out = start;
  for (const std::size_t i : skeleton.below(point))
    if (!start.points[i].pinned && start.points[i].placed())
      out.points[i].at = about + rotatedBy(start.points[i].at - about, turn.x, turn.y);
  return out;
}

}  // namespace

Figure withinLengths(Figure figure, const Figure& allowed, const std::set<std::size_t>& held) {
  const auto& bones = figure.kind().bones;
  for (std::size_t i = 0; i < figure.points.size(); ++i)
    if (figure.points[i].pinned) figure.points[i].at = allowed.points[i].at;
  const auto mobility = [&](std::size_t i) { return figure.points[i].pinned ? 0.0 : held.contains(i) ? 0.04 : 1.0; };
  for (int round = 0; round < mostRounds; ++round) {
    double worst = 0;
    for (std::size_t b = 0; b < bones.size(); ++b) {
      KeyPoint &from = figure.points[bones[b].from], &to = figure.points[bones[b].to];
      if (!from.there() || !to.there()) continue;
      const Point way = to.at - from.at;
      const double length = lengthOf(way), over = length - figure.natural[b];
      if (over <= 0) continue;
      worst = std::max(worst, over / figure.natural[b]);
      const double a = mobility(bones[b].from), c = mobility(bones[b].to);
      if (a + c <= 0) continue;
      const Point mend = way * (over / length / (a + c));
      from.at = from.at + mend * a;
      to.at = to.at - mend * c;
    }
    if (worst < closeEnough) break;
  }
  const double wrong = overlength(figure), was = overlength(allowed);
  constexpr double aim = 0.9 * lengthTolerance;
  if (wrong <= aim || was >= wrong) return wrong <= aim ? figure : allowed;
  const double share = std::clamp((aim - was) / (wrong - was), 0.0, 1.0);
  for (std::size_t i = 0; i < figure.points.size(); ++i)
    figure.points[i].at = allowed.points[i].at + (figure.points[i].at - allowed.points[i].at) * share;
  return figure;
}

Figure dragged(const Figure& start, std::size_t point, Point to, Drag how) {
  const Skeleton& skeleton = start.kind();
  const KeyPoint& key = start.points[point];
  if (!key.there() || key.pinned) return start;
  Figure out = start;
  if (how == Drag::turn) {
    out = turned(start, skeleton, point, to);
  } else if (how == Drag::alone) {
    out.points[point].at = to;
    // Everything else stays: the point goes as far as its bones let it.
    for (std::size_t i = 0; i < out.points.size(); ++i) out.points[i].pinned = i != point;
    out = withinLengths(std::move(out), start);
    for (std::size_t i = 0; i < out.points.size(); ++i) out.points[i].pinned = start.points[i].pinned;
  } else if (contains(skeleton.carried, point)) {
    out = carried(start, skeleton, to - key.at);
  } else if (contains(skeleton.swung, point)) {
    out = swung(start, skeleton, point, to);
  } else {
    const auto limb = limbTo(start, skeleton, point);
    if (limb.size() > 1)
      reachWith(out, skeleton, limb, to);
    else if (skeleton.parentOf(point))
      return draggedTogether(start, {point}, to - key.at);  // what it hangs on is absent
    else
      out = moved(start, to - key.at);
  }
  return withinLengths(std::move(out), start, {point});
}

Figure draggedTogether(const Figure& start, const std::set<std::size_t>& points, Point by) {
  const Skeleton& skeleton = start.kind();
  Figure out = start;
  std::set<std::size_t> moving;
  for (const std::size_t i : points)
    for (const std::size_t below : skeleton.below(i)) moving.insert(below);
  for (const std::size_t i : moving)
    if (!out.points[i].pinned && out.points[i].placed()) out.points[i].at = out.points[i].at + by;
  return withinLengths(std::move(out), start, points);
}

Figure relaxed(const Figure& figure) {
  const Skeleton& skeleton = figure.kind();
  Figure out = figure;
  const double size = sizeOf(figure);
  std::vector<double> goals;
  for (std::size_t b = 0; b < skeleton.bones.size(); ++b) {
    const Bone& bone = skeleton.bones[b];
    const double usual = size * bone.length;
    out.natural[b] = std::clamp(figure.natural[b], usual * bone.least, usual * bone.most * bone.reach);
    const bool limb = skeleton.isBody(bone.to) && !skeleton.points[bone.to].anchor && bone.length > limbLength;
    goals.push_back(limb ? out.natural[b] : std::min(lengthOf(figure, bone), out.natural[b]));
  }
  for (int round = 0; round < 4 * mostRounds; ++round) {
    double worst = 0;
    for (std::size_t b = 0; b < skeleton.bones.size(); ++b) {
      const Bone& bone = skeleton.bones[b];
      KeyPoint &from = out.points[bone.from], &to = out.points[bone.to];
      if (!from.there() || !to.there()) continue;
      Point way = to.at - from.at;
      double length = lengthOf(way);
      if (length < 1e-3) {
        // Nowhere to stretch to but down.
        way = {0, 1e-3};
        length = 1e-3;
      }
      worst = std::max(worst, std::abs(goals[b] - length) / out.natural[b]);
      const double a = from.pinned ? 0 : 1, c = to.pinned ? 0 : 1;
      if (a + c <= 0) continue;
      const Point mend = way * ((length - goals[b]) / length / (a + c));
      from.at = from.at + mend * a;
      to.at = to.at - mend * c;
    }
    if (worst < closeEnough) break;
  }
  // Pins may ask for what natural lengths cannot give: then the lengths they need are this figure's own.
  for (std::size_t b = 0; b < skeleton.bones.size(); ++b)
    if (out.points[skeleton.bones[b].from].there() && out.points[skeleton.bones[b].to].there())
      out.natural[b] = std::max(out.natural[b], lengthOf(out, skeleton.bones[b]) / (1 + 0.5 * lengthTolerance));
  return out;
}

}  // namespace hscaffold::pose
