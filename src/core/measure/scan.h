/// Scan margin: how much damage a code in a picture could still take before it no longer scans. Decoded by ZXing-C++.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/frame/homography.h"
#include "core/guides/kind.h"
#include "core/pattern/code.h"

namespace hscaffold {

/// A code as it was found in a map or a picture.
struct FoundCode {
  std::string text;
  pattern::Correction correction = pattern::Correction::highest;
  Quad corners;                 ///< in shares of the picture's width and height
  Image<std::uint8_t> dark;     ///< modules as they lie there: 1 dark; empty where their number is not certain
  Image<std::uint8_t> carries;  ///< see `pattern::Code`
  void forgetModules() {
    dark = Image<std::uint8_t>();
    carries = Image<std::uint8_t>();
  }
};
std::optional<FoundCode> codeIn(View<std::uint16_t> map, StopToken stop = {});
/// The same, read once for a map: engines, measures and whoever shows them ask. Null if there is none.
std::shared_ptr<const FoundCode> knownCodeIn(View<std::uint16_t> map, StopToken stop = {});

/// One way of looking at a picture.
struct ScanWay {
  const char* name;  ///< "half", "blurred"
  double share = 0;  ///< of the decoder's set-ups that read the code so, [0, 1]
  [[nodiscard]] bool reads() const { return share > 0; }
};

struct Scan {
  std::string text;             ///< what it says; empty: nothing was read
  std::vector<ScanWay> ways;    ///< always the same ones in the same order
  double margin = 0;            ///< [0, 100]: mean share, less up to half of it as the error correction is used up
  double used = 0;              ///< share of the error correction, [0, 1]; 1 and more: not to be read any more
  int wrong = 0;                ///< modules that read wrongly
  Image<std::uint8_t> wrongAt;  ///< 1 for each of them; empty where modules are not known
  [[nodiscard]] int readings() const;  ///< number of ways in which it reads
};
/// @param asked  what should be read; null: whatever is read first, with nothing known of its modules.
/// @throws Cancelled
Scan scanned(View<Rgb8> picture, const FoundCode* asked, StopToken stop = {});

/// The picture in each of the ways of `Scan::ways`, as a decoder gets it. @throws Cancelled
std::vector<Image<std::uint8_t>> scanLooks(View<Rgb8> picture, StopToken stop = {});

/// Hold of a pattern: the scan margin where the map has a code in it, its wrong modules as misses; else how plain the
/// pattern is from afar (squint), see `squintOf`.
Holding patternHolding(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop = {});

/// How plain a pattern is in a picture seen small and blurred, and how plain near by, [0, 100] each: correlation of
/// light where the pattern asks for any, less what it has by chance (with the pattern turned over); from afar at 48 and
/// 96 pixels on the longer side, near by of what only shows there.
struct Squint {
  double afar = 0, near = 0;
};
Squint squintOf(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop = {});

}  // namespace hscaffold
