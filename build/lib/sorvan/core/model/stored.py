"""Reading documents that were written down, also by a Sorvan that let through what no longer may be.

What can't stand is taken out or cut to what fits, and is told, so that a production always opens again.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from sorvan.core.errors import Refusal
from sorvan.core.model.base import LONGEST_NAME
from sorvan.core.model.documents import DOCUMENT, AnyDocument, Documents
from sorvan.core.model.lost import called, lost
from sorvan.core.model.mending import document, mended
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import motions_of
from sorvan.core.model.voice import Voice


@dataclass(frozen=True)
class Opened:
    """Documents as they were read, and in a sentence each what had to be left out or cut."""

    documents: Documents
    left_out: tuple[str, ...] = ()


def read(bodies: Iterable[Mapping[str, Any]]) -> Documents:
    """The documents with these bodies, in this order. Raises `Refusal` if one can't be made sense of."""
    return tidied(Documents({d.id: d for d in map(document, bodies)}))


def opened(bodies: Mapping[str, Any], id: str, name: str) -> Opened:
    """The production `id`, called `name`, from all its documents' bodies by their id: whatever is sound, however little."""
    found: dict[str, AnyDocument] = {}
    told: list[str] = []
    name = name[:LONGEST_NAME].strip() or "?"
    for each, body in bodies.items():
        made, why = _opened(each, body)
        if each == id and made is None and isinstance(body, dict):
            made, why = _opened(each, {**body, "kind": "production", "id": id, "name": name})
            why = [f"The production “{name}”: its name or id could not be read.", *why]
        told += why
        if made is not None:
            found[each] = made
    if not isinstance(found.get(id), Production):
        found[id] = Production(id=id, name=name)
    for extra in [d.id for d in found.values() if isinstance(d, Production) and d.id != id]:
        told += [_whole(found.pop(extra))]
    before = Documents(found)
    after = tidied(before)
    return Opened(after, (*told, *_lost_between(before, after)))


def _opened(id: str, body: Any) -> tuple[AnyDocument | None, list[str]]:
    try:
        found = DOCUMENT.validate_python(body)
        lacks: list[str] = []
    except ValidationError:
        try:
            found = mended(body if isinstance(body, dict) else {})
        except Refusal:
            return None, [_whole(body)]
        lacks = list(lost(found, body, found.model_dump(mode="json")))
    return (found, lacks) if found.id == id else (None, [_whole(body)])


def _whole(document: Any) -> str:
    said = document if isinstance(document, dict) else getattr(document, "__dict__", {})
    kind = called(str(said.get("kind") or "document"))
    return f"The {kind} “{str(said.get('name', '?'))[:LONGEST_NAME]}” could not be read."


def _lost_between(before: Documents, after: Documents) -> Iterator[str]:
    for id, was in before.by_id.items():
        left = after.by_id.get(id)
        if left is None:
            yield _whole(was)
        elif left is not was:
            yield from lost(was, was.model_dump(mode="json"), left.model_dump(mode="json"))


def tidied(found: Documents) -> Documents:
    """The documents without what they say of one another's things that are not there."""
    puppets = {p.id for p in found.puppets()}
    found = found.without(*(m.id for m in found.motions() if m.puppet not in puppets))
    for puppet in list(found.puppets()):
        found = _with_swatches_there(found.swept(puppet.id), puppet)
    for motion in list(found.motions()):
        sounds = {id: p for id, p in motion.sounds.items() if isinstance(found.by_id.get(p.voice), Voice)}
        if len(sounds) != len(motion.sounds):
            found = found.with_(motion.changed(sounds=sounds))
    found = _with_shots_whole(found)
    production = found.production
    if production.backdrop is not None and found.backdrop() is None:
        found = found.with_(production.changed(backdrop=None))
    return found


def _with_shots_whole(found: Documents) -> Documents:
    """The documents with every shot in the order of the film, and no shot that speaks of what is not there."""
    puppets = {p.id for p in found.puppets()}
    for puppet in {c.puppet for s in found.all_shots() for c in s.cast.values()} - puppets:
        found = found.without_cast(puppet)
    motions = {m.id: m.puppet for m in found.motions()}
    for shot in found.all_shots():
        gone = {i for c in shot.cast.values() for i in motions_of(c) if motions.get(i) != c.puppet}
        for motion in gone:
            found = found.without_motion(motion, but_for=motions.get(motion))
        shot = found.shot(shot.id)
        sounds = {id: p for id, p in shot.sounds.items() if isinstance(found.by_id.get(p.voice), Voice)}
        if len(sounds) != len(shot.sounds):
            found = found.with_(shot.changed(sounds=sounds))
    there = [s.id for s in found.all_shots()]
    named = [id for id in dict.fromkeys(found.production.shots) if id in there]
    order = (*named, *(id for id in there if id not in named))
    return found if order == found.production.shots else found.with_(found.production.changed(shots=order))


def _with_swatches_there(documents: Documents, puppet: Puppet) -> Documents:
    known = documents.production.swatches
    kept = {
        p.id: p.changed(swatches={k: s for k, s in p.swatches.items() if s in known})
        for p in puppet.pieces.values()
        if not known.keys() >= set(p.swatches.values())
    }
    return documents.with_(puppet.with_pieces(*kept.values())) if kept else documents
