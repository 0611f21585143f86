#include "app/sheet/sheet_grid.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QPainter>
#include <QPixmapCache>
#include <QStyledItemDelegate>
#include <QToolTip>
#include <QWheelEvent>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr int gap = 10, foot = 28, caption = 15, captionRoom = 19, usualWidth = 132;
constexpr double markSize = 24, leastForMarks = 84;
/// Cells that are smaller are scrolled rather than seen.
constexpr double smallestSeen = 84;

/// The picture's place in a cell.
QRectF pictureIn(const QRectF& cell, double ratio, int over) {
  const QRectF room = cell.adjusted(gap / 2.0, gap / 2.0 + over, -gap / 2.0, -gap / 2.0 - foot);
  const QSizeF size = QSizeF(ratio, 1).scaled(room.size(), Qt::KeepAspectRatio);
  return {room.left() + (room.width() - size.width()) / 2, room.top() + (room.height() - size.height()) / 2,
          size.width(), size.height()};
}

void paintStar(QPainter& painter, QPointF at, const QColor& colour) {
  QPolygonF star;
  for (int i = 0; i < 10; ++i) {
    const double angle = M_PI * (i / 5.0 - 0.5), r = i % 2 == 0 ? 7 : 3;
    star << at + QPointF(r * std::cos(angle), r * std::sin(angle));
  }
  painter.setPen(QPen(QColor(0, 0, 0, 140), 1));
  painter.setBrush(colour);
  painter.drawPolygon(star);
}

/// Two frames, one over the other; or a tick.
void paintMark(QPainter& painter, const QRectF& place, SheetGrid::Mark mark, bool pressed) {
  painter.setPen(QPen(theme().line, 1));
  painter.setBrush(pressed ? theme().accent : theme().panel);
  painter.drawRoundedRect(place, 4, 4);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(pressed ? theme().ground : theme().text, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  const QPointF c = place.center();
  if (mark == SheetGrid::Mark::compare) {
    painter.drawRect(QRectF(c + QPointF(-6.5, -5), QSizeF(6, 10)));
    painter.drawRect(QRectF(c + QPointF(1.5, -5), QSizeF(6, 10)));
  } else {
    painter.drawPolyline(QPolygonF({c + QPointF(-5, 0.5), c + QPointF(-1.5, 4), c + QPointF(5.5, -4)}));
  }
}

class CellDelegate : public QStyledItemDelegate {
 public:
  CellDelegate(Desk& desk, SheetGrid& grid) : QStyledItemDelegate(&grid), desk_(desk), grid_(grid) {}

  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const QVariant numberThere = index.data(SheetModel::numberRole);
    if (!numberThere.isValid()) return;
    const qint64 number = numberThere.toLongLong();
    painter->save();
    painter->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    const Size frame = number > 0 ? desk_.proofs.proof(number)->recipe.frame : desk_.document.state().frame;
    const QRectF place =
        pictureIn(QRectF(option.rect), static_cast<double>(frame.width) / frame.height, grid_.captionHeight());
    QImage image = index.data(Qt::DecorationRole).value<QImage>();
    painter->fillRect(place, theme().raised);
    if (!image.isNull()) {
      const CellLens& lens = grid_.lens();
      const double asked = place.width() * painter->device()->devicePixelRatioF() * lens.zoom;
      if (number > 0 && asked > 1.1 * image.width())
        if (const QImage large = desk_.proofs.large(number); !large.isNull()) image = large;
      if (lens.squint)
        image = image.scaled(24, 24, Qt::KeepAspectRatio, Qt::SmoothTransformation)
                    .scaled(place.size().toSize(), Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
      const QSizeF part = QSizeF(image.size()) / lens.zoom;
      const QRectF source(lens.centre.x() * image.width() - part.width() / 2,
                          lens.centre.y() * image.height() - part.height() / 2, part.width(), part.height());
      if (number == 0) painter->setOpacity(0.55);
      if (number > 0 && lens.zoom <= 1 && !lens.squint)
        painter->drawPixmap(place.topLeft(),
                            scaled(number, image, place.size().toSize(), painter->device()->devicePixelRatioF()));
      else
        painter->drawImage(place, image, source);
      painter->setOpacity(1);
    }
    const bool selected = option.state.testFlag(QStyle::State_Selected);
    const bool current = index == grid_.currentIndex() && number > 0;
    painter->setBrush(Qt::NoBrush);
    if (grid_.evidence().contains(number) && number > 0) {
      painter->setPen(QPen(theme().text, 1.4, Qt::DashLine));
      painter->drawRect(place.adjusted(-3.5, -3.5, 3.5, 3.5));
    }
    painter->setPen(QPen(selected ? theme().accent : theme().line, selected ? (current ? 2.6 : 1.6) : 1));
    painter->drawRect(place.adjusted(-1, -1, 1, 1));
    if (index.data(SheetModel::keptRole).toBool())
      paintStar(*painter, place.topRight() + QPointF(-11, 11), theme().accent);
    painter->setFont(textFont(8));
    if (const QString words = index.data(SheetModel::captionRole).toString(); !words.isEmpty()) {
      painter->setPen(theme().text);
      const QRectF line(place.left(), place.top() - caption - 4, place.width(), caption);
      painter->drawText(line, Qt::AlignLeft | Qt::AlignVCenter,
                        painter->fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(line.width())));
    }
    for (const auto mark : {SheetGrid::Mark::compare, SheetGrid::Mark::adopt})
      if (const QRectF at = grid_.markPlace(index, mark); index == grid_.hovered() && !at.isEmpty())
        paintMark(*painter, at, mark, grid_.pressed() == mark);
    if (number == 0) {
      painter->setPen(theme().text);
      painter->drawText(place, Qt::AlignCenter, index.data(SheetModel::emptyRole).toString());
      if (const QVariant done = index.data(SheetModel::progressRole); done.isValid())
        paintBar(*painter, place, 0, done.toDouble(), theme().accent, {});
    } else {
      const QVariant hold = index.data(SheetModel::holdRole), shift = index.data(SheetModel::shiftRole);
      paintBar(*painter, place, 0, hold.isValid() ? hold.toDouble() / 100 : -1, theme().good,
               hold.isValid() ? QString("hold %1").arg(std::lround(hold.toDouble())) : QString("no hold"));
      paintBar(*painter, place, 1, shift.isValid() ? shift.toDouble() / 100 : -1, theme().accent,
               shift.isValid() ? QString("shift %1").arg(std::lround(shift.toDouble())) : QString("no shift"));
    }
    painter->restore();
  }

 private:
  /// Made once a size: scaling costs more than everything else in a cell.
  static QPixmap scaled(qint64 number, const QImage& image, QSize size, double ratio) {
    const QString key =
        QString("cell %1 %2 %3x%4").arg(number).arg(image.cacheKey()).arg(size.width()).arg(size.height());
    QPixmap pixmap;
    if (QPixmapCache::find(key, &pixmap)) return pixmap;
    pixmap = QPixmap::fromImage(image.scaled(size * ratio, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
    pixmap.setDevicePixelRatio(ratio);
    QPixmapCache::insert(key, pixmap);
    return pixmap;
  }
  static void paintBar(QPainter& painter, const QRectF& under, int line, double share, const QColor& colour,
                       const QString& words) {
    const double y = under.bottom() + 8 + 12 * line, length = words.isEmpty() ? under.width() : under.width() - 48;
    painter.fillRect(QRectF(under.left(), y, length, 3), theme().ground);
    if (share >= 0) painter.fillRect(QRectF(under.left(), y, length * std::clamp(share, 0.0, 1.0), 3), colour);
    painter.setPen(theme().text);
    painter.drawText(QRectF(under.right() - 46, y - 5, 46, 13), Qt::AlignRight | Qt::AlignVCenter, words);
  }

  Desk& desk_;
  SheetGrid& grid_;
};

/// The largest width at which so many cells have room in rows. @param over  what stands over each, pixels
double widestInRows(int cells, QSize room, double ratio, int over) {
  double best = 0;
  for (int columns = 1; columns <= cells; ++columns) {
    const int rows = (cells + columns - 1) / columns;
    const double across = static_cast<double>(room.width()) / columns - gap,
                 down = static_cast<double>(room.height()) / rows - gap - foot - over;
    best = std::max(best, std::min(across, down * ratio));
  }
  return best;
}

}  // namespace

SheetGrid::SheetGrid(Desk& desk, SheetModel& model, QWidget* parent) : QTableView(parent), desk_(desk), model_(model) {
  QPixmapCache::setCacheLimit(64 << 10);  // kilobytes
  setObjectName("sheet");
  setAccessibleName("Proofs of the sheet");
  setProperty("role", "sheet");
  setModel(&model_);
  setItemDelegate(new CellDelegate(desk_, *this));
  setShowGrid(false);
  setFrameShape(QFrame::NoFrame);
  setSelectionMode(QAbstractItemView::ExtendedSelection);
  setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  setTabKeyNavigation(false);
  viewport()->setMouseTracking(true);
  setCornerButtonEnabled(false);
  for (QHeaderView* header : {horizontalHeader(), verticalHeader()}) {
    header->setSectionResizeMode(QHeaderView::Fixed);
    header->setSectionsClickable(false);
    header->setHighlightSections(false);
    header->setMinimumSectionSize(20);
  }
  horizontalHeader()->setFixedHeight(26);
  verticalHeader()->setFixedWidth(78);
  verticalHeader()->setDefaultAlignment(Qt::AlignCenter);
  connect(&model_, &QAbstractItemModel::modelReset, this, [this] {
    fitMatrix();
    fitCells();
    selectProofs({desk_.document.state().looking.proof});
  });
  connect(&desk_.finder, &Finder::changed, this, [this](qint64 sheet) {
    if (sheet != sheetNumber()) return;
    fitMatrix();
    fitCells();
  });
  connect(&themeSignals(), &ThemeSignals::changed, viewport(), qOverload<>(&QWidget::update));
  fitCells();
}

int SheetGrid::captionHeight() const { return model_.sheet() != nullptr && !model_.matrix() ? captionRoom : 0; }

void SheetGrid::fitCells() {
  Size frame = desk_.document.state().frame;
  if (const SheetInfo* sheet = model_.sheet()) frame = sheet->plan.base.frame;
  int across = cellWidth_ + gap;
  // A strip that is too long for one row goes on in the next where nothing stands at its other side.
  const int room = model_.placed() ? width() - 16 : viewport()->width();
  const bool wraps = model_.mayWrap() && model_.sheet()->plan.across() * across > room - verticalHeader()->width();
  if (!model_.placed() || wraps) {
    // Where nothing stands at the axes, rows are filled.
    const int columns = std::max(1, room / across);
    across = std::max(across, room / columns);
    model_.setColumns(columns, wraps);
  } else {
    model_.setColumns(model_.sheet()->plan.across());
  }
  const bool matrix = model_.matrix();
  horizontalHeader()->setVisible(matrix);
  verticalHeader()->setVisible(matrix);
  horizontalHeader()->setDefaultSectionSize(across);
  const double ratio = std::clamp(static_cast<double>(frame.height) / frame.width, 0.4, 1.8);
  verticalHeader()->setDefaultSectionSize(static_cast<int>(std::lround(cellWidth_ * ratio)) + gap + foot +
                                          captionHeight());
}

void SheetGrid::fitMatrix() {
  if (!isVisible()) return;
  const auto& widths = desk_.document.state().looking.cellWidths;
  if (const auto chosen = widths.find(sheetNumber()); chosen != widths.end()) {
    cellWidth_ = std::clamp(chosen->second, narrowest, widest);
  } else if (model_.sheet() == nullptr) {
    cellWidth_ = usualWidth;
  } else {
    const SheetPlan& plan = model_.sheet()->plan;
    const double ratio = static_cast<double>(plan.base.frame.width) / plan.base.frame.height;
    const QSize room(width() - 16, height() - 4);
    double largest = 0;
    if (model_.placed()) {
      const int rows = plan.down() * static_cast<int>(plan.seeds.size());
      const QSize within(room.width() - verticalHeader()->width(), room.height() - horizontalHeader()->height());
      largest = std::min(static_cast<double>(within.width()) / plan.across() - gap,
                         (static_cast<double>(within.height()) / rows - gap - foot) * ratio);
      // In rows only where that shows much more.
      constexpr double muchLarger = 1.25;
      constexpr int few = 4;
      if (model_.mayWrap() && (plan.cells() > few || largest < smallestSeen))
        if (const double wrapped = widestInRows(plan.cells(), room, ratio, captionRoom); wrapped > muchLarger * largest)
          largest = wrapped;
    } else {
      // A search that goes on has room for all that it may try.
      const bool going = plan.search && desk_.finder.searching(sheetNumber());
      const int cells = std::max(1, going ? plan.search->budget : plan.cells());
      largest = widestInRows(cells, room, ratio, captionRoom);
    }
    cellWidth_ = static_cast<int>(std::clamp(largest, smallestSeen, double{widest}));
  }
  emit sized(cellWidth_);
}

void SheetGrid::setCellWidth(int width) {
  cellWidth_ = std::clamp(width, narrowest, widest);
  desk_.document.look([&](Looking& looking) { looking.cellWidths[looking.sheet] = cellWidth_; });
  fitCells();
  viewport()->update();
}

void SheetGrid::resizeEvent(QResizeEvent* event) {
  QTableView::resizeEvent(event);
  fitMatrix();
  fitCells();
}

void SheetGrid::setSquint(bool squint) {
  lens_.squint = squint;
  viewport()->update();
}

void SheetGrid::showAll() { moveLens(1, {0.5, 0.5}); }

void SheetGrid::moveLens(double zoom, QPointF centre) {
  lens_.zoom = std::clamp(zoom, 1.0, 16.0);
  const double half = 0.5 / lens_.zoom;
  lens_.centre = {std::clamp(centre.x(), half, 1 - half), std::clamp(centre.y(), half, 1 - half)};
  viewport()->update();
}

QRectF SheetGrid::picturePlace(const QModelIndex& index) const {
  const ProofInfo* proof = desk_.proofs.proof(model_.numberAt(index));
  if (proof == nullptr) return {};
  const Size frame = proof->recipe.frame;
  return pictureIn(QRectF(visualRect(index)), static_cast<double>(frame.width) / frame.height, captionHeight());
}

QRectF SheetGrid::markPlace(const QModelIndex& index, Mark mark) const {
  const QRectF place = picturePlace(index);
  if (place.width() < leastForMarks || place.height() < leastForMarks / 2) return {};
  const double right = place.right() - 5 - (mark == Mark::compare ? markSize + 4 : 0);
  return {right - markSize, place.bottom() - 5 - markSize, markSize, markSize};
}

std::optional<SheetGrid::Mark> SheetGrid::markAt(QPoint at) const {
  const QModelIndex index = indexAt(at);
  for (const Mark mark : {Mark::compare, Mark::adopt})
    if (markPlace(index, mark).contains(at)) return mark;
  return {};
}

void SheetGrid::hover(QPoint at) {
  const QModelIndex index = indexAt(at), now = model_.numberAt(index) > 0 ? index : QModelIndex();
  if (now == hovered_) return;
  const QModelIndex before = hovered_;
  hovered_ = now;
  for (const QModelIndex& one : {before, now})
    if (one.isValid()) update(one);
}

void SheetGrid::leaveEvent(QEvent* event) {
  hover({-1, -1});
  QTableView::leaveEvent(event);
}

bool SheetGrid::viewportEvent(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    if (const auto mark = markAt(help->pos())) {
      QToolTip::showText(help->globalPos(),
                         *mark == Mark::compare
                             ? "Compare it with the chosen one, large (Ctrl and an arrow key, then C)"
                             : "Adopt its settings (A)",
                         this);
      return true;
    }
  }
  return QTableView::viewportEvent(event);
}

std::optional<QPointF> SheetGrid::placeInPicture(QPoint at) const {
  const QModelIndex index = indexAt(at);
  const std::int64_t number = model_.numberAt(index);
  if (number == 0) return {};
  const QRectF place = picturePlace(index);
  const QPointF share((at.x() - place.left()) / place.width(), (at.y() - place.top()) / place.height());
  return lens_.centre + (share - QPointF(0.5, 0.5)) / lens_.zoom;
}

void SheetGrid::wheelEvent(QWheelEvent* event) {
  const auto at = placeInPicture(event->position().toPoint());
  if (!event->modifiers().testFlag(Qt::ControlModifier) || !at) return QTableView::wheelEvent(event);
  // What is under the pointer stays there, in all cells alike.
  const double factor = std::pow(1.25, event->angleDelta().y() / 120.0),
               zoom = std::clamp(lens_.zoom * factor, 1.0, 16.0);
  moveLens(zoom, *at + (lens_.centre - *at) * (lens_.zoom / zoom));
  event->accept();
}

void SheetGrid::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (event->modifiers() != Qt::NoModifier && event->modifiers() != Qt::KeypadModifier) break;
      emit openAsked();
      return;
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      return moveLens(lens_.zoom * 1.25, lens_.centre);
    case Qt::Key_Minus:
      return moveLens(lens_.zoom / 1.25, lens_.centre);
    default:
      break;
  }
  QTableView::keyPressEvent(event);
}

void SheetGrid::mousePressEvent(QMouseEvent* event) {
  if (event->button() == Qt::MiddleButton) {
    panFrom_ = event->pos();
    return;
  }
  hover(event->pos());
  if (event->button() == Qt::LeftButton && event->modifiers() == Qt::NoModifier) pressed_ = markAt(event->pos());
  if (pressed_) return update(hovered_);
  QTableView::mousePressEvent(event);
}

void SheetGrid::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() == Qt::NoButton) hover(event->pos());
  if (pressed_) return;
  if (!panFrom_) return QTableView::mouseMoveEvent(event);
  const QPointF by = QPointF(event->pos() - *panFrom_) / (cellWidth_ * lens_.zoom);
  panFrom_ = event->pos();
  moveLens(lens_.zoom, lens_.centre - by);
}

void SheetGrid::mouseReleaseEvent(QMouseEvent* event) {
  if (event->button() == Qt::MiddleButton) panFrom_.reset();
  if (const auto mark = std::exchange(pressed_, std::nullopt)) {
    update(hovered_);
    // Only where it was let go again.
    const std::int64_t proof = model_.numberAt(hovered_);
    if (proof == 0 || indexAt(event->pos()) != hovered_ || markAt(event->pos()) != mark) return;
    return *mark == Mark::compare ? emit compareAsked(proof) : emit adoptAsked(proof);
  }
  QTableView::mouseReleaseEvent(event);
}

void SheetGrid::mouseDoubleClickEvent(QMouseEvent* event) {
  if (model_.numberAt(indexAt(event->pos())) > 0 && !markAt(event->pos())) emit openAsked();
}

void SheetGrid::contextMenuEvent(QContextMenuEvent* event) {
  const qint64 pull = indexAt(event->pos()).data(SheetModel::pullRole).toLongLong();
  if (pull > 0)
    emit waitingMenuAsked(event->globalPos(), pull);
  else if (!selectedProofs().empty())
    emit menuAsked(event->globalPos());
}

void SheetGrid::paintEvent(QPaintEvent* event) {
  QTableView::paintEvent(event);
  if (model_.rowCount() > 0) return;
  QPainter painter(viewport());
  painter.setPen(theme().softText);
  painter.setFont(textFont(10));
  painter.drawText(viewport()->rect(), Qt::AlignCenter,
                   desk_.document.state().looking.sheet == keptProofs
                       ? "No proof has a star yet.\nChoose one and press K."
                       : "No proofs yet.\nPull one (Ctrl+Return), or a sheet of them (Ctrl+Shift+Return).");
}

std::vector<std::int64_t> SheetGrid::selectedProofs() const {
  std::vector<std::int64_t> numbers;
  const std::int64_t current = model_.numberAt(currentIndex());
  for (const QModelIndex& index : selectionModel()->selectedIndexes())
    if (const std::int64_t number = model_.numberAt(index); number > 0 && number != current) numbers.push_back(number);
  std::sort(numbers.begin(), numbers.end());
  if (current > 0 && selectionModel()->isSelected(currentIndex())) numbers.insert(numbers.begin(), current);
  return numbers;
}

void SheetGrid::selectProofs(const std::vector<std::int64_t>& numbers) {
  QItemSelection selection;
  for (const std::int64_t number : numbers)
    if (const QModelIndex index = model_.indexOf(number); index.isValid()) selection.select(index, index);
  quiet_ = true;
  if (const QModelIndex first = numbers.empty() ? QModelIndex() : model_.indexOf(numbers.front()); first.isValid()) {
    selectionModel()->setCurrentIndex(first, QItemSelectionModel::NoUpdate);
    scrollTo(first);
  }
  selectionModel()->select(selection, QItemSelectionModel::ClearAndSelect);
  quiet_ = false;
  emit picked();
}

void SheetGrid::selectionChanged(const QItemSelection& selected, const QItemSelection& deselected) {
  QTableView::selectionChanged(selected, deselected);
  if (!quiet_) emit picked();
}

void SheetGrid::setEvidence(std::set<std::int64_t> proofs) {
  evidence_ = std::move(proofs);
  viewport()->update();
}

}  // namespace hscaffold::app
