/// What the pointer does on the source table.
#pragma once

#include <QCursor>
#include <QPainter>
#include <QTransform>
#include <functional>
#include <memory>
#include <optional>
#include <string_view>

#include "app/workbench/row_entries.h"
#include "core/pose/figure.h"

class QKeyEvent;
class QMenu;

namespace hscaffold::app {

class DepthWork;
class HandWork;
class LightWork;
class PoseWork;

/// A tool by its id. Each family of tools names its own.
struct ToolId {
  std::string_view id;
  friend bool operator==(const ToolId&, const ToolId&) = default;
};
namespace ToolName {
inline constexpr ToolId look{"look"};  ///< none in hand: dragging moves the view
}

/// What tools have in common and the artist sets.
struct ToolSettings {
  double size = 14;                  ///< diameter in frame pixels
  double hardness = 80;              ///< percent
  double tolerance = 12;             ///< of colours, percent
  double penWidth = 3;               ///< in frame pixels
  double penCalm = 1.5;              ///< how far a fitted stroke may leave the hand's path, in screen pixels
  std::optional<pose::Figure> pose;  ///< to be put on the picture
};

/// What tools work on.
struct ToolContext {
  HandWork& work;
  PoseWork& pose;
  DepthWork& depth;
  LightWork& light;
  ToolSettings& settings;
};

/// Pixels of the screen from a line or a dab within which it is taken.
inline constexpr double reachOnScreen = 10;

/// A pointer event in frame coordinates.
struct ToolPointer {
  QPointF at;
  Qt::KeyboardModifiers modifiers;
  double pressure = 1;
  double scale = 1;  ///< screen pixels per frame pixel
};

class TableTool {
 public:
  explicit TableTool(const ToolContext& context)
      : work_(context.work),
        pose_(context.pose),
        depth_(context.depth),
        light_(context.light),
        settings_(context.settings) {}
  virtual ~TableTool() = default;
  TableTool(const TableTool&) = delete;
  TableTool& operator=(const TableTool&) = delete;

  virtual void press(const ToolPointer&) {}
  virtual void move(const ToolPointer&) {}  ///< with the button down
  virtual void release(const ToolPointer&) {}
  virtual void hover(const ToolPointer&) {}
  virtual void leave() {}  ///< the pointer is not over the table any more
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
  /// The place in the frame that should be seen enlarged, while it is being placed.
  [[nodiscard]] virtual std::optional<QPointF> magnified() const { return {}; }
  /// The numbers that it goes by, for the row of tools; one that is called "Size" follows [ and ].
  [[nodiscard]] virtual std::vector<RowField> fields() { return {}; }
  /// Whether a press with Alt is for it; otherwise that moves the view.
  [[nodiscard]] virtual bool takesAlt() const { return false; }
  /// Whether the next press belongs to another tool: this one is done.
  [[nodiscard]] virtual bool done() const { return false; }

 protected:
  /// The diameter that brushes have in common.
  [[nodiscard]] RowField sizeField() {
    return {"Size",
            "Size of the brush: [ and ], or Ctrl+wheel over the table",
            {1, 600, 14, 1, 0, "px"},
            [&s = settings_] { return s.size; },
            [&s = settings_](double size) { s.size = size; }};
  }

  HandWork& work_;
  PoseWork& pose_;
  DepthWork& depth_;
  LightWork& light_;
  ToolSettings& settings_;
};

/// A tool as it is offered.
struct ToolInfo {
  ToolId id;
  const char* icon;  ///< null: not in the row of tools
  const char* tip;   ///< begins with its name
  int key;           ///< 0: none
  std::unique_ptr<TableTool> (*make)(const ToolContext& context);
};

}  // namespace hscaffold::app
