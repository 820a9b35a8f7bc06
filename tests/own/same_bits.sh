#!/usr/bin/env bash
# Compares what the hash program prints: with this build's library, and built anew by gcc without optimisation
# as for machines without AVX2, and by clang with all of it.
#   same_bits.sh SOURCE BUILD
set -euo pipefail
source_folder=$1 build_folder=$2
cd "$source_folder"
work="$build_folder/same_bits"
mkdir -p "$work"

# build NAME COMPILER FLAGS...: all sources but the mesh files' reader, which needs more libraries; large ones first, so
# that none is left at the end
build() {
  local name=$1 compiler=$2
  shift 2
  mkdir -p "$work/$name"
  ls -S $(find src/jugend/{base,motion,world,stage,shape} -name '*.cpp' | grep -v mesh_file.cpp) tests/own/state_hash.cpp |
    xargs -P "$(nproc)" -I{} sh -c '
      object="$1/$(echo "$4" | tr / _).o"
      [ "$object" -nt "$4" ] && [ -z "$(find src tests/support -name "*.hpp" -newer "$object" -print -quit)" ] ||
        $2 -std=c++20 $3 -ffp-contract=off -Wno-psabi -Isrc -isystem /usr/include/eigen3 -c "$4" -o "$object"' _ "$work/$name" "$compiler" "$*" {}
  "$compiler" "$work/$name"/*.o -lfmt -ltbb -o "$work/$name/state_hash"
}

mkdir -p "$work/own"
g++ -std=c++20 -O2 -ffp-contract=off -Isrc -isystem /usr/include/eigen3 tests/own/state_hash.cpp "$build_folder/libjugend.a" -lfmt -ltbb \
  -o "$work/own/state_hash"
build gcc g++ -O0 -DJUGEND_PORTABLE
"$work/gcc/state_hash" >"$work/gcc/hashes" &  # the slowest: meanwhile clang builds
build clang clang++ -O3 -DNDEBUG
"$work/clang/state_hash" >"$work/clang/hashes"
wait $!

reference=$("$work/own/state_hash")
printf 'this build\n%s\n' "$reference"
for name in gcc clang; do
  hashes=$(cat "$work/$name/hashes")
  printf '%s\n%s\n' "$name" "$hashes"
  if [ "$reference" != "$hashes" ]; then
    echo "not the same bits as this build" >&2
    exit 1
  fi
done
