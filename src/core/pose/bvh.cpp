#include "core/pose/bvh.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace hscaffold::pose {
namespace {

using Eigen::Matrix3d, Eigen::Vector3d;
constexpr std::array<const char*, 6> channelNames = {"Xposition", "Yposition", "Zposition",
                                                     "Xrotation", "Yrotation", "Zrotation"};

/// Words of the text, with the line each is on.
class Words {
 public:
  Words(const std::string& text, const std::string& where) : text_(text), where_(where) {}
  /// Empty at the end.
  std::string_view next() {
    while (at_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[at_])))
      line_ += text_[at_++] == '\n' ? 1 : 0;
    const std::size_t begin = at_;
    while (at_ < text_.size() && !std::isspace(static_cast<unsigned char>(text_[at_]))) ++at_;
    return std::string_view(text_).substr(begin, at_ - begin);
  }
  [[noreturn]] void wrong(const std::string& what) const {
    throw badInput(fmt::format("{}, line {}: {}", where_, line_, what));
  }
  void expect(std::string_view word) {
    if (const auto got = next(); got != word) wrong(fmt::format("\"{}\" is expected, not \"{}\".", word, got));
  }
  double number() {
    const auto word = next();
    double value = 0;
    const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value);
    if (word.empty()) wrong("the file ends too early.");
    if (error != std::errc() || end != word.data() + word.size() || !std::isfinite(value) || std::abs(value) > 1e7)
      wrong(fmt::format("\"{}\" is not a number that makes sense here.", word));
    return value;
  }
  std::size_t count(std::size_t most, const std::string& of) {
    const double value = number();
    if (!(value >= 0 && value == std::floor(value))) wrong(fmt::format("a number of {} is expected.", of));
    if (value > static_cast<double>(most)) wrong(fmt::format("{:.0f} {}; at most {} are taken.", value, of, most));
    return static_cast<std::size_t>(value);
  }

 private:
  const std::string& text_;
  const std::string& where_;
  std::size_t at_ = 0;
  int line_ = 1;
};

void readJoint(Words& words, BvhClip& clip, int parent, bool end, int depth) {
  if (depth > 100) words.wrong("joints are nested too deeply.");
  if (clip.joints.size() >= mostBvhJoints) words.wrong(fmt::format("more than {} joints.", mostBvhJoints));
  BvhJoint joint;
  joint.parent = parent;
  joint.end = end;
  if (end)
    words.expect("Site");
  else
    joint.name = words.next();
  if (end) joint.name = clip.joints[static_cast<std::size_t>(parent)].name + " end";
  words.expect("{");
  words.expect("OFFSET");
  for (double& v : joint.offset) v = words.number();
  const int self = static_cast<int>(clip.joints.size());
  joint.firstChannel = clip.channels;
  clip.joints.push_back(joint);
  for (auto word = words.next();; word = words.next()) {
    if (word == "}") return;
    if (word == "CHANNELS" && !end) {
      if (!clip.joints[static_cast<std::size_t>(self)].channels.empty()) words.wrong("a joint has channels twice.");
      const std::size_t count = words.count(6, "channels");
      for (std::size_t i = 0; i < count; ++i) {
        const auto name = words.next();
        const auto found = std::find(channelNames.begin(), channelNames.end(), name);
        if (found == channelNames.end()) words.wrong(fmt::format("there is no channel \"{}\".", name));
        clip.joints[static_cast<std::size_t>(self)].channels.push_back(static_cast<int>(found - channelNames.begin()));
      }
      clip.joints[static_cast<std::size_t>(self)].firstChannel = clip.channels;
      clip.channels += count;
    } else if (word == "JOINT" && !end) {
      readJoint(words, clip, self, false, depth + 1);
    } else if (word == "End" && !end) {
      readJoint(words, clip, self, true, depth + 1);
    } else {
      words.wrong(word.empty() ? std::string("the file ends inside a joint.")
                               : fmt::format("\"{}\" is not expected in a joint.", word));
    }
  }
}

/// Lower case letters and digits only, without what exporters put before all names.
std::string plain(const std::string& name) {
  const auto colon = name.rfind(':');
  std::string out;
  for (const char c : colon == std::string::npos ? name : name.substr(colon + 1))
    if (std::isalnum(static_cast<unsigned char>(c)))
      out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

struct Placed {
  std::vector<Vector3d> at;
  std::vector<Matrix3d> turn;
};
Placed placedJoints(const BvhClip& clip, std::size_t frame) {
  Placed out;
  for (const BvhJoint& joint : clip.joints) {
    Vector3d at(joint.offset[0], joint.offset[1], joint.offset[2]);
    Matrix3d turn = Matrix3d::Identity();
    for (std::size_t c = 0; c < joint.channels.size(); ++c) {
      const auto value = static_cast<double>(clip.motion[frame * clip.channels + joint.firstChannel + c]);
      const int channel = joint.channels[c];
      if (channel < 3) {
        // A joint's own position takes the place of its offset.
        at[channel] = value;
      } else {
        turn = turn * Eigen::AngleAxisd(value * degree, Vector3d::Unit(channel - 3)).toRotationMatrix();
      }
    }
    if (joint.parent >= 0) {
      const auto up = static_cast<std::size_t>(joint.parent);
      at = out.at[up] + out.turn[up] * at;
      turn = out.turn[up] * turn;
    }
    out.at.push_back(at);
    out.turn.push_back(turn);
  }
  return out;
}

constexpr std::array<const char*, 13> needed = {
    "left_shoulder", "right_shoulder", "left_elbow", "right_elbow", "left_wrist",  "right_wrist", "left_hip",
    "right_hip",     "left_knee",      "right_knee", "left_ankle",  "right_ankle", "head"};

}  // namespace

BvhClip bvhFrom(const std::string& text, const std::string& where) {
  Words words(text, where);
  if (words.next() != "HIERARCHY") throw badInput(where + " is not a BVH file: it does not begin with HIERARCHY.");
  words.expect("ROOT");
  BvhClip clip;
  readJoint(words, clip, -1, false, 0);
  words.expect("MOTION");
  words.expect("Frames:");
  clip.frames = words.count(mostBvhFrames, "frames");
  if (clip.frames == 0) words.wrong("there are no frames.");
  words.expect("Frame");
  words.expect("Time:");
  clip.secondsAFrame = words.number();
  if (clip.channels == 0) words.wrong("no joint has channels.");
  if (text.size() < clip.frames * clip.channels)
    throw badInput(fmt::format("{}: {} frames of {} numbers do not fit into this file: it ends too early.", where,
                               clip.frames, clip.channels));
  clip.motion.reserve(clip.frames * clip.channels);
  for (std::size_t i = 0; i < clip.frames * clip.channels; ++i)
    clip.motion.push_back(static_cast<float>(words.number()));
  if (const auto rest = words.next(); !rest.empty())
    words.wrong(fmt::format("more numbers than {} frames of {} channels need.", clip.frames, clip.channels));
  return clip;
}

BvhMapping mappingByName(const BvhClip& clip) {
  static const std::vector<std::pair<std::string, std::vector<std::string>>> names = {
      {"shoulder", {"arm", "upperarm", "uparm", "shoulder", "humerus", "upparm"}},
      {"elbow", {"forearm", "lowerarm", "lowarm", "elbow", "radius"}},
      {"wrist", {"hand", "wrist"}},
      {"hip", {"upleg", "thigh", "upperleg", "hip", "femur", "hipjoint"}},
      {"knee", {"leg", "lowleg", "lowerleg", "knee", "shin", "calf", "tibia"}},
      {"ankle", {"foot", "ankle"}}};
  BvhMapping out;
  const auto find = [&](const std::string& wanted) -> std::optional<int> {
    for (std::size_t j = 0; j < clip.joints.size(); ++j)
      if (!clip.joints[j].end && plain(clip.joints[j].name) == wanted) return static_cast<int>(j);
    return {};
  };
  for (const std::string side : {"left", "right"})
    for (const auto& [point, words] : names)
      for (const std::string& word : words) {
        const std::string letter = side.substr(0, 1);
        for (const std::string& wanted : {side + word, letter + word, word + side, word + letter})
          if (!out.contains(side + "_" + point))
            if (const auto joint = find(wanted)) out[side + "_" + point] = *joint;
      }
  for (const char* word : {"head", "skull"})
    if (const auto joint = find(word); joint && !out.contains("head")) out["head"] = *joint;
  for (const char* word : {"neck", "neck1", "lowerneck"})
    if (const auto joint = find(word); joint && !out.contains("neck")) out["neck"] = *joint;
  return out;
}

std::vector<std::string> missingIn(const BvhMapping& mapping) {
  std::vector<std::string> out;
  for (const char* point : needed)
    if (!mapping.contains(point)) out.emplace_back(point);
  return out;
}

namespace {
void needAll(const BvhMapping& mapping) {
  if (const auto missing = missingIn(mapping); !missing.empty())
    throw badInput(fmt::format("No joint stands for {}: choose one.", fmt::join(missing, ", ")));
}
}  // namespace

Figure figureOf(const BvhClip& clip, std::size_t frame, const BvhMapping& mapping, const BvhView& view) {
  needAll(mapping);
  const Skeleton& skeleton = skeletonOf("human");
  const Placed placed = placedJoints(clip, std::min(frame, clip.frames - 1));
  const auto joint = [&](const std::string& point) { return placed.at[static_cast<std::size_t>(mapping.at(point))]; };
  std::vector<Vector3d> at(skeleton.points.size(), Vector3d::Zero());
  std::vector<bool> there(skeleton.points.size(), false);
  const auto put = [&](const std::string& point, const Vector3d& where) {
    const auto i = *skeleton.find(point);
    at[i] = where;
    there[i] = true;
  };
  for (const char* point : needed)
    if (std::string(point) != "head") put(point, joint(point));
  const Vector3d neck = mapping.contains("neck") ? Vector3d(joint("neck"))
                                                 : Vector3d((joint("left_shoulder") + joint("right_shoulder")) / 2);
  put("neck", neck);
  // The head's own points, as our skeleton has them at rest, turned with the clip's head. How large comes from the
  // legs.
  double rest = 0, has = 0;
  for (const std::string side : {"left", "right"}) {
    rest += 0.475;
    has +=
        (joint(side + "_knee") - joint(side + "_hip")).norm() + (joint(side + "_ankle") - joint(side + "_knee")).norm();
  }
  const double size = has / rest;
  if (!(size > 1e-6)) throw badInput("The legs of this clip have no length.");
  const Matrix3d& turn = placed.turn[static_cast<std::size_t>(mapping.at("head"))];
  for (const std::size_t i : skeleton.head) {
    const Vec3& r = skeleton.points[i].rest;
    at[i] = neck + turn * (Vector3d(r[0], r[1] - skeleton.points[*skeleton.find("neck")].rest[1], r[2]) * size);
    there[i] = true;
  }
  const Matrix3d camera = (Eigen::AngleAxisd(view.rise * degree, Vector3d::UnitX()) *
                           Eigen::AngleAxisd(-view.turn * degree, Vector3d::UnitY()))
                              .toRotationMatrix();
  Figure out;
  out.skeleton = skeleton.id;
  out.points.resize(skeleton.points.size());
  Vector3d ears = Vector3d::Zero();
  for (const std::size_t i : skeleton.headAbout) ears += at[i] / static_cast<double>(skeleton.headAbout.size());
  for (std::size_t i = 0; i < at.size(); ++i) {
    if (!there[i]) continue;
    const Vector3d seen = camera * at[i], off = camera * (at[i] - ears);
    const bool head = std::find(skeleton.head.begin(), skeleton.head.end(), i) != skeleton.head.end();
    out.points[i] = {
        {seen.x(), -seen.y()}, head && off.z() < -0.25 * off.norm() ? Presence::hidden : Presence::seen, 1, false};
  }
  // Lengths are known in space: nothing has to be guessed from foreshortened ones.
  for (const Bone& bone : skeleton.bones)
    out.natural.push_back(std::max(1e-6, there[bone.from] && there[bone.to]
                                             ? (at[bone.to] - at[bone.from]).norm() * bone.reach
                                             : size * bone.length * bone.reach));
  return out;
}

std::vector<std::size_t> keyFrames(const BvhClip& clip, const BvhMapping& mapping, std::size_t most) {
  needAll(mapping);
  // A long clip is looked at in steps.
  constexpr std::size_t looks = 3000;
  const std::size_t step = std::max<std::size_t>(1, clip.frames / looks);
  std::vector<std::vector<Vector3d>> poses;
  std::vector<std::size_t> frames;
  for (std::size_t frame = 0; frame < clip.frames; frame += step) {
    const Placed placed = placedJoints(clip, frame);
    std::vector<Vector3d> at;
    Vector3d hips = Vector3d::Zero();
    for (const char* hip : {"left_hip", "right_hip"}) hips += placed.at[static_cast<std::size_t>(mapping.at(hip))] / 2;
    // Where the whole is does not count, what it does with itself does.
    for (const char* point : needed) at.push_back(placed.at[static_cast<std::size_t>(mapping.at(point))] - hips);
    poses.push_back(std::move(at));
    frames.push_back(frame);
  }
  const auto apart = [&](std::size_t a, std::size_t b) {
    double sum = 0;
    for (std::size_t i = 0; i < poses[a].size(); ++i) sum += (poses[a][i] - poses[b][i]).squaredNorm();
    return std::sqrt(sum);
  };
  // Rests and turning points: slower than what is round them.
  const auto count = frames.size();
  std::vector<double> speed(count, 0);
  const std::size_t reach =
      std::max<std::size_t>(1, static_cast<std::size_t>(0.1 / std::max(1e-3, clip.secondsAFrame)) / step);
  for (std::size_t i = 0; i < count; ++i) speed[i] = apart(i >= reach ? i - reach : 0, std::min(count - 1, i + reach));
  std::vector<std::size_t> turning;
  for (std::size_t i = 0; i < count; ++i) {
    const std::size_t from = i >= reach ? i - reach : 0, to = std::min(count - 1, i + reach);
    bool least = true;
    for (std::size_t j = from; j <= to; ++j) least = least && (speed[i] < speed[j] || (speed[i] == speed[j] && i <= j));
    if (least) turning.push_back(i);
  }
  if (turning.empty()) return {0};
  // The first, then again and again the one that is least like those that are taken.
  std::vector<std::size_t> taken{turning.front()};
  double first = 0;
  while (taken.size() < most) {
    double farthest = 0;
    std::size_t best = 0;
    for (const std::size_t each : turning) {
      double near = std::numeric_limits<double>::max();
      for (const std::size_t other : taken) near = std::min(near, apart(each, other));
      if (near > farthest) farthest = near, best = each;
    }
    first = std::max(first, farthest);
    constexpr double alike = 0.15;
    if (farthest <= 0 || farthest < alike * first) break;
    taken.push_back(best);
  }
  std::sort(taken.begin(), taken.end());
  std::vector<std::size_t> out;
  for (const std::size_t each : taken) out.push_back(frames[each]);
  return out;
}

}  // namespace hscaffold::pose
