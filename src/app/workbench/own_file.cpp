#include "app/workbench/own_file.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QSettings>

namespace hscaffold::app {

void addOwnFileEntries(QMenu& menu, QObject* context, QWidget* asking, const OwnFile& file,
                       const std::function<void(const std::filesystem::path&)>& use) {
  const QString known = QSettings().value(file.setting).toString();
  auto* ask = menu.addAction(QString("%1 %2...").arg(file.verb, file.what), context, [=] {
    const QString path = QFileDialog::getOpenFileName(
        asking, file.title, known.isEmpty() ? QString() : QFileInfo(known).path(), file.filter);
    if (path.isEmpty()) return;
    QSettings().setValue(file.setting, path);
    use(path.toStdString());
  });
  ask->setToolTip(file.tip);
  if (QFile::exists(known))
    menu.addAction(QString("%1 %2").arg(file.verb, QFileInfo(known).fileName()), context,
                   [=] { use(known.toStdString()); });
}

}  // namespace hscaffold::app
