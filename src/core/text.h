/// Text in UTF-8, counted in characters (Unicode code points), and how long it may be.
#pragma once

#include <string>
#include <string_view>

namespace hscaffold {

/// Fields, readers and writers keep to these; all of them in characters.
inline constexpr std::size_t longestPrompt = 4000;  ///< prompt and avoid, each
inline constexpr std::size_t longestTitle = 200;
inline constexpr std::size_t longestName = 80;  ///< of guides, references and figures

std::size_t charactersIn(std::string_view text);
/// At most `most` characters of well-formed UTF-8: what is malformed becomes U+FFFD, what is too long is cut between
/// characters.
std::string fittedText(std::string_view text, std::size_t most);

}  // namespace hscaffold
