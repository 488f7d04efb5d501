"""What names tell of all the loose pieces of a figure together, and which of them are no part of it."""

from __future__ import annotations

from collections.abc import Mapping

import shapely

from sorvan.core.model.puppet import Puppet, Role
from sorvan.core.rig.cutouts import Cutout
from sorvan.core.rig.names import side_of, words
from sorvan.core.rig.roles import role_by_name

FACES = frozenset(("face", "gesicht", "visage", "figure", "cara", "rostro", "viso", "volto", "gezicht", "kasvot"))
"""Words for a face, which stands for the head where there is no other."""
ABOUT_HIPS = frozenset(
    (
        "seat", "bottom", "rump", "skirt", "shorts", "trousers", "pants", "jeans", "rock", "hose", "jupe", "pantalon",
        "falda", "pantalones", "gonna", "pantaloni", "rok", "broek", "hame", "housut",
    )
)  # fmt: skip
"""Words for what is worn about the hips, which stands for them where there are no others."""
CANNONS = frozenset(("cannon", "metatarsus", "metacarpus", "pastern", "hock", "rohrbein"))
"""Words for the third bone of a leg that stands on its toes."""
BACKDROPS = frozenset(
    (
        "backdrop", "background", "scenery", "wall", "sky", "room", "classroom", "stage", "street", "landscape", "set",
        "hintergrund", "kulisse", "fond", "decor", "fondo", "sfondo", "achtergrond", "tausta",
    )
)  # fmt: skip
"""Words for what stands behind a figure."""
_TRUNK: tuple[Role, ...] = ("spine", "pelvis", "neck", "head")
WHOLE = 0.95
"""The part of everything else that a backdrop covers."""
FILLED = 0.9
"""The part of its box that a backdrop fills."""


def told_roles(puppet: Puppet, found: Mapping[str, Cutout]) -> dict[str, Role]:
    """The roles of joints as told, or by their names: each by itself, and then by what the others are. Without any part
    of a trunk names tell of no body, whatever the legs of a table are called."""
    joints = {id: puppet.joints[id] for id in found}
    told: dict[str, Role] = {id: j.role for id, j in joints.items() if j.role is not None}
    roles = {id: r for id, j in joints.items() if (r := told.get(id) or role_by_name(j.name)) is not None}
    said = {id: set(words(j.name)) for id, j in joints.items()}
    instead: tuple[tuple[Role, frozenset[str]], ...] = (("head", FACES), ("pelvis", ABOUT_HIPS))
    for role, listed in instead:
        own = [id for id in found if id not in roles and said[id] & listed]
        if role not in roles.values() and len(own) == 1 and (role == "head" or "thigh" in roles.values()):
            roles[own[0]] = role
    _four_parts(puppet, roles, told, said)
    if not any(role in _TRUNK for role in roles.values()):
        return told
    return roles


def _four_parts(puppet: Puppet, roles: dict[str, Role], told: Mapping[str, Role], said: Mapping[str, set[str]]) -> None:
    """Of a leg with a third bone that, and what it stands on instead of a foot."""
    legs: dict[tuple[str, ...], list[str]] = {}
    for id in said:
        role = roles.get(id)
        if role == "foot" or said[id] & CANNONS:
            name = puppet.joints[id].name
            legs.setdefault((side_of(name), *sorted(said[id] & _WHICH)), []).append(id)
    for ids in legs.values():
        bones = [id for id in ids if said[id] & CANNONS]
        if len(bones) != 1:
            continue
        for id in ids:
            if id not in told:
                roles[id] = "foot" if id == bones[0] else "toe"


_WHICH = frozenset(("front", "fore", "hind", "back", "rear", "1", "2", "3", "4", "near", "far"))
"""Words that tell which leg a part is of, beside its side."""


def backdrops(puppet: Puppet, found: Mapping[str, Cutout], roles: Mapping[str, Role]) -> set[str]:
    """What stands behind a figure and is no part of it: a filled box at the very back that covers all else, or what is
    called so and is larger than anything else."""
    behind: set[str] = set()
    at_back = [puppet.pieces[id].joint for id in puppet.order if puppet.pieces[id].joint in found]
    for id in at_back:
        rest = [k for k in found if k not in behind and k != id]
        if len(rest) < 2 or id in roles:
            break
        held = found[id]
        l, t, r, b = held.shape.bounds
        largest = max(found[k].area for k in rest)
        over = [k for k in rest if held.shape.intersection(found[k].shape).area > WHOLE * found[k].area]
        called = bool(BACKDROPS & set(words(puppet.joints[id].name))) and held.area > 2 * largest
        filled = held.area > FILLED * shapely.box(l, t, r, b).area and held.area > 6 * largest
        if not (called or (filled and len(over) >= 0.8 * len(rest))):
            break
        behind.add(id)
    return behind
