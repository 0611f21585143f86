#include "app/window_fixture.h"
#include "app/document/study_edits.h"

#include <sqlite3.h>

#include <QApplication>
#include <QMouseEvent>
#include <QTemporaryDir>

#include "app/theme/theme.h"
#include "core/image/colour.h"
#include "core/image/png.h"

namespace fixtures {

bool settle(hscaffold::app::Desk& desk, int milliseconds) {
  int quiet = 0;
  return QTest::qWaitFor(
      [&] {
        QCoreApplication::processEvents();
        quiet = desk.idle() ? quiet + 1 : 0;
        return quiet > 3;
      },
      milliseconds);
}

void dragOver(hscaffold::app::Table& table, const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys,
              bool letGo) {
  const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton button, Qt::MouseButtons buttons) {
    QMouseEvent event(type, at, table.mapToGlobal(at), button, buttons, keys);
    QApplication::sendEvent(&table, &event);
  };
  send(QEvent::MouseButtonPress, table.toTable(inFrame.front()), Qt::LeftButton, Qt::LeftButton);
  for (const QPointF p : inFrame) send(QEvent::MouseMove, table.toTable(p), Qt::NoButton, Qt::LeftButton);
  if (letGo) send(QEvent::MouseButtonRelease, table.toTable(inFrame.back()), Qt::LeftButton, Qt::NoButton);
}

void writeScene(const std::filesystem::path& path, int number) {
  hscaffold::writeFileAtomically(path, hscaffold::encodePng(hscaffold::toSrgb8(scene(number)).view()));
}

HeldDatabase::HeldDatabase(const std::filesystem::path& path) {
  sqlite3_open(path.string().c_str(), &database_);
  sqlite3_exec(database_, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr);
}

HeldDatabase::~HeldDatabase() { sqlite3_close(database_); }

int runInWindow(QObject& object, int argc, char** argv) {
  QTemporaryDir home;
  qputenv("HOME", home.path().toUtf8());
  qputenv("XDG_CONFIG_HOME", (home.path() + "/config").toUtf8());
  qputenv("XDG_DATA_HOME", (home.path() + "/data").toUtf8());
  QApplication application(argc, argv);
  QApplication::setOrganizationName("humble-scaffold");
  QApplication::setApplicationName("humble-scaffold");
  hscaffold::app::applyTheme(hscaffold::app::ThemeName::dusk);
  return QTest::qExec(&object, argc, argv);
}

}  // namespace fixtures
