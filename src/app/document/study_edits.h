/// What is brought into a study, and guides made of it: changes of the study that several places offer.
#pragma once

#include <QImage>
#include <QString>
#include <filesystem>
#include <string>
#include <vector>

#include "core/guides/tuning.h"
#include "core/lines/drawing.h"
#include "files/figure_files.h"

namespace hscaffold::app {

class Desk;
class StudyDocument;

/// Pictures become references, each with an edge guide; SVG drawings become guides of their own. They are read in the
/// background and come in together; what cannot be read is said, the others still come in.
void bringIn(Desk& desk, const std::vector<std::filesystem::path>& files);
void bringIn(Desk& desk, const QImage& picture, const QString& name);
/// For the selected reference, unless another one is named.
void addGuide(StudyDocument& document, const std::string& kind, const Tuning& tuning = {},
              const std::string& reference = {});
/// A guide that stands on strokes of its own.
void addDrawnGuide(StudyDocument& document, const std::string& kind, const QString& name, Drawing drawing);
/// A pose guide: over the selected reference, or standing alone where there is none. Figures are of the frame.
void addPoseGuide(StudyDocument& document, const QString& name, pose::Figures figures = {});
/// Figures from a file, brought to the frame: key points of the selected reference's picture lie on it. With `note`.
/// @throws Problem
pose::CocoFigures figuresForStudy(const StudyDocument& document, const std::filesystem::path& file);
void removeGuide(StudyDocument& document, const std::string& id);
/// With its guides.
void removeReference(StudyDocument& document, const std::string& id);

}  // namespace hscaffold::app
