#include "core/pose/pose_words.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "core/guides/json_fields.h"
#include "core/pose/fit.h"
#include "core/pose/library.h"
#include "core/pose/posed_body.h"

namespace hscaffold::pose {
namespace {

using Eigen::Vector3d;
constexpr std::size_t mostTold = 4;  ///< figures: a prompt is no list
constexpr double inDegrees = 180 / std::numbers::pi;

struct Rule {
  std::string skeleton, group, words;
  struct Condition {
    std::string measure;
    double least, most;
  };
  std::vector<Condition> when;
};

struct RuleTable {
  std::vector<Rule> rules;
  std::map<std::string, std::vector<std::string>> stances;
  std::vector<std::pair<std::string, std::string>> alike;
};

const RuleTable& table() {
  static const RuleTable all = [] {
    RuleTable out;
    const auto json = parseJson(std::string(poseData("pose-rules.json")), "The pose rules");
    for (const auto& entry : json.at("list")) {
      Rule rule{entry.at("skeleton"), entry.at("group"), entry.at("words"), {}};
      for (const auto& [measure, range] : entry.at("when").items())
        rule.when.push_back({measure, range.at(0).get<double>(), range.at(1).get<double>()});
      out.rules.push_back(std::move(rule));
    }
    out.stances = json.at("stances").get<std::map<std::string, std::vector<std::string>>>();
    for (const auto& pair : json.at("alike")) out.alike.emplace_back(pair.at(0), pair.at(1));
    return out;
  }();
  return all;
}

class Body {
 public:
  Body(const Skeleton& skeleton, const BodyPose& pose) : skeleton_(skeleton), pose_(pose) {
    BodyPlace place;
    place.size = 1;
    posed_ = posed(skeleton, pose.angles, place);
  }
  [[nodiscard]] Vector3d at(const std::string& point) const { return posed_.points[*skeleton_.find(point)]; }
  [[nodiscard]] double angle(const std::string& turn) const { return pose_.angles[*skeleton_.findTurn(turn)]; }
  [[nodiscard]] double lowest() const {
    double least = 1e9;
    for (std::size_t i = 0; i < skeleton_.points.size(); ++i)
      if (skeleton_.isBody(i)) least = std::min(least, posed_.points[i].y());
    return least;
  }

 private:
  const Skeleton& skeleton_;
  const BodyPose& pose_;
  PosedBody posed_;
};

double azimuth(const Vector3d& way) { return std::atan2(way.x(), way.z()) * inDegrees; }

BodyMeasures humanMeasures(const Body& body) {
  BodyMeasures m;
  const Vector3d hips = (body.at("left_hip") + body.at("right_hip")) / 2, trunk = body.at("neck") - hips;
  const Vector3d across = (body.at("left_shoulder") - body.at("right_shoulder")).normalized();
  const Vector3d chest = across.cross(trunk).normalized();
  Vector3d ahead = (body.at("left_hip") - body.at("right_hip")).cross(Vector3d::UnitY());
  if (ahead.norm() < 1e-6) ahead = chest;
  ahead.normalize();
  m["trunk_up"] = trunk.normalized().y();
  m["lean"] = std::acos(std::clamp(m["trunk_up"], -1.0, 1.0)) * inDegrees;
  m["forward"] = std::atan2(trunk.dot(ahead), trunk.y()) * inDegrees;
  m["seen"] = azimuth(chest);
  const double lowest = body.lowest();
  m["low"] = hips.y() - lowest;
  double knees = 180, bent = 0, thighs = 180, elbows = 0, kneeLow = 9, highHand = -9;
  int onGround = 0;
  for (const std::string side : {"left", "right"}) {
    const Vector3d thigh = body.at(side + "_knee") - body.at(side + "_hip"),
                   shin = body.at(side + "_ankle") - body.at(side + "_knee");
    const double bend = body.angle(side + "_knee.bend");
    knees = std::min(knees, bend);
    bent = std::max(bent, bend);
    const double raised = std::acos(std::clamp(-thigh.normalized().y(), -1.0, 1.0)) * inDegrees;
    thighs = std::min(thighs, thigh.dot(ahead) >= -0.02 ? raised : -raised);
    elbows = std::max(elbows, body.angle(side + "_elbow.bend"));
    const double height = body.at(side + "_knee").y() - lowest, flat = 1 - std::abs(shin.normalized().y());
    if (height < 0.06 && flat > 0.5 && bend > 60) ++onGround;
    if (height < kneeLow) {
      kneeLow = height;
      m["shin_flat"] = flat;
      m["kneel_bend"] = bend;
    }
    const Vector3d arm = body.at(side + "_wrist") - body.at(side + "_shoulder");
    m[side + "_hand"] = arm.y();
    m[side + "_front"] = arm.dot(chest);
    m[side + "_aside"] = arm.dot(across) * (side == "left" ? 1 : -1);
    highHand = std::max(highHand, arm.y());
  }
  m["knees"] = knees;
  m["bent"] = bent;
  m["thighs"] = thighs;
  m["elbows"] = elbows;
  m["knee_low"] = kneeLow;
  m["high_hand"] = highHand;
  m["one_knee"] = onGround == 1 ? 1 : 0;
  Vector3d feet = body.at("left_ankle") - body.at("right_ankle");
  feet.y() = 0;
  m["apart"] = feet.norm();
  m["along"] = std::abs(feet.dot(ahead));
  const Vector3d face = (body.at("nose") - (body.at("left_ear") + body.at("right_ear")) / 2).normalized();
  m["nod"] = -std::asin(std::clamp(face.y(), -1.0, 1.0)) * inDegrees - 10;
  m["head_turn"] = body.angle("head.turn");
  return m;
}

BodyMeasures animalMeasures(const Body& body) {
  BodyMeasures m;
  const Vector3d spine = body.at("withers") - body.at("croup");
  const Vector3d ahead = Vector3d(spine.x(), 0, spine.z()).normalized();
  m["slope"] = std::atan2(spine.y(), std::hypot(spine.x(), spine.z())) * inDegrees;
  m["seen"] = azimuth(spine);
  const double lowest = body.lowest();
  m["low"] = body.at("croup").y() - lowest;
  m["front_low"] = body.at("withers").y() - lowest;
  m["head_height"] = body.at("nose").y() - body.at("withers").y();
  double spread = 0;
  for (const std::string end : {"front", "hind"})
    spread =
        std::max(spread, std::abs((body.at("left_" + end + "_paw") - body.at("right_" + end + "_paw")).dot(ahead)));
  m["stride"] = spread;
  const Vector3d front = (body.at("left_front_paw") + body.at("right_front_paw")) / 2,
                 hind = (body.at("left_hind_paw") + body.at("right_hind_paw")) / 2;
  m["stretch"] = (front - hind).dot(ahead);
  return m;
}

}  // namespace

BodyMeasures bodyMeasuresOf(const Skeleton& skeleton, const BodyPose& pose) {
  const Body body(skeleton, pose);
  return skeleton.id == "human" ? humanMeasures(body) : animalMeasures(body);
}

std::string PoseWords::text() const { return fmt::format("{}", fmt::join(phrases, ", ")); }

PoseWords wordsFor(const Skeleton& skeleton, const BodyPose& pose) {
  const BodyMeasures measures = bodyMeasuresOf(skeleton, pose);
  PoseWords out;
  std::set<std::string> groups;
  for (const Rule& rule : table().rules) {
    if (rule.skeleton != skeleton.id || groups.contains(rule.group)) continue;
    if (!std::all_of(rule.when.begin(), rule.when.end(), [&](const Rule::Condition& c) {
          const auto found = measures.find(c.measure);
          return found != measures.end() && found->second >= c.least && found->second <= c.most;
        }))
      continue;
    groups.insert(rule.group);
    if (rule.group == "stance") out.stance = rule.words;
    out.phrases.push_back(rule.words);
  }
  return out;
}

PoseWords wordsFor(const Figure& figure) {
  const Skeleton& skeleton = figure.kind();
  const auto there =
      std::count_if(figure.points.begin(), figure.points.end(), [](const KeyPoint& p) { return p.there(); });
  if (there < 4) return {};
  return wordsFor(skeleton, figure.body ? *figure.body : lifted(figure, startsFor(figure.skeleton)).pose);
}

std::string wordsFor(const Figures& figures) {
  std::vector<std::string> all;
  // The nearest first: it is what the picture is about.
  for (auto figure = figures.figures.rbegin(); figure != figures.figures.rend(); ++figure) {
    if (!(*figure)->on || all.size() >= mostTold) continue;
    std::string text = wordsFor(**figure).text();
    if (text.empty()) continue;
    if (!(*figure)->name.empty() && figures.figures.size() > 1) text = (*figure)->name + " " + text;
    if (std::find(all.begin(), all.end(), text) == all.end()) all.push_back(std::move(text));
  }
  return fmt::format("{}", fmt::join(all, "; "));
}

std::vector<std::string> stancesIn(const std::string& prompt) {
  std::vector<std::string> out;
  std::string word;
  const auto look = [&] {
    for (const auto& [stance, words] : table().stances)
      if (std::find(words.begin(), words.end(), word) != words.end() &&
          std::find(out.begin(), out.end(), stance) == out.end())
        out.push_back(stance);
    word.clear();
  };
  for (const char c : prompt)
    if (std::isalpha(static_cast<unsigned char>(c)))
      word += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    else
      look();
  look();
  return out;
}

std::string withStance(const std::string& prompt, const std::string& from, const std::string& to) {
  std::string out, word;
  const auto& words = table().stances.at(from);
  const auto put = [&] {
    std::string lower = word;
    std::transform(lower.begin(), lower.end(), lower.begin(),
                   [](char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); });
    out += std::find(words.begin(), words.end(), lower) != words.end() ? to : word;
    word.clear();
  };
  for (const char c : prompt) {
    if (std::isalpha(static_cast<unsigned char>(c))) {
      word += c;
      continue;
    }
    put();
    out += c;
  }
  put();
  return out;
}

std::optional<std::string> withPoseWords(const std::string& prompt, const std::string& before,
                                         const std::string& words) {
  if (before.empty()) return prompt + (prompt.empty() || words.empty() ? "" : ", ") + words;
  const auto at = prompt.find(before);
  if (at == std::string::npos) return {};
  return prompt.substr(0, at) + words + prompt.substr(at + before.size());
}

bool agree(const std::string& stance, const std::string& other) {
  if (stance == other) return true;
  for (const auto& [a, b] : table().alike)
    if ((a == stance && b == other) || (a == other && b == stance)) return true;
  return false;
}

}  // namespace hscaffold::pose
