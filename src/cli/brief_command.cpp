// hscaffold study brief: emphasis, styles, start picture and variations of a study; hscaffold styles: the cards.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>

#include "cli/commands.h"
#include "cli/study_commands.h"
#include "core/brief/styles.h"
#include "core/image/colour.h"
#include "core/number_text.h"
#include "core/study/study_file.h"
#include "files/study_lock.h"

namespace hscaffold {
namespace {

using From = StartPicture::From;

struct BriefOptions {
  std::string path;
  std::vector<std::string> emphasis, styles, colours;
  std::string sorted;
  std::optional<std::string> start, shows, wanted;
  std::optional<double> change, vary, blur;
  std::optional<std::int64_t> variation;
  bool plain = false, noStyles = false, mood = false, all = false;
};

/// "NAME=VALUE", split at the last equals sign. @throws Problem
std::pair<std::string, double> parsedPair(const std::string& option, const std::string& text, double low, double high) {
  const auto equals = text.rfind('=');
  const auto value = equals == std::string::npos ? std::nullopt : numberFrom(std::string_view(text).substr(equals + 1));
  if (!value || equals == 0 || *value < low || *value > high)
    throw badInput(fmt::format("{}: \"{}\" is not NAME=VALUE with a value from {} to {}.", option, text, low, high));
  return {text.substr(0, equals), *value};
}

/// Every place where the prompt has the phrase.
void emphasise(Brief& brief, const std::string& phrase, double weight) {
  const std::u32string prompt = codePointsOf(brief.prompt), wanted = codePointsOf(phrase);
  bool found = false;
  for (auto at = prompt.find(wanted); at != std::u32string::npos; at = prompt.find(wanted, at + wanted.size())) {
    brief.emphasis.push_back({static_cast<int>(at), static_cast<int>(wanted.size()), weight});
    found = true;
  }
  if (!found) throw badInput("--emphasis: the prompt does not have \"" + phrase + "\".");
  brief.emphasis = inOrder(brief.emphasis, prompt.size());
}

Rgb parsedColour(const std::string& text) {
  const auto digits = text.size() == 7 && text.front() == '#' ? text.find_first_not_of("0123456789abcdefABCDEF", 1) : 0;
  if (digits != std::string::npos) throw badInput("\"" + text + "\" is not a colour like #c08040.");
  const auto channel = [&](std::size_t at) {
    return srgbToLinear(static_cast<float>(std::stoi(text.substr(at, 2), nullptr, 16)) / 255);
  };
  return {channel(1), channel(3), channel(5)};
}

void setStart(StudyState& state, const StudyFile& file, const std::string& text) {
  StartPicture& start = state.brief.start;
  const auto colon = text.find(':');
  const double number =
      colon == std::string::npos ? 0 : numberFrom(std::string_view(text).substr(colon + 1)).value_or(0);
  if (text == "none") {
    start = {};
  } else if (text.starts_with("#")) {
    start.colour = parsedColour(text);
    start.from = From::colour;
  } else if (text.starts_with("reference:")) {
    if (number < 1 || number > static_cast<double>(state.references.size()))
      throw badInput("--start: there is no such reference.");
    start.reference = state.references[static_cast<std::size_t>(number) - 1].id;
    start.from = From::reference;
    start.placement = state.reference(start.reference)->placement;
  } else if (text.starts_with("proof:")) {
    start.proof = static_cast<std::int64_t>(number);
    static_cast<void>(file.proofThumbnail(start.proof));
    start.from = From::proof;
    start.placement = {};
  } else if (text.starts_with("guide:")) {
    const std::string name = text.substr(colon + 1);
    const auto guide = std::find_if(state.guides.begin(), state.guides.end(),
                                    [&](const Guide& each) { return each.id == name || each.name == name; });
    if (guide == state.guides.end()) throw badInput("--start: there is no guide \"" + name + "\".");
    if (!guide->on) throw badInput("--start: the guide \"" + name + "\" is off: what it shows is not pulled.");
    start.guide = guide->id;
    start.from = From::guide;
    start.placement = {};
  } else {
    throw badInput("--start: \"" + text +
                   "\" is not reference:N, proof:N, guide:NAME, a colour like #c08040, or none.");
  }
}

void runBrief(const BriefOptions& o) {
  StudyToChange study(o.path);
  StudyState& state = study.state;
  Brief& brief = state.brief;
  if (o.plain) brief.emphasis.clear();
  for (const auto& text : o.emphasis) {
    const auto [phrase, weight] = parsedPair("--emphasis", text, limits::emphasis.least, limits::emphasis.most);
    emphasise(brief, phrase, weight);
  }
  if (o.noStyles) brief.styles.clear();
  for (const auto& text : o.styles) {
    const auto [name, strength] = parsedPair("--style", text, 0, limits::strength.most);
    const StyleCard* card = styleNamed(houseStyles(), name);
    if (card == nullptr) throw badInput("--style: there is no style \"" + name + "\". hscaffold styles lists them.");
    useStyle(brief, *card, strength);
  }
  if (o.start) setStart(state, study.file, *o.start);
  if (o.change) brief.start.change = *o.change;
  if (o.mood || o.all) brief.start.moodOnly = o.mood;
  if (o.blur) brief.start.mood.blur = *o.blur;
  if (!o.sorted.empty()) brief.start.mood.sorting = *mood::sortingNamed(o.sorted);
  if (!o.colours.empty()) {
    brief.colours.clear();
    for (const auto& text : o.colours)
      if (text != "none") brief.colours.push_back({parsedColour(text), false});
    if (brief.colours.size() > mood::mostColours)
      throw badInput(fmt::format("--colour: at most {} colours can be wanted.", mood::mostColours));
  }
  if (o.shows) brief.start.shows = *o.shows;
  if (o.wanted) brief.start.wanted = *o.wanted;
  if (o.vary) brief.vary = *o.vary;
  if (o.variation) brief.variation = static_cast<std::uint32_t>(*o.variation);
  if (!brief.start.given() && (o.change || o.mood || o.blur || !o.sorted.empty() || o.shows || o.wanted))
    throw badInput("There is no start picture to which this could apply. Give one with --start.");
  study.file.writeState(checked(state));
}

void runStyles(bool json) {
  if (json) {
    std::cout << stylesToJson(houseStyles()).dump(2) << "\n";
    return;
  }
  for (const StyleCard& card : houseStyles()) std::cout << fmt::format("{:<18} {}\n", card.name, card.words);
}

}  // namespace

void addBriefCommand(Command& study) {
  auto brief = study.add("brief", "Set emphasis, styles, start picture and variation of a study");
  auto o = std::make_shared<BriefOptions>();
  brief.text("STUDY", o->path, "The .scaffold file").required();
  brief.flag("--plain", o->plain, "First take all emphasis away");
  brief.texts("--emphasis", o->emphasis,
              "PHRASE=WEIGHT, -1 to 2, of a phrase of the prompt; may be given several times");
  brief.flag("--no-styles", o->noStyles, "First take all styles out");
  brief.texts("--style", o->styles, "CARD=STRENGTH, 0 to 1.5; may be given several times");
  brief.text("--start", o->start, "Start picture: reference:N, proof:N, guide:NAME, a colour like #c08040, or none");
  brief.number("--change", o->change, "How far the start picture may be left, 0 to 1", {0, 1});
  auto moodOnly = brief.flag("--mood-only", o->mood, "Take only its colours and light");
  brief.number("--blur", o->blur, "Of a mood: how far its colours flow, percent of the longer side",
               {mood::limits::blur.least, mood::limits::blur.most});
  brief.text("--sorted", o->sorted, "Of a mood: where its colours go").oneOf(moodSortings());
  brief.texts("--colour", o->colours,
              "A colour that the picture should have, like #c08040; may be given several times. none: no colours");
  brief.flag("--whole-picture", o->all, "Take its layout too").excludes(moodOnly);
  brief.text("--shows", o->shows, "What the start picture shows");
  brief.text("--wanted", o->wanted, "What is wanted instead: only the difference acts");
  brief.number("--vary", o->vary, "How far a small variation goes from the seed, 0 to 1", {0, 1});
  brief.whole("--variation", o->variation, "Which variation", {0, 4294967295.0});
  brief.run([o] { runBrief(*o); });
}

void addStylesCommand(Command& root, const bool& json) {
  auto styles = root.add("styles", "List the style cards");
  styles.run([&json] { runStyles(json); });
}

}  // namespace hscaffold
