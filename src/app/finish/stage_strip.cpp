#include "app/finish/stage_strip.h"

#include <QMouseEvent>
#include <QPainter>

#include "app/theme/theme.h"

namespace hscaffold::app {

StageStrip::StageStrip(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  setObjectName("stages");
  setAccessibleName("How the final came about");
  connect(&desk_.finals, &FinalShelf::pictureChanged, this, &StageStrip::follow);
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, &StageStrip::follow);
  connect(&themeSignals(), &ThemeSignals::changed, this, qOverload<>(&QWidget::update));
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.finals || changes.looking) follow();
  });
  follow();
}

void StageStrip::follow() {
  const auto count = static_cast<int>(cells().size());
  setFixedSize(std::max(10, count * (cellWidth + gap) - gap + 2), cellHeight);
  update();
  emit followed();
}

int StageStrip::chosenAt() const {
  const auto all = cells();
  for (std::size_t i = 0; i < all.size(); ++i)
    if (all[i].chosen) return static_cast<int>(i) * (cellWidth + gap) + cellWidth / 2;
  return -1;
}

std::vector<StageStrip::Cell> StageStrip::cells() const {
  std::vector<Cell> out;
  const Final* final = desk_.document.state().shownFinal();
  if (final == nullptr) return out;
  const std::string& chosen = desk_.document.state().looking.touchUp;
  out.push_back({QString("proof %1").arg(final->proof), desk_.proofs.thumbnail(final->proof), {}, false, false});
  const auto& stages = desk_.finals.stages();
  const auto at = [&](std::size_t number) { return number < stages.size() ? stages[number] : QImage(); };
  out.push_back({final->whole() ? "final" : "final: not whole yet", at(0), {}, !final->whole(), chosen.empty()});
  for (std::size_t i = 0; i < final->touchUps.size(); ++i) {
    const TouchUp& touchUp = final->touchUps[i];
    QString caption = QString::fromStdString(touchUp.name);
    const bool off = !touchUp.on || touchUp.usedTry() == nullptr;
    if (!touchUp.on)
      caption += ": off";
    else if (off)
      caption += touchUp.tries.empty() ? ": not pulled" : ": as it was";
    out.push_back({caption, at(i + 1), touchUp.id, off, touchUp.id == chosen});
  }
  return out;
}

void StageStrip::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
  const auto all = cells();
  int x = 1;
  for (std::size_t i = 0; i < all.size(); ++i, x += cellWidth + gap) {
    const Cell& cell = all[i];
    const QRectF box(x, 1, cellWidth - 2, cellHeight - 2);
    painter.setPen(QPen(cell.chosen ? theme().accent : theme().line, cell.chosen ? 1.6 : 1));
    painter.setBrush(theme().raised);
    painter.drawRoundedRect(box, 3, 3);
    const QRectF place = box.adjusted(4, 4, -4, -24);
    painter.setOpacity(cell.off ? 0.35 : 1);
    if (!cell.picture.isNull()) {
      QSizeF size = QSizeF(cell.picture.size()).scaled(place.size(), Qt::KeepAspectRatio);
      painter.drawImage(QRectF(place.center() - QPointF(size.width() / 2, size.height() / 2), size), cell.picture);
    }
    painter.setOpacity(1);
    painter.setPen(cell.off ? theme().softText : theme().text);
    painter.setFont(textFont(8.5));
    const QRectF text(box.left() + 6, box.bottom() - 22, box.width() - 12, 20);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(cell.caption, Qt::ElideRight, static_cast<int>(text.width())));
    if (i + 1 == all.size()) continue;
    painter.setPen(QPen(theme().softText, 1.4));
    const double middle = box.center().y(), from = box.right() + 4, to = box.right() + gap - 3;
    painter.drawLine(QPointF(from, middle), QPointF(to, middle));
    painter.drawLine(QPointF(to - 4, middle - 3), QPointF(to, middle));
    painter.drawLine(QPointF(to - 4, middle + 3), QPointF(to, middle));
  }
}

void StageStrip::mousePressEvent(QMouseEvent* event) {
  const auto all = cells();
  const auto number =
      static_cast<std::size_t>(std::max(0, static_cast<int>(event->position().x()) / (cellWidth + gap)));
  if (number < all.size()) emit picked(QString::fromStdString(all[number].touchUp));
}

}  // namespace hscaffold::app
