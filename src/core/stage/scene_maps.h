/// Maps of a scene, all from one look at it.
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "core/pose/figure.h"
#include "core/stage/lines.h"
#include "core/stage/scene.h"

namespace hscaffold::stage {

/// What a thing is called: its name, or its id where it has none.
const std::string& calledOf(const Thing& thing);

/// A scene as its eye sees it.
struct Look {
  Set set;
  Camera camera;
  Rendered seen;  ///< lit, with shadows on the ground
};
/// @param size  of the frame
/// @param keep  what is kept finely makes lines quicker @throws Cancelled
Look lookAt(const Scene& scene, Size size, StopToken stop = {}, Keep keep = {});
/// The same by any camera. @param set  of the scene
Look lookThrough(const Scene& scene, Set set, const Camera& camera, StopToken stop = {}, Keep keep = {});
/// Lines of it; quicker where it was kept finely.
std::vector<SeenLine> linesOf(const Look& look, const LineAsk& ask = {}, StopToken stop = {});

/// What of depth is shown, linear in disparity (1 / metres).
struct DepthAsk {
  std::optional<float> near, far;  ///< metres; empty: the nearest that is seen, and endlessly far
  bool figuresOnly = false;        ///< figures and animals; the rest is far, and far is the farthest of them
};
/// 65535 nearest, 0 far and where nothing is.
Image<std::uint16_t> depthMap(const Look& look, const DepthAsk& ask = {});

/// Light from luminance as it is encoded (sRGB), as tone guides have it.
Image<std::uint16_t> toneMap(const Look& look);
/// Where a thing is seen: 65535 there. @param thing  its place in `Scene::things`
Image<std::uint16_t> maskOf(const Look& look, std::size_t thing);

/// Figures and animals in the frame, from far to near: their key points, hidden where anything is before them, absent
/// where they lie behind the eye. Body points only, and the face where a figure has one.
pose::Figures figuresIn(const Scene& scene, const Look& look);

/// The pose of a figure or animal as an eye has it before it: turned by where both stand. Nothing for a thing.
std::optional<pose::BodyPose> poseSeen(const Thing& thing, const Eye& eye);

/// What a scene shows, for a prompt: how many, what they do and from where they are seen, what stands in front of what.
std::string wordsFor(const Scene& scene, const Look& look);

/// Names of what is not whole in the frame: "a knee of Walker is outside". Empty if all is in it.
std::vector<std::string> whatIsOutside(const Scene& scene, Size frame);
/// @param set  of the scene, where it is there already
std::vector<std::string> whatIsOutside(const Scene& scene, const Set& set, Size frame);
/// The same eye moved back, its direction kept, until all that is not hidden lies in the frame with a little room.
Eye fittedEye(const Scene& scene, Size frame);

}  // namespace hscaffold::stage
