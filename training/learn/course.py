"""What both teachers share: a course that can be stopped at any time and goes on where it was."""
import argparse
import math
import os
import queue
import threading
import time

import numpy as np
import torch

from net import Averaged, begin_from


def asked(description, kept, pictures, batch, rate):
    ask = argparse.ArgumentParser(description=description)
    ask.add_argument("--scenes", default="build/release/bin/scenes", help="the program that draws scenes")
    ask.add_argument("--kept", default=kept, help="where everything is kept")
    ask.add_argument("--pictures", type=int, default=pictures, help="the whole way; the rate falls towards it")
    ask.add_argument("--minutes", type=float, default=1e9, help="of this sitting")
    ask.add_argument("--uses", type=int, default=3, help="how often each scene is learned from")
    ask.add_argument("--batch", type=int, default=batch)
    ask.add_argument("--threads", type=int, default=2)
    ask.add_argument("--rate", type=float, default=rate)
    ask.add_argument("--begin-from", help="an exported network to begin with, where nothing is kept yet")
    return ask


def ahead(make, most=3):
    """What `make()` gives, again and again, made on a thread of its own a little before it is asked for. Its end is the end."""
    ready = queue.Queue(most)

    def fill():
        while True:
            try:
                ready.put(make())
            except EOFError:
                ready.put(None)
                return

    threading.Thread(target=fill, daemon=True).start()
    while (made := ready.get()) is not None:
        yield made


class Course:
    """Weights, their running mean, and how far the course has come; all in one file."""

    def __init__(self, how, net, shape, warm, records):
        """`records`: some scenes, by which an exported network is taken up."""
        torch.set_num_threads(how.threads)
        self.how, self.net, self.shape, self.warm = how, net.to(memory_format=torch.channels_last), shape, warm
        self.best = torch.optim.AdamW(self.net.parameters(), lr=how.rate, weight_decay=1e-4)
        self.averaged, self.seen, self.drawn = Averaged(self.net), 0, 0
        if os.path.exists(how.kept):
            kept = torch.load(how.kept)
            self.net.load_state_dict(kept["net"])
            self.best.load_state_dict(kept["best"])
            self.averaged.values, self.averaged.step = kept["averaged"], kept["step"]
            self.seen, self.drawn = kept["seen"], kept["drawn"]
        elif how.begin_from:
            pictures = np.stack([r.picture.transpose(2, 0, 1) for r in records[:48]])
            begin_from(self.net, how.begin_from, torch.from_numpy(pictures).float() / 255)
            self.averaged = Averaged(self.net)
        os.makedirs(os.path.dirname(how.kept), exist_ok=True)

    def keep(self, read):
        torch.save({"net": self.net.state_dict(), "best": self.best.state_dict(), "averaged": self.averaged.values,
                    "step": self.averaged.step, "shape": self.shape, "seen": self.seen, "drawn": self.drawn + read},
                   self.how.kept + ".new")
        os.replace(self.how.kept + ".new", self.how.kept)

    def run(self, source, step, judge, every):
        """`step(net)` gives the loss of one batch; `judge(weights)` says in words how they do, every so many seconds."""
        began, told, sums, steps = time.time(), time.time(), 0.0, 0
        while self.seen < self.how.pictures and time.time() - began < 60 * self.how.minutes:
            slow = 0.5 * (1 + math.cos(math.pi * self.seen / self.how.pictures))
            for group in self.best.param_groups:
                group["lr"] = self.how.rate * min(1.0, (self.seen + self.how.batch) / self.warm) * (0.02 + 0.98 * slow)
            loss = step(self.net)
            self.best.zero_grad(set_to_none=True)
            loss.backward()
            self.best.step()
            self.averaged.take(self.net)
            self.seen += self.how.batch
            sums, steps = sums + float(loss), steps + 1
            if time.time() - told > every:
                rate = steps * self.how.batch / (time.time() - told)
                print(f"{self.seen} pictures, {rate:.0f} a second, loss {sums / steps:.4f}, {judge(self.averaged.values)}", flush=True)
                self.keep(source.read)
                told, sums, steps = time.time(), 0.0, 0
        self.keep(source.read)
        source.close()
