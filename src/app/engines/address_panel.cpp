#include "app/engines/address_panel.h"

#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/desk.h"
#include "app/proofs/own_services.h"
#include "app/widgets/note_label.h"

namespace hscaffold::app {

AddressPanel::AddressPanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  setObjectName("address panel");
  setProperty("role", "popover");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(8);
  auto* title = new QLabel("An engine at an address");
  title->setProperty("role", "title");
  column->addWidget(title);
  auto* about = noteLabel(
      "A service that speaks this program's protocol: hscaffold-engine on this machine or another, before the stand-in "
      "or "
      "before a program. Maps, words and start pictures are sent to it.");
  about->setWordWrap(true);
  column->addWidget(about);
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  const auto line = [&](int at, const QString& label, const char* name, const QString& hint) {
    auto* edit = new QLineEdit;
    edit->setObjectName(name);
    edit->setAccessibleName(label);
    edit->setPlaceholderText(hint);
    grid->addWidget(noteLabel(label), at, 0);
    grid->addWidget(edit, at, 1);
    return edit;
  };
  name_ = line(0, "Name", "service name", "as studies will call it");
  address_ = line(1, "Address", "service address", "http://127.0.0.1:8431");
  token_ = line(2, "Token", "service token", "if it asks for one");
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
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
    add();
  else
    QFrame::keyPressEvent(event);
}

}  // namespace hscaffold::app
