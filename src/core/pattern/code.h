/// Codes to be scanned: QR code, ISO/IEC 18004, laid out by libqrencode.
#pragma once

#include <string>

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold::pattern {

/// How much of a code may be lost, in the standard's own four steps.
enum class Correction { lowest, low, high, highest };
/// Share of its codewords that can be restored: 0.07, 0.15, 0.25, 0.30.
double restorable(Correction correction);

struct Code {
  Image<std::uint8_t> dark;     ///< side x side modules: 1 dark, 0 light
  Image<std::uint8_t> carries;  ///< 1 where a module carries text or correction, 0 in finders, timing and the like
  Correction correction = Correction::highest;
  [[nodiscard]] int side() const { return dark.width(); }
};

/// The smallest code that says it. Text beyond ASCII is written as UTF-8.
/// @throws Problem (badInput) for nothing to say, characters that cannot be seen, and texts too long for a code at that
/// correction, with by how much
Code codeOf(const std::string& text, Correction correction);

}  // namespace hscaffold::pattern
