"""A figure of loose pieces that is hung together as told, and what the checks find in it."""

from __future__ import annotations

from typing import Any

from sorvan.core.checks.rig import findings
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from tests.core.worlds import do, piece

PLACES: dict[str, tuple[float, float]] = {
    "hips": (200, 200),
    "chest": (200, 120),
    "head": (200, 80),
    **{f"{side} {part}": (200 + way * dx, y) for side, way in (("left", 1), ("right", -1)) for part, dx, y in (
        ("upper arm", 30, 110), ("forearm", 45, 160), ("hand", 55, 205), ("thigh", 18, 205), ("shin", 20, 290), ("foot", 22, 370),
    )},
}  # fmt: skip
LINKS: dict[str, str | None] = {
    "hips": None,
    "chest": "hips",
    "head": "chest",
    **{f"{s} {c}": p if p in PLACES else f"{s} {p}" for s in ("left", "right") for c, p in (
        ("upper arm", "chest"), ("forearm", "upper arm"), ("hand", "forearm"), ("thigh", "hips"), ("shin", "thigh"), ("foot", "shin"),
    )},
}  # fmt: skip


def figure(
    links: dict[str, str | None] | None = None, places: dict[str, tuple[float, float]] | None = None
) -> Documents:
    """A figure of loose pieces, one a joint, hung together as told. Ids are the names with dashes."""
    where = {**PLACES, **(places or {})}
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Porter"})
    made = [{**piece(id_of(n), *at), "name": n} for n, at in where.items()]
    for one in made:
        # In the middle of what it turns: the feet point to no side.
        one["drawing"]["pivot"] = [10, 4]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": made})
    for name, parent in {**LINKS, **(links or {})}.items():
        if parent is not None:
            link = {"do": "link-joint", "puppet": "a", "joint": id_of(name), "parent": id_of(parent)}
            documents = do(documents, link)
    return documents


def id_of(name: str) -> str:
    return name.replace(" ", "-")


def found(documents: Documents) -> dict[str, Any]:
    return {f.check: f for f in findings(documents.puppet("a"))}


def mended(documents: Documents, check: str) -> Documents:
    mend = found(documents)[check].mend
    assert mend is not None
    return mend.apply(documents)
