# SPDX-License-Identifier: MIT
"""Two guards of the dependency rule, and a planted violation that both must see."""

import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "fondale"

BLOCKED_IMPORT = """
import importlib, pkgutil, sys
class Wall:
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in ("PySide6", "shiboken6"):
            raise ImportError(f"{name} is not for this layer")
sys.meta_path.insert(0, Wall())
import fondale
names = [m.name for m in pkgutil.walk_packages(fondale.__path__, "fondale.") if not m.name.startswith("fondale.qt") and m.name != "fondale.__main__"]
for name in names + sys.argv[1:]:
    importlib.import_module(name)
print(len(names))
"""


def test_everything_below_the_window_loads_where_qt_is_blocked():
    done = subprocess.run([sys.executable, "-c", BLOCKED_IMPORT], capture_output=True, text=True, cwd=ROOT, check=False)
    assert done.returncode == 0, done.stderr
    assert int(done.stdout) > 60


def test_the_block_sees_a_planted_violation(tmp_path):
    (tmp_path / "planted.py").write_text("from PySide6 import QtCore\n")
    done = subprocess.run(
        [sys.executable, "-c", BLOCKED_IMPORT, "planted"],
        capture_output=True,
        text=True,
        cwd=tmp_path,
        check=False,
        env={"PYTHONPATH": str(tmp_path)},
    )
    assert done.returncode != 0
    assert "not for this layer" in done.stderr


def lint(folder: Path) -> subprocess.CompletedProcess[str]:
    """import-linter on a copy of the package."""
    tool = Path(sys.executable).with_name("lint-imports")
    if not tool.exists():
        pytest.skip("import-linter is not installed")
    return subprocess.run(
        [str(tool), "--no-cache"], capture_output=True, text=True, cwd=folder, check=False, env={"PYTHONPATH": str(folder / "src")}
    )


@pytest.fixture
def copy(tmp_path) -> Path:
    target = tmp_path / "src" / "fondale"
    for file in SOURCE.rglob("*.py"):
        place = target / file.relative_to(SOURCE)
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_text(file.read_text("utf-8"), "utf-8")
    (tmp_path / "pyproject.toml").write_text((ROOT / "pyproject.toml").read_text())
    return tmp_path


def test_the_contracts_hold_and_see_a_planted_violation(copy):
    assert lint(copy).returncode == 0, lint(copy).stdout
    victim = copy / "src" / "fondale" / "core" / "lengths.py"
    victim.write_text("from fondale.storage import files\n" + victim.read_text("utf-8"), "utf-8")
    broken = lint(copy)
    assert broken.returncode != 0
    assert "fondale.core" in broken.stdout


def test_no_module_outgrows_itself():
    # When a module passes about 450 lines of code it does a second thing.
    for file in SOURCE.rglob("*.py"):
        lines = [x for x in file.read_text("utf-8").splitlines() if x.strip() and not x.strip().startswith("#")]
        assert len(lines) <= 450, file


def test_each_folder_says_what_it_is_for():
    for file in SOURCE.rglob("__init__.py"):
        assert file.read_text("utf-8").removeprefix("# SPDX-License-Identifier: MIT\n").startswith('"""'), file


def test_the_window_opens_without_what_is_slow_to_load():
    """One import of a hull at the top of a module cost a third of the start once."""
    code = "import sys, fondale.qt.application; print({'scipy', 'numba', 'skimage', 'trimesh', 'ortools', 'reportlab', 'manifold3d'} & set(sys.modules))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, cwd=ROOT, check=False)
    assert done.stdout.strip() == "set()", done.stdout + done.stderr
