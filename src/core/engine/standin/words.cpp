#include "core/engine/standin/words.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <numbers>
#include <optional>
#include <utility>

#include "core/engine/standin/lexicon.h"
#include "core/engine/standin/noise.h"

namespace hscaffold::standin {
namespace {

template <typename Value, std::size_t size>
const Value* valueIn(const std::pair<std::string_view, Value> (&table)[size], std::string_view word) {
  const auto found =
      std::find_if(std::begin(table), std::end(table), [&](const auto& entry) { return entry.first == word; });
  return found != std::end(table) ? &found->second : nullptr;
}

template <std::size_t size>
bool isOneOf(const std::string_view (&words)[size], std::string_view word) {
  return std::find(std::begin(words), std::end(words), word) != std::end(words);
}

// What these say is left out, "no" too: picture makers draw what is named, denied or not.
constexpr std::string_view silentWords[] = {"a",   "an",  "the", "its", "his", "her",    "their",   "seen",
                                            "is",  "are", "it",  "him", "no",  "not",    "never",   "without",
                                            "any", "all", "as",  "of",  "and", "colour", "colours", "very"};
constexpr std::string_view joints[] = {"in", "on", "at", "into", "with", "by", "to", "for", "from", "through", "while"};
constexpr std::pair<std::string_view, Relation> relationWords[] = {
    {"behind", Relation::behind}, {"before", Relation::before}, {"front", Relation::before},
    {"under", Relation::under},   {"below", Relation::under},   {"beneath", Relation::under},
    {"over", Relation::over},     {"above", Relation::over},    {"beside", Relation::beside},
    {"near", Relation::beside},   {"next", Relation::beside},   {"alongside", Relation::beside}};
constexpr std::pair<std::string_view, int> countWords[] = {
    {"one", 1}, {"two", 2},  {"pair", 2},  {"three", 3}, {"few", 3},  {"four", 4},  {"several", 4}, {"five", 5},
    {"six", 6}, {"many", 6}, {"seven", 7}, {"eight", 8}, {"nine", 9}, {"crowd", 7}, {"2", 2},       {"3", 3},
    {"4", 4},   {"5", 5},    {"6", 6},     {"7", 7},     {"8", 8},    {"9", 9}};

/// Reads words one after the other: colours wait for the thing they stand before, numbers too.
class Reader {
 public:
  explicit Reader(Wishes& wishes) : wishes_(wishes) {}

  /// @param pair    what it means together with the next word, if anything
  /// @param weight  how much it counts; below 0 it is kept away.
  void read(const TextWord& word, const std::optional<TraitWord>& pair, float weight) {
    if (word.opens) endPhrase();
    if (isOneOf(silentWords, word.text)) return;
    if (const int* count = valueIn(countWords, word.text)) {
      count_ = *count;
      return;
    }
    if (const Relation* relation = valueIn(relationWords, word.text)) {
      joint();
      relation_ = *relation;
      from_ = static_cast<int>(wishes_.things.size()) - 1;
      return;
    }
    if (isOneOf(joints, word.text)) return joint();
    if (const ThingPart* part = partNamed(word.text); part != nullptr && isThere(*part))
      return readPart(*part, word.text);
    if (pair) return add(*pair, false, weight);
    const FoundWord found = meaningOf(word.text);
    if (found.meaning == nullptr) {
      if (weight == 0) return;
      wishes_.unknown = mixed(wishes_.unknown, hashOf(word.text));
      ++wishes_.others;
      thing_ = mixed(hashOf(word.text), 1);
      return;
    }
    ++wishes_.known;
    if (found.meaning->colour) waiting_.push_back({*found.meaning->colour, weight});
    if (found.meaning->trait) add(*found.meaning->trait, found.plural, weight);
  }

  /// A comma, or the end.
  void endPhrase() {
    joint();
    // "lighthouse behind": behind what is foremost.
    if (relation_ != Relation::none && from_ >= 0) wishes_.things[static_cast<std::size_t>(from_)].relation = relation_;
    relation_ = Relation::none;
  }

  /// Clothes colour whoever wears them; where nobody does, they are a spot of colour.
  void end() {
    endPhrase();
    if (clothes_.strength <= 0) return;
    const auto& things = wishes_.things;
    const bool worn = things.empty() || std::any_of(things.begin(), things.end(),
                                                    [](const Thing& t) { return t.trait == Trait::figure; });
    (worn ? wishes_.colours[static_cast<std::size_t>(Part::subject)] : wishes_.accent) = clothes_;
  }

 private:
  [[nodiscard]] bool isThere(const ThingPart& part) const {
    return std::any_of(wishes_.things.begin(), wishes_.things.end(), [&](const Thing& thing) {
      return std::find(part.of.begin(), part.of.end(), thing.trait) != part.of.end();
    });
  }
  /// Of a thing that was named: its colour lies there alone. What is too small to be placed is left as it is.
  void readPart(const ThingPart& part, const std::string& word) {
    ++wishes_.known;
    thing_ = 0;
    if (!waiting_.empty() && waiting_.front().weight > 0) {
      if (part.band != Band::count)
        wishes_.bands[static_cast<std::size_t>(part.band)] = wishFor(waiting_.front());
      else
        wishes_.left.push_back(word);
    }
    waiting_.clear();
  }

  struct Colour {
    OkLch colour;
    float weight;
  };

  /// A noun has ended. Colours that met nothing known but something strange are a spot of colour; alone they are meant
  /// for everything.
  void joint() {
    if (!waiting_.empty()) {
      WishedColour& to = thing_ != 0 ? wishes_.accent : wishes_.general;
      if (to.strength <= 0) {
        to = wishFor(waiting_.front());
        // "blue and gold": the second is the spot in the first.
        if (waiting_.size() > 1 && thing_ == 0) wishes_.accent = wishFor(waiting_[1]);
      }
    }
    waiting_.clear();
    if (thing_ != 0) wishes_.strange = mixed(wishes_.strange, thing_);
    thing_ = 0;
    count_ = 1;
  }

  [[nodiscard]] WishedColour wishFor(const Colour& colour) const {
    WishedColour wish{colour.colour, wishes_.pull * std::min(1.0f, colour.weight)};
    // What counts more than plainly is more of a colour, too.
    wish.colour.c *= 1 + 0.4f * std::max(0.0f, colour.weight - 1);
    return wish;
  }

  void add(const TraitWord& word, bool plural, float weight) {
    wishes_.traits[static_cast<std::size_t>(word.trait)] += word.amount * attention_ * weight;
    attention_ = std::max(0.5f, attention_ * 0.96f);
    thing_ = 0;
    if (isThing(word.trait) && weight > 0) {
      auto& things = wishes_.things;
      // "sail cart" is one thing.
      if (things.empty() || things.back().trait != word.trait || relation_ != Relation::none) {
        Thing thing{word.trait, count_ > 1 ? count_ : plural && word.trait != Trait::arch ? 0 : 1};
        if (relation_ != Relation::none) {
          if (from_ >= 0) {
            things[static_cast<std::size_t>(from_)].relation = relation_;
            things[static_cast<std::size_t>(from_)].to = static_cast<int>(things.size());
          }
          relation_ = Relation::none;
        }
        things.push_back(thing);
      }
      count_ = 1;
    }
    const auto part = partOf(word.trait);
    if (!part || waiting_.empty()) return;
    if (word.trait == Trait::cloth)
      clothes_ = wishFor(waiting_.front());
    else if (waiting_.front().weight > 0)
      wishes_.colours[static_cast<std::size_t>(*part)] = wishFor(waiting_.front());
    // "red and white tower": the second is its second colour.
    if (waiting_.size() > 1 && *part == Part::subject) wishes_.accent = wishFor(waiting_[1]);
    waiting_.clear();
  }

  Wishes& wishes_;
  WishedColour clothes_;
  float attention_ = 1;  ///< what comes first counts most
  std::vector<Colour> waiting_;
  std::uint64_t thing_ = 0;  ///< the unknown word that ends the phrase so far, which is then a thing; 0: none
  int count_ = 1;
  Relation relation_ = Relation::none;
  int from_ = -1;  ///< the thing before the relation's word
};

float weightAt(const std::vector<Emphasis>& emphasis, int character) {
  for (const Emphasis& e : emphasis)
    if (character >= e.first && character < e.first + e.length) return static_cast<float>(e.weight);
  return 1;
}

/// What two words mean together that each alone does not.
std::optional<TraitWord> pairOf(const TextWord& first, const TextWord* second) {
  if (second == nullptr || second->opens) return {};
  if (first.text == "flat" && (second->text.starts_with("colour") || second->text.starts_with("color")))
    return TraitWord{"flat", Trait::flat, 1.2f};
  const bool water = second->text == "tide" || second->text == "water" || second->text == "waters";
  if (water && first.text == "high") return TraitWord{"high", Trait::flood, 1.0f};
  if (water && first.text == "low") return TraitWord{"low", Trait::flood, -1.0f};
  return {};
}

void readInto(Wishes& wishes, std::string_view text, const std::vector<Emphasis>& emphasis = {}) {
  Reader reader(wishes);
  const auto words = wordsIn(text);
  for (std::size_t i = 0; i < words.size(); ++i)
    reader.read(words[i], pairOf(words[i], i + 1 < words.size() ? &words[i + 1] : nullptr),
                weightAt(emphasis, words[i].first));
  reader.end();
}

/// Kept away: traits go down, colours of that hue go.
void subtract(Wishes& wishes, std::string_view word, float amount) {
  const Meaning* meaning = meaningOf(word).meaning;
  if (meaning == nullptr) return;
  if (meaning->trait) {
    const Trait trait = meaning->trait->trait;
    wishes.traits[static_cast<std::size_t>(trait)] -= amount * meaning->trait->amount;
  }
  if (!meaning->colour) return;
  const auto away = [&](WishedColour& wish) {
    if (std::abs(std::remainder(wish.colour.h - meaning->colour->h, 2 * std::numbers::pi_v<float>)) < 0.35f)
      wish.strength *= std::max(0.0f, 1 - amount);
  };
  away(wishes.general);
  away(wishes.accent);
  for (auto& wish : wishes.colours) away(wish);
}

/// A style says how, not what: its things are left out, and its medium overrules the prompt's from about half strength.
void addStyle(Wishes& wishes, const StyleUse& use) {
  Wishes style;
  style.pull = wishes.pull;
  readInto(style, use.words);
  const auto strength = static_cast<float>(use.strength);
  for (std::size_t i = 0; i < wishes.traits.size(); ++i) {
    const auto trait = static_cast<Trait>(i);
    if (!isThing(trait)) wishes.traits[i] += strength * style.traits[i] * (isMedium(trait) ? 2.0f : 1.0f);
  }
  const auto mix = [&](WishedColour& to, const WishedColour& from) {
    const float share = strength * from.strength;
    if (share <= 0) return;
    // In the order of colours that nothing depends on: both are weighed against each other.
    const OkLab a = okLchToOkLab(to.colour), b = okLchToOkLab(from.colour);
    const float t = share / (share + to.strength);
    to = {okLabToOkLch({blend(a.l, b.l, t), blend(a.a, b.a, t), blend(a.b, b.b, t)}), to.strength + share};
  };
  mix(wishes.general, style.general);
  mix(wishes.accent, style.accent);
  for (std::size_t p = 0; p < partCount; ++p) mix(wishes.colours[p], style.colours[p]);
  // Words of a style that nobody knows change its colours, the same way each time and in any order.
  if (strength > 0) wishes.manner += style.unknown;
}

}  // namespace

Medium Wishes::medium() const {
  constexpr std::array<Trait, 8> media = {Trait::gouache, Trait::oil,    Trait::watercolour, Trait::ink,
                                          Trait::woodcut, Trait::pencil, Trait::flat,        Trait::photograph};
  std::size_t best = 0;
  for (std::size_t i = 1; i < media.size(); ++i)
    if ((*this)[media[i]] > (*this)[media[best]]) best = i;
  return static_cast<Medium>(best);
}

double flatnessFrom(std::string_view avoid) {
  constexpr std::array<std::string_view, 18> against = {
      "contrast", "contrasts", "black", "dark",  "darkness", "shadow", "shadows", "pattern",  "patterns",
      "checks",   "squares",   "grid",  "grids", "mosaic",   "noise",  "texture", "textures", "graphic"};
  double said = 0;
  for (const TextWord& word : wordsIn(avoid))
    said += std::find(against.begin(), against.end(), word.text) != against.end() ? 1 : 0;
  constexpr double enough = 2;
  return std::min(1.0, said / enough);
}

bool namesParts(const Wishes& wishes) {
  return std::any_of(wishes.bands.begin(), wishes.bands.end(), [](const WishedColour& c) { return c.strength > 0; });
}

Wishes wishesFrom(const Brief& brief) {
  Wishes wishes;
  wishes.pull = static_cast<float>(1.25 * brief.guidance / (brief.guidance + 1.6));
  readInto(wishes, brief.prompt, brief.emphasis);
  for (const StyleUse& use : brief.styles) addStyle(wishes, use);
  for (const TextWord& word : wordsIn(brief.avoid)) subtract(wishes, word.text, 1);
  for (const TextWord& word : wordsIn(brief.prompt))
    if (const float weight = weightAt(brief.emphasis, word.first); weight < 0) {
      const Meaning* meaning = meaningOf(word.text).meaning;
      if (meaning != nullptr && meaning->colour) subtract(wishes, word.text, -weight);
    }
  // Media name a way of working, whatever the guidance; everything else is obeyed by degree.
  for (std::size_t i = 0; i < wishes.traits.size(); ++i)
    if (!isMedium(static_cast<Trait>(i))) wishes.traits[i] = std::clamp(wishes.traits[i], -1.0f, 2.0f) * wishes.pull;
  return wishes;
}

Wishes wishesFrom(std::string_view prompt, std::string_view avoid, double guidance) {
  Brief brief;
  brief.prompt = prompt;
  brief.avoid = avoid;
  brief.guidance = guidance;
  return wishesFrom(brief);
}

}  // namespace hscaffold::standin
