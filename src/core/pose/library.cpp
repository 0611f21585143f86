#include "core/pose/library.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <sstream>

#include "core/guides/json_fields.h"
#include "core/pose/fit.h"
#include "core/pose/posing.h"

namespace hscaffold::pose {
namespace {

constexpr std::size_t mostPoses = 5000;
constexpr std::size_t longestName = 80;

std::string lowered(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); });
  return text;
}

std::vector<std::string> wordsOf(const std::string& text) {
  std::string clean = lowered(text);
  std::replace_if(
      clean.begin(), clean.end(), [](char c) { return c == ',' || c == '-'; }, ' ');
  std::istringstream in(clean);
  std::vector<std::string> words;
  for (std::string word; in >> word;) words.push_back(word);
  return words;
}

NamedPose poseFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  NamedPose out;
  out.name = fields.text("name");
  if (out.name.empty() || out.name.size() > longestName)
    throw badInput(fmt::format("{}: a name has 1 to {} characters.", where, longestName));
  out.skeleton = fields.text("skeleton", "human");
  const Skeleton& skeleton = skeletonOf(out.skeleton, where);
  out.category = fields.text("category", "");
  if (fields.has("tags")) {
    const auto& tags = fields.child("tags");
    if (!tags.is_array()) throw badInput(where + ": \"tags\" is a list of words.");
    for (const auto& tag : tags) {
      if (!tag.is_string()) throw badInput(where + ": \"tags\" is a list of words.");
      out.tags.push_back(tag.get<std::string>());
    }
  }
  out.pose.angles.assign(skeleton.turns.size(), 0);
  const auto& angles = fields.child("angles");
  if (!angles.is_object()) throw badInput(where + ": \"angles\" is an object of turns and degrees.");
  for (const auto& [id, value] : angles.items()) {
    const auto turn = skeleton.findTurn(id);
    if (!turn) throw badInput(fmt::format("{}: the {} skeleton has no turn \"{}\".", where, skeleton.id, id));
    if (!value.is_number()) throw badInput(fmt::format("{}: \"{}\" is not a number of degrees.", where, id));
    const double degrees = value.get<double>();
    const Turn& limits = skeleton.turns[*turn];
    if (!(degrees >= limits.least - 1e-6 && degrees <= limits.most + 1e-6))
      throw badInput(fmt::format("{}: \"{}\" is {}, but it goes from {} to {} degrees.", where, id, degrees,
                                 limits.least, limits.most));
    out.pose.angles[*turn] = degrees;
  }
  fields.refuseOthers();
  return out;
}

/// The figure's own pose, or the one that fits it best, and where the body then is.
FitResult bodyOf(const Figure& figure) {
  if (!figure.body) return lifted(figure, startsFor(figure.skeleton));
  return {*figure.body, placeOf(figure, *figure.body), 0};
}

}  // namespace

std::span<const PoseView> poseViews() {
  static constexpr std::array<PoseView, 8> views = {{{"Front", 0},
                                                     {"Front, to the right", 45},
                                                     {"To the right", 90},
                                                     {"Back, to the right", 135},
                                                     {"Back", 180},
                                                     {"Back, to the left", -135},
                                                     {"To the left", -90},
                                                     {"Front, to the left", -45}}};
  return views;
}

BodyPose seenFrom(const Skeleton& skeleton, BodyPose pose, double turn) {
  if (const auto root = skeleton.findTurn(skeleton.joints.front().id + ".turn"))
    pose.angles[*root] = std::remainder(turn, 360.0);
  return pose;
}

std::span<const NamedPose> housePoses() {
  static const auto poses = posesFromJson(std::string(poseData("poses.json")), "The pose library");
  return poses;
}

const std::vector<BodyPose>& startsFor(const std::string& skeleton) {
  static const auto all = [] {
    std::map<std::string, std::vector<BodyPose>> starts;
    for (const NamedPose& pose : housePoses()) starts[pose.skeleton].push_back(pose.pose);
    return starts;
  }();
  static const std::vector<BodyPose> none;
  const auto found = all.find(skeleton);
  return found != all.end() ? found->second : none;
}

std::vector<std::size_t> foundPoses(std::span<const NamedPose> poses, const std::string& words) {
  const auto wanted = wordsOf(words);
  std::vector<std::size_t> found;
  for (std::size_t i = 0; i < poses.size(); ++i) {
    std::string text = poses[i].name + " " + poses[i].category;
    for (const std::string& tag : poses[i].tags) text += " " + tag;
    const auto has = wordsOf(text);
    if (std::all_of(wanted.begin(), wanted.end(), [&](const std::string& word) {
          return std::any_of(has.begin(), has.end(), [&](const std::string& other) { return other.starts_with(word); });
        }))
      found.push_back(i);
  }
  return found;
}

std::vector<NamedPose> posesFromJson(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  fields.integer("poses", 1, 1);
  fields.text("name", "");
  const auto& list = fields.child("list");
  if (!list.is_array() || list.size() > mostPoses)
    throw badInput(fmt::format("{}: \"list\" is not a list of at most {} poses.", where, mostPoses));
  std::vector<NamedPose> out;
  for (std::size_t i = 0; i < list.size(); ++i)
    out.push_back(poseFromJson(list[i], fmt::format("{}, pose {}", where, i + 1)));
  fields.refuseOthers();
  return out;
}

std::string posesToJson(std::span<const NamedPose> poses, const std::string& name) {
  nlohmann::json list = nlohmann::json::array();
  for (const NamedPose& pose : poses) {
    const Skeleton& skeleton = skeletonOf(pose.skeleton);
    nlohmann::json angles = nlohmann::json::object();
    for (std::size_t t = 0; t < skeleton.turns.size(); ++t)
      if (pose.pose.angles[t] != 0) angles[skeleton.turns[t].id] = pose.pose.angles[t];
    list.push_back({{"name", pose.name},
                    {"skeleton", pose.skeleton},
                    {"category", pose.category},
                    {"tags", pose.tags},
                    {"angles", std::move(angles)}});
  }
  return nlohmann::json({{"poses", 1}, {"name", name}, {"list", std::move(list)}}).dump(1) + "\n";
}

Figure blendedFigures(const Figure& a, const Figure& b, double share) {
  if (share <= 0) return a;
  if (share >= 1) return b;
  if (a.skeleton != b.skeleton) throw badInput("Only figures of the same kind can be blended.");
  const Skeleton& skeleton = a.kind();
  const FitResult from = bodyOf(a), to = bodyOf(b);
  const auto mix = [share](double x, double y) { return x + share * (y - x); };
  BodyPlace place;
  place.at = from.place.at + (to.place.at - from.place.at) * share;
  place.size = mix(from.place.size, to.place.size);
  for (std::size_t i = 0; i < a.natural.size(); ++i) place.natural.push_back(mix(a.natural[i], b.natural[i]));
  Figure out = figureFrom(skeleton, blended(skeleton, from.pose, to.pose, share), place, true);
  const Figure atStart = figureFrom(skeleton, from.pose, from.place, true),
               atEnd = figureFrom(skeleton, to.pose, to.place, true);
  // What either figure has beyond its body fades over with it, so that the ends are met exactly.
  for (std::size_t i = 0; i < out.points.size(); ++i) {
    KeyPoint& p = out.points[i];
    const KeyPoint &first = a.points[i], &second = b.points[i];
    if (!first.there() && !second.there()) {
      p = {};
      continue;
    }
    if (first.there()) p.at = p.at + (first.at - atStart.points[i].at) * (1 - share);
    if (second.there()) p.at = p.at + (second.at - atEnd.points[i].at) * share;
    p.confidence = mix(first.confidence, second.confidence);
  }
  out.name = a.name;
  out.on = a.on;
  out.natural = place.natural;
  for (std::size_t bone = 0; bone < skeleton.bones.size(); ++bone)
    if (out.points[skeleton.bones[bone].from].there() && out.points[skeleton.bones[bone].to].there())
      out.natural[bone] = std::max(out.natural[bone], lengthOf(out, skeleton.bones[bone]));
  return out;
}

}  // namespace hscaffold::pose
