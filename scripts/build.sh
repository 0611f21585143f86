#!/usr/bin/env bash
# Configures and builds the release preset. usage: build.sh demo|all
# demo: the programs alone, which need fewer packages; all: what draws the almanac, tests and benchmarks, too.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
preset=release
[ "${1:-all}" = demo ] && [ ! -f build/release/.with-tests ] && preset=demo
if [ $preset = release ] && [ ! -f build/release/.with-tests ]; then
  cmake --preset release >/dev/null
  touch build/release/.with-tests
elif [ ! -f build/release/build.ninja ]; then
  cmake --preset $preset >/dev/null
fi
if [ "${1:-all}" = demo ]; then
  cmake --build --preset release --target hscaffold humble-scaffold almanac-sheet
else
  cmake --build --preset release
fi
