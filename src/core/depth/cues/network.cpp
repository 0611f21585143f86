#include <algorithm>
#include <cmath>

#include "core/depth/cues/cue.h"
#include "core/image/atomic_file.h"
#include "core/networks/models.h"
#include "core/networks/network.h"

namespace hscaffold::depth {
namespace {

constexpr const char* model = "depth.onnx";
constexpr Size seenSize{160, 128};  ///< as in training: larger pictures are guessed worse

}  // namespace

Cue networkCue(const Seen& seen) {
  const std::size_t count = seen.x.size();
  Cue out{std::vector<float>(count), std::vector<float>(count)};
  const auto path = networks::modelNamed(model);
  if (count == 0 || path.empty()) return out;
  networks::Tensor answer, mirrored;
  try {
    networks::Network network(readWholeFile(path), model);
    networks::InputForm form;
    form.size = seenSize;
    answer = network.run(networks::inputFrom(seen.picture, form)).front();
    auto turned = seen.picture.clone();
    for (int y = 0; y < turned.height(); ++y) std::reverse(turned.row(y), turned.row(y) + turned.width());
    mirrored = network.run(networks::inputFrom(turned, form)).front();
  } catch (const Problem&) {
    // A damaged network is as good as none: the other cues go on.
    return out;
  }
  const auto dims = answer.shape.size();
  if (dims != 4 || answer.shape[1] != 1 || mirrored.shape != answer.shape) return out;
  const int width = answer.shape[3], height = answer.shape[2];
  // Where ground is told plainly, its slope is known better than any guess.
  const auto ground = groundCue(seen).sure;
  for (std::size_t i = 0; i < count; ++i) {
    const int x = std::clamp(static_cast<int>(seen.x[i] * static_cast<float>(width)), 0, width - 1),
              y = std::clamp(static_cast<int>(seen.y[i] * static_cast<float>(height)), 0, height - 1);
    // The mean with the mirror image errs less than either.
    const float near = 0.5f * (answer.values[static_cast<std::size_t>(y * width + x)] +
                               mirrored.values[static_cast<std::size_t>(y * width + width - 1 - x)]);
    // It answers with the root, which is easier to learn; all else here is linear in 1 / distance.
    const float root = std::isfinite(near) ? std::clamp(near, 0.0f, 1.0f) : 0.0f;
    out.near[i] = root * root;
    out.sure[i] = std::isfinite(near) ? 1 - 0.9f * ground[i] : 0.0f;
  }
  return out;
}

}  // namespace hscaffold::depth
