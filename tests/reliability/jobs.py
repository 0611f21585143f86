#!/usr/bin/env python3
"""Ten thousand jobs for the service: jobs.py BIN [COUNT]

Starts BIN/hscaffold-engine, gives it small jobs from six clients at once, takes every picture and looks whether it is
the one that was asked for. Says how fast that was and what memory the service had; ends with 1 if a job was lost, was
another's, or memory did not stay.
"""
import http.client
import json
import pathlib
import subprocess
import sys
import threading
import time
import uuid

binaries, count = pathlib.Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 10_000
clients = 6


def recipe(seed):
    return {
        "recipe": 8, "engine": "stand-in 19", "frame": {"width": 64, "height": 64}, "guides": [], "references": [],
        "brief": {"prompt": "a tea house over a tidal flat", "avoid": "", "seed": seed, "steps": 4, "guidance": 6.5},
    }


def memory(process):
    for line in pathlib.Path(f"/proc/{process.pid}/status").read_text().splitlines():
        if line.startswith("VmRSS:"):
            return int(line.split()[1]) / 1024
    return 0.0


def ask(connection, method, path, body=None, headers=None):
    connection.request(method, path, body, headers or {})
    answer = connection.getresponse()
    return answer.status, answer.read()


def job(connection, seed):
    """What is wrong with the answer to one job; empty if nothing is."""
    mark = uuid.uuid4().hex
    body = (f'--{mark}\r\nContent-Disposition: form-data; name="recipe.json"; filename="recipe.json"\r\n'
            f'Content-Type: application/json\r\n\r\n{json.dumps(recipe(seed))}\r\n--{mark}--\r\n')
    status, answer = ask(connection, "POST", "/v1/jobs", body, {"Content-Type": f"multipart/form-data; boundary={mark}"})
    if status != 202:
        return f"{status} {answer[:200]!r}"
    taken = json.loads(answer)
    while True:
        status, answer = ask(connection, "GET", f"/v1/jobs/{taken['id']}")
        state = json.loads(answer)["state"] if status == 200 else f"{status} {answer[:200]!r}"
        if state not in ("waiting", "running"):
            break
        time.sleep(0.004)
    if state != "done":
        return state
    status, png = ask(connection, "GET", f"/v1/jobs/{taken['id']}/proofs/1")
    if status != 200 or not png.startswith(b"\x89PNG") or int.from_bytes(png[16:20], "big") != 64:
        return f"no picture: {status}"
    # Its recipe is in its texts, as it came.
    return "" if f'"seed":{seed}'.encode() in png.replace(b" ", b"") else "the picture of another job"


def main():
    service = subprocess.Popen([binaries / "hscaffold-engine", "--port", "0", "--keep", "5", "--nice", "0"],
                               stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    address = service.stdout.readline().strip().split()[-1]
    threading.Thread(target=service.stdout.read, daemon=True).start()
    host, port = address.removeprefix("http://").rstrip("/.").split(":")
    lock, wrong, done, sizes = threading.Lock(), [], [0], []

    def client(number):
        connection = http.client.HTTPConnection(host, int(port), timeout=60)
        for seed in range(number, count, clients):
            said = job(connection, seed)
            with lock:
                done[0] += 1
                if said:
                    wrong.append(f"job {seed}: {said}")
                if done[0] % max(1, count // 100) == 0:
                    sizes.append(memory(service))

    begun = time.time()
    threads = [threading.Thread(target=client, args=(n,)) for n in range(clients)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    took = time.time() - begun
    alive = service.poll() is None
    service.terminate()
    service.wait()
    third = len(sizes) // 3
    middle, late = max(sizes[third:2 * third], default=0), max(sizes[2 * third:], default=0)
    print(f"{done[0]} jobs in {took:.0f} s, {done[0] / took:.0f} a second; wrong: {len(wrong)}; memory {sizes[0]:.0f} MiB "
          f"at first, at most {middle:.0f} in the second third, {late:.0f} in the last")
    for said in wrong[:10]:
        print(said)
    return 0 if alive and not wrong and late < 1.05 * middle else 1


if __name__ == "__main__":
    sys.exit(main())
