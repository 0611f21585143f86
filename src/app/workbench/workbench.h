/// What the hand works with: the tool in it, how it is set, hand work and pose work on the selected guide. Outlives
/// themes and views.
#pragma once

#include <QObject>
#include <memory>
#include <string>

#include "app/widgets/linked_view.h"
#include "app/workbench/depth/depth_guess.h"
#include "app/workbench/depth/depth_work.h"
#include "app/workbench/hand_work.h"
#include "app/workbench/light/light_work.h"
#include "app/workbench/pose/figure_search.h"
#include "app/workbench/pose/pose_work.h"
#include "app/workbench/table_tool.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;
class TaskRunner;
struct KindTools;

class Workbench : public QObject {
  Q_OBJECT
 public:
  Workbench(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent = nullptr);
  ~Workbench() override;

  [[nodiscard]] const Guide* guide() const;  ///< the selected one; null if there is none
  /// What is offered for it; null if there is none.
  [[nodiscard]] const KindTools* kindTools() const;
  /// What is offered now: what the kind offers, or what its region does; null if no guide is selected.
  [[nodiscard]] const KindTools* offered() const;
  /// The tools of it.
  [[nodiscard]] const std::vector<ToolInfo>& tools() const;

  void setTool(ToolId tool);
  [[nodiscard]] ToolId tool() const { return toolId_; }
  /// Null for `look`.
  [[nodiscard]] TableTool* toolInHand() const { return tool_.get(); }
  /// Makes the tool in hand larger or smaller.
  void scaleTool(double factor);
  /// Takes a tool that need not be offered for the selected guide, if there is one at all; it stays until it is done.
  void take(const ToolInfo& info);

  /// Tools of the region are shown, and the guide's region is tinted.
  void setRegionShown(bool shown);
  [[nodiscard]] bool regionShown() const { return regionShown_; }
  /// In placing, the reference is moved, scaled and turned.
  void setPlacing(bool placing);
  [[nodiscard]] bool placing() const { return placing_; }
  /// Where the extraction moved under retouch since that was done.
  void setMovedShown(bool shown);
  [[nodiscard]] bool movedShown() const { return movedShown_; }
  [[nodiscard]] int movedUnder() const;

  HandWork work;
  PoseWork pose;
  DepthWork depth;
  DepthGuess depthGuess;
  LightWork light;
  FigureSearch search;
  ToolSettings settings;
  LinkedView view;  ///< zoom and pan of the tables

 signals:
  void toolChanged();
  void toolSized();  ///< the tool in hand is the same, only larger or smaller
  void regionShownChanged();
  void placingChanged(bool placing);
  void looksChanged();  ///< something is shown in another way
  void workChanged();   ///< what is selected, or set, in the work of a kind
  void libraryAsked();  ///< the pose library, or that it closes
  void lookAsked();     ///< at the figure that is selected

 private:
  void follow();
  void hold(const ToolInfo* info, bool guest = false);

  StudyDocument& document_;
  MapRoom& maps_;
  ToolId toolId_ = ToolName::look;
  std::unique_ptr<TableTool> tool_;
  bool guest_ = false;     ///< the tool in hand is none of those that are offered
  std::string toolGuide_;  ///< guide that the tool was taken for
  bool regionShown_ = false, placing_ = false, movedShown_ = false;
};

}  // namespace hscaffold::app
