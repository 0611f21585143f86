/// What the window offers for guides of a kind: tools with their keys, and menu entries. One file a kind under kinds/.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "app/workbench/table_tool.h"

class QMenu;
class QWidget;

namespace hscaffold::app {

class Workbench;

struct KindTools {
  std::vector<ToolInfo> tools;    ///< in the order of the row
  ToolId first = ToolName::look;  ///< taken in hand when a guide of the kind is chosen
  bool poses = false;             ///< has figures: their strip, their library, their words
  /// What else stands in the row of tools. Asked anew whenever something in it may be another.
  std::function<std::vector<RowField>(Workbench&)> fields = {};
  std::function<std::vector<RowButton>(Workbench&)> buttons = {};
  /// Keys that no tool takes. @return whether it was used
  std::function<bool(Workbench&, const QKeyEvent&)> key = {};
  /// Entries for the selected guide's menu. @param asking  what dialogs belong to
  std::function<void(QMenu&, Workbench&, QWidget* asking)> fillMenu = {};
};
const KindTools& toolsOf(const std::string& kind);

/// Entries that kinds with retouch have in common.
void addRetouchEntries(QMenu& menu, Workbench& bench);
/// Drops specks of the map; for kinds that have such.
std::vector<RowButton> specksButton(Workbench& bench);
/// What kinds have in common that are lines with strokes of their own.
KindTools toolsWithStrokes();

}  // namespace hscaffold::app
