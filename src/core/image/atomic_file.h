/// Files that are either wholly written or not there at all.
#pragma once

#include <cstddef>
#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace hscaffold {

using Bytes = std::vector<std::byte>;

/// Writes what has no name yet, then gives it its name in one step: a reader sees the old or the new file, never a
/// part, and who is killed leaves none behind. Where links lead is written to; what is there keeps its permissions.
/// @throws Problem (failed) naming the file and the system's reason, also for folders, pipes and devices; what is there
/// is then untouched.
void writeFileAtomically(const std::filesystem::path& path, std::span<const std::byte> bytes);

inline constexpr std::size_t largestInput = std::size_t{1} << 30;  ///< bytes
/// A pipe is waited for as long as something comes out of it now and then.
/// @throws Problem (badInput) if it is missing, a folder, a device, not readable, silent, or larger than `limit` bytes.
Bytes readWholeFile(const std::filesystem::path& path, std::size_t limit = largestInput);
/// The same of what is open already. @param name  for messages
Bytes readAll(int descriptor, const std::string& name, std::size_t limit = largestInput);

inline std::span<const std::byte> bytesOf(const std::string& text) { return std::as_bytes(std::span(text)); }
inline std::string textOf(std::span<const std::byte> bytes) {
  return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

}  // namespace hscaffold
