/// The built-in stand-in engine: no learned model, but it answers to recipes as one would. Three layers: layout (what
/// the steps decide, layout.h), value and colour plan (plan.h), painting (painting.h).
#pragma once

#include <atomic>

#include "core/engine/engine.h"
#include "core/engine/standin/composition.h"
#include "core/engine/standin/readings.h"

namespace hscaffold {
namespace standin {

/// From the pictures before.
struct Remembered {
  Places places;
  Readings readings;
};

}  // namespace standin

class StandinEngine final : public Engine {
 public:
  [[nodiscard]] EngineInfo info() const override;
  Image<Rgb8> generate(const EngineJob& job, const EngineSink& sink, StopToken stop) override;
  std::unique_ptr<Composed> compose(const EngineJob& job, Size whole, const EngineSink& sink, StopToken stop) override;
  [[nodiscard]] double estimate(const Recipe& recipe) const override;
  [[nodiscard]] std::vector<std::string> wordsLeft(const Brief& brief) const override;
  [[nodiscard]] std::vector<std::string> lookInWords(View<Rgb8> picture) const override;

 private:
  /// How much longer jobs took here than the cost model says.
  std::atomic<double> correction_{1.0};
  standin::Remembered remembered_;
};

/// The settled layout of a job, without colours and painting: for measuring what the steps did.
standin::Fields settledLayout(const EngineJob& job);

}  // namespace hscaffold
