#include "core/pose/fit.h"

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <cmath>

#include "core/pose/posed_body.h"
#include "core/pose/posing.h"

namespace hscaffold::pose {
namespace {

/// For each joint, whether it is above another one or the same.
bool isAbove(const Skeleton& skeleton, std::size_t joint, std::size_t other) {
  for (int up = static_cast<int>(other); up >= 0; up = skeleton.joints[static_cast<std::size_t>(up)].parent)
    if (up == static_cast<int>(joint)) return true;
  return false;
}

std::size_t jointOf(const Skeleton& skeleton, std::size_t turn) {
  std::size_t joint = 0;
  while (turn >= skeleton.joints[joint].firstTurn + skeleton.joints[joint].turns) ++joint;
  return joint;
}

/// The problem's unknowns: angles in radians, then the place.
class Fit {
 public:
  Fit(const Skeleton& skeleton, const BodyPose& start, const BodyPlace& place, const std::vector<FitTarget>& targets,
      const FitOptions& options)
      : skeleton_(skeleton),
        start_(start),
        targets_(targets),
        options_(options),
        unit_(place.size),
        pose_(start),
        place_(place) {
    for (std::size_t t = 0; t < skeleton.turns.size(); ++t) joints_.push_back(jointOf(skeleton, t));
    for (const FitTarget& target : targets) {
      std::vector<bool> moves;
      for (std::size_t t = 0; t < skeleton.turns.size(); ++t)
        moves.push_back(isAbove(skeleton, joints_[t], skeleton.points[target.point].joint));
      moves_.push_back(std::move(moves));
    }
  }

  FitResult run() {
    double damping = 1e-3, cost = costOf(pose_, place_);
    for (int round = 0; round < options_.rounds; ++round) {
      linearise();
      bool better = false;
      double gain = 0;
      for (int attempt = 0; attempt < 6 && !better; ++attempt) {
        Eigen::MatrixXd damped = normal_;
        damped.diagonal() += damping * (normal_.diagonal().array() + 1e-6).matrix();
        const Eigen::VectorXd step = damped.ldlt().solve(gradient_);
        auto [pose, place] = stepped(step);
        const double next = costOf(pose, place);
        if (next < cost) {
          gain = cost - next;
          cost = next;
          pose_ = std::move(pose);
          place_ = std::move(place);
          damping = std::max(1e-7, damping / 4);
          better = true;
        } else {
          damping *= 6;
        }
      }
      if (!better || gain < 1e-9 + 1e-4 * cost) break;
    }
    return {pose_, place_, error()};
  }

 private:
  [[nodiscard]] std::size_t unknowns() const { return skeleton_.turns.size() + 2; }
  /// Roots may turn freely: only what bends the body away from the start costs.
  [[nodiscard]] double stayOf(std::size_t turn) const {
    return joints_[turn] == 0 ? 0.15 * options_.stay : options_.stay;
  }

  [[nodiscard]] double costOf(const BodyPose& pose, const BodyPlace& place) const {
    const PosedBody body = posed(skeleton_, pose.angles, place);
    double sum = 0;
    for (const FitTarget& target : targets_) {
      const Point off = body.inFrame(target.point, place.at) - target.at;
      sum += target.weight * target.weight * dot(off, off) / (unit_ * unit_);
    }
    for (std::size_t t = 0; t < pose.angles.size(); ++t) {
      const double change = stayOf(t) * (pose.angles[t] - start_.angles[t]) * degree;
      sum += change * change;
    }
    return sum;
  }

  void linearise() {
    const auto n = static_cast<Eigen::Index>(unknowns());
    const auto turns = static_cast<Eigen::Index>(skeleton_.turns.size());
    normal_ = Eigen::MatrixXd::Zero(n, n);
    gradient_ = Eigen::VectorXd::Zero(n);
    const PosedBody body = posed(skeleton_, pose_.angles, place_);
    Eigen::Matrix<double, 2, Eigen::Dynamic> rows(2, n);
    for (std::size_t k = 0; k < targets_.size(); ++k) {
      const FitTarget& target = targets_[k];
      rows.setZero();
      const Eigen::Vector3d& p = body.points[target.point];
      for (std::size_t t = 0; t < skeleton_.turns.size(); ++t) {
        if (!moves_[k][t] || isStuck(t)) continue;
        const Eigen::Vector3d way = body.axes[t].cross(p - body.origins[joints_[t]]);
        rows(0, static_cast<Eigen::Index>(t)) = way.x();
        rows(1, static_cast<Eigen::Index>(t)) = -way.y();
      }
      rows(0, turns) = rows(1, turns + 1) = 1;
      const Point off = target.at - body.inFrame(target.point, place_.at);
      const double scale = target.weight * target.weight / (unit_ * unit_);
      normal_.noalias() += scale * rows.transpose() * rows;
      gradient_.noalias() += scale * rows.transpose() * Eigen::Vector2d(off.x, off.y);
    }
    for (Eigen::Index t = 0; t < turns; ++t) {
      const auto turn = static_cast<std::size_t>(t);
      const double stay = stayOf(turn) * stayOf(turn);
      normal_(t, t) += stay + 1e-9;
      if (!isStuck(turn)) gradient_(t) -= stay * (pose_.angles[turn] - start_.angles[turn]) * degree;
    }
  }

  /// At a limit that the last step ran against: the others are solved as if it were fixed.
  [[nodiscard]] bool isStuck(std::size_t turn) const { return !stuck_.empty() && stuck_[turn]; }

  std::pair<BodyPose, BodyPlace> stepped(const Eigen::VectorXd& step) {
    BodyPose pose = pose_;
    const std::size_t turns = skeleton_.turns.size();
    for (std::size_t t = 0; t < turns; ++t)
      pose.angles[t] += std::clamp(step[static_cast<Eigen::Index>(t)] / degree, -50.0, 50.0);
    BodyPlace place = place_;
    place.at = place.at + Point{step[static_cast<Eigen::Index>(turns)], step[static_cast<Eigen::Index>(turns) + 1]};
    BodyPose limited = withinLimits(skeleton_, pose);
    stuck_.assign(turns, false);
    for (std::size_t t = 0; t < turns; ++t)
      stuck_[t] = skeleton_.turns[t].most - skeleton_.turns[t].least < 360 &&
                  std::abs(limited.angles[t] - pose.angles[t]) > 1e-9 && limited.angles[t] == pose_.angles[t];
    // Turning all the way round is not far from where it began.
    for (std::size_t t = 0; t < turns; ++t)
      if (skeleton_.turns[t].most - skeleton_.turns[t].least >= 360)
        limited.angles[t] = start_.angles[t] + std::remainder(limited.angles[t] - start_.angles[t], 360.0);
    return {std::move(limited), std::move(place)};
  }

  [[nodiscard]] double error() const {
    const PosedBody body = posed(skeleton_, pose_.angles, place_);
    double sum = 0, weights = 0;
    for (const FitTarget& target : targets_) {
      const Point off = body.inFrame(target.point, place_.at) - target.at;
      sum += target.weight * dot(off, off);
      weights += target.weight;
    }
    return weights > 0 ? std::sqrt(sum / weights) / place_.size : 0;
  }

  const Skeleton& skeleton_;
  const BodyPose& start_;
  const std::vector<FitTarget>& targets_;
  const FitOptions& options_;
  double unit_;
  BodyPose pose_;
  BodyPlace place_;
  std::vector<std::size_t> joints_;       ///< by turn
  std::vector<std::vector<bool>> moves_;  ///< by target and turn
  std::vector<bool> stuck_;
  Eigen::MatrixXd normal_;
  Eigen::VectorXd gradient_;
};

/// Where the body's first joint must be for the targets' middle to be right.
Point placedAt(const PosedBody& body, const std::vector<FitTarget>& targets) {
  Point sum;
  double weights = 0;
  for (const FitTarget& target : targets) {
    sum = sum + (target.at - body.inFrame(target.point, {0, 0})) * target.weight;
    weights += target.weight;
  }
  return weights > 0 ? sum * (1 / weights) : sum;
}

/// What speaks against a pose apart from missed points: a head that looks away where the face is seen, and the like.
double contradictions(const Figure& figure, const Figure& guess) {
  const Skeleton& skeleton = figure.kind();
  double sum = 0;
  for (const std::size_t i : skeleton.head)
    if (figure.points[i].there() && guess.points[i].presence != figure.points[i].presence) sum += 0.015;
  return sum;
}

/// A body of the figure's build.
BodyPlace buildOf(const Figure& figure) {
  BodyPlace place;
  place.size = sizeOf(figure);
  place.natural = figure.natural;
  return place;
}

std::vector<FitTarget> targetsOf(const Figure& figure) {
  std::vector<FitTarget> targets;
  const Skeleton& skeleton = figure.kind();
  for (std::size_t i = 0; i < figure.points.size(); ++i)
    if (skeleton.isBody(i) && figure.points[i].there())
      targets.push_back(
          {i, figure.points[i].at,
           (figure.points[i].presence == Presence::seen ? 1.0 : 0.6) * (0.3 + 0.7 * figure.points[i].confidence)});
  return targets;
}

/// Hands and face keep their shape and go with the point that they hang on.
void bringParts(Figure& figure, const Figure& before) {
  const Skeleton& skeleton = figure.kind();
  for (std::size_t i = 0; i < figure.points.size(); ++i) {
    if (skeleton.isBody(i) || !before.points[i].there() || before.points[i].pinned) continue;
    std::size_t onto = i;
    while (!skeleton.isBody(onto) || !skeleton.points[onto].turnsChildren) {
      const auto up = skeleton.parentOf(onto);
      if (!up) break;
      onto = *up;
    }
    const auto from = skeleton.parentOf(onto);
    if (!from) continue;
    const Point was = before.points[onto].at - before.points[*from].at,
                now = figure.points[onto].at - figure.points[*from].at;
    const double turn = std::atan2(now.y, now.x) - std::atan2(was.y, was.x);
    const Point off = before.points[i].at - before.points[onto].at;
    figure.points[i] = before.points[i];
    figure.points[i].at = figure.points[onto].at + Point{std::cos(turn) * off.x - std::sin(turn) * off.y,
                                                         std::sin(turn) * off.x + std::cos(turn) * off.y};
  }
}

/// What is far out of reach pulls no harder than what the body could lean to: feet would leave the ground otherwise.
Point withinLeaning(const Figure& figure, std::size_t point, Point to) {
  const Skeleton& skeleton = figure.kind();
  double reach = 0.25 * sizeOf(figure);
  std::size_t from = point;
  while (const auto up = skeleton.parentOf(from)) {
    reach += figure.natural[static_cast<std::size_t>(skeleton.points[from].bone)];
    from = *up;
    if (skeleton.points[from].anchor) break;
  }
  if (from == point || !figure.points[from].there()) return to;
  const Point base = figure.points[from].at;
  const double far = distanceBetween(base, to);
  return far > reach ? base + (to - base) * (reach / far) : to;
}

}  // namespace

FitResult fitted(const Skeleton& skeleton, const BodyPose& start, const BodyPlace& place,
                 const std::vector<FitTarget>& targets, const FitOptions& options) {
  return Fit(skeleton, start, place, targets, options).run();
}

BodyPlace placeOf(const Figure& figure, const BodyPose& pose) {
  BodyPlace place = buildOf(figure);
  place.at = placedAt(posed(figure.kind(), pose.angles, place), targetsOf(figure));
  return place;
}

FitResult lifted(const Figure& figure, const std::vector<BodyPose>& starts) {
  const Skeleton& skeleton = figure.kind();
  const auto targets = targetsOf(figure);
  const BodyPlace place = buildOf(figure);
  struct Candidate {
    BodyPose pose;
    Point at;
    double score;
  };
  std::vector<Candidate> candidates;
  const auto firstTurn = skeleton.findTurn(skeleton.joints.front().id + ".turn");
  for (const BodyPose& start : starts)
    for (int view = 0; view < 8; ++view) {
      BodyPose pose = start;
      if (firstTurn) pose.angles[*firstTurn] = std::remainder(pose.angles[*firstTurn] + 45.0 * view, 360.0);
      const PosedBody body = posed(skeleton, pose.angles, place);
      const Point at = placedAt(body, targets);
      double sum = 0, weights = 0;
      for (const FitTarget& target : targets) {
        sum += target.weight * distanceBetween(body.inFrame(target.point, at), target.at);
        weights += target.weight;
      }
      candidates.push_back({std::move(pose), at, sum / std::max(1e-9, weights) / place.size});
    }
  constexpr std::size_t tried = 16;
  const std::size_t count = std::min(tried, candidates.size());
  std::partial_sort(candidates.begin(), candidates.begin() + static_cast<std::ptrdiff_t>(count), candidates.end(),
                    [](const Candidate& a, const Candidate& b) { return a.score < b.score; });
  FitResult best{{std::vector<double>(skeleton.turns.size())}, place, 1e9};
  double least = 1e9;
  for (std::size_t c = 0; c < count; ++c) {
    BodyPlace from = place;
    from.at = candidates[c].at;
    auto result = fitted(skeleton, candidates[c].pose, from, targets, {0.03, 30});
    double bent = 0;
    for (std::size_t t = 0; t < result.pose.angles.size(); ++t)
      bent += std::pow((result.pose.angles[t] - candidates[c].pose.angles[t]) * degree, 2);
    const double score = result.error + 0.012 * std::sqrt(bent) +
                         contradictions(figure, figureFrom(skeleton, result.pose, result.place));
    if (score >= least) continue;
    least = score;
    best = std::move(result);
  }
  return best;
}

Figure ledBy(const Figure& figure, std::size_t point, Point to, const std::vector<std::size_t>& led,
             const std::vector<BodyPose>& starts) {
  const Skeleton& skeleton = figure.kind();
  if (!figure.points[point].there() || figure.points[point].pinned) return figure;
  BodyPlace place;
  BodyPose pose;
  bool known = false;
  if (figure.body) {
    pose = *figure.body;
    place = placeOf(figure, pose);
    const PosedBody body = posed(skeleton, pose.angles, place);
    const auto all = targetsOf(figure);
    double sum = 0;
    for (const FitTarget& target : all) sum += distanceBetween(body.inFrame(target.point, place.at), target.at);
    known = sum / static_cast<double>(std::max<std::size_t>(1, all.size())) < 0.03 * place.size;
  }
  if (!known) {
    auto from = starts;
    if (figure.body) from.push_back(*figure.body);
    auto lift = lifted(figure, from);
    pose = std::move(lift.pose);
    place = std::move(lift.place);
  }
  // What the picture has beyond the body stays: drags by hand, builds.
  const Figure before = figureFrom(skeleton, pose, place);
  const bool carries = std::find(skeleton.carried.begin(), skeleton.carried.end(), point) != skeleton.carried.end();
  const Point by = to - figure.points[point].at;
  const Point aim = carries ? to : withinLeaning(figure, point, to);
  std::vector<FitTarget> targets;
  for (std::size_t i = 0; i < figure.points.size(); ++i) {
    if (!skeleton.isBody(i) || !figure.points[i].there()) continue;
    const Point residual = figure.points[i].at - before.points[i].at;
    const bool stays = figure.points[i].pinned || std::find(led.begin(), led.end(), i) != led.end();
    const bool planted = std::find(skeleton.planted.begin(), skeleton.planted.end(), i) != skeleton.planted.end();
    if (i == point)
      targets.push_back({i, aim - residual, 4});
    else if (stays)
      targets.push_back({i, before.points[i].at, figure.points[i].pinned ? 8.0 : 2.5});
    else if (carries && !planted)
      targets.push_back({i, before.points[i].at + by, 0.3});
    else
      targets.push_back({i, before.points[i].at, planted ? 2 : skeleton.points[i].handle ? 0.5 : 0.04});
  }
  const auto result = fitted(skeleton, pose, place, targets, {0.02, 25});
  const Figure after = figureFrom(skeleton, result.pose, result.place);
  Figure out = figure;
  for (std::size_t i = 0; i < out.points.size(); ++i) {
    KeyPoint& p = out.points[i];
    if (!skeleton.isBody(i) || !p.there()) continue;
    if (!p.pinned) p.at = after.points[i].at + (figure.points[i].at - before.points[i].at);
    // What the artist marked by hand keeps its mark.
    if (p.presence == before.points[i].presence) p.presence = after.points[i].presence;
  }
  bringParts(out, figure);
  out.body = result.pose;
  Figure mended = withinLengths(out, figure, {point});
  // The last bit in the picture plane, so that the point is where the hand is, or as near as the limb can be stretched.
  if (!carries) {
    Figure exact = dragged(mended, point, to);
    exact.body = out.body;
    mended = std::move(exact);
  }
  return mended;
}

}  // namespace hscaffold::pose
