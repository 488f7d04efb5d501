"""Bringing art in, and making puppets bend: what each costs, against the bare work it stands on."""

from __future__ import annotations

import math
import random
import time
from xml.etree import ElementTree

import numpy as np
from scipy.sparse import csc_array, identity
from scipy.sparse.linalg import splu
from scipy.spatial import Delaunay
from shapely import box, union_all

from bench.scenes import leaf, report, seconds
from sorvan.core.art.outlines import silhouette
from sorvan.core.deform.bend import Bones, bend_ready, weighted
from sorvan.core.deform.mesh import mesh_over, stiffness
from sorvan.core.deform.sheet import BLOCK, ROUNDS, solved, solver_on
from sorvan.core.model.puppet import Bend
from sorvan.interchange.files import read_file
from sorvan.picture.studio import Studio


def drawing_of_200() -> bytes:
    """An SVG of 200 named groups, about 10 MB of curves."""
    chance = random.Random(9)

    def blob(steps: int) -> str:
        x, y = chance.uniform(100, 1100), chance.uniform(100, 600)
        curves = "".join("c" + " ".join(f"{chance.uniform(-9, 9):.3f}" for _ in range(6)) for _ in range(steps))
        return f"M{x:.2f} {y:.2f}{curves}z"

    parts = "".join(
        f'<g id="part {i}">'
        + "".join(f'<path d="{blob(132)}" fill="#{chance.randrange(1 << 24):06x}"/>' for _ in range(10))
        + "</g>"
        for i in range(200)
    )
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="720" viewBox="0 0 1280 720">'
    return f"{head}{parts}</svg>".encode()


def bring_in() -> None:
    """The large drawing, against only parsing its XML."""
    data = drawing_of_200()
    began = time.perf_counter()
    found = read_file(data, "quay.svg")
    ours = time.perf_counter() - began
    bare = seconds(lambda: ElementTree.fromstring(data), 3)
    what = f"import, {len(found.pieces)} pieces, {len(data) / 2**20:.0f} MB"
    report(what, f"{ours:.2f} s", ours / bare, "the time of parsing its XML alone", "seconds")


def weights() -> None:
    """Meshes, weights and added points for 60 pieces of three joints each, against the bare linear algebra."""
    arts = [leaf(i) for i in range(60)]
    studio = Studio(lambda _: b"")
    bend = Bend(joints=("a", "b", "c"))

    def all_of_them() -> None:
        for art in arts:
            shape = silhouette(art, studio)
            bones = Bones(bend.joints, ((0.0, 0.0), (30.0, 0.0), (60.0, 0.0)), (-1, 0, 1))
            bend_ready(art, weighted(shape, bones, bend), bones, bend)

    shape = silhouette(arts[0], studio)
    mesh = weighted(shape, Bones(bend.joints, ((0, 0), (30, 0), (60, 0)), (-1, 0, 1)), bend).mesh
    system = csc_array(stiffness(mesh)[0] + identity(len(mesh.vertices)))
    right = np.random.default_rng(1).random((len(mesh.vertices), 3))

    def bare() -> None:
        for _ in arts:
            Delaunay(mesh.vertices)
            splu(system).solve(right)

    ours, reference = seconds(all_of_them, 3), seconds(bare, 3)
    report(
        "weights, 60 pieces", f"{ours * 1e3:.0f} ms", ours / reference, "bare triangulation and solve", "≤ 1 s in all"
    )


def sheet() -> None:
    """A sheet of about 1,000 triangles over 240 frames, against the same number of bare SciPy solves."""
    shape = union_all([box(0, 0, 60, 300), box(0, 260, 140, 310)])
    pins = [(30.0, 10.0), (30.0, 150.0), (30.0, 270.0), (12.0, 300.0), (90.0, 300.0), (130.0, 295.0)]
    wanted = 700
    for _ in range(4):
        solver = solver_on(mesh_over(shape, wanted, 4, pins), len(pins))
        wanted = round(wanted * 1000 / len(solver.mesh.triangles))
    frames = 240
    rest = solver.mesh.vertices[: len(pins)]
    places = (rest[:, 0] + 1j * rest[:, 1])[:, None] + np.outer(
        np.linspace(0, 1, len(pins)), 30 * np.sin(np.arange(frames) / 9)
    )
    lone = np.ones(frames, dtype=complex)
    ours = seconds(lambda: solved(solver, places, lone, 0, frames), 5)
    assert solver.factor is not None
    right = np.random.default_rng(2).random((len(solver.mesh.vertices) - len(pins), 2 * BLOCK))

    def bare() -> None:
        for _ in range(ROUNDS * math.ceil(frames / BLOCK)):
            solver.factor.solve(right)  # type: ignore[union-attr]

    what = f"bend sheet, {len(solver.mesh.triangles)} triangles × {frames}"
    report(what, f"{ours * 1e3:.0f} ms", ours / seconds(bare, 5), "bare SciPy solves of the same system", "≤ 3")


if __name__ == "__main__":
    bring_in()
    weights()
    sheet()
