#include "core/engine/standin/look_words.h"

#include <algorithm>
#include <cmath>

#include "core/engine/standin/lexicon.h"
#include "core/image/colour.h"

namespace hscaffold::standin {
namespace {

constexpr std::size_t mostColours = 3;
constexpr double leastShare = 0.125;
/// Mean lightness and chroma (OKLCh) below and above which a word is due.
constexpr double darkBelow = 0.42, brightAbove = 0.80, mutedBelow = 0.035, vividAbove = 0.11;
/// Mean way towards orange or blue, in the same units as chroma.
constexpr double tinged = 0.05;
constexpr double orange = 1.1;  ///< its hue, radians

double apart(const OkLab& a, const OkLab& b) {
  const auto square = [](float v) { return static_cast<double>(v) * static_cast<double>(v); };
  return square(a.l - b.l) + square(a.a - b.a) + square(a.b - b.b);
}

}  // namespace

std::vector<std::string> lookInWords(View<Rgb8> picture) {
  if (picture.empty()) return {};
  const auto named = namedColours();
  std::vector<OkLab> places;
  for (const NamedColour& each : named) places.push_back(okLchToOkLab(each.colour));
  std::vector<double> covers(named.size());
  const auto linear = toLinear(picture);
  // Some ten thousand places tell as much as all.
  const int step = std::max(1, static_cast<int>(std::sqrt(static_cast<double>(picture.size().area()) / 1e4)));
  double count = 0, light = 0, chroma = 0, warmth = 0;
  for (int y = step / 2; y < picture.height(); y += step)
    for (int x = step / 2; x < picture.width(); x += step) {
      const OkLab lab = linearToOkLab(linear(x, y));
      const OkLch lch = okLabToOkLch(lab);
      const auto nearest = std::min_element(
          places.begin(), places.end(), [&](const OkLab& a, const OkLab& b) { return apart(a, lab) < apart(b, lab); });
      covers[static_cast<std::size_t>(nearest - places.begin())] += 1;
      count += 1;
      light += static_cast<double>(lch.l);
      chroma += static_cast<double>(lch.c);
      warmth += static_cast<double>(lch.c) * std::cos(static_cast<double>(lch.h) - orange);
    }
  std::vector<std::size_t> order(named.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return covers[a] > covers[b]; });
  std::vector<std::string> out;
  for (const std::size_t i : order)
    if (out.size() < mostColours && covers[i] >= leastShare * count) out.emplace_back(named[i].word);
  const auto say = [&](const char* word, bool due) {
    if (due) out.emplace_back(word);
  };
  say("dark", light < darkBelow * count);
  say("bright", light > brightAbove * count);
  say("muted", chroma < mutedBelow * count);
  say("vivid", chroma > vividAbove * count);
  say("warm", warmth > tinged * count);
  say("cool", warmth < -tinged * count);
  return out;
}

}  // namespace hscaffold::standin
