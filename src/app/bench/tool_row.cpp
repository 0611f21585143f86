#include "app/bench/tool_row.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <algorithm>

#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/widgets/scrub_field.h"
#include "app/workbench/kind_tools.h"

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

QBoxLayout* boxIn(QHBoxLayout& row) {
  auto* box = new QHBoxLayout;
  box->setSpacing(2);
  row.addLayout(box);
  return box;
}

/// Takes a widget away that may be the one whose signal is being answered. Until then it stays, hidden, where it is:
/// taken out of its row it would be dressed anew only to be thrown away. Its name goes to who comes instead.
void takeAway(QBoxLayout& box, QWidget& widget) {
  box.removeWidget(&widget);
  widget.hide();
  widget.setObjectName({});
  widget.deleteLater();
}

}  // namespace

ToolRow::ToolRow(Desk& desk, SourceTable& table, QWidget* parent)
    : QWidget(parent), desk_(desk), bench_(desk.workbench), table_(table) {
  lines_ = new QVBoxLayout(this);
  lines_->setContentsMargins(8, 3, 6, 3);
  lines_->setSpacing(3);
  auto* row = new QHBoxLayout;
  row->setSpacing(2);
  lines_->addLayout(row);
  first_ = row;
  toolBox_ = boxIn(*row);
  row->addSpacing(4);
  buttonBox_ = boxIn(*row);
  row->addSpacing(4);
  fieldHolder_ = new QWidget;
  fieldBox_ = new QHBoxLayout(fieldHolder_);
  fieldBox_->setContentsMargins(0, 0, 0, 0);
  fieldBox_->setSpacing(5);
  fieldBox_->addStretch(1);
  row->addWidget(fieldHolder_);
  row->addStretch(1);
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
  for (const auto change :
       {&Workbench::toolChanged, &Workbench::toolSized, &Workbench::regionShownChanged, &Workbench::workChanged})
    connect(&bench_, change, this, &ToolRow::refresh);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.guideList || changes.guide(desk_.document.state().looking.guide)) refresh();
  });
  refresh();
}

/// Buttons for the tools that can be taken now, and for what else is offered; made anew when they are others.
/// @return whether they are
bool ToolRow::fillButtons() {
  const KindTools* now = bench_.offered();
  if (now == shown_) return false;
  shown_ = now;
  for (const Button& entry : buttons_) takeAway(entry.tool.id.empty() ? *buttonBox_ : *toolBox_, *entry.button);
  buttons_.clear();
  const auto add = [this](ToolId tool, const char* iconName, const QString& tip) {
    auto* button = iconButton(iconName, tip, true);
    connect(button, &QToolButton::clicked, this, [this, tool] {
      bench_.setTool(tool);
      table_.setFocus();
      refresh();
    });
    toolBox_->addWidget(button);
    button->show();
    buttons_.push_back({button, tool, {}, {}});
  };
  add(ToolName::look, "look", "Look: drag to move the view (L)");
  if (now == nullptr) return true;
  for (const ToolInfo& info : now->tools)
    if (info.icon != nullptr) add(info.id, info.icon, info.tip);
  if (now->buttons)
    for (const RowButton& entry : now->buttons(bench_)) addButton(entry);
  return true;
}

void ToolRow::addButton(const RowButton& entry) {
  QToolButton* button = nullptr;
  if (entry.icon != nullptr) {
    button = iconButton(entry.icon, entry.tip, static_cast<bool>(entry.pressed));
  } else {
    button = new QToolButton;
    button->setText(entry.words);
    button->setToolTip(entry.tip);
    button->setCheckable(static_cast<bool>(entry.pressed));
  }
  button->setObjectName(entry.name);
  if (entry.choices.empty()) {
    connect(button, &QToolButton::clicked, this, [this, press = entry.press] {
      press();
      table_.setFocus();
      refresh();
    });
  } else {
    auto* menu = new QMenu(button);
    for (const RowButton::Choice& choice : entry.choices) menu->addAction(choice.name, this, choice.take);
    button->setMenu(menu);
    button->setPopupMode(QToolButton::InstantPopup);
  }
  buttonBox_->addWidget(button);
  button->show();
  buttons_.push_back({button, {}, entry.pressed, entry.usable});
}

/// The numbers of the tool in hand and of the kind; made anew when they are others. @return whether they are
bool ToolRow::fillFields() {
  std::vector<RowField> now;
  if (TableTool* tool = bench_.toolInHand()) now = tool->fields();
  if (const KindTools* offered = bench_.offered(); offered != nullptr && offered->fields)
    for (RowField& field : offered->fields(bench_)) now.push_back(std::move(field));
  const bool same = std::equal(now.begin(), now.end(), fields_.begin(), fields_.end(),
                               [](const RowField& a, const Field& b) { return a.name == std::string_view(b.of.name); });
  if (same) {
    // What it goes by may belong to another tool of the same numbers.
    for (std::size_t i = 0; i < now.size(); ++i) {
      const Limits &was = fields_[i].of.limits, &is = now[i].limits;
      if (was.least != is.least || was.most != is.most) fields_[i].field->setUp(is);
      fields_[i].of = std::move(now[i]);
    }
  } else {
    for (const Field& field : fields_) {
      takeAway(*fieldBox_, *field.field);
      takeAway(*fieldBox_, *field.label);
    }
    fields_.clear();
    for (RowField& of : now) {
      auto* field = new ScrubField;
      const QString name = of.name, tip = of.tip;
      field->setUp(of.limits);
      field->setFont(textFont(9));
      field->setFixedWidth(of.limits.most > 1000 ? 58 : 50);
      field->setObjectName(name.toLower());
      field->setAccessibleName(name);
      field->setToolTip(name + ": " + tip.left(1).toLower() + tip.mid(1));
      const std::size_t which = fields_.size();
      connect(field, &ScrubField::edited, this, [this, which](double value) {
        if (which >= fields_.size()) return;
        const auto set = fields_[which].of.set;  // what it changes may bring other fields
        set(value);
      });
      connect(field, &ScrubField::finished, this, [this] { desk_.document.seal(); });
      auto* label = new QLabel(name);
      label->setFont(textFont(9));
      label->setProperty("role", "note");
      fieldBox_->insertWidget(fieldBox_->count() - 1, label);
      fieldBox_->insertWidget(fieldBox_->count() - 1, field);
      field->show();
      fields_.push_back({field, label, std::move(of)});
    }
  }
  for (const Field& field : fields_) field.field->showValue(field.of.value());
  return !same;
}

void ToolRow::fillMenu(QMenu& menu) {
  const KindTools* kind = bench_.kindTools();
  if (kind == nullptr) return;
  if (kind->fillMenu) kind->fillMenu(menu, bench_, this);
  menu.addAction("Export this map...", this, &ToolRow::exportMapAsked);
}

/// What the first line needs without the fields: the table is never made broader by them.
QSize ToolRow::minimumSizeHint() const {
  const QMargins margins = lines_->contentsMargins();
  const int width = toolBox_->sizeHint().width() + buttonBox_->sizeHint().width() + region_->sizeHint().width() +
                    more_->sizeHint().width() + margins.left() + margins.right() + 20;
  return {width, QWidget::minimumSizeHint().height()};
}

/// Fields stand beside the tools where there is room, else under them, with their names.
void ToolRow::placeFields() {
  int needed = minimumSizeHint().width();
  for (const Field& field : fields_) needed += field.field->minimumWidth() + fieldBox_->spacing();
  const bool beside = needed <= width();
  // On a line of their own they have their names, if there is room.
  int named = lines_->contentsMargins().left() + lines_->contentsMargins().right();
  for (const Field& field : fields_)
    named += field.field->minimumWidth() + field.label->sizeHint().width() + 2 * fieldBox_->spacing();
  for (const Field& field : fields_) field.label->setVisible(!beside && named <= width());
  fieldHolder_->setVisible(!fields_.empty());
  if (beside == beside_) return;
  beside_ = beside;
  if (beside) {
    lines_->removeWidget(fieldHolder_);
    first_->insertWidget(first_->indexOf(buttonBox_) + 2, fieldHolder_);
  } else {
    first_->removeWidget(fieldHolder_);
    lines_->addWidget(fieldHolder_);
  }
  updateGeometry();
}

void ToolRow::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  placeFields();
}

void ToolRow::refresh() {
  setEnabled(bench_.guide() != nullptr);
  const bool otherButtons = fillButtons(), otherFields = fillFields();
  if (otherButtons || otherFields) placeFields();
  for (const Button& entry : buttons_) {
    if (!entry.tool.id.empty())
      entry.button->setChecked(entry.tool == bench_.tool());
    else if (entry.pressed)
      entry.button->setChecked(entry.pressed());
    if (entry.usable) entry.button->setEnabled(entry.usable());
  }
  region_->setChecked(bench_.regionShown());
  more_->setVisible(!bench_.regionShown());
}

}  // namespace hscaffold::app
