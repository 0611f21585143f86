#include "app/bench/proof_strip.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QListView>
#include <QPainter>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <cmath>

#include "app/document/study_edits.h"
#include "app/proofs/proof_model.h"
#include "app/theme/theme.h"
#include "app/widgets/menus.h"

namespace hscaffold::app {
namespace {

constexpr QSize thumb{76, 50};
/// A hold as a bar, 0 to 100; nothing for a negative one.
class HoldBar : public QWidget {
 public:
  HoldBar() { setFixedSize(88, 5); }
  double value = -1;

 protected:
  void paintEvent(QPaintEvent*) override {
    if (value < 0) return;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().ground);
    painter.drawRoundedRect(rect(), 2, 2);
    painter.setBrush(theme().good);
    painter.drawRoundedRect(QRectF(0, 0, width() * value / 100, height()), 2, 2);
  }
};

/// A proof: its picture, its hold below, a frame round the one that is shown.
class ProofDelegate : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {thumb.width() + 8, thumb.height() + 24};
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    painter->save();
    painter->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    const QRectF box = QRectF(option.rect).adjusted(1, 1, -3, -3);
    const bool shown = option.state.testFlag(QStyle::State_Selected);
    painter->setPen(QPen(shown ? theme().accent : theme().line, shown ? 1.6 : 1));
    painter->setBrush(theme().raised);
    painter->drawRoundedRect(box, 3, 3);
    const QRectF place(box.left() + 2, box.top() + 2, box.width() - 4, thumb.height());
    const QImage image = index.data(Qt::DecorationRole).value<QImage>();
    if (!image.isNull()) {
      const QSizeF size = QSizeF(image.size()).scaled(place.size(), Qt::KeepAspectRatio);
      painter->drawImage(QRectF(place.center() - QPointF(size.width() / 2, size.height() / 2), size), image);
    }
    painter->setFont(textFont(8));
    painter->setPen(theme().text);
    painter->drawText(QRectF(box.left(), place.bottom(), box.width(), box.bottom() - place.bottom()), Qt::AlignCenter,
                      index.data(Qt::DisplayRole).toString());
    painter->restore();
  }
};

}  // namespace

ProofStrip::ProofStrip(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 6, 12, 6);
  column->setSpacing(6);
  head_ = new QWidget;
  auto* head = new QHBoxLayout(head_);
  head->setContentsMargins(12, 2, 12, 2);
  hold_ = new QLabel;
  hold_->setToolTip("How much of the guides' layout is in the shown proof, 0 to 100");
  bar_ = new HoldBar;
  about_ = new QLabel;
  about_->setProperty("role", "note");
  about_->setFont(textFont(9));
  // However long its text grows, the table beside it keeps its width.
  about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  hold_->setFixedWidth(62);
  adopt_ = new QPushButton("Adopt settings");
  adopt_->setObjectName("adopt");
  adopt_->setProperty("role", "link");
  adopt_->setToolTip("Bring back everything this proof was made with (Ctrl+Shift+A)");
  adopt_->setShortcut(QKeySequence("Ctrl+Shift+A"));
  connect(adopt_, &QPushButton::clicked, this, &ProofStrip::adopt);
  save_ = new QPushButton("Export");
  save_->setObjectName("export");
  save_->setProperty("role", "link");
  save_->setToolTip("Write the shown proof with its recipe as PNG (Ctrl+E)");
  connect(save_, &QPushButton::clicked, this, &ProofStrip::exportAsked);
  head->addWidget(hold_);
  head->addWidget(bar_);
  head->addWidget(about_, 1);
  head->addWidget(save_);
  head->addWidget(adopt_);
  model_ = new ProofModel(desk_.document, desk_.proofs, this);
  list_ = new QListView;
  list_->setModel(model_);
  list_->setItemDelegate(new ProofDelegate(list_));
  list_->setWrapping(false);
  list_->setUniformItemSizes(true);
  list_->setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  setUpright(false);
  list_->setFrameShape(QFrame::NoFrame);
  list_->setProperty("role", "strip");
  list_->setObjectName("proofs");
  list_->setAccessibleName("Proofs");
  list_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& index) {
    if (!index.isValid()) return;
    const qint64 number = index.data(ProofModel::numberRole).toLongLong();
    desk_.document.look([&](Looking& looking) { looking.proof = number; });
  });
  connect(list_, &QWidget::customContextMenuRequested, this, &ProofStrip::showMenu);
  column->addWidget(list_);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.others) refresh();
  });
  connect(&desk_.proofs, &ProofShelf::changed, this, &ProofStrip::refresh);
  connect(&themeSignals(), &ThemeSignals::changed, list_->viewport(), qOverload<>(&QWidget::update));
  refresh();
}

void ProofStrip::setUpright(bool upright) {
  list_->setFlow(upright ? QListView::TopToBottom : QListView::LeftToRight);
  list_->setVerticalScrollBarPolicy(upright ? Qt::ScrollBarAsNeeded : Qt::ScrollBarAlwaysOff);
  list_->setHorizontalScrollBarPolicy(upright ? Qt::ScrollBarAlwaysOff : Qt::ScrollBarAsNeeded);
  const int across = thumb.width() + 22, down = thumb.height() + 36;
  list_->setMinimumSize(upright ? QSize(across, 0) : QSize(0, down));
  list_->setMaximumSize(upright ? QSize(across, QWIDGETSIZE_MAX) : QSize(QWIDGETSIZE_MAX, down));
  layout()->setContentsMargins(upright ? 6 : 12, 6, upright ? 6 : 12, 6);
}

void ProofStrip::showMenu(const QPoint& at) {
  const QModelIndex index = list_->indexAt(at);
  if (!index.isValid()) return;
  const qint64 number = index.data(ProofModel::numberRole).toLongLong();
  QMenu* menu = newMenu(*this);
  menu->addAction("Finish: make it large...", this, [this, number] { emit desk_.finalAsked(number); });
  menu->addAction("Use as reference", this, [this, number] { bringInProof(desk_, number); });
  menu->addAction("Use as start picture", this, [this, number] { startFromProof(desk_.document, number); });
  menu->addAction(desk_.proofs.isKept(number) ? "Take the star away" : "Star", this,
                  [this, number] { turnStars(desk_.document, {number}); });
  menu->addAction("Put away", this, [this, number] { putProofsAway(desk_.document, {number}); });
  menu->popup(list_->viewport()->mapToGlobal(at));
}

void ProofStrip::adopt() {
  if (const ProofInfo* proof = desk_.proofs.current()) adoptProof(desk_, *proof);
}

void ProofStrip::refresh() {
  const ProofInfo* shown = desk_.proofs.current();
  adopt_->setEnabled(shown != nullptr);
  static_cast<HoldBar*>(bar_)->value = shown != nullptr ? meanHold(*shown).value_or(-1) : -1;
  hold_->setText(static_cast<HoldBar*>(bar_)->value >= 0
                     ? QString("Hold %1").arg(std::lround(static_cast<HoldBar*>(bar_)->value))
                     : QString());
  about_->setText(shown == nullptr ? QString()
                                   : QString("seed %1, %2 steps, %3 s")
                                         .arg(shown->recipe.brief.seed)
                                         .arg(shown->recipe.brief.steps)
                                         .arg(shown->milliseconds / 1000, 0, 'f', 1));
  about_->setToolTip(shown != nullptr ? QString::fromStdString(shown->recipe.brief.prompt) : QString());
  bar_->update();
  save_->setVisible(shown != nullptr);
  adopt_->setVisible(shown != nullptr);
  const QModelIndex index = model_->indexOf(desk_.document.state().looking.proof);
  if (list_->currentIndex() == index) return;
  const QSignalBlocker quiet(list_->selectionModel());
  list_->setCurrentIndex(index);
  list_->viewport()->update();
  if (index.isValid()) list_->scrollTo(index);
}

}  // namespace hscaffold::app
