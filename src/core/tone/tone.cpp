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
      {"black", "Black from", "%", 0, 90, 0, 1, 0, {}, "Light up to here becomes black."},
      {"white", "White from", "%", 10, 100, 100, 1, 0, {}, "Light from here on becomes white."},
      {"contrast", "Contrast", "", 0.2, 3, 1, 0.05, 2, {}, "About middle grey."},
      {"brightness", "Brightness", "", -0.5, 0.5, 0, 0.01, 2, {}, "Lighter or darker as a whole."},
      {"blur",
       "Blur",
       "%",
       0,
       40,
       0,
       0.5,
       1,
       {},
       "As a mood: light and colours flow over all edges, and no layout is left."},
      {"colours",
       "Colours",
       "",
       0,
       1,
       0,
       1,
       0,
       {"none", "of the picture"},
       "Whether the picture's colours go along, smoothed as its light is."}};
  return fields;
}

ToneTuning toneTuningFrom(const Tuning& tuning) {
  const auto value = [&](const char* id) { return valueOf(toneTuningFields(), tuning, id); };
  return {value("scale"),    value("softness"),   value("black"), value("white"),
          value("contrast"), value("brightness"), value("blur"),  value("colours") != 0};
}

namespace {

/// Levels, contrast and brightness of graded light.
void grade(Image<float>& light, const ToneTuning& tuning) {
  const auto black = static_cast<float>(tuning.black / 100),
             range = static_cast<float>(std::max(0.01, (tuning.white - tuning.black) / 100));
  const auto contrast = static_cast<float>(tuning.contrast), brightness = static_cast<float>(tuning.brightness);
  for (int y = 0; y < light.height(); ++y)
    for (float& value : light.line(y))
      value = std::clamp(((value - black) / range - 0.5f) * contrast + 0.5f + brightness, 0.0f, 1.0f);
}

}  // namespace

light::Lit extractLit(View<Rgb> picture, const ToneTuning& tuning, StopToken stop) {
  if (picture.empty()) return {};
  const int radius =
      std::max(1, static_cast<int>(std::lround(tuning.scale / 100 * std::max(picture.width(), picture.height()))));
  const double amount = tuning.softness / 100 * 0.5;
  const auto softness = static_cast<float>(amount * amount);
  light::Lit out = tuning.colours ? light::litOf(picture) : light::Lit{encodedLightOf(picture), {}, {}};
  throwIfStopped(stop);
  if (tuning.colours)  // colour follows the edges of light
    for (Image<float>* channel : {&out.a, &out.b}) {
      *channel = guidedFilter(out.light, *channel, radius, softness);
      throwIfStopped(stop);
    }
  out.light = guidedSmooth(out.light, radius, softness);
  throwIfStopped(stop);
  if (tuning.blur > 0) {
    const auto sigma = static_cast<float>(tuning.blur / 100 * std::max(picture.width(), picture.height()));
    for (Image<float>* channel : {&out.light, &out.a, &out.b}) {
      if (!channel->empty()) *channel = broadBlur(channel->view(), sigma);
      throwIfStopped(stop);
    }
  }
  grade(out.light, tuning);
  return out;
}

Image<float> extractTone(View<Rgb> picture, const ToneTuning& tuning, StopToken stop) {
  ToneTuning grey = tuning;
  grey.colours = false;
  return extractLit(picture, grey, std::move(stop)).light;
}

}  // namespace hscaffold
