#!/usr/bin/env bash
# Pictures without people, as grounds behind the figures of the scenes: land, water, woods, towns and rooms as the built-in
# stand-in paints them, in many media.
# usage: make_grounds.sh BIN FOLDER [COUNT OF SEEDS]
set -euo pipefail
bin=$1 out=$2 seeds=${3:-12}
mkdir -p "$out"
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
media=(gouache watercolour pencil ink "oil painting" "flat colour" woodcut photograph)
places=("a forest in autumn" "reeds and willows by a river" "a rocky coast with waves" "mountains under clouds" "a town of tiled roofs"
  "a garden full of flowers" "dunes at dusk" "a harbour with boats and masts" "a stone bridge over a stream" "snow on fir trees"
  "a market street with awnings" "a ruined tower on a hill" "a meadow in summer" "a swamp with roots in fog" "an orchard in spring"
  "a castle at night" "a field of wheat before a storm" "a wooden hut among trees" "cliffs and birds" "a lighthouse in rain")
number=0
for place in "${places[@]}"; do
  for turn in 1 2; do
    number=$((number + 1))
    "$bin/hscaffold" study new "$work/$number.scaffold" --size 320x320 --seed $((1000 * number)) \
      --prompt "$place, ${media[$((number * (turn + 2) % ${#media[@]}))]}"
    "$bin/hscaffold" pull "$work/$number.scaffold" -o "$work/$number" --count "$seeds" >/dev/null
    for picture in "$work/$number"/*.png; do mv "$picture" "$out/$(printf 'ground-%02d-' $number)$(basename "$picture")"; done
  done
done
