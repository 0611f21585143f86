#!/usr/bin/env bash
# Makes docs/stand-in-sheet.png, twelve prompts on four references, and docs/stand-in-balance.png, weights and range
# ends for two references. usage: stand-in-sheet.sh, after ./demo
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
bin=build/release/bin
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
number=0
while IFS= read -r prompt; do
  number=$((number + 1))
  seed=$((400 + number))
  for reference in kite-flyer tea-house lighthouse-stair sail-cart-sketch; do
    study=$work/study.scaffold
    rm -f "$study"
    $bin/hscaffold study new "$study" --size 768x512 --reference "almanac/pictures/$reference.jpg" --guide edges=0.95 \
      --prompt "$prompt" --seed $seed
    $bin/hscaffold pull "$study" -o "$work"
    case $reference in kite-flyer) order=1 ;; tea-house) order=2 ;; lighthouse-stair) order=3 ;; *) order=4 ;; esac
    mv "$work/seed$seed.png" "$work/$(printf '%02d-%d.png' $number $order)"
  done
done <<'PROMPTS'
red dune at dusk, gouache
calm sea, blue and gold, summer noon, oil
misty forest at dawn, watercolour
winter night, snow, ink
autumn mountains, vivid, gouache
storm over a dark sea, woodcut
spring meadow, pale light, pencil
stone and brass, evening, photograph
desert at noon, ochre, screen print
teal lake, rain, watercolour
crimson sunset, wild, oil
violet midnight, stars, flat colours
PROMPTS
$bin/almanac-sheet docs/stand-in-sheet.png 8 200 "$work"/??-?.png

rm -f "$work"/*.png
number=0
for reference in kite-flyer tea-house; do
  for setting in 'weight:G=0.2..0.2/1' 'weight:G=0.4..0.4/1' 'weight:G=0.6..0.6/1' 'weight:G=0.8..0.8/1' \
    'weight:G=1.0..1.0/1' 'weight:G=1.3..1.3/1' 'end:G=5..5/1' 'end:G=15..15/1' 'end:G=30..30/1' 'end:G=50..50/1' \
    'end:G=75..75/1' 'end:G=100..100/1'; do
    number=$((number + 1))
    study=$work/study.scaffold
    rm -f "$study"
    $bin/hscaffold study new "$study" --size 768x512 --reference "almanac/pictures/$reference.jpg" --guide edges=1 \
      --prompt "a quiet shore in late summer, gouache" --seed 23
    $bin/hscaffold study set "$study" --guide Edges --rename G
    rm -rf "$work/one"
    $bin/hscaffold pull "$study" -o "$work/one" --strip "$setting"
    mv "$work"/one/*.png "$work/$(printf '%02d' $number).png"
  done
done
$bin/almanac-sheet docs/stand-in-balance.png 6 240 "$work"/??.png
