#include "core/pattern/letters.h"

#include <fmt/format.h>
#include <fontconfig/fontconfig.h>
#include <ft2build.h>
#include FT_FREETYPE_H

#include <algorithm>
#include <cmath>
#include <mutex>
#include <vector>

#include "core/text.h"

namespace hscaffold::pattern {
namespace {

/// Pixels of the typeface's em: letters stay sharp in the largest frames that people work at.
constexpr int em = 160;
constexpr double lineStep = 0.98, rim = 0.3;  // of the em

struct Done {
  void operator()(FT_Library library) const { FT_Done_FreeType(library); }
  void operator()(FT_Face face) const { FT_Done_Face(face); }
  void operator()(FcPattern* pattern) const { FcPatternDestroy(pattern); }
  void operator()(FcCharSet* letters) const { FcCharSetDestroy(letters); }
};
template <typename T>
using Held = std::unique_ptr<std::remove_pointer_t<T>, Done>;

/// Hebrew to the Indic scripts and those of South East Asia, and forms of Arabic: letters that change with their
/// neighbours, or run the other way.
bool wantsShaping(char32_t c) {
  return (c >= 0x0590 && c <= 0x10FF && c < 0x10A0) || (c >= 0x1780 && c <= 0x1CFF) || (c >= 0xFB1D && c <= 0xFDFF) ||
         (c >= 0xFE70 && c <= 0xFEFE);
}

std::vector<std::u32string> wordsOf(const std::string& text) {
  std::vector<std::u32string> words(1);
  std::size_t letters = 0;
  for (const char32_t c : codePointsOf(text)) {
    if (c == U' ' || c == U'\t' || c == U'\n' || c == 0xA0) {
      if (!words.back().empty()) words.emplace_back();
      continue;
    }
    if (c < 0x20 || (c >= 0x7F && c < 0xA0) || c == 0xFFFD) throw badInput("It holds characters that cannot be seen.");
    if (wantsShaping(c))
      throw badInput(
          "Letters of scripts that join or run from right to left are not set here: bring them in as a picture.");
    words.back().push_back(c);
    ++letters;
  }
  if (words.back().empty()) words.pop_back();
  if (letters == 0) throw badInput("There are no letters yet.");
  if (letters > mostLetters)
    throw badInput(fmt::format("{} letters: at most {} can be told apart from afar.", letters, mostLetters));
  return words;
}

std::string faceFor(const std::vector<std::u32string>& words, int& index) {
  if (FcInit() == FcFalse) throw badInput("There are no typefaces here.");
  const Held<FcPattern*> wanted(FcPatternCreate());
  const Held<FcCharSet*> letters(FcCharSetCreate());
  for (const auto& word : words)
    for (const char32_t c : word) FcCharSetAddChar(letters.get(), c);
  FcPatternAddString(wanted.get(), FC_FAMILY, reinterpret_cast<const FcChar8*>("Inter"));
  FcPatternAddInteger(wanted.get(), FC_WEIGHT, FC_WEIGHT_BLACK);
  FcPatternAddInteger(wanted.get(), FC_SLANT, FC_SLANT_ROMAN);
  FcPatternAddBool(wanted.get(), FC_SCALABLE, FcTrue);
  FcPatternAddCharSet(wanted.get(), FC_CHARSET, letters.get());
  FcConfigSubstitute(nullptr, wanted.get(), FcMatchPattern);
  FcDefaultSubstitute(wanted.get());
  FcResult result = FcResultMatch;
  const Held<FcPattern*> found(FcFontMatch(nullptr, wanted.get(), &result));
  FcChar8* file = nullptr;
  if (!found || FcPatternGetString(found.get(), FC_FILE, 0, &file) != FcResultMatch)
    throw badInput("There are no typefaces here.");
  index = 0;
  FcPatternGetInteger(found.get(), FC_INDEX, 0, &index);
  return reinterpret_cast<const char*>(file);
}

double widthOf(FT_Face face, const std::u32string& word) {
  double width = 0;
  for (const char32_t c : word)
    if (FT_Load_Char(face, c, FT_LOAD_NO_HINTING) == 0) width += static_cast<double>(face->glyph->advance.x) / 64;
  return width;
}

/// Words joined to lines, as even as they come in their order, for so many lines.
struct Line {
  std::u32string letters;
  double width = 0;
};
std::vector<Line> broken(const std::vector<std::u32string>& words, const std::vector<double>& widths, double space,
                         std::size_t lines) {
  // The narrowest measure that takes them in so many lines.
  const auto filled = [&](double most) {
    std::vector<Line> out(1);
    for (std::size_t i = 0; i < words.size(); ++i) {
      if (!out.back().letters.empty() && out.back().width + space + widths[i] > most) out.emplace_back();
      Line& line = out.back();
      if (!line.letters.empty()) {
        line.letters += U' ';
        line.width += space;
      }
      line.letters += words[i];
      line.width += widths[i];
    }
    return out;
  };
  double low = *std::max_element(widths.begin(), widths.end()), high = low;
  for (const double width : widths) high += width + space;
  for (int i = 0; i < 40; ++i) {
    const double middle = 0.5 * (low + high);
    (filled(middle).size() <= lines ? high : low) = middle;
  }
  return filled(high);
}

double widestOf(const std::vector<Line>& lines) {
  return std::max_element(lines.begin(), lines.end(), [](const Line& a, const Line& b) { return a.width < b.width; })
      ->width;
}

Lettering set(const std::string& text) {
  const auto words = wordsOf(text);
  int index = 0;
  const std::string file = faceFor(words, index);
  FT_Library bareLibrary = nullptr;
  if (FT_Init_FreeType(&bareLibrary) != 0) throw badInput("Letters cannot be set here.");
  const Held<FT_Library> library(bareLibrary);
  FT_Face bareFace = nullptr;
  if (FT_New_Face(library.get(), file.c_str(), index, &bareFace) != 0)
    throw badInput("The typeface " + file + " cannot be read.");
  const Held<FT_Face> face(bareFace);
  if (FT_Set_Pixel_Sizes(face.get(), 0, em) != 0) throw badInput("The typeface " + file + " cannot be set so large.");
  for (const auto& word : words)
    for (const char32_t c : word)
      if (FT_Get_Char_Index(face.get(), c) == 0)
        throw badInput(fmt::format("No typeface here has the letter U+{:04X}.", static_cast<unsigned>(c)));
  std::vector<double> widths;
  for (const auto& word : words) widths.push_back(widthOf(face.get(), word));
  const double space = widthOf(face.get(), U" ");
  std::vector<Line> best;
  double bestSide = 0;
  constexpr std::size_t mostLines = 12;
  for (std::size_t lines = 1; lines <= std::min(words.size(), mostLines); ++lines) {
    auto each = broken(words, widths, space, lines);
    const double side = std::max(widestOf(each), static_cast<double>(each.size()) * lineStep * em);
    if (best.empty() || side < bestSide) {
      best = std::move(each);
      bestSide = side;
    }
  }
  const double widest = widestOf(best);
  const double capital = FT_Load_Char(face.get(), U'H', FT_LOAD_NO_HINTING) == 0
                             ? static_cast<double>(face->glyph->metrics.height) / 64
                             : 0.7 * em;
  // How far the first line reaches up and the last one down.
  double above = 0, below = 0;
  for (const char32_t c : best.front().letters)
    if (FT_Load_Char(face.get(), c, FT_LOAD_NO_HINTING) == 0)
      above = std::max(above, static_cast<double>(face->glyph->metrics.horiBearingY) / 64);
  for (const char32_t c : best.back().letters)
    if (FT_Load_Char(face.get(), c, FT_LOAD_NO_HINTING) == 0)
      below =
          std::max(below, static_cast<double>(face->glyph->metrics.height - face->glyph->metrics.horiBearingY) / 64);
  const double rimWidth = rim * em;
  const double tallest = above + below + static_cast<double>(best.size() - 1) * lineStep * em;
  Lettering out{Image<float>(static_cast<int>(std::ceil(widest + 2 * rimWidth)),
                             static_cast<int>(std::ceil(tallest + 2 * rimWidth))),
                1, capital};
  out.tall = static_cast<double>(out.ink.height()) / out.ink.width();
  double base = rimWidth + above;
  for (const Line& line : best) {
    double x = rimWidth + 0.5 * (widest - line.width);
    for (const char32_t c : line.letters) {
      if (FT_Load_Char(face.get(), c, FT_LOAD_RENDER | FT_LOAD_NO_HINTING) != 0) continue;
      const FT_GlyphSlot glyph = face->glyph;
      const FT_Bitmap& bitmap = glyph->bitmap;
      const int left = static_cast<int>(std::lround(x)) + glyph->bitmap_left,
                top = static_cast<int>(std::lround(base)) - glyph->bitmap_top;
      for (int row = 0; row < static_cast<int>(bitmap.rows) && bitmap.pixel_mode == FT_PIXEL_MODE_GRAY; ++row)
        for (int column = 0; column < static_cast<int>(bitmap.width); ++column) {
          const int px = left + column, py = top + row;
          if (px < 0 || py < 0 || px >= out.ink.width() || py >= out.ink.height()) continue;
          out.ink(px, py) =
              std::max(out.ink(px, py), static_cast<float>(bitmap.buffer[row * bitmap.pitch + column]) / 255);
        }
      x += static_cast<double>(glyph->advance.x) / 64;
    }
    base += lineStep * em;
  }
  return out;
}

}  // namespace

std::shared_ptr<const Lettering> lettering(const std::string& text) {
  static std::mutex mutex;
  static std::string last;
  static std::shared_ptr<const Lettering> kept;
  const std::lock_guard lock(mutex);  // Fontconfig wants one at a time, too
  if (!kept || last != text) {
    kept = std::make_shared<const Lettering>(set(text));
    last = text;
  }
  return kept;
}

}  // namespace hscaffold::pattern
