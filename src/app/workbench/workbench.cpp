#include "app/workbench/workbench.h"

#include <algorithm>

#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/workbench/kind_tools.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/pose/pose_tools.h"

namespace hscaffold::app {

Workbench::Workbench(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent)
    : QObject(parent),
      work(document, maps, tasks),
      pose(document, maps),
      depth(document, maps),
      depthGuess(document, maps, tasks),
      search(pose, document, maps, tasks),
      document_(document),
      maps_(maps) {
  connect(&document_, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.guideList || changes.frame) follow();
  });
}

Workbench::~Workbench() = default;

const Guide* Workbench::guide() const { return document_.state().selectedGuide(); }

const KindTools* Workbench::kindTools() const {
  const Guide* of = guide();
  return of != nullptr ? &toolsOf(of->kind) : nullptr;
}

const std::vector<ToolInfo>& Workbench::tools() const {
  static const std::vector<ToolInfo> none;
  const KindTools* kind = kindTools();
  return kind == nullptr ? none : regionShown_ ? regionTools() : kind->tools;
}

void Workbench::follow() {
  const auto& frame = document_.state().frame;
  view.setFrame({frame.width, frame.height});
  const KindTools* kind = kindTools();
  const std::string id = kind != nullptr ? guide()->id : std::string();
  // A tool that the selected guide does not know is put away; a pose may be put where no guide of poses is yet.
  const auto& now = tools();
  const bool fits = std::any_of(now.begin(), now.end(), [&](const ToolInfo& info) { return info.id == toolId_; });
  if (!fits && toolId_ != ToolName::look && toolId_ != ToolName::putPose) setTool(ToolName::look);
  if (kind != nullptr && id != toolGuide_ && toolId_ == ToolName::look && !placing_ && !regionShown_)
    setTool(kind->first);
  toolGuide_ = id;
}

void Workbench::setTool(ToolId tool) {
  if (tool == toolId_) return;
  if (tool_) tool_->cancel();
  toolId_ = tool;
  tool_.reset();
  const auto find = [&](const std::vector<ToolInfo>& all) {
    for (const ToolInfo& info : all)
      if (info.id == tool && !tool_) tool_ = info.make({work, pose, depth, settings});
  };
  find(tools());
  // A pose is put on pictures that have no pose guide yet, too.
  if (tool == ToolName::putPose) find(figureTools());
  if (!tool_) toolId_ = ToolName::look;
  if (tool_) setPlacing(false);
  emit toolChanged();
}

void Workbench::scaleTool(double factor) {
  const bool pen = toolId_ == ToolName::pen;
  double& size = pen ? settings.penWidth : settings.size;
  size = std::clamp(size * factor, 1.0, pen ? 60.0 : 600.0);
  emit toolSized();
}

void Workbench::putPose(pose::Figure figure) {
  settings.pose = std::move(figure);
  setTool(ToolName::look);
  setTool(ToolName::putPose);
}

void Workbench::setRegionShown(bool shown) {
  if (shown == regionShown_) return;
  regionShown_ = shown;
  const KindTools* kind = kindTools();
  setTool(shown ? ToolName::paint : kind != nullptr ? kind->first : ToolName::look);
  emit regionShownChanged();
}

void Workbench::setPlacing(bool placing) {
  if (placing == placing_) return;
  placing_ = placing;
  if (placing) {
    setRegionShown(false);
    setTool(ToolName::look);
  }
  emit placingChanged(placing);
}

void Workbench::setMovedShown(bool shown) {
  movedShown_ = shown;
  emit looksChanged();
}

int Workbench::movedUnder() const {
  const Guide* of = guide();
  const MapPicture* map = of != nullptr ? maps_.mapOf(of->id) : nullptr;
  return map != nullptr ? map->movedUnder : 0;
}

}  // namespace hscaffold::app
