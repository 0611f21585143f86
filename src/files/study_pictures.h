/// The steps between a study on disk and an engine's job: references placed, maps extracted.
#pragma once

#include "core/engine/engine.h"
#include "core/guide_map.h"
#include "core/measure/shift.h"
#include "core/pose/figure.h"
#include "core/study/study_file.h"

namespace hscaffold {

/// Decoded references by id.
using PictureSource = std::function<std::shared_ptr<const Image<Rgba16>>(const RecipeReference&)>;
/// Proofs by number, as PNG.
using ProofSource = std::function<Bytes(std::int64_t)>;
/// A recipe's job, and what was found out on the way to it.
struct StudyJob {
  EngineJob job;
  std::vector<Extraction> details;  ///< by guide; images empty
  std::vector<std::string> notes;   ///< hand work that is missing from the study, one sentence each
  /// The first guide's reference as it lies in the frame, from which shift is measured; null without one.
  std::shared_ptr<const ShiftGround> reference;
};

/// What the jobs of a sheet have in common: maps and placed references are made once for all cells that do not change
/// them. Bounded; may be used by several threads.
class MadeMaps {
 public:
  MadeMaps();
  ~MadeMaps();
  struct Kept;
  [[nodiscard]] std::shared_ptr<const Kept> find(const std::string& key);
  void put(const std::string& key, std::shared_ptr<const Kept> kept);

 private:
  struct All;
  std::unique_ptr<All> all_;
};

/// The job of a recipe: its references placed, its maps made and named by their digests.
/// @param made  where given, maps are looked up there first, and kept there. @throws Cancelled, Problem (badInput)
StudyJob jobFrom(Recipe recipe, const PictureSource& pictures, EditStore& edits, StopToken stop = {},
                 MadeMaps* made = nullptr);

/// The start picture of a recipe as it lies in the frame, linear; empty if it has none.
/// @throws Cancelled, Problem (badInput)
Image<Rgb> startOf(const Recipe& recipe, const PictureSource& pictures, const ProofSource& proofs, StopToken stop = {});

/// The job that a pull of this recipe from this study is.
StudyJob jobFor(const StudyFile& file, Recipe recipe, StopToken stop = {}, MadeMaps* made = nullptr);

/// What is to be known of the maps, by guide.
std::map<std::string, MapFacts> factsOf(const StudyJob& made);

/// Brings a picture in as a reference that covers the frame, with its file kept in the study. The first picture of a
/// study in which nothing was done yet sets the frame to its own ratio, at about the same area.
/// @param size  of the decoded picture. @return its id
std::string addReference(StudyFile& file, StudyState& state, std::span<const std::byte> bytes, Size size,
                         const std::string& name);
/// Key points of a reference's picture, as they lie in the frame and follow it.
pose::Figures placedWith(pose::Figures figures, const Reference& reference, Size frame);

/// One proof made and measured, as it will be kept.
struct FinishedProof {
  ProofInfo info;
  Image<Rgb8> picture;
  Bytes png, thumbnail;
};
/// @param reference  from which shift is measured; null: it is not measured.
FinishedProof pullProof(Engine& engine, EngineJob job, const ShiftGround* reference, const EngineSink& sink,
                        StopToken stop);

/// Now, as files have it: ISO 8601, UTC.
std::string timeNow();

/// Hold and its means by guide id, and shift, of any picture of the recipe's frame.
struct ProofMeasures {
  std::map<std::string, double> holds;
  std::map<std::string, std::string> means;  ///< by which the hold was told, for kinds that have several
  std::optional<double> shift;
};
/// @throws Cancelled
ProofMeasures measuresOf(const EngineJob& job, const ShiftGround* reference, const ProofSeen& proof,
                         StopToken stop = {});

}  // namespace hscaffold
