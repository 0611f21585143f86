#include "core/engine/standin/assembly.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>
#include <vector>

#include "core/engine/standin/noise.h"
#include "core/image/components.h"
#include "core/image/distance.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

/// Guides that decide, the strongest first; bodies last, since they stand in front.
std::vector<std::size_t> inOrder(std::span<const Wanted> wanted, std::span<const LoadCurve> loads) {
  std::vector<std::size_t> order;
  for (std::size_t g = 0; g < wanted.size(); ++g)
    if (wanted[g].decided) order.push_back(g);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    if (wanted[a].bodies != wanted[b].bodies) return wanted[b].bodies;
    return loads[a].mean() > loads[b].mean();
  });
  return order;
}

/// A weaker guide's lines beside a stronger one's contradict them: there they break off.
void breakOff(Image<float>& lines, View<float> toStronger, float reach) {
  constexpr float same = 2.5f;  ///< pixels: the same line
  for (int y = 0; y < lines.height(); ++y)
    for (int x = 0; x < lines.width(); ++x)
      if (toStronger(x, y) > same && toStronger(x, y) < reach) lines(x, y) = 0;
}

/// Whether hardly anything of it lies on what is taken.
bool standsClear(const Standing& plan, View<std::uint8_t> taken) {
  constexpr int grid = 24;
  const auto height = static_cast<float>(taken.height());
  float all = 0, covered = 0;
  for (int j = 0; j < grid; ++j)
    for (int i = 0; i < grid; ++i) {
      const float x = plan.x + plan.height * ((static_cast<float>(i) + 0.5f) / grid - 0.5f),
                  y = plan.footY - plan.height * (1.05f - 1.1f * (static_cast<float>(j) + 0.5f) / grid);
      const float cover = sampleAlone(plan, x, y, 1 / height).cover;
      all += cover;
      if (taken.clamped(static_cast<int>(x * height), static_cast<int>(y * height)) != 0) covered += cover;
    }
  return covered <= 0.04f * all;
}

/// It at the nearest place where it stands clear; nothing if there is none.
std::optional<Standing> clearPlace(const Standing& plan, View<std::uint8_t> taken, double load) {
  const Size size = taken.size();
  const auto height = static_cast<double>(size.height);
  const auto room = distanceToSet(taken);
  const double farthest = static_cast<double>(std::max(size.width, size.height)) * (0.04 + 0.34 * (1 - load));
  const double x = static_cast<double>(plan.x) * height, foot = static_cast<double>(plan.footY) * height;
  constexpr int rings = 12, directions = 16;
  for (const double scale : {1.0, 0.85, 0.7})
    for (int ring = 0; ring <= rings; ++ring)
      for (int d = 0; d < (ring == 0 ? 1 : directions); ++d) {
        const double tall = scale * static_cast<double>(plan.height) * height;
        const double way = farthest * ring / rings, angle = 6.2831853 * d / directions;
        const double cx = x + way * std::cos(angle),
                     cy = foot - tall / 2 + 0.4 * way * std::max(-0.1, std::sin(angle));  // on the ground
        if (cx < tall / 4 || cx > size.width - tall / 4 || cy - tall / 2 < 0 || cy + tall / 2 > height) continue;
        if (static_cast<double>(room(static_cast<int>(cx), static_cast<int>(cy))) < 0.2 * tall) continue;
        Standing moved = plan;
        moved.x = static_cast<float>(cx / height);
        moved.footY = static_cast<float>((cy + tall / 2) / height);
        moved.height = static_cast<float>(tall / height);
        if (standsClear(moved, taken)) return moved;
      }
  return {};
}

/// It where it is, if nothing there is taken by guides. If it has to move, it moves where it could stay at any weight;
/// if there is no such place, then where it can stay now; else it is nowhere.
/// @param wanted  what guides have taken or would take at a stronger load
std::optional<Standing> placed(const Standing& plan, View<std::uint8_t> taken, View<std::uint8_t> wanted, double load) {
  if (standsClear(plan, taken)) return plan;
  const auto lasting = clearPlace(plan, wanted, load);
  return lasting ? lasting : clearPlace(plan, taken, load);
}

/// Whether a guide has taken something that hangs in the sky by itself.
bool hangsInTheSky(const Decided& decided, float horizon) {
  const auto& things = decided.fields.part(static_cast<std::size_t>(Part::subject));
  Image<std::uint8_t> mask(things.size());
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x) mask(x, y) = decided.where(x, y) > 0.5f && things(x, y) > 0.5f ? 255 : 0;
  const auto all = static_cast<double>(mask.size().area());
  const auto found = componentsOf(mask, Connected::four).all;
  return std::any_of(found.begin(), found.end(), [&](const Component& piece) {
    const double share = static_cast<double>(piece.area) / all;
    return share > 0.0004 && share < 0.05 &&
           static_cast<float>(piece.bottom) < 0.97f * horizon * static_cast<float>(mask.height());
  });
}

}  // namespace

Composition assembled(const Composition& place, std::span<const Wanted> wanted, std::span<const LoadCurve> loads) {
  const auto order = inOrder(wanted, loads);
  if (order.empty()) return withSubject(place, place.subject);
  const Size size = place.fields.size();
  const float reach = 0.02f * static_cast<float>(std::max(size.width, size.height));

  // What is taken by anybody, and by whom lines are drawn.
  Image<float> settled(size), lines(size);
  struct Share {
    const Decided* of;
    Image<float> where, lines;
    bool bodies;
  };
  std::vector<Share> parts;
  double load = 0, early = 0;
  for (const std::size_t g : order) {
    const Decided& decided = *wanted[g].decided;
    Share part{&decided, decided.where.clone(), decided.lines.clone(), wanted[g].bodies};
    load = std::max(load, std::min(1.0, loads[g].mean()));
    early = std::max({early, loads[g].at(settlingTime(0)), loads[g].at(settlingTime(0.2))});
    if (!parts.empty() && !part.bodies) {
      breakOff(part.lines, distanceToSet(above<float>(lines, 0.4f)), reach);
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) part.where(x, y) *= 1 - settled(x, y);
    }
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) {
        settled(x, y) = std::max(settled(x, y), part.where(x, y));
        lines(x, y) = std::max(lines(x, y), part.lines(x, y));
      }
    parts.push_back(std::move(part));
  }

  Image<std::uint8_t> taken(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) taken(x, y) = settled(x, y) > 0.5f || lines(x, y) > 0.4f ? 255 : 0;
  Image<std::uint8_t> asked = taken.clone();
  for (const Share& part : parts)
    if (!part.of->undrawn.empty())
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x)
          if (part.of->undrawn(x, y) > 0.5f) asked(x, y) = 255;
  SubjectPlan subject = place.subject;
  const bool bodies = std::any_of(parts.begin(), parts.end(), [](const Share& p) { return p.bodies; });
  const auto lives = [](SubjectKind kind) {
    return kind == SubjectKind::figure || kind == SubjectKind::animal || kind == SubjectKind::horse;
  };
  // Figures of a pose take the place of the prompt's own.
  if (bodies && lives(subject.kind)) subject.kind = SubjectKind::none;
  if (bodies) std::erase_if(subject.others, [&](const Standing& c) { return lives(c.kind); });
  // What a guide has in the sky is the kite or the bird that was asked for.
  const auto flies = [](const Standing& c) { return isInTheSky(c.kind); };
  const float horizon = place.horizon;
  if ((flies(subject) || std::any_of(subject.others.begin(), subject.others.end(), flies)) &&
      std::any_of(parts.begin(), parts.end(), [&](const Share& p) { return hangsInTheSky(*p.of, horizon); })) {
    if (flies(subject)) subject.kind = SubjectKind::none;
    std::erase_if(subject.others, flies);
  }
  // Guides that enter late find the subject where it stands: it stays, and their lines pass it by.
  const bool stays = early < 0.15;
  if (!stays && subject.kind != SubjectKind::none) {
    if (const auto found = placed(subject, taken, asked, load)) {
      // What stands about it goes with it.
      for (Standing& c : subject.others)
        if (!isInTheSky(c.kind)) {
          c.x += found->x - subject.x;
          c.footY += found->footY - subject.footY;
        }
      static_cast<Standing&>(subject) = *found;
    } else {
      subject.kind = SubjectKind::none;
    }
  }
  if (!stays) std::erase_if(subject.others, [&](const Standing& thing) { return !standsClear(thing, taken); });

  Composition out = withSubject(place, subject);
  if (stays)
    for (Share& part : parts)
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) part.lines(x, y) *= 1 - out.fields.part(4)(x, y);
  for (const Share& part : parts)
    parallelRows(size.height, [&](int first, int end) {
      for (int y = first; y < end; ++y)
        for (int x = 0; x < size.width; ++x) {
          const float where = part.where(x, y);
          if (where > 0)
            for (std::size_t i = 0; i < Fields::count; ++i)
              out.fields.all[i](x, y) = blend(out.fields.all[i](x, y), part.of->fields.all[i](x, y), where);
          if (!part.of->shade.empty()) out.fields.tone()(x, y) -= (1 - where) * part.of->shade(x, y);
          out.fields.line()(x, y) = std::max(out.fields.line()(x, y) * (1 - where), part.lines(x, y));
        }
    });
  return out;
}

std::optional<ThingPlace> largestThing(const Fields& fields) {
  constexpr double smallest = 0.008, largest = 0.45;  // of the frame
  const auto pieces =
      componentsOf(above<float>(fields.part(static_cast<std::size_t>(Part::subject)), 0.5f), Connected::four);
  const Size size = fields.size();
  const auto all = static_cast<double>(size.area());
  const Component* found = nullptr;
  for (const Component& piece : pieces.all) {
    const double share = static_cast<double>(piece.area) / all;
    if (share < smallest || share > largest) continue;
    if (found == nullptr || piece.area > found->area) found = &piece;
  }
  if (found == nullptr) return {};
  const auto which = static_cast<std::int32_t>(found - pieces.all.data());
  const int tall = found->bottom - found->top + 1;
  std::vector<double> wide(static_cast<std::size_t>(tall));
  for (int y = 0; y < tall; ++y)
    for (int x = found->left; x <= found->right; ++x)
      wide[static_cast<std::size_t>(y)] += pieces.label(x, found->top + y) == which;
  ThingPlace out{static_cast<float>(found->left) / static_cast<float>(size.width),
                 static_cast<float>(found->right + 1) / static_cast<float>(size.width),
                 static_cast<float>(found->top) / static_cast<float>(size.height),
                 static_cast<float>(found->bottom + 1) / static_cast<float>(size.height)};
  // Where the rows over a place are most of all wider than those under it.
  const int near = std::max(1, tall / 12);
  const double widest = *std::max_element(wide.begin(), wide.end());
  double most = 0.15 * widest;
  for (int y = std::max(near, tall / 8); y < std::min(tall - near, tall * 6 / 10); ++y) {
    double narrower = 0;
    for (int k = 0; k < near; ++k)
      narrower += (wide[static_cast<std::size_t>(y - 1 - k)] - wide[static_cast<std::size_t>(y + k)]) / near;
    if (narrower <= most) continue;
    most = narrower;
    out.upperEnds = static_cast<float>(y) / static_cast<float>(tall);
  }
  return out;
}

}  // namespace hscaffold::standin
