#!/usr/bin/env bash
# Builds the hash program with gcc and clang, optimised and not, and compares what they print.
#   same_bits.sh SOURCE BUILD
set -euo pipefail
source_folder=$1 build_folder=$2
cd "$source_folder"
sources=$(ls src/jugend/{base,motion,world,stage}/*.cpp src/jugend/shape/*.cpp | grep -v mesh_file.cpp)
reference=
for compiler in g++ clang++; do
  for level in -O0 "-O3 -DNDEBUG"; do
    objects="$build_folder/same_bits/$compiler${level%% *}"
    mkdir -p "$objects"
    # shellcheck disable=SC2086
    printf '%s\n' $sources tests/own/state_hash.cpp | xargs -P "$(nproc)" -I{} sh -c '
      object="$1/$(echo "$4" | tr / _).o"
      [ "$object" -nt "$4" ] && [ -z "$(find src tests/support -name "*.hpp" -newer "$object" -print -quit)" ] ||
        $2 -std=c++20 $3 -ffp-contract=off -Isrc -isystem /usr/include/eigen3 -c "$4" -o "$object"' _ "$objects" "$compiler" "$level" {}
    $compiler "$objects"/*.o -lfmt -ltbb -o "$objects/state_hash"
    hashes=$("$objects/state_hash")
    printf '%s %s\n%s\n' "$compiler" "$level" "$hashes"
    if [ -z "$reference" ]; then
      reference=$hashes
    elif [ "$reference" != "$hashes" ]; then
      echo "not the same bits as g++ -O0" >&2
      exit 1
    fi
  done
done
