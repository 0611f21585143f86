/// The picture of the stage as it is painted on other threads, and kept there: of what is dragged, only what changes
/// with it is painted again.
#pragma once

#include <QImage>
#include <memory>
#include <mutex>

#include "core/stage/stand.h"

namespace hscaffold::app {

class StageCanvas {
 public:
  struct Shown {
    std::shared_ptr<const stage::Stand> stand;
    QImage picture;
    Image<std::uint16_t> object;  ///< numbers are places in the stand's things plus 1
    bool resized = false;         ///< the one before had another size, so that nothing of it could be kept
  };
  /// One call at a time; others wait. @param coarse  shadows may be @throws Cancelled
  Shown paint(const stage::Scene& scene, const stage::Camera& camera, bool coarse, const StopToken& stop);

 private:
  std::mutex one_;
  std::shared_ptr<const stage::Stand> stand_;
  stage::KeptPicture kept_;
  QImage picture_;
};

/// How coarse pictures are while something is dragged, so that they keep up with it.
class DragPace {
 public:
  explicit DragPace(double coarseness) : coarseness_(coarseness) {}
  /// @param took  milliseconds, of a picture of that coarseness
  void keepUp(double took);
  /// [1, 3]: pixels of the window for one of the picture, along each side
  [[nodiscard]] double coarseness() const { return coarseness_; }

 private:
  double coarseness_;
};

}  // namespace hscaffold::app
