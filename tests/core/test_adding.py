"""What CONTRIBUTING tells is enough: followed word by word on a copy of the house, a new thing works all through it."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

ROOT = Path(__file__).parents[2]
Edit = Callable[[str], str]


def after(anchor: str, text: str) -> Edit:
    """Put text in after what stands there."""

    def edit(held: str) -> str:
        assert held.count(anchor) == 1, anchor
        return held.replace(anchor, anchor + text)

    return edit


SWAY = '''"""Swaying."""
from sorvan.core.model.channel import Key
from sorvan.core.model.recipe import Sway
from sorvan.core.motion.recipes import Written
from sorvan.core.recipes.kind import Kind

class Swaying(Kind[Sway]):
    of = Sway
    name = "Sway"
    does = "to and fro"

    def write(self, recipe, on):
        end = min(recipe.end or on.motion.length - 1, on.motion.length - 1)
        frames = range(recipe.start, end + 1, recipe.every)
        keys = {f: Key(value=(recipe.by * (-1) ** n,)) for n, f in enumerate(frames)}
        return Written({f"{recipe.joint}.turn": keys})

    def begun(self, base, on, chosen):
        return Sway(joint=chosen.joint, **base)

    def carried_over(self, recipe, to):
        joint = to.owner("turn", recipe.joint)
        return recipe.changed(joint=joint) if joint else None
'''
RECIPE_PARAMETERS = '''class Sway(RecipeBase):
    """To and fro."""

    kind: Literal["sway"] = "sway"
    joint: Id
    start: At = 0
    end: Last = 0
    every: Annotated[int, Field(ge=1, le=48), Time.LASTS, Shown("To and fro every", "fr", 1, 24)] = 4
    by: Annotated[float, Field(ge=0, le=90), Shown("By", "°", 0, 45)] = 10.0


'''
RECIPE_EDITS: dict[str, Edit | str] = {
    "core/model/recipe.py": lambda held: held.replace(
        "AnyRecipe = Gait |", RECIPE_PARAMETERS + "AnyRecipe = Sway | Gait |"
    ),
    "core/recipes/sway.py": SWAY,
}
RECIPE = """
from sorvan.core.recipes.registry import described
from tests.core.walkers import walker
from tests.core.worlds import do
d = do(walker(), {"do": "set-motion", "motion": "m", "length": 24, "cycle": False})
d = do(d, {"do": "begin-recipe", "motion": "m", "id": "r", "kind": "sway", "joint": "head", "frame": 3})
begun = sorted(d.motion("m").channels["head.turn"].keys)
d = do(d, {"do": "change-recipe", "motion": "m", "recipe": "r", "given": {"start": 8, "by": 20}})
d = do(d, {"do": "insert-time", "motion": "m", "at": 4, "frames": 6})
moved = sorted(d.motion("m").channels["head.turn"].keys), d.motion("m").recipes["r"].start
d = do(d, {"do": "convert-rate", "rate": {"numerator": 48}})
page = next(k for k in described() if k["kind"] == "sway")
answer([begun, moved, d.motion("m").recipes["r"].every, [s["label"] for s in page["settings"]]])
"""

CHANNEL_EDITS: dict[str, Edit | str] = {
    "core/model/channels.py": lambda held: after(
        '    "dial": Facts("dial", (0.0,), "", "sum", "dial", "ranged", driven=False, unseen=2.0),\n',
        '    "blur": Facts("piece", (0.0,), "units", "sum", "blur", unseen=0.5),\n',
    )(held.replace('"reach", "dial"]', '"reach", "dial", "blur"]')),
}
CHANNEL = """
from sorvan.core.plan.evaluate import Evaluation
from tests.core.staging import acted, on_stage, strolling
from tests.core.worlds import do
d = strolling()
blur = [{"joint": "head", "kind": "blur", "frame": f, "value": [v]} for f, v in ((0, 0.0), (6, 12.0))]
d = do(d, {"do": "set-keys", "motion": "m", "keys": blur})
own = Evaluation.full(d.puppet("a"), d.motion("m")).value("head", "blur", 3)
stops = [{"at": 0}, {"at": 100, "values": {"head.blur": [50]}}]
d = do(d, {"do": "set-dial", "puppet": "a", "dial": {"id": "haze", "name": "haze", "stops": stops}})
d = do(d, {"do": "set-keys", "motion": "m", "keys": [{"joint": "haze", "kind": "dial", "frame": 0, "value": [20]}]})
driven = float(Evaluation.full(d.puppet("a"), d.motion("m")).values["head.blur"][0, 3])
d = on_stage(d, {})
d = do(d, {"do": "pose-in-shot", "shot": "s", "cast": "c", "frame": 30, "values": {"head.blur": [7.0]}})
posed = acted(d).evaluation.value("head", "blur", 30)
try:
    do(d, {"do": "set-keys", "motion": "m", "keys": [{"joint": "nobody", "kind": "blur", "frame": 0, "value": [1]}]})
    refused = False
except Exception as error:
    refused = "gone" in str(error)
answer([own, driven, posed, refused])
"""

FORMAT_ROW = '    "mkv": FileFormat(".mkv", "video/x-matroska", "MKV film", "MKV film (H.264)", "film", heard=True),\n'
FORMAT_EDITS: dict[str, Edit | str] = {
    "picture/formats.py": lambda held: held.replace('"png", "wav"]', '"png", "wav", "mkv"]').replace(
        '    "gif": FileFormat(', FORMAT_ROW + '    "gif": FileFormat('
    ),
    "picture/encoding.py": after("FILMS = {\n", '    "mkv": Coding("matroska", "libx264", {"crf": "16"}, "aac"),\n'),
}
FORMAT = """
import json, pathlib
import av
from sorvan.interchange.archive import read_archive
from sorvan.picture.formats import BY_ENDING
from sorvan.service.openapi import document
from sorvan.picture.film import FilmSettings, make
from sorvan.core.model.production import Rate
from sorvan.picture.paint import Painter
from sorvan.core.plan.plan import Plan
out = pathlib.Path("out.mkv")
make(Plan(64, 64, "#ff0000ff", 3, ()), Painter(lambda _: b""), FilmSettings("mkv", 0, 3, 64, 64, Rate()), out, lambda _: None)
with av.open(str(out)) as film:
    frames = [f.to_ndarray(format="rgb24")[32, 32].tolist() for f in film.decode(video=0)]
page = [f["name"] for f in json.loads(document())["x-formats"]]
answer([BY_ENDING[".mkv"], len(frames), frames[0], "MKV film (H.264)" in page])
"""

CHECK_COMMAND = '''

class Cheer(MotionCommand):
    """Say hurrah."""

    do: Literal["cheer"] = "cheer"

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return motion.changed(name="Hurrah")

    def label(self, documents: Documents) -> str:
        return "Cheer"


'''
CHECK_CHECK = '''

def too_quiet(seen):
    """Nobody cheers."""
    if seen.shot.name != "Hurrah":
        yield ShotFinding("quiet", "Nobody cheers.")


'''
CHECK_EDITS: dict[str, Edit | str] = {
    "core/change/recipes.py": lambda held: held.replace(
        "RecipeCommand = DoRecipe", CHECK_COMMAND + "RecipeCommand = Cheer | DoRecipe"
    ),
    "core/checks/in_shots.py": lambda held: held.replace(
        "SHOT_CHECKS: Sequence", CHECK_CHECK + "SHOT_CHECKS: Sequence"
    ).replace("    nobody,\n    hidden_cast,\n", "    too_quiet,\n    nobody,\n    hidden_cast,\n"),
}
CHECK = """
from sorvan.core.checks.shots import findings
from tests.core.staging import strolling
from tests.core.worlds import do
d = do(strolling(), {"do": "cheer", "motion": "m"})
answer([d.motion("m").name, [f.text for f in findings(d, d.shot("s"))][0]])
"""


@pytest.fixture(scope="module")
def answers(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    """What works in a copy of the house to which all of it was added, each by what it tells of itself."""
    house = tmp_path_factory.mktemp("house")
    for part in ("sorvan", "tests", "bench"):
        ignored = shutil.ignore_patterns("page", "browser", "__pycache__")
        shutil.copytree(ROOT / part, house / part, ignore=ignored)
    for path, edit in (RECIPE_EDITS | CHANNEL_EDITS | FORMAT_EDITS | CHECK_EDITS).items():
        file = house / "sorvan" / path
        assert isinstance(edit, str) != file.exists()
        file.write_text(edit if isinstance(edit, str) else edit(file.read_text()))
    told = {"recipe": RECIPE, "channel": CHANNEL, "format": FORMAT, "check": CHECK}
    script = "import json\nfound = {}\n"
    for name, each in told.items():
        script += f"exec({each!r}, {{'answer': lambda told: found.__setitem__({name!r}, told)}})\n"
    ran = subprocess.run(
        [sys.executable, "-c", script + "print(json.dumps(found))"],
        cwd=house,
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.returncode == 0, ran.stderr
    found: dict[str, Any] = json.loads(ran.stdout)
    return found


def test_every_file_that_is_spoken_of_is_there() -> None:
    text = (ROOT / "CONTRIBUTING.md").read_text()
    for path in re.findall(r"`((?:core|picture|service|web|sorvan|tests|docs|store|parts|work)/[\w/.-]*)`", text):
        places = [ROOT / path, ROOT / "sorvan" / path, ROOT / "web/src" / path]
        assert any(p.exists() for p in places), path


def test_a_recipe_takes_two_files(answers: dict[str, Any]) -> None:
    begun, (moved, start), every, labels = answers["recipe"]
    assert begun == [0, 4, 8, 12, 16, 20]
    assert moved == [14, 18, 22, 26] and start == 14 and every == 8
    assert labels == ["To and fro every", "By"]


def test_a_kind_of_channel_takes_one_row_and_what_it_does(answers: dict[str, Any]) -> None:
    own, driven, posed, refused = answers["channel"]
    assert own == [6.0] and driven == pytest.approx(16.0) and posed == [7.0] and refused


def test_a_format_takes_a_row_and_how_it_is_written(answers: dict[str, Any]) -> None:
    kind, count, (red, green, blue), page = answers["format"]
    assert kind == "mkv" and count == 3 and red > 240 and max(green, blue) < 20 and page


def test_a_command_and_a_check_take_a_file_each(answers: dict[str, Any]) -> None:
    assert answers["check"] == ["Hurrah", "Nobody cheers."]
