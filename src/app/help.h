/// The help that F1 shows, as Markdown.
#pragma once

#include <QString>

namespace hscaffold::app {

QString helpText();

}  // namespace hscaffold::app
