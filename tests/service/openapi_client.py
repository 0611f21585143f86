#!/usr/bin/env python3
"""A client made from the document alone: openapi_client.py DOCUMENT BASE JOB_FOLDER OUT.png

Asks every operation that the document has, and checks each answer against what it promises: status, type of content,
schema (JSON Schema 2020-12, as OpenAPI 3.1 has it). Prints one line an operation; ends with 1 at the first that is wrong.
"""
import json
import pathlib
import sys
import urllib.error
import urllib.request
import uuid

import jsonschema
import yaml

document = yaml.safe_load(pathlib.Path(sys.argv[1]).read_text())
base, folder, out = sys.argv[2], pathlib.Path(sys.argv[3]), pathlib.Path(sys.argv[4])
for name, schema in document["components"]["schemas"].items():
    jsonschema.Draft202012Validator.check_schema(schema)


def found(reference):
    at = document
    for key in reference.removeprefix("#/").split("/"):
        at = at[key]
    return at


def resolved(value):
    return found(value["$ref"]) if "$ref" in value else value


def operation(wanted):
    for path, methods in document["paths"].items():
        for method, about in methods.items():
            if isinstance(about, dict) and about.get("operationId") == wanted:
                return path, method.upper(), about
    sys.exit(f"there is no operation {wanted}")


def ask(wanted, status, headers=None, body=None, **places):
    path, method, about = operation(wanted)
    for key, value in places.items():
        path = path.replace("{" + key + "}", str(value))
    request = urllib.request.Request(base + path, method=method, headers=headers or {}, data=body)
    try:
        answer = urllib.request.urlopen(request, timeout=60)
    except urllib.error.HTTPError as error:
        answer = error
    content, kind = answer.read(), (answer.headers.get("Content-Type") or "").split(";")[0]
    promised = about["responses"].get(str(answer.status))
    if answer.status != status or promised is None:
        sys.exit(f"{wanted}: {answer.status} where {status} was to come: {content[:300]!r}")
    promised = resolved(promised).get("content")
    if promised is None:
        assert not content, f"{wanted}: content where none is promised"
        print(wanted, answer.status)
        return None
    assert kind in promised, f"{wanted}: {kind} is not promised"
    if kind.endswith("json"):
        value = json.loads(content)
        schema = resolved(promised[kind]["schema"])
        jsonschema.validate(value, schema, cls=jsonschema.Draft202012Validator)
        content = value
    print(wanted, answer.status)
    return content


def multipart(files):
    mark = uuid.uuid4().hex
    parts = b""
    for name, data in files.items():
        parts += (f'--{mark}\r\nContent-Disposition: form-data; name="{name}"; filename="{name}"\r\n'
                  f"Content-Type: application/octet-stream\r\n\r\n").encode() + data + b"\r\n"
    return parts + f"--{mark}--\r\n".encode(), {"Content-Type": f"multipart/form-data; boundary={mark}"}


ask("health", 200)
engine = ask("engine", 200)
assert "edges" in engine["kinds"]
files = {path.name: path.read_bytes() for path in folder.iterdir()}
body, headers = multipart(files)
key = {"Idempotency-Key": uuid.uuid4().hex}
job = ask("addJob", 202, headers | key, body)["id"]
assert ask("addJob", 202, headers | key, body)["id"] == job, "the same job was taken twice"
stream = ask("jobEvents", 200, id=job).decode()
events = [dict(line.split(": ", 1) for line in text.splitlines()) for text in stream.strip().split("\n\n")
          if not text.startswith(":")]
assert [event["event"] for event in events].count("proof") == 1 and events[-1]["event"] == "proof"
ids = [int(event["id"]) for event in events]
assert ids == sorted(set(ids)), "ids do not count up"
rest = ask("jobEvents", 200, {"Last-Event-ID": str(ids[-2])}, id=job).decode()
assert rest.count("event: ") == 1, "what was heard is told again"
assert ask("job", 200, id=job)["state"] == "done"
out.write_bytes(ask("jobProof", 200, id=job, number=1))
ask("cancelJob", 204, id=job)
ask("job", 404, id="nobody-1")
ask("addJob", 415, body=b"no job")
broken, kind = multipart({"recipe.json": b"{"})
ask("addJob", 422, kind, broken)
other, kind = multipart(files | {"recipe.json": files["recipe.json"].replace(b'"seed": ', b'"seed": 1')})
ask("addJob", 422, kind | key, other)
