#!/usr/bin/env bash
# Makes docs/stand-in-sheet.png: twelve prompts on three references. usage: stand-in-sheet.sh, after ./demo
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
bin=build/release/bin
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
number=0
while IFS= read -r prompt; do
  number=$((number + 1))
  seed=$((400 + number))
  for reference in kite-flyer tea-house lighthouse-stair; do
    study=$work/study.scaffold
    rm -f "$study"
    $bin/hscaffold study new "$study" --size 768x512 --reference "build/almanac/$reference.png" --guide edges=0.95 \
      --prompt "$prompt" --seed $seed
    $bin/hscaffold pull "$study" -o "$work"
    case $reference in kite-flyer) order=1 ;; tea-house) order=2 ;; *) order=3 ;; esac
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
desert at noon, ochre, woodcut
teal lake, rain, watercolour
crimson sunset, wild, oil
violet midnight, stars, gouache
PROMPTS
$bin/almanac-sheet docs/stand-in-sheet.png 6 240 "$work"/??-?.png
