/// Comma separated values as text (RFC 4180).
#pragma once

#include <string>

namespace hscaffold {

/// A field in quotes, whatever is in it.
inline std::string quoted(const std::string& value) {
  std::string out = "\"";
  for (const char c : value) out += c == '"' ? std::string("\"\"") : std::string(1, c);
  return out + "\"";
}

}  // namespace hscaffold
