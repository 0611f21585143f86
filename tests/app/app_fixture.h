/// An application with a home of its own, and waiting for what is computed in the background.
#pragma once

#include <QApplication>
#include <QMouseEvent>
#include <QSettings>
#include <QStandardPaths>
#include <QTest>

#include "app/bench/table.h"
#include "app/session.h"
#include "app/theme/theme.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "fixtures.h"

namespace fixtures {

/// Waits until nothing is being computed and everything computed has arrived.
inline bool settle(hscaffold::app::StudySession& session, int milliseconds = 120'000) {
  int quiet = 0;
  return QTest::qWaitFor(
      [&] {
        QCoreApplication::processEvents();
        quiet = session.idle() ? quiet + 1 : 0;
        return quiet > 3;
      },
      milliseconds);
}

/// The pointer goes down at the first place, over the others, and up at the last one; in frame pixels.
inline void dragOver(hscaffold::app::Table& table, const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys = {},
                     bool letGo = true) {
  const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton button, Qt::MouseButtons buttons) {
    QMouseEvent event(type, at, table.mapToGlobal(at), button, buttons, keys);
    QApplication::sendEvent(&table, &event);
  };
  send(QEvent::MouseButtonPress, table.toTable(inFrame.front()), Qt::LeftButton, Qt::LeftButton);
  for (const QPointF p : inFrame) send(QEvent::MouseMove, table.toTable(p), Qt::NoButton, Qt::LeftButton);
  if (letGo) send(QEvent::MouseButtonRelease, table.toTable(inFrame.back()), Qt::LeftButton, Qt::NoButton);
}

inline void writeScene(const std::filesystem::path& path, int number = 1) {
  hscaffold::writeFileAtomically(path, hscaffold::encodePng(hscaffold::toSrgb8(scene(number)).view()));
}

}  // namespace fixtures

#define HSCAFFOLD_APP_TEST_MAIN(TestClass)                          \
  int main(int argc, char** argv) {                                 \
    QTemporaryDir home;                                             \
    qputenv("HOME", home.path().toUtf8());                          \
    qputenv("XDG_CONFIG_HOME", (home.path() + "/config").toUtf8()); \
    qputenv("XDG_DATA_HOME", (home.path() + "/data").toUtf8());     \
    QApplication application(argc, argv);                           \
    QApplication::setOrganizationName("humble-scaffold");           \
    QApplication::setApplicationName("humble-scaffold");            \
    hscaffold::app::applyTheme(hscaffold::app::ThemeName::dusk);    \
    TestClass test;                                                 \
    return QTest::qExec(&test, argc, argv);                         \
  }
