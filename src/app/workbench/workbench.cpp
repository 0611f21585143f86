#include "app/workbench/workbench.h"

#include <algorithm>

#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/workbench/kind_tools.h"
#include "app/workbench/paint/paint_tools.h"

namespace hscaffold::app {

Workbench::Workbench(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent)
    : QObject(parent),
      work(document, maps, tasks),
      pose(document, maps),
      depth(document, maps),
      depthGuess(document, maps, tasks),
      light(document, maps, tasks),
      search(pose, document, maps, tasks),
      document_(document),
      maps_(maps) {
  connect(&pose, &PoseWork::changed, this, &Workbench::workChanged);
  connect(&depth, &DepthWork::changed, this, &Workbench::workChanged);
  connect(&light, &LightWork::changed, this, &Workbench::workChanged);
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

const KindTools* Workbench::offered() const {
  const KindTools* kind = kindTools();
  return kind != nullptr && regionShown_ ? &regionEntries() : kind;
}

const std::vector<ToolInfo>& Workbench::tools() const {
  static const std::vector<ToolInfo> none;
  const KindTools* now = offered();
  return now != nullptr ? now->tools : none;
}

void Workbench::follow() {
  const auto& frame = document_.state().frame;
  view.setFrame({frame.width, frame.height});
  const KindTools* kind = kindTools();
  const std::string id = kind != nullptr ? guide()->id : std::string();
  // A tool that the selected guide does not know is put away.
  const auto& now = tools();
  const bool fits = std::any_of(now.begin(), now.end(), [&](const ToolInfo& info) { return info.id == toolId_; });
  if (!fits && toolId_ != ToolName::look && !guest_) setTool(ToolName::look);
  if (kind != nullptr && id != toolGuide_ && toolId_ == ToolName::look && !placing_ && !regionShown_)
    setTool(kind->first);
  toolGuide_ = id;
}

void Workbench::setTool(ToolId tool) {
  if (tool == toolId_) return;
  const auto& all = tools();
  const auto found = std::find_if(all.begin(), all.end(), [&](const ToolInfo& info) { return info.id == tool; });
  if (found != all.end()) return hold(&*found);
  hold(nullptr);
}

void Workbench::take(const ToolInfo& info) { hold(&info, true); }

/// @param info  null: none
void Workbench::hold(const ToolInfo* info, bool guest) {
  if (tool_) tool_->cancel();
  guest_ = guest;
  toolId_ = info != nullptr ? info->id : ToolName::look;
  tool_ = info != nullptr ? info->make({work, pose, depth, light, settings}) : nullptr;
  if (tool_) setPlacing(false);
  emit toolChanged();
}

void Workbench::scaleTool(double factor) {
  if (!tool_) return;
  for (const RowField& field : tool_->fields())
    if (field.name == std::string_view("Size")) {
      field.set(std::clamp(field.value() * factor, field.limits.least, field.limits.most));
      emit toolSized();
    }
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
