/// The program of the tests that need no window.
#include <QGuiApplication>

#include "test_program.h"

int main(int argc, char** argv) {
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QGuiApplication application(argc, argv);  // brings the plug-ins of picture formats
  return fixtures::runByName(argc, argv);
}
