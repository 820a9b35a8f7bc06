#!/usr/bin/env bash
# Installs the build, builds a consumer outside the tree against it, runs that and the installed demo.
#   run.sh SOURCE BUILD COMPILER FLAGS
set -euo pipefail
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
cmake --install "$2" --prefix "$folder/installed" >/dev/null
cp -r "$1/tests/consumer" "$folder/consumer"
cmake -S "$folder/consumer" -B "$folder/build" -G Ninja -DCMAKE_CXX_COMPILER="$3" -DCMAKE_CXX_FLAGS="$4" -DCMAKE_PREFIX_PATH="$folder/installed" >/dev/null
cmake --build "$folder/build"
"$folder/build/consumer"
cd "$folder"
"$folder/installed/bin/jugend" demo --json >/dev/null
echo "an installed library was found, linked and run"
