"""How well the condition scale meets its study, fitted anew with each clip left out, beside a fixed map from decibels.

    make condition

The study (`core/arrival/study.csv`) has for every sample the parts of condition, XPSNR and a published full-reference perceptual
score, 0–100; clips by number, 14 used while searching and 8 kept unseen until the end.
"""

from __future__ import annotations

import csv
from collections.abc import Callable
from dataclasses import dataclass
from importlib import resources

import numpy as np

from hardy_parcel.core.arrival import condition as scale

Model = Callable[[np.ndarray, "Study"], np.ndarray]
SHIPPED = np.array([scale.OFFSET, scale.DETAIL, scale.DETAIL_POWER, scale.INFORMATION, scale.MOVEMENT, scale.SOFTNESS])


@dataclass(frozen=True)
class Study:
    """Columns of the study, a row a sample."""

    clip: np.ndarray
    unseen: np.ndarray
    kind: np.ndarray
    width: np.ndarray
    d: np.ndarray
    v: np.ndarray
    m: np.ndarray
    db: np.ndarray
    score: np.ndarray

    def where(self, rows: np.ndarray) -> Study:
        return Study(**{name: values[rows] for name, values in vars(self).items()})


def read() -> Study:
    with (resources.files("hardy_parcel.core.arrival") / "study.csv").open() as file:
        rows = list(csv.DictReader(file))

    def numbers(name: str) -> np.ndarray:
        return np.array([float(row[name]) for row in rows])

    return Study(
        clip=np.array([row["clip"] for row in rows]), unseen=np.array([row["part"] == "unseen" for row in rows]),
        kind=np.array([row["kind"] for row in rows]), width=numbers("raster_width"), d=numbers("D"), v=numbers("V"), m=numbers("M"),
        db=numbers("xpsnr_db"), score=numbers("score"),
    )


def by_scale(k: np.ndarray, s: Study) -> np.ndarray:
    """The scale with constants a, b, p, c, d, s; the same equations as the program's, on columns."""
    def soft(d: np.ndarray, v: np.ndarray) -> np.ndarray:
        z = k[0] + k[1] * np.maximum(d, 0) ** k[2] + k[3] * v + k[4] * np.minimum(s.m, scale.MOST_MOVEMENT)
        return k[5] * (np.logaddexp(0, z / k[5]) - np.logaddexp(0, (z - 100) / k[5]))

    with np.errstate(all="ignore"):  # a step that leads nowhere is not taken
        return np.nan_to_num(np.minimum(100, 100 * soft(s.d, s.v) / soft(np.ones_like(s.d), np.ones_like(s.v))), nan=1e6)


def by_decibels(k: np.ndarray, s: Study) -> np.ndarray:
    """A fixed map: a logistic curve over XPSNR whose middle moves with the raster."""
    return 100 / (1 + np.exp(-(s.db - k[0] - k[2] * np.log2(s.width / 960)) / k[1]))


def fitted(model: Model, start: np.ndarray, s: Study) -> np.ndarray:
    """Least squares by Levenberg and Marquardt, with slopes by small steps."""
    k, damping = start.astype(float), 1e-2
    cost = float(((model(k, s) - s.score) ** 2).sum())
    for _ in range(60):
        steps = np.maximum(1e-4, np.abs(k) * 1e-4)
        slopes = np.stack([(model(k + step * one, s) - model(k, s)) / step for step, one in zip(steps, np.eye(len(k)), strict=True)], 1)
        normal, pull = slopes.T @ slopes, slopes.T @ (s.score - model(k, s))
        other = k + np.linalg.solve(normal + damping * np.diag(np.diag(normal)), pull)
        after = float(((model(other, s) - s.score) ** 2).sum())
        if after < cost:
            gain, k, cost, damping = cost - after, other, after, damping / 3
            if gain < 1e-6 * cost:
                break
        else:
            damping *= 4
    return k


def left_out(model: Model, start: np.ndarray, s: Study) -> np.ndarray:
    """Errors in points, each clip judged by constants that were fitted without it."""
    errors = np.zeros_like(s.score)
    for clip in np.unique(s.clip):
        rows = s.clip == clip
        errors[rows] = model(fitted(model, start, s.where(~rows)), s.where(rows)) - s.score[rows]
    return errors


def of_differences(errors: np.ndarray, s: Study) -> np.ndarray:
    """Errors of the difference of every two samples of one clip."""
    found = []
    for clip in np.unique(s.clip):
        of_clip = errors[s.clip == clip]
        found.append((of_clip[:, None] - of_clip[None, :])[np.triu_indices(len(of_clip), 1)])
    return np.concatenate(found)


def line(name: str, errors: np.ndarray, s: Study) -> str:
    def rms(values: np.ndarray) -> float:
        return float(np.sqrt((values**2).mean()))

    twice = np.char.find(s.kind, "two-generations") >= 0
    return (
        f"| {name} | {rms(errors):.1f} | {np.abs(errors).max():.0f} | {rms(of_differences(errors, s)):.1f} | {rms(errors[twice]):.1f}"
        f" | {np.quantile(np.abs(errors), 0.85):.1f} |"
    )


def main() -> None:
    s = read()
    print(f"{len(s.score)} samples of {len(np.unique(s.clip))} clips; errors in points")
    print("| measure | RMSE | worst | of differences on one clip | two generations | 85 % within |\n|---|---|---|---|---|---|")
    print(line("fixed map from XPSNR, a clip left out", left_out(by_decibels, np.array([33.0, 4.0, 0.0]), s), s))
    print(line("the scale, a clip left out", left_out(by_scale, SHIPPED, s), s))
    shipped = np.array([scale.condition(d, v, m) for d, v, m in zip(s.d, s.v, s.m, strict=True)]) - s.score
    print(line("the scale as shipped", shipped, s))
    print(line("as shipped, clips kept unseen", shipped[s.unseen], s.where(s.unseen)))


if __name__ == "__main__":
    main()
