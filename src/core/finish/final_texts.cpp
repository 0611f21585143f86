#include <nlohmann/json.hpp>

#include "core/finish/touch_up.h"
#include "core/json_text.h"

namespace hscaffold {

PngTexts textsFor(const Final& final, const PictureBytes& pictures) {
  PngTexts texts = readPngTexts(*pictures(final.picture));
  auto json = finalToJson(final);
  for (auto& touchUp : json["touch-ups"])
    for (auto& one : touchUp["tries"]) {
      const auto own = readPngTexts(*pictures(one["picture"].get<std::string>()));
      const auto found = own.find(recipeKeyword);
      if (found == own.end()) continue;
      if (auto recipe = nlohmann::json::parse(found->second, nullptr, false); !recipe.is_discarded())
        one["recipe"] = std::move(recipe);
    }
  texts[finalKeyword] = jsonText(json);
  return texts;
}

}  // namespace hscaffold
