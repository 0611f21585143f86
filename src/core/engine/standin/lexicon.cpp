#include "core/engine/standin/lexicon.h"

#include <algorithm>
#include <numbers>
#include <unordered_map>

namespace hscaffold::standin {
namespace {

constexpr TraitWord traitWords[] = {
    {"spring", Trait::spring},
    {"april", Trait::spring},
    {"may", Trait::spring, 0.7f},
    {"march", Trait::spring, 0.6f},
    {"blossom", Trait::spring, 0.8f},
    {"fresh", Trait::spring, 0.5f},
    {"bud", Trait::spring, 0.6f},
    {"summer", Trait::summer},
    {"june", Trait::summer},
    {"july", Trait::summer},
    {"august", Trait::summer},
    {"hot", Trait::summer, 0.7f},
    {"harvest", Trait::summer, 0.6f},
    {"autumn", Trait::autumn},
    {"october", Trait::autumn},
    {"november", Trait::autumn},
    {"fallen", Trait::autumn, 0.5f},
    {"russet", Trait::autumn, 0.8f},
    {"withered", Trait::autumn, 0.7f},
    {"winter", Trait::winter},
    {"december", Trait::winter},
    {"january", Trait::winter},
    {"february", Trait::winter},
    {"frost", Trait::winter, 0.9f},
    {"ice", Trait::winter, 0.8f},
    {"frozen", Trait::winter, 0.9f},
    {"cold", Trait::winter, 0.6f},
    {"dawn", Trait::dawn},
    {"sunrise", Trait::dawn},
    {"morning", Trait::dawn, 0.7f},
    {"early", Trait::dawn, 0.4f},
    {"day", Trait::day},
    {"noon", Trait::day},
    {"midday", Trait::day},
    {"afternoon", Trait::day, 0.8f},
    {"daylight", Trait::day},
    {"sunny", Trait::day, 0.8f},
    {"sunlight", Trait::day, 0.9f},
    {"sunshine", Trait::day, 0.9f},
    {"sunlit", Trait::day, 0.9f},
    {"dusk", Trait::dusk},
    {"sunset", Trait::dusk},
    {"evening", Trait::dusk, 0.9f},
    {"twilight", Trait::dusk},
    {"late", Trait::dusk, 0.4f},
    {"lantern", Trait::dusk, 0.4f},
    {"night", Trait::night},
    {"midnight", Trait::night},
    {"moon", Trait::night, 0.8f},
    {"moonlight", Trait::night, 0.9f},
    {"star", Trait::night, 0.8f},
    {"starry", Trait::night, 0.9f},
    {"dark", Trait::dark, 0.8f},
    {"clear", Trait::clear},
    {"cloudless", Trait::clear},
    {"sun", Trait::clear, 0.6f},
    {"cloud", Trait::cloud},
    {"cloudy", Trait::cloud},
    {"overcast", Trait::cloud, 1.2f},
    {"fog", Trait::fog},
    {"foggy", Trait::fog},
    {"mist", Trait::fog, 0.8f},
    {"misty", Trait::fog, 0.8f},
    {"haze", Trait::fog, 0.6f},
    {"hazy", Trait::fog, 0.6f},
    {"smoke", Trait::fog, 0.6f},
    {"rain", Trait::rain},
    {"rainy", Trait::rain},
    {"drizzle", Trait::rain, 0.7f},
    {"wet", Trait::rain, 0.6f},
    {"storm", Trait::storm},
    {"stormy", Trait::storm},
    {"thunder", Trait::storm},
    {"gale", Trait::storm, 0.8f},
    {"snow", Trait::snow},
    {"snowy", Trait::snow},
    {"blizzard", Trait::snow, 1.2f},
    {"wind", Trait::wind},
    {"windy", Trait::wind},
    {"breeze", Trait::wind, 0.6f},
    {"gust", Trait::wind},
    {"sea", Trait::sea},
    {"ocean", Trait::sea},
    {"coast", Trait::sea, 0.8f},
    {"shore", Trait::sea, 0.8f},
    {"beach", Trait::sea, 0.8f},
    {"tidal", Trait::sea, 0.8f},
    {"tide", Trait::sea, 0.8f},
    {"wave", Trait::sea, 0.8f},
    {"harbour", Trait::sea, 0.8f},
    {"island", Trait::sea, 0.7f},
    {"water", Trait::sea, 0.7f},
    {"flat", Trait::sea, 0.4f},
    {"dune", Trait::dune},
    {"sand", Trait::dune, 0.9f},
    {"desert", Trait::dune},
    {"sandy", Trait::dune, 0.8f},
    {"mountain", Trait::mountain},
    {"hill", Trait::mountain, 0.6f},
    {"cliff", Trait::mountain, 0.8f},
    {"peak", Trait::mountain},
    {"valley", Trait::mountain, 0.7f},
    {"ridge", Trait::mountain, 0.8f},
    {"field", Trait::field},
    {"meadow", Trait::field},
    {"grass", Trait::field, 0.8f},
    {"garden", Trait::field, 0.8f},
    {"plain", Trait::field, 0.6f},
    {"farm", Trait::field, 0.7f},
    {"forest", Trait::forest},
    {"wood", Trait::wood},
    {"grove", Trait::forest, 0.7f},
    {"jungle", Trait::forest, 1.2f},
    {"pine", Trait::forest, 0.8f},
    {"town", Trait::town},
    {"city", Trait::town},
    {"street", Trait::town},
    {"village", Trait::town, 0.8f},
    {"roof", Trait::town, 0.6f},
    {"market", Trait::town, 0.7f},
    {"river", Trait::river},
    {"lake", Trait::river, 0.9f},
    {"stream", Trait::river, 0.8f},
    {"pond", Trait::river, 0.7f},
    {"marsh", Trait::river, 0.7f},
    {"canal", Trait::river, 0.8f},
    {"flood", Trait::flood},
    {"flooded", Trait::flood},
    {"ebb", Trait::flood, -1.0f},
    {"room", Trait::room},
    {"interior", Trait::room},
    {"indoors", Trait::room},
    {"hall", Trait::room},
    {"table", Trait::room, 0.6f},
    {"figure", Trait::figure},
    {"person", Trait::figure},
    {"man", Trait::figure},
    {"woman", Trait::figure},
    {"girl", Trait::figure},
    {"boy", Trait::figure},
    {"child", Trait::figure},
    {"flyer", Trait::figure},
    {"walker", Trait::figure},
    {"sailor", Trait::figure},
    {"rider", Trait::figure},
    {"dancer", Trait::figure},
    {"portrait", Trait::figure, 1.2f},
    {"maker", Trait::figure, 0.8f},
    {"tower", Trait::tower},
    {"lighthouse", Trait::tower},
    {"mill", Trait::tower, 0.8f},
    {"spire", Trait::tower},
    {"pole", Trait::tower, 0.5f},
    {"house", Trait::house},
    {"hut", Trait::house},
    {"cabin", Trait::house},
    {"barn", Trait::house},
    {"castle", Trait::house},
    {"temple", Trait::house},
    {"tea", Trait::house, 0.4f},
    {"building", Trait::house},
    {"shed", Trait::house, 0.8f},
    {"tree", Trait::tree},
    {"oak", Trait::tree},
    {"willow", Trait::tree},
    {"palm", Trait::tree},
    {"boat", Trait::boat},
    {"ship", Trait::boat},
    {"sail", Trait::boat, 0.8f},
    {"cart", Trait::boat, 0.7f},
    {"animal", Trait::animal},
    {"fox", Trait::animal},
    {"dog", Trait::animal},
    {"cat", Trait::animal},
    {"horse", Trait::horse},
    {"pony", Trait::horse, 0.9f},
    {"mare", Trait::horse},
    {"foal", Trait::horse, 0.8f},
    {"deer", Trait::animal},
    {"hare", Trait::animal},
    {"kite", Trait::kite},
    {"bird", Trait::bird, 0.8f},
    {"gull", Trait::bird, 0.8f},
    {"seagull", Trait::bird, 0.8f},
    {"crow", Trait::bird, 0.8f},
    {"swallow", Trait::bird, 0.8f},
    {"heron", Trait::bird},
    {"balloon", Trait::balloon},
    {"arch", Trait::arch},
    {"stair", Trait::arch, 0.9f},
    {"bridge", Trait::arch},
    {"gate", Trait::arch},
    {"door", Trait::arch, 0.7f},
    {"flower", Trait::flower},
    {"vase", Trait::flower, 0.8f},
    {"rose", Trait::flower},
    {"poppy", Trait::flower},
    {"rock", Trait::rock},
    {"boulder", Trait::rock},
    {"crag", Trait::rock},
    {"wooden", Trait::wood},
    {"timber", Trait::wood},
    {"plank", Trait::wood, 0.8f},
    {"stone", Trait::stone},
    {"brick", Trait::stone, 0.9f},
    {"marble", Trait::stone},
    {"concrete", Trait::stone},
    {"cloth", Trait::cloth},
    {"coat", Trait::cloth, 0.5f},
    {"cloak", Trait::cloth, 0.5f},
    {"dress", Trait::cloth, 0.5f},
    {"shirt", Trait::cloth, 0.5f},
    {"jacket", Trait::cloth, 0.5f},
    {"robe", Trait::cloth, 0.5f},
    {"tunic", Trait::cloth, 0.5f},
    {"raincoat", Trait::cloth, 0.5f},
    {"cape", Trait::cloth, 0.5f},
    {"skirt", Trait::cloth, 0.5f},
    {"trousers", Trait::cloth, 0.5f},
    {"apron", Trait::cloth, 0.5f},
    {"scarf", Trait::cloth, 0.3f},
    {"hat", Trait::cloth, 0.3f},
    {"silk", Trait::cloth},
    {"linen", Trait::cloth},
    {"wool", Trait::cloth},
    {"canvas", Trait::cloth, 0.7f},
    {"metal", Trait::metal},
    {"iron", Trait::metal},
    {"copper", Trait::metal},
    {"brass", Trait::metal},
    {"steel", Trait::metal},
    {"glass", Trait::glass},
    {"crystal", Trait::glass},
    {"paper", Trait::paper},
    {"torn", Trait::paper, 0.6f},
    {"cardboard", Trait::paper},
    {"gouache", Trait::gouache},
    {"tempera", Trait::gouache, 0.9f},
    {"painted", Trait::gouache, 0.5f},
    {"oil", Trait::oil},
    {"impasto", Trait::oil, 1.2f},
    {"watercolour", Trait::watercolour},
    {"watercolor", Trait::watercolour},
    {"aquarelle", Trait::watercolour},
    {"ink", Trait::ink},
    {"brush", Trait::ink, 0.5f},
    {"calligraphy", Trait::ink},
    {"sumi", Trait::ink},
    {"woodcut", Trait::woodcut},
    {"linocut", Trait::woodcut},
    {"print", Trait::woodcut, 0.6f},
    {"engraving", Trait::woodcut, 0.8f},
    {"pencil", Trait::pencil},
    {"graphite", Trait::pencil},
    {"charcoal", Trait::pencil, 0.9f},
    {"sketch", Trait::pencil, 0.7f},
    {"drawing", Trait::pencil, 0.6f},
    {"screenprint", Trait::flat, 1.2f},
    {"serigraph", Trait::flat, 1.2f},
    {"stencil", Trait::flat},
    {"poster", Trait::flat, 0.8f},
    {"screen", Trait::flat, 0.9f},
    {"photograph", Trait::photograph},
    {"photo", Trait::photograph},
    {"camera", Trait::photograph, 0.8f},
    {"film", Trait::photograph, 0.8f},
    {"realistic", Trait::photograph, 0.7f},
    {"bright", Trait::bright},
    {"light", Trait::bright, 0.7f},
    {"luminous", Trait::bright},
    {"pale", Trait::bright, 0.8f},
    {"gloomy", Trait::dark},
    {"shadow", Trait::dark, 0.6f},
    {"deep", Trait::dark, 0.5f},
    {"sombre", Trait::dark},
    {"vivid", Trait::vivid},
    {"colourful", Trait::vivid},
    {"saturated", Trait::vivid},
    {"bold", Trait::vivid, 0.7f},
    {"muted", Trait::muted},
    {"faded", Trait::muted},
    {"dusty", Trait::muted, 0.8f},
    {"pastel", Trait::muted, 0.7f},
    {"monochrome", Trait::muted, 2.0f},
    {"calm", Trait::calm},
    {"quiet", Trait::calm},
    {"still", Trait::calm, 0.8f},
    {"serene", Trait::calm},
    {"wild", Trait::wild},
    {"rough", Trait::wild, 0.8f},
    {"restless", Trait::wild},
    {"dramatic", Trait::wild, 0.8f},
    {"warm", Trait::warm},
    {"glowing", Trait::warm, 0.8f},
    {"fire", Trait::warm, 0.8f},
    {"cool", Trait::cool},
    {"chilly", Trait::cool, 0.8f},
    {"soft", Trait::soft},
    {"blurred", Trait::soft},
    {"gentle", Trait::soft, 0.7f},
    {"crisp", Trait::crisp},
    {"sharp", Trait::crisp},
    {"detailed", Trait::crisp, 0.8f},
};

struct ColourWord {
  std::string_view word;
  float l, c, degrees;
};
constexpr ColourWord colourWords[] = {
    {"red", 0.56f, 0.19f, 27},       {"crimson", 0.47f, 0.18f, 20}, {"scarlet", 0.60f, 0.21f, 32},
    {"vermilion", 0.63f, 0.20f, 36}, {"coral", 0.70f, 0.15f, 32},   {"pink", 0.78f, 0.11f, 0},
    {"orange", 0.72f, 0.16f, 58},    {"amber", 0.76f, 0.15f, 75},   {"gold", 0.78f, 0.14f, 88},
    {"golden", 0.78f, 0.14f, 86},    {"yellow", 0.87f, 0.16f, 100}, {"ochre", 0.66f, 0.11f, 78},
    {"brown", 0.43f, 0.07f, 58},     {"umber", 0.36f, 0.05f, 62},   {"rust", 0.52f, 0.13f, 42},
    {"olive", 0.55f, 0.09f, 112},    {"green", 0.60f, 0.14f, 146},  {"emerald", 0.58f, 0.14f, 160},
    {"moss", 0.50f, 0.08f, 125},     {"teal", 0.55f, 0.09f, 190},   {"turquoise", 0.74f, 0.11f, 188},
    {"blue", 0.53f, 0.16f, 258},     {"azure", 0.70f, 0.12f, 240},  {"navy", 0.31f, 0.10f, 264},
    {"cobalt", 0.46f, 0.17f, 262},   {"indigo", 0.36f, 0.13f, 280}, {"violet", 0.52f, 0.16f, 300},
    {"purple", 0.46f, 0.16f, 312},   {"lilac", 0.75f, 0.09f, 310},  {"plum", 0.40f, 0.11f, 335},
    {"magenta", 0.58f, 0.21f, 345},  {"white", 0.94f, 0.01f, 95},   {"cream", 0.92f, 0.04f, 90},
    {"ivory", 0.93f, 0.03f, 95},     {"grey", 0.60f, 0.01f, 250},   {"gray", 0.60f, 0.01f, 250},
    {"silver", 0.78f, 0.01f, 240},   {"slate", 0.48f, 0.03f, 250},  {"black", 0.22f, 0.01f, 280},
};

const std::unordered_map<std::string_view, Meaning>& lexicon() {
  static const auto map = [] {
    std::unordered_map<std::string_view, Meaning> all;
    for (const TraitWord& word : traitWords) all[word.word].trait = word;
    for (const ColourWord& word : colourWords)
      all[word.word].colour = OkLch{word.l, word.c, word.degrees * std::numbers::pi_v<float> / 180};
    return all;
  }();
  return map;
}

std::string_view groupOf(Trait trait) {
  if (trait <= Trait::winter) return "season";
  if (trait <= Trait::night) return "time of day";
  if (trait <= Trait::wind) return "weather";
  if (trait <= Trait::flood) return "place";
  if (trait <= Trait::balloon) return "subject";
  if (trait <= Trait::paper) return "material";
  if (trait <= Trait::photograph) return "medium";
  return "mood";
}

}  // namespace

std::vector<NamedColour> namedColours() {
  std::vector<NamedColour> out;
  for (const ColourWord& word : colourWords) {
    // "golden" and "gray" are said already.
    if (!out.empty() && std::abs(out.back().colour.l - word.l) + std::abs(out.back().colour.c - word.c) < 1e-4f)
      continue;
    out.push_back({word.word, *lexicon().at(word.word).colour});
  }
  return out;
}

FoundWord meaningOf(std::string_view word) {
  const auto& all = lexicon();
  const auto find = [&](std::string_view form) {
    const auto found = all.find(form);
    return found != all.end() ? &found->second : nullptr;
  };
  if (const Meaning* meaning = find(word)) return {meaning, false};
  if (word.size() > 3 && word.ends_with("s"))
    if (const Meaning* meaning = find(word.substr(0, word.size() - 1))) return {meaning, true};
  if (word.size() > 4 && word.ends_with("es"))
    if (const Meaning* meaning = find(word.substr(0, word.size() - 2))) return {meaning, true};
  return {};
}

std::optional<Part> partOf(Trait trait) {
  if (trait >= Trait::clear && trait <= Trait::wind) return Part::sky;
  if (trait >= Trait::dawn && trait <= Trait::night) return Part::sky;
  switch (trait) {
    case Trait::dune:
    case Trait::field:
    case Trait::room:
      return Part::ground;
    case Trait::mountain:
      return Part::far;
    case Trait::sea:
    case Trait::forest:
    case Trait::town:
    case Trait::river:
      return Part::middle;
    default:
      break;
  }
  if (isThing(trait)) return Part::subject;
  // Clothes are what a figure is seen by.
  if (trait == Trait::cloth) return Part::subject;
  return {};
}

namespace {

constexpr ThingPart thingParts[] = {
    {"roof", Band::top, {Trait::house, Trait::tower}},     {"spire", Band::top, {Trait::house, Trait::tower}},
    {"stilt", Band::bottom, {Trait::house, Trait::house}}, {"door", Band::count, {Trait::house, Trait::tower}},
    {"window", Band::count, {Trait::house, Trait::tower}}, {"chimney", Band::count, {Trait::house, Trait::house}},
    {"sail", Band::top, {Trait::boat, Trait::boat}},       {"mast", Band::count, {Trait::boat, Trait::boat}},
    {"hull", Band::bottom, {Trait::boat, Trait::boat}},    {"hat", Band::top, {Trait::figure, Trait::figure}},
    {"hood", Band::top, {Trait::figure, Trait::figure}},   {"scarf", Band::count, {Trait::figure, Trait::figure}},
    {"boot", Band::bottom, {Trait::figure, Trait::figure}}};

}  // namespace

const ThingPart* partNamed(std::string_view word) {
  const auto is = [&](const ThingPart& part) {
    return word == part.word ||
           (word.size() == part.word.size() + 1 && word.back() == 's' && word.starts_with(part.word));
  };
  const auto* found = std::find_if(std::begin(thingParts), std::end(thingParts), is);
  return found != std::end(thingParts) ? found : nullptr;
}

std::vector<LexiconWord> lexiconWords() {
  std::vector<LexiconWord> words;
  for (const TraitWord& word : traitWords) words.push_back({word.word, groupOf(word.trait)});
  for (const ColourWord& word : colourWords) words.push_back({word.word, "colour"});
  for (const ThingPart& part : thingParts)
    if (std::none_of(words.begin(), words.end(), [&](const LexiconWord& known) { return known.word == part.word; }))
      words.push_back({part.word, "part of a thing"});
  return words;
}

}  // namespace hscaffold::standin
