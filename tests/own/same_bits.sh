#!/usr/bin/env bash
# Compares what the hash program prints: with this build's library, also where the C library has no fused multiply-add,
# and built anew by gcc without optimisation as for machines without AVX2, and by clang with all of it.
#   same_bits.sh SOURCE BUILD
set -euo pipefail
source_folder=$1 build_folder=$2
cd "$source_folder"
work="$build_folder/same_bits"

# One unit a folder: headers are read once for all of its files.
rm -rf "$work/units" && mkdir -p "$work/units" "$work/own"
find src/jugend/{base,motion,world,stage,shape} -name '*.cpp' | while read -r file; do
  echo "#include \"$file\"" >>"$work/units/$(dirname "$file" | tr / _).cpp"
done

# build NAME COMPILER FLAGS...: large units first, so that none is left at the end
build() {
  local name=$1 compiler=$2
  shift 2
  rm -rf "${work:?}/$name" && mkdir "$work/$name"
  ls -S "$work"/units/*.cpp tests/own/state_hash.cpp | xargs -P "$(nproc)" -I{} sh -c '$2 $3 -ffp-contract=off -Wno-psabi -I. -Isrc \
    -c "$4" -o "$1/$(echo "$4" | tr / _).o"' _ "$work/$name" "$compiler" "$*" {}
  "$compiler" "$work/$name"/*.o -pthread -o "$work/$name/state_hash"
}

g++ -std=c++20 -O2 -ffp-contract=off -Isrc tests/own/state_hash.cpp "$build_folder/libjugend.a" -pthread \
  -o "$work/own/state_hash"
build gcc g++ -std=c++20 -O0 -DJUGEND_PORTABLE -pedantic-errors -fno-exceptions -fno-rtti -fvisibility=hidden
"$work/gcc/state_hash" >"$work/gcc/hashes" &  # the slowest: meanwhile clang builds
build clang clang++ -std=c++2b -O3 -DNDEBUG
"$work/clang/state_hash" >"$work/clang/hashes"
wait $!

reference=$("$work/own/state_hash")
printf 'this build\n%s\n' "$reference"
GLIBC_TUNABLES=glibc.cpu.hwcaps=-FMA,-AVX2 "$work/own/state_hash" >"$work/own/hashes"
for name in own gcc clang; do
  hashes=$(cat "$work/$name/hashes")
  printf '%s\n%s\n' "$name" "$hashes"
  if [ "$reference" != "$hashes" ]; then
    echo "not the same bits as this build" >&2
    exit 1
  fi
done
