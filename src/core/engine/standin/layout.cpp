#include "core/engine/standin/layout.h"

#include <algorithm>
#include <cmath>
#include <functional>

#include "core/engine/standin/noise.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {

float openness(int band, int bands, float time) {
  const float place = bands > 1 ? static_cast<float>(band) / static_cast<float>(bands - 1) : 0;
  const auto centre = static_cast<float>(settlingTime(static_cast<double>(place)));
  const float distance = (time - centre) / 0.11f;
  return std::exp(-distance * distance);
}

float claim(double load, double guidance) {
  // A harder prompt leaves guides a little less; the shape gives 0.17 at 0.25, 0.53 at 0.5 and 0.95 at 1.
  return static_cast<float>(1 - std::exp(-3 * load * load / resistanceOf(guidance)));
}

Layout::Layout(const Composition& prior, std::vector<Wanted> wanted, std::span<const RecipeGuide> guides,
               double guidance, int steps, std::uint64_t seed)
    : steps_(steps), guidance_(guidance), pulls_(wanted.size()) {
  for (std::size_t g = 0; g < wanted.size(); ++g) pulls_[g].guide = guides[g].guide;
  parallelItems(Fields::count, [&](std::size_t f) {
    prior_[f] = laplacianPyramid(prior.fields.all[f]);
    for (std::size_t g = 0; g < wanted.size(); ++g)
      if (wanted[g].acts[f]) pulls_[g].pyramids[f] = laplacianPyramid(wanted[g].fields.all[f]);
    for (std::size_t b = 0; b < prior_[f].bands.size(); ++b) {
      const auto& band = prior_[f].bands[b];
      Image<float> noise(band.size());
      const float strength = f == 3 ? 0.1f : (b == 0 ? 0.5f : 0.35f);
      for (int y = 0; y < noise.height(); ++y)
        for (int x = 0; x < noise.width(); ++x)
          noise(x, y) = strength * signedUnit(mixed(mixed(seed, f, b), static_cast<std::uint64_t>(y),
                                                    static_cast<std::uint64_t>(x)));
      state_[f].bands.push_back(std::move(noise));
    }
  });
  bands_ = static_cast<int>(prior_[0].bands.size());
  for (std::size_t g = 0; g < wanted.size(); ++g) {
    if (wanted[g].where.empty() || std::none_of(wanted[g].acts.begin(), wanted[g].acts.end(), std::identity()))
      continue;
    // Each band sees the region at its own size.
    auto& where = pulls_[g].where;
    where.resize(static_cast<std::size_t>(bands_));
    where.back() = std::move(wanted[g].where);
    for (std::size_t b = where.size() - 1; b-- > 0;) where[b] = halved(where[b + 1].view());
  }
  opened_.assign(static_cast<std::size_t>(bands_), 0.0);
}

void Layout::advance(int step) {
  const float time = (static_cast<float>(step) + 0.5f) / static_cast<float>(steps_);
  std::vector<float> claims;
  for (const Pull& pull : pulls_) claims.push_back(claim(loadAt(pull.guide, step, steps_), guidance_));
  for (int b = 0; b < bands_; ++b) {
    const auto band = static_cast<std::size_t>(b);
    const double open = static_cast<double>(openness(b, bands_, time));
    opened_[band] += open;
    // A running mean weighted by openness: each step counts as much as the band was open in it. The first noise counts
    // for a thousandth, so it is gone from a band once that has been open.
    const auto rate = static_cast<float>(open / (opened_[band] + 1e-3));
    if (rate < 1e-4f) continue;
    const bool inRegions = std::any_of(pulls_.begin(), pulls_.end(), [](const Pull& p) { return !p.where.empty(); });
    parallelItems(Fields::count, [&](std::size_t f) {
      if (inRegions)
        blendBandInRegions(f, band, rate, step, claims);
      else
        blendBand(f, band, rate, step, claims);
    });
  }
}

float Layout::burn(std::size_t guide, std::size_t band, int step) const {
  // Beyond plain weight the guide's finer bands are overdrawn: it burns in.
  return band > 1 ? burnOf(loadAt(pulls_[guide].guide, step, steps_)) : 1.0f;
}

void Layout::blendBand(std::size_t f, std::size_t band, float rate, int step, const std::vector<float>& claims) {
  float priorShare = 1, total = 0;
  for (std::size_t g = 0; g < pulls_.size(); ++g)
    if (!pulls_[g].pyramids[f].bands.empty()) {
      priorShare *= 1 - claims[g];
      total += claims[g];
    }
  total += priorShare;
  auto& state = state_[f].bands[band];
  const auto& prior = prior_[f].bands[band];
  const float keep = 1 - rate, fromPrior = rate * priorShare / total;
  for (int y = 0; y < state.height(); ++y) {
    float* to = state.row(y);
    const float* from = prior.row(y);
    for (int x = 0; x < state.width(); ++x) to[x] = keep * to[x] + fromPrior * from[x];
  }
  for (std::size_t g = 0; g < pulls_.size(); ++g) {
    if (pulls_[g].pyramids[f].bands.empty() || claims[g] <= 0) continue;
    const float share = rate * burn(g, band, step) * claims[g] / total;
    const auto& wanted = pulls_[g].pyramids[f].bands[band];
    for (int y = 0; y < state.height(); ++y) {
      float* to = state.row(y);
      const float* from = wanted.row(y);
      for (int x = 0; x < state.width(); ++x) to[x] += share * from[x];
    }
  }
}

void Layout::blendBandInRegions(std::size_t f, std::size_t band, float rate, int step,
                                const std::vector<float>& claims) {
  auto& state = state_[f].bands[band];
  const auto& prior = prior_[f].bands[band];
  for (int y = 0; y < state.height(); ++y)
    for (int x = 0; x < state.width(); ++x) {
      float priorShare = 1, total = 0, sum = 0;
      for (std::size_t g = 0; g < pulls_.size(); ++g) {
        if (pulls_[g].pyramids[f].bands.empty()) continue;
        const float here = claims[g] * (pulls_[g].where.empty() ? 1.0f : pulls_[g].where[band](x, y));
        priorShare *= 1 - here;
        total += here;
        sum += burn(g, band, step) * here * pulls_[g].pyramids[f].bands[band](x, y);
      }
      total += priorShare;
      state(x, y) = (1 - rate) * state(x, y) + rate * (priorShare * prior(x, y) + sum) / total;
    }
}

Fields Layout::current() const {
  Fields fields;
  parallelItems(Fields::count, [&](std::size_t f) { fields.all[f] = collapsed(state_[f]); });
  return fields;
}

}  // namespace hscaffold::standin
