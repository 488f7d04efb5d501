"""Aligners at work: each line's in a process of its own, so that none can harm the service or be waited for."""

from __future__ import annotations

import contextlib
import json
import logging
import secrets
import subprocess
import sys
import threading
from dataclasses import dataclass, field
from typing import Any

from sorvan.core.change.charting import SetChart
from sorvan.core.errors import Refusal
from sorvan.core.model.voice import Chart, Voice
from sorvan.service.letters.messages import Aligning
from sorvan.service.rooms.rooms import Room

log = logging.getLogger("sorvan")
COMMAND = (sys.executable, "-m", "sorvan.work.listening")
"""What starts an aligner."""
AT_ONCE = 2
"""Aligners that work at the same time; further ones wait."""
DIED = "The aligner ended before it was done. Nothing is lost: find the sounds again."


@dataclass
class Job:
    """One line being aligned."""

    room: Room
    seq: int
    """The newest change when it was begun."""
    voice: Voice
    text: str
    language: str
    spread: bool = False
    process: subprocess.Popen[bytes] | None = None
    cancelled: bool = False


@dataclass
class Aligners:
    """The lines that are being aligned, by production and line."""

    command: tuple[str, ...] = COMMAND
    _jobs: dict[tuple[str, str], Job] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)
    _turns: threading.Semaphore = field(default_factory=lambda: threading.Semaphore(AT_ONCE))

    def start(self, room: Room, voice: Voice, text: str, language: str, sound: bytes, *, spread: bool = False) -> None:
        """Begin to find a line's sounds. Raises `Refusal` if that is being done already."""
        with self._lock:
            if (room.id, voice.id) in self._jobs:
                raise Refusal(
                    "The sounds of this line are being found already.",
                    where=voice.name,
                    remedy="Wait for it, or cancel it.",
                    kind="conflict",
                )
            job = self._jobs[room.id, voice.id] = Job(room, room.seq, voice, text, language, spread)
        threading.Thread(target=self._work, args=(job, sound), daemon=True).start()

    def cancel(self, production: str, voice: str) -> bool:
        """Stop finding a line's sounds. False if nobody was."""
        with self._lock:
            job = self._jobs.get((production, voice))
            if job is None:
                return False
            job.cancelled = True
            if job.process is not None:
                job.process.kill()
            return True

    def stop(self) -> None:
        """Stop them all."""
        for production, voice in list(self._jobs):
            self.cancel(production, voice)

    def _work(self, job: Job, sound: bytes) -> None:
        ended: dict[str, Any] = {}
        try:
            self._tell(job, part=0.0, what="Waiting")
            with self._turns:
                ended = self._listened(job, sound)
        except Exception:
            log.exception("finding the sounds of %s failed", job.voice.id)
            ended = {}
        finally:
            with self._lock:
                self._jobs.pop((job.room.id, job.voice.id), None)
            self._over(job, ended)

    def _listened(self, job: Job, sound: bytes) -> dict[str, Any]:
        """What the process said last."""
        with self._lock:
            if job.cancelled:
                return {}
            job.process = subprocess.Popen(
                self.command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
            )
        process, last = job.process, dict[str, Any]()
        assert process.stdin is not None and process.stdout is not None
        feeding = threading.Thread(target=_feed, args=(process, order(job, sound)))
        feeding.start()
        for line in process.stdout:
            with contextlib.suppress(ValueError):
                last = json.loads(line)
                if "part" in last:
                    self._tell(job, part=last["part"], what=last["what"])
        process.wait()
        feeding.join()
        process.stdout.close()
        return last

    def _over(self, job: Job, ended: dict[str, Any]) -> None:
        """Put the chart into the line, or say why there is none."""
        if job.cancelled:
            self._tell(job, over="cancelled")
        elif "refused" in ended:
            why = ended["refused"]
            where = f"{why['where']}: " if why["where"] else ""
            self._tell(job, over="refused", message=f"{where}{why['what']} {why['remedy']}".strip())
        elif "chart" in ended:
            self._keep(job, Chart.model_validate(ended["chart"]))
        else:
            self._tell(job, over="failed", message=DIED)

    def _keep(self, job: Job, chart: Chart) -> None:
        room = job.room
        command = SetChart(voice=job.voice.id, chart=chart, text=job.text, language=job.language)
        try:
            held = room.documents.voice(job.voice.id)
            if held.sound != job.voice.sound:
                raise Refusal(
                    "Its sound was changed while it was listened to.", where=held.name, remedy="Find the sounds again."
                )
            room.submit(secrets.token_hex(8), "aligner", job.seq, command)
        except Refusal as refusal:
            gone = "The line was removed while it was listened to." if refusal.kind == "missing" else refusal.sentence()
            self._tell(job, over="refused", message=gone)
        except Exception:
            log.exception("keeping the chart of %s failed", job.voice.id)
            self._tell(job, over="failed", message="The chart could not be saved. Find the sounds again.")
        else:
            self._tell(job, over="done", message=chart.note)

    def _tell(self, job: Job, **news: Any) -> None:
        job.room.tell(Aligning(voice=job.voice.id, **news))


def order(job: Job, sound: bytes) -> bytes:
    """What an aligner reads: a line of JSON, then the sound as it is kept."""
    head = {"text": job.text, "language": job.language, "spoken": dict(job.voice.spoken), "spread": job.spread}
    return json.dumps(head).encode() + b"\n" + sound


def _feed(process: subprocess.Popen[bytes], data: bytes) -> None:
    """Give a process what it reads, all at once; one that was killed takes no more."""
    assert process.stdin is not None
    with contextlib.suppress(OSError):
        process.stdin.write(data)
    with contextlib.suppress(OSError):
        process.stdin.close()
