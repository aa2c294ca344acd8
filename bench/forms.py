"""Reading a device's configuration in the standard forms, beside what parsing the same bytes alone costs.

``python -m bench.forms`` prints medians and ratios, of a router with ports of both families, routes and translations.
"""

import json
import statistics
import time
from collections.abc import Callable

from defusedxml import ElementTree

from zensur.core.formats.yang import read_yang, write_yang
from zensur.core.sheet import read_sheet


def a_router(ports: int, routes: int) -> str:
    """Return the sheet of a router of some size."""
    lines = ["name weir"]
    for n in range(ports):
        lines += [f"port p{n}", "  about to the basin", f"  address 10.64.{n}.1/24"]
        lines += [f"  address fd00:64:{n}::1/64", "  on"]
    lines += [f"route 10.65.{n}.0/24 via 10.64.1.2 out p1 about the far bank" for n in range(routes)]
    lines += ["translate from 10.64.0.0/16 to p1 shared", "translate tcp 10.64.2.80:80 as p1:8080"]
    return "\n".join(lines) + "\n"


def median(work: Callable[[], object], rounds: int = 200) -> float:
    """Return the median of some rounds, in seconds."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def told(form: str, size: int, whole: float, alone: float, parser: str) -> str:
    """Return a line of the table."""
    return f"  {form:10} {size:6} bytes  {whole * 1e3:7.2f} ms, {whole / alone:.1f} times {parser}"


def of_a_router(ports: int, routes: int) -> None:
    """Print what reading one router costs."""
    sheet = a_router(ports, routes)
    configuration = read_sheet(sheet).configuration
    print(f"a router with {ports} ports and {routes} routes, {len(configuration.items)} statements")
    own = median(lambda: read_sheet(sheet))
    print(f"  {'sheet':10} {len(sheet):6} bytes  {own * 1e3:7.2f} ms")
    as_json, as_xml = write_yang(configuration, "yang-json"), write_yang(configuration, "yang-xml")
    whole, alone = median(lambda: read_yang(as_json, "yang-json")), median(lambda: json.loads(as_json))
    print(told("JSON", len(as_json), whole, alone, "json.loads"))
    whole = median(lambda: read_yang(as_xml, "yang-xml"))
    alone = median(lambda: ElementTree.fromstring(as_xml.encode()))
    print(told("XML", len(as_xml), whole, alone, "defusedxml's parse"))


def main() -> None:
    """Print what reading costs."""
    for ports, routes in ((2, 4), (8, 20), (24, 100)):
        of_a_router(ports, routes)


if __name__ == "__main__":
    main()
