/// A guide: a control map with its weight and its range. Load: what all guides together ask of one step.
#pragma once

#include <map>
#include <set>
#include <span>
#include <string>
#include <vector>

#include "core/guides/range.h"
#include "core/guides/tuning.h"
#include "core/guides/work.h"
#include "core/limits.h"

namespace hscaffold {

/// How the mask painted in a guide's region slot limits it.
struct Region {
  bool inverted = false;  ///< acts where the mask is not
  double feather = 0;     ///< softening of its border: sigma in pixels, `limits::feather`
  friend bool operator==(const Region&, const Region&) = default;
};

/// Hand work that goes along with a thing of the stage: see core/stage/fastening.h.
struct Fastening {
  std::string thing;  ///< its id on the stage; empty: fastened to nothing
  std::string joint;  ///< a key point of that figure; empty: the thing as a whole
  Affine placed;      ///< where it was seen (frame from thing) when the guide's map was last made
  /// One slot's layer as it was drawn and where the thing was seen then, and as it was laid last.
  struct Piece {
    std::string drawn;
    Affine placed;
    std::string laid;
    friend bool operator==(const Piece&, const Piece&) = default;
  };
  std::map<std::string, Piece> pieces;  ///< by slot ("retouch"), and older ones beyond the frame ("retouch 1")
  friend bool operator==(const Fastening&, const Fastening&) = default;
};

/// A guide whose map comes from the study's stage, and follows it.
struct StageLink {
  std::string map;      ///< "pose", "depth", "lines", "edges", "tone"; empty: it does not come from there
  bool frozen = false;  ///< stays as it is
  std::string made;     ///< digest of scene and frame that the map was made of
  std::string piece;    ///< the hand work or reference it was given then: whoever changed that since owns it
  Fastening fastened;   ///< its retouch and region
  friend bool operator==(const StageLink&, const StageLink&) = default;
};

struct Guide {
  std::string id;    ///< unique in the study
  std::string kind;  ///< id in the kinds registry: "edges", "tone"
  std::string name;
  std::string reference;  ///< id of the reference it is extracted from; empty for a guide that is only drawn
  bool on = true;
  double weight = 1;  ///< `limits::weight`; 1 is plain
  Range range;
  Tuning tuning;
  WorkNames work;  ///< its hand work, by slot
  bool retouchHidden = false;
  Region region;
  std::string words;  ///< what was put into the prompt for it and is kept up to date; empty: nothing
  StageLink stage;
  std::string extra;  ///< fields of newer versions, carried along as JSON; empty: none
  friend bool operator==(const Guide&, const Guide&) = default;

  /// Without a mask a guide acts everywhere.
  [[nodiscard]] bool limited() const { return work.has(regionSlot); }
  void clearRegion() {
    work.clear(regionSlot);
    region = {};
  }
};

/// Weight x ramp at a step; 0 if the guide is off.
double loadAt(const Guide& guide, int step, int steps);
/// Sum over the guides, at every step.
std::vector<double> totalLoad(std::span<const Guide> guides, int steps);

/// Whether a guide is drowned at all its steps: the others reach `comfort` without it, and its share of the whole is
/// less than a quarter.
bool isDrowned(std::span<const Guide> guides, std::size_t which, int steps, double comfort);

/// Sets the weight of guide `changed` and, as far as they can, the others' so that the sum of weight x covered share of
/// the way stays what it was ("keep total"). Guides that are off, and those named in `held`, are left alone.
void setWeightKeepingTotal(std::vector<Guide>& guides, std::size_t changed, double weight,
                           const std::set<std::string>& held = {});

}  // namespace hscaffold
