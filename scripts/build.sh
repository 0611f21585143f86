#!/usr/bin/env bash
# Configures (once) and builds the given targets of the release preset. usage: build.sh [TARGET ...]
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
[ -f build/release/build.ninja ] || cmake --preset release >/dev/null
targets=()
for target in "$@"; do targets+=(--target "$target"); done
cmake --build --preset release "${targets[@]}"
