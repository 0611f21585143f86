/// Many recipes that have much in common: the proofs of a study.
#pragma once

#include <memory>
#include <mutex>
#include <string>
#include <unordered_map>

#include "core/brief/recipe.h"

namespace hscaffold {

/// Reads what `recipeFromJson` reads, and says what that says; guides that are written alike are understood once. Any
/// number of threads may use one reader.
class RecipeReader {
 public:
  /// @param where  how messages name the text. @throws Problem (badInput)
  Recipe read(const std::string& text, const std::string& where, Mended* mended = nullptr);

 private:
  /// Null for one that has to be mended, or cannot be read at all.
  std::shared_ptr<const RecipeGuide> guide(std::string_view text);

  std::mutex mutex_;
  std::unordered_map<std::string, std::shared_ptr<const RecipeGuide>> guides_;  ///< by how they are written
};

}  // namespace hscaffold
