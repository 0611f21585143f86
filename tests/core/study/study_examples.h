/// What tests of studies begin with.
#pragma once

#include <nlohmann/json.hpp>

#include "core/study/study_file.h"

namespace fixtures {

using namespace hscaffold;

inline StudyState example() {
  StudyState state;
  state.title = "Wind almanac: März";
  Reference reference;
  reference.id = newId(state, "r");
  reference.name = "dune.png";
  reference.size = {1200, 800};
  state.references.push_back(reference);
  Guide guide;
  guide.id = newId(state, "g");
  guide.kind = "edges";
  guide.name = "Dune";
  guide.reference = reference.id;
  guide.tuning["blur"] = 2.2;
  state.guides.push_back(guide);
  state.looking.guide = guide.id;
  state.brief.prompt = "a kite";
  return state;
}

inline PictureFile pictureOf(const std::string& content) {
  const auto bytes = bytesOf(content);
  return pictureFile(Bytes(bytes.begin(), bytes.end()));
}

/// As written: with all tuning spelled out.
inline bool same(const StudyState& a, const StudyState& b) { return stateToJson(a) == stateToJson(b); }

}  // namespace fixtures
