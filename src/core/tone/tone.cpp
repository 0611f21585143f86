#include "core/tone/tone.h"

#include <cmath>

#include "core/image/encoded_light.h"
#include "core/image/filter.h"

namespace hscaffold {

const TuningFields& toneTuningFields() {
  static const TuningFields fields = {
      {"scale", "Smooth", "%", 0.2, 12, 3, 0.1, 1, {}, "Size of what is smoothed away, against the longer side."},
      {"softness",
       "Softness",
       "%",
       1,
       100,
       30,
       1,
       0,
       {},
       "Contrast of what is smoothed away: more leaves only big masses."},
      {"contrast", "Contrast", "", 0.2, 3, 1, 0.05, 2, {}, "About middle grey."},
      {"brightness", "Brightness", "", -0.5, 0.5, 0, 0.01, 2, {}, "Lighter or darker as a whole."}};
  return fields;
}

ToneTuning toneTuningFrom(const Tuning& tuning) {
  const auto value = [&](const char* id) { return valueOf(toneTuningFields(), tuning, id); };
  return {value("scale"), value("softness"), value("contrast"), value("brightness")};
}

Image<float> extractTone(View<Rgb> picture, const ToneTuning& tuning, StopToken stop) {
  if (picture.empty()) return {};
  const auto light = encodedLightOf(picture);
  throwIfStopped(stop);
  const int radius =
      std::max(1, static_cast<int>(std::lround(tuning.scale / 100 * std::max(picture.width(), picture.height()))));
  const double amount = tuning.softness / 100 * 0.5;
  auto out = guidedSmooth(light, radius, static_cast<float>(amount * amount));
  throwIfStopped(stop);
  for (int y = 0; y < out.height(); ++y)
    for (float& value : out.line(y))
      value = std::clamp(
          (value - 0.5f) * static_cast<float>(tuning.contrast) + 0.5f + static_cast<float>(tuning.brightness), 0.0f,
          1.0f);
  return out;
}

}  // namespace hscaffold
