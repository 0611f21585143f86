#!/usr/bin/env bash
# Pictures of known joints that the scenes for learning have no part in: the almanac's own, poses of the library as the
# built-in stand-in paints them, in many media, and cartoons (draw_people.py). NAME.png with NAME.json beside it; nobody is
# in those that have none.
# usage: make_pictures.sh BIN FOLDER
set -euo pipefail
bin=$1 out=$2
mkdir -p "$out"
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
"$bin/hscaffold-almanac" "$work/almanac" >/dev/null
cp "$work/almanac/dune-walk.png" "$work/almanac/dune-walk.json" "$out"
media=(gouache watercolour pencil ink "oil painting" "flat colour")
poses=("Standing at ease" "Hands on hips" "Walking" "Striding out" "Running" "Sitting on a chair" "Sitting cross-legged"
  "Kneeling on one knee" "Crouching" "Lying on the side" "Reaching up" "Both arms up" "Carrying a box" "Climbing a ladder"
  "Dancing, arms wide" "Bowing" "Hammering" "Flying a kite" "Leaning into the wind" "Picking something up")
number=0
for pose in "${poses[@]}"; do
  for turn in 20 100 200; do
    number=$((number + 1))
    medium=${media[$((number % ${#media[@]}))]}
    name=$(printf 'stand-in-%02d' $number)
    "$bin/hscaffold" pose make --size 384x384 --pose "$pose/$turn@90,50,200,280" -o "$out/$name.json"
    "$bin/hscaffold" study new "$work/$name.scaffold" --size 384x384 --seed $((100 + number)) \
      --prompt "a sail mender on a dune, $medium"
    "$bin/hscaffold" study pose "$work/$name.scaffold" --figures "$out/$name.json" --weight 1 >/dev/null
    "$bin/hscaffold" pull "$work/$name.scaffold" -o "$work/$name" >/dev/null
    cp "$work/$name"/*.png "$out/$name.png"
  done
done

# Places without anybody; some of them stand behind the cartoons.
mkdir -p "$out/grounds"
for place in "a rocky coast, oil painting" "a forest in autumn, gouache" "a town of tiled roofs, ink" "a swamp in fog, watercolour" \
  "mountains under clouds, photograph" "a garden full of flowers, woodcut"; do
  number=$((number + 1))
  "$bin/hscaffold" study new "$work/$number.scaffold" --size 512x384 --seed $((900 + number)) --prompt "$place"
  "$bin/hscaffold" pull "$work/$number.scaffold" -o "$work/$number" --count 2 >/dev/null
  cp "$work/$number"/*$((900 + number)).png "$out/nobody-$number.png"
  cp "$work/$number"/*$((901 + number)).png "$out/grounds/$number.png"
done
drawn=0
for pose in "${poses[@]}"; do
  for turn in 340 60 170; do
    drawn=$((drawn + 1))
    "$bin/hscaffold" pose make --size 384x384 --pose "$pose/$turn@90,50,200,280" -o "$out/$(printf 'cartoon-%02d' $drawn).json"
  done
done
python3 "$(dirname "$0")/draw_people.py" "$out" 7
