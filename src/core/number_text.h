/// Numbers from words that people wrote: always with a decimal point, whatever the desktop's language is.
#pragma once

#include <charconv>
#include <cmath>
#include <optional>
#include <string_view>

namespace hscaffold {

/// Empty unless all of the text is one finite number.
inline std::optional<double> numberFrom(std::string_view text) {
  if (text.starts_with('+')) text.remove_prefix(1);
  double value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(value)) return {};
  return value;
}

}  // namespace hscaffold
