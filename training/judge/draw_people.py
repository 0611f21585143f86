"""Draws cartoon people over key points: flat shapes with faces, hair and clothes, with or without outlines, before
other grounds. Pictures for judging that the scenes for learning have no part in.
usage: draw_people.py FOLDER SEED   (NAME.json, COCO key points, gets its NAME.png)"""
import glob
import json
import math
import os
import sys

import numpy as np
from PIL import Image, ImageDraw

FINE = 3  # drawn so much larger and brought down


class Pen:
    def __init__(self, size, random, ground):
        self.picture = ground.resize((FINE * size[0], FINE * size[1]), Image.BILINEAR)
        self.draw = ImageDraw.Draw(self.picture)
        self.line = int(random.integers(2, 9)) if random.random() < 0.7 else 0
        self.ink = tuple(int(v) for v in random.integers(0, 60, 3))

    def shape(self, points, colour):
        points = [(float(x), float(y)) for x, y in points]
        self.draw.polygon(points, fill=colour)
        if self.line:
            self.draw.line(points + points[:2], fill=self.ink, width=self.line, joint="curve")

    def egg(self, at, across, down, colour, turn=0.0):
        t = np.linspace(0, 2 * math.pi, 40)
        x, y = across * np.cos(t), down * np.sin(t)
        self.shape(zip(at[0] + x * math.cos(turn) - y * math.sin(turn), at[1] + x * math.sin(turn) + y * math.cos(turn)), colour)

    def limb(self, a, b, first, last, colour):
        """From a to b, so broad at either end, round there."""
        turn = math.atan2(b[1] - a[1], b[0] - a[0])
        near = [(a[0] + first * math.cos(t), a[1] + first * math.sin(t)) for t in np.linspace(turn + math.pi / 2, turn + 1.5 * math.pi, 12)]
        far = [(b[0] + last * math.cos(t), b[1] + last * math.sin(t)) for t in np.linspace(turn - math.pi / 2, turn + math.pi / 2, 12)]
        self.shape(near + far, colour)


def colour(random, low=20, high=245):
    return tuple(int(v) for v in random.integers(low, high, 3))


def person(pen, points, random):
    """@param points  name: (x, y, visibility), in the pen's pixels"""
    at = {name: np.array(p[:2]) for name, p in points.items() if p[2] > 0}
    need = [s + "_" + j for s in ("left", "right") for j in ("shoulder", "hip")]
    if any(n not in at for n in need):
        return
    tall = 2.6 * np.linalg.norm((at["left_shoulder"] + at["right_shoulder"] - at["left_hip"] - at["right_hip"]) / 2) + 40
    light = random.uniform(0.35, 1.05)
    skin = tuple(min(255, int(v * light * random.uniform(0.9, 1))) for v in (240, 205, 175))
    top, legs, shoe, hair = (colour(random) for _ in range(4))
    bare_arm, bare_leg, skirt = random.random() < 0.35, random.random() < 0.3, random.random() < 0.3
    thick = tall * random.uniform(0.028, 0.045)
    facing = at["left_shoulder"][0] >= at["right_shoulder"][0]  # towards us

    def arm(side):
        s, e, w = (side + "_" + j for j in ("shoulder", "elbow", "wrist"))
        if s in at and e in at:
            pen.limb(at[s], at[e], thick * 1.1, thick * 0.85, top)
            if w in at:
                pen.limb(at[e], at[w], thick * 0.8, thick * 0.6, skin if bare_arm else top)
                pen.egg(at[w] + 0.35 * (at[w] - at[e]) * thick / max(1, np.linalg.norm(at[w] - at[e])) * 2, thick * 0.8, thick * 0.8, skin)

    def leg(side):
        h, k, a = (side + "_" + j for j in ("hip", "knee", "ankle"))
        if h in at and k in at:
            pen.limb(at[h], at[k], thick * 1.6, thick * 1.1, legs)
            if a in at:
                pen.limb(at[k], at[a], thick * 1.05, thick * 0.7, skin if bare_leg else legs)
                ahead = (1 if facing else -1) * (1 if side == "left" else -1) * 0.5
                pen.egg(at[a] + np.array([ahead * thick, thick * 0.5]), thick * 1.3, thick * 0.7, shoe)

    def hidden(side, joint):
        return points.get(side + "_" + joint, (0, 0, 0))[2] == 1

    sides = ["left", "right"] if random.random() < 0.5 else ["right", "left"]
    for side in sides:
        if hidden(side, "elbow"):
            arm(side)
    for side in sides:
        leg(side)
    hips, chest = (at["left_hip"] + at["right_hip"]) / 2, (at["left_shoulder"] + at["right_shoulder"]) / 2
    spine = chest - hips
    out = np.array([-spine[1], spine[0]]) / max(1, np.linalg.norm(spine)) * thick

    def broader(name, by):
        away = at[name] - (chest if "shoulder" in name else hips)
        return at[name] + by * away / max(1e-6, np.linalg.norm(away)) if np.linalg.norm(away) > 1 else at[name]
    ring = [broader("left_shoulder", thick), broader("right_shoulder", thick), broader("right_hip", thick * 1.4), broader("left_hip", thick * 1.4)]
    if np.linalg.norm(at["left_shoulder"] - at["right_shoulder"]) < 0.45 * np.linalg.norm(spine):  # from the side
        ring = [chest + 1.7 * out, chest - 1.7 * out, hips - 1.9 * out, hips + 1.9 * out]
    if skirt and "left_knee" in at and "right_knee" in at:
        wide = 1.6 * thick
        k = sorted((at["left_knee"], at["right_knee"]), key=lambda p: p[0])
        b = sorted((ring[2], ring[3]), key=lambda p: p[0])
        pen.shape([b[0], b[1], k[1] + np.array([wide, 0]), k[0] - np.array([wide, 0])], legs)
    pen.shape(ring, top)
    head = [at[n] for n in ("nose", "left_eye", "right_eye", "left_ear", "right_ear") if n in at]
    if head:
        ears = [at[n] for n in ("left_ear", "right_ear") if n in at]
        middle = np.mean(ears, 0) if len(ears) == 2 else np.mean(head, 0)
        size = tall * random.uniform(0.062, 0.085)
        pen.limb(chest, middle, thick * 0.8, thick * 0.75, skin)
        long_hair = random.random() < 0.4
        if long_hair:
            pen.egg(middle + np.array([0, size * 0.5]), size * 1.15, size * 1.5, hair)
        pen.egg(middle, size * 0.92, size * 1.15, skin)
        if facing or np.linalg.norm(at["left_shoulder"] - at["right_shoulder"]) < 0.3 * np.linalg.norm(spine):
            cap = [(middle[0] + size * 1.0 * math.cos(t), middle[1] - size * 0.25 + size * 1.0 * math.sin(t)) for t in np.linspace(math.pi, 2 * math.pi, 20)]
            pen.shape(cap, hair)
            for eye in ("left_eye", "right_eye"):
                if points.get(eye, (0, 0, 0))[2] == 2:
                    r = size * 0.13
                    pen.draw.ellipse((at[eye][0] - r * 1.5, at[eye][1] - r, at[eye][0] + r * 1.5, at[eye][1] + r), fill=(250, 250, 250))
                    pen.draw.ellipse((at[eye][0] - r, at[eye][1] - r, at[eye][0] + r, at[eye][1] + r), fill=(20, 20, 30))
            if "nose" in at:
                n = at["nose"]
                dark = tuple(int(0.6 * v) for v in skin)
                pen.draw.line((n[0], n[1] - size * 0.25, n[0] + size * 0.08, n[1], n[0] - size * 0.08, n[1]), fill=dark, width=max(2, int(size * 0.08)))
                pen.draw.line((n[0] - size * 0.25, n[1] + size * 0.38, n[0] + size * 0.25, n[1] + size * 0.38), fill=(150, 60, 60), width=max(2, int(size * 0.1)))
        else:
            pen.egg(middle - np.array([0, size * 0.1]), size * 0.98, size * 1.1, hair)
    for side in sides:
        if not hidden(side, "elbow"):
            arm(side)


def ground(random, size, bank):
    if bank and random.random() < 0.6:
        return Image.open(bank[random.integers(len(bank))]).convert("RGB").resize(size, Image.BICUBIC)
    return Image.new("RGB", size, colour(random, 120, 256))


def main():
    folder, seed = sys.argv[1], int(sys.argv[2])
    bank = sorted(glob.glob(os.path.join(folder, "grounds", "*.png")))
    random = np.random.default_rng(seed)
    for path in sorted(glob.glob(os.path.join(folder, "*.json"))):
        if os.path.exists(path[:-5] + ".png"):
            continue
        read = json.load(open(path))
        size = (read["images"][0]["width"], read["images"][0]["height"])
        names = {c["id"]: c["keypoints"] for c in read["categories"]}
        pen = Pen(size, random, ground(random, size, bank))
        for each in read["annotations"]:
            k = each["keypoints"]
            person(pen, {n: (FINE * k[3 * i], FINE * k[3 * i + 1], k[3 * i + 2]) for i, n in enumerate(names[each["category_id"]])}, random)
        pen.picture.resize(size, Image.LANCZOS).save(path[:-5] + ".png")


if __name__ == "__main__":
    main()
