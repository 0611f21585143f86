#include "core/stage/lift.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/pose/fit.h"
#include "core/pose/library.h"

namespace hscaffold::stage {
namespace {

constexpr double degrees = 180 / std::numbers::pi;

struct Lifted {
  std::string name;
  bool person = true;
  std::vector<double> angles;
  double size = 0;      ///< pixels
  double metres = 1.7;  ///< as asked
  Point root, foot;     ///< pixels from the frame's middle, y down
  double far = 1;       ///< metres along the eye's line of sight, by that size
};

/// The first joint, and what is lowest below it.
Lifted liftedOne(const pose::Figure& figure, Size frame, double focal, const LiftAsk& ask) {
  const auto fit = pose::lifted(figure, pose::startsFor(figure.skeleton));
  Lifted out;
  out.name = figure.name;
  out.person = figure.skeleton == "human";
  out.angles = fit.pose.angles;
  out.size = fit.place.size;
  out.metres = out.person ? ask.height : ask.animal;
  out.far = focal * out.metres / out.size;
  const Point middle{0.5 * frame.width, 0.5 * frame.height};
  out.root = fit.place.at - middle;
  const auto body = pose::figureFrom(figure.kind(), fit.pose, fit.place);
  double lowest = out.root.y;
  for (const pose::KeyPoint& point : body.points)
    if (point.there()) lowest = std::max(lowest, point.at.y - middle.y);
  // Soles lie a little under ankles.
  constexpr double sole = 0.045;
  out.foot = {out.root.x, lowest + (out.person ? sole * out.size : 0.02 * out.size)};
  return out;
}

/// Angles of a body after all of it was turned in the axes that it stands in: damped steps of its first joint's turns,
/// within their limits.
std::vector<double> turnedWhole(const pose::Skeleton& skeleton, std::vector<double> angles, const Eigen::Matrix3d& by) {
  const auto& root = skeleton.joints.front();
  Eigen::MatrixXd axes(3, static_cast<Eigen::Index>(root.turns));  // of its turns, as those before them have them
  const auto turned = [&] {
    Eigen::Matrix3d out = Eigen::Matrix3d::Identity();
    for (std::size_t i = 0; i < root.turns; ++i) {
      const pose::Turn& turn = skeleton.turns[root.firstTurn + i];
      const Eigen::Vector3d axis(turn.axis[0], turn.axis[1], turn.axis[2]);
      axes.col(static_cast<Eigen::Index>(i)) = out * axis;
      out = out * Eigen::AngleAxisd(angles[root.firstTurn + i] / degrees, axis).toRotationMatrix();
    }
    return out;
  };
  const Eigen::Matrix3d wanted = by * turned();
  constexpr int rounds = 20;
  for (int round = 0; round < rounds; ++round) {
    const Eigen::AngleAxisd off(Eigen::Matrix3d(wanted * turned().transpose()));
    if (off.angle() < 1e-6) break;
    const Eigen::MatrixXd damped = axes.transpose() * axes + 1e-4 * Eigen::MatrixXd::Identity(axes.cols(), axes.cols());
    const Eigen::VectorXd step = damped.ldlt().solve(axes.transpose() * (off.angle() * off.axis()));
    for (std::size_t i = 0; i < root.turns; ++i) {
      const pose::Turn& turn = skeleton.turns[root.firstTurn + i];
      double& angle = angles[root.firstTurn + i];
      angle = std::clamp(angle + step[static_cast<Eigen::Index>(i)] * degrees, turn.least, turn.most);
    }
  }
  return angles;
}

}  // namespace

Scene stagedFrom(const pose::Figures& figures, const LiftAsk& ask, StopToken stop) {
  const Size frame = figures.frame;
  const double focal = ask.millimetres / 36 * frame.width;
  std::vector<Lifted> all;
  for (const auto& figure : figures.figures) {
    throwIfStopped(stop);
    if (figure->on && pose::boundsOf(*figure)) all.push_back(liftedOne(*figure, frame, focal, ask));
  }
  if (all.empty()) throw badInput("There are no figures to be put onto a stage.");
  // In the eye's axes the ground is y = -high + slope * far: fitted to the feet.
  double slope = 0, high = 0;
  double sumFar = 0, sumFoot = 0, sumFarFar = 0, sumFarFoot = 0;
  for (const Lifted& each : all) {
    const double y = -each.foot.y / focal * each.far;
    sumFar += each.far, sumFoot += y, sumFarFar += each.far * each.far, sumFarFoot += each.far * y;
  }
  const auto count = static_cast<double>(all.size());
  const double spread = sumFarFar - sumFar * sumFar / count;
  // Figures at one distance say nothing of a tilt; a little wish for a level eye keeps it from running off.
  constexpr double level = 0.6;
  if (all.size() > 1) slope = (sumFarFoot - sumFar * sumFoot / count) / (spread + level);
  slope = std::clamp(slope, -0.45, 0.8);
  high = -(sumFoot - slope * sumFar) / count;
  const double tilt = -std::atan(slope);
  constexpr double lowest = 0.15, highest = 40;
  Scene out;
  out.eye.millimetres = static_cast<float>(ask.millimetres);
  out.eye.tilt = static_cast<float>(tilt * degrees);
  out.eye.at = {0, static_cast<float>(std::clamp(high * std::cos(tilt), lowest, highest)), 0};
  const Camera camera = cameraOf(out.eye, frame);
  for (Lifted& each : all) {
    const auto ray = [&](Point p) {
      return Vec3(camera.look.transpose() *
                  Vec3(static_cast<float>(p.x / focal), static_cast<float>(-p.y / focal), -1));
    };
    // Where its feet are seen on the ground: there it stands, as large as it looks from here.
    const Vec3 down = ray(each.foot);
    const double far = down.y() < -1e-3f ? static_cast<double>(-out.eye.at.y() / down.y()) : -1;
    const bool stands = far > 0.2 && far < 6 * each.far && far > each.far / 6;
    const double used = stands ? far : each.far;
    const Vec3 at = out.eye.at + ray(each.root) * static_cast<float>(used),
               foot = out.eye.at + down * static_cast<float>(used);
    Thing thing;
    thing.id = newThingId(out);
    thing.name = each.name.empty() ? "Figure" : each.name;
    thing.place.at = {at.x(), stands ? 0 : foot.y(), at.z()};
    const Vec3 to = out.eye.at - at;
    thing.place.turn = static_cast<float>(std::atan2(to.x(), to.z()) * static_cast<float>(degrees));
    const double size = each.size * used / focal;
    // What it leans as the eye sees it is the eye's own tilt as well.
    each.angles = turnedWhole(pose::skeletonOf(each.person ? "human" : "four-legged"), std::move(each.angles),
                              Eigen::AngleAxisd(tilt, Eigen::Vector3d::UnitX()).toRotationMatrix());
    if (each.person) {
      Person person;
      person.angles = std::move(each.angles);
      person.size = static_cast<float>(std::clamp(size, 0.2, 4.0));
      thing.is = std::move(person);
    } else {
      Beast beast;
      beast.angles = std::move(each.angles);
      beast.size = static_cast<float>(std::clamp(size, 0.1, 5.0));
      thing.is = std::move(beast);
    }
    out.things.push_back(std::move(thing));
  }
  return out;
}

}  // namespace hscaffold::stage
