/// What takes bytes from outside, each under a name: run by the tests for a moment, and by libFuzzer for as long as one
/// likes (tests/fuzz/fuzz.cpp).
#pragma once

#include <cstddef>
#include <span>
#include <string>
#include <vector>

namespace hscaffold::fuzz {

struct Target {
  std::string name;  ///< of its folder of seeds, too
  /// Anything but a Problem that comes out of it is a find, and so is what it checks itself.
  void (*take)(std::span<const std::byte> bytes);
};
const std::vector<Target>& targets();

/// One input. Problems are what readers may answer with; each has a sentence.
void run(const Target& target, std::span<const std::byte> bytes);

}  // namespace hscaffold::fuzz
