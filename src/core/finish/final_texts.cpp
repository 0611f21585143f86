#include <nlohmann/json.hpp>

#include "core/finish/touch_up.h"

namespace hscaffold {

PngTexts textsFor(const Final& final, const PictureBytes& pictures) {
  PngTexts texts = readPngTexts(*pictures(final.picture));
  auto json = finalToJson(final);
  for (auto& touchUp : json["touch-ups"])
    for (auto& one : touchUp["tries"]) {
      const auto own = readPngTexts(*pictures(one["picture"].get<std::string>()));
      if (const auto found = own.find(recipeKeyword); found != own.end())
        one["recipe"] = nlohmann::json::parse(found->second);
    }
  texts[finalKeyword] = json.dump();
  return texts;
}

}  // namespace hscaffold
