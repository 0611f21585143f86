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
  QString now = "|";
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
    rows_->addWidget(row);
  }
  adjustSize();
}

}  // namespace hscaffold::app
