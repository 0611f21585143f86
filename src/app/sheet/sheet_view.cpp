#include "app/sheet/sheet_view.h"

#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSlider>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/document/study_edits.h"
#include "app/sheet/queue_panel.h"
#include "app/sheet/reading_panel.h"
#include "app/sheet/trade_chart.h"
#include "app/widgets/menus.h"
#include "app/widgets/note_label.h"
#include "app/widgets/room.h"
#include "app/widgets/scrub_field.h"
#include "files/sheet_files.h"

namespace hscaffold::app {

SheetView::SheetView(Desk& desk, QWidget* parent) : MainView(parent), desk_(desk) {
  model_ = new SheetModel(desk_, this);
  list_ = new SheetList(desk_);
  grid_ = new SheetGrid(desk_, *model_);
  compare_ = new CompareTable(desk_);
  details_ = new DetailsPanel(desk_, *model_);
  details_->setFixedWidth(404);

  auto* left = new QFrame;
  left->setProperty("role", "panel");
  left->setFixedWidth(184);
  auto* leftColumn = new QVBoxLayout(left);
  leftColumn->setContentsMargins(8, 10, 8, 10);
  leftColumn->setSpacing(6);
  leftColumn->addWidget(noteLabel("Sheets"));
  leftColumn->addWidget(list_, 1);
  leftColumn->addWidget(new QueuePanel(desk_));

  auto* centre = new QWidget;
  auto* column = new QVBoxLayout(centre);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(head());
  middle_ = new QStackedWidget;
  middle_->addWidget(grid_);
  middle_->addWidget(compare_);
  column->addWidget(middle_, 1);
  reading_ = new ReadingPanel(desk_, *model_);
  connect(reading_, &ReadingPanel::restsOn, grid_, &SheetGrid::setEvidence);
  connect(reading_, &ReadingPanel::nextProposalAsked, this, &SheetView::showProposal);
  column->addWidget(reading_);

  auto* listRoom = new Room("Sheets", left, list_);
  auto* gridRoom = new Room("Proofs", centre, grid_);
  auto* detailsRoom = new Room("Chart and comparison", details_, &details_->chart());
  setRooms({listRoom, gridRoom, detailsRoom}, gridRoom);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(2);
  row->addWidget(listRoom);
  row->addWidget(gridRoom, 1);
  row->addWidget(detailsRoom);

  connect(grid_, &SheetGrid::picked, this, &SheetView::pick);
  connect(grid_, &SheetGrid::sized, this, [this](int width) {
    const QSignalBlocker quiet(size_);
    size_->setValue(width);
  });
  connect(grid_, &SheetGrid::openAsked, this, [this] { compare(true); });
  connect(grid_, &SheetGrid::compareAsked, this, &SheetView::compareWithChosen);
  connect(grid_, &SheetGrid::adoptAsked, this, [this](qint64 number) { adoptProofOf(desk_, number); });
  connect(grid_, &SheetGrid::menuAsked, this, &SheetView::showMenu);
  connect(grid_, &SheetGrid::waitingMenuAsked, this, [this](const QPoint& global, qint64 pull) {
    QMenu* menu = newMenu(*this);
    menu->addAction("This one next", this, [this, pull] { desk_.queue.putFirst(pull); });
    menu->addAction("Not this one", this, [this, pull] { desk_.queue.drop(pull); });
    menu->popup(global);
  });
  connect(compare_, &CompareTable::closeAsked, this, [this] { compare(false); });
  connect(details_, &DetailsPanel::openAsked, this, [this] { compare(true); });
  connect(details_, &DetailsPanel::picked, this, [this](const auto& numbers) { grid_->selectProofs(numbers); });
  connect(model_, &SheetModel::shownChanged, this, [this] {
    tellSheet();
    reading_->read();
    if (grid_->selectedProofs().empty()) follow();
  });
  addActions();
  tellSheet();
  reading_->read();
  grid_->selectProofs({desk_.document.state().looking.proof});
  compare(false);
}

QWidget* SheetView::head() {
  auto* head = panel();
  auto* rows = new QVBoxLayout(head);
  rows->setContentsMargins(14, 6, 12, 6);
  rows->setSpacing(2);
  auto* first = new QHBoxLayout;
  name_ = new QLabel;
  name_->setObjectName("sheet name");
  name_->setFont(textFont(11, QFont::DemiBold));
  name_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  first->addWidget(name_, 1);
  const auto tool = [](QHBoxLayout* into, const QString& text, const char* name, const QString& tip, bool checkable) {
    auto* button = new QPushButton(text);
    button->setObjectName(name);
    button->setToolTip(tip);
    button->setCheckable(checkable);
    into->addWidget(button);
    return button;
  };
  compareTools_ = new QWidget;
  auto* compareRow = new QHBoxLayout(compareTools_);
  compareRow->setContentsMargins(0, 0, 0, 0);
  compareRow->setSpacing(6);
  looks_ = {tool(compareRow, "Beside", "compare beside", "Side by side at the same place and zoom", true),
            tool(compareRow, "Blink", "compare blink", "One after the other at the same place (B)", true),
            tool(compareRow, "Wipe", "compare wipe", "One over the other, up to a line (W)", true)};
  for (std::size_t i = 0; i < looks_.size(); ++i)
    connect(looks_[i], &QPushButton::clicked, this, [this, i] { setLook(static_cast<CompareLook>(i)); });
  auto* reference = tool(compareRow, "Reference", "with reference", "The reference with them (R)", true);
  connect(reference, &QPushButton::toggled, compare_, &CompareTable::setReferenceShown);
  auto* back = tool(compareRow, "Sheet", "back to sheet", "The whole sheet again (Esc)", false);
  connect(back, &QPushButton::clicked, this, [this] { compare(false); });
  first->addWidget(compareTools_);
  squint_ = tool(first, "Squint", "squint", "Small and blurred, as from afar (Q)", true);
  connect(squint_, &QPushButton::toggled, this, [this](bool on) {
    grid_->setSquint(on);
    compare_->setSquint(on);
  });
  auto* find = tool(first, "Find...", "find balance",
                    "Say what has to hold, and have a balance looked for (Ctrl+Alt+Return)", false);
  connect(find, &QPushButton::clicked, this, [this] { emit desk_.findAsked({}); });
  auto* out =
      tool(first, "Export", "export sheet", "Write the sheet as a picture, a page or a table (Ctrl+Alt+E)", false);
  connect(out, &QPushButton::clicked, this, &SheetView::exportSheet);
  rows->addLayout(first);
  auto* second = new QHBoxLayout;
  second->setSpacing(8);
  about_ = noteLabel();
  about_->setObjectName("sheet about");
  about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  second->addWidget(about_, 1);
  sheetTools_ = new QWidget;
  auto* sort = new QHBoxLayout(sheetTools_);
  sort->setContentsMargins(0, 0, 0, 0);
  order_ = new QComboBox;
  order_->setObjectName("order");
  order_->setAccessibleName("In which order");
  order_->setMinimumWidth(124);
  order_->addItems({"newest first", "by seed", "most hold first", "most shift first", "quickest first"});
  connect(order_, &QComboBox::currentIndexChanged, this,
          [this](int index) { model_->setOrder(static_cast<ProofOrder>(index)); });
  least_ = new ScrubField;
  least_->setObjectName("least hold");
  least_->setAccessibleName("Hold at least");
  least_->setToolTip("Only proofs that hold at least so much");
  least_->setUp(0, 100, 5, 0, 0);
  connect(least_, &ScrubField::edited, model_, &SheetModel::setLeastHold);
  sort->addWidget(order_);
  sort->addWidget(noteLabel("hold from"));
  sort->addWidget(least_);
  auto* leastShift = new ScrubField;
  leastShift->setObjectName("least shift");
  leastShift->setAccessibleName("Shift at least");
  leastShift->setToolTip("Only proofs whose look moved at least so far");
  leastShift->setUp(0, 100, 5, 0, 0);
  connect(leastShift, &ScrubField::edited, model_, &SheetModel::setLeastShift);
  sort->addWidget(noteLabel("shift from"));
  sort->addWidget(leastShift);
  second->addWidget(sheetTools_);
  of_ = new QComboBox;
  of_->setObjectName("hold of");
  of_->setAccessibleName("Whose hold");
  of_->setToolTip("Whose hold is shown and read: of one guide, or the mean of all");
  of_->setMinimumContentsLength(11);
  of_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  connect(of_, &QComboBox::activated, this, [this] { model_->setHoldOf(of_->currentData().toString().toStdString()); });
  second->addWidget(noteLabel("hold of"));
  second->addWidget(of_);
  size_ = new QSlider(Qt::Horizontal);
  size_->setObjectName("cell size");
  size_->setAccessibleName("Size of the pictures");
  size_->setToolTip("Size of the pictures; Ctrl and the wheel, + and - zoom into all of them alike");
  size_->setRange(SheetGrid::narrowest, 640);
  size_->setValue(grid_->cellWidth());
  size_->setMinimumWidth(50);
  size_->setMaximumWidth(90);
  connect(size_, &QSlider::valueChanged, grid_, &SheetGrid::setCellWidth);
  second->addWidget(size_);
  rows->addLayout(second);
  return head;
}

const SheetReading& SheetView::reading() const { return reading_->reading(); }

QRect SheetView::messagePlace() const { return {grid_->mapTo(this, QPoint()), grid_->size()}; }

void SheetView::addActions() {
  const auto add = [this](const QString& text, const QString& keys, const std::function<void()>& run) {
    auto* action = new QAction(text, this);
    action->setShortcut(QKeySequence(keys));
    // Letters are letters where something is typed.
    action->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    connect(action, &QAction::triggered, this, run);
    addAction(action);
    actions_.push_back(action);
  };
  add("Compare large", "C", [this] {
    const std::int64_t current = grid_->currentProof();
    const auto chosen = grid_->selectedProofs();
    // The keys are on another one than what is chosen: those two.
    if (!comparing() && current > 0 && std::find(chosen.begin(), chosen.end(), current) == chosen.end())
      return compareWithChosen(current);
    compare(!comparing());
  });
  add("Blink", "B",
      [this] { setLook(compare_->look() == CompareLook::blink ? CompareLook::beside : CompareLook::blink); });
  add("Wipe", "W",
      [this] { setLook(compare_->look() == CompareLook::wipe ? CompareLook::beside : CompareLook::wipe); });
  add("With the reference", "R", [this] { findChild<QPushButton*>("with reference")->toggle(); });
  add("Squint", "Q", [this] { squint_->toggle(); });
  add("Whole pictures", "Ctrl+0", [this] {
    grid_->showAll();
    compare_->showAll();
  });
  add("Next place where most was lost", "M", [this] {
    const auto place = details_->nextMiss();
    if (!place) return;
    compare(true);
    const auto frame = compare_->view().frame();
    const QSizeF room(compare_->size());
    const double scale =
        std::min(room.width(), room.height()) /
        std::clamp(2.5 * place->extent, 80.0, static_cast<double>(std::max(frame.width(), frame.height())));
    compare_->view().showPlace({place->x, place->y}, scale, room);
  });
  add("Next proposal", "P", [this] { showProposal(); });
  add("Star", "K", [this] { details_->turnStar(); });
  add("Put away", "Delete", [this] { details_->putAway(); });
  add("Pull at full size", "L", [this] { details_->pullLarge(); });
  add("Adopt settings of the chosen proof", "Ctrl+Shift+A", [this] { details_->adopt(); });
  add("Adopt", "A", [this] { details_->adopt(); });
  add("Find from the chosen proof...", "F", [this] { findFromChosen(); });
  add("Export sheet...", "Ctrl+Alt+E", [this] { exportSheet(); });
  add("Next room", "Ctrl+Tab", [this] { goToRoom(1); });
  add("Room before", "Ctrl+Shift+Tab", [this] { goToRoom(-1); });
}

bool SheetView::comparing() const { return middle_->currentWidget() == compare_; }

void SheetView::compare(bool large) {
  if (large && details_->proofs().empty()) large = false;
  middle_->setCurrentWidget(large ? static_cast<QWidget*>(compare_) : grid_);
  compareTools_->setVisible(large);
  sheetTools_->setVisible(!large && !model_->placed());
  size_->setVisible(!large);
  tellSheet();
  compare_->setLook(large ? compare_->look() : CompareLook::beside);
  for (std::size_t i = 0; i < looks_.size(); ++i)
    looks_[i]->setChecked(compare_->look() == static_cast<CompareLook>(i));
  (large ? static_cast<QWidget*>(compare_) : grid_)->setFocus();
}

/// A proof with what is chosen, or with the reference if it is alone.
void SheetView::compareWithChosen(qint64 number) {
  auto chosen = grid_->selectedProofs();
  std::erase(chosen, number);
  if (chosen.empty())
    if (auto* reference = findChild<QPushButton*>("with reference"); !reference->isChecked()) reference->toggle();
  chosen.push_back(number);
  grid_->selectProofs(chosen);
  compare(true);
}

void SheetView::findFromChosen() {
  const auto chosen = grid_->selectedProofs();
  if (!chosen.empty()) emit desk_.findAsked({{}, chosen.front()});
}

void SheetView::setLook(CompareLook look) {
  compare_->setLook(look);
  compare(true);
}

/// What the Bench shows is what is chosen here.
void SheetView::follow() {
  const std::int64_t shown = desk_.document.state().looking.proof;
  if (model_->indexOf(shown).isValid()) grid_->selectProofs({shown});
}

void SheetView::showEvent(QShowEvent* event) {
  MainView::showEvent(event);
  const auto chosen = grid_->selectedProofs();
  if (std::find(chosen.begin(), chosen.end(), desk_.document.state().looking.proof) == chosen.end()) follow();
}

void SheetView::pick() {
  const auto numbers = grid_->selectedProofs();
  details_->setProofs(numbers);
  compare_->setProofs(numbers);
  // What is chosen here is what the Bench shows.
  if (!numbers.empty()) desk_.document.look([&](Looking& looking) { looking.proof = numbers.front(); });
  if (numbers.empty() && comparing()) compare(false);
}

void SheetView::tellSheet() {
  const SheetInfo* sheet = model_->sheet();
  const auto proofs = model_->proofs();
  if (sheet != nullptr) {
    name_->setText(QString::fromStdString(nameOf(*sheet) + ": " + titleOf(sheet->plan)));
    double time = 0;
    for (const ProofInfo* proof : proofs) time += proof->milliseconds;
    const Brief& brief = sheet->plan.base.brief;
    QString text = sheet->plan.seeds.size() == 1 ? QString("seed %1 held, ").arg(sheet->plan.seeds.front())
                                                 : QString("%1 seeds, ").arg(sheet->plan.seeds.size());
    text += QString("%1 steps, %2 x %3, %4 of %5 proofs, %6 s")
                .arg(brief.steps)
                .arg(sheet->plan.base.frame.width)
                .arg(sheet->plan.base.frame.height)
                .arg(proofs.size())
                .arg(sheet->plan.search ? sheet->plan.search->budget : sheet->plan.cells())
                .arg(time / 1000, 0, 'f', 1);
    about_->setText(text);
  } else {
    name_->setText(desk_.document.state().looking.sheet == keptProofs ? "With a star" : "All proofs");
    about_->setText(QString(proofs.size() == 1 ? "%1 proof" : "%1 proofs").arg(proofs.size()));
  }
  name_->setToolTip(name_->text());
  fillGuides();
  compare_->setHoldOf(model_->guideLookedAt());
  if (comparing()) name_->setText("Compared");
  sheetTools_->setVisible(!comparing() && !model_->placed());
}

/// The guides that any of the shown proofs had.
void SheetView::fillGuides() {
  std::map<std::string_view, const std::string*> guides;  // by id, the first one's name
  for (const ProofInfo* proof : model_->proofs())
    for (const RecipeGuide& entry : proof->recipe.guides) guides.try_emplace(entry.guide.id, &entry.guide.name);
  of_->clear();
  of_->addItem("all guides", QString());
  for (const auto& [id, name] : guides)
    of_->addItem(QString::fromStdString(*name), QString::fromUtf8(id.data(), static_cast<qsizetype>(id.size())));
  of_->setCurrentIndex(std::max(0, of_->findData(QString::fromStdString(model_->guideLookedAt()))));
}

/// The proposals one after the other, large beside the reference.
void SheetView::showProposal() {
  const auto& proposed = reading_->proposed();
  if (proposed.empty()) return;
  const auto chosen = grid_->selectedProofs();
  auto at = chosen.empty() ? proposed.end() : std::find(proposed.begin(), proposed.end(), chosen.front());
  at = at == proposed.end() || at + 1 == proposed.end() ? proposed.begin() : at + 1;
  grid_->selectProofs({*at});
  if (auto* reference = findChild<QPushButton*>("with reference"); !reference->isChecked()) reference->toggle();
  compare(true);
}

void SheetView::showMenu(const QPoint& global) {
  QMenu* menu = newMenu(*this);
  menu->addAction("Compare large", this, [this] { compare(true); });
  menu->addAction("Adopt settings", details_, &DetailsPanel::adopt);
  menu->addAction("Find a balance from here...", this, &SheetView::findFromChosen);
  menu->addAction("Use as start picture", details_, &DetailsPanel::startFrom);
  menu->addAction("Use as reference", details_, &DetailsPanel::useAsReference);
  menu->addAction("Pull at full size", details_, &DetailsPanel::pullLarge);
  menu->addAction("Finish: make it large...", this, [this] {
    const auto chosen = grid_->selectedProofs();
    emit desk_.finalAsked(chosen.empty() ? 0 : chosen.front());
  });
  menu->addSeparator();
  menu->addAction("Star", details_, &DetailsPanel::turnStar);
  menu->addAction("Export this proof...", this, &SheetView::exportAsked);
  menu->addAction("Put away", details_, &DetailsPanel::putAway);
  menu->popup(global);
}

void SheetView::exportSheet() {
  if (model_->proofs().empty()) {
    emit said("There are no proofs to export yet.");
    return;
  }
  const QString path = QFileDialog::getSaveFileName(
      this, "Export sheet", name_->text().section(':', 0, 0).toLower().replace(' ', '-') + ".png",
      "Labelled picture (*.png);;Pages for a printer (*.pdf);;Page with its pictures (*.html);;Table (*.csv)");
  if (path.isEmpty()) return;
  // What is there now, by value: more may have come while the dialog was open, and it is written on another thread.
  struct Whole {
    std::optional<SheetPlan> plan;
    std::vector<ProofInfo> proofs;
  };
  auto whole = std::make_shared<Whole>();
  if (model_->sheet() != nullptr) whole->plan = model_->sheet()->plan;
  for (const ProofInfo* proof : model_->proofs()) whole->proofs.push_back(*proof);
  SheetContent content;
  content.title = name_->text().toStdString();
  content.plan = whole->plan ? &*whole->plan : nullptr;
  for (const ProofInfo& proof : whole->proofs) content.proofs.push_back(&proof);
  content.png = desk_.proofs.reader();
  desk_.write(path,
              [whole, content, file = path.toStdString()] { writeFileAtomically(file, sheetFile(content, file)); });
}

}  // namespace hscaffold::app
