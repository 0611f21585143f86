/// Style cards: named looks, each in a few words. Those of the house, and the artist's own in a file.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/brief/brief.h"

namespace hscaffold {

struct StyleCard {
  std::string id, name, words;
  bool own = false;  ///< the artist's
  friend bool operator==(const StyleCard&, const StyleCard&) = default;
};

inline constexpr std::size_t mostOwnStyles = 500;

/// Cards that come with the program.
const std::vector<StyleCard>& houseStyles();
/// The card with this id or name among `cards`; null if there is none.
const StyleCard* styleNamed(const std::vector<StyleCard>& cards, const std::string& idOrName);

/// Turns a card on at a strength, changes it, or with a strength of 0 takes it out. More than `mostStyles` are refused.
/// @return whether anything has changed
bool useStyle(Brief& brief, const StyleCard& card, double strength);

nlohmann::json stylesToJson(const std::vector<StyleCard>& cards);
/// @throws Problem (badInput)
std::vector<StyleCard> stylesFromJson(const nlohmann::json& json);

}  // namespace hscaffold
