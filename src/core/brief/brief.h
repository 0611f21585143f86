/// The brief: what to make, in words, looks, a picture to start from, and numbers.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/frame/placement.h"
#include "core/limits.h"
#include "core/mood/mood.h"
#include "core/text.h"

namespace hscaffold {

inline constexpr std::size_t mostStyles = 24, mostEmphases = 400;

/// How much a stretch of the prompt counts; 1 is plain, 0 as if it were not there, below that it is kept away.
struct Emphasis {
  int first = 0, length = 0;  ///< characters of the prompt
  double weight = 1;          ///< `limits::emphasis`
  friend bool operator==(const Emphasis&, const Emphasis&) = default;
};

/// A style card in use. Its words are kept with it, so that a brief is whole wherever it is read.
struct StyleUse {
  std::string id, name, words;
  double strength = 1;  ///< `limits::strength`
  friend bool operator==(const StyleUse&, const StyleUse&) = default;
};

/// What the first steps begin with in place of noise.
struct StartPicture {
  enum class From {
    nothing,
    reference,
    proof,
    colour,
    below,  ///< what lies there already, of a picture that is worked on: comes with the job
    guide   ///< what a guide's map shows: light and colours that were painted
  };
  From from = From::nothing;
  std::string reference;  ///< its id
  std::int64_t proof = 0;
  std::string guide;             ///< its id
  Rgb colour{0.5f, 0.5f, 0.5f};  ///< linear, [0, 1]
  Placement placement;
  double change = 0.6;    ///< how far it may be left: 0 is the picture itself, 1 none of it
  bool moodOnly = false;  ///< only its colours and light, no layout
  /// How those are taken from it. Sorted into the layout of the first guide's reference, or of the first depth map.
  mood::MoodTuning mood{0, mood::Sorting::asItLies};
  std::string shows, wanted;  ///< from words to words: only the difference acts; both empty: all of the prompt
  std::string pictureFile;    ///< for recipes on disk: the placed picture, relative to the recipe; empty otherwise
  [[nodiscard]] bool given() const { return from != From::nothing; }
  [[nodiscard]] bool wordsToWords() const { return given() && !(shows.empty() && wanted.empty()); }
  friend bool operator==(const StartPicture&, const StartPicture&) = default;
};

struct Brief {
  std::string prompt;              ///< UTF-8, up to `longestPrompt` characters; `avoid` too
  std::vector<Emphasis> emphasis;  ///< in order, not overlapping: see `inOrder`
  std::string avoid;
  std::vector<StyleUse> styles;  ///< in any order; each id once
  StartPicture start;
  std::vector<mood::WantedColour> colours;  ///< that the picture should have; at most `mood::mostColours`
  std::uint32_t seed = 1;
  bool seedLocked = true;       ///< otherwise every pull throws a new seed
  std::uint32_t variation = 0;  ///< which small variation of the seed
  double vary = 0;              ///< how far from the seed it goes, [0, 1]
  int steps = 20;               ///< `limits::steps`
  double guidance = 6.5;        ///< how hard the prompt is obeyed, `limits::guidance`
  std::string extra;            ///< fields of newer versions, as JSON; empty: none
  friend bool operator==(const Brief&, const Brief&) = default;
};

/// Emphasis brought in order for a prompt of so many characters: within it, not overlapping (what stands later in the
/// list wins), plain stretches left out, neighbours of one weight joined.
std::vector<Emphasis> inOrder(const std::vector<Emphasis>& emphasis, std::size_t characters);
/// Emphasis of a prompt that was edited: kept where the text before and after the edit is the same.
std::vector<Emphasis> followed(const std::vector<Emphasis>& emphasis, std::string_view before, std::string_view after);

/// Words of three letters and more that prompt and avoid both have.
std::vector<std::string> wordsInBoth(const Brief& brief);
/// A list like "fog, crowd" without this word.
std::string withoutWord(std::string_view list, std::string_view word);

/// Brings everything into the ranges that readers accept.
void keepWithinLimits(Brief& brief);

}  // namespace hscaffold
