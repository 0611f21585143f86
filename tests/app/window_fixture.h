/// What tests of the window share: an application with a home of its own, the pointer, and waiting for what is
/// computed.
#pragma once

#include <QPointF>
#include <QtTest>
#include <filesystem>
#include <vector>

#include "app/bench/table.h"
#include "app/desk.h"
#include "fixtures.h"

struct sqlite3;

namespace fixtures {

/// Waits until nothing is being computed and everything computed has arrived.
bool settle(hscaffold::app::Desk& desk, int milliseconds = 120'000);

/// The pointer goes down at the first place, over the others, and up at the last one; in frame pixels.
void dragOver(hscaffold::app::Table& table, const std::vector<QPointF>& inFrame, Qt::KeyboardModifiers keys = {},
              bool letGo = true);

void writeScene(const std::filesystem::path& path, int number = 1);

/// Holds a study's database as a program does that is writing, as long as it lives.
class HeldDatabase {
 public:
  explicit HeldDatabase(const std::filesystem::path& path);
  HeldDatabase(const HeldDatabase&) = delete;
  HeldDatabase& operator=(const HeldDatabase&) = delete;
  ~HeldDatabase();

 private:
  sqlite3* database_ = nullptr;
};

/// Runs the tests of `object` in an application that keeps its files in a temporary home.
int runInWindow(QObject& object, int argc, char** argv);

}  // namespace fixtures

#define HSCAFFOLD_APP_TEST_MAIN(TestClass)          \
  int main(int argc, char** argv) {                 \
    TestClass test;                                 \
    return fixtures::runInWindow(test, argc, argv); \
  }
