/// A small label in soft type.
#pragma once

#include <QLabel>

#include "app/theme/theme.h"

namespace hscaffold::app {

inline QLabel* noteLabel(const QString& text = {}) {
  auto* label = new QLabel(text);
  label->setProperty("role", "note");
  label->setFont(textFont(9));
  return label;
}

}  // namespace hscaffold::app
