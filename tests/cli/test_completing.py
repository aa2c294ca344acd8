"""Completion in the shell."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from zensur.demo import lab_text

DEVICES = ["weir", "lock", "quay", "gauge", "ledger", "crane"]


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    place = tmp_path_factory.mktemp("labs")
    (place / "rebuilding.lab.yaml").write_text(lab_text("rebuilding"), "utf-8")
    (place / "broken.lab.yaml").write_bytes(b"devices: [\xff")
    (place / "large.lab.yaml").write_text("devices: {a: 1}\n" + "#" * (1 << 20))
    (place / "other.lab.yaml").write_text("devices: 3")
    return place


@pytest.mark.parametrize(
    ("typed", "offered"),
    [
        ("p", ["ping"]),
        ("", None),
        ("ping rebuilding.lab.yaml --f", ["--from", "--fresh"]),
        ("ping rebuilding.lab.yaml --from ", DEVICES),
        ("ping rebuilding.lab.yaml --from w", ["weir"]),
        ("ping --to qu", []),  # no lab is named yet
        ("state rebuilding.lab.yaml --device l", ["lock", "ledger"]),
        ("mark rebuilding.lab.yaml --stage t", ["the-new-cut"]),
        ("export rebuilding.lab.yaml --as p", ["pcapng"]),
        ("ping none.lab.yaml --from ", []),
        ("ping broken.lab.yaml --from ", []),
        ("ping large.lab.yaml --from ", []),
        ("ping other.lab.yaml --from ", []),
    ],
)
def test_what_is_offered(folder: Path, typed: str, offered: list[str] | None) -> None:
    words = f"zensur {typed}"
    env = os.environ | {
        "_ZENSUR_COMPLETE": "bash_complete",
        "COMP_WORDS": words,
        "COMP_CWORD": str(len(words.split(" ")) - 1),
    }
    code = "import sys; from zensur.cli import main\ntry: main(prog_name='zensur')\nfinally: print(*sys.modules, file=sys.stderr)"
    ran = subprocess.run(
        [sys.executable, "-c", code], cwd=folder, env=env, check=False, capture_output=True, text=True
    )
    found = [line.partition(",")[2] for line in ran.stdout.split("\n") if line]
    assert ran.returncode == 0, ran.stderr
    assert found == offered if offered is not None else {"ping", "doctor"} <= set(found)
    assert not {"zensur.core", "flask", "scipy", "rich"} & set(ran.stderr.split())
