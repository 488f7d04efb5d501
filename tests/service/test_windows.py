"""A window is an actor: the newest movement wins, every question has its answer, and it has one life."""

from __future__ import annotations

import asyncio
from typing import Any

import msgspec
import pytest
from sqlalchemy import Engine
from websockets.exceptions import ConnectionClosed

from bench.scenes import puppet
from sorvan.core.change.commands import COMMAND
from sorvan.core.change.production import SetProduction
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.scene import AtRest, InMotion, Staged
from sorvan.interchange.archive import write_archive
from sorvan.picture.studio import Studio
from sorvan.service.letters.messages import FROM_PAGE, TO_PAGE, Drag, Grab, MeshLetter, PassedOver, TryPose, Watch
from sorvan.service.rooms.rooms import Rooms
from sorvan.service.windows import motion_report
from sorvan.service.windows.views import WatchedScene
from sorvan.service.windows.windows import BEHIND, FAULT, MOST_BYTES, MOST_LETTERS, Mailbox, Window
from sorvan.store import assets, log
from tests.conftest import Service, change
from tests.service.test_live import Window as Page
from tests.service.test_live import quay  # noqa: F401 - a fixture


def drag(n: int) -> Drag:
    return Drag(n=n, at=(n, 0))


def test_of_letters_that_wait_none_is_looked_at_that_a_newer_one_makes_idle() -> None:
    box = Mailbox()
    grab = Grab(joint="wing", pull="turn", at=(0, 0))
    assert [box.put(letter) for letter in (grab, drag(1), drag(2), drag(3))] == [[], [], [1], [2]]
    # Whatever lies between: a try is worth no more once there is a newer one.
    assert [box.put(letter) for letter in (TryPose(n=4), drag(5), TryPose(n=6), drag(7))] == [[], [3], [4], [5]]
    box.change()
    taken = [box.take() for _ in range(4)]
    assert taken[0] is None, "what changed comes first"
    assert [getattr(t, "n", "grab") for t in taken[1:]] == ["grab", 6, 7]
    # A hand that closes anew holds no more what it held before.
    assert [box.put(letter) for letter in (grab, drag(8), grab, drag(9))] == [[], [], [8], []]
    assert [getattr(box.take(), "n", "grab") for _ in range(2)] == ["grab", 9]
    # A small picture that is asked for of the puppet at rest passes over no try of a hand, nor the other way round.
    small = [TryPose(n=n, at_rest=True) for n in (11, 12)]
    assert [box.put(letter) for letter in (TryPose(n=10), *small, TryPose(n=13))] == [[], [], [11], [10]]
    assert [box.take().n for _ in range(2)] == [12, 13]  # type: ignore[union-attr]
    # What was asked of one thing is idle once another is to be watched.
    watch = Watch(target=AtRest(puppet="a"))
    assert [box.put(letter) for letter in (watch, grab, drag(10), watch, watch)] == [[], [], [], [10], []]
    assert isinstance(box.take(), Watch)
    box.end()
    with pytest.raises(EOFError):
        box.take()


def test_every_question_is_answered_refused_or_passed_over(quay: Any) -> None:  # noqa: F811
    service, _, production, ids = quay
    page = Page(service, production)
    page.send("watch", target={"kind": "motion", "motion": "m", "blocking": False})
    page.until("plan")
    wing = f"{ids['wing']}.turn"
    for n in range(1, 200):
        page.send("try-pose", n=n, frame=0, tried={wing: [n]})
    page.send("try-pose", n=200, frame=0, tried={wing: [1, 2]})
    page.send("try-pose", n=201, frame=0, tried={wing: [9]})
    page.send("try-command", n=202, command={"do": "juggle"})
    page.send("try-command", n=203, command={"do": "set-pivot", "puppet": "a", "piece": "gone", "x": 0, "y": 0})
    outcomes: dict[int, str] = {}
    while len(outcomes) < 203:
        letter = page.until("pose", "refused", "passed-over")
        assert letter["n"] not in outcomes
        outcomes[letter["n"]] = letter["type"]
    assert outcomes[201] == "pose" and outcomes[202] == outcomes[203] == "refused"
    # The one of the wrong arity may have been passed over for the one after it; it never ends the window.
    assert outcomes[200] in ("refused", "passed-over")
    assert {outcomes[n] for n in range(1, 200)} <= {"pose", "passed-over"}
    page.send("try-pose", n=204, frame=0, tried={wing: [1, 2]})
    assert "takes 1 plain number" in page.until("refused")["what"]


def test_a_refused_grab_lets_go_of_what_was_held(quay: Any) -> None:  # noqa: F811
    service, _, production, ids = quay
    page = Page(service, production)
    page.send("drag", n=1, at=[0, 0])
    assert page.until("refused")["n"] == 1
    page.send("watch", target={"kind": "motion", "motion": "m", "blocking": False})
    page.send("grab", frame=0, joint=ids["wing"], pull="turn", at=[60, 50], tried={})
    page.send("drag", n=2, at=[50, 60])
    assert page.until("pose")["n"] == 2
    page.send("grab", frame=0, joint="gone", pull="turn", at=[60, 50], tried={})
    assert "gone" in page.until("refused")["what"]
    page.send("drag", n=3, at=[50, 60])
    assert page.until("refused")["n"] == 3


def test_what_is_no_letter_is_said_and_text_ends_the_window(quay: Any) -> None:  # noqa: F811
    service, _, production, _ = quay
    page = Page(service, production)
    page.socket.send(b"\xc1 not a letter")
    assert page.until("refused")["what"] == "That was not a letter."
    page.socket.send(msgspec.msgpack.encode([1, 2]))
    assert page.until("refused")
    page.socket.send("text")
    with pytest.raises(ConnectionClosed) as closed:
        page.until("never")
    assert closed.value.rcvd is not None and closed.value.rcvd.code == FAULT


@pytest.mark.parametrize("fails", ["start", "more"])
def test_an_error_nobody_foresaw_is_logged_and_ends_the_window(
    engine: Engine, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture, fails: str
) -> None:
    """Whether what is watched is first worked out, or more of it is sent."""
    log.create(engine, Documents({"p": Production(id="p", name="Quay")}))

    def broken(_: WatchedScene) -> list[Any]:
        raise ZeroDivisionError("a fault in the works")

    monkeypatch.setattr(WatchedScene, "start", lambda _: [])
    monkeypatch.setattr(WatchedScene, "busy", True)
    monkeypatch.setattr(WatchedScene, fails, broken)

    async def life() -> int | None:
        window = Window(Rooms(engine).room("p"), Studio(lambda _: b""), asyncio.get_running_loop())
        window.open()
        window.ask(Watch(target=AtRest(puppet="a")))
        while window.over is None:
            await asyncio.wait_for(window.ready.wait(), 20)
            window.ready.clear()
            window.outbox.clear()
        window.close()
        assert window not in window.room.listeners
        return window.over

    assert asyncio.run(life()) == FAULT
    assert "a fault in the works" in caplog.text


def test_an_error_nobody_foresaw_in_a_question_answers_it_and_the_window_lives(
    engine: Engine, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    log.create(engine, Documents({"p": Production(id="p", name="Quay")}))

    def attended(_: WatchedScene, letter: Any) -> list[Any]:
        if letter.n == 1:
            raise ZeroDivisionError("a fault in the works")
        return [PassedOver(n=letter.n)]

    monkeypatch.setattr(WatchedScene, "start", lambda _: [])
    monkeypatch.setattr(WatchedScene, "busy", False)
    monkeypatch.setattr(WatchedScene, "arts", lambda _: {})
    monkeypatch.setattr(WatchedScene, "attend", attended)

    async def life() -> list[dict[str, Any]]:
        window = Window(Rooms(engine).room("p"), Studio(lambda _: b""), asyncio.get_running_loop())
        window.open()
        heard: list[dict[str, Any]] = []
        window.ask(Watch(target=AtRest(puppet="a")))
        for n in (1, 2):
            window.ask(TryPose(n=n, frame=0, tried={}))
            while not heard or heard[-1].get("n") != n:
                await asyncio.wait_for(window.ready.wait(), 20)
                window.ready.clear()
                while (letter := window.next()) is not None:
                    heard.append(msgspec.msgpack.decode(letter))
        window.close()
        assert window.over is None
        return [letter for letter in heard if "n" in letter]

    first, second = asyncio.run(life())
    assert first["type"] == "refused" and "could not be worked out" in first["what"]
    assert second == {"type": "passed-over", "n": 2}
    assert "a fault in the works" in caplog.text and first["remedy"].split()[-1].strip(".") in caplog.text


def test_a_question_is_answered_by_what_there_is_also_where_the_window_has_not_heard_of_it_yet(
    engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A page hears of a change as soon as it is on disk, and asks at once."""
    log.create(engine, Documents({"p": Production(id="p", name="Quay")}))
    monkeypatch.setattr(WatchedScene, "start", lambda _: [])
    monkeypatch.setattr(WatchedScene, "busy", False)
    monkeypatch.setattr(WatchedScene, "arts", lambda _: {})
    monkeypatch.setattr(
        WatchedScene, "attend", lambda view, _: [PassedOver(n=100 * view.seq + len(view.documents.production.name))]
    )
    # The word that something changed comes late.
    monkeypatch.setattr(Mailbox, "change", lambda _: None)

    async def life() -> list[int]:
        window = Window(Rooms(engine).room("p"), Studio(lambda _: b""), asyncio.get_running_loop())
        window.open()
        window.ask(Watch(target=AtRest(puppet="a")))
        told: list[int] = []
        for name in (None, "Ferry quay"):
            if name:
                window.room.submit("c", "w", 0, SetProduction(do="set-production", name=name))
            before = len(told)
            window.ask(TryPose(n=1, frame=0, tried={}))
            while len(told) == before:
                await asyncio.wait_for(window.ready.wait(), 20)
                window.ready.clear()
                while (letter := window.next()) is not None:
                    heard = msgspec.msgpack.decode(letter)
                    told += [heard["n"]] if heard["type"] == "passed-over" else []
        window.close()
        return told

    assert asyncio.run(life()) == [4, 110]


@pytest.mark.parametrize(("letters", "large"), [(MOST_LETTERS, 1), (3, MOST_BYTES // 4)])
def test_a_page_that_can_not_keep_up_is_sent_away_to_come_back_afresh(engine: Engine, letters: int, large: int) -> None:
    log.create(engine, Documents({"p": Production(id="p", name="Quay")}))

    async def life() -> tuple[int | None, ...]:
        window = Window(Rooms(engine).room("p"), Studio(lambda _: b""), asyncio.get_running_loop())
        letter = MeshLetter(piece="a", joint="b", vertices=bytes(large), triangles=b"")
        window.send(*[letter] * letters)
        before = window.over
        assert window.waiting == sum(map(len, window.outbox)) >= letters * large
        window.send(letter, letter)
        # What waits is let go at once, and nothing more is taken.
        window.send(letter)
        return before, window.over, len(window.outbox)

    assert asyncio.run(life()) == (None, BEHIND, 0)


def test_a_letter_may_wait_by_itself_however_large_it_is(engine: Engine) -> None:
    log.create(engine, Documents({"p": Production(id="p", name="Quay")}))

    async def life() -> int | None:
        window = Window(Rooms(engine).room("p"), Studio(lambda _: b""), asyncio.get_running_loop())
        window.send(MeshLetter(piece="a", joint="b", vertices=bytes(MOST_BYTES + 1), triangles=b""))
        return window.over

    assert asyncio.run(life()) is None


def test_many_windows_that_look_at_the_same_cost_one(engine: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    whole, motion, kept = puppet("tree", 5, 24, (500, 360))
    documents = Documents({"p": Production(id="p", name="Quay")}).with_(whole, motion)
    assets.put(engine, kept)
    log.create(engine, documents)
    room, studio = Rooms(engine).room("p"), Studio(lambda id: kept[id][1])
    worked: list[str] = []
    full, after, looked = Staged.full, Staged.after, motion_report.findings
    monkeypatch.setattr(Staged, "full", lambda *given: worked.append("full") or full(*given))
    monkeypatch.setattr(Staged, "after", lambda *given: worked.append("after") or after(*given))
    monkeypatch.setattr(motion_report, "findings", lambda *given: worked.append("checks") or looked(*given))

    async def life() -> list[list[dict[str, Any]]]:
        windows = [Window(room, studio, asyncio.get_running_loop()) for _ in range(100)]
        for window in windows:
            window.open()
            window.ask(Watch(target=InMotion(motion="tree-m")))
            window.ask(Watch(target=InMotion(motion="tree-m"), frame=len(worked) % 24))
        came: list[list[dict[str, Any]]] = [[] for _ in windows]

        async def until(kind: str) -> None:
            for window, letters in zip(windows, came, strict=True):
                while not any(letter["type"] == kind for letter in letters):
                    assert window.over is None
                    if (letter := window.next()) is None:
                        await asyncio.sleep(0.01)
                    else:
                        letters.append(msgspec.msgpack.decode(letter))

        await until("motion-report")
        key = {"joint": "tree-2", "kind": "turn", "frame": 4, "value": [33]}
        command = COMMAND.validate_python({"do": "set-keys", "motion": "tree-m", "keys": [key]})
        await asyncio.to_thread(room.submit, "change-1", "w", 0, command)
        await until("settled")
        # Who comes later takes part as well, and has a hand of its own like everybody.
        late = [Window(room, studio, asyncio.get_running_loop()) for _ in range(20)]
        windows += late
        came.extend([] for _ in late)
        for n, window in enumerate(late):
            window.open()
            window.ask(Watch(target=InMotion(motion="tree-m"), frame=n))
        await until("motion-report")
        again = COMMAND.validate_python({"do": "set-keys", "motion": "tree-m", "keys": [{**key, "value": [44]}]})
        await asyncio.to_thread(room.submit, "change-2", "w", 1, again)
        for letters in came:
            letters[:] = [letter for letter in letters if letter["type"] != "settled"]
        await until("settled")
        # Each has a hand of its own all the same.
        for n, window in enumerate(windows[:2]):
            window.ask(TryPose(n=n, frame=3, tried={"tree-2.turn": (float(n),)}))
        came[2:] = [[*letters, {"type": "pose"}] for letters in came[2:]]
        await until("pose")
        for window in windows:
            window.close()
        return came

    first, *others = asyncio.run(life())
    # Of those who came at different times the letters are written twice; nothing is evaluated for that.
    assert [w for w in worked if w != "checks"] == ["full", "after", "after"] and worked.count("checks") == 5
    assert sum(letter["type"] == "part" for letter in first) == 2
    others, late = others[:99], others[99:]
    assert all(sum(letter["type"] == "part" for letter in letters) == 1 for letters in late)
    sent = [letter for letter in first if letter["type"] != "pose"]
    assert all([letter for letter in letters if letter["type"] != "pose"] == sent for letters in others)
    assert next(le for le in first if le["type"] == "pose") != next(le for le in others[0] if le["type"] == "pose")


def test_a_change_travels_as_what_it_wrote_however_large_the_motion_is(shared: Service) -> None:
    client = shared.client()
    whole, motion, kept = puppet("tree", 180, 200, (500, 360), 100)
    documents = Documents({"bench": Production(id="bench", name="Bench")}).with_(whole, motion)
    archive = {"file": ("bench.zip", write_archive(documents, kept))}
    production = client.post("/productions/archive", files=archive).json()["id"]
    page = Page(shared, production)
    assert len(page.until("snapshot")["documents"]) == 3
    key = {"joint": "tree-7", "kind": "turn", "frame": 4, "value": [33]}
    answer = change(client, production, {"do": "set-keys", "motion": "tree-m", "keys": [key]})
    assert len(answer.content) <= 4096
    told = page.until("changed")
    assert len(msgspec.msgpack.encode(told)) <= 4096
    (write,) = answer.json()["writes"]
    assert write == {"next": None} | told["writes"][0]
    assert write["path"] == ["channels", "tree-7.turn", "keys", "4", "value"] or write["after"]["value"] == [33.0]


def test_letters_are_what_the_published_lists_say(quay: Any) -> None:  # noqa: F811
    service, client, production, ids = quay
    page = Page(service, production)
    asked = [
        {"type": "watch", "target": {"kind": "motion", "motion": "m"}},
        {"type": "try-pose", "n": 1, "frame": 2, "tried": {f"{ids['wing']}.turn": [5.0]}},
        {"type": "watch", "target": {"kind": "rest", "puppet": "a"}},
        {"type": "look-at-mesh", "piece": ids["wing"], "joint": None},
        {"type": "try-pose", "n": 2, "frame": 0, "tried": {"a": [1.0]}},
    ]
    seen: set[str] = set()

    def hear(*types: str) -> None:
        while not seen & {*types}:
            letter = msgspec.msgpack.decode(page.socket.recv(timeout=10))
            TO_PAGE.validate_python(letter)
            seen.add(letter["type"])

    for letter in asked:
        FROM_PAGE.validate_python(letter)
        page.send(**letter)
        # What is asked of one thing is idle once another is to be watched.
        hear({"watch": "plan", "try-pose": "pose", "look-at-mesh": "snapshot"}[letter["type"]])
    change(client, production, {"do": "set-puppet", "puppet": "a", "name": "Gull"})
    change(client, production, {"do": "set-puppet", "puppet": "a", "name": "Herring gull"})
    for type in ("spacing", "rig", "changed", "settled", "refused"):
        hear(type)
    schemas = client.get("/../openapi.json").json()["components"]["schemas"]
    for name, letters in (("FromPage", FROM_PAGE), ("ToPage", TO_PAGE)):
        assert (
            schemas[name]["discriminator"]
            == letters.json_schema(ref_template="#/components/schemas/{model}")["discriminator"]
        )
