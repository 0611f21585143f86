#include "core/text.h"

#include <utf8.h>

#include <algorithm>
#include <cctype>
#include <iterator>
#include <utility>

namespace hscaffold {
namespace {

constexpr std::uint32_t replacement = 0xfffd;

std::string wellFormed(std::string_view text) {
  std::string out;
  out.reserve(text.size());
  utf8::replace_invalid(text.begin(), text.end(), std::back_inserter(out), replacement);
  return out;
}

}  // namespace

std::u32string codePointsOf(std::string_view text) {
  std::u32string out;
  const std::string good = wellFormed(text);
  utf8::unchecked::utf8to32(good.begin(), good.end(), std::back_inserter(out));
  return out;
}

std::size_t charactersIn(std::string_view text) {
  const std::string good = wellFormed(text);
  return static_cast<std::size_t>(utf8::unchecked::distance(good.begin(), good.end()));
}

std::string fittedText(std::string_view text, std::size_t most) {
  std::string good = wellFormed(text);
  auto end = good.begin();
  for (; most > 0 && end != good.end(); --most) utf8::unchecked::next(end);
  good.erase(end, good.end());
  return good;
}

std::string fileNamePart(std::string_view text, std::size_t most) {
  std::string out = fittedText(text, most);
  constexpr std::string_view notEverywhere = "/\\:*?\"<>|";
  for (char& c : out)
    if (static_cast<unsigned char>(c) < ' ' || c == 127 || notEverywhere.find(c) != std::string_view::npos) c = '-';
  while (!out.empty() && (out.back() == '.' || out.back() == ' ')) out.pop_back();
  return out.empty() ? "-" : out;
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
