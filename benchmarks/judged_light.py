"""The light of eleven kinds of scenes against plain paths, and against [radiance] for its speed: pictures, meters, first answers and refined ones."""

import sys
import tempfile
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.core.light_scenes import HARD, HARDEST, PLAIN, SCENES, eye, judged

from fondale.core.emitters.point import Point
from fondale.core.light.fine_picture import FinePicture
from fondale.core.light.frames import Frame, look
from fondale.core.light.picture import Picture
from fondale.core.light.receivers import GATHER_RAYS, gather
from fondale.core.light.solver import FINE_RAYS, Lit, prepare, solve
from fondale.core.stage.scene import Scene

WIDTH, PLACES = 480, 160
RAYS_SOLVED, RAYS_OF_OURS, FINEST_MM = 1024, 65_536, 12.0
PATHS = {**dict.fromkeys(PLAIN, 100_000), **dict.fromkeys(HARD, 80_000), **dict.fromkeys(HARDEST, 150_000)}
ONE = np.ones((1, 3))


def timed(work: object) -> tuple[object, float]:
    begun = time.perf_counter()
    found = work()  # type: ignore[operator]
    return found, time.perf_counter() - begun


def said(values: np.ndarray, truth: np.ndarray) -> str:
    error = np.abs(values / truth - 1) * 100
    return f"{error.mean():5.2f} {np.percentile(error, 95):5.2f}"


def by_radiance(scene: Scene, lamp: Point, points: np.ndarray, normals: np.ndarray) -> tuple[np.ndarray, float]:
    """The same places by [radiance], as its own settings for exact work have it, and its seconds."""
    from tests.reference.test_light_radiance import by_radiance as trace

    with tempfile.TemporaryDirectory() as folder:
        found, seconds = timed(lambda: trace(scene, [lamp], points + normals * 0.05, normals, Path(folder)))
    return found, seconds  # type: ignore[return-value]


def judged_light() -> None:
    """For every scene: mean and 95th percentile of the error in per cent of pictures and meters, first and refined, and how sure the judge is. Where it
    is not, pictures are told against meters of our own as well, which took RAYS_OF_OURS rays a place, on patches of FINEST_MM.
    """
    print(
        f"{'':10} judge   picture       meters        refined       meters        | s: first picture  refined picture | Radiance: error, s; ours, s"
        " | picture, refined against ours"
    )
    for name, make in SCENES.items():
        scene, lamp = make()
        _engine = scene.rays

        def first(scene: Scene = scene, lamp: Point = lamp) -> Lit:
            lit = prepare(scene, [lamp])
            solve(lit, [lamp])
            return lit

        def finer(scene: Scene = scene, lamp: Point = lamp, lit: "Lit | None" = None) -> Lit:
            found = prepare(scene, [lamp], rays=FINE_RAYS, before=lit)
            solve(found, [lamp])
            return found

        lit, first_s = timed(first)
        frame: Frame = look(scene, eye(name), WIDTH)
        rough, rough_s = timed(lambda lit=lit, frame=frame, lamp=lamp: Picture(lit, frame).luminance([lamp], ONE))
        fine, fine_s = timed(lambda lit=lit, finer=finer: finer(lit=lit))
        refined, refined_s = timed(lambda fine=fine, frame=frame, lamp=lamp: FinePicture(fine, frame, [lamp]).luminance([lamp], ONE))
        alone = np.flatnonzero((frame.prim[: frame.width * frame.height] >= 0) & (frame.share[: frame.width * frame.height] > 0.99))
        pixels = np.random.default_rng(3).choice(alone, PLACES, replace=False)
        points, normals = frame.point[pixels], frame.normal[pixels]
        truth, sure = judged(name, points, normals, PATHS[name])
        rho = scene.paint[frame.prim[pixels], 1] / np.pi
        pictures = [image[..., 1].ravel()[pixels] / rho for image in (rough, refined)]
        early = gather(lit, [lamp], points, normals)[:, 0, 1]
        late, meters_s = timed(lambda fine=fine, lamp=lamp, p=points, n=normals: gather(fine, [lamp], p, n, 4 * GATHER_RAYS)[:, 0, 1])
        finest = prepare(scene, [lamp], rays=RAYS_SOLVED, before=prepare(scene, [lamp], patch_mm=FINEST_MM))
        ours = gather(finest, [lamp], points, normals, RAYS_OF_OURS)[:, 0, 1]
        theirs, theirs_s = by_radiance(scene, lamp, points, normals) if lamp.m == 1.0 and lamp.axis == (0.0, 0.0, -1.0) else (truth, 0.0)
        print(
            f"{name:10} {100 * float((sure / truth).mean()):5.2f}   {said(pictures[0], truth)}   {said(early, truth)}   {said(pictures[1], truth)}"
            f"   {said(late, truth)}   | {first_s:6.2f} {rough_s:6.2f}  {fine_s:6.2f} {refined_s:6.2f} | {said(theirs, truth)} {theirs_s:5.1f}; {meters_s:5.2f}"
            f" | {said(pictures[0], ours)}   {said(pictures[1], ours)}",
            flush=True,
        )


if __name__ == "__main__":
    judged_light()
