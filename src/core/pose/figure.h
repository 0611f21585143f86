/// Figures: skeletons placed in the frame, one or many. Coordinates are frame pixels, pixel centres at +0.5.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/frame/placement.h"
#include "core/guides/work.h"
#include "core/image/point.h"
#include "core/pose/skeleton.h"

namespace hscaffold::pose {

enum class Presence { absent, hidden, seen };

struct KeyPoint {
  Point at;
  Presence presence = Presence::absent;
  double confidence = 1;  ///< [0, 1]; 1 for what was placed by hand
  bool pinned = false;    ///< stays where it is whatever is dragged
  friend bool operator==(const KeyPoint&, const KeyPoint&) = default;
  [[nodiscard]] bool there() const { return presence != Presence::absent; }
  /// Absent points remember where they were, so that they can come back; those that never were anywhere stay so.
  [[nodiscard]] bool placed() const { return there() || at != Point{}; }
};

/// The 3D pose that a figure was made from or fitted with, where there is one.
struct BodyPose {
  std::vector<double> angles;  ///< one for each turn of the skeleton, degrees
  friend bool operator==(const BodyPose&, const BodyPose&) = default;
};

struct Figure {
  std::string name;
  std::string skeleton = "human";
  bool on = true;
  std::vector<KeyPoint> points;  ///< one for each point of the skeleton
  std::vector<double> natural;   ///< how long each bone can be, unforeshortened, in pixels
  std::optional<BodyPose> body;
  friend bool operator==(const Figure&, const Figure&) = default;

  [[nodiscard]] const Skeleton& kind() const { return skeletonOf(skeleton); }
};

/// All figures of a guide, from far to near. Immutable once shared, so that undo can keep them.
struct Figures {
  Size frame;                     ///< that coordinates belong to
  std::optional<Affine> placing;  ///< frame from reference coordinates when it was made; none without a reference
  std::vector<std::shared_ptr<const Figure>> figures;
};

inline constexpr std::size_t mostFigures = 1000;

/// Bones longer than natural by at most this share count as natural.
inline constexpr double lengthTolerance = 0.005;

struct Bounds {
  double left = 0, top = 0, right = 0, bottom = 0;
  [[nodiscard]] double width() const { return right - left; }
  [[nodiscard]] double height() const { return bottom - top; }
  [[nodiscard]] Point middle() const { return {(left + right) / 2, (top + bottom) / 2}; }
};
/// Of the points that are there; empty if there are none.
std::optional<Bounds> boundsOf(const Figure& figure);

/// What the skeleton's lengths are shares of, in pixels, from the natural lengths: a human's standing height.
double sizeOf(const Figure& figure);
/// Mean confidence of the points that are there.
double confidenceOf(const Figure& figure);
double lengthOf(const Figure& figure, const Bone& bone);
/// Share of its natural length that a bone has now; empty if one of its ends is absent.
std::optional<double> shareOfNatural(const Figure& figure, std::size_t bone);
/// How much the longest bone is beyond its natural length, as a share; 0 if none is.
double overlength(const Figure& figure);

/// Natural lengths for a figure of which only the places are known: none shorter than it is, both sides alike, and all
/// of one build as far as the skeleton's ranges let them.
std::vector<double> naturalFor(const Figure& figure);

/// Left and right exchanged in the picture, about the vertical through `x`: the figure turns into its mirror image, and
/// what was its left side becomes its right.
Figure mirrored(const Figure& figure, double x);
/// Left and right exchange their names; nothing moves. Mends a figure that was found the wrong way round.
Figure withSidesSwapped(const Figure& figure);
Figure moved(const Figure& figure, Point by);
/// Scaled and turned (degrees, clockwise) about `centre`; natural lengths go along.
Figure scaledAndTurned(const Figure& figure, Point centre, double scale, double degrees);
/// Puts a part (a hand, the face) where it is at rest on this figure, or takes it away.
Figure withPart(const Figure& figure, const std::string& part, bool there);

/// The figures as they lie when the frame or the placing of their reference is another.
Figures following(const Figures& figures, Size frame, const std::optional<Affine>& placing);

/// The slots of guides that figures and their inks stand in.
inline constexpr const char* figuresSlot = "figures";
inline constexpr const char* inksSlot = "inks";
/// No coordinate or length in a file is beyond this, pixels.
inline constexpr double farthestOut = 1e6;
/// As JSON: see docs/study-file.md.
std::string figuresToText(const Figures& figures);
/// @throws Problem (badInput)
Figures figuresFromText(const std::string& text);
const WorkForm& figuresForm();

}  // namespace hscaffold::pose
