#include "app/sheet/compare_table.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr std::size_t most = 4;
constexpr int captionHeight = 22;

}  // namespace

CompareTable::CompareTable(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  setObjectName("compare table");
  setAccessibleName("Proofs compared");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  blink_.setInterval(700);
  connect(&blink_, &QTimer::timeout, this, [this] {
    ++blinking_;
    update();
  });
  connect(&view_, &LinkedView::moved, this, qOverload<>(&QWidget::update));
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, [this](qint64 number) {
    if (std::find(numbers_.begin(), numbers_.end(), number) != numbers_.end()) update();
  });
  connect(&desk_.maps, &MapRoom::picturesChanged, this, qOverload<>(&QWidget::update));
}

void CompareTable::setProofs(const std::vector<std::int64_t>& numbers) {
  numbers_.assign(numbers.begin(), numbers.begin() + std::min<std::ptrdiff_t>(std::ssize(numbers), most));
  blinking_ = 0;
  if (!numbers_.empty())
    if (const ProofInfo* proof = desk_.proofs.proof(numbers_.front()))
      view_.setFrame({proof->recipe.frame.width, proof->recipe.frame.height});
  update();
}

void CompareTable::setLook(CompareLook look) {
  look_ = look;
  blinking_ = 0;
  if (look == CompareLook::blink)
    blink_.start();
  else
    blink_.stop();
  update();
}

void CompareTable::setReferenceShown(bool shown) {
  reference_ = shown;
  update();
}

void CompareTable::setHoldOf(const std::string& guide) {
  holdOf_ = guide;
  update();
}

void CompareTable::setSquint(bool squint) {
  squint_ = squint;
  update();
}

void CompareTable::showAll() { view_.fit(); }

std::vector<std::int64_t> CompareTable::tiles() const {
  std::vector<std::int64_t> all = numbers_;
  // One proof alone is blinked and wiped against the reference.
  if (reference_ || (look_ != CompareLook::beside && all.size() == 1)) all.insert(all.begin(), 0);
  if (look_ == CompareLook::blink && !all.empty()) return {all[blinking_ % all.size()]};
  if (look_ == CompareLook::wipe && all.size() > 2) all.resize(2);
  return all;
}

std::vector<QRect> CompareTable::places() const {
  const auto count = look_ == CompareLook::wipe ? 1 : static_cast<int>(tiles().size());
  if (count == 0) return {};
  // As many columns as make the pictures largest.
  const double ratio = static_cast<double>(view_.frame().width()) / view_.frame().height();
  int columns = 1;
  double best = 0;
  for (int c = 1; c <= count; ++c) {
    const int rows = (count + c - 1) / c;
    const double across = width() / c, down = height() / rows - captionHeight, scale = std::min(across, down * ratio);
    if (scale > best) {
      best = scale;
      columns = c;
    }
  }
  const int rows = (count + columns - 1) / columns;
  std::vector<QRect> all;
  for (int i = 0; i < count; ++i) {
    const int left = width() * (i % columns) / columns, right = width() * (i % columns + 1) / columns;
    const int top = height() * (i / columns) / rows, bottom = height() * (i / columns + 1) / rows;
    all.emplace_back(left + 1, top + 1, right - left - 2, bottom - top - 2);
  }
  return all;
}

QRect CompareTable::placeAt(QPoint at) const {
  for (const QRect& place : places())
    if (place.contains(at)) return place;
  return rect();
}

QImage CompareTable::pictureOf(std::int64_t number) {
  QImage image;
  if (number > 0) {
    image = desk_.proofs.large(number);
    if (image.isNull()) image = desk_.proofs.thumbnail(number);
  } else {
    const ProofInfo* proof = numbers_.empty() ? nullptr : desk_.proofs.proof(numbers_.front());
    const auto& state = desk_.document.state();
    std::string reference = state.looking.reference;
    if (proof != nullptr)
      for (const RecipeGuide& entry : proof->recipe.guides)
        if (state.reference(entry.guide.reference) != nullptr) {
          reference = entry.guide.reference;
          break;
        }
    image = desk_.maps.placedImage(reference);
  }
  return image;
}

void CompareTable::paintTile(QPainter& painter, const QRect& place, std::int64_t number) {
  const QSizeF room(place.width(), place.height() - captionHeight);
  QImage image = pictureOf(number);
  const QRectF frame(
      view_.toTable({0, 0}, room),
      view_.toTable({static_cast<double>(view_.frame().width()), static_cast<double>(view_.frame().height())}, room));
  painter.save();
  painter.translate(place.topLeft());
  painter.setClipRect(QRectF({0, 0}, room), Qt::IntersectClip);
  painter.fillRect(QRectF({0, 0}, room), theme().table);
  if (squint_ && !image.isNull()) {
    // A tenth of the size, in the middle: as from across the room.
    const QImage tiny = image.scaled(32, 32, Qt::KeepAspectRatio, Qt::SmoothTransformation);
    const QSizeF size = frame.size() * 0.36;
    painter.drawImage(QRectF(frame.center() - QPointF(size.width() / 2, size.height() / 2), size),
                      tiny.scaled(size.toSize(), Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
  } else if (!image.isNull()) {
    painter.setRenderHint(QPainter::SmoothPixmapTransform, view_.scale(room) < 3);
    painter.drawImage(frame, image);
  }
  painter.restore();
}

void CompareTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme().ground);
  const auto all = tiles();
  const auto where = places();
  painter.setFont(textFont(9));
  const auto nameOf = [&](std::int64_t number) {
    if (number == 0) return QString("reference");
    const ProofInfo* proof = desk_.proofs.proof(number);
    if (proof == nullptr) return QString();
    QString name = QString("proof %1").arg(number);
    if (const SheetInfo* sheet = desk_.proofs.sheet(proof->sheet))
      name += QString(": ") + QString::fromStdString(cellName(sheet->plan, proof->cell));
    if (const auto hold = hscaffold::holdOf(*proof, holdOf_)) name += QString(", hold %1").arg(std::lround(*hold));
    if (proof->shift) name += QString(", shift %1").arg(std::lround(*proof->shift));
    return name;
  };
  const auto say = [&](const QRect& place, const QString& words, Qt::Alignment side) {
    painter.setPen(theme().text);
    const QRect line(place.left() + 8, place.bottom() - captionHeight + 1, place.width() - 16, captionHeight);
    painter.drawText(line, side | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(words, Qt::ElideRight, line.width()));
  };
  if (look_ == CompareLook::wipe && all.size() == 2 && !where.empty()) {
    const QRect place = where.front();
    paintTile(painter, place, all[1]);
    const int x = place.left() + static_cast<int>(std::lround(wipeAt_ * place.width()));
    painter.save();
    painter.setClipRect(QRect(place.left(), place.top(), x - place.left(), place.height()));
    paintTile(painter, place, all[0]);
    painter.restore();
    painter.setPen(QPen(QColor("#f6f2ea"), 1.4));
    painter.drawLine(x, place.top(), x, place.bottom() - captionHeight);
    say(place.adjusted(0, 0, -place.width() / 2, 0), nameOf(all[0]), Qt::AlignLeft);
    say(place.adjusted(place.width() / 2, 0, 0, 0), nameOf(all[1]), Qt::AlignRight);
    return;
  }
  for (std::size_t i = 0; i < where.size() && i < all.size(); ++i) {
    paintTile(painter, where[i], all[i]);
    say(where[i], nameOf(all[i]), Qt::AlignLeft);
    if (!numbers_.empty() && all[i] == numbers_.front() && all.size() > 1) {
      painter.setPen(QPen(theme().accent, 1.4));
      painter.drawRect(where[i].adjusted(0, 0, -1, -captionHeight - 1));
    }
  }
}

void CompareTable::wheelEvent(QWheelEvent* event) {
  const QRect place = placeAt(event->position().toPoint());
  view_.zoom(std::pow(1.2, event->angleDelta().y() / 120.0), event->position() - place.topLeft(),
             QSizeF(place.width(), place.height() - captionHeight));
}

void CompareTable::mousePressEvent(QMouseEvent* event) {
  last_ = event->pos();
  const QRect place = placeAt(event->pos());
  wiping_ = look_ == CompareLook::wipe && event->button() == Qt::LeftButton &&
            std::abs(event->pos().x() - place.left() - wipeAt_ * place.width()) < 14;
}

void CompareTable::mouseMoveEvent(QMouseEvent* event) {
  const QRect place = placeAt(event->pos());
  if (event->buttons() == Qt::NoButton) {
    const bool onLine =
        look_ == CompareLook::wipe && std::abs(event->pos().x() - place.left() - wipeAt_ * place.width()) < 14;
    setCursor(onLine ? Qt::SizeHorCursor : Qt::OpenHandCursor);
    return;
  }
  if (wiping_) {
    wipeAt_ = std::clamp(static_cast<double>(event->pos().x() - place.left()) / place.width(), 0.0, 1.0);
    update();
  } else {
    view_.pan(event->pos() - last_, QSizeF(place.width(), place.height() - captionHeight));
  }
  last_ = event->pos();
}

void CompareTable::mouseReleaseEvent(QMouseEvent*) { wiping_ = false; }

void CompareTable::mouseDoubleClickEvent(QMouseEvent*) { emit closeAsked(); }

void CompareTable::keyPressEvent(QKeyEvent* event) {
  const QRect place = places().empty() ? rect() : places().front();
  const QSizeF room(place.width(), place.height() - captionHeight);
  switch (event->key()) {
    case Qt::Key_Escape:
      emit closeAsked();
      return;
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      return view_.zoom(1.25, QPointF(room.width() / 2, room.height() / 2), room);
    case Qt::Key_Minus:
      return view_.zoom(0.8, QPointF(room.width() / 2, room.height() / 2), room);
    case Qt::Key_Left:
    case Qt::Key_Right: {
      const int by = event->key() == Qt::Key_Right ? 1 : -1;
      if (look_ == CompareLook::wipe) {
        wipeAt_ = std::clamp(wipeAt_ + 0.02 * by, 0.0, 1.0);
        update();
      } else {
        view_.pan(QPointF(-40 * by, 0), room);
      }
      return;
    }
    case Qt::Key_Up:
    case Qt::Key_Down:
      return view_.pan(QPointF(0, event->key() == Qt::Key_Down ? -40 : 40), room);
    default:
      QWidget::keyPressEvent(event);
  }
}

}  // namespace hscaffold::app
