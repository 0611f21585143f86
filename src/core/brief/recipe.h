/// A recipe: the complete settings of one proof. Same recipe and seed, same engine: same bytes.
///
/// As JSON it follows docs/recipe.schema.json; inside a PNG it is the iTXt chunk `recipeKeyword`.
#pragma once

#include <map>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/brief/brief.h"
#include "core/frame/placement.h"
#include "core/guides/guide.h"
#include "core/image/part.h"
#include "core/image/png.h"

namespace hscaffold {

class Mended;

/// Version 1 named hand work in fields of its own rather than in "work"; version 2 had no emphasis, styles, start
/// picture and variations; version 3 no regions and hand work beside recipes on disk; version 4 no frame for maps;
/// version 5 no parts; version 6 no families and names of kinds; version 7 no moods and wanted
/// colours. All are still read.
inline constexpr int recipeVersion = 8;
inline constexpr const char* recipeKeyword = "humble-scaffold-recipe";

/// Where a guide's map came from, so that adopting brings that back too.
struct RecipeReference {
  std::string id, name;
  Placement placement;
  std::string content = {};  ///< see `Reference`; empty in recipes of version 3 and before
  [[nodiscard]] const std::string& source() const { return content.empty() ? id : content; }
  friend bool operator==(const RecipeReference&, const RecipeReference&) = default;
};

struct RecipeGuide {
  Guide guide;            ///< `on` is always true: guides that were off are not in a recipe
  std::string mapDigest;  ///< see `digestOf`; empty if not known yet
  // For recipes on disk, relative to the recipe; empty otherwise:
  std::string mapFile;
  std::string valuesFile;                        ///< of a map in colour whose values are not its brightness
  std::string regionFile;                        ///< how far it acts where; without one everywhere
  std::map<std::string, std::string> workFiles;  ///< hand work of its kind's own slots, by slot
  std::string called = {};  ///< what an engine calls its kind, in a job that is handed to it; empty: by its id
  friend bool operator==(const RecipeGuide&, const RecipeGuide&) = default;
};

/// What a recipe makes, where it is not a whole picture.
struct RecipePart {
  Size whole;  ///< of the picture
  Box box;     ///< of it, that is made; the recipe's frame shows it, as large or larger
  friend bool operator==(const RecipePart&, const RecipePart&) = default;
};

struct Recipe {
  std::string engine;  ///< id and version of the engine that made the proof; empty before
  std::string family;  ///< of models of the engine; empty: whichever it takes first
  Size frame{768, 512};
  /// The frame that the recipe is written for, where the proof shows it smaller: maps are made for it, and lengths in
  /// pixels are its. A small proof is the large one seen small. {0, 0}: `frame`.
  Size mapsFrame;
  /// A part of a picture is made, from its part of all maps; references lie in the whole.
  std::optional<RecipePart> part;
  Brief brief;  ///< `seedLocked` is not part of a recipe
  std::vector<RecipeReference> references;
  std::vector<RecipeGuide> guides;
  /// Size of all maps, by which lengths are counted.
  [[nodiscard]] Size mapsSize() const { return mapsFrame.area() > 0 ? mapsFrame : frame; }
  friend bool operator==(const Recipe&, const Recipe&) = default;
};

/// The recipe for a picture of another size of the same ratio. A smaller one shows the frame that it comes from small;
/// for a larger one maps are made anew, and what is counted in pixels goes along.
Recipe atSize(Recipe recipe, Size size);
/// A placement in a frame of another size.
Placement atScale(Placement placement, double across, double down);

/// The same recipe with a reference under another id; an empty one takes it away, and with it the start picture that is
/// made of it.
void renameReference(Recipe& recipe, std::string from, const std::string& to);

/// Whether a guide's region says where a change from words to words acts: it is on, has a region, and the words call it
/// by its name.
bool boundsChange(const Guide& guide, const StartPicture& start);

nlohmann::json recipeToJson(const Recipe& recipe);
/// @throws Problem (badInput) naming the field that is missing, unknown or out of range. With `mended`, here and below:
/// goes on where it can, and says what it did (see `Mended`).
Recipe recipeFromJson(const nlohmann::json& json, Mended* mended = nullptr);
/// One of its guides.
RecipeGuide recipeGuideFromJson(nlohmann::json json, const std::string& where, Mended* mended = nullptr);

/// The recipe inside a proof's PNG texts. @throws Problem (badInput) if there is none or it is damaged.
Recipe recipeFromTexts(const PngTexts& texts);
PngTexts textsFor(const Recipe& recipe);

nlohmann::json colourToJson(const Rgb& colour);
Rgb colourFromJson(const nlohmann::json& json, const std::string& where);
/// Where maps and pictures of a recipe lie that is not on disk: nowhere.
void forgetFiles(Recipe& recipe);
nlohmann::json placementToJson(const Placement& placement);
Placement placementFromJson(const nlohmann::json& json, const std::string& where, Mended* mended = nullptr);

/// A guide as in files; `extra` fields are written too.
nlohmann::json guideToJson(const Guide& guide);
/// @param keepUnknown  carry unknown fields along in `extra` (studies) rather than refuse them (recipes).
Guide guideFromJson(const nlohmann::json& json, const std::string& where, bool keepUnknown, Mended* mended = nullptr);

nlohmann::json briefToJson(const Brief& brief);
Brief briefFromJson(const nlohmann::json& json, const std::string& where, bool keepUnknown, Mended* mended = nullptr);

nlohmann::json sizeToJson(Size size);
/// A frame size, within its limits. @throws Problem (badInput)
Size frameFromJson(const nlohmann::json& json, const std::string& where, Mended* mended = nullptr);

}  // namespace hscaffold
