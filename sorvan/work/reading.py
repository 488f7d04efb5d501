"""The reader's process: what comes from outside is read here, where it can harm nothing.

It takes orders from standard input and answers on standard output, each a length of four bytes and that much
MessagePack; behind an order come the files that it is about, as long as it says, or the order says where they lie and
they are read there. The answers say first how far it is, as often as it comes on, then what it found, or why there is
nothing. It may use so much memory and so much time without coming on; past that the system ends it, whatever it is
doing. It also ends as soon as whoever started it goes, or says anything while it works.
"""

from __future__ import annotations

import contextlib
import ctypes
import fcntl
import gc
import os
import resource
import signal
import sys
import time
import traceback
from collections.abc import Callable
from dataclasses import asdict
from importlib import import_module
from pathlib import Path
from typing import Any, BinaryIO

import msgspec

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import DOCUMENT, Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.interchange import limits
from sorvan.interchange.bringing import brought
from sorvan.interchange.files import parts_in
from sorvan.interchange.imported import Progress

SELDOM = {
    "sound": "sorvan.interchange.sounds",
    "archive": "sorvan.interchange.archive",
    "chart": "sorvan.interchange.charts",
    "timeline": "sorvan.interchange.timelines",
    "reference": "sorvan.interchange.films",
}
"""What is loaded when it is asked for, by job or purpose: each reader would hold it in memory, and most read art only."""
Tell = Callable[[dict[str, Any]], None]
_encode = msgspec.msgpack.Encoder().encode
_decode = msgspec.msgpack.Decoder().decode


def read_art(order: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Art as the command that brings it in, and the assets that the command needs."""
    found = brought(
        list(zip(order["names"], order["files"], strict=True)),
        Production.model_validate_json(order["production"]),
        Puppet.model_validate_json(order["puppet"]),
        order["purpose"],
        order["target"],
        order["loose"],
        progress,
        order.get("chosen"),
    )
    command = found.command.model_dump_json().encode() if found.command else None
    return vars(found) | {"command": command}


def read_the_parts(order: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The parts of a drawing with their looks, and the pieces that are proposed."""
    return asdict(parts_in(order["files"][0], order["names"][0], progress))


def read_a_sound(order: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """A sound as it is kept, and what there is to say of it."""
    from sorvan.interchange.sounds import read_sound

    found = read_sound(order["files"][0], order["names"][0], progress)
    return {"recording": found.recording.model_dump_json().encode(), "assets": found.assets}


def read_a_production(order: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The documents of an archive; its assets are told on the way."""
    from sorvan.interchange.archive import read_archive_from

    documents = read_archive_from(order["files"][0], order["names"][0], order["keep"], order["id"], progress)
    return {"documents": [DOCUMENT.dump_json(d) for d in documents.by_id.values()]}


def read_a_chart(order: dict[str, Any], _: Progress) -> dict[str, Any]:
    """A line's chart."""
    from sorvan.interchange.charts import read_chart

    found = read_chart(order["files"][0], order["names"][0], order["seconds"])
    return {"chart": found.model_dump_json().encode()}


def read_a_timeline(order: dict[str, Any], _: Progress) -> dict[str, Any]:
    """A timeline as the command that lets the film be as it says."""
    from sorvan.interchange.timelines import read_timeline

    documents = [DOCUMENT.validate_json(data) for data in order["documents"]]
    found = read_timeline(order["files"][0], order["names"][0], Documents({d.id: d for d in documents}))
    return {"command": found.model_dump_json().encode()}


JOBS: dict[str, Callable[[dict[str, Any], Progress], dict[str, Any]]] = {
    "art": read_art,
    "parts": read_the_parts,
    "sound": read_a_sound,
    "archive": read_a_production,
    "chart": read_a_chart,
    "timeline": read_a_timeline,
}


def answer(order: dict[str, Any], tell: Tell) -> None:
    """Do what is ordered and tell what came of it."""
    last = time.monotonic()

    def progress(part: float) -> None:
        nonlocal last
        come_on()
        if part >= 1 or time.monotonic() - last > 0.05:
            last = time.monotonic()
            tell({"part": min(1.0, part)})

    used = int(time.process_time())
    most = resource.getrlimit(resource.RLIMIT_CPU)[1]
    resource.setrlimit(resource.RLIMIT_CPU, (used + limits.LONGEST, most))
    come_on()
    try:
        tell({"found": JOBS[order["job"]](order, progress)})
    except Refusal as no:
        tell({"refused": {"what": no.what, "where": no.where, "remedy": no.remedy, "kind": no.kind}})
    except MemoryError:
        tell({"memory": True})
    except BaseException:  # noqa: BLE001
        # A panic of the rasteriser is no ordinary exception.
        tell({"fault": traceback.format_exc()[-4000:]})
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0)


def come_on() -> None:
    """Give the work time anew. Counted is the processor's time, so that nothing is ended because others keep the
    machine busy; when it is over the system sends SIGPROF, which nobody catches."""
    signal.setitimer(signal.ITIMER_PROF, limits.STANDSTILL)


def grant(order: dict[str, Any]) -> None:
    """Load what few orders need, and let this one take no more memory than is granted beyond what there is then."""
    needed = SELDOM.get(order["job"]) or SELDOM.get(order.get("purpose", ""))
    if needed is not None:
        import_module(needed)
    # The files that came with it count among what it takes.
    files = sum(len(file) for file in order["files"]) if "lies" not in order else 0
    own = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize() - files
    resource.setrlimit(resource.RLIMIT_AS, (own + limits.MEMORY, resource.RLIM_INFINITY))


def confine() -> None:
    """Write no file, and give way to others."""
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with contextlib.suppress(OSError):
        os.nice(5)


def main() -> None:
    """The process."""
    source, sink = sys.stdin.buffer, sys.stdout.buffer
    # What a library prints must not get among the answers.
    sys.stdout = sys.stderr
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # What is read is thousands of small values that never form a circle.
    gc.set_threshold(50_000, 20, 20)
    gc.freeze()
    confine()

    def tell(letter: dict[str, Any]) -> None:
        data = _encode(letter)
        sink.write(len(data).to_bytes(4, "big"))
        sink.write(data)
        sink.flush()

    def keep(id: str, media: str, data: bytes | bytearray) -> None:
        tell({"asset": [id, media], "size": len(data)})
        sink.write(data)

    while (order := received(source)) is not None:
        order["keep"] = keep
        grant(order)
        with _ending_with(source.fileno()):
            answer(order, tell)
        for file in order["files"] if "lies" in order else ():
            file.close()
        _give_back()
        tell({"ready": _resident()})


def received(source: BinaryIO) -> dict[str, Any] | None:
    """The next order with its files; None where there will be no more."""
    head = source.read(4)
    if len(head) < 4:
        return None
    order: dict[str, Any] = _decode(source.read(int.from_bytes(head, "big")))
    if "lies" in order:
        # What is too large to be sent is read where it lies.
        order["files"] = [Path(place).open("rb") for place in order["lies"]]  # noqa: SIM115 - closed by `main`
    else:
        order["files"] = [source.read(size) for size in order["sizes"]]
    return order


@contextlib.contextmanager
def _ending_with(pipe: int) -> Any:
    """While this holds, a word in the pipe or its end is the end of the process: the system sends SIGIO, which nobody
    catches, so that it comes through whatever the process is doing."""
    flags = fcntl.fcntl(pipe, fcntl.F_GETFL)
    fcntl.fcntl(pipe, fcntl.F_SETOWN, os.getpid())
    fcntl.fcntl(pipe, fcntl.F_SETFL, flags | os.O_ASYNC)
    try:
        yield
    finally:
        fcntl.fcntl(pipe, fcntl.F_SETFL, flags)


def _give_back() -> None:
    """Let the system have the memory again that the last order needed."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def _resident() -> int:
    """Bytes that the process holds in memory."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize()


if __name__ == "__main__":
    main()
