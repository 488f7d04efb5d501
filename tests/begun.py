"""Programs of Sorvan that begin in a moment: copies of one that has already loaded what they need.

A process that is started anew loads Python and the libraries first, for a second or more. What is begun here is a
process as well, of its own, with its own folder, environment, pipes and end; only its loading was done before.
"""

from __future__ import annotations

import json
import os
import select
import signal
import socket
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import IO, Any

from sorvan.cli.main import COMMANDS, main

ROOT = Path(__file__).parent.parent


class Begun:
    """A running program: what tests use of `subprocess.Popen`, which can't be had of what another process began."""

    def __init__(self, pid: int, told: IO[bytes], stdout: IO[str] | None) -> None:
        self.pid, self.stdout = pid, stdout
        self.returncode: int | None = None
        self._told = told
        self._handle = os.pidfd_open(pid)

    def poll(self) -> int | None:
        """How it ended, or None while it runs."""
        if self.returncode is None and _ready(self._told, 0):
            self._over()
        return self.returncode

    def wait(self, timeout: float | None = None) -> int:
        """How it ended, once it has."""
        if self.returncode is None:
            if not _ready(self._told, timeout):
                raise subprocess.TimeoutExpired("sorvan", timeout or 0)
            self._over()
        assert self.returncode is not None
        return self.returncode

    def _over(self) -> None:
        self.returncode = int(self._told.readline())
        self._told.close()
        os.close(self._handle)

    def send_signal(self, number: int) -> None:
        """Send it a signal, unless it is over."""
        if self.poll() is None:
            signal.pidfd_send_signal(self._handle, number)

    def kill(self) -> None:
        """End it at once."""
        self.send_signal(signal.SIGKILL)


def _ready(told: IO[bytes], timeout: float | None) -> bool:
    return bool(select.select([told], [], [], timeout)[0])


def begin(words: Sequence[str], environment: dict[str, str], place: Path, talks: bool = False) -> Begun:
    """Begin `sorvan` with these words; what it prints is read from `stdout` if it `talks`."""
    out, theirs = os.pipe() if talks else (None, 1)
    process = _sent(words, environment, place, (0, theirs, 2))
    if out is None:
        return Begun(*process, None)
    os.close(theirs)
    return Begun(*process, os.fdopen(out))


def run(
    words: Sequence[str], environment: dict[str, str], place: Path, typed: str = ""
) -> subprocess.CompletedProcess[str]:
    """Run `sorvan` with these words to its end; `typed` is its input."""
    with (
        tempfile.TemporaryFile("w+") as given,
        tempfile.TemporaryFile("w+") as out,
        tempfile.TemporaryFile("w+") as err,
    ):
        given.write(typed)
        given.flush()
        given.seek(0)
        code = Begun(*_sent(words, environment, place, (given.fileno(), out.fileno(), err.fileno())), None).wait()
        out.seek(0)
        err.seek(0)
        return subprocess.CompletedProcess(list(words), code, out.read(), err.read())


def _sent(
    words: Sequence[str], environment: dict[str, str], place: Path, pipes: tuple[int, int, int]
) -> tuple[int, IO[bytes]]:
    """Have a program begun; its process, and the pipe on which its end is told."""
    told, theirs = os.pipe()
    asked = json.dumps({"words": list(words), "environment": environment, "place": str(place)}).encode()
    mine = _loader()
    socket.send_fds(mine, [len(asked).to_bytes(4, "big")], [*pipes, theirs])
    mine.sendall(asked)
    os.close(theirs)
    read = os.fdopen(told, "rb", buffering=0)
    return int(read.readline()), read


@cache
def _loader() -> socket.socket:
    """The process that has loaded everything, begun once; it ends with this one."""
    mine, theirs = socket.socketpair()
    subprocess.Popen(
        [sys.executable, "-m", "tests.begun", str(theirs.fileno())],
        cwd=ROOT,
        pass_fds=[theirs.fileno()],
    )
    theirs.close()
    return mine


def _serve(asked: socket.socket) -> None:
    """Begin whatever is asked for, each in a process of its own, until nobody is left to ask."""
    for module, _ in COMMANDS.values():
        import_module(f"sorvan.cli.{module}")
    import sorvan.demo.quay
    import sorvan.work.worker  # noqa: F401

    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    while True:
        size, pipes, _, _ = socket.recv_fds(asked, 4, 4)
        if not size:
            return
        left, body = int.from_bytes(size, "big"), b""
        while len(body) < left:
            body += asked.recv(left - len(body))
        if not os.fork():
            asked.close()
            _watched(json.loads(body), pipes)
        for pipe in pipes:
            os.close(pipe)


def _watched(wanted: dict[str, Any], pipes: list[int]) -> None:
    """Begin one program, and tell which process it is, and how it ended."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    *own, told = pipes
    pid = os.fork()
    if not pid:
        os.close(told)
        _become(wanted, own)
    for pipe in own:
        os.close(pipe)
    os.write(told, b"%d\n" % pid)
    os.write(told, b"%d\n" % os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]))
    os._exit(0)


def _become(wanted: dict[str, Any], pipes: list[int]) -> None:
    """The program itself."""
    for number, pipe in enumerate(pipes):
        os.dup2(pipe, number)
        os.close(pipe)
    os.environ.clear()
    os.environ.update(wanted["environment"])
    os.chdir(wanted["place"])
    sys.argv = ["sorvan", *wanted["words"]]
    # However it ends, it ends as a program does.
    main()
    sys.exit()


if __name__ == "__main__":
    _serve(socket.socket(fileno=int(sys.argv[1])))
