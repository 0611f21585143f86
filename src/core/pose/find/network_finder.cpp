#include "core/pose/find/network_finder.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/image/components.h"
#include "core/image/resample.h"
#include "core/networks/models.h"
#include "core/pose/find/cut_out.h"
#include "core/pose/find/findings.h"
#include "core/pose/find/one_figure.h"

namespace hscaffold::pose {
namespace {

constexpr int deepest = 32;  ///< sides of what the network sees are multiples of this
/// Sides of a cut-out at which it is looked at, multiples of `deepest`: first, and where somebody may be.
constexpr std::array briefSides = {128, 96}, moreSides = {192, 64}, boxSides = {192, 160};
constexpr double closeRoom = 1.5;  ///< a cut-out's side, to the longer side of its figure
constexpr std::array wholeSides = {160, 256};
constexpr double samePlace = 0.5;  ///< of two boxes together: they are of one body
constexpr int tileSide = 320;      ///< larger pictures are looked at in parts
constexpr double overlap = 0.3;    ///< of neighbouring parts
constexpr int mostTiles = 64;
constexpr double faintShare = 0.2;  ///< of the strongest one's strength: guesses below are none

/// Mean strength from which a figure is seen plainly, and how much stronger a turned picture's must be.
constexpr double plain = 0.38, clearly = 1.3;
/// How strong somebody must be at a glance at a turned picture, to a glance at it upright, to be searched for.
constexpr double worthASearch = 1.0;

struct Known {
  Sought who;
  const char *model, *skeleton;
};
constexpr std::array known = {Known{Sought::people, "figures.onnx", "human"},
                              Known{Sought::animals, "animals.onnx", "four-legged"}};

int padded(int side) { return std::max(deepest, (side + deepest - 1) / deepest * deepest); }

networks::Tensor inputOf(const Image<Rgb>& picture) {
  const Size size{padded(picture.width()), padded(picture.height())};
  const auto plane = static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height);
  networks::Tensor out{{1, 3, size.height, size.width}, std::vector<float>(3 * plane, 0.5f)};
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) {
      const Rgb c = picture(x, y);
      const auto at = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x);
      out.values[at] = linearToSrgb(std::clamp(c.r, 0.0f, 1.0f));
      out.values[plane + at] = linearToSrgb(std::clamp(c.g, 0.0f, 1.0f));
      out.values[2 * plane + at] = linearToSrgb(std::clamp(c.b, 0.0f, 1.0f));
    }
  return out;
}

networks::Tensor mirrorImageOf(networks::Tensor input) {
  const auto width = static_cast<std::ptrdiff_t>(input.shape.back());
  for (auto row = input.values.begin(); row != input.values.end(); row += width) std::reverse(row, row + width);
  return input;
}

/// With `side` pixels on its longer side.
Image<Rgb> reducedTo(View<Rgb> picture, int side, const StopToken& stop) {
  const double shrink = static_cast<double>(side) / std::max(picture.width(), picture.height());
  const Size size{std::max(1, static_cast<int>(std::lround(picture.width() * shrink))),
                  std::max(1, static_cast<int>(std::lround(picture.height() * shrink)))};
  return resampled(picture, size, Resampling::area, stop);
}

/// A square with the box in its middle, `room` times as large as its longer side.
Bounds squareAbout(const Bounds& box, double room) {
  const double half = std::max(12.0, room * longerSideOf(box) / 2);
  const Point middle = box.middle();
  return {middle.x - half, middle.y - half, middle.x + half, middle.y + half};
}

/// Parts that overlap and together cover a large picture; none for a small one.
std::vector<Bounds> tilesOf(const Bounds& whole) {
  std::vector<Bounds> out;
  const double longest = longerSideOf(whole);
  if (longest < 1.5 * wholeSides.back()) return out;
  double tile = longest > 1600 ? longest / 3.4 : longest / 1.7;
  const auto count = [&](double length) {
    // A hair's breadth more is no further part.
    return std::max(1, static_cast<int>(std::ceil((length - overlap * tile) / (tile * (1 - overlap)) - 1e-3)));
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

/// Where a look sees anybody's body: the boxes of what it covers, in the picture's pixels, the largest first.
std::vector<Bounds> coveredIn(const PointMaps& maps, double scale) {
  constexpr float covered = 0.4f;
  constexpr double least = 0.004;  // of the picture
  constexpr std::size_t most = 4;
  Image<std::uint8_t> mask(maps.figure.size());
  for (int y = 0; y < mask.height(); ++y)
    std::transform(maps.figure.row(y), maps.figure.row(y) + mask.width(), mask.row(y),
                   [](float v) { return static_cast<std::uint8_t>(v > covered ? 255 : 0); });
  auto pieces = componentsOf(mask, Connected::eight).all;
  std::erase_if(pieces, [&](const Component& piece) {
    return static_cast<double>(piece.area) < least * static_cast<double>(mask.size().area());
  });
  std::stable_sort(pieces.begin(), pieces.end(), [](const auto& a, const auto& b) { return a.area > b.area; });
  if (pieces.size() > most) pieces.resize(most);
  std::vector<Bounds> out;
  const double cell = scale * maps.stride;
  for (const Component& piece : pieces)
    out.push_back({piece.left * cell, piece.top * cell, (piece.right + 1) * cell, (piece.bottom + 1) * cell});
  return out;
}

/// What two boxes share, of what they cover together.
double sharedBy(const Bounds& a, const Bounds& b) {
  const double shared = sharedArea(a, b);
  return shared > 0 ? shared / (areaOf(a) + areaOf(b) - shared) : 0;
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

bool canFind(Sought sought) {
  return std::any_of(known.begin(), known.end(), [&](const Known& each) {
    return (sought == Sought::everybody || sought == each.who) && !networks::modelNamed(each.model).empty();
  });
}

std::optional<Sought> soughtAs(const std::string& skeleton) {
  for (const Known& each : known)
    if (each.skeleton == skeleton) return each.who;
  return {};
}

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

NetworkFinder::NetworkFinder(std::span<const std::byte> onnx, const std::string& where, NetworkFinderTuning tuning)
    : tuning_(std::move(tuning)) {
  const Known& one = tuning_.sought == Sought::animals ? known[1] : known[0];
  eyes_.push_back({one.who, &skeletonOf(one.skeleton), networks::Network(onnx, where), where});
}

void NetworkFinder::open() {
  if (!eyes_.empty()) return;
  const bool everybody = tuning_.sought == Sought::everybody;
  for (const Known& each : known) {
    if (!everybody && each.who != tuning_.sought) continue;
    const auto path = networks::modelNamed(each.model);
    if (path.empty()) {
      if (everybody && canFind(Sought::everybody)) continue;
      throw badInput(networks::missingModel(each.model));
    }
    eyes_.push_back(
        {each.who, &skeletonOf(each.skeleton), networks::Network(readWholeFile(path), each.model), each.model});
  }
}

NetworkFinder::Look NetworkFinder::lookAt(Eye& eye, View<Rgb> cut, const Bounds& part, int side, bool mirrored,
                                          const StopToken& stop) {
  throwIfStopped(stop);
  const Image<Rgb> seen = reducedTo(cut, side, stop);
  Look out;
  out.scale = part.width() / seen.width();
  out.left = std::floor(part.left);
  out.top = std::floor(part.top);
  const auto answer = [&](const networks::Tensor& input) {
    return pointMapsFrom(eye.network.run(input).front(), *eye.skeleton, eye.where);
  };
  auto input = inputOf(seen);
  out.maps = answer(input);
  if (mirrored) out.maps = withMirrored(std::move(out.maps), answer(mirrorImageOf(std::move(input))), *eye.skeleton);
  return out;
}

std::vector<Figure> NetworkFinder::within(const Eye& eye, const Look& look) const {
  DecodeTuning how;
  how.faintest = tuning_.faintest;
  auto out = decoded(look.maps, *eye.skeleton, look.scale, how);
  std::erase_if(out, [](const Figure& figure) { return !boundsOf(figure); });
  for (Figure& figure : out)
    for (KeyPoint& p : figure.points)
      if (p.there()) p.at = p.at + Point{look.left, look.top};
  return out;
}

std::optional<Figure> NetworkFinder::lookCloser(Eye& eye, View<Rgb> picture, const Bounds& box,
                                                const StopToken& stop) const {
  const Bounds part = squareAbout(box, closeRoom);
  const double left = std::floor(part.left), top = std::floor(part.top),
               rim = (tuning_.box ? 0.08 : 0.2) * longerSideOf(box);
  Image<Rgb> cut = cutOut(picture, part);
  // Reduced once for all sizes.
  constexpr int enough = 384;
  if (cut.width() > enough) cut = resampled(cut, {enough, enough}, Resampling::area, stop);
  std::vector<PointMaps> looks;
  double scale = 1;
  const auto take = [&](int side) {
    Look one = lookAt(eye, cut, part, side, true, stop);
    if (looks.empty()) scale = one.scale;
    looks.push_back(std::move(one.maps));
  };
  const auto seen = [&] {
    const PointMaps maps = meanOf(looks);
    OneFigureTuning how;
    if (tuning_.box) {
      // Nobody else is meant: the strongest place of each point is right more often than what limbs vote for, above all
      // in photographs, where the network knows limbs less surely than joints.
      how.comparable = 1;
      how.pull = how.clash = 0;
    }
    const double cell = maps.stride * scale;
    how.within = Bounds{(box.left - rim - left) / cell, (box.top - rim - top) / cell, (box.right + rim - left) / cell,
                        (box.bottom + rim - top) / cell};
    return decodedOne(maps, *eye.skeleton, scale, how);
  };
  for (const int side : briefSides) take(side);
  auto out = seen();
  // Whoever hardly is there need not be looked at again.
  if (!tuning_.brief && out && (tuning_.box || likelihood(confidenceOf(*out)) > 0.1)) {
    for (const int side : tuning_.box ? boxSides : moreSides) take(side);
    out = seen();
  }
  if (out)
    for (KeyPoint& p : out->points)
      if (p.there()) p.at = p.at + Point{left, top};
  return out;
}

std::vector<Figure> NetworkFinder::inBox(View<Rgb> picture, const Bounds& box, const StopToken& stop) {
  // One figure: the surest.
  std::vector<Figure> out;
  for (Eye& eye : eyes_) {
    auto found = lookCloser(eye, picture, box, stop);
    if (!found || (!out.empty() && confidenceOf(*found) <= confidenceOf(out.front()))) continue;
    out.assign(1, std::move(*found));
  }
  return out;
}

std::vector<Figure> NetworkFinder::everywhere(View<Rgb> picture, Effort effort, const StopToken& stop) {
  const Bounds whole{0, 0, static_cast<double>(picture.width()), static_cast<double>(picture.height())};
  std::vector<Guesses> guesses(eyes_.size());
  const auto look = [&](View<Rgb> cut, const Bounds& part, int side) {
    for (std::size_t e = 0; e < eyes_.size(); ++e) {
      const Look one = lookAt(eyes_[e], cut, part, side, false, stop);
      for (Figure& figure : within(eyes_[e], one)) guesses[e].figures.push_back(std::move(figure));
      // Limbs of animals are told less surely than where they are.
      if (eyes_[e].knows != Sought::animals) continue;
      for (const Bounds& covered : coveredIn(one.maps, one.scale)) {
        const Bounds there{covered.left + one.left, covered.top + one.top, covered.right + one.left,
                           covered.bottom + one.top};
        // What is seen again at another size, or in another part.
        if (std::none_of(guesses[e].places.begin(), guesses[e].places.end(),
                         [&](const Bounds& other) { return sharedBy(there, other) > samePlace; }))
          guesses[e].places.push_back(there);
      }
    }
  };
  for (const int side : wholeSides) look(picture, whole, side);
  if (effort.parts)
    for (const Bounds& part : tilesOf(whole))
      look(cutOut(picture, part), part, std::min(tileSide, static_cast<int>(longerSideOf(part))));
  std::vector<Figure> out;
  for (std::size_t e = 0; e < eyes_.size(); ++e)
    for (Figure& figure : again(eyes_[e], picture, std::move(guesses[e]), effort, stop))
      out.push_back(std::move(figure));
  return out;
}

std::vector<Figure> NetworkFinder::again(Eye& eye, View<Rgb> picture, Guesses all, Effort effort,
                                         const StopToken& stop) const {
  auto guesses = distinct(std::move(all.figures));
  if (!guesses.empty())
    std::erase_if(guesses, [least = faintShare * strengthOf(guesses.front())](const Figure& figure) {
      return strengthOf(figure) < least;
    });
  if (guesses.size() > tuning_.mostFigures) guesses.resize(tuning_.mostFigures);
  if (!tuning_.again) return guesses;
  if (guesses.size() > effort.closer) guesses.resize(effort.closer);
  std::vector<Figure> seen;
  for (const Bounds& place : all.places)
    if (auto near = lookCloser(eye, picture, place, stop); near && boundsOf(*near)) seen.push_back(std::move(*near));
  for (const Figure& figure : guesses) {
    // A guess that turns out to lie on somebody who was seen is not looked at.
    if (std::any_of(seen.begin(), seen.end(), [&](const Figure& other) {
          return likelihood(confidenceOf(other)) > 0.5 && belongsTo(figure, other);
        }))
      continue;
    if (auto near = lookCloser(eye, picture, *boundsOf(figure), stop); near && boundsOf(*near))
      seen.push_back(std::move(*near));
  }
  return distinct(std::move(seen));
}

double NetworkFinder::atAGlance(View<Rgb> picture, const StopToken& stop) {
  const Bounds whole{0, 0, static_cast<double>(picture.width()), static_cast<double>(picture.height())};
  double most = 0;
  for (Eye& eye : eyes_)
    for (const Figure& figure :
         within(eye, lookAt(eye, picture, whole, std::max(picture.width(), picture.height()), false, stop)))
      most = std::max(most, strengthOf(figure));
  return most;
}

std::vector<Figure> NetworkFinder::orTurned(View<Rgb> picture, std::vector<Figure> found, const StopToken& stop) {
  const auto surest = [](const std::vector<Figure>& figures) {
    double most = 0;
    for (const Figure& figure : figures) most = std::max(most, confidenceOf(figure));
    return most;
  };
  double most = surest(found);
  if (most >= plain) return found;
  // A glance at each way tells which of them are worth a search.
  const Image<Rgb> cut = tuning_.box ? cutOut(picture, squareAbout(*tuning_.box, closeRoom)) : Image<Rgb>();
  const Image<Rgb> small =
      reducedTo(tuning_.box ? cut.view() : picture, tuning_.box ? briefSides[0] : wholeSides[0], stop);
  const double upright = atAGlance(small, stop);
  for (int quarters = 1; quarters < 4; ++quarters) {
    if (atAGlance(quarterTurned(small, quarters), stop) < worthASearch * upright) continue;
    const auto turned = quarterTurned(picture, quarters);
    std::optional<Bounds> box;
    if (tuning_.box) {
      const Point a = quarterTurned({tuning_.box->left, tuning_.box->top}, quarters, picture.size()),
                  b = quarterTurned({tuning_.box->right, tuning_.box->bottom}, quarters, picture.size());
      box = Bounds{std::min(a.x, b.x), std::min(a.y, b.y), std::max(a.x, b.x), std::max(a.y, b.y)};
    }
    std::vector<Figure> other;
    if (box) {
      other = inBox(turned, *box, stop);
    } else {
      other = everywhere(turned, {.closer = 4, .parts = false}, stop);
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
  open();
  auto found =
      tuning_.box ? inBox(picture, *tuning_.box, stop) : everywhere(picture, {.closer = 40, .parts = true}, stop);
  if (tuning_.turned) found = orTurned(picture, std::move(found), stop);
  for (Figure& figure : found) {
    // Whoever draws a box knows that somebody is in it.
    const double likely = tuning_.box ? 1 : likelihood(confidenceOf(figure));
    for (KeyPoint& p : figure.points)
      if (p.there()) p.confidence = likely * calibrated(p.confidence);
  }
  std::erase_if(found, [&](const Figure& figure) { return confidenceOf(figure) < tuning_.faintestFigure; });
  return withoutDoubles(std::move(found));
}

std::optional<Figure> figureIn(View<Rgb> picture, const Bounds& box, Sought sought, const StopToken& stop) {
  if (!canFind(sought)) return {};
  // One for each thread: reading it takes longer than a look.
  struct Kept {
    std::filesystem::path people, animals;  // the models
    Sought sought;
    NetworkFinder finder;
  };
  thread_local std::vector<Kept> kept;
  const auto people = networks::modelNamed(known[0].model), animals = networks::modelNamed(known[1].model);
  std::erase_if(kept, [&](const Kept& each) { return each.people != people || each.animals != animals; });
  auto at = std::find_if(kept.begin(), kept.end(), [&](const Kept& each) { return each.sought == sought; });
  if (at == kept.end()) at = kept.insert(kept.end(), Kept{people, animals, sought, NetworkFinder()});
  NetworkFinderTuning tuning;
  tuning.sought = sought;
  tuning.box = box;
  tuning.brief = true;
  tuning.turned = false;
  tuning.faintestFigure = 0;
  at->finder.tune(std::move(tuning));
  auto found = at->finder.find(picture, stop);
  return found.empty() ? std::nullopt : std::optional(std::move(found.front()));
}

}  // namespace hscaffold::pose
