#include "app/bench/proof_table.h"

#include <QMouseEvent>
#include <QPainter>

#include "app/theme/theme.h"

namespace hscaffold::app {

ProofTable::ProofTable(Desk& desk, QWidget* parent) : Table(desk, parent) {
  setAccessibleName("Proof table");
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.frame || changes.brief) update();
  });
  connect(&desk_.proofs, &ProofShelf::changed, this, qOverload<>(&QWidget::update));
  connect(&desk_.proofs, &ProofShelf::missesChanged, this, qOverload<>(&QWidget::update));
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, [this](qint64 number) {
    if (number == desk_.document.state().looking.proof) update();
  });
  connect(&desk_.maps, &MapRoom::picturesChanged, this, [this] {
    if (wipe_) update();
  });
  connect(&desk_.maps, &MapRoom::mapChanged, this, [this] {
    if (marks_) update();
  });
  connect(&desk_.queue, &PullQueue::started, this, [this] {
    preview_ = {};
    step_ = 0;
    steps_ = desk_.document.state().brief.steps;
    update();
  });
  connect(&desk_.queue, &PullQueue::stepped, this, [this](int step, int steps, const QImage& preview) {
    step_ = step;
    steps_ = steps;
    if (!preview.isNull()) preview_ = preview;
    update();
  });
  connect(&desk_.queue, &PullQueue::ended, this, [this] {
    preview_ = {};
    update();
  });
}

void ProofTable::setMarks(bool on) {
  marks_ = on;
  update();
}
void ProofTable::setMisses(bool on) {
  misses_ = on;
  update();
}
void ProofTable::setSquint(bool on) {
  squint_ = on;
  update();
}
void ProofTable::setWipe(bool on) {
  wipe_ = on;
  update();
}

double ProofTable::wipeX() const {
  const QRectF frame = frameOnTable();
  return frame.left() + wipeAt_ * frame.width();
}

void ProofTable::mousePressEvent(QMouseEvent* event) {
  Table::mousePressEvent(event);
  if (wipe_ && !panning() && event->button() == Qt::LeftButton && std::abs(event->position().x() - wipeX()) <= 14)
    wiping_ = true;
}

void ProofTable::mouseMoveEvent(QMouseEvent* event) {
  Table::mouseMoveEvent(event);
  if (wiping_) {
    const QRectF frame = frameOnTable();
    wipeAt_ = std::clamp((event->position().x() - frame.left()) / frame.width(), 0.0, 1.0);
    update();
  } else if (!panning()) {
    if (wipe_ && std::abs(event->position().x() - wipeX()) <= 14)
      setCursor(Qt::SplitHCursor);
    else
      unsetCursor();
  }
}

void ProofTable::mouseReleaseEvent(QMouseEvent* event) {
  Table::mouseReleaseEvent(event);
  wiping_ = false;
}

void ProofTable::paintProgress(QPainter& painter) const {
  const QRectF frame = frameOnTable();
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  if (preview_.isNull())
    painter.fillRect(frame, QColor("#3a3a3a"));
  else
    painter.drawImage(frame, preview_);
  const QRectF bar(frame.left(), frame.bottom() - 4, frame.width(), 4);
  painter.fillRect(bar, QColor(0, 0, 0, 130));
  painter.fillRect(QRectF(bar.topLeft(), QSizeF(bar.width() * step_ / std::max(1, steps_), bar.height())),
                   theme().accent);
  const QString text =
      step_ < steps_ ? QString("Step %1 of %2").arg(step_).arg(steps_) : QString("Painting and measuring");
  painter.setFont(textFont(9));
  const QRectF label(frame.left() + 8, frame.bottom() - 28, painter.fontMetrics().horizontalAdvance(text) + 12, 18);
  painter.fillRect(label, QColor(0, 0, 0, 150));
  painter.setPen(QColor("#f3efe6"));
  painter.drawText(label, Qt::AlignCenter, text);
}

void ProofTable::paintProof(QPainter& painter, const ProofInfo& proof) {
  const QRectF frame = frameOnTable();
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  // While the picture itself is being brought, the small one stands for it.
  QImage picture = desk_.proofs.large(proof.number);
  if (picture.isNull()) picture = desk_.proofs.thumbnail(proof.number);
  if (squint_ && !picture.isNull()) {
    // As much as is left of it on a thumbnail across the street.
    constexpr int longest = 72;
    picture = picture.scaled(longest, longest, Qt::KeepAspectRatio, Qt::SmoothTransformation);
  }
  painter.drawImage(frame, picture);
  if (marks_ || misses_) {
    for (const RecipeGuide& entry : proof.recipe.guides) {
      if (marks_)
        if (const MapPicture* map = desk_.maps.mapOf(entry.guide.id); map != nullptr && !map->tinted.isNull()) {
          painter.setOpacity(0.85);
          painter.drawImage(frame, map->tinted);
          painter.setOpacity(1);
        }
      if (misses_)
        if (const QImage missed = desk_.proofs.misses(proof.number, entry.guide.id); !missed.isNull())
          painter.drawImage(frame, missed);
    }
  }
  if (!wipe_) return;
  const auto& state = desk_.document.state();
  const std::string reference =
      proof.recipe.guides.empty() ? state.looking.reference : proof.recipe.guides.front().guide.reference;
  const QImage placed = desk_.maps.placedImage(reference);
  const double x = wipeX();
  painter.save();
  painter.setClipRect(QRectF(frame.left(), frame.top(), x - frame.left(), frame.height()));
  if (!placed.isNull()) painter.drawImage(frame, placed);
  painter.restore();
  painter.setPen(QPen(QColor(0, 0, 0, 150), 3));
  painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()));
  painter.setPen(QPen(QColor("#f6f2ea"), 1.2));
  painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()));
  painter.setBrush(QColor("#f6f2ea"));
  painter.drawEllipse(QPointF(x, frame.center().y()), 6, 6);
}

void ProofTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme().table);
  painter.setRenderHint(QPainter::Antialiasing);
  const ProofInfo* proof = desk_.proofs.current();
  if (desk_.queue.pulling()) {
    paintProgress(painter);
  } else if (proof != nullptr) {
    paintProof(painter, *proof);
  } else {
    paintInvitation(painter, "No proof yet",
                    desk_.document.state().brief.prompt.empty()
                        ? "Write what to make in the brief, then pull one (Ctrl+Return)"
                        : "Pull one (Ctrl+Return)");
  }
  paintPointer(painter);
}

}  // namespace hscaffold::app
