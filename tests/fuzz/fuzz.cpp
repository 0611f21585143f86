// One target under libFuzzer: FUZZ_TARGET=scene build/fuzz/bin/fuzz CORPUS tests/fuzz/seeds/scene (see tests/fuzz/run).
#include <QCoreApplication>
#include <cstdint>
#include <cstdio>
#include <cstdlib>

#include "targets.h"

namespace {

const hscaffold::fuzz::Target* chosen() {
  static const hscaffold::fuzz::Target* const target = [] {
    const char* name = std::getenv("FUZZ_TARGET");
    for (const auto& each : hscaffold::fuzz::targets())
      if (name != nullptr && each.name == name) return &each;
    std::fprintf(stderr, "FUZZ_TARGET is one of");
    for (const auto& each : hscaffold::fuzz::targets()) std::fprintf(stderr, " %s", each.name.c_str());
    std::fprintf(stderr, "\n");
    std::exit(2);
  }();
  return target;
}

}  // namespace

extern "C" int LLVMFuzzerInitialize(int* count, char*** words) {
  static QCoreApplication application(*count, *words);
  chosen();
  return 0;
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  hscaffold::fuzz::run(*chosen(), std::as_bytes(std::span(data, size)));
  return 0;
}
