#include "core/brief/styles.h"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "core/guides/json_fields.h"
#include "core/image/atomic_file.h"

namespace hscaffold {

const std::vector<StyleCard>& houseStyles() {
  static const std::vector<StyleCard> cards = {
      {"tide-chart", "Tide chart", "gouache, pale, cool, crisp"},
      {"harvest-board", "Harvest board", "gouache, golden, warm, vivid, bold"},
      {"chalk-quay", "Chalk quay", "gouache, pastel, soft, misty"},
      {"kiln-door", "Kiln door", "oil, umber, warm, glowing, dark"},
      {"noon-varnish", "Noon varnish", "oil, vivid, bright, day, crisp"},
      {"wet-rope", "Wet rope", "oil, slate, rain, rough, wild"},
      {"salt-paper", "Salt paper", "watercolour, pale, misty, calm"},
      {"rain-ledger", "Rain ledger", "watercolour, slate, rain, muted"},
      {"plum-wash", "Plum wash", "watercolour, plum, dusk, soft"},
      {"lamp-soot", "Lamp soot", "ink, dark, sombre, wild"},
      {"gull-feather", "Gull feather", "ink, calm, pale, cloudless"},
      {"tar-barrel", "Tar barrel", "ink, rust, dusk, dramatic"},
      {"ropewalk", "Ropewalk", "woodcut, ochre, wild, crisp"},
      {"night-ferry", "Night ferry", "woodcut, navy, night, bold"},
      {"barley-block", "Barley block", "woodcut, amber, warm, summer"},
      {"slate-pencil", "Slate pencil", "pencil, monochrome, crisp"},
      {"mast-survey", "Mast survey", "pencil, pale, calm, detailed"},
      {"driftwood", "Driftwood", "charcoal, umber, dark, rough"},
      {"signal-flags", "Signal flags", "screenprint, vivid, bright, crisp"},
      {"buoy-red", "Buoy red", "screenprint, vermilion, warm, bold"},
      {"ice-depot", "Ice depot", "screenprint, teal, cool, winter"},
      {"survey-plate", "Survey plate", "photograph, clear, crisp, day"},
      {"fog-plate", "Fog plate", "photograph, fog, muted, cool"},
      {"lamplight-plate", "Lamplight plate", "photograph, dusk, amber, glowing"},
      {"moss-glaze", "Moss glaze", "oil, moss, muted, deep"},
      {"coral-sheet", "Coral sheet", "gouache, coral, soft, dawn"},
  };
  return cards;
}

const StyleCard* styleNamed(const std::vector<StyleCard>& cards, const std::string& idOrName) {
  const auto found = std::find_if(cards.begin(), cards.end(),
                                  [&](const StyleCard& card) { return card.id == idOrName || card.name == idOrName; });
  return found != cards.end() ? &*found : nullptr;
}

bool useStyle(Brief& brief, const StyleCard& card, double strength) {
  auto& styles = brief.styles;
  const auto found = std::find_if(styles.begin(), styles.end(), [&](const StyleUse& use) { return use.id == card.id; });
  if (strength <= 0) {
    if (found == styles.end()) return false;
    styles.erase(found);
    return true;
  }
  if (found == styles.end()) {
    if (styles.size() >= mostStyles)
      throw badInput(fmt::format("At most {} styles act at once. Take one out first.", mostStyles));
    styles.push_back({card.id, card.name, card.words, std::min(strength, limits::strength.most)});
    return true;
  }
  const double before = std::exchange(found->strength, std::min(strength, limits::strength.most));
  return found->strength != before;
}

nlohmann::json stylesToJson(const std::vector<StyleCard>& cards) {
  auto list = nlohmann::json::array();
  for (const StyleCard& card : cards) list.push_back({{"id", card.id}, {"name", card.name}, {"words", card.words}});
  return {{"styles", list}};
}

std::vector<StyleCard> stylesFromJson(const nlohmann::json& json) {
  JsonFields fields(json, "The styles");
  const auto& list = fields.child("styles");
  if (!list.is_array()) throw badInput("The styles: \"styles\" is not a list.");
  std::vector<StyleCard> cards;
  for (std::size_t i = 0; i < std::min(list.size(), mostOwnStyles); ++i) {
    JsonFields entry(list[i], fmt::format("The styles, card {}", i + 1));
    StyleCard card{fittedText(entry.text("id"), longestName), fittedText(entry.text("name"), longestName),
                   fittedText(entry.text("words"), longestPrompt), true};
    if (!card.id.empty() && styleNamed(cards, card.id) == nullptr) cards.push_back(std::move(card));
  }
  return cards;
}

}  // namespace hscaffold
