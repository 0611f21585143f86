/// A pose in words: what a figure does, from its joint angles, by a table of rules (data/pose-rules.json).
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/pose/body.h"

namespace hscaffold::pose {

/// What the rules look at, by name. Degrees; heights are shares of the figure's size.
///   seen           where it is seen from: 0 front, 90 its left is away (it faces right), 180 back, [-180, 180]
///   lean           the trunk away from upright, [0, 180]; `forward` how much of that is forward
///   knees, bent    the lesser and the greater bend of the knees; `elbows` the greater of the elbows
///   thighs         the lesser angle of the thighs away from hanging down, forward positive
///   left_hand ...  heights of hands above the shoulders; `left_front`, `left_aside` how far they reach that way
///   low            height of the hips above the lowest point; `knee_low` that of the lower knee
///   apart, along   how far the feet are apart along the ground, and how much of that is ahead
using BodyMeasures = std::map<std::string, double>;
BodyMeasures bodyMeasuresOf(const Skeleton& skeleton, const BodyPose& pose);

struct PoseWords {
  std::string stance;                ///< "kneeling"; empty if no rule knows it
  std::vector<std::string> phrases;  ///< all that holds, stance first
  /// "kneeling, seen from the left, right arm raised"
  [[nodiscard]] std::string text() const;
};
PoseWords wordsFor(const Skeleton& skeleton, const BodyPose& pose);
/// Of a figure in the picture; without a pose in 3D it is given the one that fits best.
PoseWords wordsFor(const Figure& figure);
/// Of all figures that are on, each once: "standing, seen from the front; far figure walking".
std::string wordsFor(const Figures& figures);

/// Stances that a prompt names: "running" in "a girl running home".
std::vector<std::string> stancesIn(const std::string& prompt);
/// Stances that mean about the same: nothing is wrong if the prompt says one and the figure does the other.
bool agree(const std::string& stance, const std::string& other);
/// The prompt with the words of one stance replaced by another one's name.
std::string withStance(const std::string& prompt, const std::string& from, const std::string& to);
/// The prompt with `before` (what was put in before) replaced by `words`; at its end if there was nothing before.
/// @return empty if `before` is not there any more: it was edited by hand, and stays as it is.
std::optional<std::string> withPoseWords(const std::string& prompt, const std::string& before,
                                         const std::string& words);

}  // namespace hscaffold::pose
