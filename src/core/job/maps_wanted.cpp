#include "core/job/maps_wanted.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/guides/json_fields.h"
#include "core/image/colour.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "core/pose/figure.h"
#include "core/pose/inks.h"
#include "core/text.h"

namespace hscaffold {
namespace {

void invert(Map& map) {
  for (int y = 0; y < map.height(); ++y)
    for (std::uint16_t& value : map.line(y)) value = static_cast<std::uint16_t>(65535 - value);
}

Map atSizeOf(const Map& map, Size size) {
  const auto values = resampled(widened(map.view()).view(), size, Resampling::area);
  Map out(size);
  for (int y = 0; y < size.height; ++y)
    std::transform(values.row(y), values.row(y) + size.width, out.row(y), [](float value) {
      return static_cast<std::uint16_t>(std::clamp(value, 0.0f, 1.0f) * 65535.0f + 0.5f);
    });
  return out;
}

/// Colours of inks say what they are: none is mixed of two.
ColourMap atSizeOf(const ColourMap& colours, Size size) {
  ColourMap out(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      out(x, y) =
          colours((2 * x + 1) * colours.width() / (2 * size.width), (2 * y + 1) * colours.height() / (2 * size.height));
  return out;
}

/// Figures drawn anew in other inks, wherever the map shows them as they were drawn: strokes of the hand and what a
/// region took away stay.
void reink(const Kind& kind, GuideInput& input, const std::string& inks, const Tuning& tuning) {
  if (!kind.make || !kind.hasSlot(pose::inksSlot) || input.work.find(pose::figuresSlot) == nullptr) return;
  const auto drawn = [&](const GuideWork& work) {
    ExtractionCache cache;
    return kind.make(MapGround{{}, {input.map.size(), {}}, tuning, work}, cache, {}).colour;
  };
  GuideWork other = input.work;
  other.put(pose::inksSlot,
            std::any(std::make_shared<const pose::Inks>(pose::inksFromJson(inks, "The engine's inks"))));
  const ColourMap before = drawn(input.work), after = drawn(other);
  for (int y = 0; y < before.height(); ++y)
    for (int x = 0; x < before.width(); ++x)
      if (input.colour(x, y) == before(x, y)) input.colour(x, y) = after(x, y);
  input.map = brightnessOf(input.colour);
  input.work = std::move(other);
}

}  // namespace

GuideInput asWanted(const Kind& kind, const GuideInput& input, const MapsWanted& maps, const Tuning& tuning,
                    Size pictureSize) {
  GuideInput out = input.clone();
  if (!maps.inks.empty() && !out.colour.empty()) reink(kind, out, maps.inks, tuning);
  if (maps.atFrame && out.map.size() != pictureSize) {
    out.map = atSizeOf(out.map, pictureSize);
    if (!out.colour.empty()) out.colour = atSizeOf(out.colour, pictureSize);
    if (!out.region.empty()) out.region = atSizeOf(out.region, pictureSize);
    // Places in it are counted in pixels of the larger map.
    out.work = {};
  }
  if (maps.darkLines && kind.nature == MapNature::lines) invert(out.map);
  if (maps.nearIsDark && kind.nearIsLight) invert(out.map);
  if (maps.eightBits)
    for (int y = 0; y < out.map.height(); ++y)
      for (std::uint16_t& value : out.map.line(y))
        value = static_cast<std::uint16_t>(257 * static_cast<int>(inEightBits(value)));
  return out;
}

EngineJob asWanted(const EngineJob& job, const MapsWanted& maps) {
  EngineJob out{job.recipe, {}, job.start.empty() ? Image<Rgb>() : job.start.clone()};
  for (std::size_t i = 0; i < job.inputs.size(); ++i) {
    RecipeGuide& entry = out.recipe.guides[i];
    out.inputs.push_back(asWanted(kindOf(entry.guide.kind), job.inputs[i], maps, entry.guide.tuning, job.recipe.frame));
    if (const auto name = maps.called.find(entry.guide.kind); name != maps.called.end()) entry.called = name->second;
  }
  if (maps.atFrame) out.recipe.mapsFrame = {};
  return out;
}

nlohmann::json mapsWantedToJson(const MapsWanted& maps) {
  nlohmann::json json{{"dark-lines", maps.darkLines}, {"near-dark", maps.nearIsDark}, {"eight-bits", maps.eightBits}};
  if (maps.atFrame) json["at-frame"] = true;
  if (!maps.called.empty()) json["called"] = maps.called;
  if (!maps.inks.empty()) json["inks"] = parseJson(maps.inks, "Inks");
  return json;
}

MapsWanted mapsWantedFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  MapsWanted maps;
  maps.darkLines = fields.flag("dark-lines", false);
  maps.nearIsDark = fields.flag("near-dark", false);
  maps.eightBits = fields.flag("eight-bits", false);
  maps.atFrame = fields.flag("at-frame", false);
  if (fields.has("called") && fields.child("called").is_object()) {
    JsonFields names(fields.child("called"), where + ", called");
    for (const Kind& kind : kinds())
      if (const auto name = fittedText(names.text(kind.id, ""), longestName); !name.empty())
        maps.called[kind.id] = name;
  }
  if (fields.has("inks")) {
    maps.inks = fields.child("inks").dump();
    if (const auto why = whyNotInks(maps.inks); !why.empty()) throw badInput(where + ", inks: " + why);
  }
  return maps;
}

MapsWanted mapsWantedFrom(std::span<const std::string> words) {
  MapsWanted maps;
  for (const std::string& word : words) {
    const auto equals = word.find('=');
    if (word == "dark-lines")
      maps.darkLines = true;
    else if (word == "near-dark")
      maps.nearIsDark = true;
    else if (word == "8-bit")
      maps.eightBits = true;
    else if (word == "at-frame")
      maps.atFrame = true;
    else if (equals != std::string::npos && equals + 1 < word.size())
      maps.called[kindOf(word.substr(0, equals)).id] = fittedText(word.substr(equals + 1), longestName);
    else
      throw badInput(fmt::format(
          "\"{}\" is no wish for maps: dark-lines, near-dark, 8-bit, at-frame, or KIND=NAME for what it calls a kind.",
          word));
  }
  return maps;
}

std::string whyNotInks(const std::string& inks) {
  try {
    static_cast<void>(pose::inksFromJson(inks, "The inks"));
    return {};
  } catch (const std::exception& problem) {
    return problem.what();
  }
}

}  // namespace hscaffold
