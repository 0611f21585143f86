/// The words that the stand-in knows, and what they mean to it.
#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include "core/engine/standin/words.h"

namespace hscaffold::standin {

struct TraitWord {
  std::string_view word;
  Trait trait = Trait::count;
  float amount = 1;
};

struct Meaning {
  std::optional<TraitWord> trait;
  std::optional<OkLch> colour;
};

struct FoundWord {
  const Meaning* meaning = nullptr;  ///< null: not in the lexicon
  bool plural = false;
};
/// @param word  in small letters
FoundWord meaningOf(std::string_view word);

struct NamedColour {
  std::string_view word;
  OkLch colour;
};
/// Every colour by one of its words.
std::vector<NamedColour> namedColours();

/// Whether it is something that can stand in a picture.
inline bool isThing(Trait trait) { return trait >= Trait::figure && trait <= Trait::balloon; }
inline bool isMedium(Trait trait) { return trait >= Trait::gouache && trait <= Trait::photograph; }
/// Where a colour before this trait's word goes.
std::optional<Part> partOf(Trait trait);

/// A word for a part of things, with the things that have it.
struct ThingPart {
  std::string_view word;
  Band band = Band::count;  ///< count: too small to be placed
  std::array<Trait, 2> of;
};
/// Null if it is none; plurals, too.
const ThingPart* partNamed(std::string_view word);

}  // namespace hscaffold::standin
