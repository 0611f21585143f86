#include "core/stage/lines.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <tuple>

#include "core/image/parallel.h"
#include "core/stage/contacts.h"
#include "core/stage/rays.h"
#include "core/stage/scene.h"

namespace hscaffold::stage {
namespace {

constexpr float radian = pi / 180;
/// Points of one mesh nearer than that are one.
constexpr float welded = 1e-4f;

/// An edge of a mesh that may be drawn, by welded points.
struct Edge {
  SeenLine::Of of = SeenLine::Of::outline;
  std::uint16_t object = 0;
  std::uint32_t a = 0, b = 0;  ///< among all welded points
  Vec3 from, to;
};

/// Points of a mesh that lie on each other have one name. @return names, and where each name is
std::pair<std::vector<std::uint32_t>, std::vector<Vec3>> weld(const Mesh& mesh) {
  struct Place {
    std::array<std::int64_t, 3> cell;
    std::uint32_t point;
  };
  std::vector<Place> places;
  places.reserve(mesh.at.size());
  for (std::uint32_t i = 0; i < mesh.at.size(); ++i) {
    const Vec3 p = mesh.at[i] / welded;
    places.push_back({{std::llround(p.x()), std::llround(p.y()), std::llround(p.z())}, i});
  }
  std::sort(places.begin(), places.end(),
            [](const Place& a, const Place& b) { return std::tie(a.cell, a.point) < std::tie(b.cell, b.point); });
  std::pair<std::vector<std::uint32_t>, std::vector<Vec3>> out{std::vector<std::uint32_t>(mesh.at.size()), {}};
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (i == 0 || places[i].cell != places[i - 1].cell) out.second.push_back(mesh.at[places[i].point]);
    out.first[places[i].point] = static_cast<std::uint32_t>(out.second.size() - 1);
  }
  return out;
}

/// One side of an edge: a face whose rim it is.
struct Side {
  std::uint32_t a, b, face;
  [[nodiscard]] std::pair<std::uint32_t, std::uint32_t> ends() const { return {a, b}; }
};

/// By their ends, then by face: shared out by the first end, of which each has only a few.
void sortByEnds(std::vector<Side>& sides, std::size_t points) {
  std::vector<std::uint32_t> first(points + 1);
  for (const Side& side : sides) ++first[side.a + 1];
  for (std::size_t i = 0; i < points; ++i) first[i + 1] += first[i];
  std::vector<Side> sorted(sides.size());
  auto next = first;
  for (const Side& side : sides) sorted[next[side.a]++] = side;
  for (std::size_t i = 0; i < points; ++i)
    std::sort(sorted.begin() + first[i], sorted.begin() + first[i + 1],
              [](const Side& a, const Side& b) { return std::tie(a.b, a.face) < std::tie(b.b, b.face); });
  sides = std::move(sorted);
}

/// Edges of one mesh; their ends are named from 0 on. @return how many names there are
std::uint32_t addEdges(const Mesh& mesh, const Camera& camera, const LineAsk& ask, std::vector<Edge>& out) {
  const auto [name, at] = weld(mesh);
  std::vector<Vec3> normals(mesh.faces.size());
  std::vector<bool> front(mesh.faces.size());
  std::vector<Side> sides;
  sides.reserve(3 * mesh.faces.size());
  for (std::uint32_t f = 0; f < mesh.faces.size(); ++f) {
    const auto& face = mesh.faces[f];
    const std::array corner = {name[face[0]], name[face[1]], name[face[2]]};
    const Vec3 normal = (at[corner[1]] - at[corner[0]]).cross(at[corner[2]] - at[corner[0]]);
    if (normal.norm() < 1e-12f) continue;
    normals[f] = normal.normalized();
    front[f] = normal.dot(at[corner[0]] - camera.eye) < 0;
    for (std::size_t i = 0; i < 3; ++i) {
      const auto [a, b] = std::minmax({corner[i], corner[(i + 1) % 3]});
      if (a != b) sides.push_back({a, b, f});
    }
  }
  sortByEnds(sides, at.size());
  std::vector<std::pair<std::uint32_t, std::uint32_t>> drawn;
  if (ask.creases)
    for (const auto& [a, b] : mesh.drawn) drawn.emplace_back(std::minmax({name[a], name[b]}));
  std::sort(drawn.begin(), drawn.end());
  const float sharp = std::cos(ask.crease * radian);
  for (std::size_t i = 0, next = 0; i < sides.size(); i = next) {
    while (next < sides.size() && sides[next].ends() == sides[i].ends()) ++next;
    auto of = SeenLine::Of::border;
    if (next - i == 2) {
      const std::uint32_t one = sides[i].face, other = sides[i + 1].face;
      if (front[one] != front[other])
        of = SeenLine::Of::outline;
      else if ((ask.creases && !mesh.material.grown && normals[one].dot(normals[other]) < sharp) ||
               std::binary_search(drawn.begin(), drawn.end(), sides[i].ends()))
        of = SeenLine::Of::crease;
      else
        continue;
    } else if (next - i > 2) {
      of = SeenLine::Of::crease;
      if (!ask.creases) continue;
    }
    const auto [a, b] = sides[i].ends();
    out.push_back({of, mesh.object, a, b, at[a], at[b]});
  }
  return static_cast<std::uint32_t>(at.size());
}

/// Where things run into each other, as edges. @param names  that points have already
void addContacts(std::span<const Mesh> meshes, std::uint32_t names, std::vector<Edge>& out, const StopToken& stop) {
  std::vector<const Mesh*> things;
  const float groundHeight = 0;
  const float* ground = nullptr;
  for (const Mesh& mesh : meshes)
    if (mesh.object == groundObject)
      ground = &groundHeight;
    else
      things.push_back(&mesh);
  std::map<std::array<float, 3>, std::uint32_t> known;
  const auto nameOf = [&](const Vec3& p) {
    return known.try_emplace({p.x(), p.y(), p.z()}, names + static_cast<std::uint32_t>(known.size())).first->second;
  };
  for (const Contact& contact : contactsOf(things, ground, stop))
    out.push_back(
        {SeenLine::Of::contact, contact.object, nameOf(contact.from), nameOf(contact.to), contact.from, contact.to});
}

/// A part of an edge that is seen, from `start` to `end` of it.
struct Part {
  const Edge* edge = nullptr;
  float start = 0, end = 1;
  Point from, to;
  float far = 1;
};

class Seeing {
 public:
  Seeing(std::span<const Mesh> meshes, const Camera& camera, View<float> fine)
      : rays_(meshes), nearest_(fine), camera_(camera) {}

  /// Before the eye, both ends; empty if all of it lies behind.
  [[nodiscard]] bool cut(Vec3& from, Vec3& to, float& start, float& end) const {
    constexpr float nearest = Camera::nearest;
    const auto far = [&](const Vec3& p) { return -camera_.look.row(2).dot(p - camera_.eye); };
    const float a = far(from), b = far(to);
    if (a < nearest && b < nearest) return false;
    const Vec3 whole = to - from;
    const Vec3 begin = from;
    if (a < nearest) start = (nearest - a) / (b - a), from = begin + whole * start;
    if (b < nearest) end = (nearest - a) / (b - a), to = begin + whole * end;
    return true;
  }

  void partsOf(const Edge& edge, std::vector<Part>& out) const {
    Vec3 from = edge.from, to = edge.to;
    float start = 0, end = 1;
    if (!cut(from, to, start, end)) return;
    const auto a = camera_.seen(from), b = camera_.seen(to);
    const auto width = static_cast<float>(camera_.size.width), height = static_cast<float>(camera_.size.height);
    constexpr float rim = 8;  // pixels beyond the frame
    if (std::max(a.x, b.x) < -rim || std::min(a.x, b.x) > width + rim || std::max(a.y, b.y) < -rim ||
        std::min(a.y, b.y) > height + rim)
      return;
    const float length = std::hypot(b.x - a.x, b.y - a.y);
    constexpr int most = 4000;
    const int steps = std::clamp(static_cast<int>(std::ceil(length / 0.75f)), 1, most);
    // Even in the picture, so not in space.
    const auto inSpace = [&](float share) {
      const float over = (1 - share) / a.far + share / b.far;
      return share / b.far / over;
    };
    int begun = -1;
    const auto put = [&](int first, int last) {
      const float s = static_cast<float>(first) / static_cast<float>(steps),
                  e = static_cast<float>(last) / static_cast<float>(steps);
      const auto place = [&](float share) {
        return Point{static_cast<double>(a.x + share * (b.x - a.x)), static_cast<double>(a.y + share * (b.y - a.y))};
      };
      out.push_back({&edge, start + (end - start) * inSpace(s), start + (end - start) * inSpace(e), place(s), place(e),
                     0.5f * (a.far + b.far)});
      // An end is an end only where the edge's own is.
      if (first > 0 || start > 0) out.back().start = std::max(out.back().start, 1e-6f);
      if (last < steps || end < 1) out.back().end = std::min(out.back().end, 1 - 1e-6f);
    };
    Known known;
    for (int i = 0; i < steps; ++i) {
      const float share = (static_cast<float>(i) + 0.5f) / static_cast<float>(steps);
      const bool seen =
          isSeen(known, a.x + share * (b.x - a.x), a.y + share * (b.y - a.y), (1 - share) / a.far + share / b.far,
                 [&] { return from + (to - from) * inSpace(share); });
      if (seen && begun < 0) begun = i;
      if (!seen && begun >= 0) put(begun, i), begun = -1;
    }
    if (begun >= 0) put(begun, steps);
  }

 private:
  /// What a ray has said of a place, and what was nearest round it: a little further on the same is true while nothing
  /// nearer comes into view.
  struct Known {
    float nearest = 0;  ///< 1 / metres; 0: nothing is known
    int since = 0;
  };

  /// By samples where all of them round a place agree; by a ray elsewhere.
  /// @param over  1 / metres of the place @param place  in space
  template <typename Place>
  [[nodiscard]] bool isSeen(Known& known, float x, float y, float over, Place&& place) const {
    constexpr int about = 2;  // samples to each side: a pixel
    const int column = static_cast<int>(std::floor(2 * x)), row = static_cast<int>(std::floor(2 * y));
    if (column < about || row < about || column >= nearest_.width() - about || row >= nearest_.height() - about)
      return rayArrives(place());
    float most = 0, least = std::numeric_limits<float>::max();
    for (int j = -about; j <= about; ++j)
      for (const float near : nearest_.line(row + j).subspan(static_cast<std::size_t>(column - about), 2 * about + 1)) {
        least = std::min(least, near);
        most = std::max(most, near);
      }
    constexpr float same = 1.0002f, before = 1.03f, on = 1.002f;
    if (most <= same * over) return true;
    if (least > before * over) return false;
    constexpr int longest = 3;
    if (known.nearest > 0 && known.since < longest && most <= on * known.nearest) return ++known.since, true;
    const bool arrives = rayArrives(place());
    known = {arrives ? most : 0.0f, 0};
    return arrives;
  }

  [[nodiscard]] bool rayArrives(const Vec3& at) const {
    const Vec3 way = at - camera_.eye;
    // Just before it: what it lies on itself is no hindrance.
    constexpr float before = 0.003f;  // metres
    return !rays_.blocked(camera_.eye, way, 1 - std::max(2e-4f, before / way.norm()));
  }

  Rays rays_;
  View<float> nearest_;  ///< two samples along each side of a pixel
  const Camera& camera_;
};

/// Parts that share an end of their edges, and go on there without turning back, become one line.
std::vector<SeenLine> chained(const std::vector<Part>& parts) {
  struct End {
    std::size_t part;
    bool last;
  };
  struct Meeting {
    std::uint32_t point;
    End end;
  };
  std::vector<Meeting> meetings;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    if (parts[i].start <= 0) meetings.push_back({parts[i].edge->a, {i, false}});
    if (parts[i].end >= 1) meetings.push_back({parts[i].edge->b, {i, true}});
  }
  std::stable_sort(meetings.begin(), meetings.end(),
                   [](const Meeting& a, const Meeting& b) { return a.point < b.point; });
  const auto wayOut = [&](const End& end) {
    const Part& part = parts[end.part];
    const Point way = end.last ? part.from - part.to : part.to - part.from;  // from the shared point
    const double length = std::hypot(way.x, way.y);
    return length > 0 ? way * (1 / length) : Point{};
  };
  // Who goes on with whom: the straightest pair at each point first.
  std::vector<std::array<std::optional<End>, 2>> next(parts.size());
  std::vector<End> ends;
  for (std::size_t m = 0; m < meetings.size();) {
    ends.clear();
    for (const std::uint32_t point = meetings[m].point; m < meetings.size() && meetings[m].point == point; ++m)
      ends.push_back(meetings[m].end);
    if (ends.size() < 2) continue;
    std::vector<std::tuple<double, std::size_t, std::size_t>> pairs;
    for (std::size_t i = 0; i < ends.size(); ++i)
      for (std::size_t j = i + 1; j < ends.size(); ++j) {
        if (ends[i].part == ends[j].part) continue;
        const Point p = wayOut(ends[i]), q = wayOut(ends[j]);
        const double straight = p.x * q.x + p.y * q.y;  // -1: straight on
        constexpr double turnsBack = 0.2;
        if (straight < turnsBack) pairs.emplace_back(straight, i, j);
      }
    std::sort(pairs.begin(), pairs.end());
    std::vector<bool> taken(ends.size());
    for (const auto& [straight, i, j] : pairs) {
      if (taken[i] || taken[j]) continue;
      taken[i] = taken[j] = true;
      next[ends[i].part][ends[i].last ? 1 : 0] = ends[j];
      next[ends[j].part][ends[j].last ? 1 : 0] = ends[i];
    }
  }
  std::vector<bool> done(parts.size());
  std::vector<SeenLine> out;
  for (std::size_t first = 0; first < parts.size(); ++first) {
    if (done[first]) continue;
    // Back to where the chain begins, or once round.
    End at{first, false};
    for (std::size_t guard = 0; guard < parts.size(); ++guard) {
      const auto& before = next[at.part][at.last ? 1 : 0];
      if (!before || before->part == first) break;
      at = {before->part, !before->last};
    }
    SeenLine line;
    line.of = parts[at.part].edge->of;
    line.object = parts[at.part].edge->object;
    double far = 0, count = 0;
    line.points.push_back(at.last ? parts[at.part].to : parts[at.part].from);
    for (std::optional<End> here = at; here && !done[here->part];) {
      const Part& part = parts[here->part];
      done[here->part] = true;
      line.points.push_back(here->last ? part.from : part.to);
      far += static_cast<double>(part.far);
      ++count;
      const auto& on = next[here->part][here->last ? 0 : 1];
      here = on ? std::optional(End{on->part, on->last}) : std::nullopt;
    }
    line.far = static_cast<float>(far / count);
    out.push_back(std::move(line));
  }
  return out;
}

}  // namespace

std::vector<SeenLine> linesOf(std::span<const Mesh> meshes, const Camera& camera, const LineAsk& ask, StopToken stop,
                              const Image<float>* fine) {
  if (camera.size.area() == 0) return {};
  std::vector<std::vector<Edge>> ofMesh(meshes.size());
  std::vector<std::uint32_t> points(meshes.size());
  parallelItems(meshes.size(), [&](std::size_t m) {
    if (meshes[m].object != groundObject) points[m] = addEdges(meshes[m], camera, ask, ofMesh[m]);
  });
  std::vector<Edge> edges;
  std::uint32_t before = 0;
  for (std::size_t m = 0; m < meshes.size(); ++m) {
    for (Edge edge : ofMesh[m]) {
      edge.a += before;
      edge.b += before;
      edges.push_back(edge);
    }
    before += points[m];
  }
  if (ask.contacts) addContacts(meshes, before, edges, stop);
  throwIfStopped(stop);
  Image<float> own;
  if (fine == nullptr || fine->empty()) own = nearestOf(meshes, camera);
  const Seeing seeing(meshes, camera, own.empty() ? fine->view() : own.view());
  std::vector<std::vector<Part>> found(edges.size());
  parallelRows(
      static_cast<int>(edges.size()),
      [&](int first, int end) {
        for (int i = first; i < end; ++i)
          seeing.partsOf(edges[static_cast<std::size_t>(i)], found[static_cast<std::size_t>(i)]);
      },
      64);
  throwIfStopped(stop);
  std::vector<Part> parts;
  for (const auto& each : found) parts.insert(parts.end(), each.begin(), each.end());
  auto lines = chained(parts);
  // Crumbs are what is left of edges that are seen at one place only.
  std::erase_if(lines, [](const SeenLine& line) {
    double length = 0;
    for (std::size_t i = 1; i < line.points.size(); ++i)
      length += std::hypot(line.points[i].x - line.points[i - 1].x, line.points[i].y - line.points[i - 1].y);
    constexpr double least = 2.5;
    return length < least;
  });
  return lines;
}

std::vector<std::shared_ptr<const Stroke>> strokesOf(const std::vector<SeenLine>& lines, const LineAsk& ask) {
  float nearest = std::numeric_limits<float>::max();
  for (const SeenLine& line : lines) nearest = std::min(nearest, line.far);
  std::vector<std::shared_ptr<const Stroke>> out;
  for (const SeenLine& line : lines) {
    Stroke stroke;
    double width = ask.width * (line.of == SeenLine::Of::crease || line.of == SeenLine::Of::contact ? 0.8 : 1);
    if (ask.byDepth) width *= 0.5 + 0.5 * static_cast<double>(nearest / line.far);
    for (std::size_t i = 0; i < line.points.size(); ++i) {
      if (i > 0) {
        const Point by = (line.points[i] - line.points[i - 1]) * (1.0 / 3);
        stroke.points.push_back(line.points[i - 1] + by);
        stroke.points.push_back(line.points[i] - by);
      }
      stroke.points.push_back(line.points[i]);
      stroke.widths.push_back(width);
    }
    out.push_back(std::make_shared<const Stroke>(std::move(stroke)));
  }
  return out;
}

}  // namespace hscaffold::stage
