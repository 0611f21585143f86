#include "core/job/pull.h"

#include <array>
#include <chrono>
#include <ctime>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/kinds.h"

namespace hscaffold {

std::string timeNow() {
  const std::time_t now = std::time(nullptr);
  std::tm parts{};
  gmtime_r(&now, &parts);
  std::array<char, 32> text{};
  return {text.data(), std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M:%SZ", &parts)};
}

ProofMeasures measuresOf(const EngineJob& job, const ShiftGround* reference, const ProofSeen& proof, StopToken stop) {
  // All at once, on both cores.
  const std::size_t guides = job.inputs.size();
  std::vector<std::optional<Holding>> holdings(guides);
  ProofMeasures measures;
  parallelItems(guides + 1, [&](std::size_t i) {
    if (i < guides)
      holdings[i] = holdingOf(kindOf(job.recipe.guides[i].guide.kind), job.inputs[i], proof, stop);
    else if (reference != nullptr)
      measures.shift = shiftBetween(*reference, proof, stop).total;
  });
  for (std::size_t i = 0; i < guides; ++i) {
    if (!holdings[i]) continue;
    const std::string& id = job.recipe.guides[i].guide.id;
    measures.holds[id] = holdings[i]->hold;
    if (!holdings[i]->means.empty()) measures.means[id] = holdings[i]->means;
  }
  return measures;
}

FinishedProof pullProof(Engine& engine, EngineJob job, const ShiftGround* reference, const EngineSink& sink,
                        StopToken stop) {
  FinishedProof proof;
  const auto start = std::chrono::steady_clock::now();
  proof.picture = engine.generate(job, sink, stop);
  proof.info.milliseconds = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  proof.info.made = timeNow();
  job.recipe.engine = engine.info().id;
  auto measures = measuresOf(job, reference, proof.picture, stop);
  proof.info.holds = std::move(measures.holds);
  proof.info.shift = measures.shift;
  proof.info.recipe = std::move(job.recipe);
  const Size small = scaledTo(proof.picture.size(), 256);
  proof.thumbnail = encodePng(toSrgb8(resampled(toLinear(proof.picture).view(), small, Resampling::area)).view());
  proof.png = encodePng(proof.picture.view(), textsFor(proof.info.recipe));
  return proof;
}

}  // namespace hscaffold
