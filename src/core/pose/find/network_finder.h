/// Finds people with the network that comes with the program: once over the whole picture at several scales, then again
/// on a cut-out of each figure, together with its mirror image.
#pragma once

#include <optional>
#include <span>

#include "core/networks/network.h"
#include "core/pose/find/decode.h"
#include "core/pose/finder.h"

namespace hscaffold::pose {

struct NetworkFinderTuning {
  float faintest = 0.12f;         ///< key points fainter than this are none, as the network has them
  double faintestFigure = 0.20;   ///< figures whose points are fainter in the mean are dropped, [0, 1]
  bool again = true;              ///< the second look
  bool turned = true;             ///< quarter turns of the picture where nobody is seen plainly
  std::optional<Bounds> box;      ///< one figure, within this part of the picture
  bool brief = false;             ///< looks of fewer sizes: quicker, less sure
  std::size_t mostFigures = 100;  ///< the surest
};

/// Whether the network is installed. It is offered only then.
bool canFindPeople();

class NetworkFinder : public FigureFinder {
 public:
  /// The network itself is read when it is first asked to find.
  explicit NetworkFinder(NetworkFinderTuning tuning = {}) : tuning_(std::move(tuning)) {}
  /// From the bytes of a network, for tests and training. @param where  for messages
  /// @throws Problem (badInput)
  NetworkFinder(std::span<const std::byte> onnx, const std::string& where, NetworkFinderTuning tuning = {});

  void tune(NetworkFinderTuning tuning) { tuning_ = std::move(tuning); }
  [[nodiscard]] std::string name() const override { return "Humble Scaffold"; }
  /// The surest first. @throws Problem (badInput) if the model is missing or damaged, Cancelled
  std::vector<Figure> find(View<Rgb> picture, StopToken stop) override;

 private:
  /// What the network says of a part of the picture, brought to `side` pixels on its longer side.
  struct Look {
    PointMaps maps;
    double scale = 1;          ///< pixels of the picture a pixel of what was looked at
    double left = 0, top = 0;  ///< where the part lies
  };
  /// @param cut  the part, at any size.
  Look lookAt(View<Rgb> cut, const Bounds& part, int side, bool mirrored, const StopToken& stop);
  Look look(View<Rgb> picture, const Bounds& part, int side, bool mirrored, const StopToken& stop);
  /// The one figure in a box, looked at with some room round it at several sizes, together with its mirror image.
  std::optional<Figure> lookCloser(View<Rgb> picture, const Bounds& box, const StopToken& stop);
  std::vector<Figure> within(const Look& look) const;
  std::vector<Figure> inBox(View<Rgb> picture, const Bounds& box, const StopToken& stop);
  /// @param closer  so many guesses, the strongest, are looked at again; with few, small figures of large pictures are
  /// not looked for.
  std::vector<Figure> everywhere(View<Rgb> picture, std::size_t closer, const StopToken& stop);
  /// Where nobody is seen plainly, the picture is turned by quarters: somebody may lie, hang or stand on their head.
  std::vector<Figure> orTurned(View<Rgb> picture, std::vector<Figure> found, const StopToken& stop);

  NetworkFinderTuning tuning_;
  std::optional<networks::Network> network_;
  std::string where_;
};

/// The person in a box of a picture, looked at briefly: for measures, which may run on several threads at once. Points
/// have the picture's places and confidences. None where the network is not installed. @throws Cancelled
std::optional<Figure> personIn(View<Rgb> picture, const Bounds& box, const StopToken& stop);

/// How often a point of that strength is right where somebody is, and how often somebody is where the mean strength of
/// a figure's points is that: their product is shown as the confidence of a point.
double calibrated(double strength);
double likelihood(double strength);

}  // namespace hscaffold::pose
