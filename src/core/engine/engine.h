/// What makes pictures: the built-in stand-in, or later a service.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/brief/recipe.h"
#include "core/guides/kind.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

struct EngineInfo {
  std::string id;    ///< goes into recipes: name and version
  std::string name;  ///< for people
  std::string note;  ///< what should be known about it
  int sizeStep = 8;  ///< both sides of a frame are multiples of this
  std::int64_t mostPixels = 0;
  std::vector<std::string> kinds = {};  ///< of guides that it answers to, by id
};

struct EngineProgress {
  int step = 0, steps = 0;
  /// Makes the picture as it is now, frame size or smaller with its ratio; to be called within the sink only. Empty where
  /// there is none: not at every step.
  std::function<Image<Rgb8>()> preview;
};
/// Called from the thread that generates, in order of steps.
using EngineSink = std::function<void(EngineProgress)>;

/// One proof to be made. `inputs[i]` belongs to `recipe.guides[i]`; all its images have frame size.
struct EngineJob {
  Recipe recipe;
  std::vector<GuideInput> inputs;
  Image<Rgb> start;  ///< the brief's start picture as it lies in the frame, linear, [0, 1]; empty if it has none
};

class Engine {
 public:
  virtual ~Engine() = default;
  [[nodiscard]] virtual EngineInfo info() const = 0;
  /// @throws Cancelled within one step of a stop request; Problem
  virtual Image<Rgb8> generate(const EngineJob& job, const EngineSink& sink, StopToken stop) = 0;
  /// Milliseconds that this job will about take, from a cost model corrected by what was measured here.
  [[nodiscard]] virtual double estimate(const Recipe& recipe) const = 0;
};

/// @throws Problem (badInput) if maps and recipe do not fit each other or the engine's limits.
void checkJob(const EngineJob& job, const EngineInfo& info);

}  // namespace hscaffold
