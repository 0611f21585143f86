#include "core/networks/models.h"

#include <cstdlib>
#include <vector>

namespace hscaffold::networks {

std::filesystem::path modelNamed(const std::string& name) {
  std::vector<std::filesystem::path> folders;
  if (const char* own = std::getenv("HSCAFFOLD_MODELS"); own != nullptr && *own != 0) {
    // Whoever names a folder means that one.
    folders = {own};
  } else {
    std::error_code unknown;
    const auto program = std::filesystem::read_symlink("/proc/self/exe", unknown);
    if (!unknown) folders.push_back(program.parent_path().parent_path() / "share" / "humble-scaffold" / "models");
    folders.emplace_back(HSCAFFOLD_MODELS);
  }
  for (const auto& folder : folders) {
    std::error_code unreadable;
    if (std::filesystem::is_regular_file(folder / name, unreadable)) return folder / name;
  }
  return {};
}

std::string missingModel(const std::string& name) {
  return "The network " + name + " is missing: install it with the program, or name its folder in HSCAFFOLD_MODELS.";
}

}  // namespace hscaffold::networks
