#include "core/guides/affine_json.h"

#include <cmath>

#include "core/guides/json_fields.h"

namespace hscaffold {

nlohmann::json affineToJson(const std::optional<Affine>& p) {
  if (!p) return nullptr;
  return {p->a, p->b, p->c, p->d, p->e, p->f};
}

std::optional<Affine> affineFromJson(const nlohmann::json& json, const std::string& where) {
  if (json.is_null()) return {};
  const auto v = numbersFromJson(json, where + ", a placing", 6);
  const Affine placing{v[0], v[1], v[2], v[3], v[4], v[5]};
  for (const double number : v)
    if (!(number >= limits::placing.least && number <= limits::placing.most))
      throw badInput(where + ": a placing has a number that is out of all bounds.");
  // One that lays everything on a line or a point cannot be turned back.
  if (const double area = placing.a * placing.e - placing.b * placing.d; !(std::abs(area) > 1e-12))
    throw badInput(where + ": a placing lays the picture on a line.");
  return placing;
}

Size workFrameFrom(JsonFields& fields) {
  constexpr int largest = 1 << 15;
  return {static_cast<int>(fields.integer("width", 1, largest)),
          static_cast<int>(fields.integer("height", 1, largest))};
}

}  // namespace hscaffold
