/// What the stand-in understands of a prompt: words set traits, colours go to what they stand before, unknown words
/// still change the outcome, the same way each time.
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/brief/brief.h"
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
  flood,  ///< how high water stands; below 0: low
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
  bird,
  horse,
  balloon,
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
  flat,
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

enum class Medium { gouache, oil, watercolour, ink, woodcut, pencil, flat, photograph };

struct WishedColour {
  OkLch colour;
  float strength = 0;
  friend bool operator==(const WishedColour&, const WishedColour&) = default;
};

/// How a thing stands to another: "a fox beside a lighthouse", "a kite over it".
enum class Relation { none, behind, before, under, over, beside };

/// Something that the prompt wants to see, in the order of its words.
struct Thing {
  Trait trait = Trait::rock;
  int count = 1;  ///< [1, 9]; 0: some, as "boats" says
  Relation relation = Relation::none;
  int to = -1;  ///< which of the things it stands so to; -1: whatever is foremost
  friend bool operator==(const Thing&, const Thing&) = default;
};

/// Where a part of a thing lies in it.
enum class Band { top, middle, bottom, count };

struct Wishes {
  std::array<float, static_cast<std::size_t>(Trait::count)> traits{};  ///< 0 = not asked for, about 1 = asked for
  std::vector<Thing> things;
  WishedColour general;                         ///< colour named without a thing
  WishedColour accent;                          ///< colour of something that nobody knows: a small spot of it
  std::array<WishedColour, partCount> colours;  ///< "red dune"
  std::array<WishedColour, static_cast<std::size_t>(Band::count)> bands;  ///< "house with a red roof"
  std::vector<std::string> left;  ///< parts that are too small to be placed, with a colour that goes nowhere
  std::uint64_t unknown = 0;      ///< hash of the words that are not in the lexicon
  std::uint64_t strange = 0;      ///< of those that seem to be things
  std::uint64_t manner = 0;       ///< the same of styles
  int known = 0, others = 0;      ///< how many words were understood, and not
  float pull = 1;                 ///< how hard all this is obeyed, from the guidance

  [[nodiscard]] float operator[](Trait trait) const { return traits[static_cast<std::size_t>(trait)]; }
  [[nodiscard]] Medium medium() const;
  friend bool operator==(const Wishes&, const Wishes&) = default;
};

/// How far a text of what is to be avoided speaks against light beside dark: contrast, shadows, patterns; [0, 1].
double flatnessFrom(std::string_view avoid);
/// Whether it colours a part of a thing.
bool namesParts(const Wishes& wishes);
/// Prompt with its emphasis, avoid, and styles by their strengths in whatever order. A guidance of 0 leaves everything
/// to the seed.
Wishes wishesFrom(const Brief& brief);
Wishes wishesFrom(std::string_view prompt, std::string_view avoid, double guidance);

/// Every word of the lexicon with the group it belongs to ("colour", "season", ...), for help and completion.
struct LexiconWord {
  std::string_view word;
  std::string_view group;
};
std::vector<LexiconWord> lexiconWords();

}  // namespace hscaffold::standin
