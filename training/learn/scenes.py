"""Scenes for learning as they come from the program `scenes`, several uses each, on a thread of their own."""
import queue
import subprocess
import threading

import numpy as np

PEOPLE, ANIMALS, HUMAN, ANIMAL = 10, 3, 18, 28


class Record:
    """One scene: picture (H x W x 3 bytes), near (H x W), figure (H x W bytes), people (n x (5 + 3 x points))."""

    def __init__(self, raw, height, width):
        at = 0

        def take(kind, *shape):
            nonlocal at
            count = int(np.prod(shape)) if shape else 1
            out = np.frombuffer(raw, kind, count, at)
            at += out.nbytes
            return out.reshape(shape)

        self.picture = take(np.uint8, height, width, 3)
        self.near = take(np.float32, height, width)
        self.figure = take(np.uint8, height, width)
        count = int(take(np.int32)[()])
        self.people = take(np.float32, PEOPLE, 5 + 3 * HUMAN)[:count]
        count = int(take(np.int32)[()])
        self.animals = take(np.float32, ANIMALS, 5 + 3 * ANIMAL)[:count]


def record_bytes(height, width):
    pixels = height * width
    return pixels * (3 + 4 + 1) + 2 * 4 + 4 * (PEOPLE * (5 + 3 * HUMAN) + ANIMALS * (5 + 3 * ANIMAL))


class Scenes:
    """Endless; begins at seed `first`. What was read last is kept, and a scene may be used again later."""

    def __init__(self, program, use, height, width, first, count=0, kept=2000):
        self.size = (height, width)
        self.process = subprocess.Popen(
            [program, "--stream", "--use", use, "--width", str(width), "--height", str(height),
             "--first", str(first), "--count", str(count)], stdout=subprocess.PIPE)
        self.fresh = queue.Queue(64)
        self.kept = []
        self.most = kept
        self.read = 0
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self):
        length = record_bytes(*self.size)
        while True:
            raw = self.process.stdout.read(length)
            if len(raw) < length:
                self.fresh.put(None)
                return
            self.fresh.put(Record(raw, *self.size))

    def batch(self, size, uses, random):
        """`size` scenes, of which about one in `uses` is new."""
        out = []
        for _ in range(size):
            if len(self.kept) < size or random.random() < 1 / uses:
                record = self.fresh.get()
                if record is None:
                    raise EOFError("no more scenes")
                self.read += 1
                if len(self.kept) < self.most:
                    self.kept.append(record)
                else:
                    self.kept[random.integers(self.most)] = record
                out.append(record)
            else:
                out.append(self.kept[random.integers(len(self.kept))])
        return out

    def close(self):
        self.process.terminate()
