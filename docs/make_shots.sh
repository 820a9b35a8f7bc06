#!/usr/bin/env bash
# Makes docs/screenshots anew from the harbour's data.   make_shots.sh PROGRAM
set -euo pipefail
program=$(realpath "$1")
root=$(cd "$(dirname "$0")/.." && pwd)
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
cd "$folder"
"$program" demo >/dev/null
"$program" run "$root/demo/moorings_hop.toml" --plot >/dev/null
"$program" compare "$root/demo/crates_rammed.toml" --set crate.mass=4 --out runs/crates >/dev/null
"$program" compare "$root/demo/cart_drop.toml" "$root/demo/cart_bad_drop.toml" --out runs/carts >/dev/null
for trial in handcarts_dropped grotto_fall parkour gull_strike buoy_roll seal_round cart_lap cart_trailer kerb_row ferry_crossing crane_walk workboat_turn drone_parcel manoeuvres/split_grip; do "$program" run "$root/demo/$trial.toml" --plot >/dev/null; done
"$program" plot "$root/demo/cart.toml" --out runs/cart_curves.png >/dev/null
mkdir -p "$root/docs/screenshots"
cp runs/cart_curves.png "$root/docs/screenshots/cart_curves.png"
cp runs/carts/compare.png "$root/docs/screenshots/cart_drop.png"
cp runs/crates/compare.png "$root/docs/screenshots/crates_rammed.png"
for trial in handcarts_dropped grotto_fall parkour gull_strike buoy_roll seal_round cart_lap cart_trailer kerb_row ferry_crossing crane_walk workboat_turn drone_parcel split_grip; do cp "runs/$trial/plot.png" "$root/docs/screenshots/$trial.png"; done
cp runs/demo/quay_run.png "$root/docs/screenshots/demo.png"
cp runs/moorings_hop/plot.png "$root/docs/screenshots/moorings_hop.png"
