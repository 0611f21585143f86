#include "files/figure_files.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/frame/frame.h"

namespace hscaffold {
namespace {

constexpr std::size_t largestFigures = 64u << 20;

}  // namespace

pose::BvhMapping mappingFor(const pose::BvhClip& clip, const ClipChoice& choice) {
  auto mapping = pose::mappingByName(clip);
  for (const auto& [point, name] : choice.joints) {
    const auto found = std::find_if(clip.joints.begin(), clip.joints.end(),
                                    [&, wanted = name](const pose::BvhJoint& joint) { return joint.name == wanted; });
    if (found == clip.joints.end()) throw badInput("The clip has no joint \"" + name + "\".");
    mapping[point] = static_cast<int>(found - clip.joints.begin());
  }
  return mapping;
}

pose::Figure inTheMiddle(const pose::Figure& figure, Size frame) {
  const double w = frame.width, h = frame.height;
  return pose::fittedInto(figure, pose::Bounds{0.125 * w, 0.125 * h, 0.875 * w, 0.875 * h});
}

pose::CocoFigures figuresFromFile(std::span<const std::byte> bytes, const std::string& name, Size frame,
                                  const ClipChoice& choice) {
  if (bytes.size() > largestFigures)
    throw badInput(
        fmt::format("{} has {} MB; files of up to {} MB are read.", name, bytes.size() >> 20, largestFigures >> 20));
  const std::string text = textOf(bytes);
  if (text.find("HIERARCHY") < 64) {
    const auto clip = pose::bvhFrom(text, name);
    if (choice.frame >= clip.frames)
      throw badInput(fmt::format("{} has {} frames, 0 to {}; there is no frame {}.", name, clip.frames, clip.frames - 1,
                                 choice.frame));
    pose::CocoFigures out;
    out.size = frame.area() > 0 ? frame : Size{768, 768};
    out.figures.frame = out.size;
    auto figure = inTheMiddle(figureOf(clip, choice.frame, mappingFor(clip, choice), choice.view), out.size);
    figure.name = name.substr(0, name.find('.'));
    out.figures.figures.push_back(std::make_shared<const pose::Figure>(std::move(figure)));
    return out;
  }
  auto out = pose::figuresFromCoco(text, name);
  if (frame.area() > 0) {
    out.figures = pose::fittedInto(std::move(out.figures), out.size, frame);
    out.size = frame;
  } else if (out.size.area() == 0) {
    throw badInput(name + " does not say how large its picture is.");
  }
  if (out.size.width > largestSide || out.size.height > largestSide)
    throw badInput(fmt::format("{}: its picture has {} x {} pixels; sides of up to {} are taken.", name, out.size.width,
                               out.size.height, largestSide));
  return out;
}

}  // namespace hscaffold
