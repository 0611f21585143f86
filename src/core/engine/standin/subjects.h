/// Simple silhouettes that the prompt can name, as signed distances (after Quilez's catalogue of distance functions).
#pragma once

#include <vector>

#include "core/engine/standin/words.h"

namespace hscaffold::standin {

enum class SubjectKind {
  none,
  figure,
  tower,
  house,
  tree,
  boat,
  animal,
  kite,
  arch,
  flower,
  rock,
  bird,
  horse,
  balloon
};

/// Whether it flies, and throws no shadow.
inline bool isInTheSky(SubjectKind kind) {
  return kind == SubjectKind::kite || kind == SubjectKind::bird || kind == SubjectKind::balloon;
}

/// One thing and how it stands. Coordinates: x in frame heights from the left, y in frame heights from the top.
struct Standing {
  SubjectKind kind = SubjectKind::none;
  std::uint64_t seed = 0;
  float x = 0, footY = 0;  ///< where it stands
  float height = 0.2f;
  float lean = 0;  ///< sideways shear, by wind and chance
  bool facesLeft = false;
  bool inFront = false;  ///< of the main one
};

/// The main one, and what stands about it.
struct SubjectPlan : Standing {
  std::vector<Standing> others;  ///< the farthest first
};

struct SubjectSample {
  float cover = 0;    ///< [0, 1]
  float outline = 0;  ///< [0, 1], at its border
  float accent = 0;   ///< which of the subject's colours, [-1, 1]
  float normalX = 0, normalY = 0, facing = 1;
  [[nodiscard]] float shade(float lightX, float lightY) const {
    return 0.75f * (normalX * lightX + normalY * lightY) + 0.25f * facing - 0.15f;
  }
};

SubjectPlan planSubject(const Wishes& wishes, std::uint64_t seed, float aspect, float horizon, float groundTop);
/// @param pixel  size of a pixel in frame heights: borders are that soft.
SubjectSample sampleAlone(const Standing& thing, float x, float y, float pixel);
SubjectSample sampleSubject(const SubjectPlan& plan, float x, float y, float pixel);

/// How much of the ground at a place lies in shadow of what stands on it, [0, 1]; what flies throws none.
/// @param lightX  towards the light, see Composition.
float sampleShadow(const SubjectPlan& plan, float x, float y, float lightX, float pixel);

}  // namespace hscaffold::standin
