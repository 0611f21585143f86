/// Files that are either wholly written or not there at all.
#pragma once

#include <cstddef>
#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace hscaffold {

using Bytes = std::vector<std::byte>;

/// Writes through a temporary file beside `path`, fsync and rename: a reader sees the old or the new file, never a
/// part.
/// @throws Problem (failed) naming the file and the system's reason; the old file is then untouched.
void writeFileAtomically(const std::filesystem::path& path, std::span<const std::byte> bytes);

/// @throws Problem (badInput) if it is missing, a folder, not readable, or larger than `limit` bytes.
Bytes readWholeFile(const std::filesystem::path& path, std::size_t limit = std::size_t{4} << 30);

inline std::span<const std::byte> bytesOf(const std::string& text) { return std::as_bytes(std::span(text)); }
inline std::string textOf(std::span<const std::byte> bytes) {
  return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

}  // namespace hscaffold
