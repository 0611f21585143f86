// humble-scaffold [STUDY|PICTURE ...]
#include <spdlog/spdlog.h>

#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QMessageBox>
#include <QSettings>
#include <QTimer>
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <span>
#include <string_view>

#include "app/desk.h"
#include "app/document/study_edits.h"
#include "app/main_window.h"
#include "app/tasks/yielding.h"
#include "app/theme/theme.h"

namespace {

/// What the command line may say.
struct Words {
  QCommandLineParser parser;
  QCommandLineOption screenshot{"screenshot",
                                "Writes a picture of the window once everything in it is made, and quits.", "PNG"},
      timing{"time-to-window", "Says when the window was first painted, and quits."},
      theme{"theme", "dusk or day.", "NAME"};
  Words() {
    parser.setApplicationDescription("Control maps from references, edited, balanced and proofed.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("files", "A study to open, or pictures to bring in.", "[FILE ...]");
    parser.addOptions({screenshot, timing, theme});
  }
};

void introduce() {
  QCoreApplication::setOrganizationName("humble-scaffold");
  QCoreApplication::setApplicationName("humble-scaffold");
  QCoreApplication::setApplicationVersion(HSCAFFOLD_VERSION);
}

/// Help and version are had without a screen, and so is what is wrong with the words.
void answerWithoutWindow(int argc, char** argv) {
  const QCoreApplication application(argc, argv);
  introduce();
  Words words;
  words.parser.process(application);  // ends the program where that is all
}

/// Whether that is all that is asked: then no screen is looked for, which may be named and not be there.
bool asksOfProgram(std::span<char*> words) {
  return std::any_of(words.begin(), words.end(), [](std::string_view word) {
    return word == "-h" || word == "--help" || word == "--help-all" || word == "-v" || word == "--version";
  });
}

bool hasScreen(std::span<char*> words) {
  return std::any_of(words.begin(), words.end(),
                     [](std::string_view word) { return word == "-platform" || word == "-display"; }) ||
         !qEnvironmentVariableIsEmpty("DISPLAY") || !qEnvironmentVariableIsEmpty("WAYLAND_DISPLAY") ||
         !qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM");
}

[[noreturn]] void endWithoutScreen(const char* why) {
  std::fprintf(stderr, "humble-scaffold: %s hscaffold works without one.\n", why);
  std::_Exit(3);
}

/// Qt ends the program where a screen is named that does not answer; so do we, but with a sentence.
void whatQtSays(QtMsgType type, const QMessageLogContext&, const QString& text) {
  if (type == QtFatalMsg) endWithoutScreen("The screen that is named here does not answer.");
  std::fprintf(stderr, "%s\n", qPrintable(text));
}

}  // namespace

int main(int argc, char** argv) {
  using namespace hscaffold::app;
  QElapsedTimer sinceStart;
  sinceStart.start();
  const std::span<char*> said(argv, static_cast<std::size_t>(argc));
  if (asksOfProgram(said)) answerWithoutWindow(argc, argv);
  if (!hasScreen(said)) {
    answerWithoutWindow(argc, argv);
    endWithoutScreen("There is no screen to show a window on.");
  }
  const QtMessageHandler usual = qInstallMessageHandler(whatQtSays);
  QApplication application(argc, argv);
  qInstallMessageHandler(usual);
  beginPainters();
  introduce();
  Words words;
  QCommandLineParser& parser = words.parser;
  parser.process(application);

  const QString themeWord =
      parser.isSet(words.theme) ? parser.value(words.theme) : QSettings().value("theme", "dusk").toString();
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
      // Whoever began it from a menu sees no other words.
      if (!parser.isSet(words.screenshot) && !parser.isSet(words.timing))
        QMessageBox::critical(nullptr, "Humble Scaffold", error.what());
      return 3;
    }
  }
  if (!pictures.empty()) bringIn(desk, pictures);
  // A picture of the window is of its usual size, whatever screen there is.
  if (parser.isSet(words.screenshot)) window.resize(1280, 800);
  window.show();

  if (parser.isSet(words.timing)) {
    QTimer::singleShot(0, &window, [&] {
      window.repaint();
      std::printf("%lld ms to the first window\n", static_cast<long long>(sinceStart.elapsed()));
      QApplication::quit();
    });
  }
  QTimer settled;
  if (parser.isSet(words.screenshot)) {
    QObject::connect(&settled, &QTimer::timeout, &window, [&, quiet = 0]() mutable {
      quiet = desk.idle() ? quiet + 1 : 0;
      if (quiet < 4) return;
      const QString file = parser.value(words.screenshot);
      const bool written = window.grab().save(file);
      if (!written)
        std::fprintf(stderr, "humble-scaffold: Could not write %s: is its folder there, and does it end in .png?\n",
                     qPrintable(file));
      QApplication::exit(written ? 0 : 3);
    });
    settled.start(150);
  }
  return workingAlone([] { return QApplication::exec(); });
}
