#include "app/finish/touch_list.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QStyledItemDelegate>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr int entryHeight = 58, touchUpRole = Qt::UserRole + 1, touchNoteRole = Qt::UserRole + 2,
              touchOnRole = Qt::UserRole + 3, touchPictureRole = Qt::UserRole + 4;

QRect switchIn(const QRect& row) { return {row.right() - 40, row.top() + 9, 30, 18}; }

class TouchDelegate : public QStyledItemDelegate {
 public:
  TouchDelegate(Desk& desk, QObject* parent) : QStyledItemDelegate(parent), desk_(desk) {}
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {120, entryHeight};
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    painter->save();
    painter->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    const bool shown = option.state.testFlag(QStyle::State_Selected), on = index.data(touchOnRole).toBool();
    const QRectF box = QRectF(option.rect).adjusted(1, 2, -1, -4);
    painter->setPen(QPen(shown ? theme().accent : theme().line, shown ? 1.6 : 1));
    painter->setBrush(theme().raised);
    painter->drawRoundedRect(box, 3, 3);
    const QRectF place(box.left() + 5, box.top() + 5, 42, 42);
    painter->fillRect(place, theme().ground);
    const std::string content = index.data(touchPictureRole).toString().toStdString();
    if (const QImage image = content.empty() ? QImage() : desk_.finals.small(content); !image.isNull()) {
      const QSizeF part = place.size().scaled(image.size(), Qt::KeepAspectRatio);
      painter->setOpacity(on ? 1 : 0.4);
      painter->drawImage(place, image,
                         QRectF((image.width() - part.width()) / 2, (image.height() - part.height()) / 2, part.width(),
                                part.height()));
      painter->setOpacity(1);
    }
    const QRectF text(box.left() + 56, box.top() + 6, box.width() - 56 - 46, 18);
    painter->setPen(on ? theme().text : theme().softText);
    painter->setFont(textFont(9.5, QFont::DemiBold));
    const auto line = [&](const QRectF& at, const QString& words) {
      painter->drawText(at, Qt::AlignLeft | Qt::AlignVCenter,
                        painter->fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(at.width())));
    };
    line(text, index.data().toString());
    painter->setPen(theme().softText);
    painter->setFont(textFont(8.5));
    line(text.translated(0, 20).adjusted(0, 0, 40, 0), index.data(touchNoteRole).toString());
    const QRectF knob = switchIn(option.rect);
    painter->setPen(Qt::NoPen);
    painter->setBrush(on ? theme().accent : theme().line);
    painter->drawRoundedRect(knob, 9, 9);
    painter->setBrush(on ? theme().onAccent : theme().softText);
    painter->drawEllipse(QPointF(on ? knob.right() - 9 : knob.left() + 9, knob.center().y()), 6, 6);
    painter->restore();
  }

 private:
  Desk& desk_;
};

}  // namespace

TouchList::TouchList(Desk& desk, QWidget* parent) : QListWidget(parent), desk_(desk) {
  setObjectName("touch-ups");
  setAccessibleName("Touch-ups, in the order in which they lie");
  setProperty("role", "strip");
  setItemDelegate(new TouchDelegate(desk_, this));
  setDragDropMode(QAbstractItemView::InternalMove);
  setDefaultDropAction(Qt::MoveAction);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.finals || changes.looking) refresh();
  });
  connect(&desk_.finals, &FinalShelf::smallChanged, viewport(), qOverload<>(&QWidget::update));
  connect(&themeSignals(), &ThemeSignals::changed, viewport(), qOverload<>(&QWidget::update));
  connect(this, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
    if (filling_ || item == nullptr) return;
    desk_.document.look([&](Looking& looking) { looking.touchUp = item->data(touchUpRole).toString().toStdString(); });
  });
  refresh();
}

void TouchList::refresh() {
  filling_ = true;
  const Final* final = desk_.document.state().shownFinal();
  const std::size_t count = final != nullptr ? final->touchUps.size() : 0;
  while (this->count() > static_cast<int>(count)) delete takeItem(this->count() - 1);
  while (this->count() < static_cast<int>(count)) addItem(new QListWidgetItem);
  int current = -1;
  for (std::size_t i = 0; i < count; ++i) {
    const TouchUp& touchUp = final->touchUps[i];
    QListWidgetItem* item = this->item(static_cast<int>(i));
    item->setText(QString::fromStdString(touchUp.name));
    item->setData(touchUpRole, QString::fromStdString(touchUp.id));
    item->setData(touchOnRole, touchUp.on);
    const std::size_t tries = touchUp.tries.size();
    item->setData(
        touchNoteRole,
        touchUp.region.empty() ? QString("draw where")
        : tries == 0
            ? QString("not pulled yet")
            : QString("change %1, %2 %3").arg(touchUp.change, 0, 'f', 2).arg(tries).arg(tries == 1 ? "try" : "tries"));
    const TouchTry* used = touchUp.usedTry();
    item->setData(touchPictureRole, QString::fromStdString(used != nullptr ? used->picture
                                                           : tries > 0     ? touchUp.tries.back().picture
                                                                           : ""));
    if (touchUp.id == desk_.document.state().looking.touchUp) current = static_cast<int>(i);
  }
  setCurrentRow(current);
  filling_ = false;
}

QRect TouchList::switchAt(int row) const { return switchIn(visualRect(model()->index(row, 0))); }

void TouchList::turn(int row) {
  const QListWidgetItem* item = this->item(row);
  const Final* final = desk_.document.state().shownFinal();
  if (item == nullptr || final == nullptr) return;
  const std::string id = item->data(touchUpRole).toString().toStdString();
  desk_.document.change(item->data(touchOnRole).toBool() ? "Switch a touch-up off" : "Switch a touch-up on",
                        [&, of = final->id](StudyState& s) {
                          if (TouchUp* touchUp = s.final(of)->touchUp(id)) touchUp->on = !touchUp->on;
                        });
}

void TouchList::mousePressEvent(QMouseEvent* event) {
  const QModelIndex at = indexAt(event->pos());
  if (at.isValid() && switchAt(at.row()).adjusted(-4, -4, 4, 4).contains(event->pos())) {
    turn(at.row());
    return;
  }
  QListWidget::mousePressEvent(event);
}

void TouchList::keyPressEvent(QKeyEvent* event) {
  const int row = currentRow();
  if (row >= 0 && event->key() == Qt::Key_Space) return turn(row);
  if (row >= 0 && (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace)) {
    emit removeAsked(item(row)->data(touchUpRole).toString());
    return;
  }
  // By keys to another place.
  const int by = event->key() == Qt::Key_Up ? -1 : event->key() == Qt::Key_Down ? 1 : 0;
  const Final* final = desk_.document.state().shownFinal();
  if (row >= 0 && by != 0 && event->modifiers().testFlag(Qt::AltModifier) && row + by >= 0 && row + by < count() &&
      final != nullptr) {
    desk_.document.change("Move a touch-up", [&, of = final->id](StudyState& s) {
      auto& all = s.final(of)->touchUps;
      std::swap(all[static_cast<std::size_t>(row)], all[static_cast<std::size_t>(row + by)]);
    });
    return;
  }
  QListWidget::keyPressEvent(event);
}

void TouchList::dropEvent(QDropEvent* event) {
  filling_ = true;
  QListWidget::dropEvent(event);
  filling_ = false;
  const Final* final = desk_.document.state().shownFinal();
  if (final == nullptr) return;
  std::vector<std::string> order;
  for (int i = 0; i < count(); ++i) order.push_back(item(i)->data(touchUpRole).toString().toStdString());
  desk_.document.change("Move a touch-up", [&, of = final->id](StudyState& s) {
    auto& all = s.final(of)->touchUps;
    std::stable_sort(all.begin(), all.end(), [&](const TouchUp& a, const TouchUp& b) {
      return std::find(order.begin(), order.end(), a.id) < std::find(order.begin(), order.end(), b.id);
    });
  });
  refresh();
}

}  // namespace hscaffold::app
