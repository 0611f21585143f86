#include "app/engines/address_panel.h"

#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/desk.h"
#include "app/engines/panel_parts.h"
#include "app/proofs/own_services.h"
#include "app/widgets/note_label.h"

namespace hscaffold::app {

AddressPanel::AddressPanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  auto* column =
      panelColumn(*this, "address panel", "An engine at an address",
                  "A service that speaks this program's protocol: hscaffold-engine on this machine or another, "
                  "before the stand-in or before a program. Maps, words and start pictures are sent to it.");
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  name_ = labelledLine(*grid, 0, "Name", "service name", "as studies will call it");
  address_ = labelledLine(*grid, 1, "Address", "service address", "http://127.0.0.1:8431");
  token_ = labelledLine(*grid, 2, "Token", "service token", "if it asks for one");
  token_->setEchoMode(QLineEdit::Password);
  column->addLayout(grid);
  said_ = noteLabel();
  said_->setObjectName("service said");
  said_->setWordWrap(true);
  said_->setMinimumHeight(32);
  column->addWidget(said_);
  auto* foot = new QHBoxLayout;
  add_ = new QPushButton("Ask and add");
  add_->setObjectName("add service");
  add_->setProperty("role", "primary");
  connect(add_, &QPushButton::clicked, this, &AddressPanel::add);
  foot->addStretch(1);
  foot->addWidget(add_);
  column->addLayout(foot);
  setFixedWidth(460);
  name_->setFocus();
}

void AddressPanel::add() {
  if (!add_->isEnabled()) return;
  RemoteSetup setup;
  setup.name = name_->text().trimmed().toStdString();
  setup.address = address_->text().trimmed().toStdString();
  setup.token = token_->text().trimmed().toStdString();
  setup.patience = 10;
  add_->setEnabled(false);
  said_->setText("It is being asked...");
  rememberService(desk_, this, setup, [this, name = setup.name](const QString& trouble, const QString& note) {
    add_->setEnabled(true);
    said_->setText(trouble);
    if (!trouble.isEmpty()) return;
    desk_.document.change("Engine", [&](StudyState& s) { s.engine = name; });
    if (!note.isEmpty()) emit desk_.notice(note);
    close();
  });
}

void AddressPanel::keyPressEvent(QKeyEvent* event) {
  if (!panelKey(*this, *event, [this] { add(); })) QFrame::keyPressEvent(event);
}

}  // namespace hscaffold::app
