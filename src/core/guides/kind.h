/// A kind of guide as one value: what everything above the kinds (study, engines, command line, window) knows of it.
/// Each kind makes its own in its folder; core/kind_list.h lists them, core/kinds.h hands them out.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/guides/guide.h"
#include "core/guides/missed_place.h"
#include "core/guides/tuning.h"
#include "core/guides/work.h"
#include "core/image/atomic_file.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

class ProofSeen;
struct MapSketch;

/// The image of a guide, at frame size: 0 to 65535.
using Map = Image<std::uint16_t>;

/// The same in colour, where the kind has colours; empty for all others.
using ColourMap = Image<Rgb8>;

/// What one computation leaves for the next of the same picture or figures, so that a changed threshold does not start
/// anew. Kinds put in what they like; the owner empties it when the picture changes.
struct ExtractionCache {
  std::string key;
  std::shared_ptr<const void> value;
};

/// A histogram with two thresholds, where a kind has such a thing; shares of the largest value, [0, 1].
struct ThresholdView {
  std::vector<std::uint32_t> histogram;
  double low = 0, high = 0;
};

/// A place in the frame where the kind would like to be told better, in pixels.
struct DoubtfulPlace {
  double x = 0, y = 0;
};

struct Extraction {
  Map map;
  ColourMap colour;
  std::shared_ptr<const Map> sureness;  ///< how sure each place is, 0 to 65535; null where the kind does not say
  std::vector<DoubtfulPlace> doubtful;  ///< the worst first
  std::map<std::string, double> facts;  ///< numbers for `tell`, by the kind's own names
  ThresholdView thresholds;             ///< histogram empty where the kind has none
  Tuning resolved;                      ///< what automatic choices came to, by field
  std::string found;                    ///< what was found out about the picture, in a few words; may be empty
  std::string note;                     ///< one sentence where something is doubtful; may be empty

  [[nodiscard]] Extraction clone() const {
    return {map.clone(), colour.clone(), sureness, doubtful, facts, thresholds, resolved, found, note};
  }
};

/// All that a guide's map is made from.
struct MapGround {
  View<Rgb> picture;  ///< the placed reference, linear light, frame size; empty for a guide without one
  GuidePlace place;
  const Tuning& tuning;
  const GuideWork& work;  ///< as it was kept: not yet brought to `place`
};

/// What engines and measures get of one guide. All images have frame size.
struct GuideInput {
  Map map;           ///< as the artist sees it: retouched, and for lines and inks nothing outside the region
  ColourMap colour;  ///< the same in colour; empty for kinds without colours
  Map region;        ///< how far the guide acts at each place, 0 to 65535; empty: everywhere
  GuideWork work;    ///< hand work of the kind's own slots, in the frame's pixels
  Tuning tuning;     ///< of the guide, for measures that go by it
  [[nodiscard]] GuideInput clone() const { return {map.clone(), colour.clone(), region.clone(), work, tuning}; }
};

/// How a map is seen.
enum class MapNature {
  lines,      ///< white on black nothing
  halfTones,  ///< every value says something; worth 16 bits
  inks,       ///< in colours of its own on black nothing
  mood        ///< colours and light that say nothing about what lies where
};
/// Whether black is nothing: a region then takes away what lies outside it.
constexpr bool isOnNothing(MapNature nature) { return nature == MapNature::lines || nature == MapNature::inks; }
/// Whether values are read as they are, none of them as nothing: worth 16 bits.
constexpr bool isOfValues(MapNature nature) { return nature == MapNature::halfTones || nature == MapNature::mood; }

/// What is known of a guide's map once it is made, for its checks and for reading. What is not there is not known.
struct MapFacts {
  std::map<std::string, double> numbers;    ///< by the kind's own names; "acts": share of the frame in which it acts
  std::vector<std::string> stances;         ///< what figures in it do, each once
  std::string words;                        ///< what it shows, for reading; may be empty
  std::shared_ptr<const MapSketch> sketch;  ///< by which it is compared with other guides' maps; may be null
  [[nodiscard]] std::optional<double> number(const std::string& name) const {
    const auto found = numbers.find(name);
    return found != numbers.end() ? std::optional(found->second) : std::nullopt;
  }
};

enum class Severity { doubt, bad };

/// Something wrong or doubtful about one guide.
struct KindCheck {
  std::string id;     ///< "few-edges"
  std::string brief;  ///< two or three words for the top strip
  Severity severity = Severity::doubt;
  std::string sentence;  ///< says what is so and what to do
  std::string fixName;   ///< for the button; empty if there is nothing to do at once
  std::function<void(Guide&, std::string& prompt)> fix;
  std::string otherKind = {};  ///< id of a kind that may do better here; offered where the reference has none of it
};

/// How much of a guide's layout is in a proof, and where it is not: one computation.
struct Holding {
  double hold = 0;                ///< [0, 100]: an unrelated proof near 0, a perfect copy 100
  Map misses;                     ///< 65535 where the layout was lost; empty where the kind cannot say where
  std::vector<MissedPlace> lost;  ///< the same by the kind's own names, the most first; empty where places must do
  std::string means = {};         ///< "figures that were found": by what it was measured; empty if the kind has one way
};

/// Lines at which a map asks for one thing to end and another to begin.
struct Borders {
  Map lines;         ///< frame size, 65535 on lines
  double stray = 0;  ///< how far off the true ones may lie, pixels: bodies wear clothes
};

/// What an export is made from.
struct ExportAsk {
  const Guide& guide;
  const GuideInput& input;
  Size frame;
  std::string title;
  double tolerance = 1;  ///< how far fitted curves may leave the map, pixels
};
/// A format that a map goes out in besides PNG.
struct MapExport {
  std::string ending;  ///< ".svg"
  std::string name;    ///< "SVG strokes"
  /// @throws Problem
  std::function<std::string(const ExportAsk&)> write;
};

struct Kind {
  std::string id;        ///< "edges"
  std::string name;      ///< "Edges"
  char letter;           ///< its mark
  std::uint32_t colour;  ///< 0xRRGGBB
  MapNature nature;
  std::string help;
  const TuningFields* fields;
  /// Its maps may be in colour, too.
  bool coloured = false;
  /// Its values say how near things are, light being near.
  bool nearIsLight = false;
  /// Its settings alone make a map: no reference and no hand work are needed. Such a kind has `make`.
  bool onSettings = false;
  /// What a new guide of the kind begins with, and why; without a weight as usual.
  std::optional<double> startWeight = {};
  Range startRange = {};
  std::string startReason = {};
  /// Slots for hand work besides retouch and region.
  std::vector<WorkSlot> workSlots = {};
  /// From a placed picture to a map of the same size; empty for kinds that are not extracted. @throws Cancelled
  std::function<Extraction(View<Rgb> picture, const Tuning&, ExtractionCache&, StopToken)> extract = {};
  /// The same map from pixels that the frame shows just as they are, 16 bits sRGB-encoded: for kinds that can do
  /// without a picture in linear light. Empty: only `extract`.
  std::function<Extraction(View<Rgba16> pixels, const Tuning&, ExtractionCache&, StopToken)> extractPixels = {};
  /// From all that a guide has (picture, strokes, figures) to its map without retouch and region; empty: `extract`.
  /// @throws Cancelled
  std::function<Extraction(const MapGround&, ExtractionCache&, StopToken)> make = {};
  /// Its colours over a map that was retouched: for kinds whose colours have the map's light.
  std::function<ColourMap(View<std::uint16_t> map, View<Rgb8> colour)> relit = {};
  /// What its checks should know of a finished map. @throws Cancelled
  std::function<void(const GuideInput&, const Extraction& details, MapFacts&, ExtractionCache&, StopToken)> tell = {};
  /// Its own checks of a guide that is on and acts somewhere.
  std::function<std::vector<KindCheck>(const Guide&, const MapFacts&, const std::string& prompt)> check = {};
  /// Empty where a proof cannot be measured for this kind. Misses and what is lost are counted in pixels of
  /// `ProofSeen::size`; the map may have any size. @throws Cancelled
  std::function<Holding(const GuideInput&, const ProofSeen& proof, StopToken)> measure = {};
  /// Where a map of values leaps, or what its figures are bounded by. Empty for kinds without; the borders of lines
  /// are the lines.
  std::function<Borders(const GuideInput&)> borders = {};
  std::vector<MapExport> exports = {};
  /// For kinds whose map is not all that an engine gets: what stands beside a recipe on disk in place of a PNG, by its
  /// ending in `exports`, and how it is read back. @throws Problem (badInput)
  std::string besideEnding = {};
  std::function<GuideInput(std::span<const std::byte>, const std::string& name, Size frame, const Tuning&)> readBeside =
      {};

  /// Whether a new guide of this kind asks for a reference.
  [[nodiscard]] bool needsPicture() const { return extract && !onSettings; }
  [[nodiscard]] bool hasSlot(const std::string& slot) const {
    for (const WorkSlot& each : workSlots)
      if (each.name == slot) return true;
    return false;
  }
};

}  // namespace hscaffold
