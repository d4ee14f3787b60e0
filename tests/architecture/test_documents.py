# SPDX-License-Identifier: MIT
"""The documents name what is there: files, tests, sources, commands, links, one version."""

import importlib
import re
from pathlib import Path
from xml.etree import ElementTree

import fondale
from fondale.knowledge import table

ROOT = Path(__file__).parents[2]
PAGES = [ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").glob("*.md"))]
MODELS = (ROOT / "docs" / "models.md").read_text("utf-8")
ROWS = [
    [c.strip() for c in re.split(r"(?<!\\)\|", line)[1:-1]] for line in MODELS.splitlines() if line.startswith("| ") and "---" not in line
]


def quoted(cell: str) -> list[str]:
    return re.findall(r"`([^`]+)`", cell)


def test_links_and_pictures_lead_somewhere():
    for page in PAGES:
        for link in re.findall(r"\]\(([^)#]+)", page.read_text("utf-8")):
            assert (page.parent / link).exists(), (page.name, link)


def test_every_model_names_code_and_tests_that_are_there():
    rows = [row for row in ROWS if len(row) == 5 and row[0] != "what"]
    assert len(rows) > 60
    for what, _formula, _source, code, test in rows:
        for name in quoted(code):
            assert any((ROOT / "src" / "fondale" / place / name).exists() for place in ("core", ".")), (what, name)
        for name in (n for n in quoted(test) if not n.startswith("./dev")):
            file, _sep, function = name.partition("::")
            assert (ROOT / "tests" / file).exists() or (ROOT / file).exists(), (what, name)
            assert not function or f"def {function}" in (ROOT / "tests" / file).read_text("utf-8"), (what, name)


def test_what_the_page_of_light_names_is_there():
    names = re.findall(r"`([a-z]+/[a-z_]+\.py)`", (ROOT / "docs" / "light.md").read_text("utf-8"))
    assert len(names) > 20
    for name in names:
        assert (ROOT / "src" / "fondale" / "core" / name).exists() or (ROOT / "tests" / name).exists(), name


WORDS = {2: "two", 4: "four", 6: "six", 12: "twelve"}
# A constant of the code, and how a page says it: where either changes, the other must.
SAID = [
    ("light.solver", "PATCH_MM", "light", "patches of {:g} mm"), ("light.patches", "MOST_PATCHES", "light", "{:,} patches"),
    ("light.receivers", "NEAR_MM", "light", "within {:g} mm of a receiver"), ("light.receivers", "ENOUGH", "light", "(meters: {:.0%})"),
    ("light.fine_picture", "MOST", "light", "{:,} of their own points"), ("light.fine_picture", "RAYS", "light", "by {:,} rays each"),
    ("light.fine_picture", "ENOUGH", "light", "less than {:.0%} of them"), ("light.weights", "FEW", "light", "less than {:.0%} of the rays"),
    ("light.weights", "MORE", "light", "{word} times as many rays"), ("light.following", "MOST_GONE", "light", "After {word} bodies"),
    ("light.picture", "KEY", "light", "key {:g} over"), ("light.desk", "FINE_FROM", "light", "narrower than {:g} pixels"),
    ("light.desk", "MOST_WIDE", "light", "wider than {:,} none"), ("stage.scene", "GAP_MM", "light", "at most {:g} mm beside"),
    ("stage.scene", "NARROW_MM", "light", "within {:g} mm of each other"), ("stage.scene", "MOST_CUT", "light", "at most {:,} pieces"),
    ("views.sight", "EYES_APART_MM", "models", "none further apart than {:g} mm"), ("views.sight", "FEWEST", "models", "to {:g} to"),
    ("views.sight", "MOST", "models", "to {:,} points spread by area"), ("views.backdrops", "STEP_MM", "models", "grid of {:g} mm"),
    ("views.backdrops", "MOST", "models", "at most {:g} cells a side"), ("views.places", "SHIFT_STEP_MM", "models", "rays in steps of {:g} mm"),
    ("views.depth", "DIMMEST", "models", "counted above {:.0%}"), ("stage.paths", "DEEPEST", "models", "up to {word} of them"),
    ("stage.paths", "LEAST", "models", "more than {:.0%} is left"), ("stage.hanging", "STILL", "models", "under {:.0%} is left over"),
    ("shapes.grounds", "CELLS", "models", "grid of {:g} cells"), ("photo.cameras", "COUNT", "models", "{:,} cameras"),
    ("photo.cameras", "TILT_DEG", "models", "{:g}° tilt"), ("photo.cameras", "ROLL_DEG", "models", "{:g}° roll"),
    ("photo.cameras", "LENS", "models", "equivalent ± {:.0%}"), ("order.odds", "RUNS", "models", "{:g} runs evening by evening"),
    ("order.odds", "PACE_SPREAD", "models", "log-normal ({:g} each)"), ("order.engine", "WHOLE", "models", "the whole up to {:g} tasks"),
    ("order.engine", "LARGEST", "models", "up to {:g} that are not in parts"), ("diary.pace", "PRIOR_MIN", "models", "(planned + {:g} min)"),
    ("prints.slivers", "LEAST_PART_MM", "models", "under {:g} mm a plane goes"), ("prints.supports", "LEAST_FOOT", "models", "a foot under {:.0%} of the plan"),
    ("fits.air", "MOCK_UP_MM", "models", "{:g} mm more for sizes off a mock-up"), ("scale.people", "OWN_SPREAD", "models", "known to {:.0%}"),
    ("scale.together", "SNAP", "models", "costs less than {:.0%}"),
]  # fmt: skip


def test_constants_are_told_as_they_are():
    for module, name, page, words in SAID:
        value = getattr(importlib.import_module(f"fondale.core.{module}"), name)
        said = words.format(value, word=WORDS.get(value, "")).replace("%", " %")
        text = " ".join((ROOT / "docs" / f"{page}.md").read_text("utf-8").split())
        assert said in text, (module, name, said)


def test_a_row_is_read_at_a_glance():
    """A cell of 1,950 letters is a page: it is written as one."""
    assert [cell[:60] for row in ROWS for cell in row if len(cell) > 500] == []


def test_every_file_of_code_says_its_licence():
    for path in (p for place in ("src", "tests", "benchmarks", "faults", "packaging") for p in (ROOT / place).rglob("*.py")):
        assert "SPDX-License-Identifier: MIT" in path.read_text("utf-8")[:120], path


def test_every_source_of_a_model_is_known():
    keys = set(re.findall(r"\b([a-z]+(?:19|20)\d\d[a-z]?)\b", MODELS + (ROOT / "docs" / "light.md").read_text("utf-8")))
    assert keys - set(table("sources")) == set()


def test_what_dev_can_do_is_what_the_documents_say():
    script = (ROOT / "dev").read_text("utf-8")
    known = set(re.findall(r"^  ([a-z]+(?: \| [a-z]+)*)\)", script, re.M))
    known = {word for group in known for word in group.split(" | ")}
    said = {word for page in PAGES for word in re.findall(r"\./dev ([a-z]+)", page.read_text("utf-8"))}
    assert said <= known
    assert known == set(re.findall(r"[a-z]+", script.split("usage: ./dev ")[1].split('"')[0])) - {"ARGS"}


def test_the_version_and_the_licence_are_told_once_and_alike():
    about = ElementTree.parse(ROOT / "packaging" / "fondale.metainfo.xml").getroot()
    assert about.find("releases/release").get("version") == fondale.__version__
    assert f"## {fondale.__version__}" in (ROOT / "CHANGELOG.md").read_text("utf-8").splitlines()[2]
    licence = re.search(r'^license = "(.*)"$', (ROOT / "pyproject.toml").read_text("utf-8"), re.M)[1]
    assert about.findtext("project_license") == licence
