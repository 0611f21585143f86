#include "app/bench/bench_view.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSlider>
#include <QSplitter>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/bench/map_chooser.h"
#include "app/theme/theme.h"
#include "app/widgets/room.h"
#include "app/workbench/kind_tools.h"
#include "app/workbench/pose/figure_edits.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr int roomForFourColumns = 1500;

}  // namespace

BenchView::BenchView(Desk& desk, QWidget* parent) : MainView(parent), desk_(desk), bench_(desk.workbench) {
  left_ = new LeftColumn(desk_);
  source_ = new SourceTable(desk_);
  proof_ = new ProofTable(desk_);
  depth_ = new DepthTable(desk_);
  depth_->hide();
  strip_ = new ProofStrip(desk_);
  board_ = new SpanBoard(desk_);
  brief_ = new BriefPanel(desk_);

  about_ = new QLabel;
  about_->setFont(textFont(9));
  about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  about_->setProperty("role", "note");
  pointer_ = new QLabel;
  pointer_->setFont(textFont(9));
  pointer_->setProperty("role", "note");
  auto* note = panel();
  auto* noteRow = new QHBoxLayout(note);
  noteRow->setContentsMargins(12, 3, 12, 3);
  noteRow->addWidget(about_, 1);
  noteRow->addWidget(pointer_);
  note->setFixedHeight(24);

  sourceSide_ = new QWidget;
  auto* sourceColumn = new QVBoxLayout(sourceSide_);
  sourceColumn->setContentsMargins(0, 0, 0, 0);
  sourceColumn->setSpacing(0);
  sourceColumn->addWidget(sourceHead());
  sourceColumn->addWidget(placingTools_);
  tools_ = new ToolRow(desk_, *source_);
  toolPanel_ = panel(tools_);
  // Of one line or of two.
  toolPanel_->setMinimumHeight(34);
  toolPanel_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
  sourceColumn->addWidget(toolPanel_);
  sourceColumn->addWidget(source_, 1);
  sourceColumn->addWidget(note);
  figures_ = new FigureStrip(bench_.pose, bench_.search);
  figurePanel_ = panel(figures_);
  sourceColumn->addWidget(figurePanel_);
  library_ = new PoseLibrary(bench_.pose);
  libraryPage_ = panel(library_);
  proofPage_ = new QWidget;
  auto* proofColumn = new QVBoxLayout(proofPage_);
  proofColumn->setContentsMargins(0, 0, 0, 0);
  proofColumn->setSpacing(0);
  proofColumn->addWidget(proofHead());
  auto* proofLine = panel(strip_->head());
  proofLine->setFixedHeight(34);
  proofColumn->addWidget(proofLine);
  proofBody_ = new QBoxLayout(QBoxLayout::TopToBottom);
  proofBody_->setSpacing(0);
  proofBody_->addWidget(proof_, 1);
  proofBody_->addWidget(depth_, 1);
  showDepth({});  // before widths are shared out
  proofColumn->addLayout(proofBody_, 1);
  scan_ = new ScanStrip(desk_);
  proofColumn->addWidget(scan_);
  proofBody_->addWidget(panel(strip_));
  proofSide_ = new QWidget;
  auto* pages = new QVBoxLayout(proofSide_);
  pages->setContentsMargins(0, 0, 0, 0);
  pages->addWidget(proofPage_);
  pages->addWidget(libraryPage_);
  libraryPage_->hide();

  auto* tables = tableRow_ = new QSplitter(Qt::Horizontal);
  auto* sourceRoom = new Room("Source", sourceSide_, source_);
  auto* proofRoom = new Room("Proof", proofSide_, proof_);
  tables->addWidget(sourceRoom);
  tables->addWidget(proofRoom);
  tables->setHandleWidth(2);
  tables->setChildrenCollapsible(false);
  tables->setSizes({500, 500});
  auto* upper = new QSplitter(Qt::Horizontal);
  leftPanel_ = panel(left_);
  upper->addWidget(leftPanel_);
  upper->addWidget(tables);
  upper->setHandleWidth(2);
  upper->setChildrenCollapsible(false);
  upper->setStretchFactor(0, 0);
  upper->setStretchFactor(1, 1);
  upper->setSizes({262, 1018});
  left_->setMinimumWidth(262);
  auto* lower = boardRow_ = new QSplitter(Qt::Horizontal);
  lower_ = lower;
  auto* boardRoom = new Room("Span board", board_, &board_->chart());
  auto* briefRoom = briefRoom_ = new Room("Brief", brief_, &brief_->prompt());
  lower->addWidget(boardRoom);
  lower->addWidget(briefRoom);
  lower->setHandleWidth(2);
  lower->setChildrenCollapsible(false);
  lower->setStretchFactor(0, 1);
  lower->setStretchFactor(1, 0);
  lower->setSizes({830, 450});
  brief_->setMinimumWidth(290);
  auto* all = new QSplitter(Qt::Vertical);
  all->addWidget(upper);
  all->addWidget(lower);
  all->setHandleWidth(2);
  all->setChildrenCollapsible(false);
  all->setStretchFactor(0, 1);
  all->setStretchFactor(1, 0);
  all->setSizes({510, 236});
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(all);

  // The order of work: what is brought in, what is made of it, what comes out, how it is balanced, what is wanted.
  setRooms({left_->references(), left_->guides(), sourceRoom, proofRoom, boardRoom, briefRoom}, sourceRoom);
  connect(left_, &LeftColumn::openAsked, this, &BenchView::openAsked);
  connect(left_, &LeftColumn::compareAsked, this, &BenchView::compareMaps);
  connect(left_, &LeftColumn::placeAsked, this, [this] { bench_.setPlacing(true); });
  connect(source_, &SourceTable::openAsked, this, &BenchView::openAsked);
  connect(&desk_, &Desk::placeAsked, source_, &SourceTable::showPlace);
  connect(tools_, &ToolRow::exportMapAsked, this, &BenchView::exportMapAsked);
  connect(library_, &PoseLibrary::said, this, &BenchView::said);
  connect(library_, &PoseLibrary::closed, this, [this] { showLibrary(false); });
  connect(library_, &PoseLibrary::putAsked, this, [this](const pose::Figure& figure) {
    takePose(bench_, figure);
    source_->setFocus();
    emit said("Draw a box on the picture for " + QString::fromStdString(figure.name).toLower() + ", or click.");
  });
  const auto turnLibrary = [this] { showLibrary(!libraryShown()); };
  connect(&bench_, &Workbench::libraryAsked, this, turnLibrary);
  connect(&bench_, &Workbench::lookAsked, source_, &SourceTable::showFigure);
  connect(figures_, &FigureStrip::libraryAsked, this, [this] { showLibrary(true); });
  connect(figures_, &FigureStrip::checkAsked, this, [this] {
    if (selectNextDoubt(bench_.pose)) source_->showFigure();
    source_->setFocus();
  });
  connect(figures_, &FigureStrip::nextAsked, this, [this] {
    if (bench_.pose.selectNext(-1)) source_->showFigure();
  });
  connect(figures_, &FigureStrip::shown, this, [this](std::size_t figure) {
    bench_.pose.select(figure);
    source_->showFigure();
  });
  connect(brief_, &BriefPanel::poseWordsAsked, this, [this] { addPoseWords(bench_.pose, desk_.document); });
  connect(brief_, &BriefPanel::said, this, &BenchView::said);
  connect(brief_, &BriefPanel::pullUpAsked, this, [this] { pullBriefUp(!briefIsUp()); });
  connect(strip_, &ProofStrip::exportAsked, this, &BenchView::exportAsked);
  connect(&desk_.document, &StudyDocument::changed, this, &BenchView::follow);
  connect(&bench_.view, &LinkedView::pointerMoved, this, [this] {
    const auto at = bench_.view.pointer();
    QString text = at ? QString("x %1  y %2").arg(std::floor(at->x())).arg(std::floor(at->y())) : QString();
    const auto near = at ? bench_.depth.nearAt(*at) : std::nullopt, sure = at ? bench_.depth.sureAt(*at) : std::nullopt;
    if (near) text += QString("  depth %1").arg(*near, 0, 'f', 2);
    if (near && sure) text += QString(", sure %1").arg(*sure, 0, 'f', 2);
    pointer_->setText(text);
  });
  addActions();
  refresh();
  source_->setFocus();
}

/// Offered by the menu, and by their keys wherever the focus is.
void BenchView::addActions() {
  const auto add = [this](const QString& text, const QString& keys, const std::function<void()>& run) {
    auto* action = new QAction(text, this);
    if (!keys.isEmpty()) action->setShortcut(QKeySequence(keys));
    connect(action, &QAction::triggered, this, run);
    addAction(action);
    actions_.push_back(action);
  };
  add("Fit", "Ctrl+0", [this] { bench_.view.fit(); });
  add("Source over the whole width", "F6",
      [this] { showTables(tables_ == Tables::source ? Tables::both : Tables::source); });
  add("Proof over the whole width", "F7",
      [this] { showTables(tables_ == Tables::proof ? Tables::both : Tables::proof); });
  add("Tables alone", "F9", [this] { showTablesAlone(!alone_); });
  add("All leaves of the brief", "F4", [this] { pullBriefUp(!briefIsUp()); });
  add("Next room", "Ctrl+Tab", [this] { goToRoom(1); });
  add("Room before", "Ctrl+Shift+Tab", [this] { goToRoom(-1); });
  add("Place the reference", "Ctrl+P", [this] { bench_.setPlacing(!bench_.placing()); });
  add("Pose library", "Ctrl+Shift+P", [this] { showLibrary(!libraryShown()); });
  add("Compare maps...", "Ctrl+L", [this] { compareMaps(); });
}

void BenchView::compareMaps() {
  const auto& state = desk_.document.state();
  const Guide* guide = state.selectedGuide();
  std::string reference = state.looking.reference;
  if (guide != nullptr && state.reference(guide->reference) != nullptr) reference = guide->reference;
  if (!desk_.maps.placedPicture(reference)) return;
  auto* chooser = new MapChooser(desk_, reference, this);
  chooser->setAttribute(Qt::WA_DeleteOnClose);
  chooser->open();
}

void BenchView::showLibrary(bool shown) {
  if (shown && tables_ == Tables::source) showTables(Tables::both);
  libraryPage_->setVisible(shown);
  proofPage_->setVisible(!shown);
  if (shown)
    library_->search().setFocus();
  else
    source_->setFocus();
}

void BenchView::showTables(Tables tables) {
  tables_ = tables;
  fold();
}

void BenchView::showTablesAlone(bool alone) {
  alone_ = alone;
  fold();
}

/// A table over the whole width has the height, too: what lies below would only keep its picture small.
void BenchView::fold() {
  sourceSide_->parentWidget()->setVisible(tables_ != Tables::proof);
  proofSide_->parentWidget()->setVisible(tables_ != Tables::source);
  lower_->setVisible(tables_ == Tables::both && !alone_);
  // The brief beside the tables needs the room of references and guides where the window is narrow.
  leftPanel_->setVisible(!alone_ && (!briefIsUp() || width() >= roomForFourColumns));
  briefRoom_->setVisible(!briefIsUp() || (tables_ == Tables::both && !alone_));
}

bool BenchView::briefIsUp() const { return briefRoom_->parentWidget() == tableRow_; }

void BenchView::layProofs() {
  const Size frame = desk_.document.state().frame;
  const bool upright = frame.height > frame.width;
  if (upright == (proofBody_->direction() == QBoxLayout::LeftToRight)) return;
  strip_->setUpright(upright);
  proofBody_->setDirection(upright ? QBoxLayout::LeftToRight : QBoxLayout::TopToBottom);
}

QRect BenchView::messagePlace() const {
  for (const QWidget* table :
       {static_cast<const QWidget*>(source_), static_cast<const QWidget*>(proof_), static_cast<const QWidget*>(depth_)})
    if (table->isVisible()) return {table->mapTo(this, QPoint()), table->size()};
  return rect();
}

void BenchView::follow(const Changes& changes) {
  if (changes.looking || changes.frame || changes.references || changes.guideList ||
      changes.guide(desk_.document.state().looking.guide))
    refresh();
}

void BenchView::showTools() {
  const bool placing = bench_.placing();
  const KindTools* kind = bench_.kindTools();
  place_->setChecked(placing);
  placingTools_->setVisible(placing);
  // Without tools it keeps its height, so that both tables begin at one.
  toolPanel_->setVisible(!placing);
  tools_->setVisible(kind != nullptr);
  before_->setVisible(!placing);
  paper_->setVisible(!placing);
  ghost_->setVisible(!placing);
  ghostName_->setVisible(!placing);
  figurePanel_->setVisible(kind != nullptr && kind->poses && !placing);
}

void BenchView::refresh() {
  const auto& state = desk_.document.state();
  const Guide* guide = state.selectedGuide();
  showTools();
  layProofs();
  const bool lines = guide != nullptr && kindOf(guide->kind).nature == MapNature::lines;
  const bool figures = guide != nullptr && bench_.kindTools()->poses;
  brief_->setPoseWordsShown(figures);
  const bool depths = bench_.depth.takesHints();
  depthShown_->setVisible(depths);
  if (!depths && depth_->isVisibleTo(proofPage_)) showDepth({});
  // A new guide without figures: what comes next is to choose a pose.
  if (figures && guide->id != lastGuide_ && bench_.pose.figures() != nullptr && bench_.pose.figures()->figures.empty())
    QMetaObject::invokeMethod(
        this, [this] { showLibrary(true); }, Qt::QueuedConnection);
  if (!figures && lastGuide_ != (guide != nullptr ? guide->id : std::string()) && libraryShown()) showLibrary(false);
  lastGuide_ = guide != nullptr ? guide->id : std::string();
  before_->setEnabled(guide != nullptr && !figures && (guide->work.has(retouchSlot) || guide->limited()));
  if (!before_->isEnabled()) before_->setChecked(false);
  paper_->setEnabled(lines);
  const Reference* reference = guide != nullptr ? state.reference(guide->reference) : nullptr;
  if (reference == nullptr || bench_.placing()) reference = state.selectedReference();
  place_->setEnabled(reference != nullptr);
  if (reference == nullptr) {
    about_->clear();
    return;
  }
  static constexpr const char* fits[] = {"cover", "contain", "stretch", "placed by hand"};
  const Placement p = resolved(reference->placement, reference->size, state.frame);
  QString text = QString("%1, %2 x %3, %4")
                     .arg(QString::fromStdString(reference->name))
                     .arg(reference->size.width)
                     .arg(reference->size.height)
                     .arg(fits[static_cast<std::size_t>(p.fit)]);
  if (p.turn != 0) text += QString(", turned %1°").arg(p.turn, 0, 'f', 0);
  text += QString(", %1 %").arg(std::lround(p.scaleX * 100));
  about_->setText(text);
}

void BenchView::pullBriefUp(bool up) {
  if (up == briefIsUp()) return;
  const bool focused = briefRoom_->holdsFocus();
  (up ? tableRow_ : boardRow_)->addWidget(briefRoom_);
  brief_->setMinimumWidth(up ? 430 : 290);
  fold();
  const int across = up ? width() - (leftPanel_->isVisibleTo(this) ? leftPanel_->width() : 0) : boardRow_->width();
  const int wanted = up ? std::max(450, across * 3 / 10) : 450;
  if (up)
    tableRow_->setSizes({(across - wanted) / 2, (across - wanted) / 2, wanted});
  else
    boardRow_->setSizes({across - wanted, wanted});
  briefRoom_->show();
  if (focused) briefRoom_->enter();
}

}  // namespace hscaffold::app
