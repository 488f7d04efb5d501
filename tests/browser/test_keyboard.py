"""The job by keyboard alone: nothing is clicked, and nothing takes the focus but by its keys."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import av
import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.hands import document, drawn, eventually, saved
from tests.browser.test_lists import production as production
from tests.conftest import Service
from tests.service.test_http import documents

__all__ = ["production"]

ART = """<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720" viewBox="0 0 1280 720">
<g id="pole"><rect x="600" y="200" width="30" height="400" fill="#7a5a3a"/></g>
<g id="flag"><rect x="630" y="220" width="240" height="90" fill="#d02020"/></g>
</svg>"""


class Keys:
    """A user who has a keyboard, and eyes or a screen reader, and nothing else."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def to(self, wanted: Locator, back: bool = False) -> Locator:
        """Press Tab until the focus is there. The focus is never lost on the way for longer than one step."""
        lost, found = 0, None
        for _ in range(160):
            # What is wanted is looked for again only when it has gone: each look goes through all that the page says.
            if found is None or not found.evaluate("e => e.isConnected"):
                found = wanted.element_handle() if wanted.count() else None
            if found is not None and found.evaluate("e => e === document.activeElement"):
                return wanted
            self.page.keyboard.press("Shift+Tab" if back else "Tab")
            lost = lost + 1 if self.page.evaluate("document.activeElement === document.body") else 0
            assert lost < 3, "the focus fell to nowhere"
        raise AssertionError(f"the tab key never comes to {wanted}")

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)

    def do(self, wanted: Locator, *keys: str) -> None:
        self.to(wanted)
        self.press(*(keys or ("Enter",)))

    def fill(self, field: Locator, text: str) -> None:
        self.to(field)
        self.press("Control+a")
        self.page.keyboard.type(text)
        self.press("Enter")

    def choose(self, select: Locator, option: str) -> None:
        """Walk a list of choices to one of them, and take it."""
        self.to(select)
        for _ in range(60):
            if select.evaluate("e => e.selectedOptions[0].text") == option:
                break
            self.press("ArrowDown")
        assert select.evaluate("e => e.selectedOptions[0].text") == option
        self.press("Enter")


def test_from_a_new_production_to_a_fetched_film(
    serve: Callable[..., Service], new_page: Callable[..., Page], tmp_path: Path
) -> None:
    service, page = serve(), new_page()
    (tmp_path / "flag.svg").write_text(ART)
    page.goto(service.address)
    expect(page.get_by_role("button", name="New production")).to_be_visible()
    keys = Keys(page)
    keys.do(page.get_by_role("button", name="New production"))
    expect(page.get_by_label("Name")).to_be_focused()
    page.keyboard.type("A flag on the quay")
    keys.press("Enter")
    # Art, by the button; the window for files is the system's, which has keys of its own.
    with page.expect_file_chooser() as asked:
        keys.do(page.get_by_role("button", name="Choose files…"))
    asked.value.set_files(tmp_path / "flag.svg")
    row = page.get_by_role("row", name="flag")
    expect(row).to_be_visible()
    saved(page)

    # The pivot of the flag: its pin taken by the cross and carried to where it hangs on the pole.
    keys.to(page.get_by_role("grid", name="Pieces").locator('[tabindex="0"]'))
    keys.press("f")
    expect(row).to_be_focused()
    expect(row).to_have_attribute("aria-selected", "true")
    keys.to(page.locator(".stage"))
    keys.press("x")
    said = page.locator(".cross-said")
    for _ in range(8):
        keys.press("PageDown")
        if "pin of flag" in said.inner_text():
            break
    expect(said).to_contain_text("pin of flag, 750 u across, 265 u down")
    keys.press("Enter")
    expect(said).to_contain_text("Holding pin of flag")
    # Escape lets go and nothing is changed; taken again it is carried and put down.
    keys.press("Shift+ArrowUp", "Escape")
    expect(said).not_to_contain_text("Holding")
    assert document(page, service.address, "puppet")["pieces"], "nothing is lost"
    for _ in range(8):
        if "pin of flag, 750 u across, 265 u down" in said.inner_text():
            break
        keys.press("PageDown")
    keys.press("Enter", *["Shift+ArrowLeft"] * 12, "ArrowRight", "ArrowRight", "Enter")
    saved(page)
    flag = {p["name"]: p for p in document(page, service.address, "puppet")["pieces"].values()}["flag"]
    assert flag["drawings"][0]["pivot"] == pytest.approx([632, 265], abs=0.6)
    # And by numbers.
    keys.fill(page.get_by_label("Pin alone, y"), "240")
    saved(page)
    flag = {p["name"]: p for p in document(page, service.address, "puppet")["pieces"].values()}["flag"]
    assert flag["drawings"][0]["pivot"] == pytest.approx([632, 240], abs=0.6)

    # Hung on the pole, and tried: nothing of that is kept.
    keys.to(page.get_by_role("link", name="Rig").first, back=True)
    keys.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    tree = page.get_by_role("tree")
    keys.to(tree.locator('[tabindex="0"]'))
    keys.press("f")
    expect(tree.get_by_role("treeitem", name="flag")).to_be_focused()
    keys.choose(page.get_by_label("Hangs on", exact=True), "pole")
    saved(page)
    joints = {j["name"]: j for j in document(page, service.address, "puppet")["joints"].values()}
    assert joints["flag"]["parent"] == joints["pole"]["id"]
    before = document(page, service.address, "puppet")
    keys.do(page.get_by_role("button", name="Try a pose"))
    keys.fill(page.get_by_label("Turn", exact=True), "30")
    expect(page.get_by_text("nothing of it is kept")).to_be_visible()
    keys.do(page.get_by_role("button", name="Put back"))
    expect(page.get_by_text("nothing of it is kept")).to_be_hidden()
    assert document(page, service.address, "puppet") == before

    # A motion: the flag at rest, and turned at frame 13.
    keys.press("3")
    keys.do(page.get_by_role("button", name="Start a motion"))
    saved(page)
    keys.to(page.get_by_role("tree").locator('[tabindex="0"]'))
    keys.press("f")
    turn = page.get_by_label("Turn", exact=True)
    keys.fill(turn, "0")
    saved(page)
    keys.fill(page.get_by_label("Frame", exact=True), "13")
    keys.fill(turn, "40")
    saved(page)
    motion = document(page, service.address, "motion")
    channel = next(c for c in motion["channels"].values() if c["kind"] == "turn")
    assert {f: k["value"] for f, k in channel["keys"].items()} == {"0": [0], "12": [40]}
    # The ruler is a slider, and what it comes to is told.
    keys.to(page.get_by_role("slider", name="Ruler"))
    keys.press("Home", "ArrowRight")
    expect(page.get_by_label("Frame", exact=True)).to_have_value("2")
    expect(page.get_by_role("slider", name="Ruler")).to_have_attribute("aria-valuenow", "2")
    expect(page.get_by_role("status").filter(has_text="Frame 2 of 48, 0 keys here")).to_have_count(1)
    # On the sheet the second key goes on by a frame.
    keys.to(page.get_by_role("grid", name="Keys by frame"))
    keys.press("End", "Alt+ArrowRight")
    saved(page)
    channel = next(c for c in document(page, service.address, "motion")["channels"].values() if c["kind"] == "turn")
    assert sorted(map(int, channel["keys"])) == [0, 13]

    # The film, made and fetched. A wrong number keeps it from being ordered.
    keys.to(page.get_by_role("link", name="Render").first, back=True)
    keys.press("Enter")
    last = page.get_by_label("To frame")
    keys.fill(last, "many")
    expect(last).to_have_attribute("aria-invalid", "true")
    expect(page.get_by_role("alert").filter(has_text="A number from")).to_be_visible()
    render = page.get_by_role("button", name="Render", exact=True)
    keys.do(render)
    expect(last).to_be_focused()
    expect(page.locator("[data-state]")).to_have_count(0)
    keys.fill(last, "20")
    keys.do(render)
    expect(page.locator('[data-state="done"]')).to_be_visible(timeout=60_000)
    expect(page.get_by_role("status").filter(has_text="is done")).to_have_count(1)
    with page.expect_download() as fetched:
        keys.do(page.get_by_role("link", name="Fetch"))
    film = tmp_path / "film.mp4"
    fetched.value.save_as(film)
    with av.open(str(film)) as container:
        frames = [f.to_ndarray(format="rgb24").astype(int) for f in container.decode(video=0)]
    assert len(frames) == 20

    def middle(frame: np.ndarray) -> tuple[float, float]:
        ys, xs = np.nonzero((frame[:, :, 0] > 150) & (frame[:, :, 1] < 90) & (frame[:, :, 2] < 90))
        return float(xs.mean()), float(ys.mean())

    (x0, y0), (x1, y1) = middle(frames[0]), middle(frames[13])
    angles = [np.degrees(np.arctan2(y - 240, x - 632)) for x, y in ((x0, y0), (x1, y1))]
    assert angles[1] - angles[0] == pytest.approx(40, abs=2), "the flag turns about the pin that was set by keys"


def test_joints_handles_shapes_and_the_view_by_keys(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    client = shared.client()
    page.goto(f"{shared.address}/p/{production}/rig")
    keys = Keys(page)
    drawn(page)
    joints = lambda: {j["name"]: j for j in documents(client, production)["a"]["joints"].values()}  # noqa: E731
    # A joint by the cross, on the one that is chosen; then moved by arrows and by numbers.
    known = set(joints())
    keys.press("j")
    keys.to(page.get_by_role("tree").locator('[tabindex="0"]'))
    keys.press("t")
    expect(page.get_by_role("treeitem", name="tail")).to_be_focused()
    keys.to(page.locator(".stage"))
    keys.press("x", "Shift+ArrowDown", " ")
    saved(page)
    (made,) = set(joints()) - known
    one = joints()[made]
    assert one["parent"] == "tail"
    keys.press("x")
    expect(page.locator(".cross")).to_have_count(0)
    keys.press("ArrowRight", "Shift+ArrowUp")
    saved(page)
    moved = joints()[made]["rest"]
    place = page.get_by_label(f"{made}, x")
    held = float(place.input_value())
    keys.fill(place, str(held + 25))
    saved(page)
    assert joints()[made]["rest"]["x"] - moved["x"] == pytest.approx(25, abs=0.2)
    # A handle by numbers.
    keys.to(page.locator(".stage"))
    keys.press("h")
    keys.fill(page.get_by_label("New handle, x"), "200")
    keys.fill(page.get_by_label("New handle, y"), "120")
    keys.do(page.get_by_role("button", name="Add the handle"))
    saved(page)
    (handle,) = [j for j in joints().values() if j["handle"]]
    place = page.get_by_label(f"{handle['name']}, x")
    eventually(lambda: float(place.input_value()), 200.0)

    # A shape drawn, its points walked, moved, added.
    page.goto(f"{shared.address}/p/{production}/pieces")
    drawn(page)
    before = set(documents(client, production)["a"]["pieces"])
    keys.press("r")
    keys.to(page.locator(".stage"))
    keys.press("x", "Enter", *["Shift+ArrowRight"] * 8, *["Shift+ArrowDown"] * 5, "Enter")
    saved(page)
    (shape,) = set(documents(client, production)["a"]["pieces"]) - before
    points = lambda: [  # noqa: E731
        (p["x"], p["y"]) for p in documents(client, production)["a"]["pieces"][shape]["drawings"][0]["shape"]["points"]
    ]
    xs, ys = zip(*points(), strict=True)
    assert max(xs) - min(xs) == pytest.approx(80, abs=0.5)
    assert max(ys) - min(ys) == pytest.approx(50, abs=0.5)
    keys.press("x", "o")
    start = points()
    select = page.get_by_label("Point", exact=True)
    keys.choose(select, f"1 of {len(start)}")
    keys.to(page.locator(".stage"))
    keys.press("ArrowLeft", "Shift+ArrowUp")
    saved(page)
    eventually(lambda: points()[0] == pytest.approx((start[0][0] - 1, start[0][1] - 10), abs=0.05), True)
    assert points()[1:] == start[1:]
    keys.do(page.get_by_role("button", name="Another point"))
    saved(page)
    assert len(points()) == len(start) + 1

    # The view: closer, shifted, and fitted again.
    stage = page.locator(".stage")
    view = lambda: [float(stage.get_attribute(f"data-{k}") or 0) for k in ("scale", "x", "y")]  # noqa: E731
    keys.to(stage)
    # The cross took the view along when it left what was seen.
    followed = view()
    keys.press("0")
    fitted = view()
    assert followed != fitted
    keys.press("+")
    assert view()[0] == pytest.approx(fitted[0] * 1.25)
    keys.press("Control+ArrowLeft")
    closer = view()
    keys.press("Control+ArrowRight", "Control+ArrowDown")
    assert view()[1] == pytest.approx(closer[1] - 60)
    assert view()[2] == pytest.approx(closer[2] - 60)
    keys.press("0")
    assert view() == pytest.approx(fitted)
    keys.do(page.get_by_role("button", name="Farther away"))
    assert view()[0] == pytest.approx(fitted[0] / 1.25)
    keys.do(page.get_by_role("button", name="Fit the view"))
    assert view() == pytest.approx(fitted)


def test_two_fingers_zoom_and_shift_and_one_is_a_hand(
    shared: Service, production: str, new_page: Callable[..., Page]
) -> None:
    page = new_page()
    page.goto(f"{shared.address}/p/{production}/pieces")
    drawn(page)
    stage = page.locator(".stage")
    box = stage.bounding_box()
    assert box is not None
    view = lambda: [float(stage.get_attribute(f"data-{k}") or 0) for k in ("scale", "x", "y")]  # noqa: E731
    before, documents_before = view(), documents(shared.client(), production)
    touch = page.context.new_cdp_session(page)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def put(kind: str, *places: tuple[float, float]) -> None:
        points = [{"x": px, "y": py, "id": n} for n, (px, py) in enumerate(places)]
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    put("touchStart", (x - 50, y))
    put("touchStart", (x - 50, y), (x + 50, y))
    for n in range(1, 6):
        put("touchMove", (x - 50 - 10 * n, y + 4 * n), (x + 50 + 10 * n, y + 4 * n))
    put("touchEnd")
    scale, sx, sy = view()
    assert scale == pytest.approx(before[0] * 2, rel=0.02)
    # What lay between the fingers lies between them still, twenty pixels down.
    middle = [(x - box["x"] - 1 - before[1]) / before[0], (y - box["y"] - 1 - before[2]) / before[0]]
    assert middle[0] * scale + sx == pytest.approx(x - box["x"] - 1, abs=2)
    assert middle[1] * scale + sy == pytest.approx(y - box["y"] - 1 + 20, abs=2)
    assert documents(shared.client(), production) == documents_before, "no piece was moved by it"
