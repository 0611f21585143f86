/// The steps between a study on disk and an engine's job: references placed, maps extracted.
#pragma once

#include "core/engine/engine.h"
#include "core/guide_map.h"
#include "core/study/study_file.h"

namespace hscaffold {

/// Decoded references by id.
using PictureSource = std::function<std::shared_ptr<const Image<Rgba16>>(const RecipeReference&)>;
/// The job of a recipe: its references placed, its maps extracted and named by their digests.
EngineJob jobFrom(Recipe recipe, const PictureSource& pictures, EditStore& edits, StopToken stop = {});

/// The job that a pull of this recipe from this study is: its references decoded and placed, its maps extracted.
EngineJob jobFor(const StudyFile& file, Recipe recipe, StopToken stop = {});

/// Brings the picture file in as a reference (placed to cover the frame) with its file kept in the study.
/// @return its id
std::string addReference(StudyFile& file, StudyState& state, const std::filesystem::path& picture);

/// One proof made and measured, as it will be kept.
struct FinishedProof {
  ProofInfo info;
  Image<Rgb8> picture;
  Bytes png, thumbnail;
};
FinishedProof pullProof(Engine& engine, EngineJob job, const EngineSink& sink, StopToken stop);

}  // namespace hscaffold
