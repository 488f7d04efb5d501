"""Windows: each open page is an actor with a mailbox and one worker thread.

The event loop only carries letters: what comes in goes to the mailbox, what the worker makes goes
to the outbox. A window has one life. It ends when the page goes, when the page can't keep up, or on
an error that nobody foresaw, which is logged; it never goes silent.
"""

from __future__ import annotations

import asyncio
import logging
import secrets
import threading
from collections import deque
from collections.abc import Callable
from functools import partial

from sorvan.core.errors import Refusal
from sorvan.core.film.film import InFilm
from sorvan.core.shot.scene import InShot
from sorvan.picture.studio import Studio
from sorvan.service.letters.messages import (
    DatabaseLetter,
    Drag,
    FromPage,
    Grab,
    PassedOver,
    Refused,
    Settled,
    Snapshot,
    ToPage,
    TryPose,
    Watch,
)
from sorvan.service.rooms.rooms import Room, step_view
from sorvan.service.rooms.worked_out_once import Once
from sorvan.service.windows.film_view import FilmView
from sorvan.service.windows.shot_view import ShotView
from sorvan.service.windows.views import WatchedScene
from sorvan.store.database import AWAY
from sorvan.store.log import State

log = logging.getLogger("sorvan")
MOST_LETTERS = 512
MOST_BYTES = 96 * 1024 * 1024
"""Letters, and their bytes, that may wait to be sent before a page counts as unable to keep up."""
HOLDING = ("plan", "shot", "shot-changed")
"""Letters with which a page may come to need other art."""
FEW_LETTERS = 4
"""Letters that may wait while more of a shot is to be sent: what is asked meanwhile is answered soon."""
FAULT, BEHIND = 1011, 1013
"""Close codes (RFC 6455 and the IANA registry): an internal error; try again later."""
AGAIN = 0.5
"""Seconds after which a window whose database is away tries again."""


def _view_of(letter: Watch, state: State, studio: Studio, once: Once) -> WatchedScene | ShotView | FilmView:
    """The view of what a page asks to see."""
    if isinstance(letter.target, InFilm):
        return FilmView(state.documents, letter.target, state.seq, studio, letter.frame, once=once)
    if isinstance(letter.target, InShot):
        return ShotView(state.documents, letter.target, state.seq, studio, letter.frame, once=once)
    return WatchedScene(state.documents, letter.target, state.seq, studio, frame=letter.frame, once=once)


def _snapshot(state: State) -> Snapshot:
    return Snapshot(
        seq=state.seq,
        documents=tuple(state.documents.by_id.values()),
        undo=step_view(state.undo),
        redo=step_view(state.redo),
        left_out=state.left_out,
    )


class Mailbox:
    """Letters that wait for the worker. A newer one takes the place of those that it makes idle: a movement of the hand
    or a try of older ones, a grab of an older grab and what was to be done with it, and whatever is to be watched of
    everything that was asked about what was watched before. So never more wait than there are kinds of letters and of tries."""

    def __init__(self) -> None:
        self._letters: deque[FromPage] = deque()
        self._changed = False
        self._ended = False
        self._wake = threading.Condition()

    def put(self, letter: FromPage) -> list[int]:
        """Add a letter. Gives the numbers of the questions that it passes over."""
        with self._wake:
            passed: list[int] = []
            for _ in range(len(self._letters)):
                old = self._letters.popleft()
                if not _makes_idle(letter, old):
                    self._letters.append(old)
                elif (n := getattr(old, "n", None)) is not None:
                    passed.append(n)
            self._letters.append(letter)
            self._wake.notify()
            return passed

    def change(self) -> None:
        """Say that the production changed."""
        with self._wake:
            self._changed = True
            self._wake.notify()

    def end(self) -> None:
        """Let the worker go home."""
        with self._wake:
            self._ended = True
            self._wake.notify()

    def pause(self, seconds: float) -> None:
        """Let so many seconds go by. Raises `EOFError` at the end."""
        with self._wake:
            if self._wake.wait_for(lambda: self._ended, seconds):
                raise EOFError

    def take(self, seconds: float | None = None) -> FromPage | None:
        """The next letter; None if the production changed. Raises `EOFError` at the end, and `TimeoutError` if
        nothing came for so many `seconds`."""
        with self._wake:
            while not (self._letters or self._changed or self._ended):
                if not self._wake.wait(seconds):
                    raise TimeoutError
            if self._ended:
                raise EOFError
            if self._changed:
                self._changed = False
                return None
            return self._letters.popleft()


def _makes_idle(letter: FromPage, old: FromPage) -> bool:
    """Whether a letter makes an older one idle."""
    match letter:
        case Watch():
            return True
        case Grab():
            return isinstance(old, (Grab, Drag))
        case TryPose():
            # What small pictures are asked for of the puppet at rest is another matter than what a hand tries.
            return isinstance(old, TryPose) and old.at_rest == letter.at_rest
        case _:
            return isinstance(old, type(letter))


class Window:
    """One open page: the view it has, what it asked, and what is still to be sent to it."""

    def __init__(self, room: Room, studio: Studio, loop: asyncio.AbstractEventLoop) -> None:
        self.room, self.studio, self.loop = room, studio, loop
        self.view: WatchedScene | ShotView | FilmView | None = None
        self.mailbox = Mailbox()
        self.outbox: deque[bytes] = deque()
        self.waiting = 0
        self.ready = asyncio.Event()
        self.over: int | None = None
        self._sending = threading.Lock()
        self._worker = threading.Thread(target=self._work, name="window", daemon=True)

    def open(self) -> None:
        """Come into the room: first everything there is, then whatever happens."""
        state = self.room.join(self)
        first = self.room.once.get("snapshot", (state,), lambda: _snapshot(state)).encoded()
        with self._sending:
            self.outbox.appendleft(first)
            self.waiting += len(first)
        self._worker.start()
        self._stir()

    def close(self) -> None:
        """Leave the room."""
        self.room.leave(self)
        self.mailbox.end()
        self.studio.release(self)

    def hear(self, message: ToPage) -> None:
        """Called from any thread when something happens in the room."""
        self.send(message)
        if message.type == "changed":
            self.mailbox.change()

    def ask(self, letter: FromPage) -> None:
        """Take a letter from the page."""
        for n in self.mailbox.put(letter):
            self.send(PassedOver(n=n))

    def send(self, *letters: ToPage) -> None:
        """Put letters into the outbox; a page that lets too many, or too much, wait is sent away to come back afresh."""
        if self.over is not None:
            return
        for letter in letters:
            written = letter.encoded()
            with self._sending:
                # However large a letter is, it may wait by itself.
                if len(self.outbox) >= MOST_LETTERS or (self.outbox and self.waiting + len(written) > MOST_BYTES):
                    self.over = BEHIND
                    self.outbox.clear()
                    self.waiting = 0
                    break
                self.outbox.append(written)
                self.waiting += len(written)
        self._stir()

    def next(self) -> bytes | None:
        """The letter that has waited longest, if any waits."""
        with self._sending:
            if not self.outbox:
                return None
            letter = self.outbox.popleft()
            self.waiting -= len(letter)
            return letter

    def _stir(self) -> None:
        if not self.loop.is_closed():
            self.loop.call_soon_threadsafe(self.ready.set)

    def _work(self) -> None:
        """The worker's day. At its end nothing is held any more, also of what was worked out while the page closed."""
        try:
            self._day()
        finally:
            self.view = None
            self.studio.release(self)

    def _day(self) -> None:
        work: Callable[[], None]
        while True:
            try:
                letter = self.mailbox.take(self._patience())
            except EOFError:
                return
            except TimeoutError:
                work = self._go_on
            else:
                work = partial(self._attend, letter)
            try:
                self._patiently(work)
            except EOFError:
                return
            except Exception:
                log.exception("a window ended on an error nobody foresaw")
                self.over = FAULT
                self._stir()
                return

    def _patiently(self, work: Callable[[], None]) -> None:
        """Do some work; while the database is away for it, say so and try again. Raises `EOFError` if the page goes
        meanwhile."""
        away = False
        while True:
            try:
                work()
            except AWAY:
                if not away:
                    self.send(DatabaseLetter(here=False))
                away = True
                self.mailbox.pause(AGAIN)
            else:
                break
        if away:
            self.send(DatabaseLetter(here=True))

    def _go_on(self) -> None:
        """Send more of what is watched, if the page can take it."""
        if self.view is not None and len(self.outbox) < FEW_LETTERS:
            self._tell(self._carefully(self.view.more))

    def _patience(self) -> float | None:
        """How long to wait for a letter before more of what is watched is sent: only as long as the view pauses, or the
        page can't take it."""
        if self.view is None or not self.view.busy:
            return None
        return self.view.pause if len(self.outbox) < FEW_LETTERS else 0.02

    def _attend(self, letter: FromPage | None) -> None:
        if letter is None:
            self._follow()
            return
        # The page may have heard of a change before this was told to take it up. Of something else all is seen anew.
        if self.view is not None and self.view.seq < self.room.seq and not isinstance(letter, Watch):
            self._follow()
        n = getattr(letter, "n", None)
        self._tell(self._carefully(lambda: self._answer(letter), n))

    def _tell(self, letters: list[ToPage]) -> None:
        """Send letters, holding the art that a plan among them draws as long as the page may ask for it."""
        if self.view is not None and any(letter.type in HOLDING for letter in letters):
            self.studio.hold(self, self.view.arts())
        self.send(*letters)

    def _follow(self) -> None:
        state = self.room.state
        view = self.view
        if view is not None and view.seq < state.seq:
            self._tell(self._carefully(lambda: view.follow(state.documents, state.seq)))
        # The page keeps showing what the hand left until it knows that the plan has caught up.
        self.send(Settled(seq=state.seq))

    @staticmethod
    def _carefully(work: Callable[[], list[ToPage]], n: int | None = None) -> list[ToPage]:
        """What work gives, or why it can't be. A question (numbered `n`) changes nothing here: an error in it that nobody
        foresaw is logged, and is the answer."""
        try:
            return work()
        except Refusal as refusal:
            return [Refused(what=refusal.what, where=refusal.where, remedy=refusal.remedy, n=n)]
        except AWAY:
            raise
        except Exception:
            if n is None:
                raise
            mark = secrets.token_hex(4)
            log.exception("a question could not be answered (%s)", mark)
            remedy = f"Nothing was changed. The log of the service has more under {mark}."
            return [Refused(what="This could not be worked out.", where="", remedy=remedy, n=n)]

    def _answer(self, letter: FromPage) -> list[ToPage]:
        if isinstance(letter, Watch):
            state = self.room.state
            self.view = _view_of(letter, state, self.studio, self.room.once)
            return self.view.start()
        if self.view is None:
            raise Refusal("Nothing is watched yet.", remedy="Choose a puppet first.", kind="missing")
        return self.view.attend(letter)
