#include "core/pose/coco.h"

#include <fmt/format.h>

#include <cmath>
#include <map>

#include "core/guides/json_fields.h"

namespace hscaffold::pose {
namespace {

constexpr std::size_t cocoPeople = 17;  ///< points of a person in COCO, the first ones of our human skeleton

std::size_t pointsInCoco(const Skeleton& skeleton) {
  return skeleton.id == "human" ? cocoPeople : skeleton.points.size();
}

nlohmann::json pointToJson(const KeyPoint& p) {
  return {p.at.x, p.at.y, static_cast<int>(p.presence), p.confidence, p.pinned ? 1 : 0};
}

nlohmann::json categoryOf(const Skeleton& skeleton, int id) {
  nlohmann::json names = nlohmann::json::array(), lines = nlohmann::json::array();
  const std::size_t count = pointsInCoco(skeleton);
  for (std::size_t i = 0; i < count; ++i) names.push_back(skeleton.points[i].id);
  // COCO counts from 1.
  for (const Bone& bone : skeleton.bones)
    if (bone.from < count && bone.to < count) lines.push_back({bone.from + 1, bone.to + 1});
  return {{"id", id}, {"name", skeleton.category}, {"keypoints", std::move(names)}, {"skeleton", std::move(lines)}};
}

nlohmann::json annotationOf(const Figure& figure, std::size_t number, int category) {
  const Skeleton& skeleton = figure.kind();
  nlohmann::json points = nlohmann::json::array(), confidences = nlohmann::json::array(),
                 others = nlohmann::json::object(), pinned = nlohmann::json::array();
  int there = 0;
  for (std::size_t i = 0; i < skeleton.points.size(); ++i) {
    const KeyPoint& p = figure.points[i];
    if (i >= pointsInCoco(skeleton)) {
      if (p != KeyPoint{}) others[skeleton.points[i].id] = pointToJson(p);
      continue;
    }
    points.push_back(p.at.x);
    points.push_back(p.at.y);
    points.push_back(static_cast<int>(p.presence));
    confidences.push_back(p.confidence);
    if (p.pinned) pinned.push_back(skeleton.points[i].id);
    there += p.there() ? 1 : 0;
  }
  const Bounds box = boundsOf(figure).value_or(Bounds{});
  nlohmann::json scaffold = {
      {"name", figure.name}, {"on", figure.on}, {"confidences", std::move(confidences)}, {"natural", figure.natural}};
  if (!others.empty()) scaffold["points"] = std::move(others);
  if (!pinned.empty()) scaffold["pinned"] = std::move(pinned);
  if (figure.body) scaffold["angles"] = figure.body->angles;
  return {{"id", number},
          {"image_id", 1},
          {"category_id", category},
          {"iscrowd", 0},
          {"keypoints", std::move(points)},
          {"num_keypoints", there},
          {"bbox", {box.left, box.top, box.width(), box.height()}},
          {"area", box.width() * box.height()},
          {"score", confidenceOf(figure)},
          {"scaffold", std::move(scaffold)}};
}

/// A category as a file has it: whose points they are, and which of ours each one is.
struct Category {
  const Skeleton* skeleton = nullptr;
  std::vector<int> points;  ///< by place in the file; -1: one that we do not have
  std::string unknown;      ///< its name, where no skeleton is known for it
};

Category categoryFrom(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Category out;
  const std::string name = fields.text("name", "");
  for (const Skeleton& skeleton : skeletons())
    if (skeleton.category == name) out.skeleton = &skeleton;
  if (fields.has("keypoints")) {
    const auto& names = fields.child("keypoints");
    if (!names.is_array()) throw badInput(where + ": \"keypoints\" is not a list of names.");
    // Another name for the same thing is known by its points.
    for (const Skeleton& skeleton : skeletons()) {
      if (out.skeleton != nullptr) break;
      std::size_t known = 0;
      for (const auto& point : names) known += point.is_string() && skeleton.find(point.get<std::string>()) ? 1 : 0;
      if (known * 2 > names.size()) out.skeleton = &skeleton;
    }
    if (out.skeleton != nullptr)
      for (const auto& point : names) {
        const auto found = point.is_string() ? out.skeleton->find(point.get<std::string>()) : std::nullopt;
        out.points.push_back(found ? static_cast<int>(*found) : -1);
      }
  }
  if (out.skeleton == nullptr) {
    out.unknown = name.empty() ? "without a name" : "\"" + name + "\"";
  } else if (out.points.empty()) {
    for (std::size_t i = 0; i < pointsInCoco(*out.skeleton); ++i) out.points.push_back(static_cast<int>(i));
  }
  return out;
}

double numberAt(const nlohmann::json& list, std::size_t i, const std::string& where) {
  const auto& value = list[i];
  if (!value.is_number()) throw badInput(fmt::format("{}: number {} of \"keypoints\" is not a number.", where, i + 1));
  const double number = value.get<double>();
  if (!std::isfinite(number) || std::abs(number) > farthestOut)
    throw badInput(fmt::format("{}: number {} of \"keypoints\" is out of all bounds.", where, i + 1));
  return number;
}

KeyPoint pointFrom(const nlohmann::json& list, std::size_t at, double score, const std::string& where) {
  KeyPoint p;
  p.at = {numberAt(list, at, where), numberAt(list, at + 1, where)};
  const double v = numberAt(list, at + 2, where);
  if (v < 0 || v > 2)
    throw badInput(fmt::format("{}: number {} of \"keypoints\" is {}, but visibility is 0, 1 or 2.", where, at + 3, v));
  if (v == std::floor(v)) {
    p.presence = static_cast<Presence>(static_cast<int>(v));
    p.confidence = score;
  } else {
    p.presence = Presence::seen;
    p.confidence = std::min(1.0, v);
  }
  return p;
}

/// What we wrote ourselves beyond COCO.
void readScaffold(Figure& figure, const nlohmann::json& json, const std::string& where) {
  const Skeleton& skeleton = figure.kind();
  JsonFields fields(json, where);
  figure.name = fields.text("name", "");
  figure.on = fields.flag("on", true);
  const auto named = [&](const std::string& id) {
    const auto found = skeleton.find(id);
    if (!found) throw badInput(fmt::format("{}: the {} skeleton has no point \"{}\".", where, skeleton.id, id));
    return *found;
  };
  if (fields.has("confidences")) {
    const auto list = numbersFromJson(fields.child("confidences"), where + ", confidences", pointsInCoco(skeleton));
    for (std::size_t i = 0; i < list.size(); ++i) figure.points[i].confidence = std::clamp(list[i], 0.0, 1.0);
  }
  if (fields.has("points"))
    for (const auto& [id, value] : fields.child("points").items()) {
      const auto v = numbersFromJson(value, where + ", " + id, 5);
      if (!(v[2] >= 0 && v[2] <= 2 && std::abs(v[0]) <= farthestOut && std::abs(v[1]) <= farthestOut))
        throw badInput(where + ": \"" + id + "\" is out of range.");
      figure.points[named(id)] = {
          {v[0], v[1]}, static_cast<Presence>(static_cast<int>(v[2])), std::clamp(v[3], 0.0, 1.0), v[4] != 0};
    }
  if (fields.has("pinned"))
    for (const auto& id : fields.child("pinned"))
      if (id.is_string()) figure.points[named(id.get<std::string>())].pinned = true;
  if (fields.has("natural")) {
    figure.natural = numbersFromJson(fields.child("natural"), where + ", natural", skeleton.bones.size());
    for (const double length : figure.natural)
      if (!(length > 0 && length <= farthestOut)) throw badInput(where + ": a natural length is out of range.");
  }
  if (fields.has("angles"))
    figure.body = BodyPose{numbersFromJson(fields.child("angles"), where + ", angles", skeleton.turns.size())};
}

/// A neck that nobody gave lies between the shoulders.
void addNeck(Figure& figure) {
  const Skeleton& skeleton = figure.kind();
  const auto neck = skeleton.find("neck"), left = skeleton.find("left_shoulder"),
             right = skeleton.find("right_shoulder");
  if (!neck || !left || !right || figure.points[*neck].there()) return;
  const KeyPoint &a = figure.points[*left], &b = figure.points[*right];
  if (!a.there() || !b.there()) return;
  figure.points[*neck] = {(a.at + b.at) * 0.5, std::max(a.presence, b.presence), std::min(a.confidence, b.confidence),
                          false};
}

Figure figureFrom(const nlohmann::json& json, const std::map<std::int64_t, Category>& categories,
                  const std::string& where) {
  JsonFields fields(json, where);
  const auto id = fields.integer("category_id", -1'000'000'000, 1'000'000'000, 1);
  Category category = categoryFrom(nlohmann::json{{"name", "person"}}, where);
  if (const auto found = categories.find(id); found != categories.end())
    category = found->second;
  else if (!categories.empty())
    throw badInput(fmt::format("{}: there is no category {}.", where, id));
  if (category.skeleton == nullptr)
    throw badInput(
        fmt::format("{}: its category {} is neither a person nor a four-legged animal.", where, category.unknown));
  const double score = fields.number("score", -1e9, 1e9, 1.0);
  Figure figure;
  figure.skeleton = category.skeleton->id;
  figure.points.resize(category.skeleton->points.size());
  const auto& points = fields.child("keypoints");
  if (!points.is_array()) throw badInput(where + ": \"keypoints\" is not a list.");
  if (points.size() != 3 * category.points.size())
    throw badInput(fmt::format("{}: \"keypoints\" has {} numbers, but its category has {} points of 3 numbers each.",
                               where, points.size(), category.points.size()));
  for (std::size_t i = 0; i < category.points.size(); ++i) {
    const KeyPoint p = pointFrom(points, 3 * i, std::clamp(score, 0.0, 1.0), where);
    if (category.points[i] >= 0) figure.points[static_cast<std::size_t>(category.points[i])] = p;
  }
  if (fields.has("scaffold"))
    readScaffold(figure, fields.child("scaffold"), where + ", scaffold");
  else
    addNeck(figure);
  if (figure.natural.empty()) figure.natural = naturalFor(figure);
  return figure;
}

}  // namespace

nlohmann::json cocoFrom(const Figures& figures) {
  nlohmann::json categories = nlohmann::json::array(), annotations = nlohmann::json::array();
  int number = 0;
  std::map<std::string, int> ids;
  for (const Skeleton& skeleton : skeletons()) {
    ids[skeleton.id] = ++number;
    categories.push_back(categoryOf(skeleton, number));
  }
  for (const auto& figure : figures.figures)
    annotations.push_back(annotationOf(*figure, annotations.size() + 1, ids.at(figure->skeleton)));
  return {{"info", {{"description", "Key points"}, {"version", "1"}}},
          {"images", {{{"id", 1}, {"width", figures.frame.width}, {"height", figures.frame.height}}}},
          {"categories", std::move(categories)},
          {"annotations", std::move(annotations)}};
}

CocoFigures figuresFromCoco(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  std::map<std::int64_t, Category> categories;
  CocoFigures out;
  const nlohmann::json* list = &json;
  if (json.is_object()) {
    JsonFields fields(json, where);
    list = &fields.child("annotations");
    if (fields.has("categories")) {
      const auto& all = fields.child("categories");
      if (!all.is_array()) throw badInput(where + ": \"categories\" is not a list.");
      for (std::size_t i = 0; i < all.size(); ++i) {
        const std::string here = fmt::format("{}, category {}", where, i + 1);
        JsonFields one(all[i], here);
        categories[one.integer("id", -1'000'000'000, 1'000'000'000)] = categoryFrom(all[i], here);
      }
    }
    if (fields.has("images")) {
      const auto& images = fields.child("images");
      if (!images.is_array()) throw badInput(where + ": \"images\" is not a list.");
      if (!images.empty()) {
        JsonFields one(images[0], where + ", image 1");
        out.size = {static_cast<int>(one.integer("width", 0, 1'000'000, 0)),
                    static_cast<int>(one.integer("height", 0, 1'000'000, 0))};
      }
    }
  }
  if (!list->is_array()) throw badInput(where + ": \"annotations\" is not a list.");
  if (list->size() > mostFigures)
    throw badInput(fmt::format("{} has {} figures; at most {} are taken at once. Nothing was changed.", where,
                               list->size(), mostFigures));
  std::optional<std::int64_t> image;
  std::size_t elsewhere = 0, empty = 0;
  for (std::size_t i = 0; i < list->size(); ++i) {
    const std::string here = fmt::format("{}, annotation {}", where, i + 1);
    const auto& entry = (*list)[i];
    if (entry.is_object() && entry.contains("image_id") && entry["image_id"].is_number_integer()) {
      // One picture at a time: the first one that figures are of.
      const auto of = entry["image_id"].get<std::int64_t>();
      if (!image) image = of;
      if (of != *image) {
        ++elsewhere;
        continue;
      }
    }
    Figure figure = figureFrom(entry, categories, here);
    if (!boundsOf(figure) && !(entry.contains("scaffold"))) {
      ++empty;
      continue;
    }
    out.figures.figures.push_back(std::make_shared<const Figure>(std::move(figure)));
  }
  out.figures.frame = out.size;
  if (elsewhere > 0)
    out.note = fmt::format("{} figures of other pictures were left out.", elsewhere);
  else if (empty > 0)
    out.note = fmt::format("{} figures without any point were left out.", empty);
  return out;
}

Figures fittedInto(Figures figures, Size from, Size frame) {
  const bool known = from.width > 0 && from.height > 0;
  figures.frame = known ? from : frame;
  figures.placing.reset();
  return following(figures, frame, {});
}

}  // namespace hscaffold::pose
