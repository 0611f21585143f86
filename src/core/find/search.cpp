#include "core/find/search.h"

#include <algorithm>
#include <cmath>
#include <random>
#include <set>

#include "core/find/gaussian_process.h"

namespace hscaffold {
namespace {

/// Choices that are weighed against each other in one round, evenly spread and about the best ones.
constexpr int spreadCandidates = 700, nearCandidates = 300;
/// Draws of all guesses together, by which a gain is weighed.
constexpr int draws = 48;
/// What is not expected to gain more, in points of shift, is not worth a proof; while goals are missed, nearly anything
/// is.
constexpr double leastGain = 0.08, leastGainBehind = 0.004;

/// The same numbers on every machine.
class Dice {
 public:
  explicit Dice(std::uint64_t seed) : engine_(seed) {}
  /// [0, 1)
  double share() { return static_cast<double>(engine_() >> 11) * 0x1.0p-53; }
  int below(int end) { return static_cast<int>(share() * end); }
  /// Of a normal distribution (Box and Muller 1958).
  double normal() { return std::sqrt(-2 * std::log(1 - share())) * std::cos(6.283185307179586 * share()); }

 private:
  std::mt19937_64 engine_;
};

Choice choiceAt(const FindPlan& plan, const std::vector<double>& shares) {
  Choice out;
  for (std::size_t i = 0; i < plan.settings.size(); ++i) {
    const auto last = static_cast<double>(plan.settings[i].values.size() - 1);
    out.push_back(static_cast<int>(std::lround(std::clamp(shares[i], 0.0, 1.0) * last)));
  }
  return out;
}

/// [0, 1]
double shareOf(const FindPlan& plan, std::size_t setting, const Choice& choice) {
  return static_cast<double>(choice[setting]) / static_cast<double>(plan.settings[setting].values.size() - 1);
}

double apart(const FindPlan& plan, const Choice& a, const Choice& b) {
  double sum = 0;
  for (std::size_t i = 0; i < plan.settings.size(); ++i) sum += std::pow(shareOf(plan, i, a) - shareOf(plan, i, b), 2);
  return sum;
}

/// One in every row and column; the one of many such squares whose members, and what is there already, lie the farthest
/// apart.
std::vector<Choice> latinHypercube(const FindPlan& plan, std::size_t count, const Choice& present) {
  Dice dice(0xf1d + plan.settings.size());
  std::vector<Choice> best;
  double farthest = -1;
  for (int attempt = 0; attempt < 200; ++attempt) {
    std::vector<std::vector<double>> shares(count, std::vector<double>(plan.settings.size()));
    for (std::size_t i = 0; i < plan.settings.size(); ++i) {
      std::vector<std::size_t> order(count);
      for (std::size_t k = 0; k < count; ++k) order[k] = k;
      for (std::size_t k = count; k > 1; --k)
        std::swap(order[k - 1], order[static_cast<std::size_t>(dice.below(static_cast<int>(k)))]);
      for (std::size_t k = 0; k < count; ++k)
        shares[k][i] = (static_cast<double>(order[k]) + 0.5) / static_cast<double>(count);
    }
    std::vector<Choice> square;
    for (const auto& each : shares) square.push_back(choiceAt(plan, each));
    double nearest = 1e9;
    for (std::size_t a = 0; a < count; ++a) {
      nearest = std::min(nearest, apart(plan, square[a], present));
      for (std::size_t b = 0; b < a; ++b) nearest = std::min(nearest, apart(plan, square[a], square[b]));
    }
    if (nearest <= farthest) continue;
    farthest = nearest;
    best = std::move(square);
  }
  return best;
}

Eigen::VectorXd placeOf(const FindPlan& plan, const Choice& choice) {
  Eigen::VectorXd out(static_cast<Eigen::Index>(plan.settings.size()));
  for (std::size_t i = 0; i < plan.settings.size(); ++i) out[static_cast<Eigen::Index>(i)] = shareOf(plan, i, choice);
  return out;
}

std::vector<Choice> candidatesFor(const FindPlan& plan, std::span<const Tried> tried, std::set<Choice> known) {
  std::vector<Choice> out;
  const auto add = [&](Choice choice) {
    if (known.insert(choice).second) out.push_back(std::move(choice));
  };
  Dice dice(0xca11 + tried.size());
  for (int c = 0; c < spreadCandidates; ++c) {
    std::vector<double> shares(plan.settings.size());
    for (double& share : shares) share = dice.share();
    add(choiceAt(plan, shares));
  }
  std::vector<std::size_t> order(tried.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::vector<double> merits;
  for (const Tried& each : tried) merits.push_back(meritOf(plan, each));
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return merits[a] > merits[b]; });
  for (int c = 0; c < nearCandidates; ++c) {
    const Choice& from = tried[order[static_cast<std::size_t>(c) % std::min<std::size_t>(3, order.size())]].choice;
    const double reach = c % 2 == 0 ? 0.06 : 0.18;
    std::vector<double> shares;
    for (std::size_t i = 0; i < plan.settings.size(); ++i)
      shares.push_back(shareOf(plan, i, from) + reach * dice.normal());
    add(choiceAt(plan, shares));
  }
  return out;
}

}  // namespace

struct Guessed::Parts {
  const FindPlan& plan;
  std::vector<GaussianProcess> guesses;  ///< of every hold, and the shift
};

Guessed::Guessed(const FindPlan& plan, std::span<const Tried> tried) {
  auto parts = std::make_unique<Parts>(Parts{plan, {}});
  const auto n = static_cast<Eigen::Index>(tried.size());
  Eigen::MatrixXd places(n, static_cast<Eigen::Index>(plan.settings.size()));
  for (Eigen::Index i = 0; i < n; ++i) places.row(i) = placeOf(plan, tried[static_cast<std::size_t>(i)].choice);
  for (std::size_t of = 0; of <= plan.holds.size(); ++of) {
    Eigen::VectorXd values(n);
    for (Eigen::Index i = 0; i < n; ++i) {
      const Outcome& mean = tried[static_cast<std::size_t>(i)].mean;
      values[i] = of < plan.holds.size() ? mean.holds[of] : mean.shift;
    }
    parts->guesses.emplace_back(places, values);
  }
  parts_ = std::move(parts);
}

Guessed::~Guessed() = default;

std::pair<Outcome, Outcome> Guessed::at(const Choice& choice) const {
  const auto place = placeOf(parts_->plan, choice);
  std::pair<Outcome, Outcome> out;
  for (std::size_t of = 0; of < parts_->guesses.size(); ++of) {
    const auto guess = parts_->guesses[of].at(place);
    if (of + 1 < parts_->guesses.size()) {
      out.first.holds.push_back(std::clamp(guess.mean, 0.0, 100.0));
      out.second.holds.push_back(guess.deviation);
    } else {
      out.first.shift = std::clamp(guess.mean, 0.0, 100.0);
      out.second.shift = guess.deviation;
    }
  }
  return out;
}

std::vector<Tried> triedIn(const FindPlan& plan, const std::map<int, Outcome>& cells) {
  std::vector<Tried> out;
  const auto seeds = plan.seeds.size();
  for (std::size_t i = 0; i < plan.choices.size(); ++i) {
    std::vector<Outcome> outcomes;
    for (std::size_t seed = 0; seed < seeds; ++seed)
      if (const auto found = cells.find(static_cast<int>(i * seeds + seed)); found != cells.end())
        outcomes.push_back(found->second);
    if (!outcomes.empty()) out.push_back(triedOf(plan.choices[i], outcomes));
  }
  return out;
}

int firstChoices(const FindPlan& plan) {
  const int seeds = static_cast<int>(plan.seeds.size()), settings = static_cast<int>(plan.settings.size());
  return std::clamp(2 * settings + 2, 3, std::max(3, plan.budget / seeds / 2));
}

std::size_t bestOf(const FindPlan& plan, std::span<const Tried> tried) {
  std::size_t best = 0;
  double most = -1e18;
  for (std::size_t i = 0; i < tried.size(); ++i) {
    const double merit = meritOf(plan, tried[i]);
    if (merit > most) most = merit, best = i;
  }
  return best;
}

std::vector<Choice> nextChoices(const FindPlan& plan, std::span<const Tried> tried, int count,
                                std::span<const Choice> pending, StopToken stop) {
  const int used = static_cast<int>((tried.size() + pending.size()) * plan.seeds.size());
  const int left = (plan.budget - used) / static_cast<int>(plan.seeds.size());
  count = std::min(count, left);
  std::vector<Choice> out;
  if (count <= 0) return out;
  std::set<Choice> known(pending.begin(), pending.end());
  for (const Tried& each : tried) known.insert(each.choice);
  // The first round: where the artist is, and spread over everything.
  const Choice present = presentChoice(plan);
  std::vector<Choice> first{present};
  for (Choice& choice : latinHypercube(plan, static_cast<std::size_t>(firstChoices(plan) - 1), present))
    first.push_back(std::move(choice));
  for (const Choice& choice : first)
    if (static_cast<int>(out.size()) < count && known.insert(choice).second) out.push_back(choice);
  if (!out.empty() || tried.empty()) return out;

  // What is being tried is taken to come to what is guessed of it.
  std::vector<Tried> all(tried.begin(), tried.end());
  for (const Choice& choice : pending) all.push_back({choice, Guessed(plan, all).at(choice).first, {}});
  while (static_cast<int>(out.size()) < count) {
    throwIfStopped(stop);
    const Guessed guessed(plan, all);
    const Tried& best = all[bestOf(plan, all)];
    const double least = meritOf(plan, best);
    // The same draws for all candidates, so that they differ by what they are and not by luck.
    Dice dice(0xd1ce);
    std::vector<std::vector<double>> normals(draws, std::vector<double>(plan.holds.size() + 1));
    for (auto& draw : normals)
      for (double& value : draw) value = dice.normal();
    double most = 0;
    Choice chosen;
    for (Choice& candidate : candidatesFor(plan, all, known)) {
      throwIfStopped(stop);
      const auto [mean, deviation] = guessed.at(candidate);
      const double cost = costOf(plan, candidate);
      double gain = 0;
      for (const auto& draw : normals) {
        Outcome outcome = mean;
        for (std::size_t i = 0; i < outcome.holds.size(); ++i)
          outcome.holds[i] = std::clamp(outcome.holds[i] + deviation.holds[i] * draw[i], 0.0, 100.0);
        outcome.shift = std::clamp(outcome.shift + deviation.shift * draw.back(), 0.0, 100.0);
        gain += std::max(0.0, meritOf(plan, cost, outcome) - least) / draws;
      }
      if (gain <= most) continue;
      most = gain;
      chosen = std::move(candidate);
    }
    if (most < (shortfallOf(plan, best.mean) > 0 ? leastGainBehind : leastGain)) break;
    all.push_back({chosen, guessed.at(chosen).first, {}});
    known.insert(chosen);
    out.push_back(std::move(chosen));
  }
  return out;
}

}  // namespace hscaffold
