/// Studies to begin with: a picture or a pose of the almanac, its guides and a brief, so that one press pulls a proof.
#pragma once

#include <QString>
#include <span>

namespace hscaffold::app {

class Desk;

struct ReadyStudy {
  const char* id;       ///< of its button
  const char* name;     ///< what it is for
  const char* about;    ///< one sentence
  const char* picture;  ///< a resource; null: there is none
};
std::span<const ReadyStudy> readyStudies();

/// Puts it into the open study as one step; a picture is read in the background first.
void beginWith(Desk& desk, const ReadyStudy& ready);

}  // namespace hscaffold::app
