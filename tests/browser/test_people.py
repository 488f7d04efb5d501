"""Where people sign in: the door, sharing, and who did what."""

from __future__ import annotations

import os
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.hands import bench, eventually, saved
from tests.browser.test_access import serious
from tests.conftest import ELSEWHERE, Service, change
from tests.service.test_http import documents
from tests.service.test_people import as_, password, quay  # noqa: F401 - a fixture

SHOTS = os.environ.get("SORVAN_LOOK")


def enter(page: Page, name: str) -> None:
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password(name))
    page.get_by_label("Password").press("Enter")


def test_signing_in_sharing_working_together_and_leaving(
    quay: Service,  # noqa: F811
    new_page: Callable[..., Page],
) -> None:
    ada, dov = new_page(), new_page()
    # From another machine, over plain HTTP.
    away = quay.address.replace("127.0.0.1", ELSEWHERE)
    # Whatever address is opened, first one signs in; then that is where one is.
    ada.goto(f"{away}/p/quay/motion")
    expect(ada.get_by_role("heading", level=1)).to_have_text("Sign in to Sorvan")
    assert serious(ada) == []
    if SHOTS:
        ada.screenshot(path=f"{SHOTS}/signin.png")
    ada.get_by_label("Name").fill("Ada")
    ada.get_by_label("Password").fill("what was it again")
    ada.get_by_label("Password").press("Enter")
    expect(ada.get_by_role("alert")).to_contain_text("The name or the password is wrong.")
    enter(ada, "Ada")
    expect(ada.get_by_role("tab", name="Motion").or_(ada.locator("a.tab.active"))).to_contain_text("Motion")
    expect(ada.get_by_text("Saved", exact=True)).to_be_visible()
    assert not ada.evaluate("window.isSecureContext")
    # Somebody else sees nothing of it until it is shared.
    dov.goto(away)
    enter(dov, "Dov")
    expect(dov.get_by_text("Nothing here yet.")).to_be_visible()
    ada.goto(away)
    expect(ada.get_by_role("button", name="Share Last ferry at nine")).to_be_visible()
    assert serious(ada) == []
    ada.get_by_role("button", name="Share Last ferry at nine").click()
    dialog = ada.get_by_role("dialog")
    expect(dialog.get_by_label("Cleo")).to_have_value("look")
    dialog.get_by_label("Dov").select_option("edit")
    if SHOTS:
        ada.screenshot(path=f"{SHOTS}/share.png")
    assert serious(ada, ".modal.show") == []
    dialog.get_by_role("button", name="Done").click()
    dov.reload()
    expect(dov.get_by_text("shared with you, who may edit it")).to_be_visible()
    expect(dov.get_by_role("button", name="Remove Last ferry at nine")).to_have_count(0)
    if SHOTS:
        dov.screenshot(path=f"{SHOTS}/home.png")
    dov.get_by_role("button", name="Open Last ferry at nine", exact=True).click()
    bench(dov, "Pieces")
    # What one does the other sees, and by whom.
    ada.goto(f"{away}/p/quay/pieces")
    expect(ada.get_by_text("Saved", exact=True)).to_be_visible()
    name = change(as_(quay, "Dov"), "quay", {"do": "set-production", "name": "Last ferry at ten"}).json()["label"]
    for page in (ada, dov):
        expect(page.get_by_role("button", name=f"Undo: {name}, by Dov")).to_be_enabled()
    ada.keyboard.press("Control+z")
    saved(ada)
    expect(dov.get_by_role("button", name=f"Redo: {name}, by Dov")).to_be_enabled()
    # To look only is told, and what is done all the same is refused in words.
    owner = as_(quay, "Ada")
    owner.put("/productions/quay/shares", json={"name": "Dov", "may": "look"})
    dov.goto(f"{away}/p/quay/pieces")
    expect(dov.get_by_text("Look only")).to_be_visible()
    dov.get_by_role("button", name="Last ferry at nine", exact=False).first.click()
    dov.get_by_role("dialog").get_by_label("Name").fill("Mine now")
    dov.get_by_role("dialog").get_by_label("Name").press("Enter")
    expect(dov.get_by_role("alert").filter(has_text="You may look at this production")).to_be_visible()
    if SHOTS:
        dov.screenshot(path=f"{SHOTS}/lookonly.png")
    owner.put("/productions/quay/shares", json={"name": "Dov", "may": None})
    expect(dov.get_by_role("heading", level=1)).to_have_text("There is no such production")
    # Signed out, nothing is left to be seen.
    ada.goto(away)
    ada.get_by_role("button", name="Sign out").click()
    expect(ada.get_by_role("heading", level=1)).to_have_text("Sign in to Sorvan")
    ada.goto(f"{away}/p/quay/shots")
    expect(ada.get_by_role("heading", level=1)).to_have_text("Sign in to Sorvan")


def test_what_was_done_while_a_session_ran_out_is_kept_for_whom_it_was_done_by(
    quay: Service,  # noqa: F811
    new_page: Callable[..., Page],
) -> None:
    """And is nobody else's to do."""

    def bear_in(page: Page, name: str) -> None:
        enter(page, name)
        expect(page.get_by_text("Saved", exact=True)).to_be_visible()

    def named(page: Page, name: str) -> None:
        """Where the session ran out a change is typed, and the door shows."""
        page.get_by_role("button", name="Last ferry").click()
        page.get_by_role("dialog").get_by_label("Name", exact=True).fill(name)
        # Nothing else is on its way that the door would answer first.
        page.wait_for_load_state("networkidle")
        page.request.delete(f"{quay.address}/api/session")
        page.get_by_role("dialog").get_by_label("Name", exact=True).press("Enter")
        expect(page.get_by_role("heading", level=1)).to_have_text("Sign in to Sorvan")

    def called() -> str:
        return str(documents(as_(quay, "Ada"), "quay")["quay"]["name"])

    page = new_page()
    page.goto(f"{quay.address}/p/quay/pieces")
    bear_in(page, "Ada")
    named(page, "Last ferry at six")
    bear_in(page, "Ada")
    eventually(called, "Last ferry at six")
    as_(quay, "Ada").put("/productions/quay/shares", json={"name": "Dov", "may": "edit"})
    named(page, "Last ferry at seven")
    bear_in(page, "Dov")
    # The next change of Dov's is there, so whatever came before it would be too.
    page.get_by_role("button", name="Last ferry").click()
    page.get_by_role("dialog").get_by_label("Stage width").fill("1000")
    page.get_by_role("dialog").get_by_label("Stage width").press("Enter")
    eventually(lambda: documents(as_(quay, "Ada"), "quay")["quay"]["width"], 1000)
    assert called() == "Last ferry at six"
