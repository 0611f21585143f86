/// What the pointer does on the source table.
#pragma once

#include <QCursor>
#include <QPainter>
#include <QTransform>
#include <functional>
#include <memory>

#include "app/hand_work.h"

class QKeyEvent;
class QMenu;

namespace hscaffold::app {

enum class ToolName { look, draw, rubOut, restore, keepLoop, dropLoop, pen, strokes, paint, takeAway, addLoop, colour };

/// What tools have in common and the artist sets.
struct ToolSettings {
  double size = 14;       ///< diameter in frame pixels
  double hardness = 80;   ///< percent
  double tolerance = 12;  ///< of colours, percent
  double penWidth = 3;    ///< in frame pixels
  double penCalm = 1.5;   ///< how far a fitted stroke may leave the hand's path, in screen pixels
};

/// A pointer event in frame coordinates.
struct ToolPointer {
  QPointF at;
  Qt::KeyboardModifiers modifiers;
  double pressure = 1;
  double scale = 1;  ///< screen pixels per frame pixel
};

class TableTool {
 public:
  TableTool(HandWork& work, ToolSettings& settings) : work_(work), settings_(settings) {}
  virtual ~TableTool() = default;
  TableTool(const TableTool&) = delete;
  TableTool& operator=(const TableTool&) = delete;

  virtual void press(const ToolPointer&) {}
  virtual void move(const ToolPointer&) {}  ///< with the button down
  virtual void release(const ToolPointer&) {}
  virtual void hover(const ToolPointer&) {}
  /// @return whether it was used
  virtual bool key(QKeyEvent*) { return false; }
  virtual void addToMenu(QMenu&) {}
  /// Esc, or another tool was taken. @return whether there was something to end
  virtual bool cancel() { return false; }
  /// Over the table; `toTable` brings frame coordinates to it.
  virtual void paint(QPainter&, const QTransform& toTable, double scale) const {
    Q_UNUSED(toTable)
    Q_UNUSED(scale)
  }
  /// Diameter, in frame pixels, of the ring that stands for the pointer; 0: the cursor is shown.
  [[nodiscard]] virtual double ring() const { return 0; }
  [[nodiscard]] virtual Qt::CursorShape cursor() const { return Qt::CrossCursor; }

 protected:
  HandWork& work_;
  ToolSettings& settings_;
};

/// Null for `look`.
std::unique_ptr<TableTool> makeTool(ToolName name, HandWork& work, ToolSettings& settings);

}  // namespace hscaffold::app
