/// A final: a proof pulled again larger, and the touch-ups that lie over it. Plain values of a study; their pictures
/// are kept by content, like those of references.
#pragma once

#include <cstdint>
#include <map>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/finish/tiles.h"
#include "core/finish/touch_region.h"
#include "core/limits.h"

namespace hscaffold {

namespace limits {

inline constexpr Limits finalChange{0, 1, 0.3, 0.01, 2};
inline constexpr Limits finalTimes{1, 8, 2, 0.25, 2};
inline constexpr Limits touchChange{0, 1, 0.6, 0.01, 2};
inline constexpr Limits touchDetail{1, 4, 2, 0.1, 1, "x"};  ///< how much larger it is pulled than it is shown
inline constexpr Limits touchRim{0, 512, 48, 4, 0, "px"};
inline constexpr Limits touchFeather{0, 256, 12, 1, 0, "px"};

}  // namespace limits

inline constexpr std::size_t mostFinals = 500, mostTouchUps = 500, mostTries = 200;

/// What the first steps of a touch-up begin with.
enum class TouchStart {
  below,    ///< the picture as it is there
  colours,  ///< only its colours, smoothed
  noise     ///< none of it
};

/// One pull of a touch-up.
struct TouchTry {
  std::string picture;  ///< its PNG, with its recipe, by content
  Box box;              ///< of the final, that it shows
  std::uint32_t seed = 0;
  double change = 0, milliseconds = 0;
  std::string words;
  friend bool operator==(const TouchTry&, const TouchTry&) = default;
};

/// How a guide acts in a touch-up.
struct TouchGuide {
  bool on = true;
  double weight = 1;
  friend bool operator==(const TouchGuide&, const TouchGuide&) = default;
};

/// A region of a final that is pulled again.
struct TouchUp {
  std::string id, name;
  bool on = true;
  TouchRegion region;
  double feather = limits::touchFeather.usual;  ///< pixels of the final, beyond the region's border
  std::string words;                            ///< what to make here; empty: the prompt
  bool withBrief = true;                        ///< takes the style cards and what is to be avoided
  TouchStart start = TouchStart::below;
  double change = limits::touchChange.usual;
  std::optional<double> detail;  ///< none: as the engine likes it best
  double rim = limits::touchRim.usual;
  std::map<std::string, TouchGuide> guides;  ///< by id, where they act otherwise than in the final
  std::vector<TouchTry> tries;               ///< oldest first
  int used = -1;                             ///< which of them lies over the final; -1: none
  friend bool operator==(const TouchUp&, const TouchUp&) = default;
  [[nodiscard]] const TouchTry* usedTry() const {
    return used >= 0 && used < std::ssize(tries) ? &tries[static_cast<std::size_t>(used)] : nullptr;
  }
};

struct Final {
  std::string id, name;
  std::int64_t proof = 0;  ///< from which it was pulled
  Size size;
  double change = limits::finalChange.usual;  ///< how far the proof may be left
  bool enlarged = false;                      ///< made larger by the program alone, without an engine
  std::string engine;                         ///< its id
  std::string picture;                        ///< its PNG, with its recipe, by content; empty while it is not whole
  std::vector<std::string> tiles;             ///< of one that is not whole: PNGs by content, in the plan's order
  int columns = 1, rows = 1;
  double milliseconds = 0;
  double joins = 0, worstJoin = 0;            ///< see `Joins`; 0: none
  std::map<std::string, double> holds, held;  ///< of it and of its proof, by guide
  std::vector<TouchUp> touchUps;              ///< from below to above
  std::string extra;                          ///< fields of newer versions, as JSON; empty: none
  friend bool operator==(const Final&, const Final&) = default;
  [[nodiscard]] bool whole() const { return !picture.empty(); }
  [[nodiscard]] const TouchUp* touchUp(const std::string& touchUp) const;
  TouchUp* touchUp(const std::string& touchUp);
  /// The contents of all pictures that it is made of.
  [[nodiscard]] std::set<std::string> pictures() const;
};

/// Brings everything into the ranges that readers accept.
void keepWithinLimits(Final& final);

nlohmann::json finalToJson(const Final& final);
/// @throws Problem (badInput)
Final finalFromJson(const nlohmann::json& json, const std::string& where, Mended* mended = nullptr);

}  // namespace hscaffold
