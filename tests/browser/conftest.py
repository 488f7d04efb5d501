"""What the browser tests share."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Page, expect

from sorvan.store.cluster import Cluster
from tests.conftest import Service, empty_database


@pytest.fixture
def fresh(serve: Callable[..., Service], new_page: Callable[..., Page]) -> tuple[Page, Service]:
    """A page on a new, empty production, in a service of its own."""
    service, page = serve(), new_page()
    page.goto(service.address)
    page.get_by_role("button", name="New production").click()
    page.get_by_label("Name").fill("Puppets")
    page.get_by_role("dialog").get_by_role("button", name="New production").click()
    expect(page.get_by_text("Bring in your art")).to_be_visible()
    return page, service


@pytest.fixture(scope="module")
def demo(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    """A service with the demo production."""
    service = Service(empty_database(cluster), tmp_path_factory.mktemp("demo"), demo=True)
    service.start()
    yield service
    service.kill()
