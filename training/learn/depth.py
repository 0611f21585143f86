"""Teaches a network to guess depth: L1, the order of pairs of places, and gradients at several scales.

Can be stopped at any time and goes on where it was: everything is in one file.
"""
import argparse
import math
import os
import time

import numpy as np
import torch
from torch.nn.functional import avg_pool2d

from net import Averaged, Net
from scenes import Scenes

WIDTH, HEIGHT, STRIDE = 160, 128, 2
SHAPE = {"stem": (16,), "widths": (32, 56, 88, 112), "context": True}


def arrays(records, random):
    """Pictures (B x 3 x H x W, 0 to 1) and nearness (B x 1 x H/2 x W/2, 0 to 1, its root); half of them mirrored."""
    pictures = np.empty((len(records), 3, HEIGHT, WIDTH), np.float32)
    nears = np.empty((len(records), 1, HEIGHT, WIDTH), np.float32)
    for i, r in enumerate(records):
        picture, near = r.picture.astype(np.float32) / 255, r.near
        if random.random() < 0.5:
            picture, near = picture[:, ::-1], near[:, ::-1]
        if random.random() < 0.4:
            picture = picture[..., random.permutation(3)]
        gain = random.uniform(0.7, 1.3, 3) if random.random() < 0.4 else np.full(3, random.uniform(0.7, 1.3))
        pictures[i] = np.clip((picture - 0.5) * gain.astype(np.float32) + 0.5 + random.uniform(-0.1, 0.1), 0, 1).transpose(2, 0, 1)
        low, high = np.percentile(near, (1, 98.5))
        nears[i, 0] = np.sqrt(np.clip((near - low) / max(high - low, 1e-6), 0, 1))
    return torch.from_numpy(pictures), avg_pool2d(torch.from_numpy(nears), STRIDE)


def loss_of(got, near, random):
    loss = (got - near).abs().mean()
    # The order of pairs, where it can be told.
    cells = near.shape[2] * near.shape[3]
    a, b = (torch.from_numpy(random.integers(cells, size=600)) for _ in range(2))
    want = near.flatten(1)[:, a] - near.flatten(1)[:, b]
    is_ = got.flatten(1)[:, a] - got.flatten(1)[:, b]
    told = (want.abs() > 0.04).float()
    loss = loss + 0.25 * (torch.nn.functional.softplus(-12 * is_ * want.sign()) * told).sum() / told.sum().clamp(min=1)
    off = got - near
    for _ in range(3):
        loss = loss + 0.5 * ((off[..., 1:] - off[..., :-1]).abs().mean() + (off[..., 1:, :] - off[..., :-1, :]).abs().mean())
        off = avg_pool2d(off, 2)
    return loss


def order(net, records, random):
    """Share of pairs in the right order."""
    right = all_ = 0
    pictures, nears = arrays(records, np.random.default_rng(1))
    with torch.no_grad():
        got = net(pictures).flatten(1)
    near = nears.flatten(1)
    for _ in range(8):
        a, b = (torch.from_numpy(random.integers(near.shape[1], size=2000)) for _ in range(2))
        want, is_ = near[:, a] - near[:, b], got[:, a] - got[:, b]
        told = want.abs() > 0.04
        right += int(((want * is_ > 0) & told).sum())
        all_ += int(told.sum())
    return right / max(1, all_)


def main():
    ask = argparse.ArgumentParser(description=__doc__)
    ask.add_argument("--scenes", default="build/release/bin/scenes", help="the program that draws scenes")
    ask.add_argument("--kept", default="build/learn/depth.pt", help="where everything is kept")
    ask.add_argument("--pictures", type=int, default=60_000, help="the whole way; the rate falls towards it")
    ask.add_argument("--minutes", type=float, default=1e9, help="of this sitting")
    ask.add_argument("--uses", type=int, default=2, help="how often each scene is learned from")
    ask.add_argument("--batch", type=int, default=16)
    ask.add_argument("--threads", type=int, default=2)
    ask.add_argument("--rate", type=float, default=2.5e-3)
    how = ask.parse_args()
    torch.set_num_threads(how.threads)
    net = Net(1, **SHAPE).to(memory_format=torch.channels_last)
    best = torch.optim.AdamW(net.parameters(), lr=how.rate, weight_decay=1e-4)
    averaged, seen, drawn = Averaged(net), 0, 0
    if os.path.exists(how.kept):
        kept = torch.load(how.kept)
        net.load_state_dict(kept["net"])
        best.load_state_dict(kept["best"])
        averaged.values, averaged.step = kept["averaged"], kept["step"]
        seen, drawn = kept["seen"], kept["drawn"]
    os.makedirs(os.path.dirname(how.kept), exist_ok=True)
    random = np.random.default_rng(seen)
    test = Scenes(how.scenes, "depth", HEIGHT, WIDTH, 2_000_000_000, 160).batch(160, 1, random)
    source = Scenes(how.scenes, "depth", HEIGHT, WIDTH, 500_000_000 + drawn)
    began, told, sums, steps = time.time(), time.time(), 0.0, 0

    def keep():
        torch.save({"net": net.state_dict(), "best": best.state_dict(), "averaged": averaged.values, "step": averaged.step,
                    "shape": SHAPE, "seen": seen, "drawn": drawn + source.read}, how.kept + ".new")
        os.replace(how.kept + ".new", how.kept)

    while seen < how.pictures and time.time() - began < 60 * how.minutes:
        for group in best.param_groups:
            warm = min(1.0, (seen + how.batch) / 2000)
            group["lr"] = how.rate * warm * (0.02 + 0.98 * 0.5 * (1 + math.cos(math.pi * seen / how.pictures)))
        pictures, near = arrays(source.batch(how.batch, how.uses, random), random)
        loss = loss_of(net(pictures.contiguous(memory_format=torch.channels_last)), near, random)
        best.zero_grad(set_to_none=True)
        loss.backward()
        best.step()
        averaged.take(net)
        seen += how.batch
        sums, steps = sums + float(loss), steps + 1
        if time.time() - told > 60:
            judge = Net(1, **SHAPE)
            judge.load_state_dict(averaged.values)
            print(f"{seen} pictures, {steps * how.batch / (time.time() - told):.0f} a second, loss {sums / steps:.4f}, "
                  f"pairs in order {order(judge.eval(), test, random):.4f}", flush=True)
            keep()
            told, sums, steps = time.time(), 0.0, 0
    keep()
    source.close()


if __name__ == "__main__":
    main()
