"""A ping followed leg by leg on the command line."""

import json

from click.testing import CliRunner

from zensur.cli import main

RING = "zensur/demo/labs/four-gates.lab.yaml"


def test_a_journey_is_told_leg_by_leg() -> None:
    told = CliRunner().invoke(main, ["journey", RING, "--from", "gauge", "--to", "bell"])
    assert told.exit_code == 0, told.output
    assert told.output.startswith(
        "gauge to bell: reply. Bell answers.\n  There:\n    1. gauge sends to its gateway"
    )
    assert "answer/weir, line 2: route 10.64.34.0/24 out s1" in told.output
    assert "  And back:\n" in told.output


def test_journeys_as_json_are_the_servers_legs() -> None:
    told = CliRunner().invoke(main, ["journey", RING, "--json"])
    found = json.loads(told.output)
    assert found["lab"] == "four-gates"
    assert len(found["journeys"]) == 12
    first = found["journeys"][0]
    assert [leg["number"] for leg in first["legs"]] == list(range(1, len(first["legs"]) + 1))
    assert first["ping"]["there"] == [leg["device"] for leg in first["legs"] if leg["way"] == "there"]
