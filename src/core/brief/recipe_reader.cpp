#include "core/brief/recipe_reader.h"

#include <optional>
#include <string_view>
#include <vector>

#include "core/guides/json_fields.h"

namespace hscaffold {
namespace {

constexpr std::size_t mostKept = 20'000;

/// A list in JSON, as it is written.
struct Written {
  std::size_t begin = 0, end = 0;  ///< with its brackets
  std::vector<std::string_view> elements;
};

/// Goes along JSON without understanding it.
class Walk {
 public:
  explicit Walk(std::string_view text) : text_(text) {}

  /// The list of that name in the outermost object; nothing where there is none, or where the text is not JSON.
  std::optional<Written> listNamed(std::string_view name) {
    int depth = 0;
    while (at_ < text_.size()) {
      const char c = text_[at_];
      if (c != '"') {
        depth += (c == '{' || c == '[') - (c == '}' || c == ']');
        ++at_;
        continue;
      }
      const std::size_t begin = at_;
      if (!passString()) return {};
      if (depth != 1 || text_.substr(begin + 1, at_ - begin - 2) != name || !passes(':')) continue;
      passSpace();
      return at_ < text_.size() && text_[at_] == '[' ? elements() : std::nullopt;
    }
    return {};
  }

 private:
  std::optional<Written> elements() {
    Written out{at_++, 0, {}};
    passSpace();
    if (passes(']')) {
      out.end = at_;
      return out;
    }
    while (true) {
      passSpace();
      const std::size_t begin = at_;
      if (!passElement()) return {};
      std::size_t end = at_;
      while (end > begin && isSpace(text_[end - 1])) --end;
      out.elements.push_back(text_.substr(begin, end - begin));
      if (text_[at_++] == ']') break;
    }
    out.end = at_;
    return out;
  }
  /// Up to the comma or the bracket after it. @return whether there is one
  bool passElement() {
    int depth = 0;
    while (at_ < text_.size()) {
      const char c = text_[at_];
      if (c == '"') {
        if (!passString()) return false;
        continue;
      }
      if (depth == 0 && (c == ',' || c == ']')) return true;
      depth += (c == '{' || c == '[') - (c == '}' || c == ']');
      if (depth < 0) return false;
      ++at_;
    }
    return false;
  }
  bool passString() {
    for (++at_; at_ < text_.size(); ++at_) {
      if (text_[at_] == '\\')
        ++at_;
      else if (text_[at_] == '"')
        return ++at_, true;
    }
    return false;
  }
  bool passes(char c) {
    passSpace();
    if (at_ >= text_.size() || text_[at_] != c) return false;
    ++at_;
    return true;
  }
  void passSpace() {
    while (at_ < text_.size() && isSpace(text_[at_])) ++at_;
  }
  static bool isSpace(char c) { return c == ' ' || c == '\n' || c == '\r' || c == '\t'; }

  std::string_view text_;
  std::size_t at_ = 0;
};

}  // namespace

std::shared_ptr<const RecipeGuide> RecipeReader::guide(std::string_view text) {
  const std::string key(text);
  {
    const std::lock_guard lock(mutex_);
    if (const auto found = guides_.find(key); found != guides_.end()) return found->second;
  }
  std::shared_ptr<const RecipeGuide> read;
  try {
    read = std::make_shared<const RecipeGuide>(recipeGuideFromJson(parseJson(key, "A guide"), "A guide"));
  } catch (const Problem&) {
    // Read with all of its recipe, where it is told what is wrong.
  }
  const std::lock_guard lock(mutex_);
  if (guides_.size() < mostKept) guides_.emplace(key, read);
  return read;
}

Recipe RecipeReader::read(const std::string& text, const std::string& where, Mended* mended) {
  const auto list = Walk(text).listNamed("guides");
  std::vector<std::shared_ptr<const RecipeGuide>> guides;
  for (const std::string_view each : list ? list->elements : std::vector<std::string_view>()) {
    guides.push_back(guide(each));
    if (guides.back() == nullptr) break;
  }
  if (list && (guides.empty() || guides.back() != nullptr)) {
    try {
      Mended here;
      Recipe out = recipeFromJson(parseJson(text.substr(0, list->begin) + "[]" + text.substr(list->end), where),
                                  mended != nullptr ? &here : nullptr);
      for (const std::string& sentence : here.sentences()) mended->say(sentence);
      for (const auto& each : guides) out.guides.push_back(*each);
      return out;
    } catch (const Problem&) {
      // It is told with the place in the whole of it.
    }
  }
  return recipeFromJson(parseJson(text, where), mended);
}

}  // namespace hscaffold
