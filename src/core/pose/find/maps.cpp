#include "core/pose/find/maps.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/image/filter.h"

namespace hscaffold::pose {

std::size_t bodyPointsOf(const Skeleton& skeleton) {
  std::size_t count = 0;
  while (count < skeleton.points.size() && skeleton.isBody(count)) ++count;
  return count;
}

std::vector<std::pair<std::size_t, std::size_t>> limbsOf(const Skeleton& skeleton) {
  std::vector<std::pair<std::size_t, std::size_t>> out;
  const std::size_t points = bodyPointsOf(skeleton);
  for (const Bone& bone : skeleton.bones)
    if (bone.from < points && bone.to < points) out.emplace_back(bone.from, bone.to);
  return out;
}

PointMaps pointMapsFrom(const networks::Tensor& answer, const Skeleton& skeleton, const std::string& where) {
  const std::size_t points = bodyPointsOf(skeleton), limbs = limbsOf(skeleton).size();
  const auto& shape = answer.shape;
  if (shape.size() != 4 || shape[0] != 1 || static_cast<std::size_t>(shape[1]) != points + 2 * limbs + 1 ||
      shape[2] < 1 || shape[3] < 1)
    throw badInput(fmt::format("{} answers with {} instead of maps of {} key points and {} limbs.", where,
                               fmt::join(shape, " x "), points, limbs));
  const Size size{shape[3], shape[2]};
  std::size_t at = 0;
  const auto next = [&] {
    Image<float> out(size);
    for (int y = 0; y < size.height; ++y) {
      std::copy_n(answer.values.begin() + static_cast<std::ptrdiff_t>(at), size.width, out.row(y));
      at += static_cast<std::size_t>(size.width);
    }
    return out;
  };
  PointMaps out;
  for (std::size_t p = 0; p < points; ++p) out.heat.push_back(next());
  for (std::size_t l = 0; l < limbs; ++l) {
    out.along.push_back(next());
    out.down.push_back(next());
  }
  out.figure = next();
  return out;
}

PointMaps withMirrored(PointMaps straight, const PointMaps& mirrored, const Skeleton& skeleton) {
  const auto join = [](Image<float>& into, const Image<float>& other, float sign) {
    for (int y = 0; y < into.height(); ++y)
      for (int x = 0; x < into.width(); ++x) into(x, y) = 0.5f * (into(x, y) + sign * other(into.width() - 1 - x, y));
  };
  for (std::size_t p = 0; p < straight.heat.size(); ++p)
    join(straight.heat[p], mirrored.heat[skeleton.points[p].mirror], 1);
  const auto limbs = limbsOf(skeleton);
  for (std::size_t l = 0; l < limbs.size(); ++l) {
    const std::pair other{skeleton.points[limbs[l].first].mirror, skeleton.points[limbs[l].second].mirror};
    // A limb between both sides is its own mirror image, seen from its other end.
    const std::pair back{other.second, other.first};
    for (std::size_t m = 0; m < limbs.size(); ++m) {
      if (limbs[m] != other && limbs[m] != back) continue;
      const float way = limbs[m] == other ? 1.0f : -1.0f;
      join(straight.along[l], mirrored.along[m], -way);
      join(straight.down[l], mirrored.down[m], way);
      break;
    }
  }
  join(straight.figure, mirrored.figure, 1);
  return straight;
}

PointMaps meanOf(const std::vector<PointMaps>& looks) {
  const float share = 1.0f / static_cast<float>(looks.size());
  const auto joined = [&](const auto& of) {
    Image<float> out = of(looks.front()).clone();
    for (int y = 0; y < out.height(); ++y)
      for (float& v : out.line(y)) v *= share;
    for (std::size_t i = 1; i < looks.size(); ++i) {
      const Image<float>& other = of(looks[i]);
      const float sx = static_cast<float>(other.width()) / static_cast<float>(out.width()),
                  sy = static_cast<float>(other.height()) / static_cast<float>(out.height());
      for (int y = 0; y < out.height(); ++y)
        for (int x = 0; x < out.width(); ++x)
          out(x, y) += share * sampleLinear(View<float>(other), (static_cast<float>(x) + 0.5f) * sx,
                                            (static_cast<float>(y) + 0.5f) * sy);
    }
    return out;
  };
  PointMaps out;
  out.stride = looks.front().stride;
  for (std::size_t p = 0; p < looks.front().heat.size(); ++p)
    out.heat.push_back(joined([p](const PointMaps& m) -> const Image<float>& { return m.heat[p]; }));
  for (std::size_t l = 0; l < looks.front().along.size(); ++l) {
    out.along.push_back(joined([l](const PointMaps& m) -> const Image<float>& { return m.along[l]; }));
    out.down.push_back(joined([l](const PointMaps& m) -> const Image<float>& { return m.down[l]; }));
  }
  out.figure = joined([](const PointMaps& m) -> const Image<float>& { return m.figure; });
  return out;
}

}  // namespace hscaffold::pose
