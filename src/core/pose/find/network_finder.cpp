#include "core/pose/find/network_finder.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/networks/models.h"
#include "core/pose/find/cut_out.h"
#include "core/pose/find/one_figure.h"

namespace hscaffold::pose {
namespace {

constexpr const char* model = "figures.onnx";
constexpr int deepest = 32;                            ///< sides of what the network sees are multiples of this
constexpr std::array closeSides = {192, 128, 96, 64};  ///< of a cut-out, each looked at; multiples of `deepest`
constexpr double closeRoom = 1.5;                      ///< a cut-out's side, to the longer side of its figure
constexpr std::array wholeSides = {160, 256};
constexpr int tileSide = 384;    ///< larger pictures are looked at in parts
constexpr double overlap = 0.3;  ///< of neighbouring parts
constexpr int mostTiles = 64;
constexpr std::size_t mostLookedAt = 40;  ///< the strongest guesses are looked at again
constexpr std::size_t fewLookedAt = 4;    ///< of a turned picture

/// Mean strength from which a figure is seen plainly, and how much stronger a turned picture's must be.
constexpr double plain = 0.5, clearly = 1.3;

const Skeleton& human() { return skeletonOf("human"); }

std::vector<std::byte> modelBytes() {
  const auto path = networks::modelNamed(model);
  if (path.empty()) throw badInput(networks::missingModel(model));
  return readWholeFile(path);
}

int padded(int side) { return std::max(deepest, (side + deepest - 1) / deepest * deepest); }

networks::Tensor inputOf(const Image<Rgb>& picture, bool mirrored) {
  const Size size{padded(picture.width()), padded(picture.height())};
  const auto plane = static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height);
  networks::Tensor out{{1, 3, size.height, size.width}, std::vector<float>(3 * plane, 0.5f)};
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) {
      const Rgb c = picture(x, y);
      const auto at = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) +
                      static_cast<std::size_t>(mirrored ? size.width - 1 - x : x);
      out.values[at] = linearToSrgb(std::clamp(c.r, 0.0f, 1.0f));
      out.values[plane + at] = linearToSrgb(std::clamp(c.g, 0.0f, 1.0f));
      out.values[2 * plane + at] = linearToSrgb(std::clamp(c.b, 0.0f, 1.0f));
    }
  return out;
}

double strengthOf(const Figure& figure) {
  double sum = 0;
  for (const KeyPoint& p : figure.points) sum += p.there() ? p.confidence : 0;
  return sum;
}

double longer(const Bounds& box) { return std::max(box.width(), box.height()); }

/// A square with the box in its middle, `room` times as large as its longer side.
Bounds squareAbout(const Bounds& box, double room) {
  const double half = std::max(12.0, room * longer(box) / 2);
  const Point middle = box.middle();
  return {middle.x - half, middle.y - half, middle.x + half, middle.y + half};
}

/// Parts that overlap and together cover a large picture; none for a small one.
std::vector<Bounds> tilesOf(const Bounds& whole) {
  std::vector<Bounds> out;
  const double longest = longer(whole);
  if (longest < 1.5 * wholeSides.back()) return out;
  double tile = longest > 1600 ? longest / 4 : longest / 2;
  const auto count = [&](double length) {
    return std::max(1, static_cast<int>(std::ceil((length - overlap * tile) / (tile * (1 - overlap)))));
  };
  while (count(whole.right) * count(whole.bottom) > mostTiles) tile *= 1.2;
  const int across = count(whole.right), down = count(whole.bottom);
  const auto place = [&](double length, int i, int of) { return of > 1 ? (length - tile) * i / (of - 1) : 0.0; };
  for (int j = 0; j < down; ++j)
    for (int i = 0; i < across; ++i) {
      const double x = place(whole.right, i, across), y = place(whole.bottom, j, down);
      out.push_back({x, y, std::min(whole.right, x + tile), std::min(whole.bottom, y + tile)});
    }
  return out;
}

/// Share of the smaller box that lies in both.
double overlapOf(const Bounds& a, const Bounds& b) {
  const double w = std::min(a.right, b.right) - std::max(a.left, b.left),
               h = std::min(a.bottom, b.bottom) - std::max(a.top, b.top);
  if (w <= 0 || h <= 0) return 0;
  return w * h / std::max(1.0, std::min(a.width() * a.height(), b.width() * b.height()));
}

/// Whether two findings are of one figure: enough of their points lie together.
bool same(const Figure& a, const Figure& b) {
  const auto boxA = boundsOf(a), boxB = boundsOf(b);
  if (!boxA || !boxB || overlapOf(*boxA, *boxB) < 0.3) return false;
  const double near = 0.08 * std::max(longer(*boxA), longer(*boxB));
  int together = 0, both = 0;
  for (std::size_t p = 0; p < a.points.size(); ++p) {
    if (!a.points[p].there() || !b.points[p].there()) continue;
    ++both;
    const Point off = a.points[p].at - b.points[p].at;
    if (dot(off, off) < near * near) ++together;
  }
  return both > 0 ? 2 * together >= both : overlapOf(*boxA, *boxB) > 0.7;
}

/// Share of a figure's points that lie on another one: on its limbs, as broad as limbs are.
double shareOn(const Figure& figure, const Figure& other) {
  const auto box = boundsOf(other);
  if (!box) return 0;
  const double broad = 0.1 * longer(*box);
  int on = 0, all = 0;
  for (const KeyPoint& p : figure.points) {
    if (!p.there()) continue;
    ++all;
    for (const Bone& bone : human().bones) {
      const KeyPoint &a = other.points[bone.from], &b = other.points[bone.to];
      if (!a.there() || !b.there() || distanceToSegment(p.at, a.at, b.at) > broad) continue;
      ++on;
      break;
    }
  }
  return all > 0 ? static_cast<double>(on) / all : 0;
}

/// Of all findings of one figure the strongest, without what is only a part of another one: folds and locks that look
/// like somebody small.
std::vector<Figure> distinct(std::vector<Figure> found) {
  std::stable_sort(found.begin(), found.end(),
                   [](const Figure& a, const Figure& b) { return strengthOf(a) > strengthOf(b); });
  std::vector<Figure> out;
  for (Figure& figure : found) {
    const double size = longer(*boundsOf(figure)), strength = strengthOf(figure);
    const auto covers = [&](const Figure& other) {
      if (same(figure, other)) return true;
      const bool small = size < 0.6 * longer(*boundsOf(other));
      // Somebody small before somebody large is as sure as they are.
      return shareOn(figure, other) > (small && strength < 0.9 * strengthOf(other) ? 0.6 : 0.8);
    };
    if (std::none_of(out.begin(), out.end(), covers)) out.push_back(std::move(figure));
  }
  return out;
}

}  // namespace

double calibrated(double strength) {
  // Straight between what was measured.
  constexpr std::array<std::pair<double, double>, 6> measured = {
      {{0, 0}, {0.15, 0.25}, {0.3, 0.5}, {0.45, 0.75}, {0.6, 0.9}, {1, 0.99}}};
  for (std::size_t i = 1; i < measured.size(); ++i)
    if (strength <= measured[i].first) {
      const auto& [x0, y0] = measured[i - 1];
      const auto& [x1, y1] = measured[i];
      return y0 + (y1 - y0) * (strength - x0) / (x1 - x0);
    }
  return measured.back().second;
}

bool canFindPeople() { return !networks::modelNamed(model).empty(); }

NetworkFinder::NetworkFinder(std::span<const std::byte> onnx, const std::string& where, NetworkFinderTuning tuning)
    : tuning_(std::move(tuning)), network_(std::in_place, onnx, where), where_(where) {}

NetworkFinder::Look NetworkFinder::look(View<Rgb> picture, const Bounds& part, int side, bool mirrored,
                                        const StopToken& stop) {
  throwIfStopped(stop);
  Image<Rgb> seen = cutOut(picture, part);
  const double shrink = static_cast<double>(side) / std::max(seen.width(), seen.height());
  const Size size{std::max(1, static_cast<int>(std::lround(seen.width() * shrink))),
                  std::max(1, static_cast<int>(std::lround(seen.height() * shrink)))};
  if (size != seen.size()) seen = resampled(seen, size, Resampling::area, stop);
  Look out;
  out.scale = part.width() / size.width;
  out.left = std::floor(part.left);
  out.top = std::floor(part.top);
  out.maps = pointMapsFrom(network_->run(inputOf(seen, false)).front(), human(), where_);
  if (mirrored)
    out.maps = withMirrored(std::move(out.maps),
                            pointMapsFrom(network_->run(inputOf(seen, true)).front(), human(), where_), human());
  return out;
}

std::vector<Figure> NetworkFinder::within(const Look& look) const {
  DecodeTuning how;
  how.faintest = tuning_.faintest;
  auto out = decoded(look.maps, human(), look.scale, how);
  for (Figure& figure : out)
    for (KeyPoint& p : figure.points)
      if (p.there()) p.at = p.at + Point{look.left, look.top};
  return out;
}

std::optional<Figure> NetworkFinder::lookCloser(View<Rgb> picture, const Bounds& box, const StopToken& stop) {
  const Bounds part = squareAbout(box, closeRoom);
  std::vector<PointMaps> looks;
  double scale = 1;
  for (const int side : closeSides) {
    Look one = look(picture, part, side, true, stop);
    if (looks.empty()) scale = one.scale;
    looks.push_back(std::move(one.maps));
  }
  const PointMaps maps = meanOf(std::move(looks));
  OneFigureTuning how;
  const double cell = maps.stride * scale, left = std::floor(part.left), top = std::floor(part.top),
               rim = tuning_.box ? 0.08 * longer(box) : 0.2 * longer(box);
  how.within = Bounds{(box.left - rim - left) / cell, (box.top - rim - top) / cell, (box.right + rim - left) / cell,
                      (box.bottom + rim - top) / cell};
  auto out = decodedOne(maps, human(), scale, how);
  if (out)
    for (KeyPoint& p : out->points)
      if (p.there()) p.at = p.at + Point{left, top};
  return out;
}

std::vector<Figure> NetworkFinder::inBox(View<Rgb> picture, const Bounds& box, const StopToken& stop) {
  std::vector<Figure> out;
  if (auto found = lookCloser(picture, box, stop)) out.push_back(std::move(*found));
  return out;
}

std::vector<Figure> NetworkFinder::everywhere(View<Rgb> picture, std::size_t closer, const StopToken& stop) {
  const Bounds whole{0, 0, static_cast<double>(picture.width()), static_cast<double>(picture.height())};
  std::vector<Figure> found;
  const auto add = [&](const Bounds& part, int side) {
    for (Figure& figure : within(look(picture, part, side, false, stop)))
      if (boundsOf(figure)) found.push_back(std::move(figure));
  };
  for (const int side : wholeSides) add(whole, side);
  // Small figures of large pictures, part by part.
  for (const Bounds& part : tilesOf(whole)) add(part, std::min(tileSide, static_cast<int>(longer(part))));
  found = distinct(std::move(found));
  if (found.size() > tuning_.mostFigures) found.resize(tuning_.mostFigures);
  if (!tuning_.again) return found;
  if (found.size() > closer) found.resize(closer);
  std::vector<Figure> seen;
  for (const Figure& figure : found)
    if (auto near = lookCloser(picture, *boundsOf(figure), stop); near && boundsOf(*near))
      seen.push_back(std::move(*near));
  return distinct(std::move(seen));
}

std::vector<Figure> NetworkFinder::orTurned(View<Rgb> picture, std::vector<Figure> found, const StopToken& stop) {
  const auto surest = [](const std::vector<Figure>& figures) {
    double most = 0;
    for (const Figure& figure : figures) most = std::max(most, confidenceOf(figure));
    return most;
  };
  double most = surest(found);
  if (most >= plain) return found;
  for (int quarters = 1; quarters < 4; ++quarters) {
    const auto turned = quarterTurned(picture, quarters);
    std::vector<Figure> other;
    if (tuning_.box) {
      const Point a = quarterTurned({tuning_.box->left, tuning_.box->top}, quarters, picture.size()),
                  b = quarterTurned({tuning_.box->right, tuning_.box->bottom}, quarters, picture.size());
      other = inBox(turned, {std::min(a.x, b.x), std::min(a.y, b.y), std::max(a.x, b.x), std::max(a.y, b.y)}, stop);
    } else {
      other = everywhere(turned, fewLookedAt, stop);
    }
    if (const double sure = surest(other); sure < plain || sure < clearly * most) continue;
    most = surest(other);
    found = std::move(other);
    for (Figure& figure : found)
      for (KeyPoint& p : figure.points)
        if (p.there()) p.at = turnedBack(p.at, quarters, picture.size());
  }
  return found;
}

std::vector<Figure> NetworkFinder::find(View<Rgb> picture, StopToken stop) {
  if (picture.empty()) return {};
  if (!network_) {
    network_.emplace(modelBytes(), model);
    where_ = model;
  }
  auto found = tuning_.box ? inBox(picture, *tuning_.box, stop) : everywhere(picture, mostLookedAt, stop);
  if (tuning_.turned) found = orTurned(picture, std::move(found), stop);
  for (Figure& figure : found)
    for (KeyPoint& p : figure.points)
      if (p.there()) p.confidence = calibrated(p.confidence);
  std::erase_if(found, [&](const Figure& figure) { return confidenceOf(figure) < tuning_.faintestFigure; });
  std::stable_sort(found.begin(), found.end(),
                   [](const Figure& a, const Figure& b) { return confidenceOf(a) > confidenceOf(b); });
  return found;
}

}  // namespace hscaffold::pose
