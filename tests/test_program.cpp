#include "test_program.h"

#include <cstdio>
#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fixtures {
namespace {

std::map<std::string, Program>& registered() {
  static std::map<std::string, Program> all;
  return all;
}

}  // namespace

Registered::Registered(const char* name, Program program) {
  registered()[std::filesystem::path(name).stem().string()] = program;
}

int runByName(int argc, char** argv) {
  const auto found = argc > 1 ? registered().find(argv[1]) : registered().end();
  if (found == registered().end()) {
    std::fprintf(stderr, "usage: %s TEST [OPTIONS OF QT TEST]; tests:\n", argv[0]);
    for (const auto& [name, program] : registered()) std::fprintf(stderr, "  %s\n", name.c_str());
    return 2;
  }
  std::vector<char*> rest = {argv[0]};
  rest.insert(rest.end(), argv + 2, argv + argc);
  rest.push_back(nullptr);
  return found->second(argc - 1, rest.data());
}

}  // namespace fixtures
