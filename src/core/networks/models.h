/// The networks that come with the program: files in the folder `models`, installed beside it.
#pragma once

#include <filesystem>
#include <string>

namespace hscaffold::networks {

/// Where a model lies: in the folder that HSCAFFOLD_MODELS names, else in share/humble-scaffold/models beside the
/// program's bin, else in the source tree it was built from. Empty if it is in none of them.
std::filesystem::path modelNamed(const std::string& name);
/// What to say where it is missing: one sentence.
std::string missingModel(const std::string& name);

}  // namespace hscaffold::networks
