/// The maps that a final's guides make at the final's own size: made anew from references, strokes, figures and hints.
#pragma once

#include "core/finish/pull_final.h"

namespace hscaffold {

struct FinalMap {
  std::string name, kind;  ///< of the guide
  GuideInput input;        ///< of the final's size
};

struct FinalMaps {
  std::vector<FinalMap> maps;      ///< in the order of the guides
  std::vector<std::string> notes;  ///< one sentence for each map that could not be made
};

/// What a whole final from elsewhere tells itself that it is made of. @param png  its picture @throws Problem
Recipe toldBy(const Final& final, std::span<const std::byte> png);

/// One guide after the other, so that memory holds one extraction at a time.
/// @param final  the final's recipe @throws Cancelled
FinalMaps mapsOf(const Recipe& final, Size whole, const JobSources& sources, StopToken stop = {});

}  // namespace hscaffold
