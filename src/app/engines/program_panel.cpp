#include "app/engines/program_panel.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>

#include "app/desk.h"
#include "app/engines/panel_parts.h"
#include "app/proofs/own_programs.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/kinds.h"

namespace hscaffold::app {

ProgramPanel::ProgramPanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  auto* column = panelColumn(
      *this, "program panel", "A program of your own as an engine",
      "It gets a folder with the recipe and its maps, and leaves a PNG in another. \"step 7/20\" on its output "
      "says how far it is. It runs with your own rights: take only programs that you trust.");
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  const auto line = [&](int row, const QString& label, const char* name, const QString& hint) {
    auto* edit = labelledLine(*grid, row, label, name, hint);
    connect(edit, &QLineEdit::textChanged, this, &ProgramPanel::refresh);
    return edit;
  };
  name_ = line(0, "Name", "program name", "as studies will call it");
  command_ = line(1, "Command", "program command", "python3 /where/it/is/paint.py {job} {out}");
  command_->setToolTip("{job} and {out} stand for the two folders; double quotes round what has spaces");
  column->addLayout(grid);
  families_ = line(2, "Families", "program families", "names of its families of models, if it knows such");
  column->addWidget(noteLabel("Guides that it takes"));
  auto* takes = new QGridLayout;
  takes->setHorizontalSpacing(16);
  takes->setVerticalSpacing(2);
  constexpr int inRow = 4;
  for (const Kind& kind : kinds()) {
    auto* box = new QCheckBox(QString::fromStdString(kind.name));
    box->setObjectName("takes " + QString::fromStdString(kind.id));
    box->setChecked(true);
    connect(box, &QCheckBox::toggled, this, &ProgramPanel::refresh);
    const int at = static_cast<int>(takes_.size());
    takes->addWidget(box, at / inRow, at % inRow);
    takes_.push_back({kind.id, box});
  }
  column->addLayout(takes);
  wishes_ = new MapWishes;
  connect(wishes_, &MapWishes::problem, this, [this](const QString& sentence) { doubt_->setText(sentence); });
  column->addWidget(wishes_);
  auto* numbers = new QHBoxLayout;
  const auto field = [&](const QString& label, const char* name, const QString& tip, const Limits& limits,
                         const QString& after) {
    auto* made = new ScrubField;
    made->setObjectName(name);
    made->setAccessibleName(label);
    made->setToolTip(tip);
    made->setUp(limits);
    made->setValue(limits.usual);
    numbers->addWidget(noteLabel(label));
    numbers->addWidget(made);
    numbers->addWidget(noteLabel(after));
    return made;
  };
  lanes_ = field("Copies at a time", "program lanes", "So many proofs are made side by side", programLanes, "");
  seconds_ = field("a proof takes at most", "program seconds", "Then it is ended, and the proof has failed",
                   programSeconds, "s");
  numbers->addStretch(1);
  column->addLayout(numbers);
  numbers = new QHBoxLayout;
  megapixels_ = field("makes at most", "program megapixels",
                      "Larger finals are made in parts and joined; 0 stands for any number", programMegapixels,
                      "megapixels at once (0: any)");
  numbers->addStretch(1);
  column->addLayout(numbers);
  doubt_ = noteLabel();
  doubt_->setObjectName("program doubt");
  doubt_->setWordWrap(true);
  column->addWidget(doubt_);
  auto* foot = new QHBoxLayout;
  add_ = new QPushButton("Add");
  add_->setObjectName("add program");
  add_->setProperty("role", "primary");
  connect(add_, &QPushButton::clicked, this, &ProgramPanel::add);
  foot->addStretch(1);
  foot->addWidget(add_);
  column->addLayout(foot);
  setFixedWidth(520);
  name_->setFocus();
  refresh();
}

ProgramSetup ProgramPanel::setup() const {
  ProgramSetup setup;
  setup.name = name_->text().trimmed().toStdString();
  setup.command = command_->text().trimmed().toStdString();
  for (const QString& family : families_->text().split(',', Qt::SkipEmptyParts))
    if (!family.trimmed().isEmpty()) setup.families.push_back(family.trimmed().toStdString());
  // All of them is what later versions may add to.
  if (std::any_of(takes_.begin(), takes_.end(), [](const auto& each) { return !each.second->isChecked(); }))
    for (const auto& [kind, box] : takes_)
      if (box->isChecked()) setup.kinds.push_back(kind);
  setup.maps = wishes_->wanted();
  setup.lanes = static_cast<int>(lanes_->value());
  setup.mostMegapixels = megapixels_->value();
  setup.mostSeconds = seconds_->value();
  return setup;
}

void ProgramPanel::refresh() {
  QString doubt;
  const bool any = std::any_of(takes_.begin(), takes_.end(), [](const auto& each) { return each.second->isChecked(); });
  try {
    if (!any) throw badInput("It has to take some kind of guide.");
    checkSetup(setup());
  } catch (const Problem& problem) {
    doubt = QString::fromStdString(problem.what());
  }
  add_->setEnabled(doubt.isEmpty());
  // Nothing is wrong yet with what was not begun.
  doubt_->setText(name_->text().isEmpty() && command_->text().isEmpty() ? QString() : doubt);
}

void ProgramPanel::add() {
  if (!add_->isEnabled()) return;
  const ProgramSetup made = setup();
  try {
    rememberProgram(desk_, made);
  } catch (const Problem& problem) {
    doubt_->setText(QString::fromStdString(problem.what()));
    return;
  }
  desk_.document.change("Engine", [&](StudyState& s) { s.engine = made.name; });
  close();
}

void ProgramPanel::keyPressEvent(QKeyEvent* event) {
  if (!panelKey(*this, *event, [this] { add(); })) QFrame::keyPressEvent(event);
}

}  // namespace hscaffold::app
