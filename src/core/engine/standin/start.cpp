#include "core/engine/standin/start.h"

#include <algorithm>
#include <cmath>

#include "core/detail/detail.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/obedience.h"
#include "core/engine/standin/painting.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/kinds.h"

namespace hscaffold::standin {
namespace {

/// What of a band comes from the start picture. @param left  share of the steps before the new begins
float kept(std::size_t band, std::size_t bands, double left) {
  constexpr double soft = 0.12;
  const double rank = bands > 1 ? static_cast<double>(band) / static_cast<double>(bands - 1) : 0;
  // At both ends nothing is left to be soft about.
  const double step = left * (1 + 2 * soft) - soft;
  return smoothStep(static_cast<float>(-soft), static_cast<float>(soft), static_cast<float>(step - settlingTime(rank)));
}

OkLab operator-(OkLab a, OkLab b) { return {a.l - b.l, a.a - b.a, a.b - b.b}; }

float product(OkLab a, OkLab b) { return a.l * b.l + a.a * b.a + a.b * b.b; }

}  // namespace

AllGuides guidesOf(const EngineJob& job, double until, StopToken stop) {
  AllGuides out{job.recipe.guides, {}, {}};
  if (until > 0) {
    // Read at one scale, whatever the frame.
    constexpr double longest = 768;
    const auto start = resampled(job.start.view(), scaledTo(job.start.size(), longest), Resampling::area, stop);
    for (const char* kind : {"edges", "tone"}) {
      RecipeGuide entry;
      entry.guide.kind = kind;
      entry.guide.range = {0, 100 * until, 0, 0};
      ExtractionCache cache;
      GuideInput input;
      input.map = kindOf(kind).extract(start.view(), {}, cache, stop).map;
      out.guides.push_back(std::move(entry));
      out.made.push_back(std::move(input));
    }
  }
  for (const GuideInput& input : job.inputs) out.inputs.push_back(&input);
  for (const GuideInput& input : out.made) out.inputs.push_back(&input);
  return out;
}

float colourKept(const StartPicture& start) {
  const double left = 1 - start.change;
  return static_cast<float>(start.moodOnly ? std::min(1.0, 1.4 * left) : left * std::sqrt(left));
}

void colourFrom(Palette& palette, View<Rgb> start, const Fields& fields, float strength) {
  if (strength <= 0) return;
  std::array<OkLab, partCount> sums{};
  std::array<float, partCount> weights{};
  OkLab low{};
  float lowWeight = 0, mean = 0, square = 0, count = 0;
  const Size size = fields.size();
  const float sx = static_cast<float>(start.width()) / static_cast<float>(size.width),
              sy = static_cast<float>(start.height()) / static_cast<float>(size.height);
  constexpr int step = 3;
  float horizon = 1;
  for (int y = size.height - 1; y >= 0; --y)
    if (fields.part(0)(size.width / 2, y) > 0.5f) {
      horizon = static_cast<float>(y);
      break;
    }
  for (int y = 0; y < size.height; y += step)
    for (int x = 0; x < size.width; x += step) {
      const OkLab c =
          linearToOkLab(sampleLinear(start, (static_cast<float>(x) + 0.5f) * sx, (static_cast<float>(y) + 0.5f) * sy));
      const auto add = [&](OkLab& sum, float& weight, float share) {
        sum = {sum.l + share * c.l, sum.a + share * c.a, sum.b + share * c.b};
        weight += share;
      };
      for (std::size_t p = 0; p < partCount; ++p) {
        const float share = std::max(0.0f, fields.part(p)(x, y) - 0.5f);
        add(sums[p], weights[p], share);
        if (p == 0 && static_cast<float>(y) > 0.75f * horizon) add(low, lowWeight, share);
      }
      mean += c.l;
      square += c.l * c.l;
      ++count;
    }
  const auto draw = [&](OkLch& colour, OkLab sum, float weight) {
    if (weight < 1) return;
    const OkLab from = okLchToOkLab(colour), to{sum.l / weight, sum.a / weight, sum.b / weight};
    colour =
        okLabToOkLch({blend(from.l, to.l, strength), blend(from.a, to.a, strength), blend(from.b, to.b, strength)});
  };
  for (std::size_t p = 0; p < partCount; ++p) draw(palette.parts[p], sums[p], weights[p]);
  draw(palette.skyLow, low, lowWeight);
  const float deviation = std::sqrt(std::max(0.0f, square / count - mean * mean / (count * count)));
  palette.contrast = blend(palette.contrast, std::clamp(deviation / 0.17f, 0.4f, 1.5f), 0.6f * strength);
}

void gradeTo(Palette& palette, View<Rgb> start, const Composition& picture, float strength) {
  if (strength <= 0) return;
  const Size size = within(picture.fields.size(), 96);
  const Plan plan = planFrom(picture.fields, picture, palette, size);
  std::vector<OkLab> planned;
  for (int y = 0; y < size.height; ++y)
    planned.insert(planned.end(), plan.colour.row(y), plan.colour.row(y) + size.width);
  const auto wanted = mood::coloursOf(start);
  // However dark or pale it becomes, things are told apart as well as before.
  constexpr mood::MonotoneTransport::Slopes slopes{0.75, 2.2};
  palette.grading =
      std::make_shared<const Grading>(Grading{mood::MonotoneTransport(planned, wanted, slopes), strength});
}

void paintWith(Palette& palette, std::span<const mood::WantedColour> colours, const Wishes& wishes) {
  if (colours.empty()) return;
  std::vector<OkLch> wanted;
  for (const mood::WantedColour& each : colours) wanted.push_back(okLabToOkLch(linearToOkLab(each.colour)));
  std::sort(wanted.begin(), wanted.end(), [](const OkLch& a, const OkLch& b) { return a.l < b.l; });
  const auto draw = [](OkLch& colour, const OkLch& to) {
    constexpr float hue = 0.92f, light = 0.5f;
    const OkLab from = okLchToOkLab(colour), goal = okLchToOkLab(to);
    colour = okLabToOkLch({blend(from.l, goal.l, light), blend(from.a, goal.a, hue), blend(from.b, goal.b, hue)});
  };
  // All parts but the subject by lightness: the darkest takes the darkest.
  std::vector<std::size_t> order{0, 1, 2, 3};
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return palette.parts[a].l < palette.parts[b].l; });
  const auto at = [&](std::size_t rank, std::size_t of) {
    const double share = static_cast<double>(rank) / static_cast<double>(of - 1);
    return wanted[static_cast<std::size_t>(std::lround(share * static_cast<double>(wanted.size() - 1)))];
  };
  constexpr float named = 0.2f;
  for (std::size_t rank = 0; rank < order.size(); ++rank) {
    const std::size_t part = order[rank];
    if (wishes.colours[part].strength > named) continue;
    draw(palette.parts[part], at(rank, order.size()));
    // The sky at the horizon is the next lighter one.
    if (part == 0) draw(palette.skyLow, at(std::min(rank + 1, order.size() - 1), order.size()));
  }
  const auto strongest =
      *std::max_element(wanted.begin(), wanted.end(), [](const OkLch& a, const OkLch& b) { return a.c < b.c; });
  if (wishes.colours[partCount - 1].strength <= named) draw(palette.parts[partCount - 1], strongest);
  const auto apart = [&](const OkLch& c) { return c.c * (1 - std::cos(c.h - strongest.h)); };
  if (wishes.accent.strength <= named)
    draw(palette.accent, *std::max_element(wanted.begin(), wanted.end(),
                                           [&](const OkLch& a, const OkLch& b) { return apart(a) < apart(b); }));
}

StartBands::StartBands(View<Rgb> start, double change, std::optional<Size> whole)
    : change_(change), count_(detail::bandsIn(whole.value_or(start.size()))), start_(channelsOf(start)) {}

Fresh StartBands::fresh(double left) const {
  Fresh out;
  for (std::size_t channel = 0; channel < 3; ++channel) {
    // Colour goes before layout.
    const double share = channel == 0 ? left : std::pow(left, 1.5);
    out[channel].resize(count_);
    for (std::size_t b = 0; b < count_; ++b) out[channel][b] = 1 - kept(b, count_, share);
  }
  return out;
}

void StartBands::putInto(Plan& plan) const {
  // Strokes take the place of what settles last; what they are painted after is the start picture for longer.
  const double left = std::min(1.0, 1 - change_ + 0.25 * smoothStep(0.0f, 0.3f, static_cast<float>(1 - change_)));
  putBands(plan, start_, fresh(left));
}

Image<Rgb> StartBands::putInto(const Image<Rgb>& made) const {
  return withBands(made.view(), start_, fresh(1 - change_));
}

float likeness(const Plan& plan, View<Rgb> picture) {
  const float coarse = 0.02f * static_cast<float>(std::max(picture.width(), picture.height()));
  const auto a = gaussianBlur(lightnessOf(plan).view(), coarse),
             b = gaussianBlur(channelsOf(picture)[0].view(), coarse);
  double sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) {
      const auto u = static_cast<double>(a(x, y)), v = static_cast<double>(b(x, y));
      sa += u;
      sb += v;
      saa += u * u;
      sbb += v * v;
      sab += u * v;
    }
  const auto n = static_cast<double>(a.size().area());
  const double va = saa - sa * sa / n, vb = sbb - sb * sb / n;
  return va > 0 && vb > 0 ? static_cast<float>((sab - sa * sb / n) / std::sqrt(va * vb)) : 0;
}

float stillToChange(View<Rgb> start, const Plan& shown, const Plan& wanted, View<float> where) {
  constexpr float near = 0.05f;  ///< what a medium makes of a plan differs from it by so much
  constexpr int step = 3;
  OkLab change{}, ahead{};
  float weights = 0;
  for (int y = step / 2; y < start.height(); y += step)
    for (int x = step / 2; x < start.width(); x += step) {
      const OkLab a = shown.colour(x, y), by = wanted.colour(x, y) - a;
      const float weight = std::sqrt(product(by, by)) * (where.empty() ? 1 : where(x, y));
      const OkLab off = linearToOkLab(start(x, y)) - a;
      change = {change.l + weight * by.l, change.a + weight * by.a, change.b + weight * by.b};
      ahead = {ahead.l + weight * off.l, ahead.a + weight * off.a, ahead.b + weight * off.b};
      weights += weight;
    }
  const float far = std::sqrt(product(change, change));
  if (far <= 0.02f * weights) return 1;
  return 1 - std::clamp((product(ahead, change) / far - near * weights) / far, 0.0f, 1.0f);
}

Image<Rgb> changedBetween(View<Rgb> start, const Plan& shown, const Plan& wanted, View<float> otherPart,
                          View<Rgb> painted, double change, View<float> where, float lacking) {
  const auto whole = static_cast<float>(std::min(1.0, 2 * change));
  Image<Rgb> out(start.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) {
        const float gain = where.empty() ? whole : whole * where(x, y);
        const OkLab by = wanted.colour(x, y) - shown.colour(x, y);
        const float much = std::sqrt(product(by, by));
        // What no eye would see stays as it was, to the last digit.
        const float share = gain * lacking * smoothStep(0.02f, 0.05f, much);
        const float other = otherPart.empty() ? 0.0f : gain * otherPart(x, y);
        if (share <= 0 && other <= 0) {
          out(x, y) = start(x, y);
          continue;
        }
        OkLab c = linearToOkLab(start(x, y));
        c = {std::clamp(c.l + share * by.l, 0.0f, 1.0f), c.a + share * by.a, c.b + share * by.b};
        if (other > 0) {
          const OkLab fresh = linearToOkLab(painted(x, y));
          c = {blend(c.l, fresh.l, other), blend(c.a, fresh.a, other), blend(c.b, fresh.b, other)};
        }
        out(x, y) = okLabToLinearInGamut(c);
      }
  });
  return out;
}

}  // namespace hscaffold::standin
