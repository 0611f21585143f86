#!/usr/bin/env python3
"""Kills commands at random moments and looks at what they leave: studies open and are as before or as after, outputs are
there whole or not at all, nothing lies about once the next command has run, and the command can simply be given again.

usage: tests/reliability/kills.py BIN COUNT [SEED]      BIN: the folder of hscaffold, as build/release/bin
"""
import collections
import json
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time

BIN, COUNT = os.path.abspath(sys.argv[1]), int(sys.argv[2])
dice = random.Random(int(sys.argv[3]) if len(sys.argv) > 3 else 1)
PROGRAM = os.path.join(BIN, "hscaffold")
SIZE = "192x128"


def run(*words, timeout=120):
    return subprocess.run([PROGRAM, *words], capture_output=True, timeout=timeout)


def must(*words):
    done = run(*words)
    if done.returncode != 0:
        raise RuntimeError(f"{words}: {done.stderr.decode(errors='replace')}")
    return done.stdout


def info(study):
    """What a study says of itself, and all that lies in it."""
    done = run("study", "info", study, "--json")
    if done.returncode != 0:
        return None, done.stderr.decode(errors="replace")
    said = json.loads(done.stdout)
    with sqlite3.connect(f"file:{study}?mode=ro", uri=True) as base:
        settings = base.execute("SELECT json FROM settings").fetchone()[0]
        proofs = base.execute("SELECT count(*), coalesce(sum(length(png)), 0) FROM proofs").fetchone()
        whole = base.execute("PRAGMA integrity_check").fetchone()[0]
        names = json.loads(settings)
        missing = [r["id"] for r in names.get("references", [])
                   if not base.execute("SELECT 1 FROM reference_files WHERE id = ?", (r.get("content") or r["id"],)).fetchone()]
    if whole != "ok" or missing or done.stderr:
        return None, f"{whole} {missing} {done.stderr.decode(errors='replace')}"
    return (settings, proofs, len(said.get("guides", []))), ""


def prepare(folder):
    """What commands begin with; made once."""
    at = lambda name: os.path.join(folder, name)
    must("study", "new", at("pose-source.scaffold"), "--size", SIZE)
    must("pose", "make", "--pose", "Walking@20,10,60,110", "--size", SIZE, "-o", at("figure.json"))
    must("stage", "new", at("scene.json"), "--set", "pier")
    must("stage", "render", at("scene.json"), "--map", "picture", "--size", SIZE, "-o", at("a.png"))
    must("stage", "render", at("scene.json"), "--map", "tone", "--size", SIZE, "-o", at("b.png"))
    must("study", "new", at("s.scaffold"), "--size", SIZE, "--reference", at("a.png"), "--guide", "edges=0.8",
         "--guide", "tone@1=0.3", "--prompt", "a pier, gouache")
    must("pull", at("s.scaffold"), "-o", at("first"), "--keep")
    must("final", at("s.scaffold"), "--times", "1.5")
    shutil.rmtree(at("first"))


# Words of a command; {s}: a study, {f}: the folder. What it changes: the study, or a file or folder of its own.
COMMANDS = {
    "study set": ("study set {s} --title Other --prompt a-boat", "study"),
    "study retouch": ("study retouch {s} --guide Edges --drop 10,10*90,10*90,90 --region 5,5*180,10*90,120", "study"),
    "study pose": ("study pose {s} --figures {f}/figure.json", "study"),
    "pull": ("pull {s} -o {f}/out", "files"),
    "pull --keep": ("pull {s} -o {f}/out --keep --count 2", "study"),
    "pull --strip --keep": ("pull {s} -o {f}/out --keep --longest 96 --strip weight:Edges=0.2..1/4", "study"),
    "final": ("final {s} --times 2", "study"),
    "touch-up": ("touch-up {s} --box 20,20,90,90 --tries 2", "study"),
    "study new": ("study new {f}/out.scaffold --size 192x128 --reference {f}/a.png --reference {f}/b.png --guide edges", "new"),
    "study repair": ("study repair {s} {f}/out.scaffold", "new"),
    "map": ("map lines {f}/a.png -o {f}/b.png", "over"),
    "stage render": ("stage render {f}/scene.json --map depth --size 768x512 -o {f}/b.png", "over"),
    "sheet export": ("study export {s} -o {f}/out", "files"),
    "batch": ("batch run {f}/batch --jobs 2 --patience 2", "batch"),
}


def pictures_are_whole(folder):
    for path, _, files in os.walk(folder):
        for name in files:
            if name.startswith("."):
                continue
            full = os.path.join(path, name)
            if name.endswith(".png"):
                with open(full, "rb") as file:
                    if not file.read().endswith(b"IEND\xaeB`\x82"):
                        return f"{name} is cut off"
            elif name.endswith(".json"):
                with open(full) as file:
                    json.load(file)
    return ""


def left_over(folder):
    return [n for path, _, files in os.walk(folder) for n in files
            if n.startswith(".hscaffold") or n.endswith((".new", "-journal", ".aside"))]


def trial(name, base, lengths, measures=False):
    words, changes = COMMANDS[name]
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(base, folder, dirs_exist_ok=True)
        study = os.path.join(folder, "s.scaffold")
        if changes == "batch":
            must("batch", "plan", study, "--references", folder + "/a.png", folder + "/b.png", folder + "/a.png", "-o", folder + "/batch")
        asked = [w.replace("*", " ") for w in words.format(s=study, f=folder).split(" ")]
        before, _ = info(study)
        with open(folder + "/b.png", "rb") as file:
            picture = file.read()
        begun = time.monotonic()
        process = subprocess.Popen([PROGRAM, *asked], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        if measures:
            process.wait()
            lengths[name] = min(lengths[name], time.monotonic() - begun)
            return "whole", ""
        time.sleep(dice.uniform(0, lengths[name]))
        killed = process.poll() is None
        process.send_signal(signal.SIGKILL)
        process.wait()
        after, why = info(study)
        if after is None:
            return "LOST", f"the study does not open: {why}"
        if after[1][0] < before[1][0] or (changes != "study" and after != before):
            return "LOST", "the study is less than it was"
        if changes == "over":
            with open(folder + "/b.png", "rb") as file:
                now = file.read()
            if now != picture and not now.endswith(b"IEND\xaeB`\x82"):
                return "LOST", "the file is neither the old nor the new one"
        if changes == "new" and os.path.exists(folder + "/out.scaffold") and info(folder + "/out.scaffold")[0] is None:
            return "LOST", "half a study"
        broken = pictures_are_whole(folder)
        if broken:
            return "LOST", broken
        # Again, to the end.
        if killed:
            again = [*asked, "--force"] if asked[0] == "pull" else asked
            done = run(*again)
            there = changes == "new" and b"there already" in done.stderr
            if done.returncode != 0 and not there:
                return "LOST", f"not again: {done.stderr.decode(errors='replace')}"
            if info(study)[0] is None:
                return "LOST", "the study does not open after the second time"
            if left_over(folder):
                return "LITTER", str(left_over(folder))
        return ("killed" if killed else "ended"), ""


def main():
    counts = collections.defaultdict(collections.Counter)
    with tempfile.TemporaryDirectory() as base:
        prepare(base)
        lengths = dict.fromkeys(COMMANDS, 60.0)
        for name in [*COMMANDS, *COMMANDS]:
            trial(name, base, lengths, measures=True)
        names = list(COMMANDS)
        for i in range(COUNT):
            name = names[i % len(names)]
            what, why = trial(name, base, lengths)
            counts[name][what] += 1
            if why:
                print(f"{name}: {what}: {why}", flush=True)
            if (i + 1) % 100 == 0:
                print(f"{i + 1} of {COUNT}", flush=True)
    for name, each in counts.items():
        print(f"{name}: " + ", ".join(f"{what} {number}" for what, number in sorted(each.items())))
    total = sum(counts.values(), collections.Counter())
    print("all: " + ", ".join(f"{what} {number}" for what, number in sorted(total.items())))
    return 1 if total["LOST"] else 0


if __name__ == "__main__":
    sys.exit(main())
