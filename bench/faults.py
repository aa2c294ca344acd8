"""One, two and three slips at a time put into the model answers: which faults are named, as a confusion table."""

import random
from collections import Counter

from zensur.core.lab import Lab, read_lab
from zensur.core.marking import Marker, Paper, Result
from zensur.core.marking.making.made import LabSlip, sheets_with, slips_in
from zensur.core.marking.searching.edits import said
from zensur.core.sheet import read_sheet, write_sheet
from zensur.demo import LABS, lab_text


def with_slips(lab: Lab, slips: list[LabSlip]) -> Paper:
    """Return the paper that is the model answer but for some slips."""
    sheets = {d: read_sheet(write_sheet(c), f"{d}.sheet") for d, c in sheets_with(lab, slips).items()}
    return Paper("x", sheets)


def finds(result: Result, slips: list[LabSlip]) -> bool:
    """Say whether the faults are these slips at these statements, and nothing else."""
    wanted = {(device, said(slip.item)) for device, slip in slips}
    return {(f.device, f.repair) for f in result.faults} == wanted and all(
        not slip.slips or any(f.slip in slip.slips for f in result.faults if f.repair == said(slip.item))
        for _, slip in slips
    )


def confusion(show: bool = True) -> None:
    """Print the table, what was excluded, and how many of several slips at once were found."""
    table: Counter[tuple[str, str]] = Counter()
    excluded, tried, right = 0, 0, 0
    several: dict[int, list[int]] = {2: [0, 0], 3: [0, 0]}
    chance = random.Random(7)
    for name in LABS:
        lab = read_lab(lab_text(name)).lab
        assert lab is not None
        marker, slips, seen = Marker(lab), slips_in(lab), []
        for device, slip in slips:
            result = marker.mark(with_slips(lab, [(device, slip)]))
            if result.score == result.out_of:
                excluded += 1  # nothing asks for it, and no ping shows it
                continue
            seen.append((device, slip))
            tried += 1
            found = finds(result, [(device, slip)])
            right += found
            kind = f"{type(slip.item.statement).__name__.lower()}: {slip.what}"
            table[kind, ", ".join(f.slip for f in result.faults) or "nothing"] += 1
            if not found and show:
                told = [(f.slip, f.device, f.repair) for f in result.faults]
                print(
                    f"  {name} {device}: {said(slip.item)} {slip.what} {said(slip.put) if slip.put else ''}: {told}"
                )
        for size, counts in several.items():
            for _ in range(30):
                chosen = chance.sample(seen, size)
                if len({(d, s.item.slot) for d, s in chosen}) < size:
                    continue
                counts[0] += 1
                result = marker.mark(with_slips(lab, chosen))
                counts[1] += finds(result, chosen)
                if not finds(result, chosen) and show:
                    print(
                        f"  {name}: {[(d, said(s.item), s.what) for d, s in chosen]}: {[(f.slip, f.device, f.repair) for f in result.faults]}"
                    )
    for (kind, named), count in sorted(table.items()):
        print(f"  {kind:40} {named:60} {count:4}")
    print(
        f"  one slip: {right} of {tried} found alone, {100 * right / tried:.1f} of 100; {excluded} not observable"
    )
    for size, (of, found) in several.items():
        print(
            f"  {size} slips: {found} of {of} found, all and nothing else, {100 * found / max(of, 1):.1f} of 100"
        )


if __name__ == "__main__":
    confusion()
