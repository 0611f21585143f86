#include "core/engine/standin/bands.h"

#include <algorithm>
#include <cmath>

#include "core/detail/detail.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/obedience.h"
#include "core/image/encoded_light.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

template <typename At>
void overRows(Image<float>& out, At&& at) {
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) out(x, y) = at(x, y);
  });
}

/// The sum of a picture's bands, up to the one of this number, each times its weight; empty where it is nothing.
Image<float> weighted(Image<float> picture, const std::vector<float>& weights, std::size_t band) {
  const auto nothingUpTo = [&](std::size_t last) {
    return std::all_of(weights.begin(), weights.begin() + static_cast<std::ptrdiff_t>(last) + 1,
                       [](float weight) { return weight <= 0; });
  };
  if (nothingUpTo(band)) return {};
  const float weight = weights[band];
  if (band == 0) {
    overRows(picture, [&](int x, int y) { return weight * picture(x, y); });
    return picture;
  }
  auto low = halved(picture.view());
  const auto below = enlarged(low.view(), picture.size());
  overRows(picture, [&](int x, int y) { return weight * (picture(x, y) - below(x, y)); });
  if (nothingUpTo(band - 1)) return picture;
  const auto coarser = enlarged(weighted(std::move(low), weights, band - 1).view(), picture.size());
  overRows(picture, [&](int x, int y) { return picture(x, y) + coarser(x, y); });
  return picture;
}

void keepBands(Channels& channels, const Channels& other, const Fresh& fresh) {
  for (std::size_t channel = 0; channel < 3; ++channel) {
    // Bands that stay are those of the other picture: only what is made anew is taken apart.
    const Image<float>& start = other[channel];
    Image<float>& made = channels[channel];
    overRows(made, [&](int x, int y) { return made(x, y) - start(x, y); });
    const auto by = weighted(std::move(made), fresh[channel], fresh[channel].size() - 1);
    made = start.clone();
    if (!by.empty()) overRows(made, [&](int x, int y) { return start(x, y) + by(x, y); });
  }
}

/// A part of a map seen at the size of a part of a picture.
template <typename T>
Image<T> partShown(const Image<T>& map, Size whole, const Box& part) {
  Image<T> out(part.size());
  const double across = static_cast<double>(map.width()) / whole.width,
               down = static_cast<double>(map.height()) / whole.height;
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x)
        out(x, y) = sampleLinear(map.view(), static_cast<float>((part.left + x + 0.5) * across),
                                 static_cast<float>((part.top + y + 0.5) * down));
  });
  return out;
}

}  // namespace

Channels channelsOf(View<Rgb> picture) {
  Channels out{Image<float>(picture.size()), Image<float>(picture.size()), Image<float>(picture.size())};
  parallelRows(picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < picture.width(); ++x) {
        const OkLab c = linearToOkLab(picture(x, y));
        out[0](x, y) = c.l;
        out[1](x, y) = c.a;
        out[2](x, y) = c.b;
      }
  });
  return out;
}

void putBands(Plan& plan, const Channels& other, const Fresh& fresh) {
  Channels channels;
  for (auto& channel : channels) channel = Image<float>(plan.colour.size());
  parallelRows(plan.colour.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < plan.colour.width(); ++x) {
        const OkLab c = plan.colour(x, y);
        channels[0](x, y) = c.l;
        channels[1](x, y) = c.a;
        channels[2](x, y) = c.b;
      }
  });
  keepBands(channels, other, fresh);
  parallelRows(plan.colour.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < plan.colour.width(); ++x)
        plan.colour(x, y) = {std::clamp(channels[0](x, y), 0.0f, 1.0f), channels[1](x, y), channels[2](x, y)};
  });
}

Image<Rgb> withBands(View<Rgb> made, const Channels& other, const Fresh& fresh) {
  auto channels = channelsOf(made);
  keepBands(channels, other, fresh);
  Image<Rgb> out(made.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x)
        out(x, y) =
            okLabToLinearInGamut({std::clamp(channels[0](x, y), 0.0f, 1.0f), channels[1](x, y), channels[2](x, y)});
  });
  return out;
}

DetailBands::DetailBands(std::span<const RecipeGuide> guides, std::span<const GuideInput> inputs, double guidance,
                         int steps, Size whole, const Box& part) {
  for (std::size_t g = 0; g < guides.size(); ++g) {
    const Guide& guide = guides[g].guide;
    if (guide.kind != "detail" || guide.weight <= 0) continue;
    const GuideInput& input = inputs[g];
    const bool coloured = !input.colour.empty();
    Shown shown;
    shown.picture = channelsOf(partShown(coloured ? toLinear(input.colour) : greysOf(input.map), whole, part));
    // Bands are those of the whole picture; a part has fewer, and its coarsest stands for all that are coarser.
    const LoadCurve loads(guide, guidance, steps);
    const auto kept = detail::keptBands(whole, detail::detailTuningFrom(guide.tuning));
    const std::size_t count = kept.size();
    std::vector<float> fresh(count);
    std::size_t first = count, last = 0;
    for (std::size_t b = 0; b < count; ++b)
      if (kept[b] >= 0.4f) first = std::min(first, b), last = b;
    for (std::size_t b = 0; b < count; ++b) {
      if (kept[b] <= 0) {
        fresh[b] = 1;
        continue;
      }
      // The coarser of what is kept asks for less.
      const double rank =
          last > first
              ? std::clamp((static_cast<double>(b) - static_cast<double>(first)) / static_cast<double>(last - first),
                           0.0, 1.0)
              : 0.5;
      const double time = count > 1 ? static_cast<double>(b) / static_cast<double>(count - 1) : 0;
      constexpr float least = 0.1f, range = 0.8f, soft = 0.2f;
      const float asks = least + range * static_cast<float>(rank);
      const float obeys = smoothStep(asks - soft, asks + soft, static_cast<float>(loads.atOrAfter(settlingTime(time))));
      // Half of a band is seen as nearly all of it.
      fresh[b] = 1 - kept[b] * std::pow(obeys, 1.5f);
    }
    const std::size_t here = detail::bandsIn(part.size());
    if (here < count) fresh.erase(fresh.begin(), fresh.begin() + static_cast<std::ptrdiff_t>(count - here));
    shown.fresh[0] = fresh;
    // Grey says nothing of colour.
    shown.fresh[1] = shown.fresh[2] = coloured ? fresh : std::vector<float>(fresh.size(), 1.0f);
    if (!input.region.empty()) shown.where = partShown(widened(input.region.view()), whole, part);
    shown_.push_back(std::move(shown));
  }
}

void DetailBands::putInto(Plan& plan) const {
  for (const Shown& shown : shown_) {
    auto before = shown.where.empty() ? Image<OkLab>() : plan.colour.clone();
    putBands(plan, shown.picture, shown.fresh);
    for (int y = 0; y < before.height(); ++y)
      for (int x = 0; x < before.width(); ++x) {
        const float t = shown.where(x, y);
        const OkLab was = before(x, y);
        OkLab& now = plan.colour(x, y);
        now = {blend(was.l, now.l, t), blend(was.a, now.a, t), blend(was.b, now.b, t)};
      }
  }
}

Image<Rgb> DetailBands::putInto(Image<Rgb> made) const {
  for (const Shown& shown : shown_) {
    auto now = withBands(made.view(), shown.picture, shown.fresh);
    for (int y = 0; y < shown.where.height(); ++y)
      for (int x = 0; x < shown.where.width(); ++x) {
        const float t = shown.where(x, y);
        const Rgb was = made(x, y);
        Rgb& is = now(x, y);
        is = {blend(was.r, is.r, t), blend(was.g, is.g, t), blend(was.b, is.b, t)};
      }
    made = std::move(now);
  }
  return made;
}

}  // namespace hscaffold::standin
