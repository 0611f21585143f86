"""Rich grounds and stuffs: what figures stand before, and what they wear. Pictures that the stand-in painted
(make_grounds.sh), and leaves, branches, rocks, bricks, clouds and patterns drawn here by chance."""
import glob
import math

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

SIDE = 256


def palette(random, count):
    """Colours that go together: one hue and its neighbours, or none at all; light and dark."""
    hue, spread, strength = random.uniform(0, 6), random.uniform(0.1, 1.2), random.uniform(0, 0.9) ** 1.7
    out = []
    for _ in range(count):
        h, light = hue + random.normal() * spread, random.uniform(0.05, 1)
        wave = np.clip(np.abs((h - np.array([0, 2, 4]) + 3) % 6 - 3) - 1, 0, 1)
        out.append(tuple(int(255 * light * (1 - strength + strength * w)) for w in wave))
    return out


def noise(random, side=SIDE, roughness=None):
    """Fractal noise, 0 to 1."""
    roughness = random.uniform(0.4, 0.9) if roughness is None else roughness
    out, size, weight = np.zeros((side, side), np.float32), int(random.integers(2, 6)), 1.0
    while size < side:
        grid = Image.fromarray((255 * random.random((size, size))).astype(np.uint8))
        out += weight * np.asarray(grid.resize((side, side), Image.BICUBIC), np.float32) / 255
        weight *= roughness
        size *= 2
    low, high = out.min(), out.max()
    return (out - low) / max(1e-6, high - low)


def tinted(random, values):
    """Noise in the colours of a palette."""
    colours = np.array(palette(random, int(random.integers(2, 6))), np.float32)
    at = values * (len(colours) - 1)
    low = np.minimum(at.astype(int), len(colours) - 2)
    t = (at - low)[..., None]
    return (colours[low] * (1 - t) + colours[low + 1] * t).astype(np.uint8)


def leaves(random):
    picture = Image.fromarray(tinted(random, noise(random)))
    draw, colours = ImageDraw.Draw(picture), palette(random, 8)
    size = random.uniform(3, 26)
    for _ in range(int(min(1200, 90000 / size ** 1.6))):
        x, y, turn = random.uniform(-9, SIDE + 9), random.uniform(-9, SIDE + 9), random.uniform(0, 2 * math.pi)
        a, b = size * random.uniform(0.5, 1.4), size * random.uniform(0.15, 0.6)
        c, s = math.cos(turn), math.sin(turn)
        draw.polygon([(x + a * p * c - b * q * s, y + a * p * s + b * q * c) for p, q in
                      ((-1, 0), (-0.3, 0.8), (0.4, 0.7), (1, 0), (0.4, -0.7), (-0.3, -0.8))],
                     fill=colours[random.integers(len(colours))])
    return picture


def branches(random):
    picture = leaves(random) if random.random() < 0.3 else Image.fromarray(tinted(random, noise(random)))
    draw, colours = ImageDraw.Draw(picture), palette(random, 4)

    def grow(x, y, turn, length, width, depth):
        colour = colours[random.integers(len(colours))]
        for _ in range(int(random.integers(2, 5))):
            x2, y2 = x + length * math.cos(turn), y + length * math.sin(turn)
            draw.line((x, y, x2, y2), fill=colour, width=max(1, int(width)))
            x, y, turn, width = x2, y2, turn + 0.35 * random.normal(), width * 0.85
        if depth > 0:
            for _ in range(int(random.integers(1, 4))):
                grow(x, y, turn + 0.7 * random.normal(), length * 0.75, width * 0.7, depth - 1)
    for _ in range(int(random.integers(1, 7))):
        grow(random.uniform(0, SIDE), random.choice([SIDE, SIDE * random.random()]), random.uniform(0, 2 * math.pi),
             random.uniform(10, 40), random.uniform(2, 18), 3)
    return picture


def rocks(random):
    """Cells about chance places, each with a colour, a slope of light and dark joints."""
    count = int(random.integers(8, 160))
    places = random.random((count, 2)).astype(np.float32) * SIDE
    stretch = np.exp(0.5 * random.normal(size=2)).astype(np.float32)
    y, x = np.mgrid[0:SIDE, 0:SIDE].astype(np.float32)
    wobble = 14 * (noise(random) - 0.5)
    apart = ((x + wobble)[None] - places[:, 0, None, None]) ** 2 * stretch[0] + ((y - wobble)[None] - places[:, 1, None, None]) ** 2 * stretch[1]
    order = np.argpartition(apart, 1, axis=0)[:2]
    first, second = np.take_along_axis(apart, order, 0)
    cell = order[0]
    colours = np.array(palette(random, count), np.float32)
    slope = random.normal(size=(count, 2)).astype(np.float32) * 0.012
    shade = 1 + (x - places[cell, 0]) * slope[cell, 0] + (y - places[cell, 1]) * slope[cell, 1]
    joint = 1 - random.uniform(0, 0.8) * np.exp(-(np.sqrt(second) - np.sqrt(first)) / random.uniform(1, 6))
    grain = 1 + random.uniform(0, 0.5) * (noise(random, roughness=0.95) - 0.5)
    return Image.fromarray(np.clip(colours[cell] * (shade * joint * grain)[..., None], 0, 255).astype(np.uint8))


def bricks(random):
    """Bricks, planks, tiles, panes."""
    picture = Image.fromarray(tinted(random, noise(random)))
    draw, colours = ImageDraw.Draw(picture), palette(random, 5)
    wide, high, gap = random.uniform(8, 90), random.uniform(6, 60), int(random.integers(0, 4))
    for j in range(-1, int(SIDE / high) + 1):
        for i in range(-1, int(SIDE / wide) + 1):
            x, y = (i + (j % 2) * random.choice([0, 0.5])) * wide, j * high
            draw.rectangle((x, y, x + wide - gap, y + high - gap), fill=colours[random.integers(len(colours))])
    return picture.rotate(random.uniform(-12, 12) if random.random() < 0.5 else 0, Image.BILINEAR)


def strokes(random):
    """Brush strokes that follow a chance flow."""
    under = noise(random)
    colours = tinted(random, under)
    picture = Image.fromarray(colours)
    draw, flow = ImageDraw.Draw(picture), 6 * noise(random, roughness=0.4)
    length, width = random.uniform(6, 40), int(random.integers(2, 9))
    for _ in range(900):
        x, y = random.uniform(0, SIDE - 1), random.uniform(0, SIDE - 1)
        colour = tuple(int(np.clip(int(v) + 22 * random.normal(), 0, 255)) for v in colours[int(y), int(x)])
        path = [(x, y)]
        for _ in range(4):
            turn = flow[int(np.clip(y, 0, SIDE - 1)), int(np.clip(x, 0, SIDE - 1))]
            x, y = x + length / 4 * math.cos(turn), y + length / 4 * math.sin(turn)
            path.append((x, y))
        draw.line(path, fill=colour, width=width)
    return picture


def clouds(random):
    return Image.fromarray(tinted(random, noise(random)))


def pattern(random):
    """Dots, checks, stripes: for cloth above all."""
    colours = palette(random, 4)
    picture = Image.new("RGB", (SIDE, SIDE), colours[0])
    draw, step = ImageDraw.Draw(picture), random.uniform(5, 28)
    kind = random.integers(4)
    for i in range(int(SIDE / step) + 1):
        if kind == 0:
            draw.line((i * step, 0, i * step, SIDE), fill=colours[1 + i % 3], width=max(1, int(step / 2)))
            continue
        for j in range(int(SIDE / step) + 1):
            x, y, r = (i + 0.5 * (j % 2)) * step, j * step, step * (0.28 if kind < 3 else 0.5)
            (draw.ellipse if kind == 1 else draw.rectangle)((x - r, y - r, x + r, y + r), fill=colours[1 + (i + j) % min(3, 1 + kind)])
    return picture.rotate(random.uniform(0, 90), Image.BILINEAR, fillcolor=colours[0])


def collage(random):
    """Several of them side by side, as rooms and streets are."""
    picture = drawn(random)
    for _ in range(int(random.integers(1, 5))):
        w, h = random.uniform(20, 200), random.uniform(20, 200)
        part = drawn(random).crop((0, 0, int(w), int(h)))
        picture.paste(part, (int(random.uniform(-30, SIDE)), int(random.uniform(-30, SIDE))))
    return picture


def drawn(random):
    return random.choice([leaves, leaves, branches, rocks, bricks, strokes, clouds, pattern])(random)


class Grounds:
    """So many of them; one is drawn anew now and then."""

    def __init__(self, folder, random, count=400):
        self.painted = [Image.open(p).convert("RGB") for p in sorted(glob.glob(folder + "/*.png"))]
        self.drawn = [self._one(random) for _ in range(count)]

    def _one(self, random):
        picture = collage(random) if random.random() < 0.35 else drawn(random)
        return picture.filter(ImageFilter.GaussianBlur(random.uniform(0, 2.5))) if random.random() < 0.4 else picture

    def part(self, random, side):
        """A square of `side`, as floats 0 to 1."""
        if random.random() < 0.01:
            self.drawn[random.integers(len(self.drawn))] = self._one(random)
        painted = self.painted and random.random() < 0.3
        source = self.painted if painted else self.drawn
        picture = source[random.integers(len(source))]
        size = int(random.uniform(0.35, 1) * min(picture.size))
        x, y = (int(random.integers(0, s - size + 1)) for s in picture.size)
        part = picture.resize((side, side), Image.BILINEAR, (x, y, x + size, y + size))
        out = np.asarray(part, np.float32) / 255
        return out[:, ::-1] if random.random() < 0.5 else out
