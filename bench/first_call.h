/// The first computation of a process, which pays for memory, threads and tables that later ones find ready.
#pragma once

#include <string>

namespace bench {

/// Edges of four megapixels once, by "ours" or "theirs", and prints the milliseconds: what a child process does.
/// @return its exit code
int firstCall(const std::string& whose);

}  // namespace bench
