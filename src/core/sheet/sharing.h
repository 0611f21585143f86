/// Which engine takes the next cell of a sheet that several share, and how long engines took here.
#pragma once

#include <map>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <span>
#include <string>

#include "core/brief/recipe.h"

namespace hscaffold {

/// An engine at work on a sheet.
struct Worker {
  double milliseconds = 0;  ///< a proof takes about
  int lanes = 1;            ///< proofs that it makes side by side; at least 1
  int running = 0;          ///< of these, lanes that are taken
};

/// Who should take the next of `waiting` cells, by its index: one with a free lane that will have some of them done
/// before the others could (list scheduling by earliest completion; Ibarra and Kim 1977). None: better to wait for a
/// quicker one.
std::optional<std::size_t> takerOf(std::span<const Worker> workers, int waiting);

/// What engines took here, by name: milliseconds a megapixel and step, later proofs counting for more.
class Pace {
 public:
  void took(const std::string& engine, const Recipe& recipe, double milliseconds);
  /// Milliseconds that a recipe will take by what was measured; none where nothing was.
  [[nodiscard]] std::optional<double> estimate(const std::string& engine, const Recipe& recipe) const;
  void forget(const std::string& engine) { each_.erase(engine); }

  [[nodiscard]] nlohmann::json toJson() const;
  /// What is none is left out.
  static Pace fromJson(const nlohmann::json& json);

 private:
  std::map<std::string, double> each_;
};

}  // namespace hscaffold
