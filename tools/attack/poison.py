"""Files that nobody honest would bring: each is taken or refused, with a reason, in good time."""

import io
import json
import random
import struct
import time
import zipfile
import zlib
from collections.abc import Iterator

from starlette.testclient import TestClient

from fairline.demo.jobs import bindery
from tools.attack.tally import Tally

SLOWEST_S = 20.0  # of any one file, on the slowest machine


def job_files(many: int) -> Iterator[tuple[str, bytes]]:
    whole = json.loads(bindery().model_dump_json())

    def with_(**more: object) -> bytes:
        return json.dumps(whole | {"uid": f"poison-{len(more)}-{id(more)}"} | more).encode()

    run = {"uid": "r1", "kind": "pull", "started_at": "2026-03-04T08:00:00Z"}
    readings = [{"seq": n, "t_s": float(n), "pa": 100.0} for n in range(many)]
    yield f"{many} readings", with_(runs=[run | {"readings": readings}])
    yield "5 000 runs", with_(runs=[run | {"uid": f"r{n}"} for n in range(5000)])
    record = {
        "kind": "leak-check",
        "joint": "A.gas.end",
        "found": "clean",
        "by": "I",
        "at": "2026-03-04T17:40:00Z",
    }
    yield "50 000 records", with_(records=[record] * 50_000)
    for at in ("0001-01-01T00:00:00", "9999-12-31T23:59:59Z", "1e400", ""):
        yield f"moment {at}", with_(records=[record | {"at": at}])
    tiny = [{"seq": n, "t_s": t, "gauge_pa": 2e6, "pipe_c": 20.0} for n, t in ((0, 0), (1, 5e-324))]
    yield "t = 5e-324", with_(runs=[run | {"kind": "hold", "readings": tiny}])
    yield "a field of tomorrow", with_(weather={"rain": True})
    yield "a version of tomorrow", with_(format_version=9)
    yield "text in a number", with_(route={"runs": {"A": {"built_m": "3.8"}}})
    legs = [{"direction": "up", "length_m": 1000.0}] * 60
    yield "60 km of tube", with_(route={"runs": {z: {"legs": legs} for z in "ABCDEFGHIJ"}})
    loops = {"A": {"fed_from": "tee1"}, "tee1": {"fed_from": "tee2"}, "tee2": {"fed_from": "tee1"}}
    yield "tees that feed each other", with_(route={"runs": loops})
    deep: object = 1
    for _ in range(900):
        deep = {"a": deep}
    yield "900 deep", with_(survey=deep)
    yield "100 000 open brackets", b"[" * 100_000
    yield "five thousand digits", b'{"format_version": ' + b"9" * 5000 + b"}"
    yield "half a file", with_()[:5000]
    yield "UTF-16", with_().decode().encode("utf-16")
    yield "latin-1", '{"head": {"name": "Größe"}}'.encode("latin-1")
    yield "nothing but a mark", b"\xef\xbb\xbf"


def archives(count: int) -> Iterator[tuple[str, bytes]]:
    whole = bindery().model_dump_json().encode()
    readings = [{"seq": n, "t_s": n * 1.0, "pa": 100.0} for n in range(count)]
    run = {"uid": "r1", "kind": "pull", "started_at": "2026-03-04T08:00:00Z"}
    many = json.dumps(json.loads(whole) | {"runs": [run | {"readings": readings}]}).encode()
    yield f"ZIP of {count} readings", _zip({"job.json": many})
    yield "ZIP bomb", _zip({"job.json": whole, "pictures/x.jpg": b"\0" * 100_000_000})
    yield "ZIP of 5 000 files", _zip({f"f{n}": b"" for n in range(5000)} | {"job.json": whole})
    yield "broken ZIP", _zip({"job.json": whole})[:400]
    yield "ZIP without a job", _zip({"readme.txt": b"x"})
    lying = bytearray(_zip({"job.json": whole}))
    at = lying.rfind(b"PK\x01\x02")
    lying[at + 24 : at + 28] = struct.pack("<I", 10)  # the directory says ten bytes
    yield "ZIP that lies of its size", bytes(lying)
    for n in range(60):
        yield f"ZIP with a wrong byte, {n}", _hurt(_zip({"job.json": whole}), n)
    yield "picture that is none", _zip({"job.json": whole, "pictures/x.jpg": b"GIF89a"})


def _hurt(content: bytes, seed: int) -> bytes:
    """A file of its whole length with some bits turned."""
    chance, hurt = random.Random(seed), bytearray(content)
    for _ in range(chance.randint(1, 4)):
        hurt[chance.randrange(len(hurt))] ^= 1 << chance.randrange(8)
    return bytes(hurt)


def _zip(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, content in files.items():
            packed.writestr(name, content)
    return out.getvalue()


def logs() -> Iterator[tuple[str, bytes]]:
    yield "log without lines", b"t_s,micron\n"
    yield "log with a huge header", b"t_s,micron," + b"x" * 3_000_000 + b"\n0,500\n"
    yield "log of 100 000 columns", b"t_s," + b"a," * 100_000 + b"micron\n0,1\n"
    yield "log of 400 000 rows", b"t_s,micron\n" + b"".join(b"%d,500\n" % n for n in range(400_000))
    yield "log of years 1 and 9999", b"time,micron\n0001-01-01T00:00:00,5\n9999-12-31T00:00:00,6\n"
    yield "log of indices", b"t_s,micron,seq\n0,5,-1\n1,6," + b"9" * 5000 + b"\n"
    yield "log of no numbers", b"t_s,micron\n0,NaN\n1,inf\n2,-1e999\n"
    yield "log in UTF-16", "t_s,micron\n0,500\n".encode("utf-16")
    yield "log with nuls", b"t_s,micron\n0,\x00500\n"
    yield "log of one line of 8 MB", b"t_s,micron\n" + b"1" * 8_000_000
    yield "log with open quotes", b't_s,micron\n0,"500\n1,400\n'


def sheets() -> Iterator[tuple[str, bytes]]:
    yield "sheets with semicolons", b"kind;maker;model\nhead;K;M1\n"
    yield "sheets with formulas", b"kind,maker,model\nhead,=cmd(),+1\n"
    yield "sheets of an index", b"kind,maker,model,ports.-1.liquid_od_m\noutdoor,K,M2,0.006\n"
    digits = b"9" * 5000
    yield "sheets of 5 000 digits", b"kind,maker,model,ports." + digits + b".x\noutdoor,K,M,1\n"
    deep = json.loads("[" * 400 + "]" * 400)
    yield "sheets 400 deep", json.dumps({"sheets": [{"a": deep}]}).encode()
    yield "sheets of tomorrow", b'{"format": "fairline-sheets", "format_version": 7, "sheets": []}'


def pictures() -> Iterator[tuple[str, bytes]]:
    yield "picture of 4 gigapixels", _png(65_000, 65_000)
    yield "picture of 59 megapixels", _png(7700, 7700)
    yield "half a picture", _png(100, 100)[:60]
    yield "text as a picture", b"hello"


def _png(width: int, height: int) -> bytes:
    """A PNG whose header says its size, and which holds a single line."""

    def chunk(kind: bytes, content: bytes) -> bytes:
        check = struct.pack(">I", zlib.crc32(kind + content))
        return struct.pack(">I", len(content)) + kind + content + check

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    line = zlib.compress(b"\0" * (width + 1))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", line) + chunk(b"IEND", b"")


def poison(client: TestClient, job: int = 1, many: int = 400_000) -> Tally:
    """Bring every file to the door that it is for."""
    tally = Tally("poisoned files")
    slowest = (0.0, "")
    doors = (
        (job_files(many), "/jobs/import", {}),
        (job_files(many), "/api/jobs", None),
        (archives(many), "/jobs/import", {"as_copy": "yes"}),
        (logs(), f"/jobs/{job}/runs/pull/file", {}),
        (sheets(), "/shelf/import", {}),
        (sheets(), "/api/sheets", None),
        (pictures(), f"/jobs/{job}/pictures", {"thing": "nameplate:outdoor"}),
    )
    for files, door, data in doors:
        for name, content in files:
            begin = time.perf_counter()
            if data is None:
                answer = client.post(door, content=content)
            else:
                answer = client.post(door, data=data, files={"file": ("file", content)})
            took = time.perf_counter() - begin
            slowest = max(slowest, (took, name))
            tally.answered(f"{name} to {door}", answer.status_code)
            if took > SLOWEST_S:
                tally.failures.append(f"{name} to {door}: {took:.0f} s")
    for path in ("/", "/api/jobs", "/shelf", f"/jobs/{job}/evacuate"):
        tally.answered(f"GET {path} afterwards", client.get(path).status_code)
    tally.seen = f"slowest {slowest[0]:.1f} s: {slowest[1]}"
    return tally
