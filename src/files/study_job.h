/// What turns the pictures and hand work of a study on disk into an engine's job, and brings pictures into a study.
#pragma once

#include <string>

#include "core/job/prepare.h"
#include "core/pose/figure.h"
#include "core/study/study_file.h"

namespace hscaffold {

/// Pictures, proofs and hand work of a study on disk.
JobSources sourcesIn(const StudyFile& file);
/// The job that a pull of this recipe from this study is.
PreparedJob jobFor(const StudyFile& file, Recipe recipe, StopToken stop = {}, MadeMaps* made = nullptr);

/// Brings a picture in as a reference that covers the frame; its file is to be written with the study. The first
/// picture of a study in which nothing was done yet sets the frame to its own ratio, at about the same area.
/// @param size  of the decoded picture. @return its id
std::string addReference(StudyState& state, const PictureFile& file, Size size, const std::string& name);
/// Key points of a reference's picture, as they lie in the frame and follow it.
pose::Figures placedWith(pose::Figures figures, const Reference& reference, Size frame);

}  // namespace hscaffold
