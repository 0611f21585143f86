#include "core/text.h"

#include <algorithm>
#include <cctype>
#include <utility>

namespace hscaffold {
namespace {

/// Bytes of the well-formed character that `text` begins with (Unicode 15, table 3-7); 0 if it begins with none.
std::size_t characterAt(std::string_view text) {
  const auto byte = [&](std::size_t i) { return i < text.size() ? static_cast<unsigned char>(text[i]) : 0u; };
  const auto follows = [&](std::size_t i, unsigned low = 0x80, unsigned high = 0xbf) {
    return i < text.size() && byte(i) >= low && byte(i) <= high;
  };
  const unsigned first = byte(0);
  if (first < 0x80) return 1;
  if (first >= 0xc2 && first <= 0xdf) return follows(1) ? 2 : 0;
  if (first >= 0xe0 && first <= 0xef) {
    const unsigned low = first == 0xe0 ? 0xa0 : 0x80, high = first == 0xed ? 0x9f : 0xbf;
    return follows(1, low, high) && follows(2) ? 3 : 0;
  }
  if (first >= 0xf0 && first <= 0xf4) {
    const unsigned low = first == 0xf0 ? 0x90 : 0x80, high = first == 0xf4 ? 0x8f : 0xbf;
    return follows(1, low, high) && follows(2) && follows(3) ? 4 : 0;
  }
  return 0;
}

}  // namespace

std::u32string codePointsOf(std::string_view text) {
  std::u32string out;
  out.reserve(text.size());
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t length = characterAt(text.substr(at));
    auto point = static_cast<char32_t>(static_cast<unsigned char>(text[at]));
    if (length == 0) point = U'\uFFFD';
    if (length > 1) point &= 0x7fU >> length;
    for (std::size_t i = 1; i < length; ++i) point = point << 6 | (static_cast<unsigned char>(text[at + i]) & 0x3fU);
    out += point;
    at += std::max<std::size_t>(1, length);
  }
  return out;
}

std::size_t charactersIn(std::string_view text) {
  std::size_t count = 0;
  for (std::size_t at = 0; at < text.size(); ++count) at += std::max<std::size_t>(1, characterAt(text.substr(at)));
  return count;
}

std::string fittedText(std::string_view text, std::size_t most) {
  std::string out;
  out.reserve(text.size());
  std::size_t count = 0;
  for (std::size_t at = 0; at < text.size() && count < most; ++count) {
    const std::size_t length = characterAt(text.substr(at));
    if (length == 0)
      out += "\xEF\xBF\xBD";
    else
      out += text.substr(at, length);
    at += std::max<std::size_t>(1, length);
  }
  return out;
}

std::vector<TextWord> wordsIn(std::string_view text) {
  std::vector<TextWord> words;
  TextWord word;
  bool opens = true;
  int character = -1;
  const auto end = [&] {
    if (word.text.empty()) return;
    word.opens = std::exchange(opens, false);
    words.push_back(std::exchange(word, {}));
  };
  for (const char c : text) {
    const auto byte = static_cast<unsigned char>(c);
    if ((byte & 0xc0) != 0x80) ++character;
    if (std::isalnum(byte) != 0 || byte >= 0x80) {
      if (word.text.empty()) word.first = character;
      word.text += static_cast<char>(std::tolower(byte));
    } else {
      end();
      // Hyphens and apostrophes hold words together.
      if (std::isspace(byte) == 0 && c != '-' && c != '\'') opens = true;
    }
  }
  end();
  return words;
}

bool holdsPhrase(std::string_view text, std::string_view phrase) {
  const auto words = wordsIn(text), sought = wordsIn(phrase);
  const auto same = [](const TextWord& a, const TextWord& b) { return a.text == b.text; };
  return !sought.empty() && std::search(words.begin(), words.end(), sought.begin(), sought.end(), same) != words.end();
}

}  // namespace hscaffold
