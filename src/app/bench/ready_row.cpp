#include "app/bench/ready_row.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/desk.h"
#include "app/document/ready_studies.h"
#include "app/theme/theme.h"

namespace hscaffold::app {

ReadyRow::ReadyRow(Desk& desk, QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(5);
  auto* words = new QLabel("or begin with one that is ready");
  words->setFont(textFont(9));
  words->setAlignment(Qt::AlignCenter);
  setOwnSheet(*words, "color: #d8d2c6; background: transparent;");
  column->addWidget(words);
  for (const ReadyStudy& ready : readyStudies()) {
    auto* button = new QPushButton(ready.name);
    button->setObjectName(ready.id);
    button->setToolTip(ready.about);
    connect(button, &QPushButton::clicked, this, [&desk, &ready] { beginWith(desk, ready); });
    column->addWidget(button);
  }
}

}  // namespace hscaffold::app
