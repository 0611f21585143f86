#include "app/bench/checks_panel.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

#include "app/theme/theme.h"

namespace hscaffold::app {

ChecksPanel::ChecksPanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  setProperty("role", "popover");
  rows_ = new QVBoxLayout(this);
  rows_->setContentsMargins(14, 12, 14, 12);
  rows_->setSpacing(8);
  setFixedWidth(420);
  connect(&desk_.checks, &CheckList::changed, this, &ChecksPanel::refresh);
  refresh();
}

void ChecksPanel::refresh() {
  const auto& checks = desk_.checks.all();
  const auto& leftBe = desk_.document.state().leftBe;
  QString now = QString("%1|").arg(leftBe.size());
  for (const Check& check : checks) now += QString::fromStdString(check.sentence) + "|";
  if (now == shown_) return;
  shown_ = now;
  while (QLayoutItem* item = rows_->takeAt(0)) {
    if (item->widget() != nullptr) {
      item->widget()->hide();
      item->widget()->deleteLater();
    }
    delete item;
  }
  if (checks.empty()) rows_->addWidget(new QLabel("No doubts: everything is set for a pull."));
  for (const Check& check : checks) {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    auto* mark = new QLabel(check.severity == Severity::bad ? QString::fromUtf8("\xE2\x9C\x95")
                                                            : QString::fromUtf8("\xE2\x96\xB2"));
    mark->setStyleSheet(
        QString("color: %1").arg((check.severity == Severity::bad ? theme().bad : theme().doubt).name()));
    mark->setToolTip(check.severity == Severity::bad ? "Wrong" : "Doubtful");
    auto* sentence = new QLabel(QString::fromStdString(check.sentence));
    sentence->setWordWrap(true);
    line->addWidget(mark, 0, Qt::AlignTop);
    line->addWidget(sentence, 1);
    auto* leave = new QPushButton("Leave it");
    leave->setObjectName(QString::fromStdString("leave " + check.id));
    leave->setProperty("role", "link");
    leave->setToolTip("Do not say this again in this study");
    connect(leave, &QPushButton::clicked, this, [this, id = check.id] {
      desk_.document.change("Leave a check be", [&](StudyState& s) { s.leftBe.insert(id); });
    });
    if (check.fix) {
      auto* fix = new QPushButton(QString::fromStdString(check.fixName));
      fix->setObjectName(QString::fromStdString("fix " + check.id));
      connect(fix, &QPushButton::clicked, this,
              [this, check] { desk_.document.change(QString::fromStdString(check.fixName), check.fix); });
      line->addWidget(fix, 0, Qt::AlignTop);
    }
    if (check.other) {
      auto* other = new QPushButton(QString::fromStdString(check.otherName));
      other->setObjectName(QString::fromStdString("other " + check.id));
      connect(other, &QPushButton::clicked, this,
              [this, check] { desk_.document.change(QString::fromStdString(check.otherName), check.other); });
      line->addWidget(other, 0, Qt::AlignTop);
    }
    if (check.place) {
      auto* show = new QPushButton("Show where");
      show->setObjectName(QString::fromStdString("show " + check.id));
      show->setProperty("role", "link");
      connect(show, &QPushButton::clicked, this, [this, place = *check.place] {
        emit desk_.placeAsked({place.x, place.y}, place.extent);
      });
      line->addWidget(show, 0, Qt::AlignTop);
    }
    line->addWidget(leave, 0, Qt::AlignTop);
    rows_->addWidget(row);
  }
  if (!leftBe.empty()) {
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    auto* note = new QLabel(leftBe.size() == 1 ? QString("One check is left be.")
                                               : QString("%1 checks are left be.").arg(leftBe.size()));
    note->setProperty("role", "note");
    auto* again = new QPushButton("Say them again");
    again->setObjectName("say again");
    again->setProperty("role", "link");
    connect(again, &QPushButton::clicked, this,
            [this] { desk_.document.change("Say all checks again", [](StudyState& s) { s.leftBe.clear(); }); });
    line->addWidget(note, 1);
    line->addWidget(again);
    rows_->addWidget(row);
  }
  adjustSize();
}

}  // namespace hscaffold::app
