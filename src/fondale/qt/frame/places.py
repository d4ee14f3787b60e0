"""The six stations. What a station is made of is loaded when it is first gone to: the window opens before."""

import importlib
import pkgutil
import sys
from collections.abc import Callable
from functools import partial

from fondale.qt.furniture.workplace import Station
from fondale.qt.session import Session, Way


def _brief(session: Session) -> Station:
    from fondale.qt.stations.brief.station import BriefStation

    return BriefStation(session)


def _bench(session: Session) -> Station:
    from fondale.qt.stations.bench.station import BenchStation

    return BenchStation(session)


def _stage(session: Session) -> Station:
    from fondale.qt.stations.stage.station import StageStation

    return StageStation(session)


def _lamps(session: Session) -> Station:
    from fondale.qt.stations.lamps.station import LampsStation

    return LampsStation(session)


def _coats(session: Session) -> Station:
    from fondale.qt.stations.coats.station import CoatsStation

    return CoatsStation(session)


def _diary(session: Session) -> Station:
    from fondale.qt.stations.diary.station import DiaryStation

    return DiaryStation(session)


MAKERS: dict[str, Callable[[Session], Station]] = {
    "brief": _brief, "bench": _bench, "stage": _stage, "lamps": _lamps, "coats": _coats, "diary": _diary,
}  # fmt: skip


def loading(name: str) -> Way:
    """What is still to be loaded of a station's modules, each in a turn of its own."""
    package = importlib.import_module(f"fondale.qt.stations.{name}")
    for module in pkgutil.iter_modules(package.__path__, f"{package.__name__}."):
        if module.name not in sys.modules:
            yield partial(importlib.import_module, module.name)
