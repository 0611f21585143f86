#include "core/study/words_against_code.h"

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

#include "core/pattern/pattern.h"
#include "core/text.h"

namespace hscaffold {
namespace {

/// Points of margin less than which may be chance.
constexpr double clearlyWorse = 12;

std::set<std::string> wordSet(const std::string& text) {
  std::set<std::string> out;
  for (const TextWord& word : wordsIn(text)) out.insert(word.text);
  return out;
}

}  // namespace

std::optional<WordsAgainstCode> wordsAgainstCode(const StudyState& state, std::span<const ProofInfo> proofs) {
  const auto now = wordSet(state.brief.avoid);
  const auto code = std::find_if(state.guides.begin(), state.guides.end(), [](const Guide& guide) {
    return guide.on && guide.kind == "pattern" && pattern::patternTuningFrom(guide.tuning).what == pattern::What::code;
  });
  if (now.empty() || code == state.guides.end()) return {};
  // Proofs that can be alike at all; recipes are compared whole within these only.
  std::map<std::tuple<std::uint32_t, std::string, int, std::size_t, double>, std::vector<const ProofInfo*>> groups;
  for (const ProofInfo& proof : proofs) {
    if (!proof.holds.contains(code->id)) continue;
    const Recipe& recipe = proof.recipe;
    groups[{recipe.brief.seed, recipe.brief.prompt, recipe.frame.width, recipe.guides.size(),
            recipe.guides.empty() ? 0 : recipe.guides.front().guide.weight}]
        .push_back(&proof);
  }
  std::optional<WordsAgainstCode> worst;
  for (const auto& [key, alike] : groups)
    for (const ProofInfo* with : alike)
      for (const ProofInfo* without : alike) {
        if (with->recipe.brief.avoid == without->recipe.brief.avoid) continue;
        const double less = without->holds.at(code->id) - with->holds.at(code->id);
        if (less < clearlyWorse) continue;
        const auto had = wordSet(with->recipe.brief.avoid), spared = wordSet(without->recipe.brief.avoid);
        std::vector<std::string> words;
        for (const std::string& word : had)
          if (!spared.contains(word)) words.push_back(word);
        // Which of several it was nobody knows: all of them have to be meant, and few words say more.
        const bool meant = !words.empty() && std::all_of(words.begin(), words.end(),
                                                         [&](const auto& word) { return now.contains(word); });
        if (!meant) continue;
        if (worst && (worst->words.size() < words.size() ||
                      (worst->words.size() == words.size() && less <= worst->without - worst->with)))
          continue;
        Recipe same = without->recipe;
        same.brief.avoid = with->recipe.brief.avoid;
        if (same == with->recipe)
          worst = {std::move(words), with->holds.at(code->id), without->holds.at(code->id), with->number,
                   without->number};
      }
  return worst;
}

}  // namespace hscaffold
