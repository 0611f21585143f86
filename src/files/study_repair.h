/// What can be brought back of a study that is damaged.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace hscaffold {

struct Repaired {
  int pictures = 0, pieces = 0, proofs = 0, sheets = 0;  ///< that came back: references and the like, hand work, ...
  bool settings = true;                                  ///< otherwise only its pictures are in it, as references
  std::vector<std::string> notes;                        ///< what was left out or mended, one sentence each
};
/// Reads row by row what can still be read, from both ends of each table, and keeps what is whole: pictures and hand
/// work by their digests, proofs by their PNG. `in` is not changed, `out` is made whole or not at all.
/// @throws Problem (badInput) if nothing can be read of `in`, or if `out` is there already
Repaired repairStudy(const std::filesystem::path& in, const std::filesystem::path& out);

}  // namespace hscaffold
