#include <array>

#include "core/image/distance.h"
#include "core/strokes/trace.h"

namespace hscaffold {
namespace {

constexpr std::array<std::array<int, 2>, 8> eightAround = {
    {{1, 0}, {1, -1}, {0, -1}, {-1, -1}, {-1, 0}, {-1, 1}, {0, 1}, {1, 1}}};

struct Pixel {
  int x, y;
};

class Walker {
 public:
  Walker(View<std::uint8_t> skeleton, View<std::uint8_t> mask)
      : skeleton_(skeleton), node_(skeleton.width(), skeleton.height(), none), gone_(skeleton.size()) {
    Image<std::uint8_t> paper(mask.size());
    for (int y = 0; y < mask.height(); ++y)
      for (int x = 0; x < mask.width(); ++x) paper(x, y) = mask(x, y) != 0 ? 0 : 255;
    distance_ = distanceToSet(paper);
  }

  StrokeGraph graph(const StopToken& stop) {
    std::vector<Pixel> lines;  // what is neither end nor junction
    for (int y = 0; y < skeleton_.height(); ++y) {
      if (y % 64 == 0) throwIfStopped(stop);
      for (int x = 0; x < skeleton_.width(); ++x) {
        if (skeleton_(x, y) == 0 || node_(x, y) != none) continue;
        if (neighbours({x, y}) == 2)
          lines.push_back({x, y});
        else
          gather({x, y});
      }
    }
    for (const Pixel& p : nodePixels_) {
      if (neighbours(p) == 0) dot(p);
      for (const auto& [dx, dy] : eightAround) {
        const Pixel q{p.x + dx, p.y + dy};
        if (!isSet(q)) continue;
        if (node_(q.x, q.y) == none && gone_(q.x, q.y) == 0) follow(p, q);
        // Two ends side by side: a line of two pixels.
        if (node_(q.x, q.y) > node_(p.x, p.y)) direct(p, q);
      }
    }
    for (const Pixel& p : lines)
      if (gone_(p.x, p.y) == 0) loop(p);
    return std::move(out_);
  }

 private:
  static constexpr std::int32_t none = -1;
  [[nodiscard]] bool isSet(Pixel p) const {
    return p.x >= 0 && p.y >= 0 && p.x < skeleton_.width() && p.y < skeleton_.height() && skeleton_(p.x, p.y) != 0;
  }
  [[nodiscard]] int neighbours(Pixel p) const {
    int count = 0;
    for (const auto& [dx, dy] : eightAround) count += isSet({p.x + dx, p.y + dy}) ? 1 : 0;
    return count;
  }
  [[nodiscard]] StrokePlace placeOf(Pixel p) const {
    return {{p.x + 0.5, p.y + 0.5}, std::max(1.0, 2 * static_cast<double>(distance_(p.x, p.y)) - 1)};
  }
  [[nodiscard]] Point nodeAt(Pixel p) const { return out_.nodes[static_cast<std::size_t>(node_(p.x, p.y))]; }

  /// All junction pixels that touch each other are one node; an end is a node of its own.
  void gather(Pixel start) {
    const auto number = static_cast<std::int32_t>(out_.nodes.size());
    const bool junction = neighbours(start) > 2;
    std::vector<Pixel> open{start};
    node_(start.x, start.y) = number;
    Point sum;
    double count = 0;
    while (!open.empty()) {
      const Pixel p = open.back();
      open.pop_back();
      nodePixels_.push_back(p);
      sum = sum + placeOf(p).at;
      count += 1;
      for (const auto& [dx, dy] : eightAround) {
        const Pixel q{p.x + dx, p.y + dy};
        if (!junction || !isSet(q) || node_(q.x, q.y) != none || neighbours(q) < 3) continue;
        node_(q.x, q.y) = number;
        open.push_back(q);
      }
    }
    out_.nodes.push_back(sum * (1 / count));
  }

  void finish(Pixel from, Pixel to, Path path) {
    path.insert(path.begin(), {nodeAt(from), placeOf(from).width});
    path.push_back({nodeAt(to), placeOf(to).width});
    out_.edges.push_back({static_cast<std::size_t>(node_(from.x, from.y)), static_cast<std::size_t>(node_(to.x, to.y)),
                          std::move(path)});
  }
  void direct(Pixel a, Pixel b) { finish(a, b, {}); }
  void dot(Pixel p) {
    const auto node = static_cast<std::size_t>(node_(p.x, p.y));
    out_.edges.push_back({node, node, {placeOf(p)}});
  }

  void follow(Pixel node, Pixel first) {
    Path path;
    Pixel before = node, here = first;
    for (;;) {
      gone_(here.x, here.y) = 1;
      path.push_back(placeOf(here));
      Pixel next{-1, -1}, end{-1, -1};
      for (const auto& [dx, dy] : eightAround) {
        const Pixel q{here.x + dx, here.y + dy};
        if (!isSet(q) || (q.x == before.x && q.y == before.y)) continue;
        if (node_(q.x, q.y) != none)
          end = q;
        else if (gone_(q.x, q.y) == 0)
          next = q;
      }
      if (end.x >= 0) return finish(node, end, std::move(path));
      if (next.x < 0) {  // back at the only node it touches
        const Pixel home = node;
        return finish(node, home, std::move(path));
      }
      before = here;
      here = next;
    }
  }

  void loop(Pixel start) {
    const auto node = out_.nodes.size();
    out_.nodes.push_back(placeOf(start).at);
    Path path;
    Pixel here = start;
    for (bool on = true; on;) {
      gone_(here.x, here.y) = 1;
      path.push_back(placeOf(here));
      on = false;
      for (const auto& [dx, dy] : eightAround) {
        const Pixel q{here.x + dx, here.y + dy};
        if (!isSet(q) || gone_(q.x, q.y) != 0) continue;
        here = q;
        on = true;
        break;
      }
    }
    path.push_back(path.front());
    out_.edges.push_back({node, node, std::move(path)});
  }

  View<std::uint8_t> skeleton_;
  Image<float> distance_;
  Image<std::int32_t> node_;
  Image<std::uint8_t> gone_;
  std::vector<Pixel> nodePixels_;
  StrokeGraph out_;
};

}  // namespace

StrokeGraph strokeGraph(View<std::uint8_t> skeleton, View<std::uint8_t> mask, StopToken stop) {
  if (skeleton.empty()) return {};
  return Walker(skeleton, mask).graph(stop);
}

}  // namespace hscaffold
