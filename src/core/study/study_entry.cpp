#include "core/study/study_entry.h"

#include <nlohmann/json.hpp>
#include <random>

#include "core/digest.h"

namespace hscaffold {
namespace {

std::string dumped(const nlohmann::json& json) {
  return json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

}  // namespace

PictureFile pictureFile(Bytes bytes) {
  auto content = digestOf(std::span<const std::byte>(bytes));
  return {std::move(content), std::make_shared<const Bytes>(std::move(bytes))};
}

ProofRow rowOf(const ProofInfo& info, Bytes png, Bytes thumbnail) {
  return {.number = info.number,
          .made = info.made,
          .milliseconds = info.milliseconds,
          .recipe = dumped(recipeToJson(info.recipe)),
          .holds = dumped(nlohmann::json(info.holds)),
          .png = std::move(png),
          .thumbnail = std::move(thumbnail),
          .sheet = info.sheet,
          .cell = info.cell,
          .shift = info.shift};
}

SheetRow rowOf(const SheetInfo& info) {
  return {info.number, dumped(planToJson(info.plan)), dumped(nlohmann::json(info.waiting))};
}

std::int64_t firstStep() {
  std::random_device chance;
  return (std::int64_t{1} << 40) + (static_cast<std::int64_t>(chance() & 0x3fffffffU) << 30);
}

std::string settingsText(const StudyState& state) { return dumped(stateToJson(state)); }

}  // namespace hscaffold
