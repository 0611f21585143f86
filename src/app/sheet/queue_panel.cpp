#include "app/sheet/queue_panel.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/widgets/note_label.h"

namespace hscaffold::app {
namespace {

QString timeLeft(double milliseconds) {
  const int seconds = std::max(1, static_cast<int>(milliseconds / 1000 + 0.5));
  return seconds < 100 ? QString("%1 s left").arg(seconds) : QString("%1 min left").arg((seconds + 30) / 60);
}

}  // namespace

QueuePanel::QueuePanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  setObjectName("queue");
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(0, 0, 0, 0);
  column_->setSpacing(4);
  soon_.setSingleShot(true);
  soon_.setInterval(120);
  connect(&soon_, &QTimer::timeout, this, &QueuePanel::tell);
  connect(&desk_.queue, &PullQueue::changed, this, &QueuePanel::refresh);
  connect(&desk_.queue, &PullQueue::progressed, this, [this] {
    if (!soon_.isActive()) soon_.start();
  });
  connect(&desk_.proofs, &ProofShelf::sheetsChanged, this, &QueuePanel::refresh);
  refresh();
}

std::vector<QueuePanel::Line> QueuePanel::linesNow() const {
  std::vector<Line> lines;
  for (const Pull& pull : desk_.queue.all()) {
    const auto found =
        std::find_if(lines.begin(), lines.end(), [&](const Line& line) { return line.sheet == pull.sheet; });
    if (found != lines.end()) {
      ++found->left;
      continue;
    }
    const SheetInfo* info = desk_.proofs.sheet(pull.sheet);
    lines.push_back({pull.sheet, 1, info != nullptr ? info->plan.cells() : 1, true});
  }
  for (const SheetInfo& info : desk_.proofs.sheets())
    if (!info.waiting.empty() && desk_.queue.waiting(info.number) == 0)
      lines.push_back({info.number, static_cast<int>(info.waiting.size()), info.plan.cells(), false});
  return lines;
}

void QueuePanel::refresh() {
  auto now = linesNow();
  const bool same = now.size() == lines_.size() && paused_ == desk_.queue.paused() &&
                    std::equal(now.begin(), now.end(), lines_.begin(),
                               [](const Line& a, const Line& b) { return a.sheet == b.sheet && a.here == b.here; });
  lines_ = std::move(now);
  if (!same) build();
  tell();
}

void QueuePanel::build() {
  while (QLayoutItem* item = column_->takeAt(0)) {
    if (item->widget() != nullptr) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  paused_ = desk_.queue.paused();
  setVisible(!lines_.empty());
  for (const Line& line : lines_) {
    auto* card = new QFrame;
    card->setObjectName(QString("pulling %1").arg(line.sheet));
    card->setProperty("role", "card");
    auto* rows = new QVBoxLayout(card);
    rows->setContentsMargins(8, 6, 8, 6);
    rows->setSpacing(4);
    auto* head = new QHBoxLayout;
    const SheetInfo* info = desk_.proofs.sheet(line.sheet);
    auto* name = new QLabel(info == nullptr ? QString("One proof") : QString::fromStdString(nameOf(*info)));
    name->setFont(textFont(9.5, QFont::DemiBold));
    auto* count = noteLabel();
    count->setObjectName("count");
    head->addWidget(name);
    head->addStretch(1);
    head->addWidget(count);
    rows->addLayout(head);
    auto* bar = new QProgressBar;
    bar->setObjectName("bar");
    bar->setTextVisible(false);
    bar->setFixedHeight(4);
    bar->setRange(0, 1000);
    rows->addWidget(bar);
    auto* foot = new QHBoxLayout;
    auto* time = noteLabel();
    time->setObjectName("time");
    foot->addWidget(time, 1);
    const auto link = [&](const QString& text, const char* objectName, const QString& tip, auto&& run) {
      auto* button = new QPushButton(text);
      button->setObjectName(objectName);
      button->setProperty("role", "link");
      button->setToolTip(tip);
      connect(button, &QPushButton::clicked, this, run);
      foot->addWidget(button);
    };
    if (!line.here) {
      bar->hide();
      link("Pull", "resume", "Pull what is still missing of this sheet",
           [this, sheet = line.sheet] { desk_.queue.resume(sheet); });
      link("Leave", "leave", "Leave the sheet as it is", [this, sheet = line.sheet] { desk_.queue.leave(sheet); });
    } else {
      if (line.sheet > 0)
        link(paused_ ? "Go on" : "Pause", "pause", "What runs is finished, nothing else is begun",
             [this] { desk_.queue.setPaused(!desk_.queue.paused()); });
      link("Stop", "stop", "Proofs that are there stay", [this, sheet = line.sheet] {
        if (sheet > 0)
          desk_.queue.leave(sheet);
        else
          desk_.queue.stop();
      });
    }
    rows->addLayout(foot);
    column_->addWidget(card);
  }
}

void QueuePanel::tell() {
  for (const Line& line : lines_) {
    const auto* card = findChild<QFrame*>(QString("pulling %1").arg(line.sheet));
    if (card == nullptr) continue;
    double steps = 0, left = 0;
    for (const Pull& pull : desk_.queue.all())
      if (pull.sheet == line.sheet) {
        steps += static_cast<double>(pull.step) / std::max(1, pull.steps);
        left += desk_.queue.estimate(pull.recipe);
      }
    const int done = line.all - line.left;
    card->findChild<QLabel*>("count")->setText(line.here ? QString("%1 of %2").arg(done).arg(line.all)
                                                         : QString("%1 missing").arg(line.left));
    card->findChild<QProgressBar*>("bar")->setValue(static_cast<int>(1000 * (done + steps) / std::max(1, line.all)));
    card->findChild<QLabel*>("time")->setText(!line.here ? QString("left over")
                                              : desk_.queue.paused()
                                                  ? QString("paused")
                                                  : timeLeft(line.sheet == 0 ? left : desk_.queue.remaining()));
  }
}

}  // namespace hscaffold::app
