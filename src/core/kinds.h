/// The registry of guide kinds. Everything above the kinds (study, command line, panels) knows them only through here.
#pragma once

#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/guides/tuning.h"
#include "core/image/image.h"
#include "core/lines/stroke.h"
#include "core/problem.h"

namespace hscaffold {

/// The image of a guide, at frame size: 0 to 65535.
using Map = Image<std::uint16_t>;

/// The same in colour, where the kind has colours; empty for all others.
using ColourMap = Image<Rgb8>;

/// What one extraction leaves for the next of the same picture, so that a changed threshold does not start anew.
/// Kinds put in what they like; the owner empties it when the picture changes.
struct ExtractionCache {
  std::string key;
  std::shared_ptr<const void> value;
};

/// A histogram with two thresholds, where a kind has such a thing; shares of the largest value, [0, 1].
struct ThresholdView {
  std::vector<std::uint32_t> histogram;
  double low = 0, high = 0;
};

struct Extraction {
  Map map;
  ColourMap colour;
  ThresholdView thresholds;  ///< histogram empty where the kind has none
  Tuning resolved;           ///< what automatic choices came to, by field
  std::string found;         ///< what was found out about the picture, in a few words; may be empty
  std::string note;          ///< one sentence where something is doubtful; may be empty
};

struct Kind {
  std::string id;        ///< "edges"
  std::string name;      ///< "Edges"
  char letter;           ///< its mark
  std::uint32_t colour;  ///< 0xRRGGBB
  bool wide;             ///< map has half tones worth 16 bits
  bool lines;            ///< black is nothing and lines are white
  bool figures;          ///< made of posed figures in colours rather than extracted
  std::string help;
  const TuningFields* fields;
  /// Empty for kinds that are not extracted.
  std::function<Extraction(View<Rgb> picture, const Tuning&, ExtractionCache&, StopToken)> extract;
  /// Strokes in the kind's own manner; empty where strokes make no sense.
  std::function<Map(const Drawing&, Size, const Tuning&, StopToken)> draw;
};

std::span<const Kind> kinds();
/// @throws Problem (badInput) if there is none of that id.
const Kind& kindOf(const std::string& id);

/// The map as PNG: in colour where it has colours, 16 bits where the kind has half tones, else 8.
std::vector<std::byte> encodeMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour = {});
/// Content digest (XXH3, 128 bits, hexadecimal), by which a recipe names its maps.
std::string digestOf(View<std::uint16_t> map, View<Rgb8> colour = {});

}  // namespace hscaffold
