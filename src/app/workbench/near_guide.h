/// What a study has that says how near things are.
#pragma once

#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "core/kinds.h"

namespace hscaffold::app {

/// The first depth guide with a map, those of this guide's own reference before others; null if there is none.
inline const Guide* nearGuideFor(const Guide& guide, const StudyDocument& document, const MapRoom& maps) {
  const Guide* found = nullptr;
  for (const Guide& each : document.state().guides) {
    if (!kindOf(each.kind).nearIsLight) continue;
    const MapPicture* map = maps.mapOf(each.id);
    if (map == nullptr || !map->map || map->map->empty()) continue;
    if (found == nullptr || (each.reference == guide.reference && found->reference != guide.reference)) found = &each;
  }
  return found;
}

}  // namespace hscaffold::app
