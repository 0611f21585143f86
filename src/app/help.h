/// The help that F1 shows, as Markdown.
#pragma once

#include <QString>

namespace hscaffold {
struct EngineInfo;
}

namespace hscaffold::app {

QString helpText(const EngineInfo& engine);

}  // namespace hscaffold::app
