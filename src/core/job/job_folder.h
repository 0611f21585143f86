/// A job as a folder: `recipe.json`, and beside it everything that the recipe names. One writer and one reader, for
/// exports, programs and services; what was written and is read again is the same job to the bit.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "core/engine/engine.h"

namespace hscaffold {

/// With all that it lies in; nothing happens where it is there. @throws Problem
void makeFolder(const std::filesystem::path& folder);

/// Writes into a folder, which is made where it is not there: maps as PNG (in colour for kinds with colours, otherwise
/// 8 or 16 bits, whichever loses nothing), regions as PNG of 16 bits, hand work of the kinds' own slots as JSON, the
/// start picture as PNG of 16 bits, and last the recipe. Other files that are there stay.
/// @throws Problem
void writeJobFolder(const EngineJob& job, const std::filesystem::path& folder);

/// The same in memory: contents by name, `recipe.json` among them. @throws Problem
using JobFiles = std::map<std::string, Bytes>;
JobFiles jobFiles(const EngineJob& job);

struct ReadJob {
  EngineJob job;  ///< its recipe names no files any more
  /// What is not as the recipe was made with, one sentence each: proofs will differ.
  std::vector<std::string> notes;
};
/// Everything that a recipe on disk names, from its folder. Maps may also be what a kind has in their place (key points
/// for poses). @throws Problem (badInput)
ReadJob readJob(Recipe recipe, const std::filesystem::path& folder);
/// The same from wherever files are, by name. @throws Problem (badInput)
using JobFileSource = std::function<Bytes(const std::string& name)>;
ReadJob readJob(Recipe recipe, const JobFileSource& files);

}  // namespace hscaffold
