/// Letters as a pattern, set in a heavy face: what is to be read from afar has to be broad.
#pragma once

#include <memory>
#include <string>

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold::pattern {

struct Lettering {
  Image<float> ink;         ///< [0, 1]: 1 where a letter is; with a rim of ground all round
  double tall = 1;          ///< height against width
  double letterHeight = 0;  ///< pixels of `ink` of a capital
};

/// Words broken into as many lines as make the letters largest in a square. Set by FreeType in Inter Black, or in the
/// heaviest face that has all of the letters, which Fontconfig knows. The last one is kept.
/// @throws Problem (badInput) for nothing to set, more than `mostLetters`, letters that no face here has, and scripts
/// that join or run from right to left, which this does not set
std::shared_ptr<const Lettering> lettering(const std::string& text);
inline constexpr std::size_t mostLetters = 120;

}  // namespace hscaffold::pattern
