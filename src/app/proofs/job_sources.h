/// Where jobs of the open study get their parts.
#pragma once

#include "core/job/prepare.h"

namespace hscaffold::app {

class MapRoom;
class ProofShelf;
class StudyDocument;

/// Everything that a recipe's job needs of the study, taken out now so that it can go to another thread.
/// @throws Problem if its start picture cannot be read
JobSources jobSources(const Recipe& recipe, StudyDocument& document, const MapRoom& maps, const ProofShelf& proofs);

}  // namespace hscaffold::app
