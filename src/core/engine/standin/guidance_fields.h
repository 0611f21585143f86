/// What guides ask of the layout. How a kind asks stands in a file of its own under kinds/.
#pragma once

#include <optional>

#include "core/engine/standin/composition.h"
#include "core/engine/standin/obedience.h"
#include "core/engine/standin/plan.h"
#include "core/engine/standin/readings.h"
#include "core/guides/kind.h"

namespace hscaffold::standin {

/// What of a guide is taken, weighed and settled before the first step: it takes the place of what was there.
struct Decided {
  Fields fields;
  Image<float> where;    ///< [0, 1]; 0 where nothing of the guide is taken
  Image<float> lines;    ///< outlines, on top of everything; may reach beyond what is taken
  Image<float> undrawn;  ///< 1 on outlines that a stronger load would draw as well; empty: none
  Image<float> shade;    ///< shadows thrown on what is beneath; empty: none
};

struct Wanted {
  std::optional<Decided> decided;
  bool bodies = false;  ///< `decided` are figures, which stand in front of everything
  /// What draws on the fields step by step instead, in proportion to the load: light, the course of strokes.
  Fields fields;
  std::array<bool, Fields::count> acts{};
  Image<float> where;  ///< how far it draws at each place, [0, 1]; empty: everywhere
  /// L of OKLab that light and shade are to come to, whatever stands there in the end; empty: nothing is asked.
  Image<float> lightness;
  /// How surely a place is to be as dark as the medium makes anything, [0, 1]: where media draw, light alone would only
  /// be hatched. Empty: nothing is asked.
  Image<float> filled;
  /// Colours that places are to take, a and b of OKLab; empty: nothing is asked.
  Image<float> a, b;
};

/// What guides ask of colours altogether, by how strongly each does. Null where none asks for any.
std::shared_ptr<const Tints> tintsOf(const std::vector<Wanted>& wanted, const std::vector<LoadCurve>& loads);

/// What lightness asks of tone, and filling of lines, now that it is known what stands where: draws on it from here on.
/// @param drawn  the medium draws with lines
void lightUp(Wanted& wanted, const Composition& picture, const Palette& palette, bool drawn);

/// What a guide is asked with.
struct Asked {
  const GuideInput& input;
  const Composition& place;  ///< what prompt and seed alone would draw, without its subject
  const Palette& palette;    ///< of the prompt alone: values are planned with it
  const LoadCurve& loads;
  std::uint64_t seed;
  Readings& readings;
  const Tuning* tuning = nullptr;  ///< of the guide; null: as usual
  double flatness = 0;             ///< how far light against dark is to be avoided, [0, 1]
};
/// By kind id, limited to the guide's region. A kind that this engine does not know acts on nothing.
Wanted wantedBy(const std::string& kind, const Asked& asked);

/// Ids of the kinds that this engine knows.
std::vector<std::string> knownKinds();

/// The lightness (OKLab) that a map of graded light shows, at the layout's size.
Image<float> lightnessShown(const Map& map, Size size);

/// Fields of the layout's size that act on nothing yet.
Wanted wantedNothing(const Composition& place);

}  // namespace hscaffold::standin
