"""One, two and three slips at a time put into the model answers: which faults are named, as a confusion table."""

import random
from collections import Counter

from zensur.core.lab import Lab, read_lab
from zensur.core.marking.making.made import may_go_together, sheets_with
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.shapes import Result
from zensur.core.marking.slips.catalogue import slips_in
from zensur.core.marking.slips.made import MadeSlip
from zensur.core.sheet import read_sheet
from zensur.demo import LABS, lab_text


def with_slips(lab: Lab, slips: list[MadeSlip]) -> Paper:
    """Return the paper that is the model answer but for some slips."""
    sheets = {d: read_sheet(text, f"{d}.sheet") for d, text in sheets_with(lab, slips).items()}
    return Paper("x", sheets, {d: f"{d}.sheet" for d in sheets})


def finds(result: Result, slips: list[MadeSlip], names: bool = True) -> bool:
    """Say whether the faults are at these statements, and nothing else is; and, with ``names``, are called so."""
    left = list(result.faults)
    for slip in slips:
        fault = next((f for f in left if f.device == slip.device and f.repair in slip.repairs), None)
        if fault is None or (names and fault.slip not in slip.slips):
            return False
        left.remove(fault)
    return not left


def told(name: str, slips: list[MadeSlip], result: Result) -> str:
    made = "; ".join(f"{s.device} {s.what} [{' or '.join(sorted(s.repairs))}]" for s in slips)
    named = "; ".join(f"{f.device} {f.slip} [{f.repair}]" for f in result.faults)
    return f"  {name}: {made} -> {named or 'nothing'}"


def confusion(show: bool = True, each: int = 30) -> None:
    """Print the table, what was excluded, and how many of several slips at once were found."""
    table: Counter[tuple[str, str]] = Counter()
    excluded, tried, right = 0, 0, 0
    several: dict[int, list[int]] = {2: [0, 0], 3: [0, 0]}
    chance = random.Random(7)
    for name in LABS:
        lab = read_lab(lab_text(name)).lab
        assert lab is not None
        marker, seen = Marker(lab), []
        for slip in slips_in(lab):
            result = marker.mark(with_slips(lab, [slip]))
            if result.score == result.out_of:
                excluded += 1  # nothing asks for it, and no ping shows it
                continue
            seen.append(slip)
            tried += 1
            found = finds(result, [slip])
            right += found
            table[slip.what, ", ".join(f.slip for f in result.faults) or "nothing"] += 1
            if not found and show:
                print(told(name, [slip], result))
        for size, counts in several.items():
            for _ in range(each):
                chosen = chance.sample(seen, size)
                if not may_go_together(chosen):
                    continue
                counts[0] += 1
                result = marker.mark(with_slips(lab, chosen))
                counts[1] += finds(result, chosen)
                if not finds(result, chosen) and show:
                    print(told(name, chosen, result))
    for (kind, named), count in sorted(table.items()):
        print(f"  {kind:40} {named:60} {count:4}")
    print(
        f"  one slip: {right} of {tried} found alone, {100 * right / tried:.1f} of 100; {excluded} not observable"
    )
    for size, (of, all_found) in several.items():
        print(
            f"  {size} slips: {all_found} of {of} found and nothing else, {100 * all_found / max(of, 1):.1f} of 100"
        )


if __name__ == "__main__":
    confusion()
