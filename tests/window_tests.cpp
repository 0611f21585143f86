/// The program of the tests that drive the window.
#include <QApplication>
#include <QTemporaryDir>

#include "app/tasks/yielding.h"
#include "app/theme/theme.h"
#include "test_program.h"

int main(int argc, char** argv) {
  // The application keeps its files in a home of its own.
  const QTemporaryDir home;
  qputenv("HOME", home.path().toUtf8());
  qputenv("XDG_CONFIG_HOME", (home.path() + "/config").toUtf8());
  qputenv("XDG_DATA_HOME", (home.path() + "/data").toUtf8());
  QApplication application(argc, argv);
  hscaffold::app::beginPainters();
  QApplication::setOrganizationName("humble-scaffold");
  QApplication::setApplicationName("humble-scaffold");
  hscaffold::app::applyTheme(hscaffold::app::ThemeName::dusk);
  return hscaffold::app::workingAlone([&] { return fixtures::runByName(argc, argv); });
}
