// humble-scaffold [STUDY|PICTURE ...]
#include <spdlog/spdlog.h>

#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSettings>
#include <QTimer>

#include "app/desk.h"
#include "app/document/study_edits.h"
#include "app/main_window.h"
#include "app/theme/theme.h"

int main(int argc, char** argv) {
  using namespace hscaffold::app;
  QElapsedTimer sinceStart;
  sinceStart.start();
  QApplication application(argc, argv);
  QApplication::setOrganizationName("humble-scaffold");
  QApplication::setApplicationName("humble-scaffold");
  QApplication::setApplicationVersion(HSCAFFOLD_VERSION);
  QCommandLineParser parser;
  parser.setApplicationDescription("Control maps from references, edited, balanced and proofed.");
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument("files", "A study to open, or pictures to bring in.", "[FILE ...]");
  const QCommandLineOption screenshot(
      "screenshot", "Writes a picture of the window once everything in it is made, and quits.", "PNG");
  const QCommandLineOption timing("time-to-window", "Says when the window was first painted, and quits.");
  const QCommandLineOption themeOption("theme", "dusk or day.", "NAME");
  parser.addOptions({screenshot, timing, themeOption});
  parser.process(application);

  const QString themeWord =
      parser.isSet(themeOption) ? parser.value(themeOption) : QSettings().value("theme", "dusk").toString();
  applyTheme(themeWord == "day" ? ThemeName::day : ThemeName::dusk);
  Desk desk;
  MainWindow window(desk);
  bool open = false;
  std::vector<std::filesystem::path> pictures;
  for (const QString& file : parser.positionalArguments()) {
    if (file.endsWith(".scaffold"))
      open = window.openStudy(file);
    else
      pictures.emplace_back(file.toStdString());
  }
  if (!open && parser.positionalArguments().isEmpty())
    if (const auto recent = MainWindow::recentFiles(); !recent.isEmpty()) open = window.openStudy(recent.first());
  if (!open) {
    try {
      desk.document.createUntitled();
    } catch (const std::exception& error) {
      spdlog::critical("{}", error.what());
      return 3;
    }
  }
  if (!pictures.empty()) bringIn(desk, pictures);
  // A picture of the window is of its usual size, whatever screen there is.
  if (parser.isSet(screenshot)) window.resize(1280, 800);
  window.show();

  if (parser.isSet(timing)) {
    QTimer::singleShot(0, &window, [&] {
      window.repaint();
      std::printf("%lld ms to the first window\n", static_cast<long long>(sinceStart.elapsed()));
      QApplication::quit();
    });
  }
  QTimer settled;
  if (parser.isSet(screenshot)) {
    QObject::connect(&settled, &QTimer::timeout, &window, [&, quiet = 0]() mutable {
      quiet = desk.idle() ? quiet + 1 : 0;
      if (quiet < 4) return;
      if (!window.grab().save(parser.value(screenshot)))
        spdlog::error("Could not write {}", parser.value(screenshot).toStdString());
      QApplication::quit();
    });
    settled.start(150);
  }
  return QApplication::exec();
}
