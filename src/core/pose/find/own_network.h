/// Finding key points with a network that the artist has: an ONNX file with a description of its own
/// (docs/networks.md). It answers about one figure, in the whole picture or in a part of it.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/networks/network.h"
#include "core/pose/finder.h"

namespace hscaffold::pose {

/// What such a network takes in and answers with.
struct PointAnswer {
  enum class Form {
    maps,   ///< 1 x points x H x W: how likely each point is where
    points  ///< 1 x points x 2 or 3: to the right, down, and how sure
  };
  networks::InputForm input;
  std::string skeleton;
  std::vector<std::optional<std::size_t>> points;  ///< of the skeleton, in the network's order; none: not used
  Form form = Form::maps;
  bool inPixels = false;  ///< points are in pixels of what went in; otherwise in shares of it
};
/// {"points": ["nose", "", ...], "means": "maps" | "points", "unit": "share" | "pixels", "skeleton": "human"} and the
/// fields of `networks::inputFormFrom`. @throws Problem (badInput)
PointAnswer pointAnswerFrom(const std::string& text, const std::string& where);

/// @param part  what went in, in the picture's pixels. @param answer  the network's first output.
/// @return none if no point is as sure as `faintest`. @throws Problem (badInput) if its shape is another
std::optional<Figure> figureFrom(const networks::Tensor& answer, const PointAnswer& how, const Bounds& part,
                                 const std::string& where, double faintest = 0.05);

class OwnNetworkFinder : public FigureFinder {
 public:
  /// @param boxes  a figure is looked for in each; empty: where `NetworkFinder` finds some, or else in the whole
  /// picture.
  explicit OwnNetworkFinder(std::filesystem::path onnx, std::vector<Bounds> boxes = {})
      : onnx_(std::move(onnx)), boxes_(std::move(boxes)) {}
  [[nodiscard]] std::string name() const override { return onnx_.stem().string(); }
  /// @throws Problem (badInput) if file or description are not usable, Cancelled
  std::vector<Figure> find(View<Rgb> picture, StopToken stop) override;

 private:
  std::filesystem::path onnx_;
  std::vector<Bounds> boxes_;
};

}  // namespace hscaffold::pose
