#!/usr/bin/env bash
# Uses the build as others would: installed, by CMake and by pkg-config, and as Debian packages, which leave nothing
# behind when they are removed. Then each public header alone, with warnings that others use. As a part of another
# project it is built by same_bits.sh.
#   run.sh SOURCE BUILD COMPILER FLAGS
set -euo pipefail
source_folder=$1 build_folder=$2 compiler=$3 flags=$4
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
cp -r "$source_folder/tests/consumer" "$folder/consumer"

# consume NAME PREFIX OPTIONS...
consume() {
  local name=$1 prefix=$2
  shift 2
  cmake -S "$folder/consumer" -B "$folder/$name" -G Ninja -DCMAKE_CXX_COMPILER="$compiler" -DCMAKE_CXX_FLAGS="$flags" \
    -DCMAKE_PREFIX_PATH="$prefix" "$@" >"$folder/$name.log" 2>&1 || { cat "$folder/$name.log"; return 1; }
  cmake --build "$folder/$name" >"$folder/$name.log" 2>&1 || { cat "$folder/$name.log"; return 1; }
  "$folder/$name/game"
}

cmake --install "$build_folder" --prefix "$folder/installed" >/dev/null
consume game "$folder/installed"
consume tool "$folder/installed" -DTOOL=ON
"$folder/tool/tool"
(cd "$folder" && "$folder/installed/bin/jugend" demo --json >/dev/null)
# README's own words.
mkdir "$folder/readme"
{
  echo 'cmake_minimum_required(VERSION 3.25)'
  echo 'project(my_game LANGUAGES CXX)'
  echo "add_executable(my_game $folder/consumer/game.cpp)"
  awk '/^```cmake/ {on = 1; next} /^```/ {on = 0} on' "$source_folder/README.md"
} >"$folder/readme/CMakeLists.txt"
cmake -S "$folder/readme" -B "$folder/readme/build" -DCMAKE_CXX_COMPILER="$compiler" -DCMAKE_CXX_FLAGS="$flags" \
  -DCMAKE_PREFIX_PATH="$folder/installed" >"$folder/log"
cmake --build "$folder/readme/build" >"$folder/log" || { cat "$folder/log"; exit 1; }
export PKG_CONFIG_PATH
PKG_CONFIG_PATH=$(dirname "$(find "$folder/installed" -name jugend.pc)")
# shellcheck disable=SC2046,SC2086
"$compiler" $flags -std=c++20 "$folder/consumer/game.cpp" $(pkg-config --cflags --libs jugend) -o "$folder/by_pkg_config"
"$folder/by_pkg_config"
echo "installed: found by CMake and by pkg-config, linked and run"

# The game library alone, installed: no header of the lab, no program.
cmake --install "$build_folder" --prefix "$folder/only_game" --component game >/dev/null
[ ! -e "$folder/only_game/include/jugend/lab" ] && [ ! -e "$folder/only_game/bin" ]

if [ -n "${CI:-}" ] || [ "$(id -u)" -eq 0 ] && command -v dpkg-shlibdeps >/dev/null; then
  (cd "$folder" && cpack -G DEB --config "$build_folder/CPackConfig.cmake" -B "$folder/packages" >/dev/null)
  root="$folder/root"
  mkdir -p "$root/var/lib/dpkg"/{info,updates} && touch "$root/var/lib/dpkg/status"
  install_into=(dpkg --root="$root" --force-not-root --force-depends --log=/dev/null)
  before=$(cd "$root" && find . -path ./var -prune -o -print | sort)
  "${install_into[@]}" -i "$folder"/packages/*.deb >/dev/null 2>&1
  consume of_packages "$root/usr"
  (cd "$folder" && "$root/usr/bin/jugend" --version >/dev/null)
  "${install_into[@]}" --purge libjugend-dev libjugend-lab-dev jugend >/dev/null 2>&1
  after=$(cd "$root" && find . -path ./var -prune -o -print | sort)
  if [ "$before" != "$after" ]; then
    printf 'left behind by the packages:\n%s\n' "$(comm -13 <(echo "$before") <(echo "$after"))" >&2
    exit 1
  fi
  echo "packages: installed, used, removed without a trace"
fi

cd "$folder/only_game/include"
find jugend -name '*.hpp' ! -path '*/detail/*' |
  xargs -P "$(nproc)" -n 1 sh -c 'printf "#include <%s>\n#include <%s>\n" "$1" "$1" |
  clang++ -std=c++20 -x c++ - -I. -fsyntax-only -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror' _
echo '#include <jugend/stage/jugend.h>' | clang -std=c99 -x c - -I. -fsyntax-only -Wall -Wextra -Wpedantic -Werror
lines=$(echo '#include <jugend/stage/stage.hpp>' | "$compiler" -std=c++20 -x c++ - -I. -E | wc -l)
[ "$lines" -le 60000 ] || { echo "the stage's header is $lines lines with what it includes, not 60,000" >&2; exit 1; }
echo "each public header alone, without a warning"
