// From pictures to what networks take in.
#include <fmt/format.h>

#include "core/guides/json_fields.h"
#include "core/image/atomic_file.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/networks/network.h"

namespace hscaffold::networks {
namespace {

constexpr int leastSide = 8, mostSide = 2048;

void readThree(JsonFields& fields, const char* key, const std::string& where, float (&into)[3]) {
  if (!fields.has(key)) return;
  const auto numbers = numbersFromJson(fields.child(key), where);
  if (numbers.empty() || numbers.size() > 3)
    throw badInput(fmt::format("{}: \"{}\" needs one or three numbers.", where, key));
  for (std::size_t i = 0; i < 3; ++i) into[i] = static_cast<float>(numbers[std::min(i, numbers.size() - 1)]);
}

}  // namespace

Tensor inputFrom(View<Rgb> picture, const InputForm& form) {
  const auto small = resampled(picture, form.size, Resampling::area);
  const bool light = form.channels == InputForm::Channels::light;
  const auto plane = static_cast<std::size_t>(form.size.width) * static_cast<std::size_t>(form.size.height);
  Tensor out{{1, light ? 1 : 3, form.size.height, form.size.width}, std::vector<float>((light ? 1 : 3) * plane)};
  const auto put = [&](std::size_t channel, std::size_t at, float value) {
    out.values[channel * plane + at] = (value - form.mean[channel]) / form.deviation[channel];
  };
  std::size_t at = 0;
  for (int y = 0; y < form.size.height; ++y)
    for (int x = 0; x < form.size.width; ++x, ++at) {
      const Rgb c = small(x, y);
      if (light) {
        put(0, at, linearToSrgb(luminance(c)));
        continue;
      }
      const bool turned = form.channels == InputForm::Channels::bgr;
      put(0, at, linearToSrgb(turned ? c.b : c.r));
      put(1, at, linearToSrgb(c.g));
      put(2, at, linearToSrgb(turned ? c.r : c.b));
    }
  return out;
}

std::string descriptionBeside(const std::filesystem::path& onnx) {
  auto beside = onnx;
  beside.replace_extension(".json");
  if (!std::filesystem::exists(beside))
    throw badInput(fmt::format("{} needs a description beside it, {}: see docs/networks.md.", onnx.filename().string(),
                               beside.filename().string()));
  return textOf(readWholeFile(beside));
}

InputForm inputFormFrom(JsonFields& fields, const std::string& where) {
  InputForm out;
  out.size = {static_cast<int>(fields.integer("width", leastSide, mostSide)),
              static_cast<int>(fields.integer("height", leastSide, mostSide))};
  const std::string channels = fields.text("channels", "rgb");
  if (channels == "bgr")
    out.channels = InputForm::Channels::bgr;
  else if (channels == "light")
    out.channels = InputForm::Channels::light;
  else if (channels != "rgb")
    throw badInput(where + ": \"channels\" is none of rgb, bgr and light.");
  readThree(fields, "mean", where, out.mean);
  readThree(fields, "deviation", where, out.deviation);
  for (const float d : out.deviation)
    if (!(d > 0)) throw badInput(where + ": \"deviation\" must be above nothing.");
  return out;
}

}  // namespace hscaffold::networks
