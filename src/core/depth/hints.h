/// Hints: what the artist says of depth, as objects that can be moved and removed; in the slot "hints" of a guide.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/frame/placement.h"
#include "core/guides/work.h"
#include "core/image/image.h"

namespace hscaffold::depth {

struct Constraints;
struct Seen;

inline constexpr const char* hintsSlot = "hints";

/// A place in the frame, in pixels.
struct Spot {
  double x = 0, y = 0;
  friend bool operator==(const Spot&, const Spot&) = default;
};

struct Hint {
  enum class Form {
    level,  ///< a stroke: this is so near
    same,   ///< a stroke: all this is one depth
    front,  ///< an arrow from what is in front to what is behind it
    ramp,   ///< a line: so near at its start, so near at its end, even in between and over the pieces that it crosses
    plane,  ///< an outline: all inside lies on one plane
    cut     ///< an outline: what is inside has nothing to do with what is round it
  };
  Form form = Form::level;
  std::vector<Spot> spots;  ///< path, arrow, ends or outline
  double width = 16;        ///< of strokes, pixels of the frame
  double near = 0.5;        ///< level; start of a ramp: [0, 1], 1 nearest
  double nearEnd = 0.5;     ///< end of a ramp
  friend bool operator==(const Hint&, const Hint&) = default;
};

/// Immutable once shared.
struct Hints {
  Size frame;                     ///< that its places belong to
  std::optional<Affine> placing;  ///< frame from reference when they were made
  std::vector<Hint> hints;
};

inline constexpr std::size_t mostHints = 500;
inline constexpr std::size_t mostSpots = 4000;  ///< in one hint

/// How a form is called in files: "level", "same", "front", "ramp", "plane", "cut".
const char* idOf(Hint::Form form);
/// The least number of spots that it needs.
std::size_t leastSpots(Hint::Form form);

/// The hints as they lie when the frame or the placing of the reference is another.
Hints following(const Hints& hints, Size frame, const std::optional<Affine>& placing);
/// As JSON: see docs/study-file.md.
const WorkForm& hintsForm();
/// A file of hints for the command line: {"width", "height", "hints": [...]}. @throws Problem (badInput)
Hints hintsFromText(const std::string& text, const std::string& where);

/// What they come to on the cells of a picture of `frame` size. What lies outside says nothing.
Constraints constraintsOf(const Hints& hints, const Seen& seen);

/// Pairs of hints that contradict each other: levels far apart on one cell, or an arrow against levels.
std::vector<std::pair<std::size_t, std::size_t>> contradictions(const Hints& hints, const Seen& seen);

}  // namespace hscaffold::depth
