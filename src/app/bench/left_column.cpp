#include "app/bench/left_column.h"

#include <QAction>
#include <QLabel>
#include <QListView>
#include <QPainter>
#include <QScrollArea>
#include <QScrollBar>
#include <QStyledItemDelegate>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/bench/scan_dialog.h"
#include "app/document/study_edits.h"
#include "app/maps/reference_model.h"
#include "app/theme/icons.h"
#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "app/widgets/room.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr QSize trayThumb{60, 44};

QLabel* heading(const QString& text) {
  auto* label = new QLabel(text);
  label->setProperty("role", "note");
  return label;
}

/// A reference: its picture, a frame round the one that is looked at.
class ReferenceDelegate : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return trayThumb + QSize(4, 4);
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(option.rect).adjusted(0.5, 0.5, -0.5, -0.5);
    const bool shown = option.state.testFlag(QStyle::State_Selected);
    painter->setPen(QPen(shown ? theme().accent : theme().line, shown ? 1.6 : 1));
    painter->setBrush(theme().raised);
    painter->drawRoundedRect(box, 3, 3);
    const QImage image = index.data(Qt::DecorationRole).value<QImage>();
    if (!image.isNull()) painter->drawImage(option.rect.adjusted(2, 2, -2, -2), image);
    painter->restore();
  }
};

}  // namespace

LeftColumn::LeftColumn(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  auto* traySide = new QWidget;
  auto* column = new QVBoxLayout(traySide);
  column->setContentsMargins(8, 8, 6, 0);
  column->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->addWidget(heading("References"));
  head->addStretch(1);
  auto* open = new QToolButton;
  setIcon(*open, "plus");
  open->setProperty("role", "link");
  open->setAccessibleName("Bring in a picture");
  open->setToolTip("Bring in a picture (Ctrl+I), or drop one anywhere, or paste (Ctrl+V)");
  connect(open, &QToolButton::clicked, this, &LeftColumn::openAsked);
  head->addWidget(open);
  column->addLayout(head);
  makeTray();
  column->addWidget(tray_);

  auto* guideSide = new QWidget;
  column = new QVBoxLayout(guideSide);
  column->setContentsMargins(8, 4, 6, 8);
  column->setSpacing(6);
  auto* guidesHead = new QHBoxLayout;
  guidesHead->addWidget(heading("Guides"));
  guidesHead->addStretch(1);
  addGuide_ = new QToolButton;
  addGuide_->setObjectName("add guide");
  addGuide_->setText("+ Add guide");
  addGuide_->setProperty("role", "link");
  addGuide_->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(addGuide_);
  for (const Kind& kind : kinds()) {
    auto* action = menu->addAction(QString::fromStdString(kind.name), this,
                                   [this, id = kind.id] { addGuide(desk_.document, id); });
    action->setToolTip(
        QString::fromStdString(kind.startReason.empty() ? kind.help : kind.help + " " + kind.startReason));
    // Figures can be posed on an empty frame, and some kinds are made of settings; others are taken from a picture.
    if (kind.needsPicture())
      connect(menu, &QMenu::aboutToShow, action,
              [this, action] { action->setEnabled(!desk_.document.state().references.empty()); });
  }
  menu->addSeparator();
  menu->addAction("Compare maps...", this, &LeftColumn::compareAsked)
      ->setToolTip("Edges, line art and loose lines of the reference side by side");
  menu->setToolTipsVisible(true);
  addGuide_->setMenu(menu);
  guidesHead->addWidget(addGuide_);
  column->addLayout(guidesHead);
  empty_ = new QLabel(
      "A guide tells the engine what to keep. Bring in a picture and one for its edges is made, or add a pose.");
  empty_->setProperty("role", "note");
  empty_->setWordWrap(true);
  column->addWidget(empty_);

  scroll_ = new QScrollArea;
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* list = new QWidget;
  planks_ = new QVBoxLayout(list);
  planks_->setContentsMargins(0, 0, 2, 0);
  planks_->setSpacing(6);
  planks_->addStretch(1);
  scroll_->setWidget(list);
  column->addWidget(scroll_, 1);
  references_ = new Room("References", traySide);
  guides_ = new Room("Guides", guideSide);
  auto* rooms = new QVBoxLayout(this);
  rooms->setContentsMargins(0, 0, 0, 0);
  rooms->setSpacing(0);
  rooms->addWidget(references_);
  rooms->addWidget(guides_, 1);

  connect(&desk_.document, &StudyDocument::changed, this, &LeftColumn::follow);
  connect(&desk_.proofs, &ProofShelf::changed, this, [this] {
    for (Plank* plank : shown_) plank->refreshHold();
  });
  connect(&desk_.checks, &CheckList::changed, this, [this] {
    for (Plank* plank : shown_) plank->refreshCheck();
  });
  connect(&themeSignals(), &ThemeSignals::changed, this, [this] {
    for (Plank* plank : shown_) plank->refresh();
  });
  connect(&desk_.maps, &MapRoom::mapChanged, this, [this](const QString& guide) {
    if (Plank* plank = plankOf(guide.toStdString())) plank->refreshMap();
  });
  refresh();
}

Plank* LeftColumn::plankOf(const std::string& guide) const {
  for (Plank* plank : shown_)
    if (plank->guide() == guide) return plank;
  return nullptr;
}

/// Only what a change concerns is touched.
void LeftColumn::follow(const Changes& changes) {
  if (changes.guideList) return refresh();
  if (changes.references || changes.looking) followTray();
  const std::string selected = desk_.document.state().looking.guide;
  for (Plank* plank : shown_) {
    const bool turned = changes.looking && (plank->guide() == selected || plank->guide() == selected_);
    if (changes.guide(plank->guide()) || turned)
      plank->refresh();
    else if (changes.looking)
      plank->refreshHold();
  }
  if (selected != selected_) showSelected();
  selected_ = selected;
}

void LeftColumn::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  showSelected();  // it may have been chosen elsewhere meanwhile
}

/// The selected guide's plank, once it has the height that its tuning takes.
void LeftColumn::showSelected() {
  // A new one is laid out in the next turn of the event loop, and is as high as it gets some turns later.
  for (const int wait : {0, 50})
    QTimer::singleShot(wait, this, [this] {
      Plank* plank = plankOf(desk_.document.state().looking.guide);
      if (plank == nullptr) return;
      scroll_->widget()->layout()->activate();
      // One that is taller than there is room begins at its top.
      if (plank->height() > scroll_->viewport()->height())
        scroll_->verticalScrollBar()->setValue(plank->y());
      else
        scroll_->ensureWidgetVisible(plank, 0, 4);
    });
}

void LeftColumn::refresh() {
  if (selected_ != desk_.document.state().looking.guide) showSelected();
  selected_ = desk_.document.state().looking.guide;
  const auto& state = desk_.document.state();
  empty_->setVisible(state.guides.empty());
  followTray();
  const bool same = shown_.size() == state.guides.size() &&
                    std::equal(shown_.begin(), shown_.end(), state.guides.begin(),
                               [](const Plank* plank, const Guide& guide) { return plank->guide() == guide.id; });
  if (!same) rebuildPlanks();
  for (Plank* plank : shown_) plank->refresh();
}

void LeftColumn::makeTray() {
  model_ = new ReferenceModel(desk_.document, desk_.maps, desk_.tasks,
                              (QSizeF(trayThumb) * devicePixelRatioF()).toSize(), this);
  tray_ = new QListView;
  tray_->setModel(model_);
  tray_->setItemDelegate(new ReferenceDelegate(tray_));
  tray_->setFlow(QListView::LeftToRight);
  tray_->setWrapping(false);
  tray_->setUniformItemSizes(true);
  tray_->setSpacing(2);
  tray_->setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  tray_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  tray_->setFixedHeight(trayThumb.height() + 22);
  tray_->setFrameShape(QFrame::NoFrame);
  tray_->setProperty("role", "strip");
  tray_->setObjectName("references");
  tray_->setAccessibleName("References");
  tray_->setContextMenuPolicy(Qt::CustomContextMenu);
  const auto idAt = [](const QModelIndex& index) {
    return index.data(ReferenceModel::idRole).toString().toStdString();
  };
  connect(tray_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this, idAt](const QModelIndex& index) {
    if (index.isValid()) look(idAt(index));
  });
  connect(tray_, &QListView::clicked, this, [this, idAt](const QModelIndex& index) { look(idAt(index)); });
  connect(tray_, &QListView::doubleClicked, this, &LeftColumn::placeAsked);
  auto* remove = new QAction(tray_);
  remove->setShortcut(QKeySequence::Delete);
  remove->setShortcutContext(Qt::WidgetShortcut);
  connect(remove, &QAction::triggered, this, [this, idAt] {
    if (tray_->currentIndex().isValid()) removeReference(desk_.document, idAt(tray_->currentIndex()));
  });
  tray_->addAction(remove);
  connect(tray_, &QWidget::customContextMenuRequested, this, [this, idAt](const QPoint& at) {
    const QModelIndex index = tray_->indexAt(at);
    if (!index.isValid()) return;
    QMenu* menu = newMenu(*this);
    menu->addAction("Place in the frame", this, [this, id = idAt(index)] {
      look(id);
      emit placeAsked();
    });
    menu->addAction("Does it scan?", this, [this, id = idAt(index)] { (new ScanDialog(desk_, id, window()))->show(); })
        ->setToolTip("Looks for a code in it, in eleven ways");
    menu->addAction("Take out, with its guides", this,
                    [this, id = idAt(index)] { removeReference(desk_.document, id); });
    menu->popup(tray_->viewport()->mapToGlobal(at));
  });
}

void LeftColumn::look(const std::string& reference) {
  const auto& guides = desk_.document.state().guides;
  const Guide* selected = desk_.document.state().selectedGuide();
  desk_.document.look([&](Looking& looking) {
    looking.reference = reference;
    // The table shows the selected guide's reference: one of this reference's own is chosen with it.
    if (selected != nullptr && selected->reference == reference) return;
    const auto own =
        std::find_if(guides.begin(), guides.end(), [&](const Guide& g) { return g.reference == reference; });
    if (own != guides.end()) looking.guide = own->id;
  });
}

void LeftColumn::followTray() {
  const QModelIndex index = model_->indexOf(desk_.document.state().looking.reference);
  if (tray_->currentIndex() == index) return;
  const QSignalBlocker quiet(tray_->selectionModel());
  tray_->setCurrentIndex(index);
  tray_->viewport()->update();
  if (index.isValid()) tray_->scrollTo(index);
}

void LeftColumn::rebuildPlanks() {
  // The keys stay with the guide that had them.
  std::string focused;
  for (Plank* plank : shown_) {
    if (window()->focusWidget() == plank) focused = plank->guide();
    planks_->removeWidget(plank);
    plank->hide();
    plank->deleteLater();
  }
  shown_.clear();
  for (const Guide& guide : desk_.document.state().guides) {
    auto* plank = new Plank(desk_, guide.id);
    connect(plank, &Plank::movedBefore, this, [this](const QString& moved, const QString& other) {
      desk_.document.change("Reorder guides", [&](StudyState& s) {
        const auto at = [&](const QString& id) {
          return std::find_if(s.guides.begin(), s.guides.end(),
                              [&](const Guide& g) { return g.id == id.toStdString(); });
        };
        const auto from = at(moved), to = at(other);
        if (from == s.guides.end() || to == s.guides.end()) return;
        if (from < to)
          std::rotate(from, from + 1, to + 1);
        else
          std::rotate(to, from, from + 1);
      });
    });
    planks_->insertWidget(planks_->count() - 1, plank);
    shown_.push_back(plank);
    if (guide.id != focused) continue;
    plank->show();
    plank->setFocus();
  }
}

}  // namespace hscaffold::app
