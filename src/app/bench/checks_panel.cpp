#include "app/bench/checks_panel.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <functional>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr int sentenceWidth = 420;

}  // namespace

ChecksPanel::ChecksPanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  setProperty("role", "popover");
  rows_ = new QVBoxLayout(this);
  rows_->setContentsMargins(14, 12, 14, 12);
  rows_->setSpacing(8);
  setFixedWidth(sentenceWidth + 60);
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
    // The sentence over the whole width, what can be done about it below.
    auto* row = new QWidget;
    auto* grid = new QGridLayout(row);
    grid->setContentsMargins(0, 0, 0, 4);
    grid->setVerticalSpacing(4);
    auto* mark = new QLabel(check.severity == Severity::bad ? QString::fromUtf8("\xE2\x9C\x95")
                                                            : QString::fromUtf8("\xE2\x96\xB2"));
    mark->setStyleSheet(
        QString("color: %1").arg((check.severity == Severity::bad ? theme().bad : theme().doubt).name()));
    mark->setToolTip(check.severity == Severity::bad ? "Wrong" : "Doubtful");
    auto* sentence = new QLabel(QString::fromStdString(check.sentence));
    sentence->setWordWrap(true);
    sentence->setFixedWidth(sentenceWidth);
    sentence->setMinimumHeight(sentence->heightForWidth(sentenceWidth));
    grid->addWidget(mark, 0, 0, Qt::AlignTop);
    grid->addWidget(sentence, 0, 1);
    auto* line = new QHBoxLayout;
    line->setSpacing(8);
    grid->addLayout(line, 1, 1);
    const auto offer = [&](const QString& name, const std::string& object, const std::function<void()>& run) {
      auto* button = new QPushButton(name);
      button->setObjectName(QString::fromStdString(object + " " + check.id));
      connect(button, &QPushButton::clicked, this, run);
      line->addWidget(button);
      return button;
    };
    if (check.fix)
      offer(QString::fromStdString(check.fixName), "fix",
            [this, check] { desk_.document.change(QString::fromStdString(check.fixName), check.fix); });
    if (check.other)
      offer(QString::fromStdString(check.otherName), "other",
            [this, check] { desk_.document.change(QString::fromStdString(check.otherName), check.other); });
    line->addStretch(1);
    if (check.place)
      offer("Show where", "show", [this, place = *check.place] {
        emit desk_.placeAsked({place.x, place.y}, place.extent);
      })->setProperty("role", "link");
    auto* leave = offer("Leave it", "leave", [this, id = check.id] {
      desk_.document.change("Leave a check be", [&](StudyState& s) { s.leftBe.insert(id); });
    });
    leave->setProperty("role", "link");
    leave->setToolTip("Do not say this again in this study");
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
