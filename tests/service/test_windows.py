"""A window is an actor: the newest movement wins, every question has its answer, and it has one life."""

from __future__ import annotations

import asyncio
from typing import Any

import msgspec
import pytest
from sqlalchemy import Engine
from websockets.exceptions import ConnectionClosed

from bench.scenes import puppet
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.plan.scene import AtRest
from sorvan.interchange.archive import write_archive
from sorvan.picture.studio import Studio
from sorvan.service.messages import FROM_PAGE, TO_PAGE, Drag, Gone, Grab, TryPose, Watch
from sorvan.service.rooms import Rooms
from sorvan.service.views import View
from sorvan.service.windows import BEHIND, FAULT, MOST_LETTERS, Mailbox, Window
from sorvan.store import log
from tests.conftest import Service, change
from tests.service.test_live import Window as Page
from tests.service.test_live import quay  # noqa: F401 - a fixture


def drag(n: int) -> Drag:
    return Drag(n=n, at=(n, 0))


def test_of_movements_that_wait_only_the_newest_is_looked_at() -> None:
    box = Mailbox()
    grab = Grab(joint="wing", pull="turn", at=(0, 0))
    assert [box.put(letter) for letter in (grab, drag(1), drag(2), drag(3))] == [[], [], [1], [2]]
    # A drag belongs to the grab before it: it is not passed over for one that came after another grab.
    assert [box.put(letter) for letter in (grab, drag(4), TryPose(n=5), drag(6))] == [[], [], [], []]
    box.change()
    taken = [box.take() for _ in range(7)]
    assert taken[0] is None, "what changed comes first"
    assert [getattr(t, "n", "grab") for t in taken[1:]] == ["grab", 3, "grab", 4, 5, 6]
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

    def broken(_: View) -> list[Any]:
        raise ZeroDivisionError("a fault in the works")

    monkeypatch.setattr(View, "start", lambda _: [])
    monkeypatch.setattr(View, "busy", True)
    monkeypatch.setattr(View, fails, broken)

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


def test_a_page_that_can_not_keep_up_is_sent_away_to_come_back_afresh(engine: Engine) -> None:
    log.create(engine, Documents({"p": Production(id="p", name="Quay")}))

    async def life() -> tuple[int | None, int]:
        window = Window(Rooms(engine).room("p"), Studio(lambda _: b""), asyncio.get_running_loop())
        for seq in range(MOST_LETTERS + 1):
            window.send(Gone(seq=seq))
        return window.over, len(window.outbox)

    over, waiting = asyncio.run(life())
    assert over == BEHIND and waiting == MOST_LETTERS + 1


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
    assert write == told["writes"][0]
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
    for letter in asked:
        FROM_PAGE.validate_python(letter)
        page.send(**letter)
    change(client, production, {"do": "set-puppet", "puppet": "a", "name": "Gull"})
    change(client, production, {"do": "set-puppet", "puppet": "a", "name": "Herring gull"})
    seen: set[str] = set()
    while not {"snapshot", "plan", "spacing", "rig", "pose", "changed", "settled", "refused"} <= seen:
        letter = msgspec.msgpack.decode(page.socket.recv(timeout=10))
        TO_PAGE.validate_python(letter)
        seen.add(letter["type"])
    schemas = client.get("/../openapi.json").json()["components"]["schemas"]
    for name, letters in (("FromPage", FROM_PAGE), ("ToPage", TO_PAGE)):
        assert (
            schemas[name]["discriminator"]
            == letters.json_schema(ref_template="#/components/schemas/{model}")["discriminator"]
        )
