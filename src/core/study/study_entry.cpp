#include "core/study/study_entry.h"

#include <nlohmann/json.hpp>
#include <random>

#include "core/digest.h"
#include "core/json_text.h"

namespace hscaffold {
PictureFile pictureFile(Bytes bytes) {
  auto content = digestOf(std::span<const std::byte>(bytes));
  return {std::move(content), std::make_shared<const Bytes>(std::move(bytes))};
}

ProofRow rowOf(const ProofInfo& info, Bytes png, Bytes thumbnail) {
  return {.number = info.number,
          .made = info.made,
          .milliseconds = info.milliseconds,
          .recipe = jsonText(recipeToJson(info.recipe)),
          .holds = jsonText(nlohmann::json(info.holds)),
          .png = std::move(png),
          .thumbnail = std::move(thumbnail),
          .sheet = info.sheet,
          .cell = info.cell,
          .shift = info.shift};
}

SheetRow rowOf(const SheetInfo& info) {
  return {info.number, jsonText(planToJson(info.plan)), jsonText(nlohmann::json(info.waiting)), info.made};
}

std::int64_t firstStep() {
  std::random_device chance;
  return (std::int64_t{1} << 40) + (static_cast<std::int64_t>(chance() & 0x3fffffffU) << 30);
}

std::string settingsText(const StudyState& state) { return jsonText(stateToJson(state)); }

}  // namespace hscaffold
