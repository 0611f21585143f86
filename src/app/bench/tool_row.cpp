#include "app/bench/tool_row.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>

#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "app/workbench/depth/hint_tools.h"
#include "app/workbench/kind_tools.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/pose/figure_edits.h"

namespace hscaffold::app {
namespace {

QToolButton* iconButton(const char* name, const QString& tip, bool checkable) {
  auto* button = new QToolButton;
  setIcon(*button, name);
  button->setToolTip(tip);
  button->setAccessibleName(tip.section(" (", 0, 0).section(':', 0, 0));
  button->setCheckable(checkable);
  button->setFixedSize(26, 26);
  return button;
}

}  // namespace

ToolRow::ToolRow(Desk& desk, SourceTable& table, QWidget* parent)
    : QWidget(parent), desk_(desk), bench_(desk.workbench), table_(table) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(8, 3, 6, 3);
  row->setSpacing(2);
  toolBox_ = new QHBoxLayout;
  toolBox_->setSpacing(2);
  row->addLayout(toolBox_);
  specks_ = iconButton("specks", "Drop specks", false);
  specks_->setPopupMode(QToolButton::InstantPopup);
  auto* specksMenu = new QMenu(specks_);
  for (const int area : {8, 24, 60, 150, 400})
    specksMenu->addAction(QString("Pieces below %1 px").arg(area), this,
                          [this, area] { bench_.work.dropSpecks(area); });
  specks_->setMenu(specksMenu);
  row->addWidget(specks_);
  row->addSpacing(4);
  fit_ = new QPushButton("Fit");
  fit_->setCheckable(true);
  fit_->setToolTip(
      "The whole body follows when wrists, ankles, head, neck or hips are dragged (F). Off: the limb alone");
  connect(fit_, &QPushButton::clicked, &bench_.pose, &PoseWork::setFitting);
  row->addWidget(fit_);
  library_ = new QPushButton("Poses");
  library_->setToolTip("Pose library (B)");
  connect(library_, &QPushButton::clicked, this, &ToolRow::libraryAsked);
  row->addWidget(library_);
  row->addSpacing(4);
  size_ = addField(row, "Size", "Size of the brush: [ and ], or Ctrl+wheel over the table", 1, 600, 1, "px");
  connect(size_, &ScrubField::edited, this, [this](double value) {
    auto& settings = bench_.settings;
    (bench_.tool() == ToolName::pen ? settings.penWidth : settings.size) = value;
  });
  hardness_ = addField(row, "Hardness", "How hard the brush's border is", 0, 100, 1, "%");
  connect(hardness_, &ScrubField::edited, this, [this](double value) { bench_.settings.hardness = value; });
  tolerance_ = addField(row, "Tolerance", "How far colours may differ", 1, 60, 1, "%");
  connect(tolerance_, &ScrubField::edited, this, [this](double value) { bench_.settings.tolerance = value; });
  feather_ = addField(row, "Feather", "Softening of the region's border", 0, limits::feather.most, 1, "px");
  connect(feather_, &ScrubField::edited, this, [this](double value) { bench_.work.setFeather(value, true); });
  connect(feather_, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  near_ = addField(row, "Near", "What the hint says: 1 nearest, 0 farthest (+ and -)", 0, 1, 0.01, "");
  near_->setUp(0, 1, 0.01, 2, 0.8, "");
  connect(near_, &ScrubField::edited, this, [this](double value) { bench_.depth.changeNear(value); });
  connect(near_, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  doubt_ =
      iconButton("doubt", "Least sure: point out where a hint would help most, one place after the other (N)", false);
  doubt_->setObjectName("least sure");
  connect(doubt_, &QToolButton::clicked, this, [this] {
    bench_.depth.nextDoubt();
    table_.setFocus();
  });
  row->addWidget(doubt_);
  const auto place = [&](const QString& name) {
    return addField(row, name, "Where the selected joint is, in frame pixels", -100'000, 100'000, 1, "");
  };
  x_ = place("x");
  y_ = place("y");
  for (ScrubField* field : {x_, y_}) {
    field->setUp(-100'000, 100'000, 1, 1, 0, "");
    field->setFixedWidth(58);
    connect(field, &ScrubField::edited, this, [this, field](double value) {
      PoseWork& pose = bench_.pose;
      if (!pose.selected() || pose.points().size() != 1) return;
      const std::size_t point = *pose.points().begin();
      const Point now = pose.selectedFigure()->points[point].at;
      placePoint(pose, *pose.selected(), point, field == x_ ? QPointF(value, now.y) : QPointF(now.x, value));
    });
    connect(field, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  }
  row->addStretch(1);
  invert_ = new QToolButton;
  invert_->setObjectName("invert region");
  invert_->setText("Invert");
  invert_->setToolTip("Act where the region is not");
  connect(invert_, &QToolButton::clicked, this, [this] { bench_.work.invertRegion(); });
  row->addWidget(invert_);
  clear_ = new QToolButton;
  clear_->setObjectName("clear region");
  clear_->setText("Clear");
  clear_->setToolTip("Act everywhere");
  connect(clear_, &QToolButton::clicked, this, [this] { bench_.work.clearRegion(); });
  row->addWidget(clear_);
  region_ = iconButton("region", "Region: where this guide acts (G)", true);
  connect(region_, &QToolButton::clicked, &bench_, &Workbench::setRegionShown);
  row->addWidget(region_);
  more_ = iconButton("more", "More for this map", false);
  more_->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(more_);
  menu->setToolTipsVisible(true);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    fillMenu(*menu);
  });
  more_->setMenu(menu);
  row->addWidget(more_);
  connect(&bench_, &Workbench::toolChanged, this, &ToolRow::refresh);
  connect(&bench_, &Workbench::toolSized, this, &ToolRow::refresh);
  connect(&bench_, &Workbench::regionShownChanged, this, &ToolRow::refresh);
  connect(&bench_.depth, &DepthWork::changed, this, [this] { near_->showValue(bench_.depth.near()); });
  connect(&bench_.pose, &PoseWork::changed, this, [this] { refreshPose(fit_->isVisibleTo(this)); });
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.guideList || changes.guide(desk_.document.state().looking.guide)) refresh();
  });
  refresh();
}

/// Buttons for the tools that can be taken now; made anew when they are others.
void ToolRow::fillTools() {
  const Guide* guide = bench_.guide();
  const std::string now = (guide != nullptr ? guide->kind : std::string()) + (bench_.regionShown() ? " region" : "");
  if (now == toolsOf_) return;
  toolsOf_ = now;
  for (const ToolButton& entry : tools_) {
    toolBox_->removeWidget(entry.button);
    entry.button->setParent(nullptr);
    entry.button->deleteLater();  // it may be the one that was clicked
  }
  tools_.clear();
  const auto add = [this](ToolId tool, const char* iconName, const QString& tip) {
    auto* button = iconButton(iconName, tip, true);
    connect(button, &QToolButton::clicked, this, [this, tool] {
      bench_.setTool(tool);
      table_.setFocus();
      refresh();
    });
    toolBox_->addWidget(button);
    button->show();
    tools_.push_back({tool, button});
  };
  add(ToolName::look, "look", "Look: drag to move the view (L)");
  for (const ToolInfo& info : bench_.tools())
    if (info.icon != nullptr) add(info.id, info.icon, info.tip);
}

ScrubField* ToolRow::addField(QBoxLayout* row, const QString& name, const QString& tip, double minimum, double maximum,
                              double step, const QString& unit) {
  auto* field = new ScrubField;
  field->setUp(minimum, maximum, step, 0, minimum, unit);
  field->setFont(textFont(9));
  field->setFixedWidth(50);
  field->setObjectName(name.toLower());
  field->setAccessibleName(name);
  field->setToolTip(name + ": " + tip.left(1).toLower() + tip.mid(1));
  row->addWidget(field);
  return field;
}

void ToolRow::fillMenu(QMenu& menu) {
  const KindTools* kind = bench_.kindTools();
  if (kind == nullptr) return;
  if (kind->fillMenu) kind->fillMenu(menu, bench_, this);
  menu.addAction("Export this map...", this, &ToolRow::exportMapAsked);
}

/// What belongs to figures alone.
void ToolRow::refreshPose(bool shown) {
  const PoseWork& pose = bench_.pose;
  fit_->setVisible(shown);
  fit_->setChecked(pose.fitting());
  library_->setVisible(shown);
  const bool one = shown && pose.selectedFigure() != nullptr && pose.points().size() == 1;
  for (ScrubField* field : {x_, y_}) field->setVisible(one);
  if (!one) return;
  const Point at = pose.selectedFigure()->points[*pose.points().begin()].at;
  x_->showValue(at.x);
  y_->showValue(at.y);
}

void ToolRow::refresh() {
  const Guide* guide = bench_.guide();
  const KindTools* kind = bench_.kindTools();
  setEnabled(guide != nullptr);
  fillTools();
  const bool region = bench_.regionShown();
  const ToolId now = bench_.tool();
  for (const ToolButton& entry : tools_) entry.button->setChecked(entry.tool == now);
  specks_->setVisible(!region && kind != nullptr && kind->drops);
  const bool pen = now == ToolName::pen;
  const TableTool* tool = bench_.toolInHand();
  const bool brush = tool != nullptr && tool->ring() > 0 && !pen;
  const bool hint = now == ToolName::hint || now == ToolName::sameDepth;
  size_->setVisible(brush || pen);
  size_->showValue(pen ? bench_.settings.penWidth : bench_.settings.size);
  hardness_->setVisible(brush && !region && !hint);
  hardness_->showValue(bench_.settings.hardness);
  tolerance_->setVisible(now == ToolName::colour);
  tolerance_->showValue(bench_.settings.tolerance);
  const bool limited = guide != nullptr && guide->limited();
  feather_->setVisible(region);
  feather_->setEnabled(limited);
  if (guide != nullptr) feather_->showValue(guide->region.feather);
  invert_->setVisible(region);
  invert_->setEnabled(limited);
  clear_->setVisible(region);
  clear_->setEnabled(limited);
  region_->setChecked(region);
  more_->setVisible(!region);
  refreshPose(kind != nullptr && kind->poses && !region);
  const bool hinting = !region && bench_.depth.takesHints();
  near_->setVisible(
      hinting && (now == ToolName::hint || now == ToolName::ramp || now == ToolName::hints || now == ToolName::level));
  near_->showValue(bench_.depth.near());
  doubt_->setVisible(hinting);
}

}  // namespace hscaffold::app
