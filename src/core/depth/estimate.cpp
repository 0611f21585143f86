#include "core/depth/estimate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>

#include "core/depth/cues/cue.h"
#include "core/guides/affine_json.h"
#include "core/guides/json_fields.h"
#include "core/image/atomic_file.h"
#include "core/image/resample.h"
#include "core/networks/network.h"

namespace hscaffold::depth {
namespace {

constexpr int mostSide = 256;    ///< what is kept: guesses are smooth, and the picture's edges come back in the lift
constexpr double grades = 4094;  ///< in files; even, so that the middle comes back as it was
constexpr int mostSideInFiles = 1024;

/// What is not known anywhere near is below 0.
float valueAt(View<float> near, double x, double y) {
  if (x < 0 || y < 0 || x > near.width() || y > near.height()) return -1;
  const double sx = std::clamp(x - 0.5, 0.0, near.width() - 1.0), sy = std::clamp(y - 0.5, 0.0, near.height() - 1.0);
  const int x0 = static_cast<int>(sx), y0 = static_cast<int>(sy);
  const int x1 = std::min(x0 + 1, near.width() - 1), y1 = std::min(y0 + 1, near.height() - 1);
  const auto fx = static_cast<float>(sx - x0), fy = static_cast<float>(sy - y0);
  const float a = near(x0, y0), b = near(x1, y0), c = near(x0, y1), d = near(x1, y1);
  if (std::min({a, b, c, d}) < 0) return -1;
  return (a * (1 - fx) + b * fx) * (1 - fy) + (c * (1 - fx) + d * fx) * fy;
}

Image<float> sampled(View<float> near, Size size) {
  Image<float> out(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      out(x, y) = valueAt(near, (x + 0.5) * near.width() / size.width, (y + 0.5) * near.height() / size.height);
  return out;
}

std::string written(const Estimate& estimate) {
  nlohmann::json values = nlohmann::json::array();
  for (int y = 0; y < estimate.near.height(); ++y)
    for (const float v : estimate.near.line(y)) values.push_back(v < 0 ? -1 : std::lround(v * grades));
  return nlohmann::json{{"width", estimate.frame.width},
                        {"height", estimate.frame.height},
                        {"placing", affineToJson(estimate.placing)},
                        {"by", estimate.by},
                        {"across", estimate.near.width()},
                        {"down", estimate.near.height()},
                        {"near", std::move(values)}}
      .dump();
}

Estimate readEstimate(const std::string& text) {
  const std::string where = "An estimate of depth in the study";
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  Estimate out;
  out.frame = workFrameFrom(fields);
  if (fields.has("placing")) out.placing = affineFromJson(fields.child("placing"), where);
  out.by = fields.text("by", "");
  const auto across = static_cast<int>(fields.integer("across", 1, mostSideInFiles));
  const auto down = static_cast<int>(fields.integer("down", 1, mostSideInFiles));
  out.near = Image<float>(across, down);
  const auto values =
      numbersFromJson(fields.child("near"), where, static_cast<std::size_t>(across) * static_cast<std::size_t>(down));
  std::size_t at = 0;
  for (int y = 0; y < down; ++y)
    for (float& v : out.near.line(y)) {
      const double value = values[at++];
      v = value < 0 ? -1.0f : static_cast<float>(std::min(value / grades, 1.0));
    }
  return out;
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

Estimate following(const Estimate& estimate, Size frame, const std::optional<Affine>& placing) {
  Estimate out{frame, placing, estimate.by, {}};
  const Affine back = thenFromNow(estimate.frame, estimate.placing, frame, placing);
  if (frame == estimate.frame && isIdentity(back)) {
    out.near = estimate.near.clone();
    return out;
  }
  out.near = Image<float>(within(frame, mostSide));
  const double toFrame = static_cast<double>(frame.width) / out.near.width(),
               across = static_cast<double>(estimate.near.width()) / estimate.frame.width,
               down = static_cast<double>(estimate.near.height()) / estimate.frame.height;
  for (int y = 0; y < out.near.height(); ++y)
    for (int x = 0; x < out.near.width(); ++x) {
      const double fx = (x + 0.5) * toFrame, fy = (y + 0.5) * frame.height / out.near.height();
      out.near(x, y) = valueAt(estimate.near, back.mapX(fx, fy) * across, back.mapY(fx, fy) * down);
    }
  return out;
}

const WorkForm& estimateForm() {
  static const WorkForm form = workForm<Estimate>("estimate", "An estimate of depth", written, readEstimate, following);
  return form;
}

Cue estimateCue(const Estimate& estimate, const Seen& seen) {
  Cue out;
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    const float value = valueAt(estimate.near, static_cast<double>(seen.x[i]) * estimate.near.width(),
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
  const auto made = network.run(networks::inputFrom(picture, answer.input));
  throwIfStopped(stop);
  auto near = planeOf(made.front(), file);
  if (answer.distance)
    for (int y = 0; y < near.height(); ++y)
      for (float& v : near.line(y)) v = v > 0 ? 1 / v : std::numeric_limits<float>::quiet_NaN();
  normalise(near, file);
  const Size kept = within(near.size(), mostSide);
  if (kept != near.size()) near = sampled(near, kept);
  // As it will be read back from a study.
  for (int y = 0; y < near.height(); ++y)
    for (float& v : near.line(y)) v = v < 0 ? v : static_cast<float>(std::round(v * grades) / grades);
  return {picture.size(), placing, name_, std::move(near)};
}

}  // namespace hscaffold::depth
