/// What can be done to figures at once; each is one undoable step.
#pragma once

#include <QPointF>
#include <QString>
#include <set>
#include <string>

#include "core/pose/figure.h"

namespace hscaffold::app {

class PoseWork;
class StudyDocument;

void setFigureOn(PoseWork& work, std::size_t figure, bool on);
void renameFigure(PoseWork& work, std::size_t figure, const QString& name);
void mirrorFigure(PoseWork& work, std::size_t figure);
/// What was left is right from then on; nothing moves.
void swapSides(PoseWork& work, std::size_t figure);
/// Limbs get their natural lengths back.
void relaxFigure(PoseWork& work, std::size_t figure);
/// Absent points of the body where they most likely are, hidden.
void fillInPoints(PoseWork& work, std::size_t figure);
void setPart(PoseWork& work, std::size_t figure, const std::string& part, bool there);
void setPresence(PoseWork& work, std::size_t figure, const std::set<std::size_t>& points, pose::Presence presence);
/// Seen, hidden, absent, and round again.
void cyclePresence(PoseWork& work, std::size_t figure, std::size_t point);
void togglePins(PoseWork& work, std::size_t figure, const std::set<std::size_t>& points);
/// The point goes to a place in frame pixels, as if it was dragged there.
void placePoint(PoseWork& work, std::size_t figure, std::size_t point, QPointF to);

/// The selected points, or else the whole figure in hand.
void nudgeSelected(PoseWork& work, QPointF by);
/// The selected joints are right as they are.
void confirmPoints(PoseWork& work);
/// Selects the next joint of this or a later figure that is as likely wrong as right. @return whether there is one
bool selectNextDoubt(PoseWork& work);
/// Puts what the figures do into the prompt, and keeps it up to date until it is edited there.
void addPoseWords(PoseWork& work, StudyDocument& document);

/// As COCO key points on the clipboard.
void copyFigure(const PoseWork& work, std::size_t figure);
/// @return whether there were figures on the clipboard
bool pasteFigures(PoseWork& work);

}  // namespace hscaffold::app
