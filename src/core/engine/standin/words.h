/// What the stand-in understands of a prompt: words set traits, colours go to what they stand before, unknown words
/// still change the outcome, the same way each time.
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/image/colour.h"

namespace hscaffold::standin {

enum class Trait {
  // season
  spring,
  summer,
  autumn,
  winter,
  // time of day
  dawn,
  day,
  dusk,
  night,
  // weather
  clear,
  cloud,
  fog,
  rain,
  storm,
  snow,
  wind,
  // place
  sea,
  dune,
  mountain,
  field,
  forest,
  town,
  river,
  room,
  // subject
  figure,
  tower,
  house,
  tree,
  boat,
  animal,
  kite,
  arch,
  flower,
  rock,
  // material of the subject
  wood,
  stone,
  cloth,
  metal,
  glass,
  paper,
  // medium
  gouache,
  oil,
  watercolour,
  ink,
  woodcut,
  pencil,
  photograph,
  // mood
  bright,
  dark,
  vivid,
  muted,
  calm,
  wild,
  warm,
  cool,
  soft,
  crisp,
  count
};

/// The parts of a picture that a colour can be meant for.
enum class Part { sky, far, middle, ground, subject, count };
inline constexpr std::size_t partCount = static_cast<std::size_t>(Part::count);

enum class Medium { gouache, oil, watercolour, ink, woodcut, pencil, photograph };

struct WishedColour {
  OkLch colour;
  float strength = 0;
};

struct Wishes {
  std::array<float, static_cast<std::size_t>(Trait::count)> traits{};  ///< 0 = not asked for, about 1 = asked for
  WishedColour general;                                                ///< colour named without a thing
  std::array<WishedColour, partCount> colours;                         ///< "red dune"
  std::uint64_t unknown = 0;  ///< hash of the words that are not in the lexicon
  int known = 0, others = 0;  ///< how many words were understood, and not
  float pull = 1;             ///< how hard all this is obeyed, from the guidance

  [[nodiscard]] float operator[](Trait trait) const { return traits[static_cast<std::size_t>(trait)]; }
  [[nodiscard]] Medium medium() const;
};

/// @param guidance  [0, 20]; 0 leaves everything to the seed.
Wishes wishesFrom(std::string_view prompt, std::string_view avoid, double guidance);

/// Every word of the lexicon with the group it belongs to ("colour", "season", ...), for help and completion.
struct LexiconWord {
  std::string_view word;
  std::string_view group;
};
std::vector<LexiconWord> lexiconWords();

}  // namespace hscaffold::standin
