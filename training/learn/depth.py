"""Teaches a network to guess depth: L1, the order of pairs of places, and gradients at several scales.

Can be stopped at any time and goes on where it was: everything is in one file.
"""
import numpy as np
import torch
from torch.nn.functional import avg_pool2d

from course import Course, asked
from net import Net
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
    how = asked(__doc__, "build/learn/depth.pt", 60_000, 16, 2.5e-3).parse_args()
    test = Scenes(how.scenes, "depth", HEIGHT, WIDTH, 2_000_000_000, 160).batch(160, 1, np.random.default_rng(0))
    course = Course(how, Net(1, **SHAPE), SHAPE, 2000, test)
    random = np.random.default_rng(course.seen)
    source = Scenes(how.scenes, "depth", HEIGHT, WIDTH, 500_000_000 + course.drawn)

    def step(net):
        pictures, near = arrays(source.batch(how.batch, how.uses, random), random)
        return loss_of(net(pictures.contiguous(memory_format=torch.channels_last)), near, random)

    def judge(weights):
        net = Net(1, **SHAPE)
        net.load_state_dict(weights)
        return f"pairs in order {order(net.eval(), test, random):.4f}"

    course.run(source, step, judge, 60)


if __name__ == "__main__":
    main()
