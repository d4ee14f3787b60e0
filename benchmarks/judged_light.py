# SPDX-License-Identifier: MIT
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

WIDTH, PLACES = 480, 400
BY_PATHS = 40  # of these places plain paths and [radiance] are asked as well
SEEDS, FINE_SEEDS = 30, 2
RAYS_SOLVED, RAYS_OF_OURS, FINEST_MM = 1024, 65_536, 12.0
LEAST_LX = 0.1
PATHS = {**dict.fromkeys(PLAIN, 100_000), **dict.fromkeys(HARD, 80_000), **dict.fromkeys(HARDEST, 150_000)}
ONE = np.ones((1, 3))


def timed(work: object) -> tuple[object, float]:
    begun = time.perf_counter()
    found = work()  # type: ignore[operator]
    return found, time.perf_counter() - begun


def off(values: np.ndarray, truth: np.ndarray) -> str:
    """Mean and 95th percentile of the error in per cent."""
    error = np.abs(values / truth - 1) * 100
    return f"{error.mean():5.2f} / {np.percentile(error, 95):5.2f}"


def by_radiance(scene: Scene, lamp: Point, points: np.ndarray, normals: np.ndarray) -> tuple[np.ndarray, float]:
    """The same places by [radiance], as its own settings for exact work have it, and its seconds."""
    from tests.reference.test_light_radiance import by_radiance as trace

    with tempfile.TemporaryDirectory() as folder:
        found, seconds = timed(lambda: trace(scene, [lamp], points + normals * 0.05, normals, Path(folder)))
    return found, seconds  # type: ignore[return-value]


def judges(name: str, scene: Scene, lamp: Point, points: np.ndarray, normals: np.ndarray) -> np.ndarray:
    """What meters of ours say that take their time; how far two of them are apart, and how far plain paths and [radiance] are off them."""
    finest = prepare(scene, [lamp], rays=RAYS_SOLVED, before=prepare(scene, [lamp], patch_mm=FINEST_MM))
    one, other = (gather(finest, [lamp], points, normals, RAYS_OF_OURS, seed)[:, 0, 1] for seed in (11, 511))
    ours: np.ndarray = (one + other) / 2
    few = slice(BY_PATHS)
    truth, sure = judged(name, points[few], normals[few], PATHS[name])
    print(
        f"{name:10} judge: two of ours {off(one, other)} apart; paths, sure to {100 * float((sure / truth).mean()):.2f}, are {off(truth, ours[few])} off them, "
        f"{100 * float((truth / ours[few] - 1).mean()):+.2f} on an average",
        flush=True,
    )
    if lamp.m == 1.0 and lamp.axis == (0.0, 0.0, -1.0):
        theirs, seconds = by_radiance(scene, lamp, points[few], normals[few])
        print(f"{'':10} Radiance {off(theirs, ours[few])} in {seconds:.1f} s for {BY_PATHS} places", flush=True)
    return ours


def judged_light() -> None:
    """For every scene: the judge and its judges, and mean and 95th percentile of the error in per cent of pictures and meters; first ones by SEEDS seeds, and how many
    times too bright any place was above LEAST_LX from a lamp of 1 cd, refined ones by FINE_SEEDS.
    """
    for name, make in SCENES.items():
        scene, lamp = make()
        _engine = scene.rays
        frame: Frame = look(scene, eye(name), WIDTH)
        alone = np.flatnonzero((frame.prim[: frame.width * frame.height] >= 0) & (frame.share[: frame.width * frame.height] > 0.99))
        pixels = np.random.default_rng(3).choice(alone, PLACES, replace=False)
        points, normals, rho = frame.point[pixels], frame.normal[pixels], scene.paint[frame.prim[pixels], 1] / np.pi
        truth = judges(name, scene, lamp, points, normals)

        def first(seed: int, scene: Scene = scene, lamp: Point = lamp) -> Lit:
            lit = prepare(scene, [lamp], seed=seed)
            solve(lit, [lamp])
            return lit

        def finer(seed: int, lit: Lit, scene: Scene = scene, lamp: Point = lamp) -> Lit:
            found = prepare(scene, [lamp], rays=FINE_RAYS, before=lit, seed=seed)
            solve(found, [lamp])
            return found

        pictures, refined, seconds = [], [], []
        for number in range(SEEDS):
            seed = 7 + 100 * number
            lit, first_s = timed(lambda seed=seed, first=first: first(seed))
            image, rough_s = timed(lambda lit=lit, frame=frame, lamp=lamp: Picture(lit, frame).luminance([lamp], ONE))
            pictures.append(image[..., 1].ravel()[pixels] / rho)
            if number < FINE_SEEDS:
                fine, fine_s = timed(lambda lit=lit, seed=seed, finer=finer: finer(seed, lit))
                image, refined_s = timed(lambda fine=fine, frame=frame, lamp=lamp: FinePicture(fine, frame, [lamp]).luminance([lamp], ONE))
                refined.append(image[..., 1].ravel()[pixels] / rho)
                seconds.append((first_s, rough_s, fine_s, refined_s))
        early = gather(lit, [lamp], points, normals)[:, 0, 1]
        late, meters_s = timed(lambda fine=fine, lamp=lamp, p=points, n=normals: gather(fine, [lamp], p, n, 4 * GATHER_RAYS)[:, 0, 1])
        most = (np.array(pictures) / truth)[:, truth > LEAST_LX].max()
        print(
            f"{'':10} picture {off(np.array(pictures), truth)}, most {most:.2f} times | meters {off(early, truth)} | refined {off(np.array(refined), truth)}"
            f" | meters {off(late, truth)}, {PLACES} in {meters_s:.1f} s\n{'':10} s: first, its picture, refined, its picture: "
            + ", ".join(f"{x:.2f}" for x in np.min(seconds, 0)),
            flush=True,
        )


if __name__ == "__main__":
    judged_light()
