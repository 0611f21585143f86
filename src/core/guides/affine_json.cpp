#include "core/guides/affine_json.h"

#include "core/guides/json_fields.h"

namespace hscaffold {

nlohmann::json affineToJson(const std::optional<Affine>& p) {
  if (!p) return nullptr;
  return {p->a, p->b, p->c, p->d, p->e, p->f};
}

std::optional<Affine> affineFromJson(const nlohmann::json& json, const std::string& where) {
  if (json.is_null()) return {};
  const auto v = numbersFromJson(json, where + ", a placing", 6);
  return Affine{v[0], v[1], v[2], v[3], v[4], v[5]};
}

Size workFrameFrom(JsonFields& fields) {
  constexpr int largest = 1 << 15;
  return {static_cast<int>(fields.integer("width", 1, largest)),
          static_cast<int>(fields.integer("height", 1, largest))};
}

}  // namespace hscaffold
