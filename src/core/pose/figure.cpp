#include "core/pose/figure.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/guides/affine_json.h"
#include "core/guides/json_fields.h"
#include "core/pose/body.h"

namespace hscaffold::pose {
namespace {

bool isThere(const Figure& figure, const Bone& bone) {
  return figure.points[bone.from].there() && figure.points[bone.to].there();
}

/// Where a part of the body that was not there goes: at rest, hung on the point it belongs to and turned with the bone
/// that leads there. Seen in the plane in which the part is widest.
void placePart(Figure& figure, const std::vector<std::size_t>& part) {
  const Skeleton& skeleton = figure.kind();
  std::size_t onto = part.front();
  while (skeleton.points[onto].part == skeleton.points[part.front()].part) {
    const auto up = skeleton.parentOf(onto);
    if (!up) return;
    onto = *up;
  }
  // The face hangs on eyes and ears too, but is led by the nose.
  while (!skeleton.points[onto].turnsChildren && skeleton.parentOf(onto)) onto = *skeleton.parentOf(onto);
  const auto before = skeleton.parentOf(onto);
  if (!before || !figure.points[onto].there()) return;
  std::array<double, 3> least{1e9, 1e9, 1e9}, most{-1e9, -1e9, -1e9};
  for (const std::size_t i : part)
    for (std::size_t k = 0; k < 3; ++k) {
      least[k] = std::min(least[k], skeleton.points[i].rest[k]);
      most[k] = std::max(most[k], skeleton.points[i].rest[k]);
    }
  const std::size_t across = most[2] - least[2] > most[0] - least[0] ? 2 : 0;
  const auto flat = [&](std::size_t i) { return Point{skeleton.points[i].rest[across], -skeleton.points[i].rest[1]}; };
  const Point was = flat(onto) - flat(*before);
  const Point now = figure.points[*before].there() ? figure.points[onto].at - figure.points[*before].at : was;
  const double turn = lengthOf(now) > 1e-9 && across == 2 ? std::atan2(now.y, now.x) - std::atan2(was.y, was.x) : 0;
  const double size = sizeOf(figure), c = std::cos(turn), s = std::sin(turn);
  for (const std::size_t i : part) {
    const Point off = (flat(i) - flat(onto)) * size;
    KeyPoint& point = figure.points[i];
    point = {figure.points[onto].at + rotatedBy(off, c, s), Presence::seen, 1, false};
  }
}

nlohmann::json pointsToJson(const std::vector<KeyPoint>& points) {
  nlohmann::json out = nlohmann::json::array();
  for (const KeyPoint& p : points)
    out.push_back({p.at.x, p.at.y, static_cast<int>(p.presence), p.confidence, p.pinned ? 1 : 0});
  return out;
}

KeyPoint pointFromJson(const nlohmann::json& json, const std::string& where) {
  const auto v = numbersFromJson(json, where + ", a point", 5);
  if (!(std::abs(v[0]) <= farthestOut && std::abs(v[1]) <= farthestOut && v[2] >= 0 && v[2] <= 2 && v[3] >= 0 &&
        v[3] <= 1))
    throw badInput(where + ": a point is out of range.");
  return {{v[0], v[1]}, static_cast<Presence>(static_cast<int>(v[2])), v[3], v[4] != 0};
}

nlohmann::json figureToJson(const Figure& figure) {
  nlohmann::json json = {{"name", figure.name},
                         {"skeleton", figure.skeleton},
                         {"on", figure.on},
                         {"points", pointsToJson(figure.points)},
                         {"natural", figure.natural}};
  if (figure.body) json["angles"] = figure.body->angles;
  return json;
}

Figure figureFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Figure figure;
  figure.name = fields.text("name", "");
  figure.skeleton = fields.text("skeleton", "human");
  figure.on = fields.flag("on", true);
  const Skeleton& skeleton = skeletonOf(figure.skeleton, where);
  const auto& points = fields.child("points");
  if (!points.is_array() || points.size() != skeleton.points.size())
    throw badInput(fmt::format("{}: \"points\" is not a list of {}.", where, skeleton.points.size()));
  for (const auto& entry : points) figure.points.push_back(pointFromJson(entry, where));
  figure.natural = numbersFromJson(fields.child("natural"), where + ", \"natural\"", skeleton.bones.size());
  for (const double length : figure.natural)
    if (!(length > 0 && length <= farthestOut)) throw badInput(where + ": a natural length is out of range.");
  if (fields.has("angles"))
    figure.body = BodyPose{numbersFromJson(fields.child("angles"), where + ", \"angles\"", skeleton.turns.size())};
  return figure;
}

}  // namespace

std::optional<Bounds> boundsOf(const Figure& figure) {
  std::optional<Bounds> out;
  for (const KeyPoint& p : figure.points) {
    if (!p.there()) continue;
    if (!out) out = {p.at.x, p.at.y, p.at.x, p.at.y};
    out->left = std::min(out->left, p.at.x);
    out->right = std::max(out->right, p.at.x);
    out->top = std::min(out->top, p.at.y);
    out->bottom = std::max(out->bottom, p.at.y);
  }
  return out;
}

double sizeOf(const Figure& figure) {
  const Skeleton& skeleton = figure.kind();
  std::vector<double> sizes;
  for (std::size_t b = 0; b < skeleton.bones.size() && b < figure.natural.size(); ++b)
    if (skeleton.isBody(skeleton.bones[b].to))
      sizes.push_back(figure.natural[b] / (skeleton.bones[b].length * skeleton.bones[b].reach));
  if (sizes.empty()) return 1;
  const auto middle = sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2);
  std::nth_element(sizes.begin(), middle, sizes.end());
  return *middle;
}

double confidenceOf(const Figure& figure) {
  double sum = 0;
  int count = 0;
  for (const KeyPoint& p : figure.points)
    if (p.there()) {
      sum += p.confidence;
      ++count;
    }
  return count > 0 ? sum / count : 0;
}

double lengthOf(const Figure& figure, const Bone& bone) {
  return distanceBetween(figure.points[bone.from].at, figure.points[bone.to].at);
}

std::optional<double> shareOfNatural(const Figure& figure, std::size_t bone) {
  const Bone& of = figure.kind().bones[bone];
  if (!isThere(figure, of)) return {};
  return lengthOf(figure, of) / figure.natural[bone];
}

double overlength(const Figure& figure) {
  const auto& bones = figure.kind().bones;
  double most = 0;
  for (std::size_t b = 0; b < bones.size(); ++b)
    if (isThere(figure, bones[b])) most = std::max(most, lengthOf(figure, bones[b]) / figure.natural[b] - 1);
  return most;
}

std::vector<double> naturalFor(const Figure& figure) {
  const Skeleton& skeleton = figure.kind();
  // Foreshortening only shortens: the longer bones tell the size. Short ones and slack ones say little.
  std::vector<double> sizes;
  for (const Bone& bone : skeleton.bones)
    if (skeleton.isBody(bone.to) && bone.reach == 1 && bone.length > 0.1 && isThere(figure, bone))
      sizes.push_back(lengthOf(figure, bone) / bone.length);
  if (sizes.empty())
    for (const Bone& bone : skeleton.bones)
      if (isThere(figure, bone)) sizes.push_back(lengthOf(figure, bone) / (bone.length * bone.reach));
  std::sort(sizes.begin(), sizes.end());
  const double size = sizes.empty() ? 100 : std::max(1.0, sizes[(sizes.size() - 1) * 4 / 5]);
  std::vector<double> natural;
  for (const Bone& bone : skeleton.bones) {
    natural.push_back(size * bone.length * bone.reach);
    if (isThere(figure, bone)) natural.back() = std::max(natural.back(), lengthOf(figure, bone));
  }
  for (std::size_t b = 0; b < skeleton.bones.size(); ++b)
    for (std::size_t other = 0; other < b; ++other)
      if (skeleton.points[skeleton.bones[b].to].mirror == skeleton.bones[other].to &&
          skeleton.points[skeleton.bones[b].from].mirror == skeleton.bones[other].from)
        natural[b] = natural[other] = std::max(natural[b], natural[other]);
  return natural;
}

Figure withSidesSwapped(const Figure& figure) {
  const Skeleton& skeleton = figure.kind();
  Figure out = figure;
  for (std::size_t i = 0; i < figure.points.size(); ++i) out.points[skeleton.points[i].mirror] = figure.points[i];
  for (std::size_t b = 0; b < figure.natural.size(); ++b)
    for (std::size_t other = 0; other < skeleton.bones.size(); ++other)
      if (skeleton.bones[other].from == skeleton.points[skeleton.bones[b].from].mirror &&
          skeleton.bones[other].to == skeleton.points[skeleton.bones[b].to].mirror)
        out.natural[other] = figure.natural[b];
  // The same places with sides exchanged are another body: the pose in 3D is not known any more.
  out.body.reset();
  return out;
}

Figure mirrored(const Figure& figure, double x) {
  Figure out = withSidesSwapped(figure);
  for (KeyPoint& p : out.points)
    if (p.placed()) p.at.x = 2 * x - p.at.x;
  if (figure.body) out.body = mirroredPose(figure.kind(), *figure.body);
  return out;
}

Figure moved(const Figure& figure, Point by) {
  Figure out = figure;
  for (KeyPoint& p : out.points)
    if (p.placed()) p.at = p.at + by;
  return out;
}

Figure scaledAndTurned(const Figure& figure, Point centre, double scale, double degrees) {
  const double angle = degrees * std::numbers::pi / 180, c = scale * std::cos(angle), s = scale * std::sin(angle);
  Figure out = figure;
  for (KeyPoint& p : out.points) {
    if (!p.placed()) continue;
    p.at = centre + rotatedBy(p.at - centre, c, s);
  }
  for (double& length : out.natural) length *= scale;
  // Turned in the picture, the body leans in space: the fit finds out how.
  if (degrees != 0) out.body.reset();
  return out;
}

Figure withPart(const Figure& figure, const std::string& part, bool there) {
  const Skeleton& skeleton = figure.kind();
  Figure out = figure;
  std::vector<std::size_t> points;
  for (std::size_t i = 0; i < skeleton.points.size(); ++i)
    if (skeleton.points[i].part == part) points.push_back(i);
  if (points.empty()) return out;
  if (!there) {
    for (const std::size_t i : points) out.points[i] = {};
    return out;
  }
  placePart(out, points);
  for (std::size_t b = 0; b < skeleton.bones.size(); ++b)
    if (skeleton.points[skeleton.bones[b].to].part == part && isThere(out, skeleton.bones[b]))
      out.natural[b] = std::max(out.natural[b], lengthOf(out, skeleton.bones[b]));
  return out;
}

Figures following(const Figures& figures, Size frame, const std::optional<Affine>& placing) {
  Figures out = figures;
  out.frame = frame;
  out.placing = placing;
  const Affine back = thenFromNow(figures.frame, figures.placing, frame, placing);
  if (frame == figures.frame && isIdentity(back)) return out;
  Affine forth = back.inverted();
  if (!(figures.placing && placing)) {
    // Without a reference figures keep their proportions in a frame of another ratio.
    const double scale = std::min(forth.a, forth.e);
    forth = {scale, 0,     (frame.width - scale * figures.frame.width) / 2,
             0,     scale, (frame.height - scale * figures.frame.height) / 2};
  }
  // Lengths grow by the larger of the two scales, so that none becomes longer than natural.
  const double e = (forth.a + forth.e) / 2, f = (forth.a - forth.e) / 2, g = (forth.d + forth.b) / 2,
               h = (forth.d - forth.b) / 2;
  const double scale = std::hypot(e, h) + std::hypot(f, g);
  const bool flipped = forth.a * forth.e - forth.b * forth.d < 0;
  for (auto& figure : out.figures) {
    Figure next = flipped ? withSidesSwapped(*figure) : *figure;
    for (KeyPoint& p : next.points)
      if (p.placed()) p.at = {forth.mapX(p.at.x, p.at.y), forth.mapY(p.at.x, p.at.y)};
    for (double& length : next.natural) length *= scale;
    if (flipped && figure->body) next.body = mirroredPose(next.kind(), *figure->body);
    figure = std::make_shared<const Figure>(std::move(next));
  }
  return out;
}

namespace {

nlohmann::json figuresToJson(const Figures& figures) {
  nlohmann::json list = nlohmann::json::array();
  for (const auto& figure : figures.figures) list.push_back(figureToJson(*figure));
  return {{"width", figures.frame.width},
          {"height", figures.frame.height},
          {"placing", affineToJson(figures.placing)},
          {"figures", std::move(list)}};
}

Figures figuresFromJson(const nlohmann::json& json) {
  const std::string where = "Figures in the study";
  JsonFields fields(json, where);
  Figures out;
  out.frame = workFrameFrom(fields);
  out.placing = affineFromJson(fields.child("placing"), where);
  const auto& list = fields.child("figures");
  if (!list.is_array()) throw badInput(where + ": \"figures\" is not a list.");
  if (list.size() > mostFigures)
    throw badInput(fmt::format("{}: there are {} figures; at most {} are taken.", where, list.size(), mostFigures));
  for (std::size_t i = 0; i < list.size(); ++i)
    out.figures.push_back(
        std::make_shared<const Figure>(figureFromJson(list[i], fmt::format("{}, figure {}", where, i + 1))));
  return out;
}

}  // namespace

std::string figuresToText(const Figures& figures) { return figuresToJson(figures).dump(); }
Figures figuresFromText(const std::string& text) { return figuresFromJson(parseJson(text, "Figures in the study")); }

const WorkForm& figuresForm() {
  static const WorkForm form = workForm<Figures>("figures", "Figures", figuresToText, figuresFromText, following);
  return form;
}

}  // namespace hscaffold::pose
