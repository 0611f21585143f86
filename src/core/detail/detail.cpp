#include "core/detail/detail.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/image/eased.h"
#include "core/image/encoded_light.h"
#include "core/image/filter.h"

namespace hscaffold::detail {
namespace {

constexpr double octaves = 9.4;  // from the finest scale to the whole picture

/// Each band times its weight, about `middle` if what remains does not stay.
Image<float> weighted(View<float> channel, const std::vector<float>& kept, double gain, float middle) {
  auto pyramid = laplacianPyramid(channel);
  for (std::size_t b = 0; b < pyramid.bands.size(); ++b) {
    const float weight = b == 0 ? kept[0] : kept[b] * static_cast<float>(gain);
    const float rest = b == 0 ? middle * (1 - kept[0]) : 0;
    for (int y = 0; y < pyramid.bands[b].height(); ++y)
      for (float& v : pyramid.bands[b].line(y)) v = rest + weight * v;
  }
  return collapsed(pyramid);
}

}  // namespace

const TuningFields& detailTuningFields() {
  static const TuningFields fields = {
      {"finest", "Finest", "%", 0, 20, 0, 0.05, 2, {}, "What is finer than this, against the longer side, goes."},
      {"coarsest",
       "Coarsest",
       "%",
       0.3,
       100,
       100,
       0.1,
       1,
       {},
       "What is coarser than this goes; at 100 nothing does, and light and masses stay."},
      {"gain", "Strength", "", 0.2, 3, 1, 0.05, 2, {}, "Of the detail that is kept."},
      {"colours", "Colours", "", 0, 1, 1, 1, 0, {"grey", "of the picture"}, "Whether colours belong to it."}};
  return fields;
}

DetailTuning detailTuningFrom(const Tuning& tuning) {
  const auto value = [&](const char* id) { return valueOf(detailTuningFields(), tuning, id); };
  return {value("finest"), value("coarsest"), value("gain"), value("colours") != 0};
}

double placeOf(double percent) {
  return percent <= finestScale ? 0 : std::clamp(std::log2(percent / finestScale) / octaves, 0.0, 1.0);
}

double percentAt(double place) {
  if (place <= 0) return 0;
  return place >= 1 ? 100 : std::min(100.0, finestScale * std::exp2(place * octaves));
}

std::size_t bandsIn(Size size) {
  constexpr int smallest = 4;
  std::size_t count = 1;
  for (int side = std::min(size.width, size.height); side >= 2 * smallest; side = (side + 1) / 2) ++count;
  return count;
}

double scaleOfBand(std::size_t band, std::size_t bands, Size size) {
  // A band of differences at full size holds what is about two pixels large, the next coarser one four.
  const double pixels = std::exp2(static_cast<double>(bands - band));
  return 100 * pixels / std::max(size.width, size.height);
}

std::vector<float> keptBands(Size size, const DetailTuning& tuning) {
  const std::size_t count = bandsIn(size);
  std::vector<float> kept(count);
  constexpr double soft = 0.5;  // octaves to either side
  for (std::size_t b = 0; b < count; ++b) {
    const double scale = std::log2(scaleOfBand(b, count, size));
    const float fine = tuning.finest <= 0 ? 1 : easedStep(-soft, soft, scale - std::log2(tuning.finest));
    const float coarse = tuning.coarsest >= 100 ? 1
                         : b == 0               ? 0
                                                : easedStep(soft, -soft, scale - std::log2(tuning.coarsest));
    kept[b] = std::min(fine, coarse);
  }
  return kept;
}

light::Lit extractDetail(View<Rgb> picture, const DetailTuning& tuning, StopToken stop) {
  light::Lit lit = tuning.colours ? light::litOf(picture) : light::Lit{encodedLightOf(picture), {}, {}};
  if (lit.light.empty()) return lit;
  throwIfStopped(stop);
  const auto kept = keptBands(picture.size(), tuning);
  constexpr float grey = 0.5f;
  lit.light = weighted(lit.light, kept, tuning.gain, grey);
  for (int y = 0; y < lit.light.height(); ++y)
    for (float& v : lit.light.line(y)) v = std::clamp(v, 0.0f, 1.0f);
  throwIfStopped(stop);
  if (!tuning.colours) return lit;
  for (Image<float>* channel : {&lit.a, &lit.b}) {
    *channel = weighted(*channel, kept, tuning.gain, 0);
    throwIfStopped(stop);
  }
  return lit;
}

Image<float> keptOf(View<float> light, const DetailTuning& tuning) {
  constexpr float grey = 0.5f;
  return weighted(light, keptBands(light.size(), tuning), 1, grey);
}

std::vector<std::uint32_t> heldByScale(View<float> light, std::size_t count) {
  const auto pyramid = laplacianPyramid(light);
  const std::size_t bands = pyramid.bands.size();
  // Between the middles of bands it goes evenly from one to the other.
  std::vector<std::pair<double, double>> held;
  for (std::size_t b = bands; b-- > 0;) {
    double sum = 0, mean = 0;
    const auto& band = pyramid.bands[b];
    if (b == 0) {
      for (int y = 0; y < band.height(); ++y)
        for (const float v : band.line(y)) mean += static_cast<double>(v);
      mean /= static_cast<double>(band.size().area());
    }
    for (int y = 0; y < band.height(); ++y)
      for (const float v : band.line(y)) sum += std::pow(static_cast<double>(v) - mean, 2);
    held.emplace_back(placeOf(scaleOfBand(b, bands, light.size())),
                      std::sqrt(sum / static_cast<double>(band.size().area())));
  }
  std::vector<std::uint32_t> out(count);
  for (std::size_t i = 0; i < count; ++i) {
    const double place = (static_cast<double>(i) + 0.5) / static_cast<double>(count);
    const auto after = std::find_if(held.begin(), held.end(), [&](const auto& each) { return each.first >= place; });
    double value = 0;
    if (after == held.end())
      value = held.back().second;
    else if (after == held.begin())
      value = place < held.front().first - 1 / octaves ? 0 : held.front().second;
    else {
      const auto before = after - 1;
      const double t = (place - before->first) / std::max(1e-9, after->first - before->first);
      value = before->second + t * (after->second - before->second);
    }
    out[i] = static_cast<std::uint32_t>(std::lround(1e5 * value));
  }
  return out;
}

}  // namespace hscaffold::detail
