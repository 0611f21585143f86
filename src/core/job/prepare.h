/// From a recipe to a job: references placed, maps made with their regions and hand work, the start picture laid into
/// the frame. Window, command line and services all come to their jobs this way.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/engine/engine.h"
#include "core/guide_map.h"
#include "core/measure/shift.h"
#include "core/recently_used.h"

namespace hscaffold {

/// Decoded pictures of references, by `RecipeReference::source`. @throws Problem (badInput) if one is not there.
using PictureSource = std::function<std::shared_ptr<const Image<Rgba16>>(const RecipeReference&)>;
/// Proofs by number, as PNG. @throws Problem (badInput)
using ProofSource = std::function<Bytes(std::int64_t)>;
/// The hand work of a guide.
using WorkSource = std::function<TakenWork(const Guide&)>;

/// Where a recipe's parts come from. May be asked from the thread that makes the job.
struct JobSources {
  PictureSource pictures;
  ProofSource proofs;
  WorkSource work;
};

/// Takes the hand work that a recipe needs out of the store now, so that it can go to another thread.
WorkSource workTakenOut(const Recipe& recipe, WorkStore& store);

/// A recipe's job, and what was found out on the way to it.
struct PreparedJob {
  EngineJob job;
  std::vector<Extraction> details;  ///< by guide; images empty
  std::vector<std::string> notes;   ///< hand work that is missing from the study, one sentence each
  /// The first guide's reference as it lies in the frame, from which shift is measured; null without one.
  std::shared_ptr<const ShiftGround> reference;
};

/// One map with what was found out about it, or what shift is measured from (then only `shift`).
struct MadeMap {
  GuideInput input;
  Extraction details;
  std::vector<std::string> missing;
  std::string digest;
  std::shared_ptr<const ShiftGround> shift;
};
/// What the jobs of a sheet have in common, by all that it depends on: made once for all cells that do not change it.
using MadeMaps = RecentlyUsed<std::string, MadeMap>;
inline constexpr std::size_t mostMadeBytes = std::size_t{384} << 20;

/// The job of a recipe: its references placed, its maps made and named by their digests, its start picture.
/// @param made  where given, maps are looked up there first, and kept there. @throws Cancelled, Problem (badInput)
PreparedJob jobFrom(Recipe recipe, const JobSources& sources, StopToken stop = {}, MadeMaps* made = nullptr);

/// A start picture as engines get it: rounded to 16 bits sRGB-encoded, so that it is the same picture to the bit
/// whether it was handed over in memory or as a file.
Image<Rgb> asHandedOver(View<Rgba16> start);

/// What is to be known of the maps, by guide.
std::map<std::string, MapFacts> factsOf(const PreparedJob& made);

}  // namespace hscaffold
