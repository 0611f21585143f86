/// Finds people and four-legged animals with the networks that come with the program: once over the whole picture at
/// several scales, then again on a cut-out of each figure, together with its mirror image.
#pragma once

#include <optional>
#include <span>

#include "core/networks/network.h"
#include "core/pose/find/decode.h"
#include "core/pose/finder.h"

namespace hscaffold::pose {

/// Who is looked for; people and animals have a network each.
enum class Sought { people, animals, everybody };

struct NetworkFinderTuning {
  Sought sought = Sought::people;
  float faintest = 0.12f;          ///< key points fainter than this are none, as the network has them
  double faintestFigure = 0.20;    ///< figures whose points are fainter in the mean are dropped, [0, 1]
  bool again = true;               ///< the second look
  bool turned = true;              ///< quarter turns of the picture where nobody is seen plainly
  std::optional<Bounds> box = {};  ///< one figure, within this part of the picture
  bool brief = false;              ///< looks of fewer sizes: quicker, less sure
  std::size_t mostFigures = 100;   ///< the surest
};

/// Whether a network for them is installed; for everybody: any. Finding is offered only then.
bool canFind(Sought sought);

class NetworkFinder : public FigureFinder {
 public:
  /// The networks themselves are read when it is first asked to find.
  explicit NetworkFinder(NetworkFinderTuning tuning = {}) : tuning_(std::move(tuning)) {}
  /// From the bytes of a network that knows whom the tuning seeks, people or animals; for tests and training.
  /// @param where  for messages
  /// @throws Problem (badInput)
  NetworkFinder(std::span<const std::byte> onnx, const std::string& where, NetworkFinderTuning tuning = {});

  void tune(NetworkFinderTuning tuning) { tuning_ = std::move(tuning); }
  [[nodiscard]] std::string name() const override { return "Humble Scaffold"; }
  /// The surest first. Everybody: whom the networks know that are installed.
  /// @throws Problem (badInput) if a model is missing or damaged, Cancelled
  std::vector<Figure> find(View<Rgb> picture, StopToken stop) override;

 private:
  /// A network, and whose key points it knows.
  struct Eye {
    Sought knows;
    const Skeleton* skeleton;
    networks::Network network;
    std::string where;
  };
  /// What an eye says of a part of the picture.
  struct Look {
    PointMaps maps;
    double scale = 1;          ///< pixels of the picture a pixel of what was looked at
    double left = 0, top = 0;  ///< where the part lies
  };
  /// How much a whole picture is worth.
  struct Effort {
    std::size_t closer;  ///< so many guesses, the strongest, are looked at again
    bool parts;          ///< a large picture part by part, too: small figures
  };
  void open();
  /// @param cut  the part, at any size; it is brought to `side` pixels on its longer side.
  static Look lookAt(Eye& eye, View<Rgb> cut, const Bounds& part, int side, bool mirrored, const StopToken& stop);
  std::vector<Figure> within(const Eye& eye, const Look& look) const;
  /// What an eye takes for somebody at first sight.
  struct Guesses {
    std::vector<Figure> figures;
    std::vector<Bounds> places;  ///< where somebody is, whatever limbs say
  };
  /// The one figure in a box, looked at with some room round it at several sizes, together with its mirror image.
  std::optional<Figure> lookCloser(Eye& eye, View<Rgb> picture, const Bounds& box, const StopToken& stop) const;
  std::vector<Figure> inBox(View<Rgb> picture, const Bounds& box, const StopToken& stop);
  std::vector<Figure> everywhere(View<Rgb> picture, Effort effort, const StopToken& stop);
  /// Places, then guesses, the strongest first, looked at again.
  std::vector<Figure> again(Eye& eye, View<Rgb> picture, Guesses guesses, Effort effort, const StopToken& stop) const;
  /// How strong the strongest is in one look at a small picture.
  double atAGlance(View<Rgb> picture, const StopToken& stop);
  /// Where nobody is seen plainly, the picture is turned by quarters: somebody may lie, hang or stand on their head.
  std::vector<Figure> orTurned(View<Rgb> picture, std::vector<Figure> found, const StopToken& stop);

  NetworkFinderTuning tuning_;
  std::vector<Eye> eyes_;
};

/// The person or animal in a box of a picture, looked at briefly: for measures, which may run on several threads at
/// once. Points have the picture's places and confidences. None where no network for them is installed. @throws
/// Cancelled
std::optional<Figure> figureIn(View<Rgb> picture, const Bounds& box, Sought sought, const StopToken& stop);
/// Whom figures of that skeleton are found as; none if no network of ours knows them.
std::optional<Sought> soughtAs(const std::string& skeleton);

/// How often a point of that strength is right where somebody is, and how often somebody is where the mean strength of
/// a figure's points is that: their product is shown as the confidence of a point. Measured on people; holds for
/// animals.
double calibrated(double strength);
double likelihood(double strength);

}  // namespace hscaffold::pose
