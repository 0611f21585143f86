#include "core/depth/estimate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>

#include "core/depth/cues/cue.h"
#include "core/guides/json_fields.h"
#include "core/image/atomic_file.h"
#include "core/image/resample.h"
#include "core/networks/network.h"

namespace hscaffold::depth {
namespace {

std::string written(const Estimate& estimate) { return nearnessToText(estimate); }
Estimate readEstimate(const std::string& text) { return nearnessFromText(text, "An estimate of depth in the study"); }
Estimate inFrame(const Estimate& estimate, Size frame, const std::optional<Affine>& placing) {
  return following(estimate, frame, placing);
}

/// What an artist's network answers with.
struct Answer {
  networks::InputForm input;
  bool distance = false;  ///< large is far
};

Answer answerFrom(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  Answer out;
  out.input = networks::inputFormFrom(fields, where);
  const std::string means = fields.text("means");
  if (means != "nearness" && means != "distance")
    throw badInput(where + ": \"means\" is neither nearness (large is near) nor distance (large is far).");
  out.distance = means == "distance";
  return out;
}

/// The one plane of an answer. @throws Problem (badInput)
Image<float> planeOf(const networks::Tensor& tensor, const std::string& name) {
  const std::size_t dims = tensor.shape.size();
  int others = 1;
  for (std::size_t d = 0; d + 2 < dims; ++d) others *= tensor.shape[d];
  if (dims < 2 || others != 1 || tensor.shape[dims - 1] < 2 || tensor.shape[dims - 2] < 2)
    throw badInput(
        fmt::format("{} does not answer with one plane of numbers but with {}.", name, fmt::join(tensor.shape, " x ")));
  Image<float> out(tensor.shape[dims - 1], tensor.shape[dims - 2]);
  std::size_t at = 0;
  for (int y = 0; y < out.height(); ++y)
    for (float& v : out.line(y)) v = tensor.values[at++];
  return out;
}

/// To [0, 1], from the hundredth to the hundredth but one: scale and offset of such answers mean nothing.
void normalise(Image<float>& near, const std::string& name) {
  std::vector<float> sorted;
  for (int y = 0; y < near.height(); ++y)
    for (const float v : near.line(y))
      if (std::isfinite(v)) sorted.push_back(v);
  if (sorted.empty()) throw badInput(name + " answers with nothing that is a number.");
  std::sort(sorted.begin(), sorted.end());
  const float low = sorted[sorted.size() / 100], high = sorted[sorted.size() - 1 - sorted.size() / 100];
  for (int y = 0; y < near.height(); ++y)
    for (float& v : near.line(y))
      v = !std::isfinite(v) ? -1.0f : high > low ? std::clamp((v - low) / (high - low), 0.0f, 1.0f) : 0.5f;
}

}  // namespace

const WorkForm& estimateForm() {
  static const WorkForm form = workForm<Estimate>("estimate", "An estimate of depth", written, readEstimate, inFrame);
  return form;
}

Cue estimateCue(const Estimate& estimate, const Seen& seen) {
  Cue out;
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    const float value = nearAt(estimate.near, static_cast<double>(seen.x[i]) * estimate.near.width(),
                               static_cast<double>(seen.y[i]) * estimate.near.height());
    out.near.push_back(std::max(value, 0.0f));
    out.sure.push_back(value < 0 ? 0.0f : 1.0f);
  }
  return out;
}

Estimator::Estimator(const std::filesystem::path& onnx) : onnx_(onnx), name_(onnx.stem().string()) {}

Estimate Estimator::estimate(View<Rgb> picture, const std::optional<Affine>& placing, StopToken stop) const {
  const std::string file = onnx_.filename().string();
  const auto answer = answerFrom(networks::descriptionBeside(onnx_), file + "'s description");
  networks::Network network(readWholeFile(onnx_), file);
  throwIfStopped(stop);
  const auto made = network.run(networks::inputFrom(picture, answer.input), stop);
  throwIfStopped(stop);
  auto near = planeOf(made.front(), file);
  if (answer.distance)
    for (int y = 0; y < near.height(); ++y)
      for (float& v : near.line(y)) v = v > 0 ? 1 / v : std::numeric_limits<float>::quiet_NaN();
  normalise(near, file);
  near = nearAtSize(near, within(near.size(), Nearness::mostSide));
  return {picture.size(), placing, name_, std::move(near)};
}

}  // namespace hscaffold::depth
