"""What the browser tests share."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Service


@pytest.fixture(autouse=True)
def alone(shared: Service) -> Iterator[None]:
    """What a test made is gone when it is over: the next finds a service with nothing in it."""
    yield
    client = shared.client()
    for production in client.get("/productions").json():
        client.delete(f"/productions/{production['id']}")


@pytest.fixture
def fresh(shared: Service, new_page: Callable[..., Page]) -> tuple[Page, Service]:
    """A page on a new, empty production."""
    page = new_page()
    made = shared.client().post("/productions", json={"name": "Puppets"}).json()["id"]
    page.goto(f"{shared.address}/p/{made}/pieces")
    expect(page.get_by_text("Bring in your art")).to_be_visible()
    return page, shared
