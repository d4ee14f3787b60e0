# SPDX-License-Identifier: MIT
"""Makes a wheel, and one archive that holds Python, all libraries but those of a display, and the loops as they are compiled.

``./dev package [FOLDER]``: both lie in the folder, ``dist`` if none is named. It runs where its C library is not older than the builder's.
"""

import os
import shutil
import subprocess
import sys
import sysconfig
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

HERE = Path(__file__).parent
BUILT = datetime(2026, 1, 1).timestamp()  # of all files: what is compiled is known by the time of its source, in whole seconds
LOOPS = ("fondale.core.light.loops", "fondale.core.stage.loops")
NO_NEED = (  # of the standard library, of Qt, and of what else comes with what is needed
    "test", "idlelib", "tkinter", "turtledemo", "lib2to3", "ensurepip", "site-packages", "dist-packages", "config-*", "lib-dynload/_test*", "lib-dynload/_tkinter*",
)  # fmt: skip
QT_KEPT = (
    "Core", "Gui", "Widgets", "DBus", "OpenGL", "Svg", "XcbQpa", "WaylandClient", "WaylandEglClientHwIntegration", "WlShellIntegration", "EglFSDeviceIntegration",
)  # fmt: skip
SYSTEM = (
    "ld-linux-x86-64.so", "libc.so", "libm.so", "libdl.so", "libpthread.so", "librt.so", "libutil.so", "libresolv.so", "libstdc++.so", "libgcc_s.so", "linux-vdso.so",
)  # fmt: skip
START = r"""#!/bin/sh
# Starts Fondale out of its own folder.
here="$(dirname "$(readlink -f "$0")")"
export LD_LIBRARY_PATH="$here/lib/own${LD_LIBRARY_PATH:+:$LD_LIBRARY_PATH}"
if grep -qw avx2 /proc/cpuinfo; then export @LIKE@; fi # as the loops in here are compiled; others are compiled where they run
case "${1:-open}" in
  open | demo) "$here/bin/python3" -S "$here/lib/own/lacking.py" "$here/lib/own/libraries.txt" || exit 2 ;;
esac
exec "$here/bin/python3" -m fondale "$@"
"""
LIKE = {"NUMBA_CPU_NAME": "haswell", "NUMBA_CPU_FEATURES": "+avx,+avx2,+bmi,+bmi2,+fma,+lzcnt,+movbe,+popcnt,+sse4.1,+sse4.2"}


def run(*command: str | Path, **more: str) -> None:
    subprocess.run([str(c) for c in command], check=True, env={**os.environ, **more})


def needed(folder: Path, display: set[str]) -> Iterator[Path]:
    """Libraries outside ``folder`` that something in it needs, but the system's, and what Qt needs of the display's."""
    found = list(folder.rglob("*.so*"))
    own = {p.name for p in found}
    for binary in [folder / "bin/python3", *(p for p in found if "PySide6" not in p.parts)]:
        for line in subprocess.run(["ldd", binary], capture_output=True, text=True, check=False).stdout.splitlines():
            name, _, where = line.strip().partition(" => ")
            path = Path(where.split(" (")[0])
            if path.is_absolute() and folder not in path.parents and name not in own | display and not name.startswith(SYSTEM):
                yield path


def python_into(folder: Path) -> Path:
    """Copy this Python; returns the folder of its packages."""
    version = f"python{sys.version_info.major}.{sys.version_info.minor}"
    (folder / "bin").mkdir(parents=True)
    shutil.copy2(Path(sys.executable).resolve(), folder / "bin/python3")
    library = folder / "lib" / version
    shutil.copytree(
        sysconfig.get_path("stdlib"), library, ignore=shutil.ignore_patterns("__pycache__", *(n for n in NO_NEED if "/" not in n))
    )
    for pattern in NO_NEED:
        if "/" in pattern:
            for path in library.glob(pattern):
                path.unlink()
    packages = library / "site-packages"
    packages.mkdir()
    (library / "dist-packages").symlink_to("site-packages")  # as the Python of Debian calls them
    return packages


def slim(packages: Path) -> None:
    """Leave out what Qt and the libraries ship for others."""
    qt = packages / "PySide6"
    for path in [*qt.iterdir(), *(qt / "Qt").iterdir()]:
        if path.name not in ("Qt", "lib", "plugins") and not path.name.startswith(
            ("__init__", "_", "libpyside", *(f"Qt{m}." for m in QT_KEPT))
        ):
            shutil.rmtree(path) if path.is_dir() else path.unlink()
    for path in (qt / "Qt/lib").iterdir():
        if path.name.startswith("libQt6") and not path.name.startswith(tuple(f"libQt6{m}." for m in QT_KEPT)):
            path.unlink()
    for path in (qt / "Qt/plugins").iterdir():
        if path.name.startswith(
            ("qml", "designer", "sqldrivers", "assetimporters", "sceneparsers", "geometryloaders", "renderers", "networkinformation", "tls")
        ):
            shutil.rmtree(path)
    for path in [*qt.rglob("*.pyi"), *packages.rglob("*.a"), packages / "bin"]:
        shutil.rmtree(path, ignore_errors=True) if path.is_dir() else path.unlink(missing_ok=True)
    for path in [p for p in packages.rglob("tests") if p.is_dir() and "fondale" not in p.parts]:
        shutil.rmtree(path, ignore_errors=True)


def main() -> None:
    """Build both and say how large they are."""
    out = Path(sys.argv[1] if len(sys.argv) > 1 else "dist").resolve()
    shutil.rmtree(out / "build", ignore_errors=True)
    out.mkdir(parents=True, exist_ok=True)
    for old in out.glob("fondale-*.whl"):
        old.unlink()
    run(sys.executable, "-m", "pip", "wheel", "-q", "--disable-pip-version-check", "--no-deps", "-w", out, HERE.parent)
    (wheel,) = out.glob("fondale-*.whl")
    name = f"fondale-{wheel.name.split('-')[1]}-linux-{sysconfig.get_platform().split('-')[-1]}"
    folder = out / "build" / name
    packages = python_into(folder)
    print("Fetching and laying out the libraries", file=sys.stderr)
    run(sys.executable, "-m", "pip", "install", "-q", "--disable-pip-version-check", "--no-compile", "--target", packages, wheel)
    slim(packages)
    own = folder / "lib/own"
    own.mkdir()
    shutil.copy2(HERE / "libraries.txt", own)
    shutil.copy2(HERE / "lacking.py", own)
    display = {line.split()[0] for line in (HERE / "libraries.txt").read_text().splitlines()}
    for library in set(needed(folder, display)):
        shutil.copy2(library, own / library.name)
    (folder / "fondale").write_text(START.replace("@LIKE@", " ".join(f"{k}={v}" for k, v in LIKE.items())))
    (folder / "fondale").chmod(0o755)
    for text in ("README.md", "LICENSE", "NOTICES.md", "CHANGELOG.md"):
        shutil.copy2(HERE.parent / text, folder)
    shutil.copytree(HERE.parent / "docs", folder / "docs")
    for path in folder.rglob("*"):
        os.utime(path, (BUILT, BUILT), follow_symlinks=False)
    print("Compiling", file=sys.stderr)
    home = {"LD_LIBRARY_PATH": str(own), "NUMBA_CACHE_DIR": "", **LIKE}
    run(folder / "bin/python3", "-m", "compileall", "-q", "-j", "0", folder / "lib", **home)
    run(folder / "bin/python3", "-c", f"import {', '.join(LOOPS)}", **home)
    archive = out / f"{name}.tar.gz"
    run("tar", "-C", folder.parent, "--owner=0", "--group=0", "--sort=name", "-czf", archive, name)
    large = sum(p.stat().st_size for p in folder.rglob("*") if p.is_file() and not p.is_symlink())
    shutil.rmtree(out / "build")
    for made in (wheel, archive):
        print(f"{made}: {made.stat().st_size / 1e6:.1f} MB")
    print(f"unpacked {large / 1e6:.0f} MB; {name}/fondale starts it, on a C library {os.confstr('CS_GNU_LIBC_VERSION')} or newer")


if __name__ == "__main__":
    main()
