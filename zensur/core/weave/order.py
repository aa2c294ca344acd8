"""The order of columns: the devices that join networks by reverse Cuthill-McKee, the others beside them."""

from collections.abc import Mapping, Sequence

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import reverse_cuthill_mckee


def order_columns(devices: int, rows: Sequence[frozenset[int]]) -> list[int]:
    """Put devices in an order that keeps networks short. ``rows`` are the devices of each network.

    Devices in several networks are ordered by reverse Cuthill-McKee (E. Cuthill and J. McKee, 1969;
    A. George, 1971) on their own graph; the devices of one network stand before the joining device of
    that network, behind it where it is the last. The order of the lab breaks ties.
    """
    degree = [sum(device in row for row in rows) for device in range(devices)]
    joining = [d for d in range(devices) if degree[d] > 1]
    place = {device: n for n, device in enumerate(_along(joining, rows))}
    before: dict[int, list[int]] = {}
    after: dict[int, list[int]] = {}
    loose: list[int] = []
    for device in range(devices):
        if device in place:
            continue
        row = next((r for r in rows if device in r), frozenset())
        anchors = sorted((d for d in row if d in place), key=place.__getitem__)
        if anchors:
            # between the joining devices of its network, or outside of the only one
            anchor = anchors[1] if len(anchors) > 1 else anchors[0]
            last = len(anchors) == 1 and place[anchor] == len(place) - 1 and len(place) > 1
            (after if last else before).setdefault(anchor, []).append(device)
        else:
            loose.append(device)
    ordered: list[int] = []
    for device in sorted(place, key=place.__getitem__):
        ordered += [*before.get(device, []), device, *after.get(device, [])]
    return ordered + _by_network(loose, rows)


def _by_network(loose: list[int], rows: Sequence[frozenset[int]]) -> list[int]:
    """Keep the devices of networks that no device joins together."""
    row_of = {d: n for n, row in enumerate(rows) for d in row}
    return sorted(loose, key=lambda d: (row_of.get(d, len(rows)), d))


def _along(joining: list[int], rows: Sequence[frozenset[int]]) -> list[int]:
    number: Mapping[int, int] = {device: n for n, device in enumerate(joining)}
    if len(joining) < 2:
        return joining
    graph = np.zeros((len(joining), len(joining)), dtype=np.int8)
    for row in rows:
        inside = [number[d] for d in row if d in number]
        for a in inside:
            graph[a, inside] = 1
    found = [joining[int(n)] for n in reverse_cuthill_mckee(csr_matrix(graph), symmetric_mode=True)]
    falling = sum(a > b for i, a in enumerate(found) for b in found[i + 1 :])
    pairs = len(found) * (len(found) - 1) // 2
    return found if 2 * falling <= pairs else found[::-1]
