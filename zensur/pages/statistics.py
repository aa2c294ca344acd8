"""What a class did not understand as one page that prints well, and names nobody."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot

from ..core.statistics import Cluster, Distribution, Item, Understood
from .environment import TEMPLATES
from .fonts import embedded_fonts

WIDTH, HEIGHT = 300.0, 150.0
"""The size of a plot, within its axes."""


@dataclass(frozen=True, slots=True)
class _Bar:
    """A bar of the distribution: how many learners, from which per cent on, and where it is drawn."""

    learners: int
    percent: int
    x: float
    y: float
    width: float
    height: float


APART = 22.0
"""So far apart two numbers in a plot can both be read."""


@dataclass(frozen=True, slots=True)
class _Point:
    """A criterion in the plot; with its number in the table, where that can be read."""

    number: int | None
    x: float
    y: float


def statistics_page(title: str, told: Understood, alike: Sequence[Cluster], nonce: str = "") -> str:
    """Return the page, with the papers that go wrong ``alike``; ``nonce`` lets its style pass a content policy."""
    hardest = sorted(told.items, key=lambda item: item.difficulty)
    return TEMPLATES.get_template("statistics.html").render(
        title=title,
        nonce=nonce,
        fonts=embedded_fonts(),
        told=told,
        alike=alike,
        hardest=hardest,
        bars=_bars(told.distribution),
        points=_points(hardest),
        width=WIDTH,
        height=HEIGHT,
        marks=lambda value: f"{round(value, 2):g}",
        figure=lambda value: "–" if value is None else f"{value:.2f}",
        percent=lambda share: f"{100 * share:.0f} %",
    )


def _bars(spread: Distribution | None) -> list[_Bar]:
    if spread is None:
        return []
    most, step = max(spread.bars), WIDTH / len(spread.bars)
    heights = [HEIGHT * learners / most for learners in spread.bars]
    return [
        _Bar(learners, 100 * n // len(spread.bars), step * n + 2, HEIGHT - high, step - 4, high)
        for n, (learners, high) in enumerate(zip(spread.bars, heights, strict=True))
    ]


def _points(hardest: list[Item]) -> list[_Point]:
    """Place criteria by how much is earned, from 0 to 1, and how well that tells strong from weak, from -1 to 1."""
    found: list[_Point] = []
    for number, item in enumerate(hardest, 1):
        if item.discrimination is None:
            continue
        x, y = WIDTH * item.difficulty, HEIGHT * (1 - item.discrimination) / 2
        free = all(hypot(x - p.x, y - p.y) >= APART for p in found if p.number is not None)
        found.append(_Point(number if free else None, x, y))
    return found
