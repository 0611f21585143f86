/// From a guide to its map: the extraction or the guide's own strokes, retouch over it, the region round it.
#pragma once

#include "core/guides/guide.h"
#include "core/kinds.h"
#include "core/retouch/edit_store.h"

namespace hscaffold {

/// A guide's hand work, taken out of the store so that it can go to another thread.
struct GuideEdits {
  std::shared_ptr<const Layer> retouch, region;
  std::shared_ptr<const Drawing> drawing;
  std::shared_ptr<const pose::Figures> figures;
  std::shared_ptr<const pose::Inks> inks;  ///< null: the house's
};
/// @throws Problem (badInput) if some of it is missing.
GuideEdits editsOf(const Guide& guide, EditStore& store);

/// What a guide is made for.
struct GuidePlace {
  Size frame;
  std::optional<Affine> placing;  ///< frame from reference; none for guides without a reference
};

struct GuideMap {
  Map map;             ///< as the engine gets it: retouched, and for line kinds nothing outside the region
  ColourMap colour;    ///< the same in colour, for kinds that have colours
  Map below;           ///< without retouch and region
  Map region;          ///< 0 to 65535; empty: acts everywhere
  Extraction details;  ///< its `map` is empty
};

/// Extraction with the guide's own strokes; no retouch, no region.
/// @param picture  the placed reference; may be empty for a guide that stands on its own strokes.
/// @throws Cancelled, Problem (badInput)
Extraction mapBelow(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const GuideEdits& edits,
                    ExtractionCache& cache, StopToken stop = {});
/// The rest of the way. `below` is what `mapBelow` made.
GuideMap finishedMap(const Guide& guide, Extraction below, const GuidePlace& place, const GuideEdits& edits,
                     StopToken stop = {});
/// Both.
GuideMap makeGuideMap(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const GuideEdits& edits,
                      ExtractionCache& cache, StopToken stop = {});

/// How far a guide acts, 0 to 65535; empty: everywhere.
Map regionMask(const Region& region, const Layer* layer, const GuidePlace& place);

}  // namespace hscaffold
