"""What the browser tests share."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Service


@pytest.fixture(autouse=True)
def alone(shared: Service) -> Iterator[None]:
    """What a test made is gone when it is over, so that the next finds what this one found."""
    client = shared.client()
    before = {p["id"] for p in client.get("/productions").json()}
    yield
    for production in client.get("/productions").json():
        if production["id"] not in before:
            client.delete(f"/productions/{production['id']}")


@pytest.fixture
def fresh(shared: Service, new_page: Callable[..., Page]) -> tuple[Page, Service]:
    """A page on a new, empty production."""
    page = new_page()
    made = shared.client().post("/productions", json={"name": "Puppets"}).json()["id"]
    page.goto(f"{shared.address}/p/{made}/pieces")
    expect(page.get_by_text("Bring in your art")).to_be_visible()
    return page, shared
