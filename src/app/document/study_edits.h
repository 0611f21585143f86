/// What is brought into a study, and guides made of it: changes of the study that several places offer.
#pragma once

#include <QImage>
#include <QString>
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "core/guides/tuning.h"
#include "core/sheet/axis.h"
#include "core/strokes/drawing.h"
#include "files/figure_files.h"

namespace hscaffold {
struct ProofInfo;
struct StudyState;
}  // namespace hscaffold

namespace hscaffold::app {

class Desk;
class StudyDocument;

/// Pictures become references, each with an edge guide; SVG drawings become guides of their own. They are read in the
/// background and come in together; what cannot be read is said, the others still come in.
void bringIn(Desk& desk, const std::vector<std::filesystem::path>& files);
void bringIn(Desk& desk, const QImage& picture, const QString& name);
/// One picture from its file's bytes, with these guides instead, and what else belongs to the step.
void bringIn(Desk& desk, Bytes bytes, const QString& name, std::vector<Guide> guides,
             std::function<void(StudyState&)> also);
/// A proof as another reference.
void bringInProof(Desk& desk, std::int64_t number);
/// A picture as reference and nothing else, now. @return its id @throws Problem
std::string addReferenceFrom(Desk& desk, const std::filesystem::path& file);
/// A picture as the start picture; it becomes a reference without a guide. @throws Problem
void startFromFile(Desk& desk, const std::filesystem::path& file);
/// For the selected reference, unless another one is named.
void addGuide(StudyDocument& document, const std::string& kind, const Tuning& tuning = {},
              const std::string& reference = {});
/// A guide that stands on strokes of its own.
void addDrawnGuide(StudyDocument& document, const std::string& kind, const QString& name, Drawing drawing);
/// A pose guide: over the selected reference, or standing alone where there is none. Figures are of the frame.
/// @param also  what else belongs to the step.
void addPoseGuide(StudyDocument& document, const QString& name, pose::Figures figures = {},
                  const std::function<void(StudyState&)>& also = {});
/// Figures from a file, brought to the frame: key points of the selected reference's picture lie on it. With `note`.
/// @throws Problem
pose::CocoFigures figuresForStudy(const StudyDocument& document, const std::filesystem::path& file);
/// The next pulls start from this proof.
void startFromProof(StudyDocument& document, std::int64_t number);
/// Gives these proofs a star, or takes it away where all of them have one.
void turnStars(StudyDocument& document, const std::vector<std::int64_t>& numbers);
/// Brings back everything a proof was made with; a small proof of a sheet says how, not how large. What could not be
/// brought back is said. @return whether all of it was
bool adoptProof(Desk& desk, const ProofInfo& proof);
/// The same of the proof of this number, if it is there, and says that it is done.
void adoptProofOf(Desk& desk, std::int64_t number);
void putProofsAway(StudyDocument& document, const std::vector<std::int64_t>& numbers);
/// Sets one setting of a test strip in the study. @return whether it has such a guide, card or start picture
bool setValue(StudyState& state, const Axis& axis, std::size_t index);

void removeGuide(StudyDocument& document, const std::string& id);
/// With its guides.
void removeReference(StudyDocument& document, const std::string& id);

}  // namespace hscaffold::app
