#include "core/brief/differences.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "core/kinds.h"

namespace hscaffold {
namespace {

class List {
 public:
  void add(const std::string& what, const std::string& first, const std::string& second) {
    if (first != second) all.push_back({what, first, second});
  }
  void number(const std::string& what, double first, double second, int decimals, const char* unit = "") {
    if (first == second) return;
    // Enough digits that what differs is seen to differ.
    std::string a, b;
    for (int more = decimals; more <= decimals + 6 && a == b; ++more) {
      a = fmt::format("{:.{}f}{}", first, more, unit);
      b = fmt::format("{:.{}f}{}", second, more, unit);
    }
    add(what, a, b);
  }
  std::vector<Difference> all;
};

std::string shortened(const std::string& text) {
  if (text.empty()) return "none";
  return charactersIn(text) <= 60 ? text : fittedText(text, 57) + "...";
}

/// Two texts from a little before the first place where they part.
std::pair<std::string, std::string> parted(const std::string& first, const std::string& second) {
  const auto a = codePointsOf(first), b = codePointsOf(second);
  const auto place = static_cast<std::size_t>(std::mismatch(a.begin(), a.end(), b.begin(), b.end()).first - a.begin());
  if (place < 40) return {shortened(first), shortened(second)};
  const auto from = [&](const std::string& text) {
    std::size_t at = 0;
    for (std::size_t i = 0; i + 24 < place; ++i) do
        ++at;
      while (at < text.size() && (static_cast<unsigned char>(text[at]) & 0xc0) == 0x80);
    return "..." + shortened(text.substr(std::min(at, text.size())));
  };
  return {from(first), from(second)};
}

void texts(List& list, const std::string& what, const std::string& first, const std::string& second) {
  if (first == second) return;
  const auto [a, b] = parted(first, second);
  // Where even the pieces look alike, it is in what they leave out.
  list.add(what, a, a == b ? b + " (differs further on)" : b);
}

std::string startOf(const StartPicture& start) {
  switch (start.from) {
    case StartPicture::From::nothing:
      return "none";
    case StartPicture::From::reference:
      return "reference";
    case StartPicture::From::proof:
      return fmt::format("proof {}", start.proof);
    case StartPicture::From::below:
      return "what lay there";
    case StartPicture::From::guide:
      return "what a guide shows";
    default:
      return "a colour";
  }
}

/// "0 % 0.20, 40 % 1.00", or that there is none.
std::string shapeOf(const Range& range) {
  std::vector<std::string> points;
  for (const ShapePoint& point : range.shape)
    points.push_back(fmt::format("{:.0f} % {:.2f}", range.from + point.at * (range.to - range.from), point.share));
  return points.empty() ? "none" : fmt::format("{}", fmt::join(points, ", "));
}

void guides(List& list, const Guide& first, const Guide& second) {
  const std::string& name = second.name;
  list.number(name + ", weight", first.weight, second.weight, 2);
  list.number(name + ", range start", first.range.from, second.range.from, 0, " %");
  list.number(name + ", range end", first.range.to, second.range.to, 0, " %");
  list.number(name + ", ramp in", first.range.rampIn, second.range.rampIn, 0, " %");
  list.number(name + ", ramp out", first.range.rampOut, second.range.rampOut, 0, " %");
  list.add(name + ", free shape", shapeOf(first.range), shapeOf(second.range));
  list.add(name + ", kind", kindOf(first.kind).name, kindOf(second.kind).name);
  if (first.kind == second.kind) {
    const TuningFields& fields = *kindOf(first.kind).fields;
    for (const TuningField& field : fields) {
      const double a = valueOf(fields, first.tuning, field.id), b = valueOf(fields, second.tuning, field.id);
      std::string label = field.label;
      label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
      const std::string what = name + ", " + label;
      if (field.text) {
        list.add(what, wordingOf(fields, first.tuning, field.id), wordingOf(fields, second.tuning, field.id));
      } else if (!field.choices.empty()) {
        const auto word = [&](double value) {
          const auto index = static_cast<std::size_t>(std::max(0.0, value));
          return index < field.choices.size() ? field.choices[index] : std::string("?");
        };
        list.add(what, word(a), word(b));
      } else {
        list.number(what, a, b, field.decimals, field.unit.empty() ? "" : (" " + field.unit).c_str());
      }
    }
  }
  const auto work = [](const Guide& guide) {
    WorkNames names = guide.work;
    names.clear(regionSlot);
    return names;
  };
  if (work(first) != work(second) || first.retouchHidden != second.retouchHidden)
    list.add(name + ", hand work", work(first).all().empty() ? "none" : "as it was",
             work(second).all().empty() ? "none" : "changed");
  if (first.work.in(regionSlot) != second.work.in(regionSlot) || first.region != second.region)
    list.add(name + ", region", first.limited() ? "painted" : "everywhere",
             !second.limited() ? "everywhere"
             : first.limited() ? "painted otherwise"
                               : "painted");
}

void briefs(List& list, const Brief& first, const Brief& second) {
  texts(list, "Prompt", first.prompt, second.prompt);
  if (first.prompt == second.prompt && first.emphasis != second.emphasis)
    list.add("Emphasis", fmt::format("on {} phrases", first.emphasis.size()),
             fmt::format("on {} phrases{}", second.emphasis.size(),
                         first.emphasis.size() == second.emphasis.size() ? ", otherwise" : ""));
  texts(list, "Avoid", first.avoid, second.avoid);
  const auto strength = [](const Brief& brief, const StyleUse& of) {
    for (const StyleUse& use : brief.styles)
      if (use.id == of.id) return fmt::format("{:.2f}", use.strength);
    return std::string("not in use");
  };
  for (const StyleUse& use : first.styles) list.add("Style " + use.name, strength(first, use), strength(second, use));
  for (const StyleUse& use : second.styles)
    if (strength(first, use) == "not in use") list.add("Style " + use.name, "not in use", strength(second, use));
  list.add("Start picture", startOf(first.start), startOf(second.start));
  if (first.start.given() && second.start.given()) {
    list.number("Change amount", first.start.change, second.start.change, 2);
    texts(list, "Start shows", first.start.shows, second.start.shows);
    texts(list, "Start, wanted", first.start.wanted, second.start.wanted);
    list.add("Start, mood only", first.start.moodOnly ? "yes" : "no", second.start.moodOnly ? "yes" : "no");
    list.number("Start, mood blurred by", first.start.mood.blur, second.start.mood.blur, 1, " %");
    list.add("Start, mood sorted", idOf(first.start.mood.sorting), idOf(second.start.mood.sorting));
    if (first.start.placement != second.start.placement) list.add("Start, placing", "as it was", "otherwise");
  }
  if (first.colours != second.colours)
    list.add(
        "Wanted colours", fmt::format("{}", first.colours.size()),
        fmt::format("{}{}", second.colours.size(), first.colours.size() == second.colours.size() ? ", others" : ""));
  list.number("Seed", first.seed, second.seed, 0);
  list.number("Vary seed by", first.vary, second.vary, 2);
  if (first.vary > 0 && second.vary > 0) list.number("Variation", first.variation, second.variation, 0);
  list.number("Steps", first.steps, second.steps, 0);
  list.number("Guidance", first.guidance, second.guidance, 1);
}

}  // namespace

std::vector<Difference> differences(const Recipe& first, const Recipe& second) {
  List list;
  const auto size = [](Size s) { return fmt::format("{} x {}", s.width, s.height); };
  list.add("Frame", size(first.frame), size(second.frame));
  const auto in = [](const Recipe& recipe, const std::string& id) -> const Guide* {
    for (const RecipeGuide& entry : recipe.guides)
      if (entry.guide.id == id) return &entry.guide;
    return nullptr;
  };
  for (const RecipeGuide& entry : first.guides) {
    const Guide* other = in(second, entry.guide.id);
    if (other == nullptr)
      list.add(entry.guide.name, "on", "off");
    else
      guides(list, entry.guide, *other);
  }
  for (const RecipeGuide& entry : second.guides)
    if (in(first, entry.guide.id) == nullptr) list.add(entry.guide.name, "off", "on");
  for (const RecipeReference& reference : first.references)
    for (const RecipeReference& other : second.references)
      if (reference.id == other.id && reference.placement != other.placement && first.frame == second.frame)
        list.add(other.name + ", placing", "as it was", "otherwise");
  briefs(list, first.brief, second.brief);
  list.add("Family of models", first.family.empty() ? "any" : first.family,
           second.family.empty() ? "any" : second.family);
  list.add("Engine", first.engine.empty() ? "not yet" : first.engine,
           second.engine.empty() ? "not yet" : second.engine);
  return std::move(list.all);
}

}  // namespace hscaffold
