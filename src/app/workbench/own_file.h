/// Menu entries for a program or network of the artist's own: one that asks for it, one for what was used last.
#pragma once

#include <QString>
#include <filesystem>
#include <functional>

class QMenu;
class QObject;
class QWidget;

namespace hscaffold::app {

struct OwnFile {
  QString setting;  ///< under which the last one is remembered
  QString verb;     ///< "Find figures with"
  QString what;     ///< "a program"
  QString title;    ///< of the dialog
  QString filter;   ///< of the dialog; may be empty
  QString tip;
};
/// @param context  lives as long as `use` may be called.
void addOwnFileEntries(QMenu& menu, QObject* context, QWidget* asking, const OwnFile& file,
                       const std::function<void(const std::filesystem::path&)>& use);

}  // namespace hscaffold::app
