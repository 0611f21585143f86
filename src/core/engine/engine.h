/// What makes pictures: the built-in stand-in, a program, or a service.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <vector>

#include "core/brief/recipe.h"
#include "core/guides/kind.h"
#include "core/image/image.h"
#include "core/image/part.h"
#include "core/limits.h"
#include "core/problem.h"

namespace hscaffold {

/// Words that an engine is known to act on, for help while a prompt is written.
struct EngineWords {
  std::map<std::string, std::vector<std::string>> groups;  ///< "season": "spring", ...
  std::set<std::string, std::less<>> all;                  ///< in small letters, in all their forms
  std::set<std::string, std::less<>> manner;  ///< of these, what says how a picture is made, not what is in it
};

/// What an engine understands besides words, seed and size.
struct Understood {
  bool ranges = true;  ///< that a guide acts in some of the steps only
  bool ramps = true;   ///< that it acts more or less there, by ramps or a free shape
  bool regions = true;
  bool startPictures = true;
  bool wordsToWords = true;
  bool avoid = true;
  bool emphasis = true;
  bool touchUps = false;
  bool colours = false;  ///< wanted ones
};

/// How an engine wants its maps; see `asWanted`.
struct MapsWanted {
  bool darkLines = false;  ///< dark on white, not white on black
  bool nearIsDark = false;
  bool eightBits = false;                          ///< for maps of half tones, too
  bool atFrame = false;                            ///< of the picture's own size, where a proof is pulled small, too
  std::map<std::string, std::string> called = {};  ///< what it calls kinds of guides, by id; the others by their id
  std::string inks = {};                           ///< of poses: JSON after docs/inks.schema.json; empty: the guide's
  friend bool operator==(const MapsWanted&, const MapsWanted&) = default;
};

/// Models that belong together: what is made for one family does not fit another.
struct EngineFamily {
  std::string name;
  std::vector<std::string> kinds = {};  ///< of guides that it answers to, by id; empty: all that the engine does
  friend bool operator==(const EngineFamily&, const EngineFamily&) = default;
};

/// What is known of an engine, as data: all that checks, chips, the span board, style cards and help ask.
struct EngineInfo {
  std::string name;             ///< by which a study keeps it: "stand-in"
  std::string id;               ///< goes into recipes: name and version
  std::string title;            ///< for people
  std::string note;             ///< what should be known about it
  bool missing = false;         ///< a study asks for it, and it is not to be had here; then only its name is known
  int sizeStep = 8;             ///< both sides of a frame are multiples of this
  std::int64_t mostPixels = 0;  ///< 0: any
  /// A larger picture is made in parts of no more pixels. 0: as many as it makes at all.
  std::int64_t partPixels = 0;
  int favourite = 512;                      ///< on the longer side, in pixels: a picture of this size suits it best
  std::vector<std::string> kinds = {};      ///< of guides that it answers to, by id
  std::vector<EngineFamily> families = {};  ///< the first is taken where nobody asks for one; empty: it knows none
  Limits steps = limits::steps, guidance = limits::guidance;
  Understood understands = {};
  MapsWanted maps = {};
  std::shared_ptr<const EngineWords> words = {};  ///< null if it does not say
  int lanes = 1;                                  ///< jobs that it is given at the same time
  bool elsewhere = false;    ///< another machine or program computes: waiting for it takes no computing thread
  bool oneScale = false;     ///< a small proof is the large one seen small: it composes alike at every size
  bool samples = false;      ///< small samples may be asked of it while the artist only looks
  bool composes = false;     ///< decides a picture of any size at once and paints it in parts (see `Engine::compose`)
  std::string trouble = {};  ///< what was wrong when it was last heard of, in a sentence; empty: nothing
};
/// Whether it has models of a family; any engine has some of no family in particular.
bool serves(const EngineInfo& info, const std::string& family);
/// Kinds of guides that it answers to in a family.
const std::vector<std::string>& kindsIn(const EngineInfo& info, const std::string& family);

struct EngineProgress {
  int step = 0, steps = 0;
  /// Makes the picture as it is now, frame size or smaller with its ratio; to be called within the sink only. Empty
  /// where there is none: not at every step.
  std::function<Image<Rgb8>()> preview;
};
/// Called from the thread that generates, in order of steps.
using EngineSink = std::function<void(EngineProgress)>;

/// One proof to be made. `inputs[i]` belongs to `recipe.guides[i]`; all its images have `recipe.mapsSize()`.
struct EngineJob {
  Recipe recipe;
  std::vector<GuideInput> inputs;
  Image<Rgb> start;  ///< the brief's start picture as it lies in the frame, linear, [0, 1]; empty if it has none
};

/// A picture that is decided as a whole and painted part by part: parts that overlap agree.
class Composed {
 public:
  virtual ~Composed() = default;
  /// What it wants to see of the start picture when this part is painted: the part with what is round it.
  [[nodiscard]] virtual Box seenFor(const Box& part) const = 0;
  /// @param start  the start picture there, linear; empty if the job has none. @throws Cancelled, Problem
  virtual Image<Rgb8> paint(const Box& part, View<Rgb> start, StopToken stop) = 0;
};

class Engine {
 public:
  virtual ~Engine() = default;
  [[nodiscard]] virtual EngineInfo info() const = 0;
  /// @throws Cancelled within one step of a stop request; Problem
  virtual Image<Rgb8> generate(const EngineJob& job, const EngineSink& sink, StopToken stop) = 0;
  /// Decides a picture that will be of another size than the job's, of the same ratio. Null for engines that cannot:
  /// then each part is a job of its own. @throws Cancelled, Problem
  virtual std::unique_ptr<Composed> compose(const EngineJob&, Size, const EngineSink&, StopToken) { return {}; }
  /// Milliseconds that this job will about take, from a cost model corrected by what was measured here.
  [[nodiscard]] virtual double estimate(const Recipe& recipe) const = 0;
  /// Words of a brief whose colour it understands and cannot put anywhere: it leaves them as they are.
  [[nodiscard]] virtual std::vector<std::string> wordsLeft(const Brief&) const { return {}; }
  /// A picture's look in words that it acts on; none if it does not know such words.
  [[nodiscard]] virtual std::vector<std::string> lookInWords(View<Rgb8>) const { return {}; }
};

/// Guides as the engine takes them: without what it does not understand of their ranges, off where it does not know
/// their kind. One that is missing changes nothing.
std::vector<Guide> asUnderstood(std::span<const Guide> guides, const EngineInfo& info, const std::string& family = {});

/// @throws Problem (badInput) if maps and recipe do not fit each other or the engine's limits.
void checkJob(const EngineJob& job, const EngineInfo& info);

}  // namespace hscaffold
