#include "core/engine/standin/subjects.h"

#include <algorithm>
#include <cmath>

#include "core/engine/standin/noise.h"

namespace hscaffold::standin {
namespace {

/// A piece of a subject: distance (negative inside) in subject heights, and its colour.
struct Piece {
  float distance = 1e3f;
  float accent = 0;
};

// Subject coordinates: foot at (0, 0), top at (0, 1), x to the side it faces.
float capsule(float x, float y, float ax, float ay, float bx, float by, float ra, float rb) {
  const float dx = bx - ax, dy = by - ay;
  const float t = std::clamp(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy), 0.0f, 1.0f);
  return std::hypot(x - ax - t * dx, y - ay - t * dy) - (ra + (rb - ra) * t);
}
float ellipse(float x, float y, float cx, float cy, float rx, float ry) {
  const float u = (x - cx) / rx, v = (y - cy) / ry;
  return (std::sqrt(u * u + v * v) - 1) * std::min(rx, ry);
}
float box(float x, float y, float cx, float cy, float hx, float hy) {
  const float u = std::abs(x - cx) - hx, v = std::abs(y - cy) - hy;
  return std::hypot(std::max(u, 0.0f), std::max(v, 0.0f)) + std::min(std::max(u, v), 0.0f);
}
/// Symmetric about cx; half widths at bottom and top.
float trapeze(float x, float y, float cx, float bottom, float top, float halfBottom, float halfTop) {
  const float t = (y - bottom) / (top - bottom);
  const float half = halfBottom + (halfTop - halfBottom) * std::clamp(t, 0.0f, 1.0f);
  return std::max(std::abs(x - cx) - half, std::max(bottom - y, y - top));
}

/// Painted over what is there, without growing the outline.
void over(Piece& piece, float distance, float accent) {
  if (distance < 0) piece.accent = accent;
  piece.distance = std::min(piece.distance, distance);
}

Piece subjectAt(SubjectKind kind, std::uint64_t seed, float x, float y) {
  Piece p;
  const auto vary = [&](std::uint64_t what, float amount) { return amount * signedUnit(mixed(seed, what)); };
  switch (kind) {
    case SubjectKind::none:
      break;
    case SubjectKind::figure: {
      const float stride = 0.10f + std::abs(vary(1, 0.08f)), arm = vary(2, 0.25f);
      over(p, capsule(x, y, -0.02f, 0.50f, -stride, 0.02f, 0.055f, 0.032f), -0.7f);
      over(p, capsule(x, y, 0.02f, 0.50f, stride, 0.02f, 0.055f, 0.032f), -0.5f);
      over(p, capsule(x, y, 0.0f, 0.52f, 0.02f, 0.78f, 0.095f, 0.08f), 0.0f);
      over(p, capsule(x, y, 0.03f, 0.77f, 0.18f, 0.70f + arm, 0.034f, 0.026f), -0.22f);
      over(p, capsule(x, y, -0.02f, 0.77f, -0.12f, 0.55f + 0.3f * std::abs(arm), 0.034f, 0.026f), 0.04f);
      over(p, ellipse(x, y, 0.035f, 0.915f, 0.058f, 0.075f), 0.6f);
      over(p, ellipse(x, y, 0.018f, 0.955f, 0.066f, 0.045f), -0.9f);
      break;
    }
    case SubjectKind::tower:
      over(p, trapeze(x, y, 0, 0, 0.80f, 0.115f, 0.075f), 0.15f);
      over(p, trapeze(x, y, 0, 0.26f, 0.42f, 0.098f, 0.092f), 0.9f);
      over(p, trapeze(x, y, 0, 0.58f, 0.70f, 0.086f, 0.081f), 0.9f);
      over(p, box(x, y, 0, 0.805f, 0.10f, 0.012f), -0.8f);
      over(p, box(x, y, 0, 0.865f, 0.055f, 0.055f), -0.3f);
      over(p, trapeze(x, y, 0, 0.915f, 1.0f, 0.075f, 0.0f), -0.9f);
      break;
    case SubjectKind::house:
      over(p, box(x, y, 0, 0.32f, 0.42f, 0.32f), 0.2f);
      over(p, trapeze(x, y, 0, 0.60f, 1.0f, 0.54f, 0.10f), -0.8f);
      over(p, box(x, y, -0.22f, 0.38f, 0.07f, 0.09f), -0.6f);
      over(p, box(x, y, 0.22f, 0.38f, 0.07f, 0.09f), 0.9f);
      over(p, box(x, y, 0.0f, 0.18f, 0.08f, 0.18f), -0.9f);
      break;
    case SubjectKind::tree: {
      over(p, capsule(x, y, 0, 0, 0.03f, 0.55f, 0.055f, 0.03f), 0.9f);
      for (std::uint64_t i = 0; i < 7; ++i) {
        const float cx = vary(10 + i, 0.24f), cy = 0.66f + vary(30 + i, 0.2f);
        over(p, ellipse(x, y, cx, cy, 0.20f, 0.15f) + 0.02f * valueNoise(seed, x * 30, y * 30),
             -0.3f + vary(50 + i, 0.3f));
      }
      break;
    }
    case SubjectKind::boat:
      over(p, std::max(ellipse(x, y, 0, 0.17f, 0.55f, 0.17f), y - 0.17f), -0.7f);
      over(p, capsule(x, y, 0.0f, 0.15f, 0.0f, 0.98f, 0.014f, 0.010f), -0.9f);
      over(p, std::max(std::max(0.02f - x, x - 0.42f * (1 - (y - 0.25f) / 0.7f)), std::max(0.25f - y, y - 0.95f)),
           0.8f);
      over(p, std::max(std::max(x + 0.02f, -x - 0.3f * (1 - (y - 0.25f) / 0.6f)), std::max(0.25f - y, y - 0.85f)),
           0.4f);
      break;
    case SubjectKind::animal:
      for (const float leg : {-0.42f, -0.30f, 0.22f, 0.34f})
        over(p, capsule(x, y, leg * 0.9f, 0.5f, leg, 0.02f, 0.06f, 0.03f), -0.5f);
      over(p, ellipse(x, y, -0.05f, 0.55f, 0.45f, 0.19f), 0.6f);
      over(p, capsule(x, y, -0.42f, 0.6f, -0.85f, 0.45f + vary(3, 0.3f), 0.07f, 0.10f), 0.4f);
      over(p, capsule(x, y, 0.33f, 0.62f, 0.48f, 0.80f, 0.13f, 0.11f), 0.7f);
      over(p, capsule(x, y, 0.48f, 0.80f, 0.68f, 0.74f, 0.10f, 0.035f), 0.3f);
      over(p, trapeze(x, y, 0.44f, 0.86f, 1.0f, 0.06f, 0.0f), -0.6f);
      over(p, trapeze(x, y, 0.55f, 0.85f, 0.98f, 0.05f, 0.0f), -0.6f);
      break;
    case SubjectKind::kite: {
      const float u = x * 0.86f + (y - 0.78f) * 0.5f, v = -x * 0.5f + (y - 0.78f) * 0.86f;
      over(p, capsule(x, y, -0.6f, 0.0f, -0.02f, 0.62f, 0.0022f, 0.0022f), -0.9f);
      over(p,
           std::abs(u) / 0.17f + std::abs(v) / 0.24f < 1 ? -0.03f
                                                         : 0.05f * (std::abs(u) / 0.17f + std::abs(v) / 0.24f - 1),
           u > 0 ? 0.9f : 0.3f);
      over(p, capsule(x, y, 0.10f, 0.56f, 0.22f, 0.34f, 0.014f, 0.006f), 0.6f);
      break;
    }
    case SubjectKind::bird: {
      const float flap = 0.84f + vary(1, 0.1f), tip = flap - 0.10f + vary(2, 0.05f);
      for (const float side : {-1.0f, 1.0f}) {
        over(p, capsule(x, y, 0.02f, 0.735f, side * 0.20f, flap, 0.038f, 0.026f), side > 0 ? 0.1f : -0.3f);
        over(p, capsule(x, y, side * 0.20f, flap, side * 0.44f, tip, 0.026f, 0.006f), -0.7f);
      }
      over(p, ellipse(x, y, 0.02f, 0.73f, 0.115f, 0.035f), 0.4f);
      over(p, capsule(x, y, -0.08f, 0.73f, -0.19f, 0.725f, 0.022f, 0.012f), -0.5f);
      over(p, capsule(x, y, 0.11f, 0.745f, 0.165f, 0.735f, 0.022f, 0.006f), -0.2f);
      break;
    }
    case SubjectKind::horse: {
      for (const float leg : {-0.36f, -0.26f, 0.24f, 0.33f}) {
        const float bent = vary(static_cast<std::uint64_t>(10 + 40 * std::abs(leg)), 0.07f);
        over(p, capsule(x, y, leg, 0.54f, leg + bent, 0.28f, 0.062f, 0.034f), -0.3f);
        over(p, capsule(x, y, leg + bent, 0.28f, leg - 0.3f * bent, 0.02f, 0.030f, 0.026f), -0.6f);
      }
      over(p, ellipse(x, y, -0.02f, 0.60f, 0.42f, 0.155f), 0.0f);
      over(p, ellipse(x, y, -0.28f, 0.62f, 0.16f, 0.16f), 0.0f);
      over(p, capsule(x, y, -0.42f, 0.70f, -0.54f, 0.34f, 0.035f, 0.065f), -0.9f);
      over(p, capsule(x, y, 0.27f, 0.66f, 0.46f, 0.92f, 0.125f, 0.070f), 0.0f);
      over(p, capsule(x, y, 0.26f, 0.82f, 0.42f, 0.98f, 0.032f, 0.026f), -0.9f);
      over(p, capsule(x, y, 0.47f, 0.93f, 0.65f, 0.80f, 0.070f, 0.042f), 0.02f);
      over(p, trapeze(x, y, 0.43f, 0.95f, 1.0f, 0.03f, 0.0f), -0.5f);
      break;
    }
    case SubjectKind::balloon: {
      over(p, capsule(x, y, -0.05f, 0.20f, -0.10f, 0.42f, 0.004f, 0.004f), -0.9f);
      over(p, capsule(x, y, 0.05f, 0.20f, 0.10f, 0.42f, 0.004f, 0.004f), -0.9f);
      over(p, box(x, y, 0, 0.15f, 0.055f, 0.045f), -0.8f);
      // Gores, narrower towards the rim.
      const float across = std::asin(
          std::clamp(x / (0.30f * std::sqrt(std::max(0.04f, 1 - (y - 0.68f) * (y - 0.68f) / 0.11f))), -1.0f, 1.0f));
      const float gore = std::sin(across * 5);
      over(p, ellipse(x, y, 0, 0.68f, 0.30f, 0.32f), gore > 0 ? 0.7f : -0.1f);
      over(p, trapeze(x, y, 0, 0.36f, 0.50f, 0.09f, 0.23f), gore > 0 ? 0.7f : -0.1f);
      break;
    }
    case SubjectKind::arch:
      over(p,
           std::max(box(x, y, 0, 0.45f, 0.5f, 0.45f),
                    -std::min(ellipse(x, y, 0, 0.42f, 0.28f, 0.30f), box(x, y, 0, 0.2f, 0.28f, 0.22f))),
           0.1f);
      over(p, box(x, y, 0, 0.93f, 0.56f, 0.06f), -0.6f);
      break;
    case SubjectKind::flower: {
      over(p, capsule(x, y, 0, 0, 0.04f, 0.7f, 0.02f, 0.016f), 0.9f);
      over(p, ellipse(x, y, -0.12f, 0.36f, 0.13f, 0.05f), 0.8f);
      for (int i = 0; i < 7; ++i) {
        const float angle = static_cast<float>(i) * 0.8976f + vary(1, 1);
        over(p, ellipse(x, y, 0.04f + 0.15f * std::cos(angle), 0.8f + 0.15f * std::sin(angle), 0.10f, 0.10f),
             i % 2 == 0 ? 0.0f : -0.35f);
      }
      over(p, ellipse(x, y, 0.04f, 0.8f, 0.07f, 0.07f), -0.95f);
      break;
    }
    case SubjectKind::rock: {
      const float rough = 0.10f * fractalNoise(seed, x * 4, y * 4, 3);
      over(p, ellipse(x, y, vary(1, 0.1f), 0.40f, 0.45f + vary(2, 0.1f), 0.58f) + rough,
           0.4f * fractalNoise(seed + 4, x * 2, y * 2, 2));
      over(p, ellipse(x, y, 0.5f + vary(3, 0.15f), 0.16f, 0.28f, 0.28f) + rough, -0.4f);
      break;
    }
  }
  return p;
}

void sampleOne(const Standing& at, float x, float y, float pixel, SubjectSample& sample) {
  if (at.kind == SubjectKind::none) return;
  const auto local = [&](float px, float py) {
    const float ly = (at.footY - py) / at.height;
    float lx = (px - at.x) / at.height - at.lean * ly;
    if (at.facesLeft) lx = -lx;
    return subjectAt(at.kind, at.seed, lx, ly);
  };
  if (std::abs(x - at.x) > 1.3f * at.height || y > at.footY + 0.3f * at.height || y < at.footY - 1.3f * at.height)
    return;
  const Piece piece = local(x, y);
  const float soft = 1.5f * pixel / at.height;
  const float cover = 1 - smoothStep(-soft, soft, piece.distance);
  sample.outline = std::max(sample.outline, 1 - smoothStep(0.5f * soft, 2.2f * soft, std::abs(piece.distance)));
  if (cover <= 0) return;
  sample.cover = std::max(sample.cover, cover);
  sample.accent = piece.accent;
  // Rounded towards its borders: the distance's slope there, facing forward in the middle.
  const float step = 0.012f * at.height;
  const float gx = local(x + step, y).distance - local(x - step, y).distance;
  const float gy = local(x, y + step).distance - local(x, y - step).distance;
  const float length = std::max(1e-6f, std::hypot(gx, gy));
  const float side = std::clamp(1 + piece.distance / 0.10f, 0.0f, 1.0f);
  sample.normalX = gx / length * side;
  sample.normalY = gy / length * side;
  sample.facing = 1 - side;
}

SubjectKind kindFor(Trait trait) {
  return static_cast<SubjectKind>(static_cast<int>(SubjectKind::figure) + static_cast<int>(trait) -
                                  static_cast<int>(Trait::figure));
}

float usualHeight(SubjectKind kind) {
  switch (kind) {
    case SubjectKind::tower:
      return 0.62f;
    case SubjectKind::tree:
      return 0.55f;
    case SubjectKind::figure:
      return 0.46f;
    case SubjectKind::house:
      return 0.36f;
    case SubjectKind::animal:
      return 0.26f;
    case SubjectKind::kite:
      return 0.5f;
    case SubjectKind::bird:
      return 0.34f;
    case SubjectKind::horse:
      return 0.38f;
    case SubjectKind::balloon:
      return 0.42f;
    case SubjectKind::arch:
      return 0.5f;
    case SubjectKind::boat:
      return 0.42f;
    case SubjectKind::flower:
      return 0.5f;
    default:
      return 0.26f;
  }
}

/// What is asked for most, first; what is hardly asked for is left out. What flies belongs in the sky, behind whatever
/// else there is.
std::vector<Thing> foremostFirst(const Wishes& wishes) {
  std::vector<Thing> things;
  std::vector<int> index;
  for (std::size_t i = 0; i < wishes.things.size(); ++i)
    if (wishes[wishes.things[i].trait] > 0.25f) index.push_back(static_cast<int>(i));
  std::stable_sort(index.begin(), index.end(), [&](int a, int b) {
    const Trait left = wishes.things[static_cast<std::size_t>(a)].trait,
                right = wishes.things[static_cast<std::size_t>(b)].trait;
    const bool leftFlies = isInTheSky(kindFor(left)), rightFlies = isInTheSky(kindFor(right));
    if (leftFlies != rightFlies) return rightFlies;
    return wishes[left] > wishes[right];
  });
  for (const int i : index) {
    things.push_back(wishes.things[static_cast<std::size_t>(i)]);
    const auto to = std::find(index.begin(), index.end(), things.back().to);
    things.back().to = to != index.end() ? static_cast<int>(to - index.begin()) : -1;
  }
  return things;
}

Relation turnedRound(Relation relation) {
  switch (relation) {
    case Relation::behind:
      return Relation::before;
    case Relation::before:
      return Relation::behind;
    case Relation::under:
      return Relation::over;
    case Relation::over:
      return Relation::under;
    default:
      return relation;
  }
}

float halfWidth(SubjectKind kind, float height) {
  switch (kind) {
    case SubjectKind::tower:
    case SubjectKind::figure:
    case SubjectKind::flower:
      return 0.22f * height;
    case SubjectKind::animal:
    case SubjectKind::horse:
    case SubjectKind::house:
    case SubjectKind::boat:
    case SubjectKind::rock:
      return 0.7f * height;
    default:
      return 0.45f * height;
  }
}

/// How tall things are beside each other, drawn together: a tower that is thirty times a fox would leave no fox.
float heightBeside(SubjectKind main, float height, SubjectKind kind) {
  const auto metres = [](SubjectKind which) {
    switch (which) {
      case SubjectKind::figure:
        return 1.7f;
      case SubjectKind::animal:
        return 0.9f;
      case SubjectKind::horse:
        return 1.9f;
      case SubjectKind::balloon:
        return 16.0f;
      case SubjectKind::tower:
        return 20.0f;
      case SubjectKind::tree:
        return 8.0f;
      case SubjectKind::house:
      case SubjectKind::boat:
      case SubjectKind::arch:
        return 5.0f;
      case SubjectKind::flower:
        return 0.6f;
      default:
        return 1.6f;
    }
  };
  const float ratio = metres(kind) / metres(main);
  return std::clamp(height * std::pow(ratio, ratio < 1 ? 0.75f : 0.45f), 0.12f, 0.66f);
}

/// Where something stands that stands so to the main one.
Standing companionOf(const SubjectPlan& main, SubjectKind kind, Relation relation, float aspect, float horizon,
                     bool left) {
  Standing c;
  c.kind = kind;
  c.height = 0.6f * usualHeight(kind);
  c.x = aspect * (left ? 0.74f : 0.24f);
  c.footY = horizon + 0.07f;
  c.facesLeft = !main.facesLeft;
  const float away = left ? 1.0f : -1.0f;
  switch (relation) {
    case Relation::behind:
      c.height = 0.8f * heightBeside(main.kind, main.height, kind);
      c.x = main.x + away * 0.7f * (halfWidth(main.kind, main.height) + halfWidth(kind, c.height));
      c.footY = std::max(horizon + 0.04f, main.footY - 0.13f);
      break;
    case Relation::before:
      c.height = std::min(1.1f * heightBeside(main.kind, main.height, kind), 0.7f * main.height);
      c.x = main.x - away * 0.6f * halfWidth(main.kind, main.height);
      c.footY = std::min(0.97f, main.footY + 0.09f);
      c.inFront = true;
      break;
    case Relation::beside:
      c.height = heightBeside(main.kind, main.height, kind);
      c.x = main.x + away * 1.15f * (halfWidth(main.kind, main.height) + halfWidth(kind, c.height));
      c.footY = main.footY + 0.01f;
      break;
    case Relation::over:
      if (kind == SubjectKind::arch || kind == SubjectKind::tree || kind == SubjectKind::house) {
        // It spans what is under it.
        c.height = std::clamp(1.7f * main.height, 0.3f, 0.75f);
        c.x = main.x;
        c.footY = std::max(main.footY - 0.02f, 0.04f + c.height);
        break;
      }
      c.height = 0.32f;
      c.x = main.x + away * 0.08f;
      c.footY = std::max(0.06f + c.height, main.footY - main.height - 0.03f);
      break;
    case Relation::under:
      c.height = std::min(heightBeside(main.kind, main.height, kind), 0.45f * main.height);
      c.x = main.x;
      c.footY = std::min(0.97f, main.footY + 0.02f);
      c.inFront = true;
      break;
    case Relation::none:
      if (isInTheSky(kind)) {
        c.height = kind == SubjectKind::bird ? 0.2f : 0.34f;
        c.footY = 0.62f * horizon + 0.12f;
      }
      break;
  }
  c.x = std::clamp(c.x, 0.4f * halfWidth(kind, c.height), aspect - 0.4f * halfWidth(kind, c.height));
  return c;
}

/// More of one kind: a loose row to both sides, each a little different, smaller the farther.
void addRow(std::vector<Standing>& others, const Standing& first, int count, float aspect, std::uint64_t seed) {
  for (int i = 1; i < count; ++i) {
    const auto n = static_cast<std::uint64_t>(i);
    Standing c = first;
    c.seed = mixed(seed, n, 81);
    const float side = (i % 2 == 1) == (first.x < aspect / 2) ? 1.0f : -1.0f;
    const float rank = static_cast<float>((i + 1) / 2);
    c.height *= 1 - 0.09f * rank + 0.10f * signedUnit(mixed(c.seed, 1));
    c.x += side * rank * (1.9f * halfWidth(c.kind, c.height) + 0.03f) + 0.03f * signedUnit(mixed(c.seed, 2));
    c.footY -= 0.025f * rank;
    if (isInTheSky(c.kind)) c.footY += 0.12f * signedUnit(mixed(c.seed, 3));
    c.facesLeft = unit(mixed(c.seed, 4)) < 0.3f ? !first.facesLeft : first.facesLeft;
    if (c.x > 0 && c.x < aspect) others.push_back(c);
  }
}

}  // namespace

SubjectPlan planSubject(const Wishes& wishes, std::uint64_t seed, float aspect, float horizon, float groundTop) {
  constexpr std::size_t mostKinds = 5;
  SubjectPlan plan;
  plan.seed = seed;
  const auto things = foremostFirst(wishes);
  if (!things.empty()) {
    plan.kind = kindFor(things.front().trait);
  } else {
    constexpr SubjectKind anything[] = {SubjectKind::rock, SubjectKind::tree, SubjectKind::house, SubjectKind::rock,
                                        SubjectKind::boat};
    plan.kind =
        wishes[Trait::town] > 0.3f || wishes[Trait::room] > 0.3f ? SubjectKind::house : anything[mixed(seed, 9) % 5];
  }
  const bool left = unit(mixed(seed, 1)) < 0.5f;
  plan.x = aspect * ((left ? 0.34f : 0.66f) + 0.06f * signedUnit(mixed(seed, 2)));
  plan.height = usualHeight(plan.kind) * (0.85f + 0.35f * unit(mixed(seed, 3)));
  plan.footY = std::min(0.95f, std::max(groundTop, horizon + 0.12f) + 0.10f * unit(mixed(seed, 4)));
  if (isInTheSky(plan.kind)) plan.footY = std::max(horizon + 0.12f, 1.04f * plan.height);
  plan.facesLeft = !left;
  plan.lean =
      (plan.facesLeft ? -1.0f : 1.0f) * (0.12f * std::max(0.0f, wishes[Trait::wind]) + 0.04f * unit(mixed(seed, 5)));
  if (plan.kind == SubjectKind::tower || plan.kind == SubjectKind::house || plan.kind == SubjectKind::arch)
    plan.lean = 0;
  const auto some = [&](int count, std::size_t i) {
    return count > 0 ? count : 2 + static_cast<int>(mixed(seed, 70 + i) % 2);
  };
  int standing = 0;
  for (std::size_t i = 1; i < std::min(things.size(), mostKinds); ++i) {
    Relation relation = things[i].relation;
    if (relation == Relation::none && things[0].to == static_cast<int>(i)) relation = turnedRound(things[0].relation);
    // "A woman and a dog in front of a house": they stand together, and the house behind them.
    if (relation == Relation::before && things[i].to > 0) relation = Relation::beside;
    const bool backdrop = std::any_of(things.begin() + 1, things.end(), [&](const Thing& other) {
      return other.relation == Relation::before && other.to == static_cast<int>(i);
    });
    if (relation == Relation::none && backdrop) relation = Relation::behind;
    // What flies keeps its side of the sky, whatever else comes.
    const bool flies = isInTheSky(kindFor(things[i].trait));
    const bool side = flies || standing++ % 2 == 0 ? left : !left;
    Standing c = companionOf(plan, kindFor(things[i].trait), relation, aspect, horizon, side);
    c.seed = mixed(seed, 5 * static_cast<std::uint64_t>(things[i].trait));
    addRow(plan.others, c, some(things[i].count, i), aspect, mixed(seed, 90 + i));
    plan.others.push_back(c);
  }
  if (const int count = things.empty() ? 1 : some(things[0].count, 0); count > 1) {
    // Many share the room.
    plan.height *= count > 2 ? 0.72f : 0.85f;
    Standing next = plan;
    next.height *= 0.88f;
    addRow(plan.others, next, count, aspect, mixed(seed, 90));
  }
  std::stable_sort(plan.others.begin(), plan.others.end(),
                   [](const Standing& a, const Standing& b) { return a.footY < b.footY; });
  return plan;
}

SubjectSample sampleAlone(const Standing& thing, float x, float y, float pixel) {
  SubjectSample sample;
  sampleOne(thing, x, y, pixel, sample);
  return sample;
}

SubjectSample sampleSubject(const SubjectPlan& plan, float x, float y, float pixel) {
  SubjectSample sample;
  const auto others = [&](bool inFront) {
    for (const Standing& thing : plan.others)
      if (thing.inFront == inFront) sampleOne(thing, x, y, pixel, sample);
  };
  others(false);
  sampleOne(plan, x, y, pixel, sample);
  others(true);
  return sample;
}

float sampleShadow(const SubjectPlan& plan, float x, float y, float lightX, float pixel) {
  SubjectSample thrown;
  const auto throwOne = [&](const Standing& thing) {
    // The silhouette laid down behind its foot, away from the light.
    const float along = y - thing.footY;
    if (along > 0 && !isInTheSky(thing.kind))
      sampleOne(thing, x + along * lightX * 1.8f, thing.footY - along * 1.3f, 4 * pixel, thrown);
  };
  for (const Standing& thing : plan.others) throwOne(thing);
  throwOne(plan);
  return thrown.cover;
}

}  // namespace hscaffold::standin
