/// Tests live together in a few programs, each of which runs the one that it is asked for by name
/// ("core-tests frame_test"): linked once instead of once a test, and compiled several files at a time.
#pragma once

namespace fixtures {

/// Runs a test, or something that a test starts as another process; `argv` is that of the whole without its name.
using Program = int (*)(int argc, char** argv);

/// Keeps what is run under a name, for as long as the program lives. `name` may be a source file: its stem is the name.
class Registered {
 public:
  Registered(const char* name, Program program);
};

/// Runs what is registered under argv[1]. Without, or for a name that is not there, it prints the names and gives 2.
int runByName(int argc, char** argv);

}  // namespace fixtures

/// A class of Qt Test under the name of its file.
#define HSCAFFOLD_TEST(TestClass)                                                               \
  static const fixtures::Registered registered##TestClass(__FILE__, [](int argc, char** argv) { \
    TestClass test;                                                                             \
    return QTest::qExec(&test, argc, argv);                                                     \
  });
