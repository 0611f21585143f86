#include "core/pattern/code.h"

#include <fmt/format.h>

#include <qrencode.h>

#include <array>
#include <memory>

#include "core/text.h"

namespace hscaffold::pattern {
namespace {

/// Bytes that the largest code takes (ISO/IEC 18004, table 7: version 40, byte mode).
constexpr std::array<std::size_t, 4> mostBytes{2953, 2331, 1663, 1273};

std::string excess(const std::string& text, Correction correction) {
  const std::size_t most = mostBytes[static_cast<std::size_t>(correction)];
  if (text.size() <= most) return "The text is too long for a code.";
  const auto goesOn = [&](std::size_t at) { return (static_cast<unsigned char>(text[at]) & 0xc0) == 0x80; };
  std::size_t fit = most;
  while (goesOn(fit)) --fit;
  const std::size_t all = charactersIn(text), fitting = charactersIn(std::string_view(text).substr(0, fit));
  return fmt::format("The text is {} letters too long: at this correction a code takes {} of its {}.", all - fitting,
                     fitting, all);
}

}  // namespace

double restorable(Correction correction) {
  constexpr std::array<double, 4> shares{0.07, 0.15, 0.25, 0.30};
  return shares[static_cast<std::size_t>(correction)];
}

Code codeOf(const std::string& text, Correction correction) {
  if (text.empty()) throw badInput("The code has nothing to say yet.");
  if (fittedText(text, text.size()) != text) throw badInput("The text of the code is not UTF-8.");
  for (const char c : text)
    if ((static_cast<unsigned char>(c) < ' ' && c != '\n' && c != '\t') || c == 0x7f)
      throw badInput("The text of the code has a character that cannot be seen; type it again without.");
  if (text.size() > mostBytes[static_cast<std::size_t>(correction)]) throw badInput(excess(text, correction));
  constexpr std::array<QRecLevel, 4> levels{QR_ECLEVEL_L, QR_ECLEVEL_M, QR_ECLEVEL_Q, QR_ECLEVEL_H};
  constexpr int smallest = 0, keepCase = 1;
  const std::unique_ptr<QRcode, decltype(&QRcode_free)> made(
      QRcode_encodeString(text.c_str(), smallest, levels[static_cast<std::size_t>(correction)], QR_MODE_8, keepCase),
      &QRcode_free);
  if (!made) throw badInput(excess(text, correction));
  Code code{Image<std::uint8_t>(made->width, made->width), Image<std::uint8_t>(made->width, made->width), correction};
  // Bit 0: dark; bit 1: text or correction (the library's own flags).
  for (int y = 0; y < made->width; ++y)
    for (int x = 0; x < made->width; ++x) {
      const unsigned char flags = made->data[y * made->width + x];
      code.dark(x, y) = flags & 1;
      code.carries(x, y) = (flags >> 1) & 1;
    }
  return code;
}

}  // namespace hscaffold::pattern
