/// What an empty study offers to begin with, one button each.
#pragma once

#include <QWidget>

namespace hscaffold::app {

class Desk;

class ReadyRow : public QWidget {
  Q_OBJECT
 public:
  explicit ReadyRow(Desk& desk, QWidget* parent = nullptr);
};

}  // namespace hscaffold::app
