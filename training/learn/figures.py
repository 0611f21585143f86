"""Teaches a network to find people or animals: heat maps of key points, limb direction fields, and where they are.

Can be stopped at any time and goes on where it was: everything is in one file.
"""
import io
import json
import math

import numpy as np
import torch
from PIL import Image, ImageFilter

from course import Course, ahead, asked
from grounds import Grounds
from net import Net
from scenes import ANIMAL, HUMAN, Scenes

STRIDE, SIDE, SIGMA = 4, 160, 1.3
DRAWN = 224  # scenes, of which parts are taken
SHAPE = {"stem": (24, 40), "widths": (64, 96, 128)}
OUTSIDE, OTHER, ITSELF, SEEN = 0, 1, 2, 3


class Sought:
    """Who is looked for: how many key points they have, which are each other's mirror image, what limbs there are, and how
    a scene marks them; `name` is the network's, and of what scenes are used for."""

    def __init__(self, name, skeleton, points, figures, mark):
        kind = json.load(open(f"src/core/pose/data/skeletons/{skeleton}.json"))
        ids = [p["id"] for p in kind["points"]][:points]
        self.name, self.points, self.figures, self.mark = name, points, figures, mark
        self.mirror = [ids.index(kind["points"][i].get("mirror", ids[i])) for i in range(points)]
        self.limbs = [(ids.index(b["from"]), ids.index(b["to"])) for b in kind["bones"] if b["from"] in ids and b["to"] in ids]
        self.outputs = points + 2 * len(self.limbs) + 1


SOUGHT = {"people": ("figures", "human", HUMAN, lambda record: record.people, 255),
          "animals": ("animals", "four-legged", ANIMAL, lambda record: record.animals, 128)}


def window(record, random, sought):
    """A square part of a scene, SIDE when it is brought there: mostly about somebody, at another size each time."""
    height, width = record.picture.shape[:2]
    side = min(height, width)
    span = int(side * math.exp(random.uniform(math.log(0.5), 0.15)))
    span = min(span, side)
    x, y = random.uniform(0, width - span), random.uniform(0, height - span)
    figures = sought.figures(record)
    if len(figures) and random.random() < 0.75:
        inside = figures[random.integers(len(figures))][5:].reshape(sought.points, 3)
        inside = inside[inside[:, 2] >= OTHER]
        if len(inside):
            at = inside[random.integers(len(inside)), :2]
            x, y = 0.5 * (at + inside[:, :2].mean(0)) - span * random.uniform(0.25, 0.75, 2)
    x, y = (int(np.clip(v, 0, most - span)) for v, most in ((x, width), (y, height)))
    return x, y, span


def dressed(picture, mask, random, grounds):
    """Stuff of the cloth that one chance pixel of a figure has: its grain, or all of its colours."""
    inside = np.argwhere(mask)
    if not len(inside):
        return picture
    colour = picture[tuple(inside[random.integers(len(inside))])]
    cloth = mask & (np.abs(picture - colour).max(2) < random.uniform(0.05, 0.2))
    stuff = grounds.part(random, picture.shape[0])
    if random.random() < 0.6:
        grain = stuff.mean(2)
        worn = picture * (1 + random.uniform(0.5, 1.6) * (grain - grain[cloth].mean() if cloth.any() else grain - 0.5))[..., None]
    else:
        light = picture.mean(2, keepdims=True)
        worn = stuff * (0.25 + light / max(0.05, float(light[cloth].mean()) if cloth.any() else 1) * 0.75)
    return np.where(cloth[..., None], np.clip(worn, 0, 1), picture)


def covered(picture, points, random, grounds):
    """Something before it all, of the stuff of a ground: what it hides is there, but hidden by something else."""
    side = picture.shape[0]
    y, x = np.mgrid[0:side, 0:side].astype(np.float32)
    at, angle = random.uniform(0, side, 2), random.uniform(0, math.pi)
    along = (x - at[0]) * math.cos(angle) + (y - at[1]) * math.sin(angle)
    aside = (x - at[0]) * -math.sin(angle) + (y - at[1]) * math.cos(angle)
    long, broad = random.uniform(0.05, 0.6) * side, random.uniform(0.02, 0.14) * side
    hides = (np.abs(along) < long) & (np.abs(aside) < broad) if random.random() < 0.5 else (along / long) ** 2 + (aside / broad) ** 2 < 1
    picture = np.where(hides[..., None], grounds.part(random, side) * random.uniform(0.3, 1.1), picture)
    px, py = (np.clip(points[..., i].astype(int), 0, side - 1) for i in (0, 1))
    points[..., 2] = np.where(hides[py, px] & (points[..., 2] > OTHER), OTHER, points[..., 2])
    return picture


def photographed(picture, random, grounds):
    """Light through leaves and windows, a lens out of focus or moved, a sensor's noise, a file made small."""
    if random.random() < 0.3:
        dapple = grounds.part(random, picture.shape[0]).mean(2, keepdims=True)
        picture = picture * (1 + random.uniform(0.3, 1.4) * (dapple - dapple.mean()))
    picture = np.clip(picture, 0, 1)
    if random.random() < 0.35:
        shown = Image.fromarray((255 * picture).astype(np.uint8))
        if random.random() < 0.5:
            small = int(SIDE * random.uniform(0.4, 0.9))
            shown = shown.resize((small, small), Image.BILINEAR).resize((SIDE, SIDE), Image.BILINEAR)
        else:
            shown = shown.filter(ImageFilter.GaussianBlur(random.uniform(0.3, 1.6)))
        picture = np.asarray(shown, np.float32) / 255
    if random.random() < 0.3:
        picture = np.clip(picture + random.uniform(0.01, 0.1) * random.normal(size=picture.shape).astype(np.float32), 0, 1)
    if random.random() < 0.3:
        file = io.BytesIO()
        Image.fromarray((255 * picture).astype(np.uint8)).save(file, "JPEG", quality=int(random.integers(15, 80)))
        picture = np.asarray(Image.open(file).convert("RGB"), np.float32) / 255
    return picture


def arrays(records, random, sought, grounds):
    """Pictures (B x 3 x S x S, 0 to 1), figures (B x most x (5 + 3 points)) and where they are; half of them mirrored, all
    recoloured, many before other grounds and in other stuffs."""
    pictures = np.empty((len(records), 3, SIDE, SIDE), np.float32)
    most = max(1, max(len(sought.figures(r)) for r in records))
    figures = np.zeros((len(records), most, 5 + 3 * sought.points), np.float32)
    masks = np.empty((len(records), SIDE, SIDE), np.float32)
    for i, r in enumerate(records):
        left, top, span = window(r, random, sought)
        scale = SIDE / span
        cut = (slice(top, top + span), slice(left, left + span))

        layers = np.concatenate([r.picture[cut], np.where(r.figure[cut] > 0, 255, 0)[..., None],
                                 np.where(r.figure[cut] == sought.mark, 255, 0)[..., None]], 2).astype(np.float32)
        brought = torch.nn.functional.interpolate(torch.from_numpy(layers).permute(2, 0, 1)[None], (SIDE, SIDE),
                                                  mode="bilinear", antialias=span > SIDE)[0].permute(1, 2, 0).numpy() / 255
        picture, anybody, mask = brought[..., :3], brought[..., 3:4], brought[..., 4]
        those = sought.figures(r).copy()
        points = those[:, 5:].reshape(len(those), sought.points, 3)
        for at in (those[:, 0:4].reshape(-1, 2, 2), points):
            at[..., 0] = (at[..., 0] - left) * scale
            at[..., 1] = (at[..., 1] - top) * scale
        those[:, 4] *= scale
        those[:, :4] = np.clip(those[:, :4], 0, SIDE)
        out = (points[..., :2] < 0).any(-1) | (points[..., :2] >= SIDE).any(-1)
        points[..., 2][out] = OUTSIDE
        if random.random() < 0.45:
            picture = anybody * picture + (1 - anybody) * grounds.part(random, SIDE)
        for _ in range(random.integers(1, 4) if random.random() < 0.5 else 0):
            picture = dressed(picture, mask > 0.5, random, grounds)
        for _ in range(random.integers(1, 3) if random.random() < 0.2 else 0):
            picture = covered(picture, points, random, grounds)
        those[:, 5:] = points.reshape(len(those), 3 * sought.points)
        picture = photographed(picture, random, grounds)
        if random.random() < 0.5:
            picture, mask = picture[:, ::-1], mask[:, ::-1]
            low = those[:, 0].copy()
            those[:, 0], those[:, 2] = SIDE - those[:, 2], SIDE - low
            points = those[:, 5:].reshape(-1, sought.points, 3)[:, sought.mirror].copy()
            points[..., 0] = SIDE - points[..., 0]
            those[:, 5:] = points.reshape(len(those), 3 * sought.points)
        # Other colours, lights and contrasts.
        if random.random() < 0.5:
            picture = picture[..., random.permutation(3)]
        gain = random.uniform(0.7, 1.3, 3) if random.random() < 0.5 else np.full(3, random.uniform(0.7, 1.3))
        picture = np.clip((picture - 0.5) * gain.astype(np.float32) + 0.5 + random.uniform(-0.1, 0.1), 0, 1)
        if random.random() < 0.05:
            picture = 1 - picture
        pictures[i] = picture.transpose(2, 0, 1)
        figures[i, :len(those)] = those
        masks[i] = mask
    return torch.from_numpy(pictures), torch.from_numpy(figures), torch.from_numpy(masks)


def targets(figures, masks, sought):
    """Heat maps, direction fields and mask at a quarter of the size, and weights of the fields."""
    cells = SIDE // STRIDE
    grid = (torch.arange(cells, dtype=torch.float32) + 0.5) * STRIDE
    points = figures[..., 5:].reshape(*figures.shape[:2], sought.points, 3)
    x, y, state = points[..., 0], points[..., 1], points[..., 2].round()
    strength = torch.where(state >= ITSELF, 1.0, torch.where(state == OTHER, 0.5, 0.0))
    spread = 2 * (SIGMA * STRIDE) ** 2
    gx = torch.exp(-(grid - x[..., None]) ** 2 / spread)
    gy = torch.exp(-(grid - y[..., None]) ** 2 / spread) * strength[..., None]
    heat = torch.zeros(len(figures), sought.points, cells, cells)
    for p in range(int((figures[..., 2] > 0).sum(1).max())):
        heat = torch.maximum(heat, gy[:, p, :, :, None] * gx[:, p, :, None, :])
    fields = torch.zeros(len(figures), 2 * len(sought.limbs), cells, cells)
    weight = torch.zeros(len(figures), len(sought.limbs), cells, cells)
    first, last = torch.tensor([f for f, _ in sought.limbs]), torch.tensor([t for _, t in sought.limbs])
    across = torch.arange(cells, dtype=torch.float32) + 0.5
    for p in range(int((figures[..., 2] > 0).sum(1).max())):
        there = (state[:, p, first] >= OTHER) & (state[:, p, last] >= OTHER)
        ax, ay = x[:, p, first] / STRIDE, y[:, p, first] / STRIDE
        ux, uy = x[:, p, last] / STRIDE - ax, y[:, p, last] / STRIDE - ay
        length = torch.sqrt(ux ** 2 + uy ** 2)
        which, limb = torch.nonzero(there & (length > 0.3), as_tuple=True)
        if len(which) == 0:
            continue
        ax, ay, length = ax[which, limb], ay[which, limb], length[which, limb]
        ux, uy = ux[which, limb] / length, uy[which, limb] / length
        # As broad as a limb of a figure of that size.
        broad = (figures[which, p, 4] * 0.03 / STRIDE).clamp(min=1.0)
        cx, cy = across[None, None, :] - ax[:, None, None], across[None, :, None] - ay[:, None, None]
        along = cx * ux[:, None, None] + cy * uy[:, None, None]
        aside = (cx * uy[:, None, None] - cy * ux[:, None, None]).abs()
        on = (along > -0.5) & (along < length[:, None, None] + 0.5) & (aside < broad[:, None, None])
        for axis, unit in ((0, ux), (1, uy)):
            before = fields[which, 2 * limb + axis]
            fields[which, 2 * limb + axis] = torch.where(on, unit[:, None, None], before)
        weight[which, limb] = torch.maximum(weight[which, limb], on.float())
    mask = torch.nn.functional.avg_pool2d(masks[:, None], STRIDE)
    return heat, fields, weight.repeat_interleave(2, 1), mask


def loss_of(answer, heat, fields, weight, mask, sought):
    got, direction, seen = answer.split((sought.points, 2 * len(sought.limbs), 1), 1)
    return ((got - heat) ** 2 * (1 + 6 * heat)).mean() * 100 + \
        0.5 * ((direction - fields) ** 2 * (0.1 + weight)).mean() * 100 + 0.2 * ((seen - mask) ** 2).mean() * 5


def score(net, records, sought):
    """Share of seen joints whose own peak near them is the right one: within a tenth of the longer box side."""
    right = all_ = 0
    with torch.no_grad():
        for i in range(0, len(records), 24):
            part = records[i:i + 24]
            pictures = torch.from_numpy(np.stack([r.picture.transpose(2, 0, 1) for r in part])).float() / 255
            heat = net(pictures)[:, :sought.points]
            for r, h in zip(part, heat):
                for figure in sought.figures(r):
                    side = max(figure[2] - figure[0], figure[3] - figure[1])
                    if side < 24:
                        continue
                    l, t, rr, b = (int(max(0, v)) for v in (figure[0] // STRIDE, figure[1] // STRIDE,
                                                            -(-figure[2] // STRIDE), -(-figure[3] // STRIDE)))
                    box = h[:, t:b, l:rr]
                    peak = box.flatten(1).argmax(1)
                    px = (peak % (rr - l) + l + 0.5) * STRIDE
                    py = (torch.div(peak, rr - l, rounding_mode="floor") + t + 0.5) * STRIDE
                    points = figure[5:].reshape(sought.points, 3)
                    for k in range(sought.points):
                        if points[k, 2] < ITSELF:
                            continue
                        all_ += 1
                        right += math.hypot(px[k] - points[k, 0], py[k] - points[k, 1]) < 0.1 * side
    return right / max(1, all_)


def main():
    ask = asked(__doc__, None, 600_000, 24, 2e-3)
    ask.add_argument("--of", choices=SOUGHT, default="people")
    ask.add_argument("--grounds", default="build/learn/grounds", help="pictures without anybody (make_grounds.sh)")
    how = ask.parse_args()
    sought = Sought(*SOUGHT[how.of])
    how.kept = how.kept or f"build/learn/{sought.name}.pt"
    test = Scenes(how.scenes, sought.name, SIDE, SIDE, 2_000_000_000, 144).batch(144, 1, np.random.default_rng(0))
    course = Course(how, Net(sought.outputs, **SHAPE), SHAPE, 5000, test)
    random = np.random.default_rng(course.seen)
    source = Scenes(how.scenes, sought.name, DRAWN, DRAWN, course.drawn)
    grounds = Grounds(how.grounds, random)

    def lesson():
        pictures, figures, masks = arrays(source.batch(how.batch, how.uses, random), random, sought, grounds)
        return pictures.contiguous(memory_format=torch.channels_last), targets(figures, masks, sought)

    lessons = ahead(lesson)

    def step(net):
        pictures, aims = next(lessons)
        return loss_of(net(pictures), *aims, sought)

    def judge(weights):
        net = Net(sought.outputs, **SHAPE)
        net.load_state_dict(weights)
        return f"joints right {score(net.eval(), test, sought):.4f}"

    course.run(source, step, judge, 180)


if __name__ == "__main__":
    main()
