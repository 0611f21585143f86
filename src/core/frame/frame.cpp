#include "core/frame/frame.h"

#include <cmath>
#include <functional>
#include <numeric>

namespace hscaffold {
namespace {

constexpr double keptWithin = 0.01;

int stepped(double side, int step) {
  const int low = (smallestSide + step - 1) / step * step;
  const int high = largestSide / step * step;
  return std::clamp(static_cast<int>(std::lround(side / step)) * step, low, high);
}

/// Looks at every width on the step near the wish, with its best height.
std::vector<SizeOffer> offers(double ratio, double wishedWidth, int step, int count,
                              const std::function<double(Size)>& distance) {
  std::vector<SizeOffer> found;
  const int around = stepped(wishedWidth, step);
  const int reach = std::max(8 * step, around / 5);
  for (int width = around - reach / step * step; width <= around + reach; width += step) {
    if (width < smallestSide || width > largestSide) continue;
    const int height = stepped(width / ratio, step);
    const SizeOffer offer{{width, height}, std::abs(width / (ratio * height) - 1)};
    found.push_back(offer);
  }
  const auto cost = [&](const SizeOffer& offer) {
    return distance(offer.size) + (offer.ratioError > keptWithin ? 10 + offer.ratioError : 0);
  };
  std::stable_sort(found.begin(), found.end(),
                   [&](const SizeOffer& a, const SizeOffer& b) { return cost(a) < cost(b); });
  // Sizes that keep the ratio are enough; the others come only where there is nothing better.
  const auto good = static_cast<std::size_t>(
      std::count_if(found.begin(), found.end(), [](const SizeOffer& offer) { return offer.ratioError <= keptWithin; }));
  const std::size_t keep = good > 0 ? good : std::size_t{1};
  found.resize(std::min({found.size(), keep, static_cast<std::size_t>(count)}));
  return found;
}

}  // namespace

Ratio ratioOf(Size size) {
  const int divisor = std::max(1, std::gcd(size.width, size.height));
  return {size.width / divisor, size.height / divisor};
}

const std::vector<NamedRatio>& commonRatios() {
  static const std::vector<NamedRatio> all = {{{1, 1}, "square"},       {{5, 4}, "plate"},      {{4, 3}, "screen"},
                                              {{7, 5}, "card"},         {{3, 2}, "small-film"}, {{16, 10}, "desktop"},
                                              {{16, 9}, "wide screen"}, {{2, 1}, "spread"},     {{21, 9}, "scope"}};
  return all;
}

std::string ratioName(Size size) {
  const Ratio exact = ratioOf(size);
  const auto text = [](Ratio r) { return std::to_string(r.across) + ":" + std::to_string(r.down); };
  if (exact.across <= 32 && exact.down <= 32) return text(exact);
  for (const auto& common : commonRatios())
    for (const Ratio r : {common.ratio, Ratio{common.ratio.down, common.ratio.across}})
      if (std::abs(exact.value() / r.value() - 1) <= keptWithin) return "~" + text(r);
  // The best fraction with small terms.
  Ratio best;
  double least = 1e9;
  for (int down = 1; down <= 20; ++down) {
    const int across = std::max(1, static_cast<int>(std::lround(exact.value() * down)));
    const double error = std::abs(across / (exact.value() * down) - 1);
    if (error < least - 1e-9) {
      least = error;
      best = {across, down};
    }
  }
  return "~" + text(best);
}

Size onStep(Size size, int step) { return {stepped(size.width, step), stepped(size.height, step)}; }

bool isOnStep(Size size, int step) { return onStep(size, step) == size; }

std::vector<SizeOffer> sizesByWidth(Ratio ratio, int width, int step, int count) {
  return offers(ratio.value(), width, step, count,
                [&](Size size) { return std::abs(static_cast<double>(size.width) / width - 1); });
}

std::vector<SizeOffer> sizesByHeight(Ratio ratio, int height, int step, int count) {
  return offers(ratio.value(), height * ratio.value(), step, count,
                [&](Size size) { return std::abs(static_cast<double>(size.height) / height - 1); });
}

std::vector<SizeOffer> sizesByMegapixels(Ratio ratio, double wanted, int step, int count) {
  return offers(ratio.value(), std::sqrt(wanted * 1e6 * ratio.value()), step, count,
                [&](Size size) { return std::abs(megapixels(size) / wanted - 1); });
}

std::vector<SizeOffer> sizesByScale(Size from, double scale, int step, int count) {
  const double width = from.width * scale;
  return offers(ratioOf(from).value(), width, step, count, [&](Size size) { return std::abs(size.width / width - 1); });
}

Size frameFor(Size picture, Size wish, int step) {
  constexpr int many = 64;
  const auto offers = sizesByMegapixels(ratioOf(picture), megapixels(wish), step, many);
  if (offers.empty()) return wish;
  for (const SizeOffer& offer : offers)
    if (offer.ratioError < 1e-9 &&
        std::abs(static_cast<double>(offer.size.area()) / static_cast<double>(wish.area()) - 1) <= 0.1)
      return offer.size;
  return offers.front().size;
}

}  // namespace hscaffold
