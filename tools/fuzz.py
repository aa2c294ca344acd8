"""Coverage-guided fuzzing of the readers: sheets, lab files, archives. Needs the extra `fuzz` (make fuzz installs it).

python tools/fuzz.py sheet|data|lab|network|archive [SECONDS]   exits 1 at the first input that breaks a promise, and
keeps it
"""

import io
import sys
import tarfile
import tempfile
import zipfile
from contextlib import suppress
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["zensur.core"]):
    from zensur.core.export import capture, namespaces_script
    from zensur.core.formats import (
        BadArchive,
        read_archive,
        read_configurations,
        sort_papers,
        write_configuration,
    )
    from zensur.core.lab import ExpectedPing, read_lab, starter_lab
    from zensur.core.marking.checking.lab_check import check_text
    from zensur.core.sheet import read_sheets, write_sheet
    from zensur.core.sheet.concerns import concerns, remarks_on
    from zensur.core.sim import Network, Runs, journey, row, state, written
    from zensur.demo import LABS, lab_text

ROOT = Path(__file__).parent.parent
MOST_BYTES = {"sheet": 1500, "data": 4000, "lab": 1500, "network": 6000, "archive": 4000}


SNAPSHOTS = [
    'zensur snapshot 1\n== links\n[{"ifname":"p1","flags":["UP"],"linkinfo":{"info_kind":"veth"}}]\n== addresses\n'
    '[{"ifname":"p1","addr_info":[{"local":"10.1.0.1","prefixlen":24}]}]\n'
    "== routes\n"
    '[{"dst":"default","gateway":"10.1.0.2","dev":"p1"}]\n== sysctl\nnet.ipv4.ip_forward = 1\n',
    'zensur snapshot 1\n== links\n[{"ifname":"p2"}]\n== nftables\n{"nftables":[{"chain":{"family":"ip","table":"n",'
    '"name":"c","type":"nat","hook":"postrouting","prio":100}},{"rule":{"family":"ip","table":"n","chain":"c","expr":['
    '{"match":{"op":"==","left":{"meta":{"key":"oifname"}},"right":"p2"}},{"masquerade":null}]}}]}\n',
    'zensur snapshot 1\n== links\n[{"ifname":"p2"},{"ifname":"p2.10","master":"b"},{"ifname":"b","linkinfo":'
    '{"info_kind":"bridge"}}]\n== nftables\n{"nftables":[{"map":{"family":"ip","table":"n","name":"m","elem":'
    '[["10.1.0.1",80]]}},{"chain":{"family":"ip","table":"n","name":"c","type":"nat","hook":"prerouting","prio":0}},'
    '{"rule":{"family":"ip","table":"n","chain":"c","expr":[{"vmap":{"key":{"concat":[{"meta":{"key":"iif"}}]},'
    '"data":{"set":[[{"concat":["p2"]},{"accept":null}]]}}},{"dnat":{"addr":{"map":{"key":{"payload":'
    '{"protocol":"tcp","field":"dport"}},"data":"@m"}}}}]}}]}\n',
]


def a_sheet(data: bytes) -> None:
    """Reading never raises; what is written is read as the same; every remark lies in the text."""
    for sheet in read_sheets(data, "fuzz"):
        text = write_sheet(sheet.configuration)
        (again,) = read_sheets(text)
        assert again.configuration == sheet.configuration
        assert write_sheet(again.configuration) == text
        lines = sheet.text.split("\n")
        for said in (*sheet.diagnostics, *remarks_on(sheet, concerns(sheet.configuration))):
            assert 1 <= said.line <= len(lines)
            assert 1 <= said.column <= said.end


def data_of_any_form(data: bytes) -> None:
    """JSON, XML and snapshots are read without raising; what is read can be written and read again, in every form."""
    for sheet in read_configurations(data, "fuzz"):
        lines = sheet.text.split("\n")
        for said in (*sheet.diagnostics, *remarks_on(sheet, concerns(sheet.configuration))):
            assert 1 <= said.line <= max(1, len(lines))
            assert said.column <= said.end
        for form in ("sheet", "yang-json", "yang-xml"):
            (again,) = read_configurations(write_configuration(sheet.configuration, form))
            assert len(again.configuration.items) == len(sheet.configuration.items), form


def a_lab(data: bytes) -> None:
    """A lab file is read, or refused with a reason; one that is read can be checked."""
    text = data.decode("utf-8", "replace")
    read = read_lab(text)
    assert (read.lab is None) == bool(read.errors)
    if read.lab is not None and len(read.lab.devices) < 12:
        check_text(text)


def a_network(data: bytes) -> None:
    """Whatever the topology and the sheets, pings and checks end, are told, and can be written as packets."""
    lab = read_lab(data.decode("utf-8", "replace")).lab
    if lab is None or len(lab.devices) > 12:
        return
    network = Network.of_lab(lab, lab.model)
    targets = [*lab.devices, *(written(a) for node in network.nodes for a in network.own(node))][:16]
    asked = dict(lab.expected) | {
        f"{sender} {to}": ExpectedPing("", sender, "reply", to=to) for sender in lab.devices for to in targets
    }
    runs = Runs(network, network, asked)
    for ran in runs.values():
        row(network, ran)
        journey(network, ran.result)
    state(network, runs)
    capture(network, runs.values())
    namespaces_script(network)


def an_archive(data: bytes) -> None:
    """Any bytes are an archive whose files are sorted into papers, or refused."""
    with suppress(BadArchive):
        sort_papers(read_archive(data), ["weir", "quay"], "class")


def archives() -> list[bytes]:
    """Return a zip, a tar and a tar.gz to begin with, each of two papers."""
    files = {"ana/weir.sheet": b"name weir\n", "Lüders/quay.sheet": b"name quay\n"}
    found = []
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for path, content in files.items():
            archive.writestr(path, content)
    found.append(packed.getvalue())
    for mode in ("w:", "w:gz"):
        packed = io.BytesIO()
        with tarfile.open(fileobj=packed, mode=mode, format=tarfile.PAX_FORMAT) as archive:
            for path, content in files.items():
                info = tarfile.TarInfo(path)
                info.size = len(content)
                archive.addfile(info, io.BytesIO(content))
        found.append(packed.getvalue())
    return found


def seeds(kind: str) -> list[str]:
    """Return texts to begin with."""
    labs = [starter_lab("mine", "Mine"), *map(lab_text, LABS)]
    if kind not in ("sheet", "data"):
        return labs
    read = [lab for text in labs if (lab := read_lab(text).lab) is not None]
    whole = (ROOT / "tests" / "core" / "whole.sheet").read_text("utf-8")
    if kind == "data":
        written = [
            read_sheets(whole)[0].configuration,
            *(c for lab in read for c in list(lab.model.values())[:2]),
        ]
        return [
            write_configuration(c, form) for c in written for form in ("yang-json", "yang-xml")
        ] + SNAPSHOTS
    return [whole, *(sheet.text for lab in read for sheet in (*lab.given.values(), *lab.answer.values()))]


TARGETS = {
    "sheet": a_sheet,
    "data": data_of_any_form,
    "lab": a_lab,
    "network": a_network,
    "archive": an_archive,
}


def main() -> None:
    """Fuzz for a while."""
    kind, seconds = sys.argv[1], sys.argv[2] if len(sys.argv) > 2 else "60"
    with tempfile.TemporaryDirectory() as corpus:
        texts = archives() if kind == "archive" else [text.encode() for text in seeds(kind)]
        for number, text in enumerate(texts):
            (Path(corpus) / str(number)).write_bytes(text)
        options = [
            f"-max_total_time={seconds}",
            f"-max_len={MOST_BYTES[kind]}",
            f"-artifact_prefix={kind}-",
            "-verbosity=1",
        ]
        atheris.Setup(
            [sys.argv[0], *options, corpus],
            {
                "sheet": a_sheet,
                "data": data_of_any_form,
                "lab": a_lab,
                "network": a_network,
                "archive": an_archive,
            }[kind],
        )
        atheris.Fuzz()


if __name__ == "__main__":
    main()
