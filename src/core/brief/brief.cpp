#include "core/brief/brief.h"

#include <algorithm>
#include <cmath>

namespace hscaffold {
namespace {

/// A weight for each character.
std::vector<double> weightsOf(const std::vector<Emphasis>& emphasis, std::size_t characters) {
  std::vector<double> weights(characters, 1.0);
  const auto most = static_cast<std::int64_t>(characters);
  for (const Emphasis& e : emphasis) {
    double weight = e.weight;
    keepWithin(weight, limits::emphasis);
    const std::int64_t first = std::clamp<std::int64_t>(e.first, 0, most);
    const std::int64_t end = std::clamp<std::int64_t>(std::int64_t{e.first} + std::max(0, e.length), first, most);
    std::fill(weights.begin() + first, weights.begin() + end, weight);
  }
  return weights;
}

std::vector<Emphasis> stretchesOf(const std::vector<double>& weights) {
  std::vector<Emphasis> out;
  for (std::size_t i = 0; i < weights.size() && out.size() < mostEmphases;) {
    std::size_t end = i;
    while (end < weights.size() && weights[end] == weights[i]) ++end;
    if (weights[i] != 1) out.push_back({static_cast<int>(i), static_cast<int>(end - i), weights[i]});
    i = end;
  }
  return out;
}

}  // namespace

std::vector<Emphasis> inOrder(const std::vector<Emphasis>& emphasis, std::size_t characters) {
  return stretchesOf(weightsOf(emphasis, characters));
}

std::vector<Emphasis> followed(const std::vector<Emphasis>& emphasis, std::string_view before, std::string_view after) {
  if (emphasis.empty() || before == after) return emphasis;
  const std::u32string was = codePointsOf(before), is = codePointsOf(after);
  const auto most = static_cast<std::ptrdiff_t>(std::min(was.size(), is.size()));
  const auto start = std::mismatch(was.begin(), was.begin() + most, is.begin()).first - was.begin();
  const auto end = std::mismatch(was.rbegin(), was.rbegin() + (most - start), is.rbegin()).first - was.rbegin();
  const auto weights = weightsOf(emphasis, was.size());
  std::vector<double> now(weights.begin(), weights.begin() + start);
  // What is typed inside a stretch belongs to it; what is typed at its end is plain.
  const auto next = static_cast<std::ptrdiff_t>(was.size()) - end;
  const bool inside =
      start > 0 && end > 0 && weights[static_cast<std::size_t>(start - 1)] == weights[static_cast<std::size_t>(next)];
  now.resize(is.size() - static_cast<std::size_t>(end), inside ? weights[static_cast<std::size_t>(next)] : 1.0);
  now.insert(now.end(), weights.end() - end, weights.end());
  return stretchesOf(now);
}

std::vector<std::string> wordsInBoth(const Brief& brief) {
  std::vector<std::string> both;
  const auto prompt = wordsIn(brief.prompt);
  for (const TextWord& word : wordsIn(brief.avoid)) {
    const bool there =
        std::any_of(prompt.begin(), prompt.end(), [&](const TextWord& w) { return w.text == word.text; });
    if (there && word.text.size() >= 3 && std::find(both.begin(), both.end(), word.text) == both.end())
      both.push_back(word.text);
  }
  return both;
}

std::string withoutWord(std::string_view list, std::string_view word) {
  std::string out;
  // Entry by entry: what is left of one keeps its place, an empty one goes with its comma.
  std::size_t at = 0;
  while (at <= list.size()) {
    const std::size_t end = std::min(list.find(',', at), list.size());
    std::string entry;
    std::size_t from = at;
    while (from < end) {
      const std::size_t space = std::min(list.find(' ', from), end);
      const std::string_view token = list.substr(from, space - from);
      const auto words = wordsIn(token);
      if (!token.empty() && !(words.size() == 1 && words.front().text == word))
        entry += (entry.empty() ? "" : " ") + std::string(token);
      from = space + 1;
    }
    if (!entry.empty()) out += (out.empty() ? "" : ", ") + entry;
    at = end + 1;
  }
  return out;
}

void keepWithinLimits(Brief& brief) {
  brief.prompt = fittedText(std::move(brief.prompt), longestPrompt);
  brief.avoid = fittedText(std::move(brief.avoid), longestPrompt);
  brief.emphasis = inOrder(brief.emphasis, charactersIn(brief.prompt));
  keepWithin(brief.steps, limits::steps);
  keepWithin(brief.guidance, limits::guidance);
  keepWithin(brief.vary, limits::vary);
  for (auto use = brief.styles.begin(); use != brief.styles.end();) {
    use->id = fittedText(std::move(use->id), longestName);
    use->name = fittedText(std::move(use->name), longestName);
    use->words = fittedText(std::move(use->words), longestPrompt);
    keepWithin(use->strength, limits::strength);
    const bool again =
        std::any_of(brief.styles.begin(), use, [&](const StyleUse& earlier) { return earlier.id == use->id; });
    use = again || use->id.empty() ? brief.styles.erase(use) : use + 1;
  }
  if (brief.styles.size() > mostStyles) brief.styles.resize(mostStyles);
  StartPicture& start = brief.start;
  keepWithin(start.change, limits::change);
  start.shows = fittedText(std::move(start.shows), longestPrompt);
  start.wanted = fittedText(std::move(start.wanted), longestPrompt);
  keepWithinLimits(start.placement);
  // What belongs to another origin is not carried along.
  if (start.from != StartPicture::From::reference) start.reference.clear();
  if (start.from != StartPicture::From::proof) start.proof = 0;
  if (start.from != StartPicture::From::guide) start.guide.clear();
  keepWithin(start.mood.blur, mood::limits::blur);
  if (brief.colours.size() > mood::mostColours) brief.colours.resize(mood::mostColours);
  for (mood::WantedColour& each : brief.colours)
    for (float* channel : {&each.colour.r, &each.colour.g, &each.colour.b}) keepWithin(*channel, limits::channel);
  if (start.from != StartPicture::From::colour) start.colour = StartPicture{}.colour;
  for (float* channel : {&start.colour.r, &start.colour.g, &start.colour.b}) keepWithin(*channel, limits::channel);
}

}  // namespace hscaffold
