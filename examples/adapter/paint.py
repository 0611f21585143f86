#!/usr/bin/env python3
"""A painting program as an engine: paint.py JOB OUT. Poster bands of light with the guides' lines drawn over them."""
import json
import pathlib
import sys

import numpy as np
from PIL import Image, ImageFilter

job, out = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2])
recipe = json.loads((job / "recipe.json").read_text())
width, height = recipe["frame"]["width"], recipe["frame"]["height"]
steps, dice = recipe["brief"]["steps"], np.random.default_rng(recipe["brief"]["seed"])

# The prompt's own picture: soft hills of light, another for each seed.
part = recipe.get("part", {"box": [0, 0, width, height], "whole": {"width": width, "height": height}})
left, top, right, bottom = part["box"]
across, down = np.meshgrid(np.linspace(left, right, width) / part["whole"]["width"],
                           np.linspace(top, bottom, height) / part["whole"]["height"])
light = 0.8 - 0.5 * down
for _ in range(6):
    x, y, far = dice.uniform(size=3)
    light += dice.normal(0, 0.12) * np.exp(-((across - x) ** 2 + (down - y) ** 2) / (0.02 + 0.1 * far))
ink = np.zeros((height, width))

for step in range(1, steps + 1):
    at = 100 * (step - 0.5) / steps
    for guide in recipe["guides"]:
        if not guide["range"]["from"] <= at <= guide["range"]["to"]:
            continue
        picture = Image.open(job / guide["map"]).resize((width, height))
        values = np.asarray(picture.convert("I;16") if picture.mode.startswith("I") else picture.convert("L"), float)
        values /= 65535 if picture.mode.startswith("I") else 255
        share = guide["weight"] / steps
        if guide["kind"] in ("depth", "tone"):
            light += share * (values - light)
        else:
            ink = np.maximum(ink, np.minimum(1, guide["weight"]) * values)
    print(f"step {step}/{steps}", flush=True)

bands = np.floor(np.clip(light, 0, 1) * 6) / 6
warm = np.stack([0.25 + 0.7 * bands, 0.2 + 0.6 * bands, 0.35 + 0.4 * bands], axis=-1)
painted = warm * (1 - 0.9 * ink[..., None])
start = recipe["brief"].get("start", {})
if "picture" in start:
    begun = np.asarray(Image.open(job / start["picture"]).convert("RGB"), float) / 255
    painted = start["change"] * painted + (1 - start["change"]) * begun
image = Image.fromarray((255 * np.clip(painted, 0, 1)).astype(np.uint8)).filter(ImageFilter.SMOOTH)
image.save(out / "proof.png")
