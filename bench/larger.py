"""A demo lab with more pings: every device to every other, what comes of them in the model answer being expected."""

from itertools import permutations

import yaml

from zensur.core.lab import Lab, read_lab
from zensur.core.sheet import OnPort
from zensur.core.sim import Network, Runs
from zensur.demo import lab_text


def with_pings(name: str, count: int) -> str:
    """Return the text of a lab with so many pings and checks in all."""
    document = yaml.load(lab_text(name), yaml.BaseLoader)
    more = count - len(document.get("pings", [])) - len(document.get("services", []))
    bearing = [d for d, model in _read(document).model.items() if model.everywhere(OnPort)]
    pairs = list(permutations(bearing, 2))
    chosen = pairs[:: max(1, len(pairs) // more)][:more]  # spread over all of them
    asked = [{"id": f"more-{n}", "from": a, "to": b, "expect": "no-reply"} for n, (a, b) in enumerate(chosen)]
    document["pings"] += asked
    lab = _read(document)
    network = Network.of_lab(lab, lab.model)
    runs = Runs(network, network, lab.expected)
    for ping in asked:
        ping["expect"] = runs[f"ping:{ping['id']}"].result.outcome.value
    return yaml.safe_dump(document, sort_keys=False)


def _read(document: object) -> Lab:
    read = read_lab(yaml.safe_dump(document, sort_keys=False))
    assert read.lab is not None, read.errors[0]
    return read.lab
