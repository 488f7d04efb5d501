"""Rigs that are proposed, and rigs put on other art, against those that puppets are made for."""

from __future__ import annotations

from bench.scenes import report, seconds
from sorvan.core.rig.cutouts import cutouts
from sorvan.core.rig.proposal import proposed
from tests.loose import opened, reused, scored
from tests.loose_figures import ENGLISH, PUPPETS, biped, told


def main() -> None:
    """A table of what is right, wrong and left open, and what the largest of them takes."""
    print(f"{'proposed rigs':36}{'links right':>12}{'wrong':>7}{'open':>6}{'pins right':>12}{'wrong':>7}")
    for name, (make, named) in PUPPETS.items():
        s = scored(make(), named)
        print(f"{name:36}{s.right:12}{len(s.wrong):7}{len(s.open):6}{s.pins_right:12}{len(s.pins_wrong):7}")
    print(f"{'rigs on other art':36}{'joints right':>13}{'wrong':>7}{'open':>6}")
    found = reused()
    for rig in dict.fromkeys(r.rig for r in found):
        own = [r for r in found if r.rig == rig]
        right, wrong, left = sum(r.right for r in own), sum(len(r.wrong) for r in own), sum(len(r.open) for r in own)
        print(f"{rig:36}{right:13}{wrong:7}{left:6}")
    puppet, studio, _ = opened(biped(told({}, ENGLISH)))
    ids = list(puppet.order)
    ours = seconds(lambda: proposed(puppet, studio), 3)
    bare = seconds(lambda: cutouts(puppet, studio, ids), 3)
    report("proposed rig, 16 pieces", f"{ours * 1e3:.0f} ms", ours / bare, "laying their outlines out", "a second")
