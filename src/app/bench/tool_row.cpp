#include "app/bench/tool_row.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSettings>
#include <QToolButton>

#include "app/bench/tools/pose_tools.h"
#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "files/program_finder.h"

namespace hscaffold::app {
namespace {

QToolButton* iconButton(const char* name, const QString& tip, bool checkable) {
  auto* button = new QToolButton;
  button->setIcon(icon(name));
  button->setToolTip(tip);
  button->setAccessibleName(tip.section(" (", 0, 0).section(':', 0, 0));
  button->setCheckable(checkable);
  button->setFixedSize(26, 26);
  return button;
}

}  // namespace

ToolRow::ToolRow(StudySession& session, SourceTable& table, QWidget* parent)
    : QWidget(parent), session_(session), table_(table) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(10, 3, 10, 3);
  row->setSpacing(2);
  addTool(row, ToolName::look, "look", "Look: drag to move the view (L)");
  addTool(row, ToolName::draw, "draw", "Draw (D). Shift: straight lines. [ and ] or Ctrl+wheel: size");
  addTool(row, ToolName::rubOut, "rub-out", "Rub out (R)");
  addTool(row, ToolName::restore, "restore", "Restore: take retouch back (T)");
  addTool(row, ToolName::keepLoop, "keep-loop", "Keep only what is inside a loop (K)");
  addTool(row, ToolName::dropLoop, "drop-loop", "Drop what is inside a loop (X)");
  specks_ = iconButton("specks", "Drop specks", false);
  specks_->setPopupMode(QToolButton::InstantPopup);
  auto* specksMenu = new QMenu(specks_);
  for (const int area : {8, 24, 60, 150, 400})
    specksMenu->addAction(QString("Pieces below %1 px").arg(area), this,
                          [this, area] { table_.work().dropSpecks(area); });
  specks_->setMenu(specksMenu);
  row->addWidget(specks_);
  addTool(row, ToolName::pen, "pen", "Pen: smooth strokes (P). Shift: straight");
  addTool(row, ToolName::strokes, "strokes", "Strokes: take hold of them (S). Right click for what can be done");
  addTool(row, ToolName::joints, "joints",
          "Joints: drag them; limbs keep their lengths (J). Ctrl: this one alone. P: pin");
  addTool(row, ToolName::turnLimb, "turn-limb", "Turn a limb about its joint (T). Shift: by 15 degrees");
  addTool(row, ToolName::figure, "figure", "Whole figure: move, scale, turn about the cross (M)");
  addTool(row, ToolName::hide, "hide", "Seen, hidden, absent: click a joint (H)");
  addTool(row, ToolName::paint, "paint", "Paint the region (D)");
  addTool(row, ToolName::takeAway, "take-away", "Take from the region (R)");
  addTool(row, ToolName::addLoop, "add-loop", "Add what is inside a loop (K). Ctrl takes it away");
  addTool(row, ToolName::colour, "colour",
          "Add what has the colour under the pointer (C). Shift: wherever it is. Ctrl takes it away");
  row->addSpacing(4);
  fit_ = new QPushButton("Fit");
  fit_->setCheckable(true);
  fit_->setToolTip(
      "The whole body follows when wrists, ankles, head, neck or hips are dragged (F). Off: the limb alone");
  connect(fit_, &QPushButton::clicked, &table_.pose(), &PoseWork::setFitting);
  row->addWidget(fit_);
  library_ = new QPushButton("Poses");
  library_->setToolTip("Pose library (B)");
  connect(library_, &QPushButton::clicked, this, &ToolRow::libraryAsked);
  row->addWidget(library_);
  row->addSpacing(6);
  size_ = addField(row, "Size", "Size of the brush: [ and ], or Ctrl+wheel over the table", 1, 600, 1, "px");
  connect(size_, &ScrubField::edited, this, [this](double value) {
    auto& settings = table_.toolSettings();
    (table_.tool() == ToolName::pen ? settings.penWidth : settings.size) = value;
  });
  hardness_ = addField(row, "Hardness", "How hard the brush's border is", 0, 100, 1, "%");
  connect(hardness_, &ScrubField::edited, this, [this](double value) { table_.toolSettings().hardness = value; });
  tolerance_ = addField(row, "Tolerance", "How far colours may differ", 1, 60, 1, "%");
  connect(tolerance_, &ScrubField::edited, this, [this](double value) { table_.toolSettings().tolerance = value; });
  feather_ = addField(row, "Feather", "Softening of the region's border", 0, largestFeather, 1, "px");
  connect(feather_, &ScrubField::edited, this, [this](double value) { table_.work().setFeather(value, true); });
  connect(feather_, &ScrubField::finished, this, [this] { session_.seal(); });
  const auto place = [&](const QString& name) {
    return addField(row, name, "Where the selected joint is, in frame pixels", -100'000, 100'000, 1, "");
  };
  x_ = place("x");
  y_ = place("y");
  for (ScrubField* field : {x_, y_}) {
    field->setUp(-100'000, 100'000, 1, 1, 0, "");
    field->setFixedWidth(58);
    connect(field, &ScrubField::edited, this, [this, field](double value) {
      PoseWork& pose = table_.pose();
      if (!pose.selected() || pose.points().size() != 1) return;
      const std::size_t point = *pose.points().begin();
      const Point now = pose.selectedFigure()->points[point].at;
      pose.moveTo(*pose.selected(), point, field == x_ ? QPointF(value, now.y) : QPointF(now.x, value));
    });
    connect(field, &ScrubField::finished, this, [this] { session_.seal(); });
  }
  row->addStretch(1);
  invert_ = new QToolButton;
  invert_->setText("Invert");
  invert_->setToolTip("Act where the region is not");
  connect(invert_, &QToolButton::clicked, this, [this] { table_.work().invertRegion(); });
  row->addWidget(invert_);
  clear_ = new QToolButton;
  clear_->setText("Clear");
  clear_->setToolTip("Act everywhere");
  connect(clear_, &QToolButton::clicked, this, [this] { table_.work().clearRegion(); });
  row->addWidget(clear_);
  region_ = iconButton("region", "Region: where this guide acts (G)", true);
  connect(region_, &QToolButton::clicked, &table_, &SourceTable::setRegionShown);
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
  connect(&table_, &SourceTable::toolChanged, this, &ToolRow::refresh);
  connect(&table_, &SourceTable::regionShownChanged, this, &ToolRow::refresh);
  connect(&table_.pose(), &PoseWork::changed, this, [this] { refreshPose(fit_->isVisibleTo(this)); });
  connect(&session_, &StudySession::changed, this, &ToolRow::refresh);
  refresh();
}

void ToolRow::addTool(QBoxLayout* row, ToolName tool, const char* iconName, const QString& tip) {
  auto* button = iconButton(iconName, tip, true);
  connect(button, &QToolButton::clicked, this, [this, tool] {
    table_.setTool(tool);
    table_.setFocus();
    refresh();
  });
  row->addWidget(button);
  tools_.push_back({tool, button});
}

ScrubField* ToolRow::addField(QBoxLayout* row, const QString& name, const QString& tip, double minimum, double maximum,
                              double step, const QString& unit) {
  auto* field = new ScrubField;
  field->setUp(minimum, maximum, step, 0, minimum, unit);
  field->setFont(textFont(9));
  field->setFixedWidth(54);
  field->setAccessibleName(name);
  field->setToolTip(name + ": " + tip.left(1).toLower() + tip.mid(1));
  row->addWidget(field);
  return field;
}

void ToolRow::fillMenu(QMenu& menu) {
  const Guide* guide = session_.state().guide(session_.state().selectedGuide);
  if (guide == nullptr) return;
  const Kind& kind = kindOf(guide->kind);
  if (kind.figures) return fillPoseMenu(menu);
  const MapPicture* map = session_.mapOf(guide->id);
  HandWork& work = table_.work();
  const bool retouched = !guide->retouch.empty();
  auto* hide = menu.addAction("Hide retouch", this, [&work](bool on) { work.setRetouchHidden(on); });
  hide->setCheckable(true);
  hide->setChecked(guide->retouchHidden);
  hide->setEnabled(retouched);
  menu.addAction("Clear retouch", this, [&work] { work.clearRetouch(); })->setEnabled(retouched);
  menu.addAction("Merge into a new map", this, [&work] { work.mergeRetouch(); })
      ->setToolTip("A guide with the map as it is now; this one is turned off");
  menu.addSeparator();
  const int moved = map != nullptr && retouched ? map->movedUnder : 0;
  auto* show = menu.addAction(
      moved > 0 ? QString("Show what moved under retouch (%1 px)").arg(moved) : QString("Nothing moved under retouch"),
      this, [this](bool on) { table_.setMovedShown(on); });
  show->setCheckable(true);
  show->setChecked(table_.movedShown() && moved > 0);
  show->setEnabled(moved > 0);
  menu.addAction("Restore there", this, [&work] { work.releaseMoved(); })->setEnabled(moved > 0);
  menu.addSeparator();
  if (kind.draw) {
    menu.addAction("Trace to strokes", this, [this, &work] {
      work.trace();
      table_.setTool(ToolName::strokes);
    });
    auto* back = menu.addAction("Back to the extraction", this, [&work] { work.dropDrawing(); });
    back->setEnabled(!guide->drawing.empty() && !guide->reference.empty());
  }
  if (kind.lines) menu.addAction("Loose lines from this", this, [&work] { work.traceLoosely(); });
  menu.addAction("Export this map...", this, &ToolRow::exportMapAsked);
}

void ToolRow::fillPoseMenu(QMenu& menu) {
  PoseWork& pose = table_.pose();
  if (const auto selected = pose.selected()) {
    addFigureActions(*menu.addMenu("Figure"), pose, *selected);
    menu.addSeparator();
  }
  const auto guarded = [&pose](const std::filesystem::path& file) {
    try {
      pose.loadInks(file);
    } catch (const std::exception& error) {
      emit pose.said(error.what());
    }
  };
  if (pose.finding()) {
    menu.addAction("Stop finding figures", this, [&pose] { pose.stopFinding(); });
  } else {
    auto* find = menu.addAction("Find figures with a program...", this, [this, &pose] {
      const QString known = QSettings().value("finder").toString();
      const QString program = QFileDialog::getOpenFileName(this, "A program that finds figures",
                                                           known.isEmpty() ? QString() : QFileInfo(known).path());
      if (program.isEmpty()) return;
      QSettings().setValue("finder", program);
      pose.find(std::make_shared<ProgramFinder>(program.toStdString()));
    });
    find->setToolTip("It is given the reference as a PNG and writes COCO key points; use one that you trust");
    if (const QString known = QSettings().value("finder").toString(); QFile::exists(known))
      menu.addAction("Find figures with " + QFileInfo(known).fileName(), this,
                     [&pose, known] { pose.find(std::make_shared<ProgramFinder>(known.toStdString())); });
  }
  menu.addSeparator();
  menu.addAction("Load inks...", this, [this, guarded] {
    const QString path = QFileDialog::getOpenFileName(this, "Load inks", {}, "Inks (*.json)");
    if (!path.isEmpty()) guarded(path.toStdString());
  });
  const Guide* guide = pose.guide();
  menu.addAction("House inks", this, [guarded] { guarded({}); })->setEnabled(guide != nullptr && !guide->inks.empty());
  menu.addSeparator();
  menu.addAction("Export this map...", this, &ToolRow::exportMapAsked);
}

/// What belongs to figures alone.
void ToolRow::refreshPose(bool shown) {
  const PoseWork& pose = table_.pose();
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
  const Guide* guide = session_.state().guide(session_.state().selectedGuide);
  setEnabled(guide != nullptr);
  const bool region = table_.regionShown();
  const bool draws = guide != nullptr && kindOf(guide->kind).draw;
  const bool lines = guide != nullptr && kindOf(guide->kind).lines;
  const bool figures = guide != nullptr && kindOf(guide->kind).figures;
  const ToolName now = table_.tool();
  for (const ToolButton& entry : tools_) {
    const bool needsStrokes = entry.tool == ToolName::pen || entry.tool == ToolName::strokes;
    const bool fits = region                     ? isRegionTool(entry.tool)
                      : figures                  ? isPoseTool(entry.tool)
                      : isRegionTool(entry.tool) ? false
                                                 : !isPoseTool(entry.tool) && (!needsStrokes || draws);
    entry.button->setVisible(fits || entry.tool == ToolName::look);
    entry.button->setChecked(entry.tool == now);
  }
  specks_->setVisible(!region && lines);
  const bool brush = now == ToolName::draw || now == ToolName::rubOut || now == ToolName::restore ||
                     now == ToolName::paint || now == ToolName::takeAway;
  size_->setVisible(brush || now == ToolName::pen);
  size_->showValue(now == ToolName::pen ? table_.toolSettings().penWidth : table_.toolSettings().size);
  hardness_->setVisible(brush && !region);
  hardness_->showValue(table_.toolSettings().hardness);
  tolerance_->setVisible(now == ToolName::colour);
  tolerance_->showValue(table_.toolSettings().tolerance);
  const bool limited = guide != nullptr && guide->region.limits();
  feather_->setVisible(region);
  feather_->setEnabled(limited);
  if (guide != nullptr) feather_->showValue(guide->region.feather);
  invert_->setVisible(region);
  invert_->setEnabled(limited);
  clear_->setVisible(region);
  clear_->setEnabled(limited);
  region_->setChecked(region);
  more_->setVisible(!region);
  refreshPose(figures && !region);
}

}  // namespace hscaffold::app
