/// Text in UTF-8, counted in characters (Unicode code points), and how long it may be.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace hscaffold {

/// Fields, readers and writers keep to these; all of them in characters.
inline constexpr std::size_t longestPrompt = 4000;  ///< prompt and avoid, each
inline constexpr std::size_t longestTitle = 200;
inline constexpr std::size_t longestName = 80;  ///< of guides, references and figures

/// What is malformed becomes U+FFFD.
std::u32string codePointsOf(std::string_view text);
std::size_t charactersIn(std::string_view text);
/// At most `most` characters of well-formed UTF-8: what is malformed becomes U+FFFD, what is too long is cut between
/// characters.
std::string fittedText(std::string_view text, std::size_t most);

/// A text as a part of a file's name, on any file system: what some of them do not take (control characters, slashes,
/// \ : * ? " < > |, spaces and full stops at the end) becomes a hyphen.
std::string fileNamePart(std::string_view text, std::size_t most);

struct TextWord {
  std::string text;    ///< ASCII letters made small
  int first = 0;       ///< character that it begins with
  bool opens = false;  ///< whether it comes first, or after a comma, full stop or the like
};
/// Letters, digits and everything beyond ASCII make words; hyphens and apostrophes part them without a stop.
std::vector<TextWord> wordsIn(std::string_view text);
/// Whether the words of a phrase stand in a text, one after the other, as whole words. A phrase without words never
/// does.
bool holdsPhrase(std::string_view text, std::string_view phrase);

}  // namespace hscaffold
