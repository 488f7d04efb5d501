"""What the parts of a body without names hang on and are, by how they lie."""

from __future__ import annotations

from collections.abc import Mapping

from sorvan.core.model.puppet import Role, Side
from sorvan.core.rig.cutouts import COVERED, Contacts
from sorvan.core.rig.roles import ARM, LEG

_TRUNK: tuple[Role, ...] = ("spine", "pelvis")
RolesTold = dict[str, tuple[Role, Side]]


def chains(
    contacts: Contacts, loose: list[str], trunks: set[str], height: Mapping[str, int]
) -> tuple[dict[str, str], set[str]]:
    """What hangs on what where only overlaps tell, and for which of them another would do nearly as well."""
    found = contacts.found
    upon: dict[str, str] = {}
    for id in loose:
        larger = [k for k in found if k != id and found[k].area > found[id].area and height[k] < height[id]]
        under = [k for k in larger if contacts.covered(id, k) >= COVERED]
        if under:
            upon[id] = min(under, key=lambda k: found[k].area)
    frame = [id for id in found if id not in upon]
    if not frame:
        return {}, set()
    meet = {a: {b: w for b in frame if b != a and (w := contacts.strength(a, b)) > 0} for a in frame}
    largest = max(found[id].area for id in frame)
    root = max(frame, key=lambda id: (id in trunks, len(meet[id]) / max(1, len(frame)) + found[id].area / largest))
    tree: dict[str, str] = dict(upon)
    reached = {root}
    # The strongest overlaps first (Prim 1957).
    while waiting := [(w, a, b) for a in reached for b, w in meet[a].items() if b not in reached]:
        _, at, id = max(waiting)
        if id in loose:
            tree[id] = at
        reached.add(id)

    def deep(id: str) -> int:
        return 1 + deep(tree[id]) if id in tree else 0

    def crossing(one: str, two: str) -> bool:
        """Whether the second is the end of another limb that only lies over the first, as a foot does."""
        if one not in tree or two not in tree or two in tree.values() or not deep(two) >= deep(one) > 1:
            return False
        return all(meet[one][two] < meet[k].get(tree[k], 0.0) for k in (one, two))

    unsure: set[str] = set()
    for id, at in tree.items():
        # What meets another nearly as well, which is not next to the one it hangs on, might belong to either.
        near = (
            w
            for k, w in meet.get(id, {}).items()
            if k != at and tree.get(k) not in (at, id) and tree.get(at) != k and not crossing(id, k)
        )
        if id in meet and max(near, default=0.0) > 0.4 * meet[id].get(at, 0.0):
            unsure.add(id)
    return tree, unsure


def roles_by_form(parents: Mapping[str, str | None], contacts: Contacts) -> RolesTold:
    """Roles and sides of a figure that stands upright: one chain up from its middle, two down to the ground, and two
    from its upper half; nothing, where it is not so. Its middle may be two pieces, one below the other."""
    found = contacts.found
    under: dict[str, list[str]] = {}
    for id, parent in parents.items():
        if parent is not None and contacts.covered(id, parent) < COVERED:
            under.setdefault(parent, []).append(id)
    roots = [id for id in found if parents.get(id) is None and len(under.get(id, ())) >= 3]
    if len(roots) != 1:
        return {}
    root = roots[0]
    trunk = [root, *(id for id in under[root] if len(under.get(id, ())) >= 2)]
    if len(trunk) > 2:
        return {}
    boxes = [found[id].shape.bounds for id in trunk]
    l, t, r, b = (f(box[i] for box in boxes) for i, f in enumerate((min, min, max, max)))
    bottom = max(c.shape.bounds[3] for c in found.values())
    top = min(c.shape.bounds[1] for c in found.values())
    starts = [(on, id) for on in trunk for id in under[on] if id not in trunk]
    up, down, out = [], [], []
    for on, id in starts:
        chain = _chain(id, under)
        if chain is None:
            continue
        x, y = contacts.meeting(id, on)
        low = max(found[k].shape.bounds[3] for k in chain)
        high = min(found[k].shape.bounds[1] for k in chain)
        if y > (t + b) / 2 and low > bottom - 0.08 * (bottom - top):
            down.append(chain)
        elif y < t + 0.3 * (b - t) and abs(x - (l + r) / 2) < 0.25 * (r - l) and high < t:
            up.append(chain)
        elif y < (t + b) / 2:
            out.append(chain)
    if len(up) != 1 or len(down) != 2 or len(out) not in (0, 2):
        return {}
    trunk.sort(key=lambda id: found[id].middle[1])
    told: RolesTold = {id: (role, "centre") for id, role in zip(trunk, _TRUNK, strict=False)}
    head: tuple[Role, ...] = ("head",) if len(up[0]) == 1 else ("neck", "head")
    told |= {id: (role, "centre") for id, role in zip(up[0], head, strict=False)}
    for pair, line in ((down, LEG), (out, ARM)):
        for chain in pair:
            others = [c for c in pair if c is not chain]
            middle = found[chain[0]].middle[0]
            across = others and abs(found[others[0][0]].middle[0] - middle) > 0.15 * (r - l)
            # What lies to the left on the paper is the figure's right.
            side: Side = "centre" if not across else "right" if middle < found[others[0][0]].middle[0] else "left"
            if side == "centre":
                continue
            told |= {id: (role, side) for id, role in zip(chain, line, strict=False)}
    return told


def _chain(id: str, under: Mapping[str, list[str]]) -> list[str] | None:
    """A piece and what follows it one by one; None where it parts."""
    chain = [id]
    while following := under.get(chain[-1], []):
        if len(following) > 1 or len(chain) > 4:
            return None
        chain.append(following[0])
    return chain
