/// From a guide to its map: what its kind makes of it, retouch over that, the region round it.
#pragma once

#include "core/guides/kind.h"
#include "core/retouch/work_store.h"

namespace hscaffold {

/// A guide's hand work, taken out of the store so that it can go to another thread.
struct TakenWork {
  std::shared_ptr<const Layer> retouch, region;
  GuideWork own;  ///< of the kind's own slots
  /// What is missing or damaged in the study and was left out, one sentence each.
  std::vector<std::string> missing;
};
TakenWork takenWork(const Guide& guide, WorkStore& store);

struct GuideMap {
  GuideInput input;    ///< as engines get it
  Map below;           ///< without retouch and region
  Extraction details;  ///< its images are empty
};

/// What the kind makes of the guide; no retouch, no region.
/// @param picture  the placed reference; may be empty for a guide that stands on its own hand work.
/// @throws Cancelled, Problem (badInput)
Extraction mapBelow(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const TakenWork& taken,
                    ExtractionCache& cache, StopToken stop = {});
/// The rest of the way. `below` is what `mapBelow` made.
GuideMap finishedMap(const Guide& guide, Extraction below, const GuidePlace& place, const TakenWork& taken,
                     StopToken stop = {});
/// Both.
GuideMap makeGuideMap(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const TakenWork& taken,
                      ExtractionCache& cache, StopToken stop = {});

/// How far a guide acts, 0 to 65535; empty: everywhere.
Map regionMask(const Region& region, const Layer* mask, const GuidePlace& place);

/// What is to be known of a finished map: how far it acts, and what the kind tells of it. @throws Cancelled
MapFacts factsOf(const Kind& kind, const GuideInput& input, const Extraction& details, ExtractionCache& cache,
                 StopToken stop = {});

}  // namespace hscaffold
