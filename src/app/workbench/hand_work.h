/// What the artist does by hand on the selected guide: retouch, region and strokes. Unfinished strokes are shown at
/// once; what is finished is one undoable change of the study, written to its file before this returns.
#pragma once

#include <QObject>
#include <QPointF>
#include <QPolygonF>
#include <functional>
#include <optional>
#include <set>

#include "app/workbench/followed_piece.h"
#include "core/guides/kind.h"
#include "core/retouch/painter.h"
#include "core/strokes/drawing.h"
#include "core/strokes/trace.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;
class TaskRunner;

enum class Surface { retouch, region };

class HandWork : public QObject {
  Q_OBJECT
 public:
  HandWork(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent = nullptr);

  /// A brush stroke, in frame pixels. @return false if there is no map to work on yet
  bool begin(Surface surface, const Brush& brush, QPointF at, double pressure);
  void strokeTo(QPointF at, double pressure);
  void end();
  void cancel();
  [[nodiscard]] bool active() const { return stroke_.has_value(); }

  /// Rubs out (or fills, takes back) inside or outside of a loop.
  void fillLoop(Surface surface, PaintMode mode, const QPolygonF& loop, bool outside);
  void dropSpecks(double area);
  void setRetouchHidden(bool hidden);
  void clearRetouch();
  /// A new guide with the map as it is, the other one turned off.
  void mergeRetouch();
  /// Takes retouch back where the extraction has moved under it.
  void releaseMoved();

  void growRegion(PaintMode mode, QPointF at, double tolerance, bool joined);
  void setFeather(double pixels, bool live);
  void invertRegion();
  void clearRegion();

  /// The selected guide, if there is one, and the frame that it acts in.
  [[nodiscard]] const Guide* guide() const;
  [[nodiscard]] Size frame() const;
  /// Settings of its map, as one step. Changes of one `merge` join until `endTuning`.
  void tune(const QString& name, const Tuning& values, const std::string& merge = {});
  void retune(const QString& name, const std::function<void(Tuning&)>& edit, const std::string& merge = {});
  void endTuning();
  /// Has the guide made from the reference that is looked at, or the last one, with these settings.
  void takeReference(const QString& name, const Tuning& values);
  [[nodiscard]] bool hasReference() const;
  /// How near things are over the frame, as a depth guide of the study has it; null if there is none.
  [[nodiscard]] std::shared_ptr<const Map> nearMap() const;

  /// The guide's own strokes; empty if it has none.
  [[nodiscard]] std::shared_ptr<const Drawing> drawing() const;
  /// Turns the guide's map into strokes that take the place of the extraction and of retouch.
  void trace();
  /// Another guide of loose lines, traced from this one's map.
  void traceLoosely();
  /// Gives up the strokes; the extraction comes back.
  void dropDrawing();
  using Strokes = std::vector<std::shared_ptr<const Stroke>>;
  /// Any change of the strokes, as one step. With `merge`, changes of the same key join until the study is sealed.
  void editStrokes(const QString& name, const std::function<void(Strokes&)>& edit, const std::string& merge = {});

 signals:
  void worked(const QString& sentence);  ///< what was done, where it cannot be seen

 private:
  [[nodiscard]] Layer layerOf(const Guide& guide, Surface surface) const;
  void put(const QString& name, const std::string& guide, Surface surface, Layer layer);
  /// From a layer and what lies below it to the next one; empty if there is nothing to do. Runs in the background, so
  /// it holds values only.
  struct LayerResult {
    std::optional<Layer> layer;
    QString said;  ///< where it cannot be seen
  };
  using LayerJob = std::function<LayerResult(const Layer& layer, const Map& below)>;
  /// For the selected guide; what was done by hand before it is finished is kept.
  void make(const QString& name, Surface surface, LayerJob job);
  void makeFor(const std::string& guide, const QString& name, Surface surface, const LayerJob& job);
  std::string nextKey();
  /// Traces the map as it is, retouch and all, and keeps the strokes.
  using Traced = std::function<void(const Guide& source, const std::string& drawing, const Tracing&)>;
  void inStrokes(const std::string& guide, const Traced& done);
  /// Runs now, or once the stroke that is being drawn has ended.
  void whenFree(const std::function<void()>& call);

  StudyDocument& document_;
  MapRoom& maps_;
  TaskRunner& tasks_;
  std::vector<std::function<void()>> afterStroke_;
  std::optional<BrushStroke> stroke_;
  Surface surface_ = Surface::retouch;
  PaintMode mode_ = PaintMode::draw;
  std::string guide_;
  int works_ = 0;
  std::shared_ptr<const Map> below_;
  std::shared_ptr<const Layer> otherLayer_;  ///< the retouch under a region that is being painted; may be null
  mutable FollowedPiece<Drawing> drawing_;
};

}  // namespace hscaffold::app
