/// The light table: shadow, light, rays and colour that are painted over the tone of a reference, or over nothing; in
/// the slot "light" of a tone guide. Everything on it stays an object: it can be moved, hidden and taken away, and is
/// drawn anew for every size.
#pragma once

#include <memory>
#include <numbers>
#include <optional>
#include <string>
#include <vector>

#include "core/guides/nearness.h"
#include "core/guides/work.h"
#include "core/image/colour.h"
#include "core/image/image.h"
#include "core/image/lit.h"
#include "core/image/point.h"
#include "core/limits.h"
#include "core/problem.h"

namespace hscaffold::light {

inline constexpr const char* lightSlot = "light";
inline constexpr const char* reliefSlot = "relief";

/// One stroke of a brush.
struct Stroke {
  std::vector<Point> spots;  ///< pixels of the frame
  double width = 60;         ///< diameter, the same
  double softness = 0.7;     ///< 0: a hard rim, 1: soft from the middle on
  double strength = 0.5;     ///< [0, 1]
  bool away = false;         ///< takes away what is painted
  friend bool operator==(const Stroke&, const Stroke&) = default;
};

/// A hue laid on: OKLCH without its lightness, which is the light's.
struct Hue {
  double chroma = 0.08;  ///< `limits::chroma`
  double angle = 60;     ///< degrees, [0, 360)
  friend bool operator==(const Hue&, const Hue&) = default;
};

/// One thing on the table.
struct Light {
  enum class Form {
    brush,     ///< strokes
    straight,  ///< a gradient from the first spot to the second
    round,     ///< a lamp: its middle and a place on its rim
    rays,      ///< from the first spot through the second
    flat       ///< an even area within an outline
  };
  Form form = Form::brush;
  std::string name;
  bool hidden = false;
  double opacity = 1;      ///< [0, 1]
  double light = 0.6;      ///< -1 as dark as can be, 0 leaves light alone, 1 as light as can be
  std::optional<Hue> hue;  ///< colour; none: that of what lies below
  std::vector<Point> spots;
  double softness = 0.5;  ///< of rims, [0, 1]
  // Of straight gradients: what they end in.
  double endLight = 0;
  std::optional<Hue> endHue;
  // Of rays.
  int count = 7;       ///< `limits::rays`
  double spread = 30;  ///< degrees from the first ray to the last, (0, 180]; of rays from a side percent of the frame
  bool aside = false;  ///< they come side by side, as from the sun, rather than out of one point
  double nearest = 1;  ///< they pass behind what is nearer than this, where there is a relief; 1: behind nothing
  std::vector<Stroke> strokes;
  friend bool operator==(const Light&, const Light&) = default;
};

/// Immutable once shared.
struct LightTable {
  Size frame;                     ///< that its places belong to
  std::optional<Affine> placing;  ///< frame from reference when it was made
  std::vector<Light> lights;      ///< the lowest first
  /// Colour in light and in shadow.
  double tint = 0;  ///< how much, [0, 1]
  Hue inLight{0.09, 70}, inShadow{0.09, 250};
  /// Where the light comes from: relights what has a relief.
  double relight = 0;  ///< how much, [0, 1]
  double from = -60;   ///< degrees in the picture, clockwise from the right; -90 from above
  double height = 40;  ///< degrees over the picture, [5, 90]
  /// Whether it changes nothing and need not be kept.
  [[nodiscard]] bool empty() const { return lights.empty() && tint <= 0 && relight <= 0; }
  friend bool operator==(const LightTable& a, const LightTable& b) {
    return a.frame == b.frame && a.lights == b.lights && a.tint == b.tint && a.inLight == b.inLight &&
           a.inShadow == b.inShadow && a.relight == b.relight && a.from == b.from && a.height == b.height;
  }
};

/// How near things are, taken from a depth map: shapes are relit by it, rays pass behind it.
using Relief = Nearness;

inline constexpr double degree = std::numbers::pi / 180;

inline constexpr std::size_t mostLights = 64, mostStrokes = 2000, mostSpots = 4000;
namespace limits {
inline constexpr Limits rays{1, 60, 7, 1, 0};
inline constexpr Limits spread{1, 180, 30, 1, 0};
inline constexpr Limits chroma{0, 0.3, 0.08, 0.01, 2};
inline constexpr Limits light{-1, 1, 0.6, 0.05, 2};
inline constexpr Limits height{5, 90, 40, 1, 0, "°"};
inline constexpr Limits width{1, 8192, 60, 1, 0, "px"};
}  // namespace limits

/// How a form is called in files: "brush", "straight", "round", "rays", "flat".
const char* idOf(Light::Form form);
/// How many spots it needs; a brush none.
std::size_t leastSpots(Light::Form form);

/// As they lie when the frame or the placing of the reference is another.
LightTable following(const LightTable& table, Size frame, const std::optional<Affine>& placing);
/// As JSON: see docs/study-file.md.
const WorkForm& lightForm();
const WorkForm& reliefForm();
/// A file of lights for the command line: {"width", "height", "lights": [...]}. @throws Problem (badInput)
LightTable tableFromText(const std::string& text, const std::string& where);

/// @param near  a depth map, 65535 nearest.
Relief reliefFrom(View<std::uint16_t> near, const GuidePlace& place, const std::string& name);

/// Covers of lights that were laid lately, so that a brush that goes on does not draw everything else anew. One thread
/// at a time.
class KeptCovers {
 public:
  /// @param relief  the piece itself: with another one all is drawn anew. @throws Cancelled
  std::shared_ptr<const Image<float>> of(const Light& light, Size frame, const std::shared_ptr<const Relief>& piece,
                                         const Relief* relief, StopToken stop);

 private:
  struct Entry {
    Light light;
    std::shared_ptr<const Image<float>> cover;
  };
  static constexpr std::size_t most = 16;
  std::vector<Entry> entries_;  ///< the latest last
  std::shared_ptr<const Relief> piece_;
  Size frame_;
};

/// Lays the table over a picture that has the table's frame's size. Lights lie over each other in their order; shadow
/// multiplies, light screens, colour is mixed in OKLab. Relighting is by Lambert's law, against the light's own share
/// on an even surface. @param relief  may be null. @throws Cancelled
/// @param covers  where given, covers are looked up there first; `piece` is what `relief` was made from.
void layLights(Lit& picture, const LightTable& table, const Relief* relief, StopToken stop = {},
               KeptCovers* covers = nullptr, const std::shared_ptr<const Relief>& piece = {});

/// How far each place is covered by a light, [0, 1], without its opacity. For straight gradients how far towards the
/// end it is. @throws Cancelled
Image<float> coverOf(const Light& light, Size frame, const Relief* relief, StopToken stop = {});
/// The same of one stroke, over what is painted already; only within its own bounds.
void paintStroke(MutableView<float> cover, const Stroke& stroke);

/// Light and colours of a time of day; the names are those of the almanac.
struct Hour {
  const char* name;
  const char* says;
  LightTable table;  ///< for a frame of 1 x 1
};
const std::vector<Hour>& hours();
/// The same for a frame: its places scaled; what was painted by hand in `before` stays on top.
LightTable atHour(const Hour& hour, const LightTable& before, const GuidePlace& place);

}  // namespace hscaffold::light
