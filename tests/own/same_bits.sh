#!/usr/bin/env bash
# Compares what the hash program prints: with this build's library, also where the C library has no fused multiply-add,
# and built anew by clang as a part of another project, as for machines without AVX2.
#   same_bits.sh SOURCE BUILD [TABLE]
# With TABLE also by gcc without optimisation, by clang for this machine, and for AArch64, under qemu; a page in Markdown
# goes there.
set -euo pipefail
source_folder=$1 build_folder=$2 table=${3:-}
cd "$source_folder"
work="$build_folder/same_bits"

# One unit a folder: headers are read once for all of its files.
rm -rf "$work" && mkdir -p "$work/units" "$work/own"
find src/jugend/{base,motion,world,stage,shape} -name '*.cpp' | while read -r file; do
  echo "#include \"$file\"" >>"$work/units/$(dirname "$file" | tr / _).cpp"
done

# build NAME COMPILER FLAGS...: large units first, so that none is left at the end; `link` is added when they are linked
link=
build() {
  local name=$1 compiler=$2
  shift 2
  mkdir "$work/$name"
  ls -S "$work"/units/*.cpp tests/own/state_hash.cpp | xargs -P "$(nproc)" -I{} sh -c '$2 $3 -ffp-contract=off -Wno-psabi -I. -Isrc \
    -c "$4" -o "$1/$(echo "$4" | tr / _).o"' _ "$work/$name" "$compiler" "$*" {}
  # shellcheck disable=SC2086
  "$compiler" "$work/$name"/*.o -pthread $link -o "$work/$name/state_hash"
}

# How each was made: what the page says.
declare -A made
made[own]="x86-64, this build's own"
g++ -std=c++20 -O2 -ffp-contract=off -Isrc tests/own/state_hash.cpp "$build_folder/libjugend.a" -pthread \
  -o "$work/own/state_hash"
plain=(-DJUGEND_PORTABLE -pedantic-errors -fno-exceptions -fno-rtti)
made[fetched]="x86-64, clang -O1, C++23, shared and hidden, plain paths without extensions, exceptions, run-time types"
log="$work/fetched.log"
cmake -S tests/consumer/fetched -B "$work/fetched" -G Ninja -DJUGEND_SOURCE="$source_folder" -DCMAKE_UNITY_BUILD=ON \
  -DCMAKE_CXX_COMPILER=clang++ -DCMAKE_CXX_STANDARD=23 -DCMAKE_CXX_EXTENSIONS=OFF \
  -DCMAKE_CXX_FLAGS="-O1 -DNDEBUG ${plain[*]}" >"$log" || { cat "$log"; exit 1; }
cmake --build "$work/fetched" --parallel "$(nproc)" >"$log" || { cat "$log"; exit 1; }
"$work/fetched/game"
"$work/fetched/state_hash" >"$work/fetched/hashes"
names=(own fetched)
if [ -n "$table" ]; then
  made[gcc]="x86-64, gcc -O0, C++20, plain paths without extensions, exceptions and run-time types"
  build gcc g++ -std=c++20 -O0 -fvisibility=hidden "${plain[@]}"
  "$work/gcc/state_hash" >"$work/gcc/hashes"
  made[clang]="x86-64, clang -O3, C++23"
  build clang clang++ -std=c++2b -O3 -DNDEBUG
  "$work/clang/state_hash" >"$work/clang/hashes"
  names+=(gcc clang)
  made[aarch64]="AArch64, gcc -O2, under qemu"
  link=-static build aarch64 aarch64-linux-gnu-g++ -std=c++20 -O2
  qemu-aarch64 "$work/aarch64/state_hash" >"$work/aarch64/hashes"
  names+=(aarch64)
fi

reference=$("$work/own/state_hash")
printf 'this build\n%s\n' "$reference"
GLIBC_TUNABLES=glibc.cpu.hwcaps=-FMA,-AVX2 "$work/own/state_hash" >"$work/own/hashes"
made[own]+=", with and without FMA and AVX2 in the C library"
all_same=true
for name in "${names[@]}"; do
  hashes=$(cat "$work/$name/hashes")
  printf '%s\n%s\n' "$name" "$hashes"
  if [ "$reference" != "$hashes" ]; then
    echo "$name: not the same bits as this build" >&2
    all_same=false
  fi
done
if [ -n "$table" ]; then
  {
    echo "# The same bits on every machine"
    echo
    echo "Made by \`./dev determinism\`: a hash over the state after each of several hard runs (tests/own/state_hash.cpp),"
    echo "and the check sum of all of them."
    echo
    echo "| machine and build | check sum |"
    echo "| --- | --- |"
    for name in "${names[@]}"; do
      echo "| ${made[$name]} | \`$(sha256sum <"$work/$name/hashes" | cut -c1-16)\` |"
    done
  } >"$table"
fi
$all_same
