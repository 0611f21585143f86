#include "core/pose/pose_fixtures.h"

using namespace hscaffold;
using namespace hscaffold::pose;

namespace fixtures {

std::size_t at(const std::string& point, const std::string& skeleton) { return *skeletonOf(skeleton).find(point); }

Figure posedAs(const std::string& name, double size, Point place) {
  for (const NamedPose& pose : housePoses())
    if (pose.name == name) {
      BodyPlace where;
      where.size = size;
      where.at = place;
      return figureFrom(skeletonOf(pose.skeleton), pose.pose, where);
    }
  throw std::runtime_error("no such pose");
}

std::vector<Figure> someFigures(std::size_t every) {
  std::vector<Figure> out;
  for (std::size_t i = 0; i < housePoses().size(); i += every) {
    BodyPlace place;
    place.size = 120 + 40.0 * static_cast<double>(i % 7);
    place.at = {400, 300};
    out.push_back(figureFrom(skeletonOf(housePoses()[i].skeleton), housePoses()[i].pose, place));
    Figure guessed = out.back();
    guessed.body.reset();
    guessed.natural = naturalFor(guessed);
    out.push_back(std::move(guessed));
  }
  return out;
}

double largestMove(const Figure& a, const Figure& b) {
  double most = 0;
  for (std::size_t i = 0; i < a.points.size(); ++i)
    most = std::max(most, distanceBetween(a.points[i].at, b.points[i].at));
  return most;
}

}  // namespace fixtures
