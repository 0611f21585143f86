#!/usr/bin/env bash
# Installs what is needed on Debian 12. Does nothing, quickly, when all is there.
# usage: setup.sh [demo|check]   demo: to build and run; check (usual): to test and to measure, too
set -euo pipefail

packages=(
  # to build
  g++ cmake ninja-build ccache pkg-config mold
  qt6-base-dev qt6-svg-dev qt6-charts-dev libqt6opengl6-dev libgl-dev libpng-dev libsqlite3-dev libsqlitecpp-dev libtbb-dev libspdlog-dev libfmt-dev
  nlohmann-json3-dev libcli11-dev libxxhash-dev libhwy-dev libopenexr-dev libpugixml-dev libzip-dev qtkeychain-qt6-dev libcpp-httplib-dev libssl-dev zlib1g-dev libbrotli-dev libeigen3-dev libutfcpp-dev
  libqrencode-dev libzxing-dev  # codes, and whether they scan
  libjemalloc-dev  # memory that goes back
  libfreetype-dev libfontconfig-dev  # letters as patterns
  libopencv-dnn-dev libonnx-dev libprotobuf-dev libdnnl-dev  # to run networks
  # to run: picture formats, platform plug-ins, the typeface
  qt6-image-formats-plugins qt6-qpa-plugins fonts-inter
)
if [ "${1:-check}" = check ]; then
  packages+=(
    xvfb xauth  # a real window without a screen
    locales     # to test under another one
    python3-numpy python3-pil  # for the program that is an engine in examples/
    zbar-tools  # a second reader of codes
    python3-jsonschema python3-yaml  # for the client that is made from the protocol
    libbenchmark-dev libopencv-imgproc-dev libopencv-imgcodecs-dev  # to measure against
  )
fi

missing=()
for package in "${packages[@]}"; do
  state=$(dpkg-query -W -f '${db:Status-Status}' "$package" 2>/dev/null || true)
  [ "$state" = installed ] || missing+=("$package")
done
if [ ${#missing[@]} -eq 0 ]; then
  echo "setup: everything needed is installed"
  exit 0
fi

as_root=()
if [ "$(id -u)" -ne 0 ]; then
  if ! command -v sudo >/dev/null; then
    echo "setup: these packages are missing and there is no sudo to install them: ${missing[*]}" >&2
    exit 1
  fi
  as_root=(sudo)
fi
echo "setup: installing ${missing[*]}"
export DEBIAN_FRONTEND=noninteractive
"${as_root[@]}" apt-get update -qq
"${as_root[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
echo "setup: done"
