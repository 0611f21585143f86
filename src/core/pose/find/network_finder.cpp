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
constexpr int deepest = 32;  ///< sides of what the network sees are multiples of this
/// Sides of a cut-out at which it is looked at, multiples of `deepest`: first, and where somebody may be.
constexpr std::array briefSides = {128, 96}, moreSides = {192, 64};
constexpr double closeRoom = 1.5;  ///< a cut-out's side, to the longer side of its figure
constexpr std::array wholeSides = {160, 256};
constexpr int tileSide = 320;    ///< larger pictures are looked at in parts
constexpr double overlap = 0.3;  ///< of neighbouring parts
constexpr int mostTiles = 64;
constexpr std::size_t mostLookedAt = 40;  ///< the strongest guesses are looked at again
constexpr double faintShare = 0.2;        ///< of the strongest one's strength: guesses below are none
constexpr std::size_t fewLookedAt = 4;    ///< of a turned picture

/// Mean strength from which a figure is seen plainly, and how much stronger a turned picture's must be.
constexpr double plain = 0.38, clearly = 1.3;

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
  double tile = longest > 1600 ? longest / 3.4 : longest / 1.7;
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

/// Whether a finding is nobody of its own: the same figure as another one, or only a part of it, as folds and locks are
/// that look like somebody small.
bool belongsTo(const Figure& figure, const Figure& other) {
  if (same(figure, other)) return true;
  const bool small = longer(*boundsOf(figure)) < 0.6 * longer(*boundsOf(other));
  // Somebody small before somebody large is as sure as they are.
  return shareOn(figure, other) > (small && strengthOf(figure) < 0.9 * strengthOf(other) ? 0.6 : 0.8);
}

/// The strongest first, without those that belong to a stronger one.
std::vector<Figure> distinct(std::vector<Figure> found) {
  std::stable_sort(found.begin(), found.end(),
                   [](const Figure& a, const Figure& b) { return strengthOf(a) > strengthOf(b); });
  std::vector<Figure> out;
  for (Figure& figure : found)
    if (std::none_of(out.begin(), out.end(), [&](const Figure& other) { return belongsTo(figure, other); }))
      out.push_back(std::move(figure));
  return out;
}

/// Straight between what was measured; places in rising order.
template <std::size_t count>
double between(const std::array<std::pair<double, double>, count>& measured, double at) {
  for (std::size_t i = 1; i < count; ++i)
    if (at <= measured[i].first) {
      const auto& [x0, y0] = measured[i - 1];
      const auto& [x1, y1] = measured[i];
      return y0 + (y1 - y0) * (at - x0) / (x1 - x0);
    }
  return measured.back().second;
}

}  // namespace

double calibrated(double strength) {
  // Measured on painted, drawn and photographed people.
  return between<9>({{{0, 0},
                      {0.15, 0.16},
                      {0.25, 0.3},
                      {0.35, 0.44},
                      {0.45, 0.57},
                      {0.55, 0.75},
                      {0.65, 0.82},
                      {0.75, 0.88},
                      {1, 0.96}}},
                    strength);
}

double likelihood(double strength) {
  // Measured on people, and on painted places without any.
  return between<8>(
      {{{0, 0}, {0.2, 0.08}, {0.27, 0.15}, {0.33, 0.4}, {0.39, 0.76}, {0.46, 0.93}, {0.52, 0.98}, {1, 1}}}, strength);
}

bool canFindPeople() { return !networks::modelNamed(model).empty(); }

NetworkFinder::NetworkFinder(std::span<const std::byte> onnx, const std::string& where, NetworkFinderTuning tuning)
    : tuning_(std::move(tuning)), network_(std::in_place, onnx, where), where_(where) {}

NetworkFinder::Look NetworkFinder::look(View<Rgb> picture, const Bounds& part, int side, bool mirrored,
                                        const StopToken& stop) {
  throwIfStopped(stop);
  return lookAt(cutOut(picture, part), part, side, mirrored, stop);
}

NetworkFinder::Look NetworkFinder::lookAt(View<Rgb> cut, const Bounds& part, int side, bool mirrored,
                                          const StopToken& stop) {
  throwIfStopped(stop);
  const double shrink = static_cast<double>(side) / std::max(cut.width(), cut.height());
  const Size size{std::max(1, static_cast<int>(std::lround(cut.width() * shrink))),
                  std::max(1, static_cast<int>(std::lround(cut.height() * shrink)))};
  const Image<Rgb> seen = resampled(cut, size, Resampling::area, stop);
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
  const double left = std::floor(part.left), top = std::floor(part.top),
               rim = tuning_.box ? 0.08 * longer(box) : 0.2 * longer(box);
  Image<Rgb> cut = cutOut(picture, part);
  // Reduced once for all sizes.
  constexpr int enough = 384;
  if (cut.width() > enough) cut = resampled(cut, {enough, enough}, Resampling::area, stop);
  std::vector<PointMaps> looks;
  double scale = 1;
  const auto take = [&](int side) {
    Look one = lookAt(cut, part, side, true, stop);
    if (looks.empty()) scale = one.scale;
    looks.push_back(std::move(one.maps));
  };
  const auto seen = [&] {
    const PointMaps maps = meanOf(looks);
    OneFigureTuning how;
    const double cell = maps.stride * scale;
    how.within = Bounds{(box.left - rim - left) / cell, (box.top - rim - top) / cell, (box.right + rim - left) / cell,
                        (box.bottom + rim - top) / cell};
    return decodedOne(maps, human(), scale, how);
  };
  for (const int side : briefSides) take(side);
  auto out = seen();
  // Whoever hardly is there need not be looked at again.
  if (!tuning_.brief && out && (tuning_.box || likelihood(confidenceOf(*out)) > 0.1)) {
    for (const int side : moreSides) take(side);
    out = seen();
  }
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
  if (closer > fewLookedAt)
    for (const Bounds& part : tilesOf(whole)) add(part, std::min(tileSide, static_cast<int>(longer(part))));
  found = distinct(std::move(found));
  if (!found.empty())
    std::erase_if(found, [least = faintShare * strengthOf(found.front())](const Figure& figure) {
      return strengthOf(figure) < least;
    });
  if (found.size() > tuning_.mostFigures) found.resize(tuning_.mostFigures);
  if (!tuning_.again) return found;
  if (found.size() > closer) found.resize(closer);
  std::vector<Figure> seen;
  for (const Figure& figure : found) {
    // A guess that turns out to lie on somebody who was seen is not looked at.
    if (std::any_of(seen.begin(), seen.end(), [&](const Figure& other) {
          return likelihood(confidenceOf(other)) > 0.5 && belongsTo(figure, other);
        }))
      continue;
    if (auto near = lookCloser(picture, *boundsOf(figure), stop); near && boundsOf(*near))
      seen.push_back(std::move(*near));
  }
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
  for (Figure& figure : found) {
    // Whoever draws a box knows that somebody is in it.
    const double likely = tuning_.box ? 1 : likelihood(confidenceOf(figure));
    for (KeyPoint& p : figure.points)
      if (p.there()) p.confidence = likely * calibrated(p.confidence);
  }
  std::erase_if(found, [&](const Figure& figure) { return confidenceOf(figure) < tuning_.faintestFigure; });
  std::stable_sort(found.begin(), found.end(),
                   [](const Figure& a, const Figure& b) { return confidenceOf(a) > confidenceOf(b); });
  return found;
}

std::optional<Figure> personIn(View<Rgb> picture, const Bounds& box, const StopToken& stop) {
  if (!canFindPeople()) return {};
  // One for each thread: reading it takes longer than a look.
  struct Kept {
    std::filesystem::path model;
    NetworkFinder finder;
  };
  thread_local std::optional<Kept> kept;
  const auto path = networks::modelNamed(model);
  if (!kept || kept->model != path) kept.emplace(Kept{path, NetworkFinder()});
  NetworkFinderTuning tuning;
  tuning.box = box;
  tuning.brief = true;
  tuning.turned = false;
  tuning.faintestFigure = 0;
  kept->finder.tune(std::move(tuning));
  auto found = kept->finder.find(picture, stop);
  return found.empty() ? std::nullopt : std::optional(std::move(found.front()));
}

}  // namespace hscaffold::pose
