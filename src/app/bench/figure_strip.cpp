#include "app/bench/figure_strip.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollArea>
#include <QScrollBar>
#include <QSlider>
#include <QToolButton>
#include <QToolTip>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "app/workbench/pose/figure_edits.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/pose/find/network_finder.h"

namespace hscaffold::app {
namespace {

constexpr int chipWidth = 132, chipHeight = 36, gap = 6;

QString nameOf(const pose::Figure& figure, std::size_t number) {
  return figure.name.empty() ? QString("Figure %1").arg(number + 1) : QString::fromStdString(figure.name);
}

int countOf(const pose::Figure& figure, pose::Presence presence) {
  int count = 0;
  for (std::size_t i = 0; i < figure.points.size(); ++i)
    count += figure.kind().isBody(i) && figure.points[i].presence == presence ? 1 : 0;
  return count;
}

}  // namespace

/// One chip a figure, near ones first; painted rather than made of widgets, so that there may be hundreds.
class FigureStrip::Chips : public QWidget {
 public:
  Chips(FigureStrip* strip, PoseWork& work) : QWidget(strip), strip_(strip), work_(work) {
    setFocusPolicy(Qt::StrongFocus);
    setObjectName("figures");
    setAccessibleName("Figures");
    setFixedHeight(chipHeight + 2);
  }
  [[nodiscard]] std::size_t count() const {
    const auto* all = work_.figures();
    return all != nullptr ? all->figures.size() : 0;
  }
  [[nodiscard]] QRect chip(std::size_t figure) const {
    const int place = static_cast<int>(count()) - 1 - static_cast<int>(figure);
    return {place * (chipWidth + gap), 1, chipWidth, chipHeight};
  }
  void refit() {
    setFixedWidth(std::max(1, static_cast<int>(count()) * (chipWidth + gap)));
    update();
  }

 protected:
  void paintEvent(QPaintEvent* event) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto* all = work_.figures();
    for (std::size_t f = 0; f < count(); ++f)
      if (chip(f).intersects(event->rect())) paintChip(painter, f, *all->figures[f]);
  }
  void mousePressEvent(QMouseEvent* event) override {
    const auto hit = at(event->pos());
    if (!hit) return;
    if (event->button() == Qt::LeftButton && switchOf(*hit).contains(event->pos()))
      return setFigureOn(work_, *hit, !work_.figures()->figures[*hit]->on);
    work_.select(hit);
  }
  void mouseDoubleClickEvent(QMouseEvent* event) override {
    if (const auto hit = at(event->pos())) emit strip_->shown(*hit);
  }
  void contextMenuEvent(QContextMenuEvent* event) override {
    const auto hit = at(event->pos());
    if (!hit) return;
    work_.select(hit);
    QMenu* menu = newMenu(*this);
    menu->addAction("Show", this, [this, f = *hit] { emit strip_->shown(f); });
    menu->addAction("Rename...", this, [this, f = *hit] {
      if (work_.figures() == nullptr || f >= work_.figures()->figures.size()) return;
      const auto figure = work_.figures()->figures[f];
      bool ok = false;
      const QString name =
          QInputDialog::getText(this, "Rename figure", "Name", QLineEdit::Normal, nameOf(*figure, f), &ok);
      // Figures may have come or gone meanwhile: it is still the one that was asked about, or nothing is done.
      const auto* now = work_.figures();
      if (ok && now != nullptr && f < now->figures.size() && now->figures[f] == figure) renameFigure(work_, f, name);
    });
    menu->addSeparator();
    addFigureActions(*menu, work_, *hit);
    menu->popup(event->globalPos());
  }
  void keyPressEvent(QKeyEvent* event) override {
    switch (event->key()) {
      case Qt::Key_Left:
        work_.selectNext(1);
        break;
      case Qt::Key_Right:
        work_.selectNext(-1);
        break;
      case Qt::Key_Space:
        if (const auto f = work_.selected()) setFigureOn(work_, *f, !work_.figures()->figures[*f]->on);
        break;
      case Qt::Key_Return:
        if (const auto f = work_.selected()) emit strip_->shown(*f);
        break;
      case Qt::Key_Delete:
        if (const auto f = work_.selected()) work_.remove(*f);
        break;
      default:
        QWidget::keyPressEvent(event);
    }
  }
  bool event(QEvent* event) override {
    if (event->type() != QEvent::ToolTip) return QWidget::event(event);
    auto* help = static_cast<QHelpEvent*>(event);
    const auto hit = at(help->pos());
    if (!hit) return true;
    const pose::Figure& figure = *work_.figures()->figures[*hit];
    QToolTip::showText(help->globalPos(),
                       QString("%1: %2 points seen, %3 hidden, %4 absent. Double-click to see it large")
                           .arg(nameOf(figure, *hit))
                           .arg(countOf(figure, pose::Presence::seen))
                           .arg(countOf(figure, pose::Presence::hidden))
                           .arg(countOf(figure, pose::Presence::absent)));
    return true;
  }

 private:
  [[nodiscard]] std::optional<std::size_t> at(QPoint place) const {
    for (std::size_t f = 0; f < count(); ++f)
      if (chip(f).contains(place)) return f;
    return {};
  }
  [[nodiscard]] QRect switchOf(std::size_t figure) const {
    const QRect box = chip(figure);
    return {box.right() - 30, box.top() + 2, 28, 18};
  }
  void paintChip(QPainter& painter, std::size_t f, const pose::Figure& figure) const {
    const QRectF box = QRectF(chip(f)).adjusted(0.5, 0.5, -0.5, -0.5);
    const bool selected = work_.selected() == f;
    painter.setPen(QPen(selected ? theme().accent : theme().line, selected ? 1.5 : 1));
    painter.setBrush(theme().raised);
    painter.drawRoundedRect(box, 3, 3);
    painter.setOpacity(figure.on ? 1 : 0.55);
    painter.setPen(theme().text);
    painter.setFont(textFont(9, QFont::DemiBold));
    painter.drawText(box.adjusted(8, 2, -34, -17), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(nameOf(figure, f), Qt::ElideRight, chipWidth - 44));
    painter.setPen(theme().softText);
    painter.setFont(textFont(8.5));
    const int hidden = countOf(figure, pose::Presence::hidden), absent = countOf(figure, pose::Presence::absent);
    QString state =
        QString("%1  %2 px").arg(pose::confidenceOf(figure), 0, 'f', 2).arg(std::lround(pose::sizeOf(figure)));
    if (absent > 0)
      state += QString("  %1 absent").arg(absent);
    else if (hidden > 0)
      state += QString("  %1 hidden").arg(hidden);
    painter.drawText(box.adjusted(8, 16, -6, -1), Qt::AlignLeft | Qt::AlignVCenter, state);
    painter.setOpacity(1);
    // On or off, as on the planks.
    const QRectF track(box.right() - 28, box.top() + 5, 21, 11);
    painter.setPen(Qt::NoPen);
    painter.setBrush(figure.on ? kindColour("pose") : theme().line);
    painter.drawRoundedRect(track, 5.5, 5.5);
    painter.setBrush(theme().text);
    painter.drawEllipse(QPointF(figure.on ? track.right() - 5.5 : track.left() + 5.5, track.center().y()), 4, 4);
  }

  FigureStrip* strip_;
  PoseWork& work_;
};

FigureStrip::FigureStrip(PoseWork& work, FigureSearch& search, QWidget* parent)
    : QWidget(parent), work_(work), search_(search) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 5, 12, 5);
  column->setSpacing(3);
  auto* head = new QHBoxLayout;
  head->setSpacing(8);
  title_ = new QLabel;
  title_->setProperty("role", "note");
  head->addWidget(title_);
  find_ = new QToolButton;
  find_->setObjectName("find figures");
  find_->setText("Find figures");
  find_->setProperty("role", "link");
  find_->setToolTip("Look for people and animals in the reference; S: for one, in a box");
  connect(find_, &QToolButton::clicked, &search_, [this] { search_.findFigures(); });
  head->addWidget(find_);
  faintest_ = new QSlider(Qt::Horizontal);
  faintest_->setObjectName("faintest");
  faintest_->setAccessibleName("Faintest figure");
  faintest_->setRange(0, 90);
  faintest_->setFixedWidth(56);
  faintest_->setValue(FigureSearch::faintest());
  const auto tell = [this] {
    faintest_->setToolTip(QString("Keep found figures that are sure by %1 % and more").arg(faintest_->value()));
  };
  tell();
  connect(faintest_, &QSlider::valueChanged, this, [tell](int percent) {
    FigureSearch::setFaintest(percent);
    tell();
  });
  head->addWidget(faintest_);
  next_ = new QToolButton;
  next_->setText("Next");
  next_->setProperty("role", "link");
  next_->setToolTip("Go to the next figure and see it large (N; Shift+N: the one before)");
  connect(next_, &QToolButton::clicked, this, &FigureStrip::nextAsked);
  head->addWidget(next_);
  check_ = new QToolButton;
  check_->setObjectName("check joints");
  check_->setProperty("role", "link");
  connect(check_, &QToolButton::clicked, this, &FigureStrip::checkAsked);
  head->addWidget(check_);
  stop_ = new QToolButton;
  stop_->setObjectName("stop finding");
  stop_->setText("Stop");
  stop_->setProperty("role", "link");
  stop_->setToolTip("Stop finding figures");
  connect(stop_, &QToolButton::clicked, &search_, &FigureSearch::stop);
  head->addWidget(stop_);
  library_ = new QToolButton;
  library_->setText("Pose library");
  library_->setProperty("role", "link");
  library_->setToolTip("Poses to put on the picture (B)");
  connect(library_, &QToolButton::clicked, this, &FigureStrip::libraryAsked);
  head->addWidget(library_);
  words_ = new QLabel;
  words_->setProperty("role", "note");
  QFont slanted = textFont(9);
  slanted.setItalic(true);
  words_->setFont(slanted);
  words_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  words_->setMinimumWidth(40);
  words_->setAccessibleName("Pose in words");
  head->addWidget(words_, 1);
  column->addLayout(head);
  chips_ = new Chips(this, work_);
  scroll_ = new QScrollArea;
  scroll_->setWidget(chips_);
  scroll_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setFixedHeight(chipHeight + 12);
  column->addWidget(scroll_);
  connect(&work_, &PoseWork::changed, this, &FigureStrip::refresh);
  connect(&search_, &FigureSearch::changed, this, &FigureStrip::refresh);
  refresh();
}

/// What should be looked at in the figure in hand, or how many joints of all.
void FigureStrip::showDoubts() {
  const auto* all = work_.figures();
  std::size_t doubts = 0;
  if (all != nullptr)
    for (const auto& figure : all->figures) doubts += pose::doubtfulPoints(*figure).size();
  check_->setVisible(doubts > 0);
  check_->setText(QString("Check %1").arg(doubts));
  QStringList names;
  if (const auto* figure = work_.selectedFigure())
    for (const std::size_t p : pose::doubtfulPoints(*figure))
      names << QString::fromStdString(figure->kind().points[p].name);
  const QString of = names.isEmpty() ? QString() : " Here: " + names.join(", ") + ".";
  check_->setToolTip(
      QString("Joints that are as likely wrong as right, drawn hollow.%1 K: the next one; Return: it is right")
          .arg(of));
}

QRect FigureStrip::chipOf(std::size_t figure) const {
  const QRect box = chips_->chip(figure);
  return {chips_->mapTo(this, box.topLeft()), box.size()};
}

void FigureStrip::refresh() {
  const std::size_t count = chips_->count();
  title_->setText(count == 0   ? QString("No figure yet")
                  : count == 1 ? QString("1 figure")
                               : QString("%1 figures").arg(count));
  if (search_.finding()) title_->setText("Finding figures");
  stop_->setVisible(search_.finding());
  if (!work_.active()) {
    // Nothing of this changes while a joint is dragged.
    const bool offered = !search_.finding() && pose::canFind(pose::Sought::everybody);
    find_->setVisible(offered);
    faintest_->setVisible(offered);
    showDoubts();
  }
  next_->setVisible(count > 1);
  chips_->refit();
  if (!work_.active())
    if (const auto selected = work_.selected()) {
      const QRect box = chips_->chip(*selected);
      scroll_->ensureVisible(box.center().x(), box.center().y(), chipWidth / 2 + gap, 0);
    }
  const QString words = work_.words();
  words_->setText(words_->fontMetrics().elidedText(words, Qt::ElideRight, std::max(40, words_->width())));
  words_->setToolTip(words);
}

}  // namespace hscaffold::app
