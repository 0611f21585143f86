#include "app/finish/finish_view.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/finish/export_final.h"
#include "app/finish/final_dialog.h"
#include "app/finish/stage_strip.h"
#include "app/finish/touch_list.h"
#include "app/widgets/note_label.h"
#include "app/widgets/room.h"
#include "app/widgets/scrub_field.h"

namespace hscaffold::app {
namespace {

double meanOf(const std::map<std::string, double>& holds) {
  double sum = 0;
  for (const auto& [id, hold] : holds) sum += hold;
  return holds.empty() ? 0 : sum / static_cast<double>(holds.size());
}

}  // namespace

FinishView::FinishView(Desk& desk, QWidget* parent) : MainView(parent), desk_(desk) {
  table_ = new FinalTable(desk_);
  panel_ = new TouchPanel(desk_);
  list_ = new TouchList(desk_);
  stages_ = new StageStrip(desk_);
  auto* leftRoom = new Room("Final and touch-ups", left(), list_);
  auto* tableRoom = new Room("The picture", middle(), table_);
  auto* panelRoom = new Room("Touch-up", panel_);
  setRooms({leftRoom, tableRoom, panelRoom}, tableRoom);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(2);
  row->addWidget(leftRoom);
  row->addWidget(tableRoom, 1);
  row->addWidget(panelRoom);
  connect(table_, &FinalTable::drawn, this, &FinishView::draw);
  connect(table_, &FinalTable::said, this, &FinishView::said);
  connect(table_, &FinalTable::toolAsked, this, &FinishView::setTool);
  connect(table_, &FinalTable::brushChanged, this, [this](double width) { brush_->showValue(width); });
  connect(table_, &FinalTable::touchUpPicked, this, [this](const QString& id) { lookAt(id.toStdString()); });
  connect(stages_, &StageStrip::picked, this, [this](const QString& id) { lookAt(id.toStdString()); });
  connect(list_, &TouchList::removeAsked, this, [this](const QString& id) { removeTouchUp(id.toStdString()); });
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.finals || changes.looking || changes.engine) refresh();
  });
  connect(&desk_.finals, &FinalShelf::changed, this, &FinishView::refresh);
  connect(&desk_.finals, &FinalShelf::progressed, this, &FinishView::tellProgress);
  connect(&desk_.finals, &FinalShelf::pictureChanged, this, &FinishView::refresh);
  connect(&desk_.proofs, &ProofShelf::changed, this, &FinishView::refresh);
  addActions();
  setTool(RegionTool::look);
  refresh();
}

QWidget* FinishView::left() {
  auto* left = app::panel();
  left->setFixedWidth(250);
  auto* column = new QVBoxLayout(left);
  column->setContentsMargins(12, 10, 10, 10);
  column->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel("Final"), 1);
  size_ = noteLabel();
  size_->setObjectName("final size");
  head->addWidget(size_);
  column->addLayout(head);
  finals_ = new QComboBox;
  finals_->setObjectName("finals");
  finals_->setAccessibleName("Which final");
  finals_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  finals_->setMinimumContentsLength(12);
  connect(finals_, &QComboBox::activated, this, [this](int index) {
    const std::string id = finals_->itemData(index).toString().toStdString();
    desk_.document.look([&](Looking& looking) {
      looking.final = id;
      looking.touchUp.clear();
    });
  });
  column->addWidget(finals_);
  picture_ = new QLabel;
  picture_->setObjectName("final picture");
  picture_->setFixedHeight(148);
  picture_->setAlignment(Qt::AlignCenter);
  column->addWidget(picture_);
  about_ = noteLabel();
  about_->setObjectName("final about");
  about_->setWordWrap(true);
  column->addWidget(about_);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  larger_ = new QPushButton("Larger...");
  larger_->setObjectName("larger");
  larger_->setToolTip("Another final of this proof, at another size; the touch-ups can come along");
  connect(larger_, &QPushButton::clicked, this, [this] {
    if (const Final* shown = final()) askFinal(shown->proof);
  });
  again_ = new QPushButton;
  again_->setObjectName("final again");
  connect(again_, &QPushButton::clicked, this, [this] {
    const Final* shown = final();
    if (shown == nullptr) return;
    if (desk_.finals.workFor(shown->id) != nullptr)
      desk_.finals.stop();
    else if (!shown->whole())
      desk_.finals.goOn(shown->id);
    else
      desk_.finals.begin({shown->proof, shown->size, shown->change, shown->enlarged, shown->id});
  });
  buttons->addWidget(larger_, 1);
  buttons->addWidget(again_, 1);
  column->addLayout(buttons);
  column->addSpacing(6);
  auto* listHead = new QHBoxLayout;
  listHead->addWidget(titleLabel("Touch-ups"), 1);
  new_ = new QPushButton("+ New (N)");
  new_->setObjectName("new touch-up");
  new_->setProperty("role", "link");
  connect(new_, &QPushButton::clicked, this, &FinishView::newTouchUp);
  listHead->addWidget(new_);
  column->addLayout(listHead);
  column->addWidget(list_, 1);
  column->addWidget(noteLabel("The order is the order they lie in: drag."));
  column->addSpacing(4);
  column->addWidget(titleLabel("Is kept"));
  kept_ = noteLabel();
  kept_->setObjectName("is kept");
  kept_->setWordWrap(true);
  column->addWidget(kept_);
  export_ = new QPushButton("Export...");
  export_->setObjectName("export final");
  export_->setProperty("role", "primary");
  connect(export_, &QPushButton::clicked, this, [this] { exportShown(); });
  auto* out = new QHBoxLayout;
  out->addWidget(export_, 2);
  maps_ = new QPushButton("Maps...");
  maps_->setObjectName("export maps of final");
  maps_->setToolTip("Writes the maps of all its guides, made anew at this size, into a new folder (Ctrl+Shift+E).");
  connect(maps_, &QPushButton::clicked, this, [this] { exportMaps(); });
  out->addWidget(maps_, 1);
  column->addLayout(out);
  return left;
}

QWidget* FinishView::middle() {
  auto* centre = new QWidget;
  auto* column = new QVBoxLayout(centre);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  QHBoxLayout* row = nullptr;
  column->addWidget(headOf(row));
  const auto tool = [&](const QString& text, const char* name, const QString& tip) {
    auto* button = new QPushButton(text);
    button->setObjectName(name);
    button->setToolTip(tip);
    button->setCheckable(true);
    row->addWidget(button);
    return button;
  };
  tools_ = {tool("Look", "tool look", "Move the picture; a press on a touch-up chooses it (V)"),
            tool("Brush", "tool brush", "Paint where the touch-up acts; Alt takes away (B)"),
            tool("Loop", "tool loop", "Draw a line round it; Alt takes away (O)"),
            tool("Colour", "tool colour", "What is joined to a place and of its colour; Alt takes away (C)"),
            tool("Thing", "tool thing",
                 "A figure or its head, a surface of a depth map, an area between lines; Alt takes away (T)")};
  for (std::size_t i = 0; i < tools_.size(); ++i)
    connect(tools_[i], &QPushButton::clicked, this, [this, i] { setTool(static_cast<RegionTool>(i)); });
  row->addSpacing(6);
  const auto field = [&](QLabel*& label, const QString& text, const char* name, const Limits& limits,
                         const QString& tip) {
    label = noteLabel(text);
    auto* made = new ScrubField;
    made->setObjectName(name);
    made->setAccessibleName(text);
    made->setToolTip(tip);
    made->setUp(limits);
    made->setValue(limits.usual);
    made->setFixedWidth(70);
    row->addWidget(label);
    row->addWidget(made);
    return made;
  };
  brush_ = field(brushLabel_, "Width", "brush width", {2, 2000, 48, 4, 0, "px"},
                 "Of the brush, in pixels of the final ([ and ])");
  connect(brush_, &ScrubField::edited, table_, &FinalTable::setBrush);
  tolerance_ = field(toleranceLabel_, "Alike within", "colour tolerance", {0.01, 0.5, 0.08, 0.01, 2},
                     "How much colours may differ and still count as one");
  connect(tolerance_, &ScrubField::edited, table_, &FinalTable::setTolerance);
  row->addStretch(1);
  wipe_ = tool("Wipe", "final wipe", "Against the picture before, up to a line (W)");
  connect(wipe_, &QPushButton::toggled, table_, &FinalTable::setWipe);
  tiles_ = tool("Parts", "final tiles", "The parts that it was made of");
  connect(tiles_, &QPushButton::toggled, table_, &FinalTable::setTilesShown);

  pages_ = new QStackedWidget;
  auto* empty = new QWidget;
  auto* emptyColumn = new QVBoxLayout(empty);
  emptyColumn->addStretch(1);
  none_ = new QLabel;
  none_->setAlignment(Qt::AlignCenter);
  none_->setWordWrap(true);
  emptyColumn->addWidget(none_);
  begin_ = new QPushButton("Make it large...");
  begin_->setObjectName("begin final");
  begin_->setProperty("role", "primary");
  connect(begin_, &QPushButton::clicked, this, [this] { askFinal(0); });
  auto* beginRow = new QHBoxLayout;
  beginRow->addStretch(1);
  beginRow->addWidget(begin_);
  beginRow->addStretch(1);
  emptyColumn->addSpacing(10);
  emptyColumn->addLayout(beginRow);
  emptyColumn->addStretch(1);
  auto* page = new QWidget;
  auto* pageColumn = new QVBoxLayout(page);
  pageColumn->setContentsMargins(0, 0, 0, 0);
  pageColumn->setSpacing(0);
  pageColumn->addWidget(table_, 1);
  auto* below = app::panel();
  auto* belowColumn = new QVBoxLayout(below);
  belowColumn->setContentsMargins(12, 6, 12, 6);
  belowColumn->setSpacing(4);
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel("How it came about"), 1);
  head->addWidget(noteLabel("every step can be taken back (Ctrl+Z) or switched off"));
  belowColumn->addLayout(head);
  auto* scroll = new QScrollArea;
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setFixedHeight(StageStrip::cellHeight + 8);
  scroll->setWidget(stages_);
  scroll->setFocusPolicy(Qt::NoFocus);
  connect(stages_, &StageStrip::followed, scroll, [this, scroll] {
    if (const int at = stages_->chosenAt(); at >= 0) scroll->ensureVisible(at, 0, StageStrip::cellWidth, 0);
  });
  belowColumn->addWidget(scroll);
  foot_ = noteLabel();
  foot_->setObjectName("final foot");
  foot_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  belowColumn->addWidget(foot_);
  pageColumn->addWidget(below);
  pages_->addWidget(empty);
  pages_->addWidget(page);
  column->addWidget(pages_, 1);
  return centre;
}

QRect FinishView::messagePlace() const {
  return {table_->mapTo(this, QPoint(0, 0)), table_->isVisible() ? table_->size() : QSize(width() / 2, height() / 2)};
}

void FinishView::addActions() {
  const auto action = [&](const QString& text, const QString& keys, const std::function<void()>& run) {
    auto* item = new QAction(text, this);
    item->setShortcut(QKeySequence(keys));
    item->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    connect(item, &QAction::triggered, this, run);
    addAction(item);
    actions_.push_back(item);
  };
  action("New touch-up", "N", [this] { newTouchUp(); });
  action("Look", "V", [this] { setTool(RegionTool::look); });
  action("Brush a region", "B", [this] { setTool(RegionTool::brush); });
  action("Loop a region", "O", [this] { setTool(RegionTool::loop); });
  action("Region by colour", "C", [this] { setTool(RegionTool::colour); });
  action("Region from a thing", "T", [this] { setTool(RegionTool::thing); });
  action("Clear the region", "Shift+Delete", [this] { clearRegion(); });
  action("Pull tries", "P", [this] { panel_->pull(); });
  action("The next try", "Ctrl+Right", [this] { panel_->useNext(1); });
  action("The try before", "Ctrl+Left", [this] { panel_->useNext(-1); });
  action("Wipe against before", "W", [this] { wipe_->toggle(); });
  action("Larger...", "Ctrl+L", [this] {
    if (const Final* shown = final())
      askFinal(shown->proof);
    else
      askFinal(0);
  });
  action("Put this final away", "Ctrl+Delete", [this] { removeFinal(); });
}

void FinishView::setTool(RegionTool tool) {
  table_->setTool(tool);
  for (std::size_t i = 0; i < tools_.size(); ++i) tools_[i]->setChecked(i == static_cast<std::size_t>(tool));
  brush_->setVisible(tool == RegionTool::brush);
  brushLabel_->setVisible(tool == RegionTool::brush);
  tolerance_->setVisible(tool == RegionTool::colour);
  toleranceLabel_->setVisible(tool == RegionTool::colour);
  if (tool != RegionTool::look) wipe_->setChecked(false);
}

void FinishView::lookAt(const std::string& touchUp) {
  desk_.document.look([&](Looking& looking) { looking.touchUp = touchUp; });
}

void FinishView::askFinal(std::int64_t proof) {
  if (proof == 0 && desk_.proofs.current() != nullptr) proof = desk_.proofs.current()->number;
  if (desk_.proofs.proof(proof) == nullptr) {
    emit said("Choose a proof first: a final is a proof made large.");
    return;
  }
  const Final* shown = final();
  auto* dialog =
      new FinalDialog(desk_, proof, shown != nullptr && shown->proof == proof ? shown->id : std::string(), this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  connect(dialog, &QDialog::accepted, this, [this, dialog] { desk_.finals.begin(dialog->wish()); });
  dialog->open();
}

void FinishView::newTouchUp() {
  const Final* shown = final();
  if (shown == nullptr) return;
  std::string id;
  desk_.document.change("New touch-up", [&, of = shown->id](StudyState& s) {
    Final& in = *s.final(of);
    TouchUp touchUp;
    touchUp.id = id = newId(s, "t");
    touchUp.name = QString("Touch-up %1").arg(in.touchUps.size() + 1).toStdString();
    in.touchUps.push_back(std::move(touchUp));
  });
  if (id.empty()) return;
  lookAt(id);
  if (table_->tool() == RegionTool::look) setTool(RegionTool::brush);
}

void FinishView::draw(const TouchRegion& shapes, const QString& name) {
  const Final* shown = final();
  if (shown == nullptr || shapes.empty()) return;
  const std::string of = shown->id;
  std::string id = desk_.document.state().looking.touchUp;
  const bool isNew = shown->touchUp(id) == nullptr;
  if (isNew && shapes.front().takes) return;
  desk_.document.change(isNew ? "New touch-up" : "Draw a region", [&](StudyState& s) {
    Final& in = *s.final(of);
    if (isNew) {
      TouchUp touchUp;
      touchUp.id = id = newId(s, "t");
      touchUp.name = name.isEmpty() ? QString("Touch-up %1").arg(in.touchUps.size() + 1).toStdString()
                                    : (name.left(1).toUpper() + name.mid(1)).toStdString();
      in.touchUps.push_back(std::move(touchUp));
    }
    auto& region = in.touchUp(id)->region;
    region.insert(region.end(), shapes.begin(), shapes.end());
  });
  if (isNew) lookAt(id);
}

void FinishView::removeTouchUp(const std::string& id) {
  const Final* shown = final();
  if (shown == nullptr || shown->touchUp(id) == nullptr) return;
  desk_.document.change("Take a touch-up away", [&, of = shown->id](StudyState& s) {
    std::erase_if(s.final(of)->touchUps, [&](const TouchUp& t) { return t.id == id; });
    if (s.looking.touchUp == id) s.looking.touchUp.clear();
  });
}

void FinishView::clearRegion() {
  const Final* shown = final();
  const std::string id = desk_.document.state().looking.touchUp;
  if (shown == nullptr || shown->touchUp(id) == nullptr) return;
  desk_.document.change("Clear a region",
                        [&, of = shown->id](StudyState& s) { s.final(of)->touchUp(id)->region.clear(); });
}

void FinishView::removeFinal() {
  const Final* shown = final();
  if (shown == nullptr) return;
  desk_.document.change("Put a final away", [id = shown->id](StudyState& s) {
    std::erase_if(s.finals, [&](const Final& f) { return f.id == id; });
    s.lookAtWhatIsThere();
  });
}

bool FinishView::exportShown() { return exportWith(askExportFinal); }
bool FinishView::exportMaps() { return exportWith(askExportFinalMaps); }

bool FinishView::exportWith(void (*ask)(Desk&, const std::string&, QWidget*)) {
  const Final* shown = final();
  if (shown != nullptr && shown->whole())
    ask(desk_, shown->id, this);
  else
    emit said("There is no whole final to export yet.");
  return true;
}

void FinishView::refresh() {
  const StudyState& state = desk_.document.state();
  const Final* shown = final();
  pages_->setCurrentIndex(shown != nullptr ? 1 : 0);
  const ProofInfo* current = desk_.proofs.current();
  none_->setText(current != nullptr
                     ? QString("No final yet. Proof %1 is the one that is shown: it can be made large here, "
                               "then touched up.")
                           .arg(current->number)
                     : QString("No final yet. Pull proofs, choose the best one, and make it large here."));
  begin_->setEnabled(current != nullptr);
  const bool many = state.finals.size() > 1;
  finals_->setVisible(many);
  if (many) {
    finals_->clear();
    for (const Final& each : state.finals) {
      finals_->addItem(QString::fromStdString(each.name), QString::fromStdString(each.id));
      if (each.id == state.looking.final) finals_->setCurrentIndex(finals_->count() - 1);
    }
  }
  for (QPushButton* button : {larger_, again_, new_, export_, maps_, wipe_, tiles_})
    button->setEnabled(shown != nullptr);
  for (std::size_t i = 1; i < tools_.size(); ++i) tools_[i]->setEnabled(shown != nullptr && shown->whole());
  if (shown == nullptr) {
    size_->setText({});
    picture_->setPixmap({});
    about_->setText({});
    kept_->setText({});
    foot_->setText({});
    again_->setText("Pull it again");
    return;
  }
  size_->setText(QString("%1 x %2").arg(shown->size.width).arg(shown->size.height));
  QImage image = desk_.finals.stages().empty() ? QImage() : desk_.finals.stages().back();
  if (image.isNull()) image = desk_.proofs.thumbnail(shown->proof);
  if (!image.isNull())
    picture_->setPixmap(QPixmap::fromImage(image.scaled(226, 148, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
  const FinalWork* work = desk_.finals.workFor(shown->id);
  again_->setText(work != nullptr ? "Stop" : shown->whole() ? "Pull it again" : "Go on");
  again_->setToolTip(work != nullptr  ? "What is there of it stays"
                     : shown->whole() ? "Another final like this one, with the touch-ups"
                                      : "Parts that are there are not made again");
  export_->setEnabled(shown->whole());
  maps_->setEnabled(shown->whole());
  QString about = shown->enlarged ? QString("from proof %1, enlarged without an engine").arg(shown->proof)
                                  : QString("from proof %1, change %2").arg(shown->proof).arg(shown->change, 0, 'f', 2);
  const int parts = shown->columns * shown->rows;
  about += parts > 1 ? QString("\n%1 parts, joined").arg(parts) : QString("\nin one piece");
  if (shown->milliseconds > 0) about += QString("; took %1 s").arg(shown->milliseconds / 1000, 0, 'f', 1);
  if (work == nullptr && !shown->whole())
    about += shown->tiles.empty() ? QString("\nnot pulled yet")
                                  : QString("\n%1 of %2 parts are there").arg(shown->tiles.size()).arg(parts);
  about_->setText(about);
  QStringList kept;
  if (shown->whole()) {
    if (!shown->holds.empty())
      kept << QString("layout held: %1%2")
                  .arg(meanOf(shown->holds), 0, 'f', 0)
                  .arg(shown->held.empty() ? QString() : QString(", %1 before").arg(meanOf(shown->held), 0, 'f', 0));
    kept << "outside the regions: to the last bit";
    if (parts > 1)
      kept << (shown->worstJoin <= 1.05
                   ? QString("joins: none is seen (%1 of what is beside)").arg(shown->joins, 0, 'f', 2)
                   : QString("joins: the worst has %1 times the edges beside it").arg(shown->worstJoin, 0, 'f', 2));
  } else {
    kept << "said when it is whole";
  }
  kept_->setText(kept.join("\n"));
  tellProgress();
}

void FinishView::tellProgress() {
  const Final* shown = final();
  if (shown == nullptr) return;
  const FinalWork* work = desk_.finals.workFor(shown->id);
  const int parts = shown->columns * shown->rows;
  QString foot;
  if (work != nullptr && work->running)
    foot = work->tiles > 1 ? QString("Part %1 of %2. Stopping keeps what is there.")
                                 .arg(std::min(work->tile + 1, work->tiles))
                                 .arg(work->tiles)
                           : QString("It is being made. Stopping keeps what is there.");
  else if (parts > 1)
    foot =
        QString("Parts: %1 x %2. Each is told of the whole, so that they agree.").arg(shown->columns).arg(shown->rows);
  else
    foot = "Made in one piece.";
  foot_->setText(foot);
}

}  // namespace hscaffold::app
